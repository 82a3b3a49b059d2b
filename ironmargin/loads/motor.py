"""A single-phase motor from its rating plate: currents and torque at any slip and voltage.

Per-phase equivalent circuit with one rotor branch ``Z(s) = R1 + R2/s + jX``:

* ``|Z(1)| = V/LRA`` with a locked-rotor power factor of 0.7 (memory, 0.6 to 0.85);
* ``R2 = 0.2·|Z(1)|``;
* full-load slip from ``V/|Z(s)| = 0.95·RLA``, the run capacitor bringing the line's power factor to 0.95;
* air-gap torque ``I²·R2/s``, in units of its value at full load and rated volts.

Start gear multiplies torque near standstill and fades to 1 as slip falls from 1 to 0.4 (common
practice). The load asks for breakaway torque at standstill, rising with the square of speed.
``2H·dω/dt = T_motor − T_load`` with speed in units of synchronous speed.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

LOCKED_POWER_FACTOR = 0.7
ROTOR_RESISTANCE_SHARE = 0.2
RUNNING_POWER_FACTOR = 0.95
FULL_LOAD_CURRENT_SHARE = 0.95
INERTIA_H_S = 0.19
LOCKED_OVER_RUNNING = 5.0
"""Locked-rotor over running amps where the plate does not say (common practice: 4 to 6)."""

BREAKAWAY_EQUALISED = 0.15
BREAKAWAY_AT_ONCE = 0.8
EQUALISING_S = 180.0
"""Pressures need about three minutes to equalise after a stop (common practice)."""
LOAD_AFTER_START = 0.6
SMALLEST_SLIP = 1e-3

GEAR_TORQUE = {"run-capacitor": 0.35, "start-capacitor": 1.2, "hard-start": 1.4, "soft-start": 1.2}
GEAR_CURRENT = {"hard-start": 0.92}


@dataclass(frozen=True)
class MotorPlate:
    """The plate figures a start is computed from.

    Attributes:
        voltage_v: rated volts [V].
        lra_a: locked-rotor amps [A].
        rla_a: running amps at full load [A].
        start: start gear, as in the setup format.
        load_torque: torque the machine settles to, in units of full load.
        breakaway: torque at standstill, in units of full load.
        load_after_start: torque at speed just after the start, in units of full load.
        lra_typical: the LRA was assumed, not read.
        soft_fraction: current limit of a soft starter over LRA, or 0.
        ramp_s: its ramp at full volts [s].
    """

    voltage_v: float
    lra_a: float
    rla_a: float
    start: str
    load_torque: float = 1.0
    breakaway: float = BREAKAWAY_EQUALISED
    load_after_start: float = LOAD_AFTER_START
    lra_typical: bool = False
    soft_fraction: float = 0.0
    ramp_s: float = 0.6


@dataclass(frozen=True)
class Circuit:
    """The equivalent circuit; each field a number or an array over trials.

    Attributes:
        r1, r2, x: stator and rotor resistance, leakage reactance [ohm].
        slip_fl: slip at full load [1].
        torque_fl: air-gap power at full load and rated volts, the unit of torque [W].
    """

    r1: Any
    r2: Any
    x: Any
    slip_fl: Any
    torque_fl: Any


def circuit_of(voltage_v: Any, lra_a: Any, rla_a: Any) -> Circuit:
    """The equivalent circuit of a plate; see the module's text for equations and assumptions.

    Args:
        voltage_v, lra_a, rla_a: rated volts [V], locked-rotor amps [A], running amps [A]; LRA at least 1.2 x RLA.
    """
    z1 = voltage_v / lra_a
    x = z1 * np.sqrt(1.0 - LOCKED_POWER_FACTOR**2)
    r2 = ROTOR_RESISTANCE_SHARE * z1
    r1 = LOCKED_POWER_FACTOR * z1 - r2
    i_fl = FULL_LOAD_CURRENT_SHARE * rla_a
    rotor = np.sqrt((voltage_v / i_fl) ** 2 - x**2) - r1
    slip_fl = r2 / rotor
    return Circuit(r1, r2, x, slip_fl, i_fl**2 * rotor)


def torque(circuit: Circuit, volts: Any, slip: Any) -> Any:
    """Air-gap torque without start gear, in units of full load; goes with the square of volts."""
    rotor = circuit.r2 / slip
    return volts**2 * rotor / ((circuit.r1 + rotor) ** 2 + circuit.x**2) / circuit.torque_fl


def gear_factor(slip: Any, at_standstill: Any) -> Any:
    """What start gear multiplies by: its standstill value fading to 1 as slip falls from 1 to 0.4."""
    faded = np.clip((1.0 - slip) / 0.6, 0.0, 1.0)
    return at_standstill + (1.0 - at_standstill) * faded


def load_torque(speed: Any, breakaway: Any, at_speed: Any) -> Any:
    """Torque the machine asks for, rising from breakaway with the square of speed, in units of full load."""
    return breakaway + (at_speed - breakaway) * speed * speed


def breakaway_after(wait_s: float) -> float:
    """Breakaway torque after a rest of ``wait_s``: pressures equalise over three minutes (common practice)."""
    rest = min(max(wait_s / EQUALISING_S, 0.0), 1.0)
    return BREAKAWAY_AT_ONCE + (BREAKAWAY_EQUALISED - BREAKAWAY_AT_ONCE) * rest


def soft_fraction_after(learned: float, starts: int) -> float:
    """Current limit of a soft starter over LRA after some starts.

    Unlearned about 0.55, reaching its learned value after five starts (common practice).
    """
    unlearned = max(0.55, learned)
    return unlearned + (learned - unlearned) * min(starts / 5.0, 1.0)
