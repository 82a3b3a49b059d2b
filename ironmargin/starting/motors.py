# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""The motors of a start: currents, torque, speed, start gear, soft starters; the equations stand in
:mod:`ironmargin.electrics.motor`.

Speed in units of synchronous speed; torque in units of the motor's own at full load and rated
volts. Compiled like the engine, with the types of ``motors.pxd``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from cython.cimports.libc.math import sqrt  # type: ignore[import-untyped]

from ironmargin.electrics.network import Real

if TYPE_CHECKING:
    from ironmargin.starting.circuit import Network
    from ironmargin.starting.model import MotorRows

STANDS = 0.02  # a rotor below this speed stands
RUNS = 0.8  # a motor below this speed has pulled out
RINGS = 0.6  # an explicit step rings from about 1 (the stability bound of the two-step rule)
SMALLEST_SLIP = 1e-3
SCRATCH = 13  # figures of a motor that change during a start
STILL = 1e-5  # a speed that moves by less a step, while steps stretch, has settled
MAX_LOADED = 1.2  # beyond, slip no longer goes with the load: the motor is near its pull-out
RELAY_OPENS = 0.75  # speed at which a potential relay drops the start capacitor (common practice)
FADED = 0.6  # speed from which a run capacitor gives all it gives
BYPASS = 0.9  # speed at which a soft starter opens fully (common practice)
BYPASS_S = 0.1  # in which it does (memory)
SOFT_BEGINS = 0.5  # share of its current at which its ramp begins (memory)
SOFT_FULL_VOLTS = 0.85  # share of nominal down to which it makes up for the volts (memory)
# share of nominal under which it gives up, after so long (memory)
SOFT_MIN_VOLTS = 0.5
SOFT_GIVES_UP_S = 1.0
# a starter whose motor is not up so long after its ramp gives up (common practice)
SOFT_WAITS_S = 3.0


