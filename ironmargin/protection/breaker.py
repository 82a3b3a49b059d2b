"""The thermal-magnetic breaker inside the band its standard permits.

One thermal node, ``τ·dθ/dt = (I/In)² − θ``, trips at ``θ = M²``; a magnetic limb trips at once
above a multiple of the rated current. Closed form at constant current from a heat ``θ0``:
``t = τ·ln((x² − θ0)/(x² − M²))``, ``x = I/In``.

The edges of the band follow from the standards' calibration points (all from memory):

* UL 489: must carry 100 %, trips within 1 h at 135 %, within 2 min at 200 % up to 30 A and 4 min to
  50 A. Late edge: ``M = 1.35`` and the ``τ`` that gives 2 (4) min at 200 %. The early edge has no
  published limit but 100 %: ``M = 1.02``, 15 s at 200 % (memory, typical minimum curves).
* The nominal curve of both standards is the geometric mean of the edges, in M and in τ: for UL 489
  up to 30 A ``M = 1.17``, ``τ = 99 s``, so that 200 % opens in about 40 s, and a 30 A breaker
  carries 34 A for an hour (common practice, no source: 33 to 35 A were carried).
* Both are calibrated in an ambient of their own, 40 °C and 30 °C (memory); in a hotter box the
  bimetal is already part of the way: trip heat is less by the excess over about 60 K, the rise at
  which it trips (memory).
* IEC 60898-1: no trip at 1.13 In for 1 h, trip at 1.45 In within 1 h, 1 to 60 s at 2.55 In (to 120
  s above 32 A). Both edges from these points.

A breaker that is known to trip early or late (worn, or swapped) is judged by that edge as its
nominal curve, and by the next edge as its early one.
"""

from __future__ import annotations

import math
from functools import lru_cache

from ironmargin.record import record

EARLY, NOMINAL, LATE = "early", "nominal", "late"
EDGES = (EARLY, NOMINAL, LATE)
ON_CURVE, TRIPS_EARLY, TRIPS_LATE = "on-curve", "early", "late"
TRIPS = (ON_CURVE, TRIPS_EARLY, TRIPS_LATE)
"""How a breaker trips against its curve, as the setup format says it."""
SHIFTED = {
    ON_CURVE: {EARLY: EARLY, NOMINAL: NOMINAL, LATE: LATE},
    TRIPS_EARLY: {EARLY: EARLY, NOMINAL: EARLY, LATE: NOMINAL},
    TRIPS_LATE: {EARLY: NOMINAL, NOMINAL: LATE, LATE: LATE},
}
"""Which calibrated edge stands for an edge of such a breaker."""
MAGNETIC = {
    "UL489": (8.0, 12.0),
    "IEC60898-B": (3.0, 5.0),
    "IEC60898-C": (5.0, 10.0),
    "IEC60898-D": (10.0, 20.0),
}

REFERENCE_C = {"UL4": 40.0, "IEC": 30.0}
BOX_OVER_AIR_K, TRIP_RISE_K, MAX_EXCESS_K = 10.0, 60.0, 30.0


@record
class Band:
    """The calibration points of a standard.

    Attributes:
        carries, opens: multiples of the rating it must carry, and must open at within an hour [1].
        over, over_s: a larger multiple [1], and the seconds it opens within: soonest, latest.
    """

    carries: float
    opens: float
    over: float
    over_s: tuple[float, float]


UL_489_SMALL_A, IEC_60898_SMALL_A = 30.0, 32.0
"""Up to these ratings breakers have the shorter times [A]."""
UL_489_CARRIES = 1.02
"""The early edge: above this it may open [1] (from memory: typical minimum curves)."""
UL_489_SOONEST_S = 15.0
"""At twice its rating, by the early edge [s] (from memory)."""
UL_489_SMALL = Band(UL_489_CARRIES, 1.35, 2.0, (UL_489_SOONEST_S, 120.0))
UL_489 = Band(UL_489_CARRIES, 1.35, 2.0, (UL_489_SOONEST_S, 240.0))
IEC_60898_SMALL = Band(1.13, 1.45, 2.55, (1.0, 60.0))
IEC_60898 = Band(1.13, 1.45, 2.55, (1.0, 120.0))
MILD_C = 20.0
"""Air in which a breaker's box is nowhere near its ambient of calibration [°C]."""


