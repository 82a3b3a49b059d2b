"""The core for other programs: eight calls, each on plain JSON as the open formats have it.

>>> from ironmargin import api
>>> setup = api.read_setup(api.EXAMPLE)
>>> result = api.check(setup)
>>> result.verdict
'holds'

Every call raises :class:`ironmargin.errors.SetupError` for input that cannot be, with a fault for
each thing wrong: its path, a stable code, and a message that says what to do. An estimate, not an
approval: local codes and licensed practice come first.
"""

from __future__ import annotations

from ironmargin.bench.clock import Bench
from ironmargin.bench.play import run_script
from ironmargin.bench.script import read_script
from ironmargin.case import prepare
from ironmargin.document import Document
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.found import Lasting
from ironmargin.learning.learn import Found
from ironmargin.learning.learn import learn as _learn
from ironmargin.learning.log import read_log
from ironmargin.planning.answer import check as _check
from ironmargin.planning.order import Order, running_order
from ironmargin.planning.remedies import Remedies, find_remedies
from ironmargin.reaching.axes import read_axis
from ironmargin.reaching.reach import Reach
from ironmargin.reaching.reach import reach as _reach
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import load_setup, read_setup, write_setup
from ironmargin.verdict.result import Result

EXAMPLE: Document = {
    "format": "iron-margin/setup",
    "version": 1,
    "name": "a roof unit on a small generator",
    "supply": {
        "kind": "generator",
        "continuous_w": 3000,
        "starting_w": 3800,
        "fuel": "gasoline",
        "tank_l": 12.0,
    },
    "hookup": [{"kind": "cord", "awg": 10, "length_m": 8, "rating_a": 30}],
    "rig": {
        "name": "trailer",
        "service": "120",
        "main_a": 30,
        "loads": [
            {
                "id": "roof",
                "name": "Roof unit",
                "kind": "air-conditioner",
                "running_a": 11.0,
                "lra_a": 55,
                "start": "soft-start",
            },
            {"id": "kettle", "name": "Kettle", "kind": "resistive", "watts": 1200},
        ],
    },
    "wanted": [{"load": "roof"}],
    "conditions": {"outdoor_c": 30, "target_hours": 6},
    "rules": {"seed": 1},
}
"""A whole question, for trying things out."""

__all__ = [
    "EXAMPLE", "bench", "check", "endure", "learn", "load_setup", "order", "reach", "read_setup",
    "remedies", "write_setup",
]  # fmt: skip


def check(setup: Setup) -> Result:
    """Whether the supply starts and sustains what is wanted, how much is left, what gives first.

    >>> result = check(read_setup(EXAMPLE))
    >>> result.verdict, result.weakest.where
    ('holds', 'main')
    >>> 0.0 < result.iron_margin < 1.0
    True

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Verdict, margins [1], starts, legs, path and cautions.
    """
    return _check(setup)


def remedies(setup: Setup) -> Remedies:
    """What would make it hold, or hold better, cheapest and least trouble first.

    >>> wanting = EXAMPLE | {"wanted": [{"load": "roof"}, {"load": "kettle"}]}
    >>> found = remedies(read_setup(wanting))
    >>> found.found[0].verdict
    'holds'

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Each with what it gains [1], what it costs and what is given up.
    """
    return find_remedies(setup)


def order(setup: Setup) -> Order:
    """What may run together, and in which order to start it.

    >>> found = order(read_setup(EXAMPLE))
    >>> sorted({step.load for step in found.sequence.steps})
    ['roof']

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The sets that may run, the sequence with its waits, what never runs together.
    """
    return running_order(setup)


def endure(setup: Setup) -> Lasting:
    """How long fuel or battery last, what an hour costs, how loud it is.

    >>> hours = endure(read_setup(EXAMPLE)).endurance.fuel_h
    >>> 6.0 < hours < 24.0
    True

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Hours [h], money an hour, level at places [dBA].
    """
    return lasting(prepare(setup))


def learn(setup: Setup, log: Document) -> Found:
    """What a log of readings tells of the setup, and the setup with the figures it corrects.

    >>> entry = {"kind": "run", "load": "kettle", "watts": 1230, "instrument": "watt-meter"}
    >>> found = learn(read_setup(EXAMPLE), {"entries": [entry]})
    >>> found.entries[0].judged
    'agrees'

    Args:
        setup: supply, path, rig and rules of the question.
        log: the open format's object.

    Returns:
        Figures with their before and after, every entry judged, the setup corrected.

    Raises:
        SetupError: the log has faults; all of them are named.
    """
    return _learn(setup, read_log(log, setup))


def reach(setup: Setup, x: str, y: str) -> Reach:
    """The margin over two figures of the setup, each as ``field=low:high:count``.

    >>> found = reach(read_setup(EXAMPLE), "outdoor_c=20:40:3", "altitude_m=0:2000:2")
    >>> [len(row) for row in found.points]
    [3, 3]

    Args:
        setup: supply, path, rig and rules of the question.
        x: of the columns.
        y: of the rows.

    Returns:
        Verdict, margin [1] and what gives first, row by row.

    Raises:
        SetupError: an axis that the setup does not have, or that cannot be read.
    """
    return _reach(setup, read_axis(x, setup), read_axis(y, setup))


def bench(setup: Setup, script: Document) -> Bench:
    """The rig in time: what happens when a script is done to it.

    >>> steps = [{"at_s": 0, "do": "set", "on": True},
    ...          {"at_s": 5, "do": "load", "what": "roof", "on": True}]
    >>> script = {"format": "iron-margin/script", "version": 1, "hours": 0.1, "steps": steps}
    >>> [event.kind for event in bench(read_setup(EXAMPLE), script).events][:2]
    ['started', 'started']

    Args:
        setup: supply, path, rig and rules of the question.
        script: the open format's object.

    Returns:
        Events, and volts [V], amps [A] and heats over time.

    Raises:
        SetupError: the script has faults; all of them are named.
    """
    return run_script(setup, read_script(script, setup))
