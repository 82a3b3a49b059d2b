# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""One start, followed half mains cycle by half cycle to its outcome.

Each step: what hangs on every place of the panel at its present volts; the network, folded back to
what the supply can give; what latches, breakers and the guard feel of it; one step of the rotors.
RMS phasors at the fundamental; L1 is the angle reference; amps are positive from source to load;
speed in units of synchronous speed; torque in units of the motor's own at full load and rated
volts. The motors' equations stand in :mod:`ironmargin.loads.motor`.

:meth:`Engine.one_start` is the whole story; chance, reserve and pictures call it and know nothing
of its inside. The file is plain Python: ``tools/compile.py`` compiles it ahead of time (Cython,
with the types of ``engine.pxd`` beside it), and uncompiled it runs as it stands.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from cython.cimports.libc.math import exp, sqrt  # type: ignore[import-untyped]

from ironmargin.electrics.network import Real

UNDECIDED = 0
STARTS = 1
STALLS = 2
TRIPS = 3
VOLTS_STAY_LOW = 4
LETS_GO = 5
UNSOLVED = 6
PASSES = STARTS
OUTCOMES = {1: "starts", 2: "stalls", 3: "trips", 4: "volts-stay-low", 5: "lets-go", 6: "unsolved"}

# When a start is decided
# a rotor still standing now is held by its own overload (common practice: 5 to 10 s)
HORIZON_S = 8.0
RECOVERED = 0.85  # share of nominal at which volts count as back (just under C84.1 range B; memory)
PATIENCE_S = 2.0  # for volts and loads to come back once the rotor is up (common practice)
STANDS = 0.02
STANDSTILL_S = 0.4
RUNS = 0.8  # a motor below this speed has pulled out
# speed change [1/s] under which steps are twice, and standing still four times, as long
CALM = 0.25
RINGS = 0.6  # an explicit step rings from about 1 (the stability bound of the two-step rule)
SETTLE_S = 0.25  # a picture goes on so long after the start
# Motors and their gear
SMALLEST_SLIP = 1e-3
RELAY_OPENS = 0.75  # speed at which a potential relay drops the start capacitor (common practice)
FADED = 0.6  # speed from which a run capacitor gives all it gives
BYPASS = 0.9  # speed at which a soft starter opens fully (common practice)
BYPASS_S = 0.1
SOFT_BEGINS = 0.5  # share of its current at which its ramp begins (memory)
SOFT_FULL_VOLTS = 0.85
SOFT_LEAST_VOLTS = 0.5
SOFT_GIVES_UP_S = 1.0
# a starter whose motor is not up so long after its ramp gives up (common practice)
SOFT_WAITS_S = 3.0
# Supplies
CARRY_S = 0.3  # flywheel and bus carry so many seconds of the engine's power (common practice)
SHORT_S = 1.0  # how long electronics hold their short-time current (common practice)
ECO_FRACTION = 0.5
ECO_TAU_S = 1.5
FIELD_CEILING = 1.6
FIELD_TAU_S = 0.3  # a regulator forces the field in about 0.3 s, to about 1.6 times (memory)
UNDERVOLT = 0.6
GUARD_FILTER_S = 1.0  # a guard looks at low volts so long before it opens (memory)
FIRST_PASSES = 12
PASSES_AT_A_LIMIT = 4
TINY = 1e-12


def size(z: Any) -> float:
    """Absolute value of a complex number, without the library's care for huge and tiny ones: it
    took a quarter of a start's time.
    """
    return float(sqrt(z.real * z.real + z.imag * z.imag))


