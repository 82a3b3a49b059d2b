# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False, cdivision=True
"""One start, followed half mains cycle by half cycle to its outcome.

Each step: what hangs on every place of the panel at its present volts; the network, folded back to what the supply
can give; what latches, breakers and the guard feel of it; one step of the rotors. RMS phasors at the fundamental; L1
is the angle reference; amps are positive from source to load; speed in units of synchronous speed; torque in units of
the motor's own at full load and rated volts. The motors' equations stand in :mod:`ironmargin.loads.motor`.

:meth:`Engine.one_start` is the whole story; chance, reserve and pictures call it and know nothing of its inside. The
file is plain Python: ``tools/compile.py`` compiles it ahead of time (Cython), and uncompiled it runs as it stands.
"""

import cython
import numpy as np
from cython.cimports.libc.math import exp, sqrt

UNDECIDED = cython.declare(cython.int, 0)
STARTS = cython.declare(cython.int, 1)
STALLS = cython.declare(cython.int, 2)
TRIPS = cython.declare(cython.int, 3)
VOLTS_STAY_LOW = cython.declare(cython.int, 4)
LETS_GO = cython.declare(cython.int, 5)
UNSOLVED = cython.declare(cython.int, 6)
OUTCOMES = {1: "starts", 2: "stalls", 3: "trips", 4: "volts-stay-low", 5: "lets-go", 6: "unsolved"}

# When a start is decided ---------------------------------------------------------------------------------
HORIZON_S = cython.declare(cython.double, 8.0)  # a rotor still standing now is held by its own overload (common practice: 5 to 10 s)
RECOVERED = cython.declare(cython.double, 0.85)  # share of nominal at which volts count as back (just under C84.1 range B; memory)
PATIENCE_S = cython.declare(cython.double, 2.0)  # for volts and loads to come back once the rotor is up (common practice)
STANDS = cython.declare(cython.double, 0.02)
STANDSTILL_S = cython.declare(cython.double, 0.4)
RUNS = cython.declare(cython.double, 0.8)  # a motor below this speed has pulled out
CALM = cython.declare(cython.double, 0.25)  # speed change [1/s] under which steps are twice, and standing still four times, as long
RINGS = cython.declare(cython.double, 0.6)  # an explicit step rings from about 1 (the stability bound of the two-step rule)
SETTLE_S = cython.declare(cython.double, 0.25)  # a picture goes on so long after the start
# Motors and their gear -----------------------------------------------------------------------------------
SMALLEST_SLIP = cython.declare(cython.double, 1e-3)
RELAY_OPENS = cython.declare(cython.double, 0.75)  # speed at which a potential relay drops the start capacitor (common practice)
FADED = cython.declare(cython.double, 0.6)  # speed from which a run capacitor gives all it gives
BYPASS = cython.declare(cython.double, 0.9)  # speed at which a soft starter opens fully (common practice)
BYPASS_S = cython.declare(cython.double, 0.1)
SOFT_BEGINS = cython.declare(cython.double, 0.5)  # share of its current at which its ramp begins (memory)
SOFT_FULL_VOLTS = cython.declare(cython.double, 0.85)
SOFT_LEAST_VOLTS = cython.declare(cython.double, 0.5)
SOFT_GIVES_UP_S = cython.declare(cython.double, 1.0)
SOFT_WAITS_S = cython.declare(cython.double, 3.0)  # a starter whose motor is not up so long after its ramp gives up (common practice)
# Supplies ------------------------------------------------------------------------------------------------
CARRY_S = cython.declare(cython.double, 0.3)  # flywheel and bus carry so many seconds of the engine's power (common practice)
SHORT_S = cython.declare(cython.double, 1.0)  # how long electronics hold their short-time current (common practice)
ECO_FRACTION = cython.declare(cython.double, 0.5)
ECO_TAU_S = cython.declare(cython.double, 1.5)
FIELD_CEILING = cython.declare(cython.double, 1.6)
FIELD_TAU_S = cython.declare(cython.double, 0.3)  # a regulator forces the field in about 0.3 s, to about 1.6 times (memory)
UNDERVOLT = cython.declare(cython.double, 0.6)
GUARD_FILTER_S = cython.declare(cython.double, 1.0)  # a guard looks at low volts so long before it opens (memory)
FIRST_PASSES = cython.declare(cython.int, 12)
TINY = cython.declare(cython.double, 1e-12)


