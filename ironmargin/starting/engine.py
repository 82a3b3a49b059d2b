# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""One start, followed half mains cycle by half cycle to its outcome.

Each step: what hangs on every place of the panel at its present volts; the network, folded back to
what the supply can give; what latches, breakers and the guard make of it; one step of the rotors.
RMS phasors at the fundamental; L1 is the angle reference; amps are positive from source to load;
speed in units of synchronous speed; torque in units of the motor's own at full load and rated
volts. The motors' equations stand in :mod:`ironmargin.electrics.motor`.

:meth:`Engine.one_start` is the whole story; chance, reserve and pictures call it and know nothing
of its inside. The file is plain Python: ``tools/compile.py`` compiles it ahead of time (Cython,
with the types of ``engine.pxd`` beside it), and uncompiled it runs as it stands.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from cython.cimports.libc.math import exp  # type: ignore[import-untyped]
from numpy.typing import NDArray

from ironmargin.electrics.network import Real
from ironmargin.starting.circuit import Network
from ironmargin.starting.motors import Motors

if TYPE_CHECKING:
    from ironmargin.starting.model import Beside, BranchWatch, GuardWatch, Limits, Model

NEVER = float("inf")
UNDECIDED = 0
STARTS = 1
STALLS = 2
TRIPS = 3
VOLTS_STAY_LOW = 4
LETS_GO = 5
UNSOLVED = 6
PASSES = STARTS
NOTHING, LOCKOUT, UNDERVOLT_LOCKOUT, CUT_OFF, GUARD_LOW, GUARD_OVER = 0, 1, 2, 3, 4, 5
BREAKER, BRANCH = 100, 200
"""What opened first: one of these, or these plus the number of the breaker or branch."""
OUTCOMES = {1: "starts", 2: "stalls", 3: "trips", 4: "volts-stay-low", 5: "lets-go", 6: "unsolved"}

# When a start is decided
# a rotor still standing now is held by its own overload (common practice: 5 to 10 s)
HORIZON_S = 8.0
RECOVERED = 0.85  # share of nominal at which volts count as back (just under C84.1 range B; memory)
PATIENCE_S = 2.0  # for volts and loads to come back once the rotor is up (common practice)
STANDSTILL_S = 0.4
# speed change [1/s] under which steps are twice, and standing still four times, as long
CALM = 0.25
SETTLE_S = 0.25  # a picture goes on so long after the start
# Supplies
CARRY_S = 0.3  # flywheel and bus carry so many seconds of the engine's power (common practice)
SHORT_S = 1.0  # how long electronics hold their short-time current (common practice)
ECO_FRACTION = 0.5
ECO_TAU_S = 1.5
FIELD_CEILING = 1.6
FIELD_TAU_S = 0.3  # a regulator forces the field in about 0.3 s, to about 1.6 times (memory)
UNDERVOLT = 0.6
GUARD_FILTER_S = 1.0  # a guard looks at low volts so long before it opens (memory)
GUARD_OVERLOAD_S = 5.0  # and at amps over its limit so long, so that a start passes (memory)
FIRST_PASSES = 12
# Loads
BACK_S = (
    0.25  # a load that dropped out counts as back once it has stayed on so long (common practice)
)


class Factors:
    """By how much a start differs from the nominal one, each a factor [1].

    Attributes:
        strength: of the supply.
        path: of the path, whose impedance is divided by it.
        lift: open-circuit volts over nominal.
        latch: time of the lockouts over nominal.
        short: what the electronics hold in the first second over their lasting limit.
    """

    def __init__(
        self,
        strength: float = 1.0,
        path: float = 1.0,
        *,
        lift: float = 1.0,
        latch: float = 1.0,
        short: float = 1.0,
    ) -> None:
        self.strength, self.path, self.lift = strength, path, lift
        self.latch, self.short = latch, short


