"""What a setup is, in words that a step list asks for, and the figures its steps name."""

from __future__ import annotations

from collections.abc import Iterable

from ironmargin.case import Case
from ironmargin.document import Document
from ironmargin.electrics.services import HIGH_V
from ironmargin.limits.bonding import BONDED, FLOATING
from ironmargin.limits.service_volts import volt_limits
from ironmargin.limits.start_reserve import red_seconds
from ironmargin.listed import listed
from ironmargin.planning.order import sequence_of
from ironmargin.planning.together import Together
from ironmargin.record import record
from ironmargin.setup.hookup import Transfer, Transformer
from ironmargin.setup.loads import AirConditioner, Load, Resistive, Rotating
from ironmargin.setup.model import Setup
from ironmargin.supplies.kinds.post import thevenin
from ironmargin.verdict.check import Checked, examine

READING_SHARE = 0.15
"""A reading is as expected within so much of what was computed: plates and hand-held meters are no
better (common practice).
"""
SERVICE_LOW, SERVICE_HIGH = 110.0 / 120.0, 127.0 / 120.0
"""Volts at a post over nominal (ANSI C84.1 range B, service; from memory)."""
EN_LOW, EN_HIGH = 0.9, 1.1
"""EN 50160: 230 V, ten per cent either way (from memory)."""
SAFE_V = 1.0
"""A capacitor is discharged when a meter reads less across it [V] (common practice)."""


@record
class StartFacts:
    """One start to make by hand: what it will show; ``red_s`` how long a set's lamp is red [s]."""

    ident: str
    name: str
    outcome: str
    peak_a: float
    lowest_v: float
    settled_a: float
    settled_v: float
    margin: float
    delay_s: float
    cools: bool
    red_s: float = 0.0


@record
class Facts:
    """What holds for a setup (``is_``) and its figures, for a step's text."""

    is_: frozenset[str]
    figures: Document
    starts: tuple[StartFacts, ...]
    checked: Checked


GASES = ("propane", "natural_gas")
HEATS_W = 600.0
"""From so many watts on a resistive load counts as a heater."""


def _heats(load: Load) -> bool:
    return isinstance(load, Resistive) and (load.watts or 0.0) >= HEATS_W


def _kinds(setup: Setup, case: Case) -> Iterable[str]:
    supply = setup.supply
    units = supply.engines
    hook = {item.kind for item in setup.hookup}
    if units:
        yield "engine"
        yield from {f"fuel-{u.fuel}" for u in units}
        if any(u.fuel in GASES for u in units):
            yield "gas"
        if any(u.by_fuel or u.fuel != u.ratings_for for u in units):
            yield "two-fuels"
        yield "inverter-set" if all(u.inverter for u in units) else "conventional-set"
        if any(u.eco for u in units):
            yield "eco"
        if any(u.inverter for u in units):
            yield "may-eco"
    if len(supply.carrying) > 1:
        yield "pair"
    if supply.carrying:
        yield "carries"
    yield from _neutral(setup, case)
    if case.source.nominal_v > HIGH_V:
        yield "230"
    if supply.post is not None:
        yield "shore"
        if supply.post.miswired:
            yield "miswired"
        if supply.post.breaker_at:
            yield "breaker-at"
        if supply.post.voltage_v > HIGH_V:
            yield "post-230"
    if supply.battery is not None:
        yield "battery"
        if supply.battery.type == "vehicle":
            yield "vehicle"
    if supply.limit_set_a is not None:
        yield "assist"
    if "transfer" in hook:
        yield "house"
    for kind in ("guard", "adapter", "splitter", "transformer", "cord", "inlet"):
        if kind in hook:
            yield kind
    if any(getattr(i, "feeds", None) == "both-legs" for i in setup.hookup):
        yield "reducer"
    if any(i.condition != "good" for i in setup.hookup):
        yield "worn"
    if setup.rig.service == "120/240":
        yield "split-rig"
    if any(getattr(u, "output", "") == "120/240" for u in units):
        yield "selector"
    loads = setup.rig.loads
    wanted = {w.load for w in setup.wanted}
    if any(isinstance(x, AirConditioner) and x.id in wanted for x in loads):
        yield "cooling"
    if any(isinstance(x, Rotating) and x.start_gear != "inverter-drive" for x in loads):
        yield "compressor"
    if any(isinstance(x, AirConditioner) for x in loads):
        yield "rooftop"
    if any(getattr(x, "start", "") == "soft-start" for x in loads):
        yield "soft"
    if any(x.kind == "charger" for x in loads):
        yield "charger"
    if any(x.kind == "charger" and (x.id in wanted or x.always_on) for x in loads):
        yield "charger-wanted"
    if any(x.on_gas for x in loads):
        yield "on-gas"
    if any(x.id in wanted and _heats(x) for x in loads):
        yield "heater"
    if any(b.where == "main" for b, _ in case.breakers):
        yield "main"


