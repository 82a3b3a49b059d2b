"""The result of a check: frozen rows, and its JSON form."""

from __future__ import annotations

import dataclasses
import math
from dataclasses import fields, is_dataclass
from functools import cache
from typing import TypeAlias

from ironmargin.document import Document
from ironmargin.enduring.found import Endurance
from ironmargin.limits.bonding import Bonding
from ironmargin.per_cent import PLACES
from ironmargin.record import record

Json: TypeAlias = object
"""A value as JSON has it."""
RESULT_FORMAT = "iron-margin/result"


@record
class Sustained:
    """Settled amps against a limit, at one place. ``margin`` = 1 − amps/limit [1]."""

    where: str
    name: str
    amps: float
    limit_a: float
    margin: float
    note: str = ""
    early_a: float | None = None


@record
class PathRow:
    """A part of the path: what it carries, its rating, and whether no breaker before it protects
    it.
    """

    item: int
    name: str
    kind: str
    amps: float
    rating_a: float
    margin: float
    unprotected: bool
    volts_drop: float
    contact_w: float = 0.0
    early_a: float | None = None
    set_by: str = ""


@record
class BreakerRow:
    """A breaker against the starts and the settled amps; hold times are absent where it holds for
    good.
    """

    where: str
    name: str
    rating_a: float
    standard: str
    amps: float
    start_trips: str
    warm_amps: float
    hold_s_early: float | None = None
    hold_s_nominal: float | None = None
    hold_s_late: float | None = None
    trips: str = "on-curve"


@record
class StartRow:
    """One start, in the words of the result format.

    ``chance`` over rigs and days, with the interval of the estimate; ``chance_rig_*`` what this one
    rig does, for ninety rigs of a hundred like it; ``chance_known_*`` the same once
    ``chance_decided_by`` is measured. ``gives_first`` is the part, ``supply`` or ``path``, that had
    to change least for the outcome to change. ``drops_out`` names loads that are off at the end or
    come and go, ``resets`` those that were off for a moment.
    """

    load: str
    name: str
    mode: str | None
    outcome: str
    wanted_a: float
    peak_a: float
    lowest_v: float
    settled_a: float
    settled_v: float
    margin: float
    with_running: tuple[str, ...]
    seconds: float | None = None
    opened_s: float | None = None
    chance: float | None = None
    chance_low: float | None = None
    chance_high: float | None = None
    chance_rig_low: float | None = None
    chance_rig_high: float | None = None
    chance_decided_by: str | None = None
    chance_known_low: float | None = None
    chance_known_high: float | None = None
    gives_first: str = "supply"
    lockout_share: float | None = None
    drops_out: tuple[str, ...] = ()
    resets: tuple[str, ...] = ()
    islands: tuple[float, ...] = ()
    restart_within_3_min: str | None = None
    straight_to_high: str | None = None
    per_night: float | None = None
    night_starts: float | None = None
    night_fails: float | None = None


@record
class LegRow:
    """A leg or the neutral: settled amps, the limit it has, volts."""

    a: float
    limit_a: float | None
    v: float | None
    lost_neutral_v: float | None = None


@record
class VoltsRow:
    """Settled volts at one place against the range they may have. ``margin`` = share of the allowed
    drop left [1].
    """

    where: str
    v: float
    low_v: float
    nominal_v: float
    margin: float


@record
class ServiceRow:
    """A wanted load the service cannot feed at all."""

    load: str
    name: str
    problem: str


@record
class DropoutRow:
    """A wanted load that lets go at the settled volts: it is offered ``v`` and holds on down to
    ``dropout_v`` [V].
    """

    load: str
    name: str
    v: float
    dropout_v: float
    margin: float


@record
class LimitRow:
    """One limit of the ledger at one place: its value, the limit here and at the early edge of its
    band, its margins, what happens beyond it and where it comes from.
    """

    limit: str
    check: str
    where: str
    name: str
    limits: str
    value: float
    allowed: float
    unit: str
    margin: float
    verdict: str
    consequence: str
    source: str
    early: float | None = None
    early_margin: float | None = None


@record
class Derate:
    """A link of an engine's derating chain: the factor, and the watts that are left [W]; the figure
    of the place that makes it, with its unit.
    """

    key: str
    label: str
    factor: float
    continuous_w: float
    starting_w: float
    source: str
    value: float | None = None
    unit: str = ""


@record
class Solver:
    """How the settled network was solved: whether it converged, why not, and in how many passes."""

    converged: bool
    reason: str
    passes: int


@record
class Why:
    """One reason of a verdict: which check at which place makes it ``fails`` or ``thin``, and by
    which rule.
    """

    verdict: str
    check: str
    where: str
    sentence: str


@record
class Weakest:
    """The weakest link and the sentence that says it; ``decides`` are the loads whose going helps
    it most, first the most.
    """

    check: str
    where: str
    sentence: str
    remedy: str = ""
    remedy_margin: float | None = None
    decides: tuple[str, ...] = ()


@record
class Assumed:
    """An input the result rests on that nobody measured."""

    field: str
    value: float
    provenance: str = dataclasses.field(metadata={"key": "from"})


@record
class Result:
    """Everything a check found. Lists are lists even for one."""

    verdict: str
    iron_margin: float
    weakest: Weakest
    starts: tuple[StartRow, ...]
    legs: dict[str, LegRow]
    sustain: tuple[Sustained, ...]
    path: tuple[PathRow, ...]
    breakers: tuple[BreakerRow, ...]
    volts: tuple[VoltsRow, ...]
    service: tuple[ServiceRow, ...]
    dropped_out: tuple[DropoutRow, ...]
    limits: tuple[LimitRow, ...]
    why: tuple[Why, ...]
    endurance: Endurance
    schools: dict[str, str]
    cautions: tuple[str, ...]
    assumed: tuple[Assumed, ...]
    derate: tuple[Derate, ...]
    bonding: Bonding
    solver: Solver
    coincidence: StartRow | None = None
    rule_alone: bool = False
    """It fails by a rule alone: everything starts and runs."""
    tonight: str = ""
    """The night in one sentence."""


@cache
def _named(kind: type) -> tuple[tuple[str, str], ...]:
    """Fields of a record with the names the format has for them; none of what is no record."""
    if not is_dataclass(kind):
        return ()
    return tuple((item.name, item.metadata.get("key", item.name)) for item in fields(kind))


def plain(value: object) -> Json:
    """A value of a result as JSON has it: figures to four places, what does not apply left out.

    Args:
        value: a record, a table, a list or a figure.

    Returns:
        What JSON can hold.
    """
    if isinstance(value, float):
        return round(value, PLACES)
    kind: type = type(value)
    if named := _named(kind):
        out: Document = {}
        for name, key in named:
            held = getattr(value, name)
            if held is None or (isinstance(held, float) and not math.isfinite(held)):
                continue
            out[key] = plain(held)
        return out
    if isinstance(value, dict):
        return {
            k: plain(v)
            for k, v in value.items()
            if not (isinstance(v, float) and not math.isfinite(v))
        }
    if isinstance(value, (list, tuple)):
        return [plain(v) for v in value]
    return value


def result_json(result: Result) -> Document:
    """The JSON object of a result; figures rounded to six places, what does not apply left out.

    Args:
        result: the result.

    Returns:
        The JSON object.
    """
    body = plain(result)
    assert isinstance(body, dict)
    return {"format": RESULT_FORMAT, "version": 1} | body
