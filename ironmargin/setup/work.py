"""How much a check of a setup has to compute, before anything is computed."""

from __future__ import annotations

from ironmargin.setup.loads import Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import most_ways, running_loads

MAX_WORK = 12_000_000
"""Ten to thirty seconds of one core (measured: one to three microseconds each, by the machine)."""
MIN_SIZE = 20
"""What a run of the engine costs with next to nothing in it, counted in loads."""
RESERVE_RUNS, LINE_RUNS = 100, 12
"""Runs of the engine for the reserves of a start, and for a line of its chance (measured)."""
MIN_LINES, TRIALS_A_LINE, UNCERTAIN = 16, 32, 7
"""Lines of a chance at least, plain trials one stands for, and uncertain figures beside the motors'
own: :mod:`ironmargin.starting.chance` draws them."""


def size_of(setup: Setup) -> int:
    """How much one run of the start engine looks at: what runs, motors twice.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        A count.
    """
    units = sum(x.count for x in _motors_on(setup))
    return MIN_SIZE + len(list(running_loads(setup))) + 2 * units + len(setup.hookup)


def work_of(setup: Setup, *, chances: bool = True) -> int:
    """How much a check of it has to compute: runs of the start engine, times what each run looks
    at.

    For every kind of motor, and for all at once, the reserves take some hundred runs and each line
    of its chance some three, four times over where they tell little; there are no fewer lines than
    uncertain figures. A quick check has no ``chances``. Every way that lockouts leave is checked.

    Args:
        setup: supply, path, rig and rules of the question.
        chances: whether chances are asked for.

    Returns:
        A count.
    """
    motors = _motors_on(setup)
    units, trials = sum(x.count for x in motors), setup.rules.trials if chances else 0
    lines = max(MIN_LINES, trials // TRIALS_A_LINE, units + UNCERTAIN) if trials else 0
    return (
        (len(motors) + 1) * (RESERVE_RUNS + LINE_RUNS * lines) * size_of(setup) * most_ways(setup)
    )


def _motors_on(setup: Setup) -> list[Rotating]:
    """What runs and starts with its locked-rotor amps."""
    even = ("inverter-drive", "universal")
    return [x for x in running_loads(setup) if isinstance(x, Rotating) and x.start_gear not in even]
