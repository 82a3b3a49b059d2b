"""The thermal-magnetic breaker inside the band its standard permits.

One thermal node, ``τ·dθ/dt = (I/In)² − θ``, trips at ``θ = M²``; a magnetic limb trips at once
above a multiple of the handle. Closed form at constant current from a heat ``θ0``: ``t = τ·ln((x² −
θ0)/(x² − M²))``, ``x = I/In``.

The edges of the band follow from the standards' calibration points (all from memory):

* UL 489: must carry 100 %, trips within 1 h at 135 %, within 2 min at 200 % up to 30 A and 4 min to
  50 A. Late edge: ``M = 1.35`` and the ``τ`` that gives 2 (4) min at 200 %. The early edge has no
  published limit but 100 %: ``M = 1.02``, 15 s at 200 % (memory, typical minimum curves). Nominal
  ``M = 1.12``, ``τ = 120 s``.
* Both are calibrated in an ambient of their own, 40 °C and 30 °C (memory); in a hotter box the
  bimetal is already part of the way: trip heat is less by the excess over about 60 K, the rise at
  which it trips (memory).
* IEC 60898-1: no trip at 1.13 In for 1 h, trip at 1.45 In within 1 h, 1 to 60 s at 2.55 In (to 120
  s above 32 A). Both edges from these points. The nominal curve is midway (geometric mean): a
  nominal ``M`` of 1.12 would trip where the standard forbids it.
"""

from __future__ import annotations

import math
from functools import lru_cache

from ironmargin.record import record

EARLY, NOMINAL, LATE = "early", "nominal", "late"
EDGES = (EARLY, NOMINAL, LATE)
MAGNETIC = {
    "UL489": (8.0, 12.0),
    "IEC60898-B": (3.0, 5.0),
    "IEC60898-C": (5.0, 10.0),
    "IEC60898-D": (10.0, 20.0),
}

REFERENCE_C = {"UL4": 40.0, "IEC": 30.0}
BOX_OVER_AIR_K, TRIP_RISE_K, MOST_EXCESS_K = 10.0, 60.0, 30.0


NOMINAL_TAU_S, NOMINAL_MULTIPLE = 120.0, 1.12
"""The nominal curve of a UL 489 breaker: time constant and trip multiple (above)."""


@record
class Curve:
    """One curve of the band: time constant [s], trip multiple M [1], magnetic multiple [1]."""

    tau_s: float
    multiple: float
    magnetic: float

    def trip_s(self, x: float, heat: float = 0.0) -> float:
        """Time to trip at ``x`` times the handle from heat ``heat``; infinite if it holds [s]."""
        if x >= self.magnetic:
            return 0.0
        limit = self.multiple**2
        if heat >= limit:
            return 0.0
        if x * x <= limit:
            return math.inf
        return self.tau_s * math.log((x * x - heat) / (x * x - limit))

    def heat_after(self, x: float, seconds: float, heat: float = 0.0) -> float:
        """Heat after ``seconds`` at ``x`` times the handle, in units of (I/In)² [1]."""
        return x * x + (heat - x * x) * math.exp(-seconds / self.tau_s)


def _tau(multiple: float, x: float, trip_s: float) -> float:
    """The time constant of a curve through one point, from cold [s]."""
    return trip_s / math.log(x * x / (x * x - multiple * multiple))


def box_share(standard: str, outdoor_c: float) -> float:
    """Share of its trip heat a breaker has left in a box in the sun, 10 K above the air (common
    practice) [1].
    """
    excess = outdoor_c + BOX_OVER_AIR_K - REFERENCE_C[standard[:3]]
    return 1.0 - min(max(excess, 0.0), MOST_EXCESS_K) / TRIP_RISE_K


@lru_cache(maxsize=1024)
def curve(standard: str, rating_a: float, edge: str = NOMINAL, outdoor_c: float = 20.0) -> Curve:
    """The early, nominal or late curve of a breaker in a box on a day of ``outdoor_c``.

    Args:
        standard: as in the setup format; rating_a: handle [A]; edge: one of :data:`EDGES`.
    """
    cool = _calibrated(standard, rating_a, edge)
    return Curve(
        cool.tau_s, cool.multiple * math.sqrt(box_share(standard, outdoor_c)), cool.magnetic
    )


def _calibrated(standard: str, rating_a: float, edge: str) -> Curve:
    """A curve in the ambient of its standard."""
    low, high = MAGNETIC[standard]
    magnetic = {EARLY: low, NOMINAL: math.sqrt(low * high), LATE: high}[edge]
    if standard == "UL489":
        late_s = 120.0 if rating_a <= 30 else 240.0
        tau, multiple = {
            EARLY: (_tau(1.02, 2.0, 15.0), 1.02),
            NOMINAL: (NOMINAL_TAU_S, NOMINAL_MULTIPLE),
            LATE: (_tau(1.35, 2.0, late_s), 1.35),
        }[edge]
        return Curve(tau, multiple, magnetic)
    early = _tau(1.13, 2.55, 1.0)
    late = _tau(1.45, 2.55, 60.0 if rating_a <= 32 else 120.0)
    tau, multiple = {
        EARLY: (early, 1.13),
        NOMINAL: (math.sqrt(early * late), math.sqrt(1.13 * 1.45)),
        LATE: (late, 1.45),
    }[edge]
    return Curve(tau, multiple, magnetic)