class Loads:
    """What runs beside the start, motors excepted: fixed impedances, constant power that may drop
    out, and inrushes.

    Constant power follows the volts by half a step's difference at a time (its capacitors smooth
    it), drops out below one share of nominal volts and comes back by itself above another. On a
    supply at its limit one may come and go at every step: it is away until it has stayed on.
    """

    def __init__(self, loads: Beside) -> None:
        self.fixed, self.place, self.rated, self.nominal_v = (
            loads.fixed_y,
            loads.place,
            loads.power_y,
            loads.nominal_v,
        )
        self.dropout, self.pickup = loads.dropout, loads.pickup
        self.rush_place, self.rush, self.rush_tau_s = (
            loads.rush_place,
            loads.rush_y,
            loads.rush_tau_s,
        )
        self.now = np.zeros(len(loads.place), dtype=complex)
        self.live, self.away, self.blinked = (
            np.zeros(len(loads.place), dtype=np.intc) for _ in range(3)
        )
        self.gone_s = np.zeros(len(loads.place))
        self.rushing_s = 4.0 * max(loads.rush_tau_s, default=0.0)
        self.rush_branch, self.rush_a = loads.rush_branch, np.zeros(len(loads.rush_tau_s))

    def begin(self) -> None:
        self.off = 0
        for at in range(self.place.shape[0]):
            self.live[at] = 1
            self.away[at] = self.blinked[at] = 0
            self.gone_s[at] = -BACK_S
            self.now[at] = self.rated[at]

    def admittance(self, network: Network, t_s: float) -> None:
        """Put what hangs on each place of the network at its volts there [S].

        Args:
            network: that is fed.
            t_s: since the start began [s].
        """
        for at in range(3):
            network.y[at] = self.fixed[at]
        self.off = 0
        for at in range(self.place.shape[0]):
            share = network.volts[self.place[at]] / self.nominal_v[at]
            if self.live[at] and share < self.dropout[at]:
                self.live[at] = 0
                self.blinked[at] = 1
            elif not self.live[at] and share >= self.pickup[at]:
                self.live[at] = 1
            if not self.live[at]:
                self.gone_s[at] = t_s
            self.away[at] = t_s - self.gone_s[at] < BACK_S
            self.off += self.away[at]
            target = (
                self.live[at]
                * self.rated[at]
                / max(share * share, self.dropout[at] * self.dropout[at])
            )
            self.now[at] = self.now[at] + 0.5 * (target - self.now[at])
            network.y[self.place[at]] = network.y[self.place[at]] + self.now[at]
        for at in range(self.rush_place.shape[0]):
            rush = self.rush[at] * exp(-t_s / self.rush_tau_s[at])
            self.rush_a[at] = network.magnitude(rush) * network.volts[self.rush_place[at]]
            network.y[self.rush_place[at]] = network.y[self.rush_place[at]] + rush


