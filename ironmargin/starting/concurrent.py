# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""What runs beside a start: loads that are no motors, and the branch breakers they share with it.

Plain Python that is compiled ahead of time with the types of ``concurrent.pxd``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from cython.cimports.libc.math import exp  # type: ignore[import-untyped]

from ironmargin.starting.circuit import Network
from ironmargin.starting.codes import BRANCH, NOTHING
from ironmargin.starting.motors import Motors

if TYPE_CHECKING:
    from ironmargin.starting.model import Concurrent
    from ironmargin.starting.protection import BranchWatch

BACK_S = (
    0.25  # a load that dropped out counts as back once it has stayed on so long (common practice)
)
FOLLOWS = 0.5  # of a step's difference that constant power follows, smoothed by its capacitors
RUSHES = 4.0  # time constants after which an inrush is over, but for a fiftieth


class Loads:
    """What runs beside the start, motors excepted: fixed impedances, constant power that may drop
    out, and inrushes.

    Constant power follows the volts by half a step's difference at a time (its capacitors smooth
    it), drops out below one share of nominal volts and comes back by itself above another. On a
    supply at its limit one may come and go at every step: it is away until it has stayed on.
    """

    def __init__(self, loads: Concurrent) -> None:
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
        self.rushing_s = RUSHES * max(loads.rush_tau_s, default=0.0)
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
            self.now[at] = self.now[at] + FOLLOWS * (target - self.now[at])
            network.y[self.place[at]] = network.y[self.place[at]] + self.now[at]
        for at in range(self.rush_place.shape[0]):
            rush = self.rush[at] * exp(-t_s / self.rush_tau_s[at])
            self.rush_a[at] = network.magnitude(rush) * network.volts[self.rush_place[at]]
            network.y[self.rush_place[at]] = network.y[self.rush_place[at]] + rush


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
        self.warm, self.concurrent_a = branches.warm, branches.concurrent_a
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
            self.amps[at] = self.concurrent_a[at]
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