@cython.cclass
class Network:
    """Source, path and panel: two electromotive forces behind a matrix of impedances, at most at their limits.

    ``V = E − Z·I``, ``I = Y·V``; see :mod:`ironmargin.electrics.network` for places and signs. At fixed admittances
    everything is linear in the electromotive force, so that a source at its limit is the same source scaled down.
    """

    two_legs: cython.bint
    tied: cython.bint
    conductors: cython.int
    e1: cython.doublecomplex
    e2: cython.doublecomplex
    supply_z: cython.doublecomplex[::1]
    path_z: cython.doublecomplex[::1]
    z11: cython.doublecomplex
    z12: cython.doublecomplex
    z22: cython.doublecomplex
    v1: cython.doublecomplex
    v2: cython.doublecomplex
    volts: cython.double[::1]
    a1: cython.double
    a2: cython.double
    watts: cython.double

    def __init__(self, wiring):
        self.two_legs, self.tied, self.conductors = wiring.two_legs, wiring.tied, wiring.conductors
        self.e1, self.e2 = wiring.e1_v, wiring.e2_v
        self.supply_z, self.path_z, self.volts = wiring.supply_ohm, wiring.path_ohm, np.zeros(3)

    @cython.cfunc
    @cython.exceptval(check=False)
    def begin(self, strength: cython.double, path: cython.double, lift: cython.double) -> cython.void:
        """Set the impedances of a supply and a path so many times as strong, and the open-circuit volts."""
        self.z11 = self.supply_z[0] / strength + self.path_z[0] / path
        self.z12 = self.supply_z[1] / strength + self.path_z[1] / path
        self.z22 = self.supply_z[2] / strength + self.path_z[2] / path
        self.v1, self.v2 = self.e1 * lift, self.e2 * lift
        self.see()

    @cython.cfunc
    @cython.exceptval(check=False)
    def see(self) -> cython.void:
        """Volts of the places: L1, L2, and between them [V]."""
        self.volts[0] = abs(self.v1)
        self.volts[1] = abs(self.v2)
        self.volts[2] = abs(self.v1 - self.v2)

    @cython.cfunc
    @cython.exceptval(check=False)
    def solve(self, y: cython.doublecomplex[::1], lift: cython.double, most_a: cython.double, most_w: cython.double) -> cython.void:
        """Volts of the places and amps of the source at admittances ``y``, held to ``most_a`` and ``most_w``."""
        e1: cython.doublecomplex = self.e1 * lift
        e2: cython.doublecomplex = self.e2 * lift
        i1: cython.doublecomplex
        i2: cython.doublecomplex = 0.0
        m11: cython.doublecomplex
        m12: cython.doublecomplex
        m21: cython.doublecomplex
        m22: cython.doublecomplex
        det: cython.doublecomplex
        first: cython.double
        second: cython.double
        power: cython.double
        turn: cython.int
        for turn in range(4):
            if self.two_legs:
                m11 = 1.0 + self.z11 * (y[0] + y[2]) - self.z12 * y[2]
                m12 = self.z12 * (y[1] + y[2]) - self.z11 * y[2]
                m21 = self.z12 * (y[0] + y[2]) - self.z22 * y[2]
                m22 = 1.0 + self.z22 * (y[1] + y[2]) - self.z12 * y[2]
                det = m11 * m22 - m12 * m21
                self.v1 = (m22 * e1 - m12 * e2) / det
                self.v2 = (m11 * e2 - m21 * e1) / det
                i1 = (y[0] + y[2]) * self.v1 - y[2] * self.v2
                i2 = (y[1] + y[2]) * self.v2 - y[2] * self.v1
            else:
                self.v1 = e1 / (1.0 + self.z11 * y[0])
                i1 = y[0] * self.v1
            self.a1 = abs(i1 + i2) if self.tied else abs(i1)
            self.a2 = self.a1 if self.conductors == 1 else abs(i2)
            self.watts = (e1 * i1.conjugate()).real + (e2 * i2.conjugate()).real
            power = sqrt(most_w / self.watts) if self.watts > most_w else 1.0
            first = min(power, most_a / self.a1 if self.a1 > most_a else 1.0)
            second = min(power, most_a / self.a2 if self.a2 > most_a else 1.0)
            if self.conductors == 1:
                self.v1 = self.v1 * first
                self.v2 = self.v2 * first
                self.a1 *= first
                self.a2 *= first
                self.watts *= first * first
                break
            if min(first, second) > 0.999:
                break
            e1 = e1 * first
            e2 = e2 * second
        self.see()


