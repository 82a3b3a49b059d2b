"""Rooms and cycles: when a thermostat calls, and when a duty cycle turns.

A trailer's room follows the air outside, six degrees warmer for the sun, with a time constant of
about three quarters of an hour; a running air conditioner pulls it eighteen degrees under that
(common practice, no source). Loads with a duty of their own cycle by it, each turn up to fifteen
per cent longer or shorter by the seed.
"""

from __future__ import annotations

import hashlib
import math

from ironmargin.loads.demand import CYCLE_S
from ironmargin.setup.loads import AirConditioner, Load

TAU_S = 2700.0
SUN_K = 6.0
COOLS_K = 18.0
SET_C = 24.0
BAND_K = 0.6
STAGGER_K = 0.2
"""Two thermostats never agree: each unit's turns so much warmer than the one before (common
practice).
"""
JITTER = 0.15
LEAST_DUTY = 0.05


def jitter(seed: int, ident: str, turn: int) -> float:
    """A figure between −1 and 1 that depends on nothing but the seed, the load and the turn."""
    raw = hashlib.sha256(f"{seed}/{ident}/{turn}".encode()).digest()
    return int.from_bytes(raw[:6], "big") / 2**47 - 1.0


def cycles(load: Load) -> tuple[float, float] | None:
    """How long a load runs and rests [s]; None for one that runs as long as it is on."""
    if load.on_s is not None:
        return (load.on_s, load.off_s or 0.0) if load.off_s else None
    if load.duty is not None and load.duty < 1.0:
        return load.duty * CYCLE_S, (1.0 - load.duty) * CYCLE_S
    return None


def by_room(load: Load) -> bool:
    """Whether a load cycles by the room's thermostat."""
    return isinstance(load, AirConditioner) and cycles(load) is None


def turn_s(load: Load, cooling: bool, seed: int, turn: int) -> float | None:
    """How long a load's present half of its cycle lasts [s]; None for one without a cycle."""
    found = cycles(load)
    if found is None:
        return None
    length = found[0] if cooling else found[1]
    return length * (1.0 + JITTER * jitter(seed, load.id, turn))


def room_goal(outdoor_c: float, running: int) -> float:
    """The temperature a room moves to [°C]."""
    return outdoor_c + SUN_K - COOLS_K * running


def room_after(room_c: float, goal_c: float, seconds: float) -> float:
    """The room after some seconds [°C]: ``T' = (goal − T)/τ``."""
    return goal_c + (room_c - goal_c) * math.exp(-seconds / TAU_S)


def duty_at(setting_c: float, outdoor_c: float) -> float:
    """Share of the time a unit runs to keep a room at a thermostat's setting [1]: how far the room
    would warm above it, over how far the unit cools it.
    """
    return min(max((outdoor_c + SUN_K - setting_c) / COOLS_K, LEAST_DUTY), 1.0)


def crosses_s(room_c: float, goal_c: float, level_c: float) -> float:
    """Seconds until the room crosses a level on its way; infinite if it never does."""
    if abs(level_c - room_c) < 1e-9:
        return 0.0
    share = (level_c - goal_c) / (room_c - goal_c) if room_c != goal_c else 2.0
    return -TAU_S * math.log(share) if 0.0 < share < 1.0 else math.inf


def calls_at(order: int) -> tuple[float, float]:
    """Levels at which a thermostat calls and is satisfied, by the unit's place in the rig [°C]."""
    middle = SET_C + STAGGER_K * order
    return middle + BAND_K, middle - BAND_K