class Motors:
    """Every motor unit of the rig, those that start and those that run beside: currents, torque,
    speed, soft starters.
    """

    def __init__(self, motors: MotorRows) -> None:
        self.count = len(motors.place)
        self.place, self.on, self.starting, self.relay = (
            motors.place,
            motors.on,
            motors.starting,
            motors.relay,
        )
        self.ratio, self.rated_v, self.plate_r1, self.plate_r2 = (
            motors.ratio,
            motors.rated_v,
            motors.r1,
            motors.r2,
        )
        self.plate_x, self.series_r, self.series_x = motors.x, motors.series_r, motors.series_x
        self.torque_fl, self.slip_fl, self.gear, self.gear_current = (
            motors.torque_fl,
            motors.slip_fl,
            motors.gear,
            motors.gear_current,
        )
        self.plate_breakaway, self.at_speed, self.inertia_s = (
            motors.breakaway,
            motors.at_speed,
            motors.inertia_s,
        )
        self.soft_a, self.soft_ramp_s, self.soft_torque = (
            motors.soft_a,
            motors.soft_ramp_s,
            motors.soft_torque,
        )
        self.branch = motors.branch
        room = np.zeros((SCRATCH, max(self.count, 1)))
        self.r1, self.r2, self.x, self.breakaway, self.speed, self.before, self.slope = room[:7]
        self.rotor, self.square, self.at_motor, self.conducts, self.ramped_s, self.drawn = room[7:]

    def begin(self, lra: Real, breakaway: Real) -> None:
        """Set each motor still or at speed; ``lra`` and ``breakaway`` multiply what the plate
        says.

        Args:
            lra: of each motor's locked-rotor amps over the plate's [1].
            breakaway: of each motor's stiffness over the plate's [1].
        """
        self.low_s = self.still_s = 0.0
        self.gave_up = False
        for at in range(self.count):
            self.r1[at] = self.plate_r1[at] / lra[at] + self.series_r[at]
            self.r2[at] = self.plate_r2[at] / lra[at]
            self.x[at] = self.plate_x[at] / lra[at] + self.series_x[at]
            self.breakaway[at] = self.plate_breakaway[at] * (
                breakaway[at] if self.starting[at] else 1.0
            )
            self.speed[at] = (
                0.0
                if self.starting[at]
                else self.on[at] * (1.0 - self.slip_fl[at] * min(self.at_speed[at], MAX_LOADED))
            )
            self.before[at] = self.speed[at]
            self.slope[at] = self.ramped_s[at] = 0.0
            self.conducts[at] = 0.0 if self.starting[at] and self.soft_a[at] > 0.0 else 1.0

    def admittance(self, network: Network) -> None:
        """Add the motors to the network, each at its slip and as far as its soft starter conducts
        [S].

        Args:
            network: that feeds them.
        """
        for at in range(self.count):
            self.rotor[at] = self.r2[at] / max(1.0 - self.speed[at], SMALLEST_SLIP)
            resistance = self.r1[at] + self.rotor[at]
            self.square[at] = resistance * resistance + self.x[at] * self.x[at]
            self.at_motor[at] = network.volts[self.place[at]] * self.ratio[at]
            self.drawn[at] = 0.0
            if not self.on[at]:
                continue
            source_strength = self.ratio[at] * self.ratio[at] * self.conducts[at] / self.square[at]
            source_strength *= self.gear_current[at] + (1.0 - self.gear_current[at]) * min(
                self.speed[at] / FADED, 1.0
            )
            drawn = source_strength * (resistance - 1j * self.x[at])
            if self.conducts[at] < 1.0:
                # In series with the motor the starter passes the motor's own amps, but the line
                # gives no more watts than the motor takes: the rest of the volt-amperes is
                # displacement.
                real = drawn.real * self.conducts[at]
                whole = drawn.real * drawn.real + drawn.imag * drawn.imag
                drawn = real - 1j * sqrt(max(whole - real * real, 0.0))
            self.drawn[at] = network.magnitude(drawn) * network.volts[self.place[at]]
            network.y[self.place[at]] = network.y[self.place[at]] + drawn

    def ramp(self, h: float) -> None:
        """Each soft starter opens as far as its held current asks; below its least volts for its
        own time it gives up.

        It makes up for volts down to 85 % of nominal; below, it is fed less current, and its ramp
        stretches with (Vn/V)².

        Args:
            h: length of the step [s].
        """
        self.soft_busy = False
        for at in range(self.count):
            if not self.starting[at] or self.soft_a[at] <= 0.0 or self.conducts[at] >= 1.0:
                continue
            self.soft_busy = True
            share = self.at_motor[at] / self.rated_v[at]
            self.ramped_s[at] += h * (1.0 if share >= SOFT_FULL_VOLTS else share * share)
            set_a = self.soft_a[at] * min(
                1.0, SOFT_BEGINS + (1.0 - SOFT_BEGINS) * self.ramped_s[at] / self.soft_ramp_s[at]
            )
            wish = set_a * sqrt(self.square[at]) / (max(share, SOFT_FULL_VOLTS) * self.rated_v[at])
            if self.speed[at] >= BYPASS:
                wish = max(wish, self.conducts[at] + h / BYPASS_S)
            self.conducts[at] = min(wish, 1.0)
            self.low_s = self.low_s + h if share < SOFT_MIN_VOLTS else 0.0
            if (
                self.low_s > SOFT_GIVES_UP_S
                or self.ramped_s[at] > self.soft_ramp_s[at] + SOFT_WAITS_S
            ):
                self.gave_up = True

    def torque_gain(self, at: int) -> float:
        """What start gear multiplies the torque by: a relay holds it to three quarters of speed, a
        run capacitor fades in.

        A soft starter feeds main and start winding together: more torque an amp, the less far it is
        open.

        Args:
            at: the motor.

        Returns:
            Torque with the gear over torque without [1].
        """
        if self.relay[at] and self.starting[at]:
            gain = self.gear[at] if self.speed[at] < RELAY_OPENS else 1.0
        else:
            gain = self.gear[at] + (1.0 - self.gear[at]) * min(self.speed[at] / FADED, 1.0)
        held_back = 1.0 - self.conducts[at] * self.conducts[at]
        return float(gain * (1.0 + (self.soft_torque[at] - 1.0) * held_back))

    def turn(self, network: Network, h: float, before_h: float) -> None:
        """One step of every rotor at the volts of this moment: ``2H·dω/dt = T_motor − T_load``.

        Two-step Adams-Bashforth, and linearly implicit on the steep side of the torque curve, where
        an explicit step rings.

        Args:
            network: that feeds them.
            h: length of the step [s].
            before_h: length of the step before [s].
        """
        all_still = True
        standing = False
        self.fastest = 0.0
        for at in range(self.count):
            if not self.on[at]:
                continue
            v = network.volts[self.place[at]] * self.ratio[at] * self.conducts[at]
            drive = (
                v
                * v
                * self.rotor[at]
                / (self.square[at] * self.torque_fl[at])
                * self.torque_gain(at)
            )
            requested = (
                self.breakaway[at]
                + (self.at_speed[at] - self.breakaway[at]) * self.speed[at] * self.speed[at]
            )
            slope = (drive - requested) * 0.5 / self.inertia_s[at]
            if self.speed[at] <= 0.0 and slope < 0.0:
                slope = self.slope[at] = 0.0  # it stands, and goes on standing
            # d(torque)/d(slip) = torque/slip · (ρ² − R1² − X²)/|Z|², ρ = R2/s
            beyond = (
                self.rotor[at] * self.rotor[at]
                - self.r1[at] * self.r1[at]
                - self.x[at] * self.x[at]
            )
            stiff = (
                drive
                * beyond
                * 0.5
                * h
                / (self.inertia_s[at] * max(1.0 - self.speed[at], SMALLEST_SLIP) * self.square[at])
            )
            if stiff > RINGS:
                moved = h * slope / (1.0 + max(0.5 * stiff, stiff - 1.0))
            elif before_h > 0.0:
                moved = h * (slope + 0.5 * h / before_h * (slope - self.slope[at]))
            else:
                moved = h * slope
            self.slope[at] = slope
            self.before[at] = self.speed[at]
            self.speed[at] = min(max(self.speed[at] + moved, 0.0), 1.0 - SMALLEST_SLIP)
            self.fastest = max(self.fastest, abs(slope))
            all_still = all_still and abs(moved) < STILL
            standing = standing or (self.starting[at] != 0 and self.speed[at] < STANDS)
        self.still_s = self.still_s + h if all_still or standing else 0.0

    def up(self) -> bool:
        """Whether every motor that starts has reached its speed, soft starters fully open.

        Returns:
            Whether all have.
        """
        for at in range(self.count):
            if self.starting[at] and (
                self.speed[at] < 1.0 - 2.0 * self.slip_fl[at] or self.conducts[at] < 1.0
            ):
                return False
        return True

    def pulled_out(self) -> int:
        """How many motors that ran beside the start have fallen out.

        Returns:
            Their number.
        """
        found = 0
        for at in range(self.count):
            found += self.fell(at)
        return found

    def fell(self, at: int) -> bool:
        """Whether a motor that ran beside the start has fallen out.

        Args:
            at: the motor.

        Returns:
            Whether it has.
        """
        return bool(self.on[at] and not self.starting[at] and self.speed[at] < RUNS)

    def standing(self) -> bool:
        """Whether a motor that is to start still stands.

        Returns:
            Whether one does.
        """
        for at in range(self.count):
            if self.starting[at] and self.speed[at] < STANDS:
                return True
        return False

    def late_share(self) -> float:
        """Share of the last step since the last motor reached its speed, by straight line [1].

        Returns:
            Share of the step [1].
        """
        minimum = 1.0
        for at in range(self.count):
            if self.starting[at] and self.speed[at] > self.before[at]:
                minimum = min(
                    minimum,
                    (self.speed[at] - 1.0 + 2.0 * self.slip_fl[at])
                    / (self.speed[at] - self.before[at]),
                )
        return max(minimum, 0.0)
