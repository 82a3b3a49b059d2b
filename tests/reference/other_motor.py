"""Starts of another physical model than the engine's: a motor of two windings by symmetrical
components, turned in steps of half a cycle on a supply that folds back or cuts off.

Rigs made of it are the truth that a log's learning is held against (``benchmarks/learning.py`` and
``test_learning.py``): their torque falls otherwise with speed than the engine's, so that what the
engine believes is wrong in form, not only in figures. The machine and its source stand in
``test_two_windings.py``; here it is scaled to a plate.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tests.reference.test_two_windings import CAP, V, field_torque

HALF_CYCLE_S = 1.0 / 120.0
STALLED_S, AT_SPEED, RELAY_OPENS = 4.0, 0.8, 0.75
GRID = np.linspace(0.0, 0.97, 98)


def _curves(capacitor: complex) -> tuple[np.ndarray, np.ndarray]:
    """Admittance [S] and torque over volts squared of the textbook machine at each speed."""
    found = [field_torque(w, V, capacitor) for w in GRID]
    return np.array([i / V for i, _, _ in found]), np.array([abs(t) / V**2 for _, t, _ in found])


STARTING, RUNNING = _curves(CAP), _curves(CAP * 12)


@dataclass(frozen=True)
class Rig:
    """A true motor on a true supply.

    Attributes:
        lra_a: locked-rotor amps at rated volts [A]; volts: rated [V]; stiff: breakaway torque over
        full-load torque; inertia_s: seconds to speed at full-load torque; fan_a: beside it [A].
        open_v, ohm: of supply and path; limit_a: what the supply holds for good [A], ``short``
        times as much in the first second; cuts_off: it opens half a second beyond its limit.
        held_a: what a soft starter holds [A], 0 without one; torque: of this machine over the
        textbook's [1].
    """

    lra_a: float
    volts: float
    stiff: float
    inertia_s: float
    fan_a: float
    open_v: float
    ohm: complex
    limit_a: float = math.inf
    short: float = 1.0
    cuts_off: bool = False
    held_a: float = 0.0
    torque: float = 1.0


@dataclass(frozen=True)
class Start:
    """What a start showed: peak [A], lowest volts [V], seconds to speed, and how it ended."""

    peak_a: float
    lowest_v: float
    seconds: float
    outcome: str


def start(rig: Rig, day: float = 1.0) -> Start:
    """One start; ``day`` is the day's own stiffness over the usual one."""
    size = rig.lra_a / (abs(STARTING[0][0]) * rig.volts)
    full_load = size * float(np.interp(0.95, GRID, RUNNING[1])) * rig.volts**2
    speed = time = over = 0.0
    peak, lowest = 0.0, rig.open_v
    while time < STALLED_S:
        admittances, torques = STARTING if speed < RELAY_OPENS else RUNNING
        y = size * complex(
            np.interp(speed, GRID, admittances.real), np.interp(speed, GRID, admittances.imag)
        )
        fan = rig.fan_a / rig.volts
        volts = abs(rig.open_v / (1.0 + rig.ohm * (y + fan)))
        limit = rig.limit_a * (rig.short if time < 1.0 else 1.0)
        amps = abs(y + fan) * volts
        over = over + HALF_CYCLE_S if amps > limit else 0.0
        if amps > limit:
            volts *= limit / amps
            amps = limit
        own = abs(y) * volts
        motor_v = volts
        if rig.held_a and own > rig.held_a and speed < AT_SPEED:
            motor_v = volts * rig.held_a / own
            amps = min(rig.held_a + fan * volts, limit)
        peak, lowest = max(peak, amps), min(lowest, volts)
        if rig.cuts_off and over > 0.5:
            return Start(peak, lowest, math.inf, "trips")
        torque = rig.torque * size * float(np.interp(speed, GRID, torques)) * motor_v**2 / full_load
        needed = day * rig.stiff + (0.6 - day * rig.stiff) * speed**2
        speed = max(speed + (torque - needed) * HALF_CYCLE_S / rig.inertia_s, 0.0)
        time += HALF_CYCLE_S
        if speed >= AT_SPEED:
            return Start(peak, lowest, time, "starts")
    return Start(peak, lowest, math.inf, "stalls")