class Network:
    """Source, path and panel: two electromotive forces behind a matrix of impedances, at most at
    their limits.

    ``V = E − Z·I``, ``I = Y·V``; see :mod:`ironmargin.electrics.network` for places and signs. At
    fixed admittances everything is linear in the electromotive force, so that a source at its limit
    is the same source scaled down.
    """

    def __init__(self, wiring: Any) -> None:
        self.two_legs, self.tied, self.conductors = wiring.two_legs, wiring.tied, wiring.conductors
        self.e1, self.e2 = wiring.e1_v, wiring.e2_v
        self.supply_z, self.path_z = wiring.supply_ohm, wiring.path_ohm
        # what hangs on each place [S], and its volts: L1, L2, and between them
        self.y, self.volts = np.zeros(3, dtype=complex), np.zeros(3)

    def begin(self, strength: float, path: float, lift: float) -> None:
        """Set the impedances of a supply and a path so many times as strong, and the open-circuit
        volts.
        """
        self.z11 = self.supply_z[0] / strength + self.path_z[0] / path
        self.z12 = self.supply_z[1] / strength + self.path_z[1] / path
        self.z22 = self.supply_z[2] / strength + self.path_z[2] / path
        self.v1, self.v2 = self.e1 * lift, self.e2 * lift
        self.see()

    def see(self) -> None:
        """Volts of the places: L1, L2, and between them [V]."""
        self.volts[0] = size(self.v1)
        self.volts[1] = size(self.v2)
        self.volts[2] = size(self.v1 - self.v2)

    def solve(self, lift: float, most_a: float, most_w: float) -> None:
        """Volts of the places and amps of the source at the admittances there, held to ``most_a``
        and ``most_w``.
        """
        v12 = v21 = v22 = i12 = i21 = i22 = i2 = 0.0
        across = self.y[2]
        from1 = self.y[0] + across
        from2 = self.y[1] + across
        # volts and amps that the electromotive force of each leg makes by itself
        if self.two_legs:  # (1 + Z·Y)⁻¹·E, a column a leg
            m11 = 1.0 + self.z11 * from1 - self.z12 * across
            m12 = self.z12 * from2 - self.z11 * across
            m21 = self.z12 * from1 - self.z22 * across
            m22 = 1.0 + self.z22 * from2 - self.z12 * across
            per = 1.0 / (m11 * m22 - m12 * m21)
            by1 = self.e1 * per
            by2 = self.e2 * per
            v11 = m22 * by1
            v12 = -m12 * by2
            v21 = -m21 * by1
            v22 = m11 * by2
            i11 = from1 * v11 - across * v21
            i12 = from1 * v12 - across * v22
            i21 = from2 * v21 - across * v11
            i22 = from2 * v22 - across * v12
        else:
            v11 = self.e1 / (1.0 + self.z11 * self.y[0])
            i11 = self.y[0] * v11
        lift1 = lift2 = lift
        for again in range(PASSES_AT_A_LIMIT):
            i1 = i11 * lift1 + i12 * lift2
            if self.two_legs:
                i2 = i21 * lift1 + i22 * lift2
            self.a1 = size(i1 + i2) if self.tied else size(i1)
            self.a2 = self.a1 if self.conductors == 1 else size(i2)
            self.watts = lift1 * (self.e1 * i1.conjugate()).real
            self.watts += lift2 * (self.e2 * i2.conjugate()).real
            power = sqrt(most_w / self.watts) if self.watts > most_w else 1.0
            first = min(power, most_a / self.a1 if self.a1 > most_a else 1.0)
            second = min(power, most_a / self.a2 if self.a2 > most_a else 1.0)
            if first == second or self.conductors == 1:  # all of it is that much less
                lift1 *= first
                lift2 *= first
                self.a1 *= first
                self.a2 *= first
                self.watts *= first * first
                break
            if min(first, second) > 0.999 or again == PASSES_AT_A_LIMIT - 1:
                break
            lift1 *= first
            lift2 *= second
        self.v1 = v11 * lift1 + v12 * lift2
        self.v2 = v21 * lift1 + v22 * lift2
        self.see()


