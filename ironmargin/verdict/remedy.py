"""The nearest remedy of a failing setup: one load left off, else one change of gear, that makes it hold."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from ironmargin.setup.loads import AirConditioner, Rotating, SoftStart
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.supplies import Generator, Parallel
from ironmargin.case import Case, prepare
from ironmargin.starting.starts import passing
from ironmargin.sustaining.steady import settled, source_amps
from ironmargin.verdict.check import Checked, examine, findings_of

PRIORITY = {"wait": 0, "want": 1, "must": 2}


@dataclass(frozen=True)
class Remedy:
    """A change, what to do in words, and the verdict and margin it leads to."""

    change: str
    what: str
    setup: Setup
    verdict: str
    iron_margin: float


def leave_off(setup: Setup, load_id: str) -> Setup:
    """The same question without one load."""
    wanted = tuple(w for w in setup.wanted if w.load != load_id)
    loads = tuple(replace(x, always_on=False) if x.id == load_id else x for x in setup.rig.loads)
    return replace(setup, wanted=wanted, rig=replace(setup.rig, loads=loads))


def with_load(setup: Setup, load_id: str, **new: Any) -> Setup:
    """The same question with some figures of one load changed."""
    loads = tuple(replace(x, **new) if x.id == load_id else x for x in setup.rig.loads)
    return replace(setup, rig=replace(setup.rig, loads=loads))


def with_engines(setup: Setup, **new: Any) -> Setup:
    """The same question with some figures of its engine sets changed."""
    supply = setup.supply
    if isinstance(supply, Generator):
        return replace(setup, supply=replace(supply, **new))
    return replace(setup, supply=replace(supply, units=tuple(replace(u, **new) for u in supply.units)))


def with_engines_scaled(setup: Setup, factor: float) -> Setup:
    """The same question with every engine set ``factor`` times as strong, on each fuel its rating is stated for."""
    def scaled(unit: Generator) -> Generator:
        by_fuel = {fuel: replace(r, continuous_w=r.continuous_w * factor, starting_w=r.starting_w * factor) for fuel, r in unit.by_fuel.items()}
        return replace(unit, continuous_w=unit.continuous_w * factor, starting_w=unit.starting_w * factor, by_fuel=by_fuel)

    supply = setup.supply
    if isinstance(supply, Generator):
        return replace(setup, supply=scaled(supply))
    return replace(setup, supply=replace(supply, units=tuple(scaled(u) for u in supply.units)))


def leave_off_order(case: Case) -> list[int]:
    """Demands in the order to give them up: what can wait first, cooling last, small before large."""

    def key(at: int) -> tuple[int, bool, float]:
        load = case.demands[at].load
        return PRIORITY[load.priority], isinstance(load, AirConditioner), sum(abs(d.va) for d in case.demands[at].steady)

    ours = {load.id for load in case.setup.rig.loads}
    return sorted((at for at, d in enumerate(case.demands) if d.load.id in ours), key=key)


def gear_changes(checked: Checked) -> Iterator[tuple[str, str, Setup]]:
    """Single changes besides leaving off, cheapest first: (change, words, changed setup)."""
    setup, case = checked.case.setup, checked.case
    if case.source.eco:
        yield "eco-off", "Switch eco (idle) mode off", with_engines(setup, eco=False)
    for demand in case.demands:
        if demand.mode in ("high-cool", "low-cool"):
            softer = "low-cool" if demand.mode == "high-cool" else "fan-low"
            wanted = [w for w in setup.wanted if w.load != demand.load.id] + [Wanted(load=demand.load.id, mode=softer)]
            yield "mode", f"Run {demand.load.name} on {softer.replace('-', ' ')}", replace(setup, wanted=tuple(wanted))
    supply = setup.supply
    if isinstance(supply, Generator | Parallel):
        engine = supply if isinstance(supply, Generator) else supply.units[0]
        if engine.fuel == "propane" and engine.ratings_for == "gasoline":
            yield "fuel", "Run it on gasoline", with_engines(setup, fuel="gasoline")
    for demand in case.demands:
        load = demand.load
        if isinstance(load, Rotating) and load.start in ("start-capacitor", "run-capacitor", "hard-start"):
            yield "soft-start", f"Fit a soft starter to {load.name}", with_load(setup, load.id, start="soft-start", soft_start=SoftStart())
    if isinstance(supply, Generator) and supply.inverter and supply.output != "120/240":
        yield "second-set", "Add a second set like it in parallel", replace(setup, supply=Parallel(units=(supply, supply)))


def _steady_ok(checked: Checked, off: frozenset[int]) -> bool:
    """Whether the settled checks pass with some demands off."""
    from ironmargin.sustaining.steady import averaged
    from ironmargin.verdict.limits import Now, path_rows, sustained, volts_rows

    kept = tuple(d for at, d in enumerate(checked.case.demands) if at not in off)
    case = replace(checked.case, demands=kept, rows=(), inrush_rows=(), starters=())
    now = Now(case, settled(case), averaged(case))
    rows = findings_of(case, [], sustained(now), path_rows(now), volts_rows(now), [], checked.result.endurance, "time-current")
    return now.state.converged and all(f.margin >= 0 for f in rows if f.check != "endurance")


def _starts(setup: Setup) -> bool:
    """Whether every start of a setup passes as it is: the quick look before a full examination."""
    case = prepare(setup)
    return not case.unserved and passing(case, [frozenset()], source_amps(case, settled(case)))[0]


def _tried(change: str, what: str, setup: Setup) -> Remedy | None:
    result = examine(setup, trials=0).result
    return Remedy(change, what, setup, result.verdict, result.iron_margin) if result.verdict != "fails" else None


def nearest_remedy(checked: Checked) -> Remedy | None:
    """The one load to leave off, or else the one change, that makes a failing setup hold; None if no single one does."""
    case = checked.case
    setup = case.setup
    served = leave_off_order(case)
    offs = [frozenset({at}) for at in served] if len(served) > 1 and not case.unserved else []
    starting_ok = passing(case, offs, source_amps(case, settled(case))) if offs else []
    for off, starts_ok in zip(offs, starting_ok, strict=True):
        load = case.demands[next(iter(off))].load
        if not starts_ok or not _steady_ok(checked, off) or load.id == checked.result.weakest.where:
            continue
        found = _tried("leave-off", f"Leave {load.name} off", leave_off(setup, load.id))
        if found:
            return found
    if case.unserved:
        names = [load for load, _ in case.unserved]
        bare = setup
        for load in names:
            bare = leave_off(bare, load.id)
        if bare.wanted or any(x.always_on for x in bare.rig.loads):
            return _tried("leave-off", "Leave " + " and ".join(x.name for x in names) + " off", bare)
        return None
    for change, what, changed in gear_changes(checked):
        found = _tried(change, what, changed) if _starts(changed) else None
        if found:
            return found
    for at in served:
        load = case.demands[at].load
        if load.id == checked.result.weakest.where and len(case.demands) > 1:
            return _tried("leave-off", f"Leave {load.name} off", leave_off(setup, load.id))
    return None