class Supply:
    """What the supply can give in time, and what opens: two limits, latches, breakers, a guard.

    The electronics hold a short-time current for the first second at their limit, then their
    lasting one; the engine's power is another limit, which flywheel and bus carry over for a few
    tenths of a second. A regulator forces the field of a conventional alternator. Overload latch:
    ``Σ((I/I_cont)² − 1)·dt > k``.
    """

    def __init__(self, supply: Limits) -> None:
        self.limit_a, self.crest_a, self.limit_w = supply.limit_a, supply.crest_a, supply.limit_w
        self.continuous_a, self.offset_a, self.latch_k_s = (
            supply.continuous_a,
            supply.offset_a,
            supply.latch_k_s,
        )
        self.undervolt_s, self.leg_v, self.also_a, self.cut_off_s = (
            supply.undervolt_s,
            supply.leg_v,
            supply.also_a,
            supply.cut_off_s,
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

    def step(self, h: float) -> None:
        """How far each breaker's heat goes to its end in a step: few lengths of step come.

        Args:
            h: length of the step [s].
        """
        self.settles_in_s = h
        for at in range(self.leg.shape[0]):
            self.settles[at] = 1.0 - exp(-h / self.tau_s[at])

    def begin(self, strength: float, latch: float, short: float) -> None:
        self.strength, self.latch, self.short, self.field = strength, latch, short, 1.0
        self.carried_j = CARRY_S * self.limit_w * strength
        self.short_left_s = SHORT_S
        self.overload = self.under_s = self.at_limit_s = 0.0
        self.opened_by = NOTHING
        for at in range(self.leg.shape[0]):
            self.heat[at] = self.warm[at]

    def most_a(self, t_s: float) -> float:
        """Amps the electronics hold now, seen at the panel [A].

        Args:
            t_s: since the start began [s].

        Returns:
            Amps [A].
        """
        most = self.limit_a * self.strength
        if self.eco:
            most *= 1.0 - ECO_FRACTION * exp(-t_s / ECO_TAU_S)
        if self.short_left_s > 0.0:
            most *= self.short
        return float(max(most - self.crest_a, 0.05 * most) / self.turns)

    def most_w(self) -> float:
        """Watts the engine gives now; more than its power while the flywheel carries [W].

        Returns:
            Watts [W].
        """
        return NEVER if self.carried_j > 0.0 else self.limit_w * self.strength

    def update(self, h: float, a1: float, a2: float, weakest: float, watts: float) -> bool:
        """Pass a step of these amps [A], volts [V] and watts [W]; True if something opened in it,
        ``opened_by`` saying what.

        Args:
            h: length of the step [s].
            a1: of the first conductor [A].
            a2: of the second [A].
            weakest: volts of the weaker leg [V].
            watts: of all that is fed [W].

        Returns:
            Whether something opened.
        """
        most = max(a1, a2)
        if self.limit_w < NEVER:
            self.carried_j = min(
                self.carried_j + (self.limit_w * self.strength - watts) * h,
                CARRY_S * self.limit_w * self.strength,
            )
        if most > (self.limit_a * self.strength - self.crest_a) * 0.999:
            self.short_left_s -= h
            self.at_limit_s += h
            if self.at_limit_s > self.cut_off_s * self.latch and not self.opened_by:
                self.opened_by = CUT_OFF
        else:
            self.at_limit_s = 0.0
        if self.forced:
            carried = FIELD_CEILING if weakest < 0.98 * self.leg_v else 1.0
            self.field += (carried - self.field) * (1.0 - exp(-h / FIELD_TAU_S))
        if self.latch_k_s < NEVER:
            carried = max(most - self.offset_a, 0.0) / (self.continuous_a * self.strength)
            self.overload = max(self.overload + (carried * carried - 1.0) * h, 0.0)
            self.under_s = self.under_s + h if weakest < UNDERVOLT * self.leg_v else 0.0
            if self.overload > self.latch_k_s * self.latch and not self.opened_by:
                self.opened_by = LOCKOUT
            if self.under_s > self.undervolt_s * self.latch and not self.opened_by:
                self.opened_by = UNDERVOLT_LOCKOUT
        if h != self.settles_in_s:
            self.step(h)
        for at in range(self.leg.shape[0]):
            amps = (a1 if self.leg[at] == 0 else a2) + self.also_a
            carried = amps / (self.rating_a[at] * (self.strength if self.scaled[at] else 1.0))
            self.heat[at] += (carried * carried - self.heat[at]) * self.settles[at]
            if (
                self.heat[at] >= self.trip_heat[at] or carried >= self.magnetic[at]
            ) and not self.opened_by:
                self.opened_by = BREAKER + at
        return bool(self.opened_by)


class Guard:
    """A guard at its own place in the path: it opens for low volts there after a second, and for
    amps over its limit after some more, so that a start passes.
    """

    def __init__(self, guard: GuardWatch) -> None:
        self.low_v, self.over_a, self.turns = guard.low_v, guard.over_a, guard.turns
        self.after, self.present = guard.after_ohm, guard.present

    def begin(self, path: float) -> None:
        self.path, self.low_s, self.over_s, self.opened_by = path, 0.0, 0.0, NOTHING

    def update(self, h: float, network: Network) -> bool:
        """Pass a step of the network; True if it opened in it.

        Args:
            h: length of the step [s].
            network: that is fed.

        Returns:
            Whether it opened.
        """
        i1, i2 = network.i1 / self.path, network.i2 / self.path
        volts = network.magnitude(network.v1 + self.after[0] * i1 + self.after[1] * i2)
        if network.two_legs:
            second = network.magnitude(network.v2 + self.after[1] * i1 + self.after[2] * i2)
            volts = min(volts, second)
        amps = max(network.a1, network.a2) * self.turns
        self.low_s = self.low_s + h if volts / self.turns < self.low_v else 0.0
        self.over_s = self.over_s + h if amps > self.over_a else 0.0
        if self.low_s > GUARD_FILTER_S:
            self.opened_by = GUARD_LOW
        elif self.over_s > GUARD_OVERLOAD_S:
            self.opened_by = GUARD_OVER
        return bool(self.opened_by)


class Branches:
    """The branch breakers of the loads that start: each feels the amps of its own motors and
    inrushes, and what else hangs on it.
    """

    def __init__(self, branches: BranchWatch) -> None:
        self.rating_a, self.tau_s, self.trip_heat, self.magnetic = (
            branches.rating_a,
            branches.tau_s,
            branches.trip_heat,
            branches.magnetic,
        )
        self.warm, self.beside_a = branches.warm, branches.beside_a
        self.count = len(branches.rating_a)
        self.heat, self.amps = np.zeros(len(branches.warm)), np.zeros(len(branches.warm))

    def begin(self) -> None:
        self.opened_by = NOTHING
        for at in range(self.count):
            self.heat[at] = self.warm[at]

    def update(self, h: float, motors: Motors, loads: Loads) -> bool:
        """Pass a step of what motors and inrushes draw; True if one opened in it.

        Args:
            h: length of the step [s].
            motors: of the start.
            loads: beside them.

        Returns:
            Whether one opened.
        """
        for at in range(self.count):
            self.amps[at] = self.beside_a[at]
        for at in range(motors.count):
            if motors.branch[at] >= 0:
                self.amps[motors.branch[at]] += motors.drawn[at]
        for at in range(loads.rush_branch.shape[0]):
            if loads.rush_branch[at] >= 0:
                self.amps[loads.rush_branch[at]] += loads.rush_a[at]
        for at in range(self.count):
            carried = self.amps[at] / self.rating_a[at]
            self.heat[at] += (carried * carried - self.heat[at]) * (1.0 - exp(-h / self.tau_s[at]))
            if (
                self.heat[at] >= self.trip_heat[at] or carried >= self.magnetic[at]
            ) and not self.opened_by:
                self.opened_by = BRANCH + at
        return bool(self.opened_by)


class Engine:
    """One rig on one supply with one choice of who starts.

    After a start its results are attributes: ``peak_a`` of the source [A], ``lowest_v`` of the
    weaker leg [V], ``up_s`` when the last motor was up and ``opened_s`` when something opened,
    infinite if never [s], ``opened_by`` what it was; ``off`` and ``fallen``, how many
    constant-power loads and running motors were away at the end; ``nearest_latch``, how far the
    overload lockout filled [1].
    """

    def __init__(self, model: Model) -> None:
        """Take over the arrays of a :class:`ironmargin.starting.model.Model`."""
        self.network, self.loads = Network(model.wiring), Loads(model.loads)
        self.motors, self.supply = Motors(model.motors), Supply(model.supply)
        self.guard, self.branches = Guard(model.guard), Branches(model.branches)
        self.opened_by = NOTHING
        self.step_s, self.runs = model.step_s, 0
        self.log: Real | None = None
        self.peak_a = self.lowest_v = self.up_s = self.opened_s = self.nearest_latch = 0.0
        self.decided_s = 0.0

    def states(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_], NDArray[np.bool_]]:
        """Which constant-power loads are away, which were off for a moment, and which motors that
        ran beside have pulled out, after a start.

        Returns:
            Three arrays: loads away, loads that blinked (each a figure a load), motors out (a
            figure a motor).
        """
        motors = self.motors
        return (
            np.array(self.loads.away) != 0,
            np.array(self.loads.blinked) != 0,
            np.array([motors.fell(at) for at in range(motors.count)], dtype=bool),
        )

    def one_start(self, by: Factors, lra: Real, breakaway: Real, keep: bool = False) -> int:
        """Follow one start to its outcome, half cycle by half cycle.

        Args:
            by: what differs from the nominal start.
            lra: factors of each motor [1].
            breakaway: factors of each motor [1].
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
        return int(self.follow(by, lra, breakaway, keep))

    def follow(self, by: Factors, lra: Real, breakaway: Real, keep: bool) -> int:
        """:meth:`one_start` once the log, if one is kept, is at hand: nothing in it needs Python,
        so that it may run without the interpreter's lock.

        Args:
            by: factors of supply and path.
            lra: of each motor's locked-rotor amps over the plate's [1].
            breakaway: of each motor's stiffness over the plate's [1].
            keep: whether steps are logged.

        Returns:
            The outcome's code.
        """
        t = 0.0
        h = self.step_s
        before_h = 0.0
        waited_s = 0.0
        quiet_s = 0.0
        weakest = 0.0
        outcome = UNDECIDED
        self.begin(by, lra, breakaway)
        while True:
            for again in range(FIRST_PASSES if t == 0.0 else 1):
                self.loads.admittance(self.network, t)
                self.motors.admittance(self.network)
                if again == 0:
                    self.motors.ramp(h)
                self.network.solve(
                    by.lift * self.supply.field, self.supply.most_a(t), self.supply.most_w()
                )
            weakest = (
                min(self.network.volts[0], self.network.volts[1])
                if self.network.two_legs
                else self.network.volts[0]
            )
            source_a = max(self.network.a1, self.network.a2) * self.supply.turns
            if weakest != weakest or weakest > 1e6:
                self.decided_s = t
                return UNSOLVED
            if outcome == UNDECIDED or keep:
                self.peak_a = max(self.peak_a, source_a)
                self.lowest_v = min(self.lowest_v, weakest)
            if keep:
                self.note(t, source_a)
            opened = self.supply.update(
                h,
                self.network.a1 * self.supply.turns,
                self.network.a2 * self.supply.turns,
                weakest,
                self.network.watts,
            )
            what = self.supply.opened_by
            if self.guard.present and self.guard.update(h, self.network) and not what:
                what = self.guard.opened_by
            if (
                self.branches.count
                and self.branches.update(h, self.motors, self.loads)
                and not what
            ):
                what = self.branches.opened_by
            opened = opened or what != NOTHING
            if self.supply.latch_k_s < NEVER:
                self.nearest_latch = max(
                    self.nearest_latch, self.supply.overload / (self.supply.latch_k_s * by.latch)
                )
            self.off, self.fallen = self.loads.off, self.motors.pulled_out()
            if self.motors.up() and t >= self.loads.rushing_s:
                if self.up_s == NEVER:
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
            if opened and self.opened_s == NEVER:
                self.opened_s = t
                self.opened_by = what
                if outcome == UNDECIDED:
                    # A breaker that opens at once does not wait to see whether the rotor turns.
                    at_once = what >= BREAKER and t < STANDSTILL_S
                    outcome = (
                        STALLS
                        if not at_once
                        and (self.motors.standing() or self.motors.still_s > STANDSTILL_S)
                        else TRIPS
                    )
            if outcome == UNDECIDED and (self.stuck(t) or t >= HORIZON_S):
                outcome = STALLS
            quiet_s = quiet_s + h if outcome == STARTS else 0.0
            if outcome != UNDECIDED and self.decided_s == NEVER:
                self.decided_s = t
            if outcome != UNDECIDED and (not keep or self.opened_s < NEVER or quiet_s > SETTLE_S):
                return outcome
            if t >= HORIZON_S:
                return outcome
            self.motors.turn(self.network, h, before_h)
            t += h
            before_h, h = h, self.next_step(t)

    def stuck(self, t: float) -> bool:
        """Whether a rotor stands and nothing to come will turn it: its starter gave up, or ramp and
        engine are at their most.

        Args:
            t: since the start began [s].

        Returns:
            Whether it is of no use to follow on.
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
        """Half a cycle, or two or four of them while nothing moves fast [s].

        Args:
            t: since the start began [s].

        Returns:
            Seconds [s].
        """
        if (
            self.motors.soft_busy
            or t < self.loads.rushing_s
            or self.supply.forced
            or self.motors.fastest >= CALM
        ):
            return float(self.step_s)
        return float(self.step_s * (4.0 if self.motors.still_s > 0.0 else 2.0))

    def begin(self, by: Factors, lra: Real, breakaway: Real) -> None:
        self.network.begin(by.strength, by.path, by.lift)
        self.loads.begin()
        self.motors.begin(lra, breakaway)
        self.supply.begin(by.strength, by.latch, by.short)
        self.guard.begin(by.path)
        self.branches.begin()
        self.opened_by = NOTHING
        self.peak_a, self.lowest_v, self.up_s, self.opened_s = 0.0, NEVER, NEVER, NEVER
        self.nearest_latch, self.off, self.fallen, self.kept = 0.0, 0, 0, 0
        self.decided_s = NEVER
        self.runs += 1

    def note(self, t: float, source_a: float) -> None:
        """Log a step: time, volts of both legs, amps of both conductors, speeds, heat of the
        breakers.

        Args:
            t: since the start began [s].
            source_a: of the busier conductor [A].
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
