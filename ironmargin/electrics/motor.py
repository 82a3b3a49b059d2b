"""A single-phase motor from its rating plate: currents and torque at any slip and voltage.

Per-phase equivalent circuit with one rotor branch ``Z(s) = R1 + R2/s + jX``:

* ``|Z(1)| = V/LRA`` with a locked-rotor power factor of 0.7 (memory, 0.6 to 0.85);
* ``R2 = 0.2·|Z(1)|``;
* full-load slip from ``V/|Z(s)| = 0.95·RLA``, the run capacitor bringing the line's power factor to
  0.95;
* air-gap torque ``I²·R2/s``, in units of its value at full load and rated volts.

Start gear multiplies torque: a start capacitor until its relay opens at about 75 % speed, a run
capacitor alone less at standstill, fading to 1 as slip falls from 1 to 0.4 (common practice). The
load asks for breakaway torque at standstill, rising with the square of speed. ``2H·dω/dt = T_motor
− T_load`` with speed in units of synchronous speed.

A soft starter holds the motor's current at ``k·LRA``. It feeds main and start winding together, so
that its torque is ``g·k²`` times that of the same motor standing on full volts, g about 3 (common
practice: 2.5 to 3). The k it has learned is the smallest that still turns this compressor with some
reserve.
"""

from __future__ import annotations

import math

from ironmargin.record import record

LOCKED_POWER_FACTOR = 0.7
ROTOR_RESISTANCE_SHARE = 0.2
RUNNING_POWER_FACTOR = 0.95
FULL_LOAD_CURRENT_SHARE = 0.95
INERTIA_H_S = 0.19
RUNNING_H_S = 0.05
"""Inertia of a compressor that runs, the rotor alone (memory: utility tests of residential
units).
"""
LOCKED_OVER_RUNNING = 5.0
"""Locked-rotor over running amps where the plate does not say (common practice: 4 to 6)."""

BREAKAWAY_EQUALISED = 0.15
BREAKAWAY_AT_ONCE = 0.8
EQUALIZING_TAU_S = {"capillary": 60.0, "valve": 180.0, "none": 0.0}
"""Time constant at which pressures equalize after a stop, by what meters the refrigerant: a
capillary or fixed orifice about a minute, an expansion valve three and more (common practice); a
fan, a pump or a saw holds no pressure at all."""
EQUALIZED_TAUS = 5.0
"""After so many time constants the pressures are equal."""
LOAD_AFTER_START = 0.6
SMALLEST_SLIP = 1e-3

GEAR_TORQUE = {"run-capacitor": 0.35, "start-capacitor": 1.5, "hard-start": 1.7}
"""Torque at standstill over that of the plain rotor circuit (common practice)."""
FED_GEAR = {"run-capacitor": 0.6, "start-capacitor": 1.5, "hard-start": 1.7}
"""The same under a soft starter: what it feeds the start winding makes up for some of a missing
start capacitor (common practice).
"""
RELAYED = ("start-capacitor", "hard-start")
GEAR_CURRENT = {"hard-start": 0.92}
"""A hard-start kit takes about 8 % off the locked-rotor current (common practice)."""
SOFT_TORQUE, MAX_SOFT_TORQUE = 3.0, 4.5
"""Torque of a soft-started motor over that of the same motor at the same amps direct on line; 4.5
where it was measured to turn on less.
"""
SOFT_RESERVE = 2.4
"""Torque a learned soft starter keeps over breakaway, so that an ordinary stiff day still turns
(common practice).
"""
MIN_LEARNED, MAX_LEARNED = 0.2, 0.45
UNLEARNED = 0.5
"""Current of a soft starter that has learned nothing yet, over LRA (common practice: 0.45 to
0.55).
"""
STARTS_TO_LEARN = 5
MIN_LOCKED = 1.3
"""Locked-rotor over running amps below which a circuit slips by a third and more at full load: no
motor does [1]."""