@cython.cclass
class Loads:
    """What runs beside the start, motors excepted: fixed impedances, constant power that may let go, and inrushes.

    Constant power follows the volts by half a step's difference at a time (its capacitors smooth it), lets go below one
    share of nominal volts and comes back by itself above another.
    """

    fixed: cython.doublecomplex[::1]
    place: cython.int[::1]
    rated: cython.doublecomplex[::1]
    nominal_v: cython.double[::1]
    lets_go: cython.double[::1]
    returns: cython.double[::1]
    now: cython.doublecomplex[::1]
    live: cython.int[::1]
    blinked: cython.int[::1]
    rush_place: cython.int[::1]
    rush: cython.doublecomplex[::1]
    rush_tau_s: cython.double[::1]
    rushing_s: cython.double
    off: cython.int

    def __init__(self, loads):
        self.fixed, self.place, self.rated, self.nominal_v = loads.fixed_y, loads.place, loads.power_y, loads.nominal_v
        self.lets_go, self.returns = loads.lets_go, loads.returns
        self.rush_place, self.rush, self.rush_tau_s = loads.rush_place, loads.rush_y, loads.rush_tau_s
        self.now = np.zeros(len(loads.place), dtype=complex)
        self.live, self.blinked = (np.zeros(len(loads.place), dtype=np.intc) for _ in range(2))
        self.rushing_s = 4.0 * max(loads.rush_tau_s, default=0.0)

    @cython.cfunc
    @cython.exceptval(check=False)
    def begin(self) -> cython.void:
        at: cython.int
        self.off = 0
        for at in range(self.place.shape[0]):
            self.live[at] = 1
            self.blinked[at] = 0
            self.now[at] = self.rated[at]

    @cython.cfunc
    @cython.exceptval(check=False)
    def admittance(self, y: cython.doublecomplex[::1], volts: cython.double[::1], t_s: cython.double) -> cython.void:
        """Add what hangs on each place at these volts to ``y`` [S]."""
        at: cython.int
        share: cython.double
        target: cython.doublecomplex
        for at in range(3):
            y[at] = self.fixed[at]
        self.off = 0
        for at in range(self.place.shape[0]):
            share = volts[self.place[at]] / self.nominal_v[at]
            if self.live[at] and share < self.lets_go[at]:
                self.live[at] = 0
                self.blinked[at] = 1
            elif not self.live[at] and share >= self.returns[at]:
                self.live[at] = 1
            self.off += 1 - self.live[at]
            target = self.live[at] * self.rated[at] / max(share * share, self.lets_go[at] * self.lets_go[at])
            self.now[at] = self.now[at] + 0.5 * (target - self.now[at])
            y[self.place[at]] = y[self.place[at]] + self.now[at]
        for at in range(self.rush_place.shape[0]):
            y[self.rush_place[at]] = y[self.rush_place[at]] + self.rush[at] * exp(-t_s / self.rush_tau_s[at])