class Loads:
    """What runs beside the start, motors excepted: fixed impedances, constant power that may let
    go, and inrushes.

    Constant power follows the volts by half a step's difference at a time (its capacitors smooth
    it), lets go below one share of nominal volts and comes back by itself above another.
    """

    def __init__(self, loads: Any) -> None:
        self.fixed, self.place, self.rated, self.nominal_v = (
            loads.fixed_y,
            loads.place,
            loads.power_y,
            loads.nominal_v,
        )
        self.lets_go, self.returns = loads.lets_go, loads.returns
        self.rush_place, self.rush, self.rush_tau_s = (
            loads.rush_place,
            loads.rush_y,
            loads.rush_tau_s,
        )
        self.now = np.zeros(len(loads.place), dtype=complex)
        self.live, self.blinked = (np.zeros(len(loads.place), dtype=np.intc) for _ in range(2))
        self.rushing_s = 4.0 * max(loads.rush_tau_s, default=0.0)

    def begin(self) -> None:
        self.off = 0
        for at in range(self.place.shape[0]):
            self.live[at] = 1
            self.blinked[at] = 0
            self.now[at] = self.rated[at]

    def admittance(self, network: Any, t_s: float) -> None:
        """Put what hangs on each place of the network at its volts there [S]."""
        for at in range(3):
            network.y[at] = self.fixed[at]
        self.off = 0
        for at in range(self.place.shape[0]):
            share = network.volts[self.place[at]] / self.nominal_v[at]
            if self.live[at] and share < self.lets_go[at]:
                self.live[at] = 0
                self.blinked[at] = 1
            elif not self.live[at] and share >= self.returns[at]:
                self.live[at] = 1
            self.off += 1 - self.live[at]
            target = (
                self.live[at]
                * self.rated[at]
                / max(share * share, self.lets_go[at] * self.lets_go[at])
            )
            self.now[at] = self.now[at] + 0.5 * (target - self.now[at])
            network.y[self.place[at]] = network.y[self.place[at]] + self.now[at]
        for at in range(self.rush_place.shape[0]):
            rush = self.rush[at] * exp(-t_s / self.rush_tau_s[at])
            network.y[self.rush_place[at]] = network.y[self.rush_place[at]] + rush


