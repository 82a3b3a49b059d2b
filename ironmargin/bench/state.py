"""The state of a bench: everything that the next moment depends on, as plain figures that can be
kept and taken up again.
"""

from __future__ import annotations

import copy
from dataclasses import asdict, dataclass, field

from ironmargin.document import Document


@dataclass
class LoadState:
    """One load.

    Attributes:
        on: the person has it on.
        mode: the knob of an air conditioner.
        running: it draws.
        cooling: the thermostat or duty cycle calls.
        turned_s: when its cycle turns next [s].
        cycles: how often it has turned.
        compressor: its motor turns.
        due_s: when the motor is to start [s].
        stopped_s: when it last stopped [s].
        since_s: when it began to draw [s].
        held: why it is off though it is on: ``let-go``, ``stalled`` or ``shed``, else empty.
        again_s: when it tries again [s].
        shed_a: what it drew when it was shed [A].
        learned: starts its soft starter has learned from.
    """

    on: bool = False
    mode: str | None = None
    running: bool = False
    cooling: bool = True
    turned_s: float | None = None
    cycles: int = 0
    compressor: bool = False
    due_s: float | None = None
    stopped_s: float | None = None
    since_s: float = 0.0
    held: str = ""
    again_s: float | None = None
    learned: int | None = None
    shed_a: float = 0.0


@dataclass
class State:
    """The whole bench.

    Attributes:
        t_s: time [s].
        set_on: the set or post is switched on.
        locked_out: its overload lockout is open.
        overload_s: how far the lockout has filled [s].
        open: breakers that are open, by place.
        heat: of each breaker, in units of (I/In)² [1].
        over_s: since when a load manager has seen too much [s].
        guard_s: when the guard closes [s], None when it is closed.
        hot: numbers of the parts of the path whose contact has become hot.
        rise_k: how far each bad contact has warmed over the air [K].
        melted: number of the part that has melted, −1 for none.
        warned: limits that nothing opens for and that were told as exceeded.
        outdoor_c, room_c: air outside and in [°C].
        world: what the world has changed.
        ramps: what it is changing slowly: from, to, begin and end.
        fuel_wh: heat left in the tank [Wh].
        cylinder_kg, cylinder_c: liquid in each cylinder [kg] and its temperature [°C].
        soc: state of charge [1].
        spent: fuel or charge is gone.
        energy: watt-hours given, taken by the loads and lost on the way [Wh].
        cost: money.
    """

    t_s: float = 0.0
    set_on: bool = False
    locked_out: bool = False
    overload_s: float = 0.0
    eco: bool = False
    open: dict[str, bool] = field(default_factory=dict)
    heat: dict[str, float] = field(default_factory=dict)
    guard_s: float | None = None
    over_s: float | None = None
    hot: list[int] = field(default_factory=list)
    rise_k: dict[str, float] = field(default_factory=dict)
    melted: int = -1
    warned: list[str] = field(default_factory=list)
    outdoor_c: float = 35.0
    room_c: float = 30.0
    world: dict[str, float] = field(default_factory=dict)
    ramps: dict[str, list[float]] = field(default_factory=dict)
    fuel_wh: float | None = None
    cylinder_kg: float | None = None
    cylinder_c: float = 20.0
    starved: bool = False
    soc: float | None = None
    spent: str = ""
    given_wh: float = 0.0
    loads_wh: float = 0.0
    lost_wh: float = 0.0
    litres: float = 0.0
    cost: float = 0.0
    loads: dict[str, LoadState] = field(default_factory=dict)

    def copy(self) -> State:
        """A state of its own, for rewinding.

        Returns:
            Nothing of it is this one's.
        """
        return copy.deepcopy(self)

    def plain(self) -> Document:
        """The state as plain JSON.

        Returns:
            An object that JSON can hold.
        """
        return asdict(self)

    @classmethod
    def of(cls, data: Document) -> State:
        """A state from its plain JSON.

        Args:
            data: as :meth:`plain` made it.

        Returns:
            The state.
        """
        loads = {k: LoadState(**v) for k, v in data["loads"].items()}
        return cls(**{**data, "loads": loads})


@dataclass(frozen=True)
class Event:
    """Something that happened, with the amps of the busiest conductor and the volts of the weaker
    leg then.
    """

    at_s: float
    kind: str
    where: str
    why: str
    amps: float = 0.0
    volts: float = 0.0

    def plain(self) -> Document:
        """The event as plain JSON.

        Returns:
            An object that JSON can hold, figures rounded.
        """
        return {
            "at_s": round(self.at_s, 3),
            "kind": self.kind,
            "where": self.where,
            "why": self.why,
            "amps": round(self.amps, 2),
            "volts": round(self.volts, 1),
        }