@cython.cclass
class Motors:
    """Every motor unit of the rig, those that start and those that run beside: currents, torque, speed, soft starters."""

    count: cython.int
    place: cython.int[::1]
    on: cython.int[::1]
    starting: cython.int[::1]
    relay: cython.int[::1]
    ratio: cython.double[::1]
    rated_v: cython.double[::1]
    plate_r1: cython.double[::1]
    plate_r2: cython.double[::1]
    plate_x: cython.double[::1]
    series_r: cython.double[::1]
    series_x: cython.double[::1]
    torque_fl: cython.double[::1]
    slip_fl: cython.double[::1]
    gear: cython.double[::1]
    gear_current: cython.double[::1]
    plate_breakaway: cython.double[::1]
    at_speed: cython.double[::1]
    inertia_s: cython.double[::1]
    soft_a: cython.double[::1]
    soft_ramp_s: cython.double[::1]
    soft_torque: cython.double[::1]
    r1: cython.double[::1]
    r2: cython.double[::1]
    x: cython.double[::1]
    breakaway: cython.double[::1]
    speed: cython.double[::1]
    before: cython.double[::1]
    slope: cython.double[::1]
    rotor: cython.double[::1]
    square: cython.double[::1]
    at_motor: cython.double[::1]
    conducts: cython.double[::1]
    ramped_s: cython.double[::1]
    low_s: cython.double
    still_s: cython.double
    fastest: cython.double
    soft_busy: cython.bint
    gave_up: cython.bint

    def __init__(self, motors):
        self.count = len(motors.place)
        self.place, self.on, self.starting, self.relay = motors.place, motors.on, motors.starting, motors.relay
        self.ratio, self.rated_v, self.plate_r1, self.plate_r2 = motors.ratio, motors.rated_v, motors.r1, motors.r2
        self.plate_x, self.series_r, self.series_x = motors.x, motors.series_r, motors.series_x
        self.torque_fl, self.slip_fl, self.gear, self.gear_current = motors.torque_fl, motors.slip_fl, motors.gear, motors.gear_current
        self.plate_breakaway, self.at_speed, self.inertia_s = motors.breakaway, motors.at_speed, motors.inertia_s
        self.soft_a, self.soft_ramp_s, self.soft_torque = motors.soft_a, motors.soft_ramp_s, motors.soft_torque
        room = np.zeros((12, max(self.count, 1)))
        self.r1, self.r2, self.x, self.breakaway, self.speed, self.before = room[0], room[1], room[2], room[3], room[4], room[5]
        self.slope, self.rotor, self.square, self.at_motor, self.conducts, self.ramped_s = room[6], room[7], room[8], room[9], room[10], room[11]

    @cython.cfunc
    @cython.exceptval(check=False)
    def begin(self, lra: cython.double[::1], breakaway: cython.double[::1]) -> cython.void:
        """Set each motor still or at speed; ``lra`` and ``breakaway`` multiply what the plate says."""
        at: cython.int
        self.low_s = self.still_s = 0.0
        self.gave_up = False
        for at in range(self.count):
            self.r1[at] = self.plate_r1[at] / lra[at] + self.series_r[at]
            self.r2[at] = self.plate_r2[at] / lra[at]
            self.x[at] = self.plate_x[at] / lra[at] + self.series_x[at]
            self.breakaway[at] = self.plate_breakaway[at] * (breakaway[at] if self.starting[at] else 1.0)
            self.speed[at] = 0.0 if self.starting[at] else self.on[at] * (1.0 - self.slip_fl[at] * min(self.at_speed[at], 1.2))
            self.before[at] = self.speed[at]
            self.slope[at] = self.ramped_s[at] = 0.0
            self.conducts[at] = 0.0 if self.starting[at] and self.soft_a[at] > 0.0 else 1.0

    @cython.cfunc
    @cython.exceptval(check=False)
    def admittance(self, y: cython.doublecomplex[::1], volts: cython.double[::1]) -> cython.void:
        """Add the motors to ``y``, each at its slip and as far as its soft starter conducts [S]."""
        at: cython.int
        resistance: cython.double
        strength: cython.double
        for at in range(self.count):
            self.rotor[at] = self.r2[at] / max(1.0 - self.speed[at], SMALLEST_SLIP)
            resistance = self.r1[at] + self.rotor[at]
            self.square[at] = resistance * resistance + self.x[at] * self.x[at]
            self.at_motor[at] = volts[self.place[at]] * self.ratio[at]
            if not self.on[at]:
                continue
            strength = self.ratio[at] * self.ratio[at] * self.conducts[at] / self.square[at]
            strength *= self.gear_current[at] + (1.0 - self.gear_current[at]) * min(self.speed[at] / FADED, 1.0)
            y[self.place[at]] = y[self.place[at]] + strength * (resistance - 1j * self.x[at])

    @cython.cfunc
    @cython.exceptval(check=False)
    def soften(self, h: cython.double) -> cython.void:
        """Each soft starter opens as far as its held current asks; below its least volts for its own time it gives up.

        It makes up for volts down to 85 % of nominal; below, it is fed less current, and its ramp stretches with (Vn/V)².
        """
        at: cython.int
        share: cython.double
        wish: cython.double
        set_a: cython.double
        self.soft_busy = False
        for at in range(self.count):
            if not self.starting[at] or self.soft_a[at] <= 0.0 or self.conducts[at] >= 1.0:
                continue
            self.soft_busy = True
            share = self.at_motor[at] / self.rated_v[at]
            self.ramped_s[at] += h * (1.0 if share >= SOFT_FULL_VOLTS else share * share)
            set_a = self.soft_a[at] * min(1.0, SOFT_BEGINS + (1.0 - SOFT_BEGINS) * self.ramped_s[at] / self.soft_ramp_s[at])
            wish = set_a * sqrt(self.square[at]) / (max(share, SOFT_FULL_VOLTS) * self.rated_v[at])
            if self.speed[at] >= BYPASS:
                wish = max(wish, self.conducts[at] + h / BYPASS_S)
            self.conducts[at] = min(wish, 1.0)
            self.low_s = self.low_s + h if share < SOFT_LEAST_VOLTS else 0.0
            if self.low_s > SOFT_GIVES_UP_S or self.ramped_s[at] > self.soft_ramp_s[at] + SOFT_WAITS_S:
                self.gave_up = True

    @cython.cfunc
    @cython.exceptval(check=False)
    def torque_gain(self, at: cython.int) -> cython.double:
        """What start gear multiplies the torque by: a relay holds it to three quarters of speed, a run capacitor fades in.

        A soft starter feeds main and start winding together: more torque an amp, the less far it is open.
        """
        gain: cython.double
        if self.relay[at] and self.starting[at]:
            gain = self.gear[at] if self.speed[at] < RELAY_OPENS else 1.0
        else:
            gain = self.gear[at] + (1.0 - self.gear[at]) * min(self.speed[at] / FADED, 1.0)
        return gain * (1.0 + (self.soft_torque[at] - 1.0) * (1.0 - self.conducts[at] * self.conducts[at]))

    @cython.cfunc
    @cython.exceptval(check=False)
    def turn(self, volts: cython.double[::1], h: cython.double, before_h: cython.double) -> cython.void:
        """One step of every rotor at the volts of this moment: ``2H·dω/dt = T_motor − T_load``.

        Two-step Adams-Bashforth, and linearly implicit on the steep side of the torque curve, where an explicit step rings.
        """
        at: cython.int
        v: cython.double
        drive: cython.double
        slope: cython.double
        moved: cython.double
        beyond: cython.double
        stiff: cython.double
        asked: cython.double
        all_still: cython.bint = True
        standing: cython.bint = False
        self.fastest = 0.0
        for at in range(self.count):
            if not self.on[at]:
                continue
            v = volts[self.place[at]] * self.ratio[at] * self.conducts[at]
            drive = v * v * self.rotor[at] / (self.square[at] * self.torque_fl[at]) * self.torque_gain(at)
            asked = self.breakaway[at] + (self.at_speed[at] - self.breakaway[at]) * self.speed[at] * self.speed[at]
            slope = (drive - asked) * 0.5 / self.inertia_s[at]
            if self.speed[at] <= 0.0 and slope < 0.0:
                slope = 0.0
            # d(torque)/d(slip) = torque/slip · (ρ² − R1² − X²)/|Z|², ρ = R2/s
            beyond = self.rotor[at] * self.rotor[at] - self.r1[at] * self.r1[at] - self.x[at] * self.x[at]
            stiff = drive * beyond * 0.5 * h / (self.inertia_s[at] * max(1.0 - self.speed[at], SMALLEST_SLIP) * self.square[at])
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

    @cython.cfunc
    @cython.exceptval(check=False)
    def up(self) -> cython.bint:
        """Whether every motor that starts has reached its speed, soft starters fully open."""
        at: cython.int
        for at in range(self.count):
            if self.starting[at] and (self.speed[at] < 1.0 - 2.0 * self.slip_fl[at] or self.conducts[at] < 1.0):
                return False
        return True

    @cython.cfunc
    @cython.exceptval(check=False)
    def pulled_out(self) -> cython.int:
        """How many motors that ran beside the start have fallen out."""
        at: cython.int
        found: cython.int = 0
        for at in range(self.count):
            found += self.on[at] and not self.starting[at] and self.speed[at] < RUNS
        return found

    @cython.cfunc
    @cython.exceptval(check=False)
    def standing(self) -> cython.bint:
        at: cython.int
        for at in range(self.count):
            if self.starting[at] and self.speed[at] < STANDS:
                return True
        return False

    @cython.cfunc
    @cython.exceptval(check=False)
    def late_share(self) -> cython.double:
        """Share of the last step since the last motor reached its speed, by straight line [1]."""
        at: cython.int
        least: cython.double = 1.0
        for at in range(self.count):
            if self.starting[at] and self.speed[at] > self.before[at]:
                least = min(least, (self.speed[at] - 1.0 + 2.0 * self.slip_fl[at]) / (self.speed[at] - self.before[at]))
        return max(least, 0.0)