class Motors:
    """Every motor unit of the rig, those that start and those that run beside: currents, torque,
    speed, soft starters.
    """

    def __init__(self, motors: Any) -> None:
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
        room = np.zeros((12, max(self.count, 1)))
        self.r1, self.r2, self.x, self.breakaway, self.speed, self.before = (
            room[0],
            room[1],
            room[2],
            room[3],
            room[4],
            room[5],
        )
        self.slope, self.rotor, self.square, self.at_motor, self.conducts, self.ramped_s = (
            room[6],
            room[7],
            room[8],
            room[9],
            room[10],
            room[11],
        )

    def begin(self, lra: Real, breakaway: Real) -> None:
        """Set each motor still or at speed; ``lra`` and ``breakaway`` multiply what the plate
        says.
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
                else self.on[at] * (1.0 - self.slip_fl[at] * min(self.at_speed[at], 1.2))
            )
            self.before[at] = self.speed[at]
            self.slope[at] = self.ramped_s[at] = 0.0
            self.conducts[at] = 0.0 if self.starting[at] and self.soft_a[at] > 0.0 else 1.0

    def admittance(self, network: Any) -> None:
        """Add the motors to the network, each at its slip and as far as its soft starter conducts
        [S].
        """
        for at in range(self.count):
            self.rotor[at] = self.r2[at] / max(1.0 - self.speed[at], SMALLEST_SLIP)
            resistance = self.r1[at] + self.rotor[at]
            self.square[at] = resistance * resistance + self.x[at] * self.x[at]
            self.at_motor[at] = network.volts[self.place[at]] * self.ratio[at]
            if not self.on[at]:
                continue
            strength = self.ratio[at] * self.ratio[at] * self.conducts[at] / self.square[at]
            strength *= self.gear_current[at] + (1.0 - self.gear_current[at]) * min(
                self.speed[at] / FADED, 1.0
            )
            drawn = strength * (resistance - 1j * self.x[at])
            network.y[self.place[at]] = network.y[self.place[at]] + drawn

    def soften(self, h: float) -> None:
        """Each soft starter opens as far as its held current asks; below its least volts for its
        own time it gives up.

        It makes up for volts down to 85 % of nominal; below, it is fed less current, and its ramp
        stretches with (Vn/V)².
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
            self.low_s = self.low_s + h if share < SOFT_LEAST_VOLTS else 0.0
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
        """
        if self.relay[at] and self.starting[at]:
            gain = self.gear[at] if self.speed[at] < RELAY_OPENS else 1.0
        else:
            gain = self.gear[at] + (1.0 - self.gear[at]) * min(self.speed[at] / FADED, 1.0)
        held_back = 1.0 - self.conducts[at] * self.conducts[at]
        return float(gain * (1.0 + (self.soft_torque[at] - 1.0) * held_back))

    def turn(self, network: Any, h: float, before_h: float) -> None:
        """One step of every rotor at the volts of this moment: ``2H·dω/dt = T_motor − T_load``.

        Two-step Adams-Bashforth, and linearly implicit on the steep side of the torque curve, where
        an explicit step rings.
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
            asked = (
                self.breakaway[at]
                + (self.at_speed[at] - self.breakaway[at]) * self.speed[at] * self.speed[at]
            )
            slope = (drive - asked) * 0.5 / self.inertia_s[at]
            if self.speed[at] <= 0.0 and slope < 0.0:
                slope = 0.0
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
            all_still = all_still and abs(moved) < 1e-5
            standing = standing or (self.starting[at] != 0 and self.speed[at] < STANDS)
        self.still_s = self.still_s + h if all_still or standing else 0.0

    def up(self) -> bool:
        """Whether every motor that starts has reached its speed, soft starters fully open."""
        for at in range(self.count):
            if self.starting[at] and (
                self.speed[at] < 1.0 - 2.0 * self.slip_fl[at] or self.conducts[at] < 1.0
            ):
                return False
        return True

    def pulled_out(self) -> int:
        """How many motors that ran beside the start have fallen out."""
        found = 0
        for at in range(self.count):
            found += self.fell(at)
        return found

    def fell(self, at: int) -> bool:
        """Whether a motor that ran beside the start has fallen out."""
        return bool(self.on[at] and not self.starting[at] and self.speed[at] < RUNS)

    def standing(self) -> bool:
        for at in range(self.count):
            if self.starting[at] and self.speed[at] < STANDS:
                return True
        return False

    def late_share(self) -> float:
        """Share of the last step since the last motor reached its speed, by straight line [1]."""
        least = 1.0
        for at in range(self.count):
            if self.starting[at] and self.speed[at] > self.before[at]:
                least = min(
                    least,
                    (self.speed[at] - 1.0 + 2.0 * self.slip_fl[at])
                    / (self.speed[at] - self.before[at]),
                )
        return max(least, 0.0)


