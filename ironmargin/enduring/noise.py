"""Noise in a free field: −6 dB for each doubling of distance, equal sources +3 dB.

The exhaust side is 3 to 4 dB louder, eco 1 to 5 dB quieter (common practice). 60 dBA at 50 ft is
the line in US national parks (36 CFR 2.12). Walls reflect: a fit says how far from a free field the
readings are.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.engines import Generator, Noise

FREE_FIELD_DB = 20.0 * math.log10(2.0)
"""Lost at each doubling of distance from one source in a free field."""
EXHAUST_DB = 3.5
ECO_DB = -3.0
STATED_SHARE = 0.25
"""Share of its rating at which a set's stated level was read, unless said [1] (common practice, no
source)."""
FULL_DB, FULL_STEADY_DB = 6.0, 2.0
"""How much louder a set is at its rating than at a quarter of it: one whose speed follows the load,
and one of constant speed [dB] (common practice, no source)."""
WALL_DB = {"open": 12.0, "shut": 22.0}
"""What a trailer's wall takes, windows open and shut [dB] (common practice, no source)."""
UNIT_DBA = 57.0
"""Noise indoors of an air conditioner that cools, unless measured [dBA] (common practice, no
source: 52 to 62)."""
SLEEP_DBA = 45.0
"""Most people sleep through a steady noise up to so much [dBA] (common practice, no source; the
WHO's night noise guidelines of 2009 ask for less, 30 dB(A) indoors, from memory)."""
PARK_LIMIT_DBA, PARK_M = 60.0, 15.24
MAX_READ_SHARE = 0.99
"""A level read at full load counts as read just below it, so that the line through it has a slope
[1]."""


@record
class Sound:
    """A source by its level at one metre [dBA], and what each doubling of distance takes [dB]: 6 in
    a free field, less where walls reflect.
    """

    at_1m_dba: float
    per_doubling_db: float = FREE_FIELD_DB

    def at(self, distance_m: float) -> float:
        """Level at a distance [dBA]: ``L1 − d·log2(r)``; in a free field ``L1 − 20·log10(r)``.

        Args:
            distance_m: from the source [m].

        Returns:
            Level [dBA].
        """
        return self.at_1m_dba - self.per_doubling_db * math.log2(distance_m)

    def reaches(self, dba: float) -> float:
        """Distance at which the level has fallen to ``dba`` [m].

        Args:
            dba: a level [dBA].

        Returns:
            Meters [m].
        """
        return float(2.0 ** ((self.at_1m_dba - dba) / self.per_doubling_db))


def sound_of(
    dba: float,
    at_m: float,
    sets: int = 1,
    *,
    exhaust_side: bool = False,
    eco: bool = False,
    per_doubling_db: float = FREE_FIELD_DB,
) -> Sound:
    """Equal sets from one reading of one of them.

    Args:
        dba: what was read [dBA].
        at_m: at this distance [m].
        sets: that run.
        exhaust_side: whether it was read there.
        eco: whether it was read in eco mode.
        per_doubling_db: what a doubling of distance takes [dB].

    Returns:
        The level at one meter and how it falls.
    """
    return Sound(
        dba
        + per_doubling_db * math.log2(at_m)
        + 10.0 * math.log10(sets)
        + EXHAUST_DB * exhaust_side
        + ECO_DB * eco,
        per_doubling_db,
    )


def sound_of_set(unit: Generator, noise: Noise, load_w: float | None = None) -> Sound:
    """A set by the reading that stands with it, at a load; by what distance takes where it was
    walked.

    The level rises in proportion to the load, from the load it was read at to its rating; eco
    takes less the more of its rating is asked for, as the engine then speeds up.

    Args:
        unit: a generator.
        noise: its reading.
        load_w: what it carries [W]; as it was read where None.

    Returns:
        The level at one meter and how it falls.
    """
    usual = noise.per_doubling_db == Noise(dba=0.0).per_doubling_db
    per = FREE_FIELD_DB if usual else noise.per_doubling_db
    rated = unit.continuous_w
    read_at = STATED_SHARE if noise.load_w is None else min(noise.load_w / rated, MAX_READ_SHARE)
    share = read_at if load_w is None else min(max(load_w / rated, 0.0), 1.0)
    whole_db = FULL_DB if unit.inverter else FULL_STEADY_DB
    slope = whole_db / (1.0 - STATED_SHARE)
    if noise.full_dba is not None:
        slope = max(noise.full_dba - noise.dba, 0.0) / (1.0 - read_at)
    eco_db = ECO_DB * (1.0 - share) if unit.eco else 0.0
    level = noise.dba + slope * (share - read_at) + eco_db
    return sound_of(level, noise.at_m, per_doubling_db=per)