@record
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
        gear: what start gear stands behind: its own, or what a soft starter feeds.
        soft_fraction: current limit of a soft starter over LRA, or 0.
        soft_torque: what it gains in torque an amp [1].
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
    gear: str = ""
    soft_fraction: float = 0.0
    soft_torque: float = 1.0
    ramp_s: float = 0.6

    @property
    def start_gear(self) -> str:
        """The gear that makes the torque: a row of :data:`GEAR_TORQUE`."""
        return self.gear or self.start


@record
class Circuit:
    """The equivalent circuit of one motor.

    Attributes:
        r1, r2, x: stator and rotor resistance, leakage reactance [ohm].
        slip_fl: slip at full load [1].
        torque_fl: air-gap power at full load and rated volts, the unit of torque [W].
    """

    r1: float
    r2: float
    x: float
    slip_fl: float
    torque_fl: float


def circuit_of(voltage_v: float, lra_a: float, rla_a: float) -> Circuit:
    """The equivalent circuit of a plate; see the module's text for equations and assumptions.

    Args:
        voltage_v: rated volts [V].
        lra_a: locked-rotor amps [A]; at least 1.2 x RLA.
        rla_a: running amps at full load [A].

    Returns:
        The circuit.
    """
    z1 = voltage_v / lra_a
    x = z1 * math.sqrt(1.0 - LOCKED_POWER_FACTOR**2)
    r2 = ROTOR_RESISTANCE_SHARE * z1
    r1 = LOCKED_POWER_FACTOR * z1 - r2
    i_fl = FULL_LOAD_CURRENT_SHARE * rla_a
    rotor = math.sqrt((voltage_v / i_fl) ** 2 - x**2) - r1
    slip_fl = r2 / rotor
    return Circuit(r1, r2, x, slip_fl, i_fl**2 * rotor)


def torque(circuit: Circuit, volts: float, slip: float) -> float:
    """Air-gap torque without start gear, in units of full load; goes with the square of volts.

    Args:
        circuit: the motor's equivalent circuit [ohm].
        volts: at its terminals [V].
        slip: 1 standing, 0 at synchronous speed [1].

    Returns:
        Torque over that at full load [1].
    """
    rotor = circuit.r2 / slip
    return volts**2 * rotor / ((circuit.r1 + rotor) ** 2 + circuit.x**2) / circuit.torque_fl


def feasible_lra(lra_a: float, rla_a: float) -> float:
    """Locked-rotor amps that make the circuit of a motor: those of the plate, or just enough.

    Args:
        lra_a: locked-rotor amps [A].
        rla_a: running amps at full load [A].

    Returns:
        Amps [A].
    """
    return max(lra_a, MIN_LOCKED * rla_a)


def locked_torque(voltage_v: float, lra_a: float, rla_a: float) -> float:
    """Torque of the standing rotor at rated volts without start gear, in units of full load.

    Args:
        voltage_v: rated volts [V].
        lra_a: locked-rotor amps [A].
        rla_a: running amps at full load [A].

    Returns:
        Torque [full load].
    """
    return float(torque(circuit_of(voltage_v, feasible_lra(lra_a, rla_a), rla_a), voltage_v, 1.0))


def load_torque(speed: float, breakaway: float, at_speed: float) -> float:
    """Torque the machine asks for, rising from breakaway with the square of speed, in units of full
    load.

    Args:
        speed: over synchronous speed [1].
        breakaway: torque asked for standing, over full load [1].
        at_speed: torque asked for at speed, over full load [1].

    Returns:
        Torque over that at full load [1].
    """
    return breakaway + (at_speed - breakaway) * speed * speed


def pressure_left(wait_s: float, metering: str = "capillary") -> float:
    """Share of the pressure difference that is left after a rest [1].

    ``e^(−t/τ)``, brought to zero at five time constants.

    Args:
        wait_s: rest since the compressor stopped [s].
        metering: a key of :data:`EQUALIZING_TAU_S`.

    Returns:
        The share, 1 at once [1].
    """
    if not EQUALIZING_TAU_S[metering]:
        return 0.0
    end = math.exp(-EQUALIZED_TAUS)
    now = math.exp(-max(wait_s, 0.0) / EQUALIZING_TAU_S[metering])
    return max((now - end) / (1.0 - end), 0.0)


