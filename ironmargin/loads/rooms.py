"""Rooms and cycles: when a thermostat calls, and how long a load runs and rests.

A trailer's room follows the air outside, six degrees warmer for the sun, with a time constant of
about three quarters of an hour; a running air conditioner pulls a fairly insulated room of 22 m²
eighteen degrees under that, a larger or worse one less (common practice, no source). On the hottest
afternoon it runs without a break. Loads with a duty of their own cycle by it, each turn up to
fifteen per cent longer or shorter by the seed. Verdict, hours, order and bench ask here.
"""

from __future__ import annotations

import hashlib
import math

from ironmargin.loads.demand import CYCLE_S
from ironmargin.record import record
from ironmargin.setup.loads import AirConditioner, Load
from ironmargin.setup.model import Room

TAU_S = 2700.0
SUN_K = 6.0
COOLS_K = 18.0
USUAL_AREA_M2 = 22.0
INSULATED = {"poor": 0.75, "fair": 1.0, "good": 1.35}
"""How far a unit cools a room of this insulation, over a fair one (common practice, no source)."""
BAND_K = 0.6
STAGGER_K = 0.2
"""Two thermostats never agree: each unit's turns so much warmer than the one before (common
practice).
"""
JITTER = 0.15
MIN_DUTY = 0.05
WITHOUT_A_BREAK = 0.98
HALF_OF_48_BITS = 2**47
"""From this share on a unit never satisfies its thermostat."""
USUAL = Room()


def depth_k(room: Room) -> float:
    """How far below the unconditioned room one running unit pulls it [K].

    Args:
        room: with its area and how it is insulated.

    Returns:
        Kelvin [K].
    """
    return COOLS_K * INSULATED[room.insulation] * USUAL_AREA_M2 / room.area_m2


@record
class Cycle:
    """A thermostat's cycle: share of the time a unit runs [1], how long it runs and rests [s];
    ``off_s`` is 0 where it runs without a break.
    """

    duty: float
    on_s: float
    off_s: float

    @property
    def starts_per_h(self) -> float:
        """Starts an hour, three at most (common practice: what a thermostat lets through); 0 where
        it runs without a break [1/h].
        """
        return 3600.0 / max(self.on_s + self.off_s, CYCLE_S) if self.off_s > 0.0 else 0.0


def duty_at(room: Room, outdoor_c: float, units: int = 1) -> float:
    """Share of the time each of some units runs to keep a room at its setting [1]: how far the
    room would warm above it, over how far the units cool it.

    Args:
        room: the room and its thermostat.
        outdoor_c: air outdoors [°C].
        units: air conditioners that share it.

    Returns:
        The share [1].
    """
    need_k = outdoor_c + SUN_K - room.target_c
    return min(max(need_k / (depth_k(room) * max(units, 1)), MIN_DUTY), 1.0)


def thermostat_cycle(room: Room, outdoor_c: float, units: int = 1) -> Cycle:
    """The cycle of each of some equal units.

    Within a band of ±0.6 K the room warms towards what it would reach with every unit resting, so
    that the shortest rest is ``τ·ln((D + b)/(D − b))``, D how far that lies above the setting; run
    time follows from the duty.

    Args:
        room: the room and its thermostat.
        outdoor_c: air outdoors [°C].
        units: air conditioners that share it.

    Returns:
        Times on and off.
    """
    duty = duty_at(room, outdoor_c, units)
    warmer_k = outdoor_c + SUN_K - room.target_c
    if duty >= WITHOUT_A_BREAK or warmer_k <= BAND_K:
        return Cycle(duty if duty < WITHOUT_A_BREAK else 1.0, CYCLE_S, 0.0)
    off_s = TAU_S * math.log((warmer_k + BAND_K) / (warmer_k - BAND_K))
    return Cycle(duty, off_s * duty / (1.0 - duty), off_s)


def jitter(seed: int, ident: str, turn: int) -> float:
    """A figure between −1 and 1 that depends on nothing but the seed, the load and the turn.

    Args:
        seed: any whole number.
        ident: the load's id.
        turn: number of the cycle.

    Returns:
        The figure [1].
    """
    raw = hashlib.sha256(f"{seed}/{ident}/{turn}".encode()).digest()
    return int.from_bytes(raw[:6], "big") / HALF_OF_48_BITS - 1.0


def cycles(load: Load) -> tuple[float, float] | None:
    """How long a load runs and rests [s]; None for one that runs as long as it is on.

    Args:
        load: of the rig.

    Returns:
        Seconds on and seconds off [s].
    """
    if load.on_s is not None:
        return (load.on_s, load.off_s or 0.0) if load.off_s else None
    if load.duty is not None and load.duty < 1.0:
        return load.duty * CYCLE_S, (1.0 - load.duty) * CYCLE_S
    return None


def by_room(load: Load) -> bool:
    """Whether a load cycles by the room's thermostat.

    Args:
        load: a load of the rig.

    Returns:
        Whether it does.
    """
    return isinstance(load, AirConditioner) and cycles(load) is None


def turn_s(load: Load, cooling: bool, seed: int, turn: int) -> float | None:
    """How long a load's present half of its cycle lasts [s]; None for one without a cycle.

    Args:
        load: a load of the rig.
        cooling: whether the half is the one on.
        seed: same seed, same answer.
        turn: number of the half, from 0.

    Returns:
        Its length [s].
    """
    found = cycles(load)
    if found is None:
        return None
    length = found[0] if cooling else found[1]
    return length * (1.0 + JITTER * jitter(seed, load.id, turn))


def room_goal(room: Room, outdoor_c: float, running: int) -> float:
    """The temperature a room moves to [°C].

    Args:
        room: the room and its thermostat.
        outdoor_c: air outdoors [°C].
        running: units that cool.

    Returns:
        Temperature [°C].
    """
    return outdoor_c + SUN_K - depth_k(room) * running


def room_after(room_c: float, goal_c: float, seconds: float) -> float:
    """The room after some seconds [°C]: ``T' = (goal − T)/τ``.

    Args:
        room_c: now [°C].
        goal_c: where it moves to [°C].
        seconds: length of the span [s].

    Returns:
        Temperature [°C].
    """
    return goal_c + (room_c - goal_c) * math.exp(-seconds / TAU_S)


def crosses_s(room_c: float, goal_c: float, level_c: float) -> float:
    """Seconds until the room crosses a level on its way; infinite if it never does.

    Args:
        room_c: now [°C].
        goal_c: where it moves to [°C].
        level_c: the level [°C].

    Returns:
        Time [s].
    """
    if abs(level_c - room_c) < 1e-9:
        return 0.0
    share = (level_c - goal_c) / (room_c - goal_c) if room_c != goal_c else 2.0
    return -TAU_S * math.log(share) if 0.0 < share < 1.0 else math.inf


def calls_at(room: Room, order: int) -> tuple[float, float]:
    """Levels at which a thermostat calls and is satisfied, by the unit's place in the rig [°C].

    Args:
        room: the room and its thermostat.
        order: place of the unit, from 0.

    Returns:
        On above, off below [°C].
    """
    middle = room.target_c + STAGGER_K * order
    return middle + BAND_K, middle - BAND_K
