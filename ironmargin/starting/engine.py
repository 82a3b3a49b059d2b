# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""One start, followed half mains cycle by half cycle to its outcome.

Each step: what hangs on every place of the panel at its present volts; the network, folded back to
what the supply can give; what lockouts, breakers and the guard make of it; one step of the rotors.
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
from numpy.typing import NDArray

from ironmargin.electrics.network import Real
from ironmargin.starting.circuit import Network
from ironmargin.starting.codes import (
    BREAKER,
    DROPS_OUT,
    FIXED,
    NEVER,
    NOTHING,
    OUTCOMES,
    PASSES,
    STALLS,
    STARTS,
    TRIPS,
    UNDECIDED,
    UNSOLVED,
    VOLTS_STAY_LOW,
)
from ironmargin.starting.concurrent import Branches, Loads
from ironmargin.starting.motors import Motors
from ironmargin.starting.supply import Guard, Supply

if TYPE_CHECKING:
    from ironmargin.starting.model import Model

__all__ = ["OUTCOMES", "PASSES", "Engine", "Factors"]

SPARE_PAGES = 8  # rows of the log beyond its horizon: a step may end past it
HORIZON_S = 8.0
"""A rotor still standing now is held by its own overload (common practice: 5 to 10 s)."""
RECOVERED = 0.85  # share of nominal at which volts count as back (just under C84.1 range B; memory)
PATIENCE_S = 2.0  # for volts and loads to come back once the rotor is up (common practice)
STANDSTILL_S = 0.4
CALM = 0.25
"""Speed change under which steps are longer [1/s]."""
CALM_STEPS, STILL_STEPS = 2.0, 4.0
"""Half cycles in a step while nothing changes fast, and while a rotor stands."""
SETTLE_S = 0.25  # a picture goes on so long after the start
FIRST_PASSES = 12
ABSURD_V = 1e6  # volts that no network has: it was not solved


class Factors:
    """By how much a start differs from the nominal one, each a factor [1].

    Attributes:
        source_strength: of the supply.
        path: of the path, whose impedance is divided by it.
        voc_factor: open-circuit volts over nominal.
        lockout: time of the lockouts over nominal.
        short: what the electronics hold in the first second over their lasting limit.
    """

    def __init__(
        self,
        source_strength: float = 1.0,
        path: float = 1.0,
        *,
        voc_factor: float = 1.0,
        lockout: float = 1.0,
        short: float = 1.0,
    ) -> None:
        self.source_strength, self.path, self.voc_factor = source_strength, path, voc_factor
        self.lockout, self.short = lockout, short


class Engine:
    """One rig on one supply with one choice of who starts.

    After a start its results are attributes: ``peak_a`` of the source [A], ``lowest_v`` of the
    weaker leg [V], ``up_s`` when the last motor was up and ``opened_s`` when something opened,
    infinite if never [s], ``opened_by`` what it was; ``off`` and ``fallen``, how many
    constant-power loads and running motors were away at the end; ``nearest_lockout``, how far the
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
        self.peak_a = self.lowest_v = self.up_s = self.opened_s = self.nearest_lockout = 0.0
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
                (
                    int(HORIZON_S / self.step_s) + SPARE_PAGES,
                    FIXED + self.motors.count + len(self.supply.leg),
                )
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
                    by.voc_factor * self.supply.field, self.supply.max_a(t), self.supply.max_w()
                )
            weakest = (
                min(self.network.volts[0], self.network.volts[1])
                if self.network.two_legs
                else self.network.volts[0]
            )
            source_a = max(self.network.a1, self.network.a2) * self.supply.turns
            if weakest != weakest or weakest > ABSURD_V:
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
            self.nearest_lockout = max(self.nearest_lockout, self.supply.locked_out())
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
                    outcome = DROPS_OUT if self.off or self.fallen else VOLTS_STAY_LOW
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
        if self.supply.rising(t):
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
        return float(self.step_s * (STILL_STEPS if self.motors.still_s > 0.0 else CALM_STEPS))

    def begin(self, by: Factors, lra: Real, breakaway: Real) -> None:
        self.network.begin(by.source_strength, by.path, by.voc_factor)
        self.loads.begin()
        self.motors.begin(lra, breakaway)
        self.supply.begin(by.source_strength, by.lockout, by.short)
        self.guard.begin(by.path)
        self.branches.begin()
        self.opened_by = NOTHING
        self.peak_a, self.lowest_v, self.up_s, self.opened_s = 0.0, NEVER, NEVER, NEVER
        self.nearest_lockout, self.off, self.fallen, self.kept = 0.0, 0, 0, 0
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
            self.pages[self.kept, FIXED + at] = self.motors.speed[at]
        for at in range(self.supply.leg.shape[0]):
            self.pages[self.kept, FIXED + self.motors.count + at] = self.supply.heat[at]
        self.kept += 1