def _neutral(setup: Setup, case: Case) -> Iterable[str]:
    """How the supply, a transformer and the transfer gear treat the neutral."""
    stated = case.source.neutral
    yield stated if stated in (FLOATING, BONDED) else "neutral-unknown"
    if setup.supply.post is None:
        yield "own-source"
    for item in setup.hookup:
        if isinstance(item, Transformer):
            isolating = item.type == "isolation"
            if isolating:
                yield "isolating"
            if (item.neutral or ("derived" if isolating else "")) == "derived":
                yield "derived"
        if isinstance(item, Transfer) and item.switched_neutral:
            yield "switched-neutral"


def facts_of(setup: Setup, checked: Checked | None = None) -> Facts:
    """The facts of a setup, from one check of it: its own, where it was checked before.

    Args:
        setup: supply, path, rig and rules of the question.
        checked: its check, where it was made before.

    Returns:
        What holds of it, for the lists of steps.
    """
    checked = checked or examine(setup, quick=True)
    case, now = checked.case, checked.now
    nominal = case.source.nominal_v
    low, high = (EN_LOW, EN_HIGH) if nominal > HIGH_V else (SERVICE_LOW, SERVICE_HIGH)
    supply = setup.supply
    legs = [row.v for row in checked.result.volts if row.where in ("L1", "L2")]
    loaded = min(legs, default=nominal)
    figures: Document = {
        "nominal_v": nominal,
        "low_v": low * nominal,
        "high_v": high * nominal,
        "open_v": thevenin(supply.post)[0] if supply.post is not None else case.source.leg_v,
        "loaded_v": loaded,
        "min_v": volt_limits(nominal)[0],
        "supply": supply.words,
        "rig": setup.rig.name,
        "source": supply.post.words if supply.post is not None else supply.words,
        "post_a": supply.post.breaker_a if supply.post is not None else 0.0,
        "breaker_at": supply.post.breaker_at if supply.post is not None else "",
        "tester": (getattr(supply.post, "tester", None) or "").replace("-", " "),
        "delay_s": case.feed.guard.delay_s if case.feed.guard else 0.0,
        "guard_low_v": case.feed.guard.low_v if case.feed.guard else 0.0,
        "running_a": max(float(a) for a in now.amps),
        "input_a": supply.limit_set_a or 0.0,
        "feeding": supply.feeding.words,
        "inverter_w": supply.battery.continuous_w if supply.battery is not None else 0.0,
        "fuel": (supply.engines[0].fuel.replace("_", " ") if supply.engines else ""),
        "chargers": _named(setup, "charger"),
        "on_gas": listed([x.name for x in setup.rig.loads if x.on_gas]),
        "heaters": ", ".join(x.name for x in setup.rig.loads if _heats(x)),
        "worn": ", ".join(
            (i.name or i.kind.replace("-", " ")) for i in setup.hookup if i.condition != "good"
        ),
        "hours": setup.conditions.target_hours or 0.0,
        "unit": next(
            (x.name for x in setup.rig.loads if isinstance(x, AirConditioner)),
            next((x.name for x in setup.rig.loads if isinstance(x, Rotating)), ""),
        ),
    }
    sequence = sequence_of(Together.of(setup))
    turns = {step.load: at for at, step in enumerate(sequence.steps)}
    expected = {step.load: (step.expect_a, step.expect_v) for step in sequence.steps}
    starts = sorted(
        checked.starts,
        key=lambda s: (turns.get(case.demands[s.starters[0].demand].load.id, 0), -s.wanted_a),
    )
    started = {case.demands[s.starters[0].demand].load.id for s in starts}
    others = [
        x.name for x in sequence.steps if x.load not in started and x.load not in _chargers(setup)
    ]
    figures["others"] = listed(others)
    found = []
    for start in starts:
        demand = case.demands[start.starters[0].demand]
        if start.starters[0].row is None or demand.load.id not in {x.id for x in setup.rig.loads}:
            continue
        row = next(r for r in checked.result.starts if r.load == demand.load.id)
        settled_a, settled_v = expected.get(demand.load.id, (row.settled_a, row.settled_v))
        found.append(
            StartFacts(
                demand.load.id,
                demand.load.name,
                start.outcome,
                start.peak_a,
                start.lowest_v,
                settled_a,
                settled_v,
                start.margin,
                getattr(demand.load, "compressor_delay_s", 0.0),
                isinstance(demand.load, AirConditioner),
                red_seconds(case, start),
            )
        )
    kinds = {*_kinds(setup, case), *(["others"] if others else [])}
    return Facts(frozenset(kinds), figures, tuple(found), checked)


def _chargers(setup: Setup) -> set[str]:
    return {x.id for x in setup.rig.loads if x.kind == "charger"}


def _named(setup: Setup, kind: str) -> str:
    return ", ".join(x.name for x in setup.rig.loads if x.kind == kind)