class Supply:
    """What the supply can give in time, and what opens: two limits, latches, breakers, a guard.

    The electronics hold a short-time current for the first second at their limit, then their
    lasting one; the engine's power is another limit, which flywheel and bus carry over for a few
    tenths of a second. A regulator forces the field of a conventional alternator. Overload latch:
    ``Σ((I/I_cont)² − 1)·dt > k``.
    """

    def __init__(self, supply: Any) -> None:
        self.limit_a, self.crest_a, self.limit_w = supply.limit_a, supply.crest_a, supply.limit_w
        self.continuous_a, self.offset_a, self.latch_k_s = (
            supply.continuous_a,
            supply.offset_a,
            supply.latch_k_s,
        )
        self.undervolt_s, self.leg_v, self.also_a, self.guard_low_v = (
            supply.undervolt_s,
            supply.leg_v,
            supply.also_a,
            supply.guard_low_v,
        )
        self.turns, self.eco, self.forced = supply.turns, supply.eco, supply.forced
        self.leg, self.scaled, self.rating_a, self.tau_s = (
            supply.breaker_leg,
            supply.scaled,
            supply.rating_a,
            supply.tau_s,
        )
        self.trip_heat, self.magnetic, self.warm = (supply.trip_heat, supply.magnetic, supply.warm)
        self.heat, self.settles = np.zeros(len(supply.warm)), np.zeros(len(supply.warm))
        self.settles_in_s = 0.0

    def pace(self, h: float) -> None:
        """How far each breaker's heat goes to its end in a step: few lengths of step come."""
        self.settles_in_s = h
        for at in range(self.leg.shape[0]):
            self.settles[at] = 1.0 - exp(-h / self.tau_s[at])

    def begin(self, strength: float, latch: float, short: float) -> None:
        self.strength, self.latch, self.short, self.field = strength, latch, short, 1.0
        self.carried_j = CARRY_S * self.limit_w * strength
        self.short_left_s = SHORT_S
        self.overload = self.under_s = self.guard_s = 0.0
        for at in range(self.leg.shape[0]):
            self.heat[at] = self.warm[at]

    def most_a(self, t_s: float) -> float:
        """Amps the electronics hold now, seen at the panel [A]."""
        most = self.limit_a * self.strength
        if self.eco:
            most *= 1.0 - ECO_FRACTION * exp(-t_s / ECO_TAU_S)
        if self.short_left_s > 0.0:
            most *= self.short
        return float(max(most - self.crest_a, 0.05 * most) / self.turns)

    def most_w(self) -> float:
        """Watts the engine gives now; more than its power while the flywheel carries [W]."""
        return 1e300 if self.carried_j > 0.0 else self.limit_w * self.strength

    def feel(self, h: float, a1: float, a2: float, weakest: float, watts: float) -> bool:
        """Pass a step of these amps [A], volts [V] and watts [W]; True if something opened in
        it.
        """
        opened = False
        most = max(a1, a2)
        if self.limit_w < 1e299:
            self.carried_j = min(
                self.carried_j + (self.limit_w * self.strength - watts) * h,
                CARRY_S * self.limit_w * self.strength,
            )
        if most > (self.limit_a * self.strength - self.crest_a) * 0.999:
            self.short_left_s -= h
        if self.forced:
            carried = FIELD_CEILING if weakest < 0.98 * self.leg_v else 1.0
            self.field += (carried - self.field) * (1.0 - exp(-h / FIELD_TAU_S))
        if self.latch_k_s < 1e299:
            carried = max(most - self.offset_a, 0.0) / (self.continuous_a * self.strength)
            self.overload = max(self.overload + (carried * carried - 1.0) * h, 0.0)
            self.under_s = self.under_s + h if weakest < UNDERVOLT * self.leg_v else 0.0
            opened = (
                self.overload > self.latch_k_s * self.latch
                or self.under_s > self.undervolt_s * self.latch
            )
        if h != self.settles_in_s:
            self.pace(h)
        for at in range(self.leg.shape[0]):
            amps = (a1 if self.leg[at] == 0 else a2) + self.also_a
            carried = amps / (self.rating_a[at] * (self.strength if self.scaled[at] else 1.0))
            self.heat[at] += (carried * carried - self.heat[at]) * self.settles[at]
            opened = opened or self.heat[at] >= self.trip_heat[at] or carried >= self.magnetic[at]
        if self.guard_low_v > 0.0:
            self.guard_s = self.guard_s + h if weakest < self.guard_low_v else 0.0
            opened = opened or self.guard_s > GUARD_FILTER_S
        return opened