@record
class Curve:
    """One curve of the band: time constant [s], trip multiple M [1], magnetic multiple [1]."""

    tau_s: float
    multiple: float
    magnetic: float

    def trip_s(self, x: float, heat: float = 0.0) -> float:
        """Time to trip at ``x`` times the rated current from heat ``heat`` [s]; infinite: holds.

        Args:
            x: multiple of the rating [1].
            heat: heat it begins with, in units of (I/In)² [1].

        Returns:
            Time [s].
        """
        if x >= self.magnetic:
            return 0.0
        limit = self.multiple**2
        if heat >= limit:
            return 0.0
        if x * x <= limit:
            return math.inf
        return self.tau_s * math.log((x * x - heat) / (x * x - limit))

    def holds_x(self, seconds: float) -> float:
        """The largest multiple of the rating it carries for so long from cold [1].

        ``x² = M²/(1 − e^(−t/τ))``, the closed form of :meth:`trip_s` turned around; for hours it
        is ``M``. Never at or above the magnetic multiple.

        Args:
            seconds: how long it carries it [s].

        Returns:
            Multiple of the rating [1].
        """
        share = -math.expm1(-seconds / self.tau_s)
        return min(self.multiple / math.sqrt(max(share, 1e-12)), self.magnetic * (1.0 - 1e-9))

    def heat_after(self, x: float, seconds: float, heat: float = 0.0) -> float:
        """Heat after ``seconds`` at ``x`` times the rated current, in units of (I/In)² [1].

        Args:
            x: multiple of the rating [1].
            seconds: length of the span [s].
            heat: heat it begins with, in units of (I/In)² [1].

        Returns:
            Heat [1].
        """
        return x * x + (heat - x * x) * math.exp(-seconds / self.tau_s)


def _tau(multiple: float, x: float, trip_s: float) -> float:
    """The time constant of a curve through one point, from cold [s]."""
    return trip_s / math.log(x * x / (x * x - multiple * multiple))


def box_share(standard: str, outdoor_c: float) -> float:
    """Share of its trip heat a breaker has left in a box in the sun, 10 K above the air (common
    practice) [1].

    Args:
        standard: of the breaker.
        outdoor_c: air [°C].

    Returns:
        The share [1].
    """
    excess = outdoor_c + BOX_OVER_AIR_K - REFERENCE_C[standard[:3]]
    return 1.0 - min(max(excess, 0.0), MAX_EXCESS_K) / TRIP_RISE_K


@lru_cache(maxsize=1024)
def curve(
    standard: str,
    rating_a: float,
    edge: str = NOMINAL,
    outdoor_c: float = MILD_C,
    trips: str = ON_CURVE,
) -> Curve:
    """The early, nominal or late curve of a breaker in a box on a day of ``outdoor_c``.

    Args:
        standard: as in the setup format.
        rating_a: breaker rating [A].
        edge: one of :data:`EDGES`.
        outdoor_c: air outdoors [°C].
        trips: one of :data:`TRIPS`.

    Returns:
        Time to trip over multiples of the rating.
    """
    cool = _calibrated(standard, rating_a, SHIFTED[trips][edge])
    return Curve(
        cool.tau_s, cool.multiple * math.sqrt(box_share(standard, outdoor_c)), cool.magnetic
    )


def _calibrated(standard: str, rating_a: float, edge: str) -> Curve:
    """A curve in the ambient of its standard."""
    low, high = MAGNETIC[standard]
    magnetic = {EARLY: low, NOMINAL: math.sqrt(low * high), LATE: high}[edge]
    if standard == "UL489":
        band = UL_489_SMALL if rating_a <= UL_489_SMALL_A else UL_489
    else:
        band = IEC_60898_SMALL if rating_a <= IEC_60898_SMALL_A else IEC_60898
    multiples = band.carries, band.opens
    taus = tuple(
        _tau(multiple, band.over, seconds)
        for multiple, seconds in zip(multiples, band.over_s, strict=True)
    )
    tau, multiple = {
        EARLY: (taus[0], multiples[0]),
        NOMINAL: (math.sqrt(taus[0] * taus[1]), math.sqrt(multiples[0] * multiples[1])),
        LATE: (taus[1], multiples[1]),
    }[edge]
    return Curve(tau, multiple, magnetic)
