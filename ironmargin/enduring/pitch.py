"""A pitch from above: where a set stands, where its exhaust points, and who hears it.

Right is towards the neighbour, back is away from the road; the set stands at (0, 0) to begin with.
The rig is a rectangle to its left; its own ear is the nearest point of it. A free field: inverse
square of :mod:`noise`, louder towards the exhaust.
"""

from __future__ import annotations

import math
from dataclasses import replace

from ironmargin.enduring.noise import EXHAUST_DB, Sound
from ironmargin.record import record

CARBON_MONOXIDE_M = 6.1
"""Twenty feet from any opening: the US Consumer Product Safety Commission's advice on portable
generators (from memory). Local codes may ask more."""
STEP_M, TURN_DEG = 1.0, 45.0
FURTHEST_M = 30.0
CORNERS = 48
"""Of the line of equal noise as it is drawn."""
USUAL_CORD_M = 8.0
"""Reach of a set whose path names no cord [m] (common practice: a 25 ft cord)."""
Place = tuple[float, float]


@record
class Rig:
    """The own rig from above: its middle and its size [m]; at first it stands as far off as carbon
    monoxide asks.
    """

    middle: Place = (-(CARBON_MONOXIDE_M + 1.35), 0.0)
    wide_m: float = 2.5
    long_m: float = 8.0

    def nearest(self, place: Place) -> Place:
        """The point of the rig nearest to a place.

        Args:
            place: across and back [m].

        Returns:
            Across and back [m].
        """
        x, y = self.middle
        return (
            min(max(place[0], x - self.wide_m / 2), x + self.wide_m / 2),
            min(max(place[1], y - self.long_m / 2), y + self.long_m / 2),
        )


@record
class Pitch:
    """A set on a pitch.

    Attributes:
        sound: as the set is heard beside its exhaust, at one metre [dBA].
        ear: the neighbour's nearest ear [m].
        place: the set [m].
        exhaust_deg: where the exhaust points, 0 to the neighbour's side, 90 back [degrees].
    """

    sound: Sound
    ear: Place
    place: Place = (0.0, 0.0)
    exhaust_deg: float = 90.0
    rig: Rig = Rig()

    def towards(self, deg: float) -> Sound:
        """The set as it is heard from a direction: ``L1 + E·cos θ``, E of the exhaust side.

        A cosine is the plainest pattern that is E louder in front, E quieter behind and unchanged
        aside, which is all that readings say (common practice, no source).

        Args:
            deg: of the compass of the pitch [°].

        Returns:
            The level at one meter and how it falls.
        """
        return Sound(
            self.sound.at_1m_dba + EXHAUST_DB * math.cos(math.radians(deg - self.exhaust_deg)),
            self.sound.per_doubling_db,
        )

    def heard_at(self, spot: Place) -> float:
        """Level at a spot of the pitch, never nearer than a metre [dBA].

        Args:
            spot: across and back [m].

        Returns:
            Level [dBA].
        """
        across, back = spot[0] - self.place[0], spot[1] - self.place[1]
        return self.towards(math.degrees(math.atan2(back, across))).at(
            max(math.hypot(across, back), 1.0)
        )

    def at_ear(self) -> float:
        """Level at the neighbor's nearest ear [dBA].

        Returns:
            Level [dBA].
        """
        return self.heard_at(self.ear)

    def at_rig(self) -> float:
        """Level outside the wall of the own rig, where it is nearest [dBA].

        Returns:
            Level [dBA].
        """
        return self.heard_at(self.rig.nearest(self.place))

    def from_rig_m(self) -> float:
        """Distance from the set to its own rig [m].

        Returns:
            Meters [m].
        """
        return math.dist(self.place, self.rig.nearest(self.place))

    def to_ear_m(self) -> float:
        """Distance from the set to the neighbour's ear [m].

        Returns:
            Meters [m].
        """
        return math.dist(self.place, self.ear)

    def ring(self, dba: float, corners: int = CORNERS) -> list[Place]:
        """The line of one level around the set [m].

        Args:
            dba: level [dBA].
            corners: of the line.

        Returns:
            Its points [m].
        """
        found = []
        for n in range(corners):
            deg = 360.0 * n / corners
            reach = self.towards(deg).reaches(dba)
            found.append(
                (
                    self.place[0] + reach * math.cos(math.radians(deg)),
                    self.place[1] + reach * math.sin(math.radians(deg)),
                )
            )
        return found


def propose(pitch: Pitch, limit_dba: float, cord_m: float) -> Pitch:
    """Where the set would stand best within reach of its cord.

    The exhaust points away from the rig, and the set stands 20 feet from it as far as the cord
    lets it. Of what keeps the limit at the neighbor's ear, the place quietest in the own rig; if
    nothing does, the one quietest at the neighbor's.

    Args:
        pitch: where everything stands now.
        limit_dba: most there may be at the neighbor's ear [dBA].
        cord_m: how far the cord lets the set go [m].

    Returns:
        The pitch with the set moved.
    """
    reach = min(cord_m, FURTHEST_M)
    steps = int((reach + pitch.rig.wide_m) / STEP_M) + 1
    x, y = pitch.rig.middle
    safe = min(CARBON_MONOXIDE_M, reach - STEP_M / 2)
    best, best_by = pitch, None
    for across in range(-steps, steps + 1):
        for back in range(-steps - 4, steps + 5):
            place = (x + across * STEP_M, y + back * STEP_M)
            there = replace(pitch, place=place)
            if not safe <= there.from_rig_m() <= reach:
                continue
            for exhaust_deg in _away_from_rig(there):
                turned = replace(there, exhaust_deg=exhaust_deg)
                heard = turned.at_ear()
                keeps = heard <= limit_dba
                by = (not keeps, turned.at_rig() if keeps else heard, turned.from_rig_m())
                if best_by is None or by < best_by:
                    best, best_by = turned, by
    return best


def _away_from_rig(pitch: Pitch) -> list[float]:
    """Ways the exhaust may point from this place without pointing at the own rig [deg]."""
    wall = pitch.rig.nearest(pitch.place)
    deg = math.degrees(math.atan2(wall[1] - pitch.place[1], wall[0] - pitch.place[0]))
    ways = (n * TURN_DEG for n in range(int(360 / TURN_DEG)))
    return [way for way in ways if math.cos(math.radians(deg - way)) <= -0.5]
