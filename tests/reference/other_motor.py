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
STALLED_S, AT_SPEED, RELAY_OPENS = 3.0, 0.8, 0.75
CUTS_OFF_S, PATIENCE_S = 0.5, 2.0
"""How long electronics stand at their limit before they open, of those that cut off and of those
that fold back."""
LOADED = 0.98
"""At so much of its limit a supply stands at it."""
GRID = np.linspace(0.0, 0.97, 98)


def _curves(capacitor: complex) -> tuple[np.ndarray, np.ndarray]:
    """Admittance [S] and torque over volts squared of the textbook machine at each speed."""
    found = [field_torque(w, V, capacitor) for w in GRID]
    return np.array([i / V for i, _, _ in found]), np.array([abs(t) / V**2 for _, t, _ in found])


STARTING, RUNNING = _curves(CAP), _curves(CAP * 12)
PLAIN = {True: [c.tolist() for c in STARTING], False: [c.tolist() for c in RUNNING]}
"""The same curves by whether the relay is closed, as plain figures: a start asks for thousands."""
A_STEP = 1.0 / (GRID[1] - GRID[0])


def between(speed: float, curve: list[complex]) -> complex:
    """A curve at a speed, by a straight line between its points."""
    place = min(speed * A_STEP, len(curve) - 1.0)
    low = min(int(place), len(curve) - 2)
    return curve[low] + (curve[low + 1] - curve[low]) * (place - low)


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


@dataclass(frozen=True)
class Day:
    """What differs from one start to the next: stiffness, what the supply holds, and how long its
    electronics stand at their limit, each over the usual.
    """

    stiffness: float = 1.0
    limit: float = 1.0
    patience: float = 1.0


def ended(
    rig: Rig, day: Day, peak_a: float, lowest_v: float, seconds: float, at_limit_s: float
) -> Start:
    """How a start ends that shows this, and was so long at its supply's limit."""
    if at_limit_s > (CUTS_OFF_S if rig.cuts_off else PATIENCE_S) * day.patience:
        return Start(peak_a, lowest_v, math.inf, "trips")
    if not seconds < STALLED_S:
        return Start(peak_a, lowest_v, math.inf, "stalls")
    return Start(peak_a, lowest_v, seconds, "starts")


def at_line(y: complex, eased: float) -> complex:
    """What a motor behind valves that pass a share of the volts draws at the line [S]: its own
    amps, and no more watts than it takes, ``Re(y)·(eased·V)²``; the rest lags.
    """
    watts = y.real * eased**2
    return complex(watts, -math.sqrt(max((abs(y) * eased) ** 2 - watts**2, 0.0)))


def start(rig: Rig, day: Day = Day()) -> Start:
    """One start on some day."""
    size = rig.lra_a / (abs(STARTING[0][0]) * rig.volts)
    full_load = size * float(np.interp(0.95, GRID, RUNNING[1])) * rig.volts**2
    stiff = day.stiffness * rig.stiff
    speed = time = over = 0.0
    peak, lowest, seconds = 0.0, rig.open_v, math.inf
    while time < STALLED_S:
        admittances, torques = PLAIN[speed < RELAY_OPENS]
        y = size * between(speed, admittances)
        fan, eased = rig.fan_a / rig.volts, 1.0
        volts = abs(rig.open_v / (1.0 + rig.ohm * (y + fan)))
        drawn = y
        if rig.held_a and speed < AT_SPEED:
            for _ in range(4):  # what the starter lets by, and the volts that leaves
                eased = min(rig.held_a / (abs(y) * volts), 1.0)
                drawn = at_line(y, eased)
                volts = abs(rig.open_v / (1.0 + rig.ohm * (drawn + fan)))
        limit = day.limit * rig.limit_a * (rig.short if time < 1.0 else 1.0)
        amps = abs(drawn + fan) * volts
        over = over + HALF_CYCLE_S if amps > LOADED * limit else over
        if amps > limit:
            volts *= limit / amps
            amps = limit
        motor_v = volts * eased
        peak, lowest = max(peak, amps), min(lowest, volts)
        torque = rig.torque * size * between(speed, torques).real * motor_v**2 / full_load
        needed = stiff + (0.6 - stiff) * speed**2
        speed = max(speed + (torque - needed) * HALF_CYCLE_S / rig.inertia_s, 0.0)
        time += HALF_CYCLE_S
        if speed >= AT_SPEED:
            seconds = time
            break
    return ended(rig, day, peak, lowest, seconds, over)