class Engine:
    """One rig on one supply with one choice of who starts.

    After a start its results are attributes: ``peak_a`` of the source [A], ``lowest_v`` of the
    weaker leg [V], ``up_s`` when the last motor was up and ``opened_s`` when something opened,
    infinite if never [s]; ``off`` and ``fallen``, how many constant-power loads and running motors
    had let go at the end; ``nearest_latch``, how far the overload latch filled [1].
    """

    def __init__(self, model: Any) -> None:
        """Take over the arrays of a :class:`ironmargin.starting.model.Model`."""
        self.network, self.loads = Network(model.wiring), Loads(model.loads)
        self.motors, self.supply = Motors(model.motors), Supply(model.supply)
        self.step_s, self.runs = model.step_s, 0
        self.log: Any = None
        self.peak_a = self.lowest_v = self.up_s = self.opened_s = self.nearest_latch = 0.0
        self.decided_s = 0.0

    def states(self) -> tuple[Any, Any, Any]:
        """Which constant-power loads are off, which were off for a moment, and which motors that
        ran beside have pulled out, after a start.
        """
        motors = self.motors
        return (
            np.array(self.loads.live) == 0,
            np.array(self.loads.blinked) != 0,
            np.array([motors.fell(at) for at in range(motors.count)], dtype=bool),
        )

    def one_start(
        self,
        strength: float,
        path: float,
        lift: float,
        latch: float,
        short: float,
        lra: Real,
        breakaway: Real,
        keep: bool = False,
    ) -> int:
        """Follow one start to its outcome, half cycle by half cycle.

        Args:
            strength: of the supply, 1 as it is; path: of the path likewise; lift: open-circuit
            volts over nominal; latch: time of the latches over nominal; short: what the electronics
            hold in the first second over their lasting limit; lra,
            breakaway: factors of each motor [all 1].
            keep: log every step, and follow on past the outcome until something opens or the start
            is over.

        Returns:
            One of the codes of :data:`OUTCOMES`.
        """
        if keep and self.log is None:
            self.log = np.zeros(
                (int(HORIZON_S / self.step_s) + 8, 5 + self.motors.count + len(self.supply.leg))
            )
            self.pages = self.log
        return int(self.follow(strength, path, lift, latch, short, lra, breakaway, keep))

    def follow(
        self,
        strength: float,
        path: float,
        lift: float,
        latch: float,
        short: float,
        lra: Real,
        breakaway: Real,
        keep: bool,
    ) -> int:
        """:meth:`one_start` where the log, if one is kept, is at hand; no other thread waits for
        it.
        """
        t = 0.0
        h = self.step_s
        before_h = 0.0
        waited_s = 0.0
        quiet_s = 0.0
        weakest = 0.0
        outcome = UNDECIDED
        self.begin(strength, path, lift, latch, short, lra, breakaway, keep)
        while True:
            for again in range(FIRST_PASSES if t == 0.0 else 1):
                self.loads.admittance(self.network, t)
                self.motors.admittance(self.network)
                if again == 0:
                    self.motors.soften(h)
                self.network.solve(
                    lift * self.supply.field, self.supply.most_a(t), self.supply.most_w()
                )
            weakest = (
                min(self.network.volts[0], self.network.volts[1])
                if self.network.two_legs
                else self.network.volts[0]
            )
            source_a = max(self.network.a1, self.network.a2) * self.supply.turns
            if weakest != weakest or weakest > 1e6:
                return UNSOLVED
            if outcome == UNDECIDED or keep:
                self.peak_a = max(self.peak_a, source_a)
                self.lowest_v = min(self.lowest_v, weakest)
            if keep:
                self.note(t, source_a)
            opened = self.supply.feel(
                h,
                self.network.a1 * self.supply.turns,
                self.network.a2 * self.supply.turns,
                weakest,
                self.network.watts,
            )
            if self.supply.latch_k_s < 1e299:
                self.nearest_latch = max(
                    self.nearest_latch, self.supply.overload / (self.supply.latch_k_s * latch)
                )
            self.off, self.fallen = self.loads.off, self.motors.pulled_out()
            if self.motors.up() and t >= self.loads.rushing_s:
                if self.up_s > 1e299:
                    self.up_s = (
                        max(t - before_h * self.motors.late_share(), 0.0)
                        if self.motors.count
                        else t
                    )
                well = (
                    weakest >= RECOVERED * self.supply.leg_v and self.off == 0 and self.fallen == 0
                )
                if outcome == UNDECIDED and well:
                    outcome = STARTS
                waited_s = 0.0 if well else waited_s + h
                if outcome == UNDECIDED and waited_s > PATIENCE_S:
                    outcome = LETS_GO if self.off or self.fallen else VOLTS_STAY_LOW
            if opened and self.opened_s > 1e299:
                self.opened_s = t
                if outcome == UNDECIDED:
                    outcome = (
                        STALLS
                        if self.motors.standing() or self.motors.still_s > STANDSTILL_S
                        else TRIPS
                    )
            if outcome == UNDECIDED and self.stuck(t):
                outcome = STALLS
            quiet_s = quiet_s + h if outcome == STARTS else 0.0
            if outcome != UNDECIDED and self.decided_s > 1e299:
                self.decided_s = t
            if outcome != UNDECIDED and (not keep or self.opened_s < 1e299 or quiet_s > SETTLE_S):
                return outcome
            if t >= HORIZON_S:
                return STALLS if outcome == UNDECIDED else outcome
            self.motors.turn(self.network, h, before_h)
            t += h
            before_h, h = h, self.next_step(t)

    def stuck(self, t: float) -> bool:
        """Whether a rotor stands and nothing to come will turn it: its starter gave up, or ramp and
        engine are at their most.
        """
        if self.motors.gave_up:
            return True
        if self.motors.still_s <= STANDSTILL_S or t < self.loads.rushing_s or self.motors.up():
            return False
        if (self.supply.eco and t < 4.0 * ECO_TAU_S) or (
            self.supply.forced and t < 4.0 * FIELD_TAU_S
        ):
            return False
        return not self.motors.soft_busy

    def next_step(self, t: float) -> float:
        """Half a cycle, or two or four of them while nothing moves fast [s]."""
        if (
            self.motors.soft_busy
            or t < self.loads.rushing_s
            or self.supply.forced
            or self.motors.fastest >= CALM
        ):
            return float(self.step_s)
        return float(self.step_s * (4.0 if self.motors.still_s > 0.0 else 2.0))

    def begin(
        self,
        strength: float,
        path: float,
        lift: float,
        latch: float,
        short: float,
        lra: Real,
        breakaway: Real,
        keep: bool,
    ) -> None:
        self.network.begin(strength, path, lift)
        self.loads.begin()
        self.motors.begin(lra, breakaway)
        self.supply.begin(strength, latch, short)
        self.peak_a, self.lowest_v, self.up_s, self.opened_s = 0.0, 1e300, 1e300, 1e300
        self.nearest_latch, self.off, self.fallen, self.kept = 0.0, 0, 0, 0
        self.decided_s = 1e300
        self.runs += 1

    def note(self, t: float, source_a: float) -> None:
        """Log a step: time, volts of both legs, amps of both conductors, speeds, heat of the
        breakers.
        """
        if self.kept >= self.pages.shape[0]:
            return
        self.pages[self.kept, 0] = t
        self.pages[self.kept, 1] = self.network.volts[0]
        self.pages[self.kept, 2] = self.network.volts[1]
        self.pages[self.kept, 3] = self.network.a1 * self.supply.turns
        self.pages[self.kept, 4] = self.network.a2 * self.supply.turns
        for at in range(self.motors.count):
            self.pages[self.kept, 5 + at] = self.motors.speed[at]
        for at in range(self.supply.leg.shape[0]):
            self.pages[self.kept, 5 + self.motors.count + at] = self.supply.heat[at]
        self.kept += 1