@cython.cclass
class Supply:
    """What the supply can give in time, and what opens: two limits, latches, breakers, a guard.

    The electronics hold a short-time current for the first second at their limit, then their lasting one; the engine's
    power is another limit, which flywheel and bus carry over for a few tenths of a second. A regulator forces the field
    of a conventional alternator. Overload latch: ``Σ((I/I_cont)² − 1)·dt > k``.
    """

    limit_a: cython.double
    short: cython.double
    crest_a: cython.double
    limit_w: cython.double
    continuous_a: cython.double
    offset_a: cython.double
    latch_k_s: cython.double
    undervolt_s: cython.double
    leg_v: cython.double
    also_a: cython.double
    guard_low_v: cython.double
    turns: cython.double
    eco: cython.bint
    forced: cython.bint
    leg: cython.int[::1]
    scaled: cython.int[::1]
    rating_a: cython.double[::1]
    tau_s: cython.double[::1]
    trip_heat: cython.double[::1]
    magnetic: cython.double[::1]
    warm: cython.double[::1]
    heat: cython.double[::1]
    strength: cython.double
    latch: cython.double
    field: cython.double
    carried_j: cython.double
    short_left_s: cython.double
    overload: cython.double
    under_s: cython.double
    guard_s: cython.double

    def __init__(self, supply):
        self.limit_a, self.crest_a, self.limit_w = supply.limit_a, supply.crest_a, supply.limit_w
        self.continuous_a, self.offset_a, self.latch_k_s = supply.continuous_a, supply.offset_a, supply.latch_k_s
        self.undervolt_s, self.leg_v, self.also_a, self.guard_low_v = supply.undervolt_s, supply.leg_v, supply.also_a, supply.guard_low_v
        self.turns, self.eco, self.forced = supply.turns, supply.eco, supply.forced
        self.leg, self.scaled, self.rating_a, self.tau_s = supply.breaker_leg, supply.scaled, supply.rating_a, supply.tau_s
        self.trip_heat, self.magnetic, self.warm, self.heat = supply.trip_heat, supply.magnetic, supply.warm, np.zeros(len(supply.warm))

    @cython.cfunc
    @cython.exceptval(check=False)
    def begin(self, strength: cython.double, latch: cython.double, short: cython.double) -> cython.void:
        at: cython.int
        self.strength, self.latch, self.short, self.field = strength, latch, short, 1.0
        self.carried_j = CARRY_S * self.limit_w * strength
        self.short_left_s = SHORT_S
        self.overload = self.under_s = self.guard_s = 0.0
        for at in range(self.leg.shape[0]):
            self.heat[at] = self.warm[at]

    @cython.cfunc
    @cython.exceptval(check=False)
    def most_a(self, t_s: cython.double) -> cython.double:
        """Amps the electronics hold now, seen at the panel [A]."""
        most: cython.double = self.limit_a * self.strength
        if self.eco:
            most *= 1.0 - ECO_FRACTION * exp(-t_s / ECO_TAU_S)
        if self.short_left_s > 0.0:
            most *= self.short
        return max(most - self.crest_a, 0.05 * most) / self.turns

    @cython.cfunc
    @cython.exceptval(check=False)
    def most_w(self) -> cython.double:
        """Watts the engine gives now; more than its power while the flywheel carries [W]."""
        return 1e300 if self.carried_j > 0.0 else self.limit_w * self.strength

    @cython.cfunc
    @cython.exceptval(check=False)
    def feel(self, h: cython.double, a1: cython.double, a2: cython.double, weakest: cython.double, watts: cython.double) -> cython.bint:
        """Pass a step of these amps [A], volts [V] and watts [W]; True if something opened in it."""
        at: cython.int
        carried: cython.double
        amps: cython.double
        opened: cython.bint = False
        most: cython.double = max(a1, a2)
        if self.limit_w < 1e299:
            self.carried_j = min(self.carried_j + (self.limit_w * self.strength - watts) * h, CARRY_S * self.limit_w * self.strength)
        if most > (self.limit_a * self.strength - self.crest_a) * 0.999:
            self.short_left_s -= h
        if self.forced:
            carried = FIELD_CEILING if weakest < 0.98 * self.leg_v else 1.0
            self.field += (carried - self.field) * (1.0 - exp(-h / FIELD_TAU_S))
        if self.latch_k_s < 1e299:
            carried = max(most - self.offset_a, 0.0) / (self.continuous_a * self.strength)
            self.overload = max(self.overload + (carried * carried - 1.0) * h, 0.0)
            self.under_s = self.under_s + h if weakest < UNDERVOLT * self.leg_v else 0.0
            opened = self.overload > self.latch_k_s * self.latch or self.under_s > self.undervolt_s * self.latch
        for at in range(self.leg.shape[0]):
            amps = (a1 if self.leg[at] == 0 else a2) + self.also_a
            carried = amps / (self.rating_a[at] * (self.strength if self.scaled[at] else 1.0))
            self.heat[at] += (carried * carried - self.heat[at]) * (1.0 - exp(-h / self.tau_s[at]))
            opened = opened or self.heat[at] >= self.trip_heat[at] or carried >= self.magnetic[at]
        if self.guard_low_v > 0.0:
            self.guard_s = self.guard_s + h if weakest < self.guard_low_v else 0.0
            opened = opened or self.guard_s > GUARD_FILTER_S
        return opened


