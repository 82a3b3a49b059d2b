"""What may be varied: any numeric field of a setup by its path, and a few figures with names of
their own.

An axis is written ``field=low:high:count``. A named figure stands for what people ask about; each
is one row of :data:`NAMED`.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ironmargin.document import Document
from ironmargin.electrics.services import SERVICE_120, nominal_of
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.hookup import Cord
from ironmargin.setup.loads import Electronic
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.rules import check_rules

MAX_POINTS = 40_000
BASE_LOAD = "base-load"
STEP = re.compile(r"([a-z_]+)(?:\[(\d+)\])?")
PATH = re.compile(r"[a-z_]+(\[\d{1,3}\])?(\.[a-z_]+(\[\d{1,3}\])?)*\Z")
USUAL_POINTS = 21
"""Points of an axis of which nobody said how many."""


@record
class Axis:
    """A figure and the values it is given.

    Attributes:
        field: its name or path.
        values: in its own unit.
    """

    field: str
    values: tuple[float, ...]


@record
class Named:
    """A figure with a name: its range, how exactly it is asked for, how a setup has it and is given
    it.

    ``read`` is None where a setup has no such figure; ``unit`` is for words; ``step`` how exactly a
    limit of it is found.
    """

    low: float
    high: float
    step: float
    unit: str
    read: Callable[[Setup], float | None]
    put: Callable[[Setup, float], Setup]


def _conditions(
    name: str,
) -> tuple[Callable[[Setup], float | None], Callable[[Setup, float], Setup]]:
    def read(setup: Setup) -> float | None:
        return float(getattr(setup.conditions, name))

    def put(setup: Setup, value: float) -> Setup:
        return replace(setup, conditions=replace(setup.conditions, **{name: value}))

    return read, put


def _with_base_load(setup: Setup, watts: float) -> Setup:
    """The same with so many watts of electronics more, on L1, always on."""
    loads = tuple(x for x in setup.rig.loads if x.id != BASE_LOAD)
    wanted = tuple(w for w in setup.wanted if w.load != BASE_LOAD)
    if watts >= 1.0:
        volts = nominal_of(setup.rig.service)
        more = Electronic(id=BASE_LOAD, name="Base load", watts=watts, voltage_v=volts, leg="L1")
        loads, wanted = (*loads, more), (*wanted, Wanted(load=BASE_LOAD))
    return replace(setup, rig=replace(setup.rig, loads=loads), wanted=wanted)


def scaled_supply(setup: Setup, factor: float) -> Setup:
    """The same with a supply ``factor`` times as strong: ratings, post breaker and impedance.

    Args:
        setup: supply, path, rig and rules of the question.
        factor: over what it is [1].

    Returns:
        The setup.
    """
    return replace(setup, supply=setup.supply.scaled(factor))


def _longest_cord(setup: Setup) -> tuple[int, Cord] | None:
    cords = [(at, x) for at, x in enumerate(setup.hookup) if isinstance(x, Cord)]
    return max(cords, key=lambda one: (one[1].length_m, one[0]), default=None)


def _cord_m(setup: Setup) -> float | None:
    found = _longest_cord(setup)
    return None if found is None else found[1].length_m


def _with_cord_m(setup: Setup, length_m: float) -> Setup:
    found = _longest_cord(setup)
    if found is None:
        raise SetupError([Fault("cord_m", "no-cord", "needs a cord in the path (got none)")])
    at, longer = found[0], replace(found[1], length_m=length_m)
    return replace(setup, hookup=(*setup.hookup[:at], longer, *setup.hookup[at + 1 :]))


def _shore_v(setup: Setup) -> float | None:
    post = setup.supply.post
    return post.voltage_v if post is not None and not post.readings else None


def _with_shore_v(setup: Setup, volts: float) -> Setup:
    post = setup.supply.post
    if post is None or post.readings:
        raise SetupError([Fault("shore_v", "no-post", "needs a post without readings (got none)")])
    return replace(setup, supply=setup.supply.with_post(lambda p: replace(p, voltage_v=volts)))


NAMED: dict[str, Named] = {
    "outdoor_c": Named(-40.0, 60.0, 0.5, "°C", *_conditions("outdoor_c")),
    "altitude_m": Named(-400.0, 6000.0, 25.0, "m", *_conditions("altitude_m")),
    "base_load_w": Named(0.0, 20_000.0, 10.0, "W", lambda s: 0.0, _with_base_load),
    "supply_strength": Named(0.1, 6.0, 0.01, "times", lambda s: 1.0, scaled_supply),
    "cord_m": Named(0.5, 500.0, 0.5, "m", _cord_m, _with_cord_m),
    "shore_v": Named(90.0, 140.0, 0.5, "V", _shore_v, _with_shore_v),
}
"""One row a figure with a name."""


def span_of(setup: Setup, field: str) -> tuple[float, float]:
    """From where to where a figure of a setup is looked at; a post's volts go with its service.

    Args:
        setup: supply, path, rig and rules of the question.
        field: the figure.

    Returns:
        Lowest and highest, in the figure's unit.
    """
    named = NAMED[field]
    factor = nominal_of(setup.rig.service) / nominal_of(SERVICE_120) if field == "shore_v" else 1.0
    return named.low * factor, named.high * factor


def put(setup: Setup, field: str, value: float) -> Setup:
    """The setup with one figure changed.

    Args:
        setup: supply, path, rig and rules of the question.
        field: path of a number in the setup format.
        value: in the field's unit.

    Returns:
        The changed setup.

    Raises:
        SetupError: there is no such figure, or the value breaks a rule.
    """
    if field in NAMED:
        changed = NAMED[field].put(setup, value)
        faults = check_rules(changed)
        if faults:
            raise SetupError(faults)
        return changed
    document = copy.deepcopy(write_setup(setup))
    _put_at(document, field, value)
    return read_setup(document)


def _put_at(document: Document | None, field: str, value: float) -> None:
    steps = STEP.findall(field) if PATH.match(field) else []
    nowhere = SetupError([Fault(field, "no-field", "must be the path of a number of the setup")])
    if not steps:
        raise nowhere
    for name, number in steps[:-1]:
        document = document.setdefault(name, {}) if isinstance(document, dict) else None
        if number:
            held = document if isinstance(document, list) else []
            document = held[int(number)] if int(number) < len(held) else None
        if document is None:
            raise nowhere
    name, number = steps[-1]
    if not isinstance(document, dict) or number:
        raise nowhere
    was = document.get(name)
    if was is not None and (isinstance(was, bool) or not isinstance(was, int | float)):
        raise SetupError([Fault(field, "number", f"must be a number to be an axis (got {was!r})")])
    document[name] = value


def _must_exist(setup: Setup, field: str, value: float) -> None:
    """Raise where a path leads to no number of a setup; a value that breaks a rule is no matter."""
    document = copy.deepcopy(write_setup(setup))
    _put_at(document, field, value)
    try:
        read_setup(document)
    except SetupError as error:
        if any(
            f.code in ("unknown-field", "number", "text", "choice", "flag") for f in error.faults
        ):
            rule = "must be the path of a number of the setup"
            raise SetupError([Fault(field, "no-field", rule)]) from None


def read_axis(words: str, setup: Setup) -> Axis:
    """An axis as it is typed: ``field=low:high:count``.

    Args:
        words: as typed.
        setup: supply, path, rig and rules of the question.

    Returns:
        The axis.

    Raises:
        SetupError: it is none, runs backwards, has too many points, or the field is no number.
    """
    field, _, span = words.partition("=")
    parts = span.split(":")
    try:
        low, high = float(parts[0]), float(parts[1])
        count = int(parts[2]) if len(parts) > 2 else USUAL_POINTS
    except (ValueError, IndexError):
        example = "must read field=low:high:count, as outdoor_c=0:50:21"
        raise SetupError([Fault(words[:60], "axis", f"{example} (got {words[:60]!r})")]) from None
    if not (np.isfinite(low) and np.isfinite(high)) or high <= low:
        raise SetupError([Fault(field, "range", f"must run upwards (got {low:g} to {high:g})")])
    if not 2 <= count <= MAX_POINTS:
        rule = f"must have 2 to {MAX_POINTS:,} points; each is a check of some milliseconds"
        raise SetupError([Fault(field, "points", f"{rule} (got {count:,})")])
    if field not in NAMED:
        _must_exist(setup, field, low)
    elif NAMED[field].read(setup) is None:
        NAMED[field].put(setup, low)
    return Axis(field, tuple(float(x) for x in np.linspace(low, high, count)))
