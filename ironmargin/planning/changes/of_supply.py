"""Changes of where the watts come from: the post, the set, a second one, a battery beside it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ironmargin.case import Case
from ironmargin.document import Document
from ironmargin.electrics.services import HIGH_V, SERVICE_120, service_of
from ironmargin.limits.backfeed import BUILDING, what_it_is
from ironmargin.planning.change import BUY, FREE, HARDEST, MIN_INPUT_A, PART, Change
from ironmargin.setup.changed import with_engines
from ironmargin.setup.engines import Generator, Parallel
from ironmargin.setup.hookup import Adapter, HookupItem, Outlet, Splitter, Transformer
from ironmargin.setup.inverters import Assist, BatteryInverter
from ironmargin.setup.model import Setup
from ironmargin.setup.post import Shore
from ironmargin.setup.ways import rough_va
from ironmargin.tables import rows

POSTS_A = (15.0, 20.0, 30.0)
"""Outlets there are; at the first, or on a house, there is no pitch to go to and nothing above the
second (common practice)."""
TRANSFORMERS_VA = (1000.0, 2000.0, 3000.0, 5000.0, 7500.0, 10000.0)
MAX_SETS = 3
HOUSE_BATTERY: Document = {
    "continuous_w": 3000.0,
    "surge_w": 6000.0,
    "surge_s": 2.0,
    "battery_wh": 5000.0,
}
"""A common inverter/charger and battery of a rig (common practice)."""
SMALL_POST_A, LARGE_POST_A = 30.0, 50.0
"""The two outlets of a pedestal made for rigs [A]."""
INPUT_SHARE = 0.9
"""Of a set's lasting amps that an inverter/charger is let take (common practice, no source)."""
CLEARLY_LARGER = 1.05
"""A set is larger from so much more than what is there on; less is the same size printed anew."""
TRANSFORMER_SPARE = 1.1
"""A transformer's rating over the loads it feeds (common practice, no source)."""
IMPEDANCE_PCT = 3.0
"""Of a small autotransformer (common practice, no source)."""
NO_LOAD_W, NO_LOAD_VA = 0.01, 0.04
"""What an autotransformer takes with nothing on it, over its rating (common practice,
no source)."""


def _without_adapters(s: Setup) -> tuple[HookupItem, ...]:
    return tuple(x for x in s.hookup if not isinstance(x, Adapter | Splitter | Outlet))


def posts(setup: Setup, case: Case) -> Iterator[Change]:
    """A larger post, or another outlet of it.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each outlet.
    """
    supply = setup.supply
    if not isinstance(supply, Shore) or supply.voltage_v > HIGH_V:
        return
    split_rig = setup.rig.service == "120/240"
    at_home = supply.breaker_a == POSTS_A[0] or what_it_is(setup) == BUILDING
    max_a = POSTS_A[1] if at_home else POSTS_A[-1]
    bigger = [a for a in POSTS_A if supply.breaker_a < a <= max_a]
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
    if split_rig and supply.legs != "split" and not at_home:
        splitter = Splitter(from_types=("TT-30", "TT-30"), to_type="14-50", rating_a=SMALL_POST_A)

        def pitch(s: Setup) -> Setup | None:
            return (
                replace(
                    s,
                    supply=replace(s.supply, breaker_a=LARGE_POST_A, legs="split"),
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
                supply=replace(s.supply, breaker_a=SMALL_POST_A, legs="split"),
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
        elif supply.breaker_a <= SMALL_POST_A:
            yield Change(
                "two-outlets",
                "Take two 30 A outlets on opposite legs through a splitter",
                PART,
                2,
                "post",
                two,
            )
        yield Change("50-a-pitch", "Go to a 50 A pitch", FREE, 2, "post", pitch)


def sets(setup: Setup, case: Case) -> Iterator[Change]:
    """Another set beside it, one of another character, or the next size up.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each way.
    """
    supply = setup.supply
    units = supply.carrying
    if not units:
        return
    paralleled = all(u.inverter for u in units)  # conventional sets cannot be joined by a kit
    if paralleled and isinstance(supply, Parallel) and len(units) < MAX_SETS:
        yield Change(
            "second-set",
            "Add another generator like them in parallel",
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
            "Add a second generator like it in parallel",
            BUY,
            3,
            "sets",
            lambda s: (
                replace(s, supply=Parallel(units=(s.supply, s.supply)))
                if isinstance(s.supply, Generator)
                else None
            ),
        )
    if any(u.inverter and u.character == "cuts-off" for u in units):
        one = len(units) == 1
        yield Change(
            "set-that-sags",
            "Use a generator of this size that lets the volts sag where this one cuts off"
            if one
            else "Use generators of this size that let the volts sag where these cut off",
            BUY,
            2,
            "sets",
            lambda s: with_engines(s, character="folds-back"),
        )
    present = sum(u.continuous_w for u in units)
    larger = [
        r
        for r in rows("typical_supplies")
        if float(r["continuous_w"]) > CLEARLY_LARGER * present
        and float(r["starting_w"]) > sum(u.starting_w for u in units)
        and r["output"]
        in (units[0].output, "120/240" if setup.rig.service == "120/240" else units[0].output)
        and r["key"].startswith("inv-")
    ]
    for r in larger[:2]:

        def next_size(s: Setup, r: dict[str, str] = r) -> Setup:
            old = s.supply.carrying[0] if s.supply.carrying else units[0]
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


def additions(setup: Setup, case: Case) -> Iterator[Change]:
    """A transformer, a soft starter in the cord, a battery inverter beside the post.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each that can be added.
    """
    supply = setup.supply
    single = case.source.conductors == 1
    if isinstance(supply, Shore | Generator) and single and setup.rig.service != "120/240":
        volts = case.source.nominal_v
        limit = (
            max(
                setup.rules.continuous_fraction * supply.breaker_a - supply.also_on_circuit_a,
                MIN_INPUT_A,
            )
            if isinstance(supply, Shore)
            else round(INPUT_SHARE * case.source.continuous_a, 1)
        )
        inverter = BatteryInverter(voltage_v=volts, output=service_of(volts), **HOUSE_BATTERY)
        yield Change(
            "assist",
            f"Fit an inverter/charger that takes at most {limit:.0f} A and adds from its battery",
            BUY,
            HARDEST,
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
        and service_of(case.source.nominal_v) == SERVICE_120
        and not any(isinstance(x, Transformer) for x in setup.hookup)
    ):
        requested = sum(rough_va(x) for x in high)
        size = next(
            (va for va in TRANSFORMERS_VA if va >= TRANSFORMER_SPARE * requested),
            TRANSFORMERS_VA[-1],
        )
        part = Transformer(
            name="step-up transformer",
            type="auto",
            va=size,
            no_load_w=NO_LOAD_W * size,
            no_load_va=NO_LOAD_VA * size,
            impedance_pct=IMPEDANCE_PCT,
        )
        yield Change(
            "transformer",
            f"Put a {size:.0f} VA step-up transformer before {' and '.join(x.name for x in high)}",
            PART,
            4,
            "transformer",
            lambda s: replace(s, hookup=(*s.hookup, part)),
        )
