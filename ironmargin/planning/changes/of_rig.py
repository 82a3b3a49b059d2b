"""Changes of what hangs on the supply: what runs, how it starts, its legs and cords."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from itertools import combinations

from ironmargin.case import Case
from ironmargin.limits.backfeed import BUILDING, what_it_is
from ironmargin.listed import listed
from ironmargin.loads.demand import L1, L2, leg_of
from ironmargin.planning.change import ASKED, FREE, MIN_INPUT_A, NUISANCE, ORDER, PART, Change
from ironmargin.setup.changed import leave_off, together_with, with_engines, with_load
from ironmargin.setup.engines import Generator
from ironmargin.setup.hookup import Cord, InlineSoftStart
from ironmargin.setup.inverters import Assist
from ironmargin.setup.loads import (
    AirConditioner,
    Charger,
    Load,
    Motor,
    Resistive,
    Rotating,
    SoftStart,
)
from ironmargin.setup.model import Lockout, Setup, Wanted
from ironmargin.setup.post import Shore
from ironmargin.setup.ways import never_with, running_loads
from ironmargin.tables import FOOT_M

TROUBLE = {"wait": 0, "want": 1, "must": 3}
"""Trouble of doing without a load, by its priority."""
COMES_LATER = (Charger, Resistive)
"""Loads whose work is only put off where they are left off for a while (common practice)."""
MAX_IN_TURN = 3
"""Of more cooling units no pair in turns makes the difference, and there are too many pairs."""
CORD_AWG = (14, 12, 10, 8, 6, 4)
MAX_THICKER = 3
SHORTER = (2, 4)
CORD_RATING_A = {14: 15.0, 12: 20.0, 10: 30.0, 8: 40.0, 6: 50.0, 4: 60.0}
"""What cords of a size are sold for, by their plugs (common practice)."""
WORTH_SHORTENING_M = 5.0
"""A cord no longer than this is not shortened: the rig has to be reached [m]."""


def leaving_off(setup: Setup, case: Case) -> Iterator[Change]:
    """Each running load left off, with what goes with it.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each load that can go.
    """
    running = list(running_loads(setup))
    nowhere = {load.id for load, _ in case.unserved}
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
        if load.on_gas:
            kind, what, effort = "leave-off", f"Run {load.name} on gas", 0
        without = partial(leave_off, load_id=load.id)
        unserved = load.id in nowhere and not load.on_gas
        rung, gives_up = (ASKED, load.name) if unserved else _missed(load)
        yield Change(kind, what, FREE, effort, load.id, without, rung, gives_up)


def _missed(load: Load) -> tuple[str, str]:
    """The rung of doing without a load, and what is missed: chargers and heaters come later, short
    work can wait, and what cools or pumps was asked for. What runs on gas meanwhile is not missed.
    """
    if load.on_gas:
        return NUISANCE, "a little gas"
    if isinstance(load, Charger):
        return NUISANCE, "the battery charges later"
    if isinstance(load, COMES_LATER):
        return NUISANCE, f"{load.name} comes later"
    if isinstance(load, AirConditioner):
        return ASKED, f"what {load.name} cools"
    if isinstance(load, Motor) and load.priority != "wait":
        return ASKED, load.name
    return ORDER, f"{load.name} waits"


def taking_turns(setup: Setup, case: Case) -> Iterator[Change]:
    """Two cooling units in turns, never both: each way must hold.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each pair.
    """
    cooling = [x for x in running_loads(setup) if isinstance(x, AirConditioner)]
    if len(cooling) > MAX_IN_TURN:
        return
    for one, two in combinations(cooling, 2):
        if two.id in never_with(setup, one.id):
            continue
        pair = Lockout(first=one.id, second=two.id)

        def locked(s: Setup, pair: Lockout = pair) -> Setup:
            return replace(s, rig=replace(s.rig, lockouts=(*s.rig.lockouts, pair)))

        what = f"Run {one.name} and {two.name} in turns, never both"
        gives_up = "one of them at a time"
        yield Change("take-turns", what, FREE, 1, f"turns {one.id} {two.id}", locked, "", gives_up)


def modes(setup: Setup, case: Case) -> Iterator[Change]:
    """A unit a step milder: low instead of high, or its fan alone.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        One or two changes for each unit that cools.
    """
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
            yield Change(
                "mode",
                f"Run {load.name} on low cool",
                FREE,
                1,
                load.id,
                softer,
                gives_up="some of its cooling",
            )
        yield Change(
            "fan-only",
            f"Leave {load.name} on its fan",
            FREE,
            TROUBLE[load.priority] + 1,
            load.id,
            lambda s, f=softer: f(s, to="fan-low"),  # type: ignore[misc]
            gives_up=f"what {load.name} cools",
        )


def legs(setup: Setup, case: Case) -> Iterator[Change]:
    """Moving a load to the other leg: a matter of its plug, or of its breaker in the panel.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each load on one leg.
    """
    if case.feed.upstream.legs != 2 or case.feed.upstream.tied:
        return
    for load in running_loads(setup):
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


def _spare_a(setup: Setup, case: Case, source: Shore | Generator) -> float:
    """What an inverter/charger may take of its input for hours, with room [A]."""
    if isinstance(source, Shore):
        return setup.rules.continuous_fraction * source.breaker_a - source.also_on_circuit_a
    taken_from = case.source.input
    assert taken_from is not None  # of an inverter/charger
    return (1.0 - setup.rules.thin_below) * taken_from.continuous_a


def running_the_set(setup: Setup, case: Case) -> Iterator[Change]:
    """How an engine set is run: eco off, another fuel.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each setting.
    """
    units = setup.supply.carrying
    if any(u.eco for u in units):
        yield Change(
            "eco-off",
            "Switch eco (idle) mode off",
            FREE,
            0,
            "eco",
            lambda s: with_engines(s, eco=False) if s.supply.carrying else None,
            gives_up="some fuel and quiet",
        )
    supply = setup.supply
    if isinstance(supply, Assist):
        spare = _spare_a(setup, case, supply.input)
        limit = min(float(math.floor(spare)), supply.input_limit_a)
        if limit >= MIN_INPUT_A and not math.isclose(limit, supply.input_limit_a):
            yield Change(
                "input-limit",
                f"Set the input limit to {limit:.0f} A",
                FREE,
                0,
                "input-limit",
                lambda s: (
                    replace(s, supply=replace(s.supply, input_limit_a=limit, input_read_w=None))
                    if isinstance(s.supply, Assist)
                    else None
                ),
                gives_up="charge of the battery",
            )
    weaker = {u.fuel for u in units} & {"propane", "natural_gas"}
    if weaker and all(u.ratings_for == "gasoline" or "gasoline" in u.by_fuel for u in units):
        yield Change(
            "fuel",
            f"Run it on gasoline instead of {weaker.pop().replace('_', ' ')}",
            FREE,
            1,
            "fuel",
            lambda s: with_engines(s, fuel="gasoline") if s.supply.carrying else None,
        )


def start_gear(setup: Setup, case: Case) -> Iterator[Change]:
    """Other start gear on each motor.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each motor and kind of gear it takes.
    """
    motors = [d.load for d in case.demands if d.plate is not None and isinstance(d.load, Rotating)]
    for load in motors:
        if load.start_gear in ("run-capacitor", "start-capacitor") and load.takes_kit:
            yield Change(
                "hard-start",
                f"Fit a hard-start kit to {load.name}",
                PART,
                3,
                load.id,
                lambda s, i=load.id: with_load(s, i, start="hard-start"),  # type: ignore[misc]
            )
        if load.start_gear in ("run-capacitor", "start-capacitor", "hard-start"):
            yield Change(
                "soft-start",
                f"Fit a soft starter to {load.name}",
                PART,
                4,
                load.id,
                partial(with_load, load_id=load.id, start="soft-start", soft_start=SoftStart()),
            )
    plain = [load for load in motors if load.start_gear != "soft-start"]
    in_cord = any(isinstance(x, InlineSoftStart) for x in setup.hookup)
    if len(plain) > 1 and not in_cord and what_it_is(setup) != BUILDING:
        yield Change(
            "inline-soft-start",
            "Put one soft starter for the whole rig in the cord",
            PART,
            2,
            "inline",
            lambda s: replace(s, hookup=(*s.hookup, InlineSoftStart(name="inline soft starter"))),
        )


def cords(setup: Setup, case: Case) -> Iterator[Change]:
    """Each cord thicker, up to three sizes, or a half or a quarter as long.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each cord, size and length.
    """
    for at, item in enumerate(setup.hookup):
        if not isinstance(item, Cord):
            continue
        name = item.name or "the cord"
        for size in [a for a in CORD_AWG if item.awg is not None and a < item.awg][:MAX_THICKER]:
            yield Change(
                "thicker-cord",
                f"Use {size} AWG for {name}",
                PART,
                1,
                f"cord {at}",
                partial(_with_cord, at=at, change=partial(_thicker, size=size)),
            )
        for part in SHORTER if item.length_m > WORTH_SHORTENING_M else ():
            length = item.length_m / part
            yield Change(
                "shorter-cord",
                f"Shorten {name} to {length / FOOT_M:.0f} ft ({length:.1f} m)",
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