def together(sounds: Sequence[Sound]) -> Sound:
    """Several sources in one place: energies add; the place reflects alike for all.

    Args:
        sounds: of each source.

    Returns:
        One sound.
    """
    level = added([s.at_1m_dba for s in sounds])
    return Sound(level, min((s.per_doubling_db for s in sounds), default=FREE_FIELD_DB))


def added(levels_dba: Sequence[float]) -> float:
    """Levels of several sources at one ear together [dBA]: energies add.

    Args:
        levels_dba: each by itself [dBA].

    Returns:
        Level [dBA].
    """
    return 10.0 * math.log10(sum(10.0 ** (level / 10.0) for level in levels_dba))


@record
class NoiseFit:
    """A source fitted to readings: its sound, the largest residual [dB], and dB lost for each
    doubling of distance.

    ``per_doubling_db`` is None with readings at one distance only; 6 is a free field, less means
    reflections.
    """

    sound: Sound
    residual_db: float
    per_doubling_db: float | None

    @property
    def words(self) -> str:
        """How far from a free field the readings are."""
        if self.per_doubling_db is None:
            return "readings at one distance cannot tell a free field from reflections"
        off = FREE_FIELD_DB - self.per_doubling_db
        if abs(off) < 1.0:
            return "as in a free field"
        why = "walls or vehicles reflect" if off > 0 else "something shields the far readings"
        return f"{self.per_doubling_db:.1f} dB for each doubling instead of 6: {why}"


def fit(readings: Sequence[tuple[float, float]]) -> NoiseFit:
    """Fit a free-field source to (distance [m], level [dBA]) readings by least squares.

    Args:
        readings: distance [m] and level [dBA].

    Returns:
        The level at one meter, and how far the readings scatter about it [dB].

    Raises:
        SetupError: no readings, or a distance that is not above nought.
    """
    if not readings or any(r <= 0 for r, _ in readings):
        raise SetupError(
            [
                Fault(
                    "readings",
                    "distance",
                    f"must have at least one reading, each above 0 m away (got {list(readings)})",
                )
            ]
        )
    levels = [level + FREE_FIELD_DB * math.log2(r) for r, level in readings]
    sound = Sound(sum(levels) / len(levels))
    residual = max(abs(level - sound.at(r)) for r, level in readings)
    logs = [math.log2(r) for r, _ in readings]
    mean = sum(logs) / len(logs)
    spread = sum((x - mean) ** 2 for x in logs)
    middle = sum(level for _, level in readings) / len(readings)
    slope = (
        -sum((x - mean) * (level - middle) for x, (_, level) in zip(logs, readings, strict=True))
        / spread
        if spread > 1e-6
        else None
    )
    return NoiseFit(sound, residual, slope)


def quiet_overlap_h(
    starts_h: float, lasts_h: float, quiet_from_h: float, quiet_to_h: float
) -> float:
    """Hours of a run that fall into the quiet hours, which may pass midnight [h].

    Args:
        starts_h: hour of the day it begins [h].
        lasts_h: how long [h].
        quiet_from_h: hour of the day they begin [h].
        quiet_to_h: hour of the day they end [h].

    Returns:
        Hours [h].
    """
    length = (quiet_to_h - quiet_from_h) % 24.0
    found, day = 0.0, math.floor(starts_h / 24.0) - 1
    while day * 24.0 + quiet_from_h < starts_h + lasts_h:
        begin = day * 24.0 + quiet_from_h
        found += max(0.0, min(starts_h + lasts_h, begin + length) - max(starts_h, begin))
        day += 1
    return found
