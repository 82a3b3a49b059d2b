"""The single changes a person could make to a setup, each with what it costs and how much trouble
it is.

A change is a function from a setup to a changed setup, or to None where it does not apply: so that
two can follow each other. Sizes offered are the generic ones of the shipped tables.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from typing import Any

from ironmargin.case import Case
from ironmargin.loads.demand import L1, L2, leg_of
from ironmargin.record import record
from ironmargin.setup.changed import leave_off, together_with, with_engines, with_load
from ironmargin.setup.hookup import (
    Adapter,
    Cord,
    HookupItem,
    InlineSoftStart,
    Outlet,
    Splitter,
    Transformer,
)
from ironmargin.setup.loads import AirConditioner, AnyLoad, Rotating, SoftStart
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.supplies import AnySupply, Assist, BatteryInverter, Generator, Parallel, Shore
from ironmargin.tables import rows
from ironmargin.verdict.sentences import listed

FREE, PART, BUY = "free", "part", "buy"
COSTS = (FREE, PART, BUY)
TROUBLE = {"wait": 0, "want": 1, "must": 3}
"""Trouble of doing without a load, by its priority."""
CORD_AWG = (14, 12, 10, 8, 6, 4)
MOST_THICKER = 3
SHORTER = (2, 4)
CORD_RATING_A = {12: 20.0, 10: 30.0, 8: 40.0, 6: 50.0, 4: 60.0}
POSTS_A = (15.0, 20.0, 30.0)
TRANSFORMERS_VA = (1000.0, 2000.0, 3000.0, 5000.0, 7500.0, 10000.0)
MOST_SETS = 3
HOUSE_BATTERY: dict[str, Any] = {
    "continuous_w": 3000.0,
    "surge_w": 6000.0,
    "surge_s": 2.0,
    "battery_wh": 5000.0,
}
"""A common inverter/charger and battery of a rig (common practice)."""

Apply = Callable[[Setup], Setup | None]


@record
class Change:
    """One thing to do.

    Attributes:
        kind: the stable word of the open format; what: in words, as an instruction.
        cost: ``free``, ``part`` or ``buy``; effort: trouble beside the cost, 0 little to 5 much.
        about: what it changes; two changes about the same thing are not paired.
        apply: the changed setup, or None where it does not apply.
    """

    kind: str
    what: str
    cost: str
    effort: int
    about: str
    apply: Apply


def changes_of(setup: Setup, case: Case) -> Iterator[Change]:
    """Every single change worth trying, cheapest kinds first."""
    for maker in (
        _leaving_off,
        _modes,
        _legs,
        _running_the_set,
        _start_gear,
        _cords,
        _posts,
        _sets,
        _additions,
    ):
        yield from maker(setup, case)


def _running(setup: Setup) -> list[AnyLoad]:
    wanted = {w.load for w in setup.wanted}
    return [x for x in setup.rig.loads if x.id in wanted or x.always_on]


def _leaving_off(setup: Setup, case: Case) -> Iterator[Change]:
    running = _running(setup)
    if len(running) < 2:
        return
    for load in running:
        kind, what = (
            ("postpone", f"Leave {load.name} off until later")
            if load.priority == "wait"
            else ("leave-off", f"Leave {load.name} off")
        )
        names = {x.id: x.name for x in running}
        others = [names[i] for i in together_with(setup, load.id)[1:] if i in names]
        if others:
            what = what.replace(load.name, listed([load.name, *others]), 1)
        if load.always_on:
            what = f"Switch {load.name} off, though it is always on"
        effort = TROUBLE[load.priority] + isinstance(load, AirConditioner) + 2 * load.always_on
        without = partial(leave_off, load_id=load.id)
        yield Change(kind, what, FREE, effort, load.id, without)


def _modes(setup: Setup, case: Case) -> Iterator[Change]:
    for demand in case.demands:
        load, mode = demand.load, demand.mode
        if mode is None or not mode.endswith("cool"):
            continue

        def softer(s: Setup, ident: str = load.id, to: str = "low-cool") -> Setup:
            return replace(
                s, wanted=(*(w for w in s.wanted if w.load != ident), Wanted(load=ident, mode=to))
            )

        has_low = getattr(load, "low_cool_a", None) or getattr(load, "fan_low_a", None)
        if mode == "high-cool" and has_low:
            yield Change("mode", f"Run {load.name} on low cool", FREE, 1, load.id, softer)
        yield Change(
            "fan-only",
            f"Leave {load.name} on its fan",
            FREE,
            TROUBLE[load.priority] + 1,
            load.id,
            lambda s, f=softer: f(s, to="fan-low"),  # type: ignore[misc]
        )


def _legs(setup: Setup, case: Case) -> Iterator[Change]:
    """Moving a load to the other leg: a matter of its plug, or of its breaker in the panel."""
    if case.feed.upstream.legs != 2 or case.feed.upstream.tied:
        return
    for load in _running(setup):
        at = leg_of(setup, load)
        if at not in (L1, L2):
            continue
        to = "L2" if at == L1 else "L1"

        def moved(s: Setup, ident: str = load.id, to: str = to) -> Setup | None:
            load = next((x for x in s.rig.loads if x.id == ident), None)
            if load is None:
                return None
            if load.circuit is None:
                return with_load(s, ident, leg=to)
            circuits = tuple(
                replace(c, leg=to) if c.id == load.circuit else c for c in s.rig.circuits
            )
            return replace(s, rig=replace(s.rig, circuits=circuits))

        yield Change(
            "move-leg",
            f"Move {load.name} to leg {to}",
            PART,
            3,
            f"leg {load.circuit or load.id}",
            moved,
        )


def engines_of(supply: AnySupply) -> tuple[Generator, ...]:
    """The engine sets that carry the load themselves."""
    return (
        (supply,)
        if isinstance(supply, Generator)
        else supply.units
        if isinstance(supply, Parallel)
        else ()
    )


def _running_the_set(setup: Setup, case: Case) -> Iterator[Change]:
    units = engines_of(setup.supply)
    if any(u.eco for u in units):
        yield Change(
            "eco-off",
            "Switch eco (idle) mode off",
            FREE,
            0,
            "eco",
            lambda s: with_engines(s, eco=False) if engines_of(s.supply) else None,
        )
    weaker = {u.fuel for u in units} & {"propane", "natural_gas"}
    if weaker and all(u.ratings_for == "gasoline" or "gasoline" in u.by_fuel for u in units):
        yield Change(
            "fuel",
            f"Run it on gasoline instead of {weaker.pop().replace('_', ' ')}",
            FREE,
            1,
            "fuel",
            lambda s: with_engines(s, fuel="gasoline") if engines_of(s.supply) else None,
        )


def _start_gear(setup: Setup, case: Case) -> Iterator[Change]:
    motors = [d.load for d in case.demands if d.plate is not None and isinstance(d.load, Rotating)]
    for load in motors:
        if load.start in ("run-capacitor", "start-capacitor"):
            yield Change(
                "hard-start",
                f"Fit a hard-start kit to {load.name}",
                PART,
                3,
                load.id,
                lambda s, i=load.id: with_load(s, i, start="hard-start"),  # type: ignore[misc]
            )
        if load.start in ("run-capacitor", "start-capacitor", "hard-start"):
            yield Change(
                "soft-start",
                f"Fit a soft starter to {load.name}",
                PART,
                4,
                load.id,
                partial(with_load, load_id=load.id, start="soft-start", soft_start=SoftStart()),
            )
    plain = [load for load in motors if load.start != "soft-start"]
    if len(plain) > 1 and not any(isinstance(x, InlineSoftStart) for x in setup.hookup):
        yield Change(
            "inline-soft-start",
            "Put one soft starter for the whole rig in the cord",
            PART,
            2,
            "inline",
            lambda s: replace(s, hookup=(*s.hookup, InlineSoftStart(name="inline soft starter"))),
        )


def _cords(setup: Setup, case: Case) -> Iterator[Change]:
    """Each cord thicker, up to three sizes, or a half or a quarter as long."""
    for at, item in enumerate(setup.hookup):
        if not isinstance(item, Cord):
            continue
        name = item.name or "the cord"
        for size in [a for a in CORD_AWG if item.awg is not None and a < item.awg][:MOST_THICKER]:
            yield Change(
                "thicker-cord",
                f"Use {size} AWG for {name}",
                PART,
                1,
                f"cord {at}",
                partial(_with_cord, at=at, change=partial(_thicker, size=size)),
            )
        for part in SHORTER if item.length_m > 5 else ():
            length = item.length_m / part
            yield Change(
                "shorter-cord",
                f"Shorten {name} to {length:g} m",
                FREE,
                part // 2,
                f"cord {at}",
                lambda s, at=at, length=length: _with_cord(  # type: ignore[misc]
                    s, at, lambda c: replace(c, length_m=length)
                ),
            )


def _thicker(cord: Cord, size: int) -> Cord:
    rating = CORD_RATING_A[size] if cord.rating_a is not None else None
    return replace(
        cord, awg=size, rating_a=max(rating, cord.rating_a or 0.0) if rating else None, name=""
    )


def _with_cord(setup: Setup, at: int, change: Callable[[Cord], Cord]) -> Setup | None:
    """The setup with a cord changed; None where there is no cord in that place any more."""
    cord = setup.hookup[at] if at < len(setup.hookup) else None
    if not isinstance(cord, Cord):
        return None
    return replace(setup, hookup=(*setup.hookup[:at], change(cord), *setup.hookup[at + 1 :]))


def _without_adapters(s: Setup) -> tuple[HookupItem, ...]:
    return tuple(x for x in s.hookup if not isinstance(x, Adapter | Splitter | Outlet))


def _posts(setup: Setup, case: Case) -> Iterator[Change]:
    supply = setup.supply
    if not isinstance(supply, Shore) or supply.voltage_v > 180:
        return
    split_rig = setup.rig.service == "120/240"
    bigger = [a for a in POSTS_A if a > supply.breaker_a]
    if supply.legs == "single" and bigger:

        def outlet(s: Setup, amps: float = bigger[0]) -> Setup | None:
            if not isinstance(s.supply, Shore):
                return None
            return replace(
                s,
                supply=replace(s.supply, breaker_a=amps),
                hookup=_without_adapters(s) if not split_rig else s.hookup,
            )

        yield Change("other-outlet", f"Use a {bigger[0]:.0f} A outlet", FREE, 1, "post", outlet)
    if split_rig and supply.legs != "split":
        splitter = Splitter(from_types=("TT-30", "TT-30"), to_type="14-50", rating_a=30.0)

        def pitch(s: Setup) -> Setup | None:
            return (
                replace(
                    s,
                    supply=replace(s.supply, breaker_a=50.0, legs="split"),
                    hookup=_without_adapters(s),
                )
                if isinstance(s.supply, Shore)
                else None
            )

        def two(s: Setup) -> Setup | None:
            if not isinstance(s.supply, Shore):
                return None
            return replace(
                s,
                supply=replace(s.supply, breaker_a=30.0, legs="split"),
                hookup=(splitter, *_without_adapters(s)),
            )

        if supply.legs == "same-leg":
            yield Change(
                "opposite-legs",
                "Find an outlet on the opposite leg",
                FREE,
                2,
                "post",
                lambda s: (
                    replace(s, supply=replace(s.supply, legs="split"))
                    if isinstance(s.supply, Shore)
                    else None
                ),
            )
        elif supply.breaker_a <= 30:
            yield Change(
                "two-outlets",
                "Take two 30 A outlets on opposite legs through a splitter",
                PART,
                2,
                "post",
                two,
            )
        yield Change("50-a-pitch", "Go to a 50 A pitch", FREE, 2, "post", pitch)


def _sets(setup: Setup, case: Case) -> Iterator[Change]:
    supply = setup.supply
    units = engines_of(supply)
    if not units:
        return
    paralleled = all(u.inverter for u in units)  # conventional sets cannot be joined by a kit
    if paralleled and isinstance(supply, Parallel) and len(units) < MOST_SETS:
        yield Change(
            "second-set",
            "Add another set like them in parallel",
            BUY,
            3,
            "sets",
            lambda s: (
                replace(s, supply=replace(s.supply, units=(*s.supply.units, s.supply.units[0])))
                if isinstance(s.supply, Parallel)
                else None
            ),
        )
    elif paralleled and isinstance(supply, Generator) and supply.output != "120/240":
        yield Change(
            "second-set",
            "Add a second set like it in parallel",
            BUY,
            3,
            "sets",
            lambda s: (
                replace(s, supply=Parallel(units=(s.supply, s.supply)))
                if isinstance(s.supply, Generator)
                else None
            ),
        )
    present = sum(u.continuous_w for u in units)
    larger = [
        r
        for r in rows("typical_supplies")
        if float(r["continuous_w"]) > 1.05 * present
        and float(r["starting_w"]) > sum(u.starting_w for u in units)
        and r["output"]
        in (units[0].output, "120/240" if setup.rig.service == "120/240" else units[0].output)
        and r["key"].startswith("inv-")
    ]
    for r in larger[:2]:

        def next_size(s: Setup, r: dict[str, str] = r) -> Setup:
            old = engines_of(s.supply)[0] if engines_of(s.supply) else units[0]
            new = replace(
                old,
                continuous_w=float(r["continuous_w"]),
                starting_w=float(r["starting_w"]),
                voltage_v=float(r["voltage_v"]),
                output=r["output"],
                by_fuel={},
                ratings_for="gasoline",
                leg_limit_a=None,
                tank_l=float(r["tank_l"]),
                fuel_points=(),
                mass_kg=float(r["mass_kg"]),
            )
            whole = r["output"] == "120/240" and old.output != "120/240"
            return replace(s, supply=new, hookup=_without_adapters(s) if whole else s.hookup)

        yield Change("next-size", f"Take the next size up: {r['name']}", BUY, 2, "sets", next_size)


def _additions(setup: Setup, case: Case) -> Iterator[Change]:
    supply = setup.supply
    single = case.source.conductors == 1
    if isinstance(supply, Shore | Generator) and single and setup.rig.service != "120/240":
        volts = 230.0 if case.source.nominal_v == 230.0 else 120.0
        limit = (
            0.8 * supply.breaker_a
            if isinstance(supply, Shore)
            else round(0.9 * case.source.continuous_a, 1)
        )
        inverter = BatteryInverter(
            voltage_v=volts, output="230" if volts == 230.0 else "120", **HOUSE_BATTERY
        )
        yield Change(
            "assist",
            f"Fit an inverter/charger that takes at most {limit:.0f} A and adds from its battery",
            BUY,
            5,
            "assist",
            lambda s: (
                replace(s, supply=Assist(input=s.supply, input_limit_a=limit, inverter=inverter))
                if s.supply == supply
                else None
            ),
        )
    high = [load for load, problem in case.unserved if problem == "no-240"]
    if (
        high
        and case.source.nominal_v == 120.0
        and not any(isinstance(x, Transformer) for x in setup.hookup)
    ):
        asked = sum(
            (
                getattr(x, "watts", None)
                or (getattr(x, "running_a", None) or getattr(x, "amps", None) or 0.0) * x.voltage_v
            )
            * x.count
            for x in high
        )
        size = next((va for va in TRANSFORMERS_VA if va >= 1.1 * asked), TRANSFORMERS_VA[-1])
        part = Transformer(
            name="step-up transformer",
            type="auto",
            va=size,
            no_load_w=0.01 * size,
            no_load_va=0.04 * size,
            impedance_pct=3.0,
        )
        yield Change(
            "transformer",
            f"Put a {size:.0f} VA step-up transformer before {' and '.join(x.name for x in high)}",
            PART,
            4,
            "transformer",
            lambda s: replace(s, hookup=(*s.hookup, part)),
        )