@cython.cclass
class Engine:
    """One rig on one supply with one choice of who starts.

    After a start its results are attributes: ``peak_a`` of the source [A], ``lowest_v`` of the weaker leg [V], ``up_s`` when
    the last motor was up and ``opened_s`` when something opened, infinite if never [s]; ``off`` and ``fallen``, how many
    constant-power loads and running motors had let go at the end; ``nearest_latch``, how far the overload latch filled [1].
    """

    peak_a = cython.declare(cython.double, visibility="readonly")
    lowest_v = cython.declare(cython.double, visibility="readonly")
    up_s = cython.declare(cython.double, visibility="readonly")
    opened_s = cython.declare(cython.double, visibility="readonly")
    nearest_latch = cython.declare(cython.double, visibility="readonly")
    off = cython.declare(cython.int, visibility="readonly")
    fallen = cython.declare(cython.int, visibility="readonly")
    kept = cython.declare(cython.int, visibility="readonly")
    runs = cython.declare(cython.long, visibility="readonly")
    log = cython.declare(object, visibility="readonly")
    network: Network
    loads: Loads
    motors: Motors
    supply: Supply
    step_s: cython.double
    y: cython.doublecomplex[::1]
    pages: cython.double[:, ::1]

    def __init__(self, model):
        """Take over the arrays of a :class:`ironmargin.starting.model.Model`."""
        self.network, self.loads = Network(model.wiring), Loads(model.loads)
        self.motors, self.supply = Motors(model.motors), Supply(model.supply)
        self.step_s, self.y, self.runs = model.step_s, np.zeros(3, dtype=complex), 0
        self.log = None

    def states(self):
        """Which constant-power loads are off, which were off for a moment, and every motor's speed, after a start."""
        return np.array(self.loads.live) == 0, np.array(self.loads.blinked) != 0, np.array(self.motors.speed)[: self.motors.count]

    def one_start(self, strength: cython.double, path: cython.double, lift: cython.double, latch: cython.double,
                  short: cython.double, lra: cython.double[::1], breakaway: cython.double[::1], keep: cython.bint = False) -> int:
        """Follow one start to its outcome, half cycle by half cycle.

        Args:
            strength: of the supply, 1 as it is; path: of the path likewise; lift: open-circuit volts over nominal; latch: time
            of the latches over nominal; short: what the electronics hold in the first second over their lasting limit; lra,
            breakaway: factors of each motor [all 1].
            keep: log every step, and follow on past the outcome until something opens or the start is over.

        Returns:
            One of the codes of :data:`OUTCOMES`.
        """
        network, loads, motors, supply = self.network, self.loads, self.motors, self.supply
        t: cython.double = 0.0
        h: cython.double = self.step_s
        before_h: cython.double = 0.0
        waited_s: cython.double = 0.0
        quiet_s: cython.double = 0.0
        weakest: cython.double = 0.0
        source_a: cython.double
        outcome: cython.int = UNDECIDED
        opened: cython.bint
        well: cython.bint
        step: cython.int
        again: cython.int
        self.begin(strength, path, lift, latch, short, lra, breakaway, keep)
        while True:
            for again in range(FIRST_PASSES if t == 0.0 else 1):
                loads.admittance(self.y, network.volts, t)
                motors.admittance(self.y, network.volts)
                if again == 0:
                    motors.soften(h)
                network.solve(self.y, lift * supply.field, supply.most_a(t), supply.most_w())
            weakest = min(network.volts[0], network.volts[1]) if network.two_legs else network.volts[0]
            source_a = max(network.a1, network.a2) * supply.turns
            if not weakest == weakest or weakest > 1e6:
                return UNSOLVED
            if outcome == UNDECIDED or keep:
                self.peak_a = max(self.peak_a, source_a)
                self.lowest_v = min(self.lowest_v, weakest)
            if keep:
                self.note(t, source_a)
            opened = supply.feel(h, network.a1 * supply.turns, network.a2 * supply.turns, weakest, network.watts)
            if supply.latch_k_s < 1e299:
                self.nearest_latch = max(self.nearest_latch, supply.overload / (supply.latch_k_s * latch))
            self.off, self.fallen = loads.off, motors.pulled_out()
            if motors.up() and t >= loads.rushing_s:
                if self.up_s > 1e299:
                    self.up_s = max(t - before_h * motors.late_share(), 0.0) if motors.count else t
                well = weakest >= RECOVERED * supply.leg_v and self.off == 0 and self.fallen == 0
                if outcome == UNDECIDED and well:
                    outcome = STARTS
                waited_s = 0.0 if well else waited_s + h
                if outcome == UNDECIDED and waited_s > PATIENCE_S:
                    outcome = LETS_GO if self.off or self.fallen else VOLTS_STAY_LOW
            if opened and self.opened_s > 1e299:
                self.opened_s = t
                if outcome == UNDECIDED:
                    outcome = STALLS if motors.standing() or motors.still_s > STANDSTILL_S else TRIPS
            if outcome == UNDECIDED and self.stuck(t):
                outcome = STALLS
            quiet_s = quiet_s + h if outcome == STARTS else 0.0
            if outcome != UNDECIDED and (not keep or self.opened_s < 1e299 or quiet_s > SETTLE_S):
                return outcome
            if t >= HORIZON_S:
                return STALLS if outcome == UNDECIDED else outcome
            motors.turn(network.volts, h, before_h)
            t += h
            before_h, h = h, self.next_step(t)

    @cython.cfunc
    @cython.exceptval(check=False)
    def stuck(self, t: cython.double) -> cython.bint:
        """Whether a rotor stands and nothing to come will turn it: its starter gave up, or ramp and engine are at their most."""
        if self.motors.gave_up:
            return True
        if self.motors.still_s <= STANDSTILL_S or t < self.loads.rushing_s or self.motors.up():
            return False
        if self.supply.eco and t < 4.0 * ECO_TAU_S or self.supply.forced and t < 4.0 * FIELD_TAU_S:
            return False
        return not self.motors.soft_busy

    @cython.cfunc
    @cython.exceptval(check=False)
    def next_step(self, t: cython.double) -> cython.double:
        """Half a cycle, or two or four of them while nothing moves fast [s]."""
        if self.motors.soft_busy or t < self.loads.rushing_s or self.supply.forced or self.motors.fastest >= CALM:
            return self.step_s
        return self.step_s * (4.0 if self.motors.still_s > 0.0 else 2.0)

    @cython.cfunc
    def begin(self, strength: cython.double, path: cython.double, lift: cython.double, latch: cython.double,
              short: cython.double, lra: cython.double[::1], breakaway: cython.double[::1], keep: cython.bint) -> cython.void:
        self.network.begin(strength, path, lift)
        self.loads.begin()
        self.motors.begin(lra, breakaway)
        self.supply.begin(strength, latch, short)
        self.peak_a, self.lowest_v, self.up_s, self.opened_s = 0.0, 1e300, 1e300, 1e300
        self.nearest_latch, self.off, self.fallen, self.kept = 0.0, 0, 0, 0
        self.runs += 1
        if keep:
            self.log = np.zeros((int(HORIZON_S / self.step_s) + 8, 5 + self.motors.count + len(self.supply.leg)))
            self.pages = self.log

    @cython.cfunc
    @cython.exceptval(check=False)
    def note(self, t: cython.double, source_a: cython.double) -> cython.void:
        """Log a step: time, volts of both legs, amps of both conductors, speeds, heat of the breakers."""
        at: cython.int
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