def rested_s(metering: str = "capillary") -> float:
    """Rest after which nothing of the pressure is left [s].

    Args:
        metering: a key of :data:`EQUALIZING_TAU_S`.

    Returns:
        Rest [s].
    """
    return EQUALIZED_TAUS * EQUALIZING_TAU_S[metering]


def breakaway_after(wait_s: float, metering: str = "capillary") -> float:
    """Breakaway torque after a rest, in units of full load: from 0.8 at once to 0.15 with
    pressures equal (common practice).

    Args:
        wait_s: rest since the compressor stopped [s].
        metering: a key of :data:`EQUALIZING_TAU_S`.

    Returns:
        Torque [full load].
    """
    left = pressure_left(wait_s, metering)
    return BREAKAWAY_EQUALISED + (BREAKAWAY_AT_ONCE - BREAKAWAY_EQUALISED) * left


def load_after_start(wait_s: float, metering: str = "capillary") -> float:
    """Torque at speed just after a start, in units of full load: head pressure builds from 0.6,
    unless it still stands from before.

    Args:
        wait_s: rest since the compressor stopped [s].
        metering: a key of :data:`EQUALIZING_TAU_S`.

    Returns:
        Torque [full load].
    """
    return LOAD_AFTER_START + (1.0 - LOAD_AFTER_START) * pressure_left(wait_s, metering)


def learned_fraction(locked: float, gear: str, breakaway: float) -> float:
    """What a soft starter learns: the smallest current over LRA that turns this compressor with its
    reserve [1].

    ``k = √(reserve·T_breakaway / (g·gear·T_locked))``, between 0.2 and 0.45 (common practice).

    Args:
        locked: torque of the standing rotor at rated volts [full load].
        gear: start gear, as the setup format names it.
        breakaway: torque asked for [full load].

    Returns:
        Current over LRA [1].
    """
    fraction = math.sqrt(SOFT_RESERVE * breakaway / (SOFT_TORQUE * FED_GEAR[gear] * locked))
    return min(max(fraction, MIN_LEARNED), MAX_LEARNED)


def min_soft_fraction(locked: float, gear: str, breakaway: float) -> float:
    """The smallest current over LRA that turns this rotor at all [1]: without any reserve, and with
    the most torque an amp there is. ``k = √(T_breakaway / (4.5·gear·T_locked))``.

    Args:
        locked: torque of the standing rotor at rated volts [full load].
        gear: start gear, as the setup format names it.
        breakaway: breakaway torque [full load].

    Returns:
        Current over LRA [1].
    """
    return math.sqrt(breakaway / (MAX_SOFT_TORQUE * FED_GEAR[gear] * locked))


def soft_torque_of(fraction: float, locked: float, gear: str, breakaway: float) -> float:
    """Torque gain of a soft starter measured to turn its compressor at ``fraction`` of LRA [1];
    never more than 4.5.

    Args:
        fraction: current it holds over LRA [1].
        locked: torque of the standing rotor at rated volts [full load].
        gear: start gear, as the setup format names it.
        breakaway: breakaway torque [full load].

    Returns:
        Torque an amp, over that of the bare motor [1].
    """
    needed = SOFT_RESERVE * breakaway / (FED_GEAR[gear] * fraction**2 * locked)
    return min(max(needed, SOFT_TORQUE), MAX_SOFT_TORQUE)


def soft_fraction_after(learned: float, starts: int) -> float:
    """Current limit of a soft starter over LRA after some starts: from about 0.5 to what it learns
    in five.

    Args:
        learned: what it ends at [1].
        starts: made so far.

    Returns:
        Current over LRA [1].
    """
    unlearned = max(UNLEARNED, learned)
    return unlearned + (learned - unlearned) * min(starts / STARTS_TO_LEARN, 1.0)
