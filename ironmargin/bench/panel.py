"""The panel at a moment: which loads draw, the case they make, and its settled network."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace
from functools import partial
from typing import TypeVar

from ironmargin.bench.settled import Exceeded, Now, beyond, now_of
from ironmargin.bench.state import State
from ironmargin.case import Case, prepare
from ironmargin.document import Document
from ironmargin.limits.ledger import Row
from ironmargin.protection.breaker import NOMINAL, ON_CURVE
from ironmargin.setup.changed import with_engines, with_load
from ironmargin.setup.hookup import Outlet
from ironmargin.setup.loads import AirConditioner, Load, SoftStart
from ironmargin.setup.managing import unmanaged
from ironmargin.setup.model import Setup, Wanted
from ironmargin.setup.post import Shore
from ironmargin.supplies.kinds.post import thevenin

T = TypeVar("T")
MAX_KEPT = 64
GUARD_VOLTS_S, GUARD_AMPS_S = 1.0, 5.0
"""A guard looks at bad volts so long before it opens, and at amps over its limit (memory); the same
as in a start."""


def in_the_world(setup: Setup, state: State) -> Setup:
    """The setup in the weather, on the post and with the eco switch of this moment.

    Args:
        setup: supply, path, rig and rules of the run.
        state: the moment: weather, volts, hot contacts, eco.

    Returns:
        The setup as a check would be asked of this moment.
    """
    world = state.world
    conditions = replace(
        setup.conditions,
        outdoor_c=state.outdoor_c,
        altitude_m=world.get("altitude", setup.conditions.altitude_m),
    )
    setup = replace(setup, conditions=conditions)
    if state.hot:
        parts = (
            replace(item, condition="hot") if n in state.hot else item
            for n, item in enumerate(setup.hookup)
        )
        setup = replace(setup, hookup=tuple(parts))
    setup = with_engines(setup, eco=state.eco)
    if "volts" in world or "neighbour" in world:
        supply = setup.supply.with_post(partial(_post_in_the_world, world=world))
        setup = replace(setup, supply=supply)
    for ident, load in state.loads.items():
        if load.learned is not None:
            held = next(x for x in setup.rig.loads if x.id == ident)
            soft = getattr(held, "soft_start", None) or SoftStart()
            setup = with_load(setup, ident, soft_start=replace(soft, learned_starts=load.learned))
    return setup


def _post_in_the_world(post: Shore, world: Document) -> Shore:
    volts, ohm = thevenin(post)
    return replace(
        post,
        readings=(),
        source_ohm=ohm,
        voltage_v=world.get("volts", volts),
        also_on_circuit_a=world.get("neighbour", post.also_on_circuit_a),
    )


def mode_of(load: Load, mode: str | None, compressor: bool) -> str | None:
    """The mode a load is in: a unit whose compressor stands is only its fan.

    Args:
        load: of the rig.
        mode: what it was switched to; None for the usual.
        compressor: whether its compressor turns or is about to.

    Returns:
        A mode of an air conditioner; None for any other load.
    """
    if not isinstance(load, AirConditioner):
        return None
    chosen = mode or "high-cool"
    if compressor or chosen.startswith("fan"):
        return chosen
    return "fan-low" if chosen.startswith("low") else "fan-high"


def tripping_at(setup: Setup, edge: str) -> Setup:
    """The setup with every breaker that is not known to trip early or late tripping at an edge of
    its band: ``early``, ``nominal`` or ``late``.

    Args:
        setup: supply, path, rig and rules of the run.
        edge: of a breaker's band.

    Returns:
        The setup with its breakers so.
    """
    if edge == NOMINAL:
        return setup

    def shifted(trips: str) -> str:
        return edge if trips == ON_CURVE else trips

    supply = setup.supply.with_post(
        lambda post: replace(post, breaker_trips=shifted(post.breaker_trips))
    )

    hookup = tuple(
        replace(x, breaker_trips=shifted(x.breaker_trips)) if isinstance(x, Outlet) else x
        for x in setup.hookup
    )
    circuits = tuple(replace(c, breaker_trips=shifted(c.breaker_trips)) for c in setup.rig.circuits)
    rig = replace(setup.rig, circuits=circuits, main_trips=shifted(setup.rig.main_trips))
    return replace(setup, supply=supply, hookup=hookup, rig=rig)


class Panel:
    """Builds cases from the loads that draw, keeping the last ones."""

    def __init__(self, setup: Setup, edge: str = NOMINAL) -> None:
        setup = unmanaged(tripping_at(setup, edge))  # the bench lets it shed in its own time
        loads = tuple(replace(x, always_on=False) for x in setup.rig.loads)
        self.setup = replace(setup, rig=replace(setup.rig, loads=loads))
        self.kept: dict[Hashable, Case] = {}
        self.settled: dict[Hashable, Now] = {}
        self.exceeded: dict[Hashable, tuple[Exceeded, ...]] = {}

    def _key(self, state: State, wanted: tuple[Wanted, ...]) -> Hashable:
        learned = tuple((k, x.learned) for k, x in state.loads.items() if x.learned is not None)
        return (
            wanted,
            round(state.outdoor_c, 1),
            state.eco,
            tuple(state.hot),
            tuple(sorted(state.world.items())),
            learned,
        )

    def wanted(self, state: State, starting: tuple[str, ...] = ()) -> tuple[Wanted, ...]:
        """Everything that draws, in the order of the rig, with what is about to start.

        Args:
            state: what is on, in which mode.
            starting: ids of loads that are about to start.

        Returns:
            What a check would be asked to run.
        """
        found = []
        for load in self.setup.rig.loads:
            one = state.loads[load.id]
            if one.running or load.id in starting:
                turns = one.compressor or load.id in starting
                found.append(Wanted(load=load.id, mode=mode_of(load, one.mode, turns)))
        return tuple(found)

    def case(self, state: State, starting: tuple[str, ...] = ()) -> Case:
        """The case of this moment.

        Args:
            state: what is on, in which mode, in which weather.
            starting: ids of loads that are about to start.

        Returns:
            The setup of the moment, ready to be solved; kept for the next time.
        """
        wanted = self.wanted(state, starting)
        return self._kept(
            self.kept,
            self._key(state, wanted),
            lambda: prepare(replace(in_the_world(self.setup, state), wanted=wanted)),
        )

    def _kept(self, kept: dict[Hashable, T], key: Hashable, make: Callable[[], T]) -> T:
        if key not in kept:
            while len(kept) >= MAX_KEPT:
                kept.pop(next(iter(kept)))
            kept[key] = make()
        return kept[key]

    def beyond(self, state: State) -> tuple[Exceeded, ...]:
        """The limits of this moment that are exceeded and that nothing opens for.

        Args:
            state: what is on, in which mode, in which weather.

        Returns:
            Each with its place and sentence.
        """
        key = self._key(state, self.wanted(state))
        return self._kept(self.exceeded, key, lambda: beyond(self.now(state)))

    def now(self, state: State) -> Now:
        """The settled network of this moment.

        Args:
            state: what is on, in which mode, in which weather.

        Returns:
            The case with its settled volts, amps and watts; kept for the next time.
        """
        key = self._key(state, self.wanted(state))
        return self._kept(self.settled, key, lambda: now_of(self.case(state)))


def guard_waits_s(opens: Row) -> float:
    """How long a guard looks at what exceeds its limit before it opens [s].

    Args:
        opens: the guard's limit that is exceeded, in amps or volts.

    Returns:
        Seconds before it opens [s].
    """
    return GUARD_AMPS_S if opens.unit == "A" else GUARD_VOLTS_S
