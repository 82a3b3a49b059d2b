"""A start heard: ten seconds of sound say when a motor hums, when it is up to speed, and how it
ended.

A motor hums at twice the line frequency and at its multiples. While its rotor stands the hum is
loud; up to speed it is far quieter, and its pump is heard; after it went off there is neither. So
the level of that hum over time is laid out as quiet, loud, and what comes after; where the other
sounds leave more than one reading, nothing is said.

The hum of a machine at twice the line frequency: IEC 60034-9 (magnetic noise; from memory). That it
falls plainly as the rotor comes up: common practice, no source.
"""

from __future__ import annotations

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.sensing.engine_sound import Engine, firing
from ironmargin.sensing.stretches import Where, stretches

MIN_S, MAX_SECONDS = 3.0, 20.0
MIN_RATE, MAX_RATE = 8_000, 48_000
RATE = 2_000
"""Sound is brought to this rate before anything is sought in it [Hz]."""
WINDOW_S, HOP_S = 0.24, 0.01
HARMONICS = (1, 2, 3)
ASIDE_HZ = (12.0, 34.0)
"""Where the other sound beside a hum is measured, from its frequency."""
SILENT = 1e-4
"""Root mean square below which nothing was recorded [1]."""
RISE_DB, STANDS_DB = 6.0, 6.0
"""By so much the hum must rise over nearly all that was there before, and stand over the sound
beside it."""
LOUD_DB = 6.0
"""A rotor stands while its hum is within so much of its loudest: the edge of a window that is half
full.
"""
MIN_DROP_DB = 5.0
"""By so much the hum falls when the rotor is up to speed."""
RUNS_DB = 1.5
"""What a running motor adds to its hum, or to the other sound, over the quiet before."""
PUMPS_DB = 3.0
"""By so much a pump's multiples must stand out more than before."""
ALIKE_DB = 3.0
"""One motor's tries are alike in loudness; what is weaker is something else."""
SURE_SD = 2.5
WILD_DB = 4.0
"""A gain with a larger standard error says nothing: something else comes and goes."""
RUNNING_DB = 22.0
"""A motor that runs hums so far under a locked rotor, at most (common practice, no source)."""
LOOK_S = 0.5
SLIPS = (0.015, 0.025, 0.035, 0.045, 0.055)
"""How far a loaded two-pole motor's shaft stays behind the line."""
PUMP_MULTIPLES = (3, 4, 5, 6, 7, 8)
MIN_HUM_S, MERGED_S = 0.08, 0.06
MIN_AFTER_S, MIN_BEFORE_S = 0.7, 0.4
HUMS_ON_S = 5.0
LASTS, AGREE = 50, 10
"""Frames a pump must stay audible to be there, and how far two ways to find its first may differ.
"""
FIRST, STEADY_DB = 60, 2.0
"""A hum that goes on as loud as in its first frames is a rotor that stands."""
EDGE = 14
"""Frames at an edge whose windows hold both sides."""
OFF_TUNE_HZ, SAGS_HZ = 2.0, 9.0
"""How far a hum may lie from twice the line frequency: on the grid and inverters; on a set whose
frequency sags."""
FULL_SCALE, CUT_SHARE = 0.999, 0.02
"""A recording with more than this share of its samples at full scale is cut off [1]."""
POINTS = 1024
"""Points of a window's transform, filled up with noughts."""
NO_POWER = 1e-30
SMOOTHED = 5
"""Frames a level is smoothed over: a knock is shorter."""
SD_OF_MAD, SE_OF_MEDIAN = 1.4826, 1.2533
"""Of a normal: standard deviation over the median's absolute deviation, and √(π/2), the median's
standard error over the mean's."""
LOUDEST, QUIET = 0.96, 0.3
"""Quantiles over time of a hum while a rotor stands, and of the rest."""
HIGH, PEAK, MOSTLY = 0.9, 0.99, 0.6
"""Quantiles that stand for as loud as it gets but for knocks, for the loudest, and for most of a
stretch."""
FIRST_LOOK = 1.5
"""A try is sought so many times :data:`LOUD_DB` under the loudest, then found by its own level."""
RISES_HZ = 4.0
"""How far a set's hum may lie above twice its frequency: unloaded it runs a little fast [Hz]."""
SHAFT_HZ, BESIDE_HZ, TUNE_LOOK_HZ = 2.0, (-20.0, -8.0), 14.0
"""Around a multiple of the shaft, the sound beside it, and where a hum's top is looked for [Hz]."""
NOTHING = "no start stands out of the other sound; move closer, and record again"


@record
class Attempt:
    """One try to start: from when it hums [s] for how long [s]."""

    at_s: float
    hums_s: float


@record
class Heard:
    """What was heard of a start.

    Attributes:
        outcome: ``starts`` or ``stalls`` (it did not come up: it went off, or hums on); None where
            it cannot be told, and ``why`` says why.
        attempts: every try.
        seconds: until up to speed, of the last try; None if it did not, or cannot be told.
        engine: the engine's firing frequency, where a set was heard.
    """

    outcome: str | None
    why: str
    attempts: tuple[Attempt, ...]
    seconds: float | None
    engine: Engine | None


class Unclear(Exception):
    """Nothing can be heard in it; the message says why and what to do."""


def bounded(samples: Real, rate: int, min_rate: int = MIN_RATE) -> None:
    """Refuse what is too short or too long, or recorded at another rate.

    Args:
        samples: sound, between −1 and 1 (n,).
        rate: samples a second [Hz].
        min_rate: the least that will do [Hz].

    Raises:
        Unclear: it is.
    """
    seconds = len(samples) / max(rate, 1)
    if not min_rate <= rate <= MAX_RATE:
        raise Unclear(f"record at {MIN_RATE:,} to {MAX_RATE:,} samples a second (got {rate:,})")
    if not MIN_S <= seconds <= MAX_SECONDS:
        raise Unclear(
            f"record {MIN_S:.0f} to {MAX_SECONDS:.0f} seconds, the start in the middle "
            f"(got {seconds:.1f} s)"
        )


def prepared(samples: Real, rate: int) -> Real:
    """Sound at :data:`RATE`, its mean taken out.

    Args:
        samples: sound, between −1 and 1 (n,).
        rate: samples a second [Hz].

    Returns:
        Sound at :data:`RATE` (n,).

    Raises:
        Unclear: it is too short, too long, silent or cut off by its own loudness.
    """
    from scipy.signal import resample_poly

    bounded(samples, rate)
    if not np.all(np.isfinite(samples)):
        raise Unclear("the recording is damaged; record again")
    if float(np.sqrt(np.mean(np.square(samples - samples.mean())))) < SILENT:
        raise Unclear("nothing was recorded; let the page use the microphone, and move closer")
    if float(np.mean(np.abs(samples) >= FULL_SCALE)) > CUT_SHARE:
        raise Unclear("the recording is cut off by its own loudness; move away a few feet")
    common = int(np.gcd(rate, RATE))
    low: Real = resample_poly(samples - samples.mean(), RATE // common, rate // common)
    return low


def spectrum(low: Real) -> tuple[Real, Real, Real]:
    """Times [s], frequencies [Hz] and power of sound at :data:`RATE` by window, (f, t).

    Args:
        low: sound at :data:`RATE` (n,).

    Returns:
        Times (t,) [s], frequencies (f,) [Hz], power (f, t).
    """
    from scipy.signal import ShortTimeFFT
    from scipy.signal.windows import hann

    wide = int(WINDOW_S * RATE)
    transform = ShortTimeFFT(hann(wide, sym=False), int(HOP_S * RATE), RATE, mfft=POINTS)
    power = transform.spectrogram(low)
    times = transform.t(len(low))
    whole = (times >= WINDOW_S / 2) & (times <= len(low) / RATE - WINDOW_S / 2)
    return times[whole], transform.f, power[:, whole]


def _near(hz: Real, around: float, low: float, high: float) -> Where:
    return (hz >= around + low) & (hz <= around + high)


def _decibel(power: Real) -> Real:
    return 10.0 * np.log10(np.maximum(power, NO_POWER))


def _hum(hz: Real, power: Real, line_hz: float, sags: bool) -> tuple[Real, Real]:
    """Level of the hum [dB] and how far it stands over the sound beside it [dB], by time and
    multiple (H, t).
    """
    level, stands = [], []
    for n in HARMONICS:
        at = 2.0 * line_hz * n
        below, above = (SAGS_HZ * n, RISES_HZ) if sags else (OFF_TUNE_HZ, OFF_TUNE_HZ)
        there = power[_near(hz, at, -below, above)].max(axis=0)
        beside = _near(hz, at, -below - ASIDE_HZ[1], -below - ASIDE_HZ[0]) | _near(
            hz, at, above + ASIDE_HZ[0], above + ASIDE_HZ[1]
        )
        level.append(_decibel(there))
        stands.append(_decibel(there) - _decibel(power[beside].mean(axis=0)))
    return np.array(level), np.array(stands)


def _smooth(values: Real, frames: int = SMOOTHED) -> Real:
    from scipy.ndimage import median_filter

    smoothed: Real = median_filter(values, size=frames, mode="nearest")
    return smoothed


def _stretches(loud: Where) -> list[tuple[int, int]]:
    """Where it is loud: first frame and one past the last; short gaps are closed, short stretches
    left out.
    """
    found: list[tuple[int, int]] = []
    for a, b in stretches(loud):
        if found and a - found[-1][1] < MERGED_S / HOP_S:
            found[-1] = (found[-1][0], b)
        else:
            found.append((a, b))
    return [(a, b) for a, b in found if b - a >= MIN_HUM_S / HOP_S]


@record
class Gain:
    """By how much a sound is louder after than before [dB], with its standard error."""

    db: float
    sd: float

    @property
    def minimum(self) -> float:
        return self.db - SURE_SD * self.sd if self.sd < WILD_DB else -np.inf

    @property
    def maximum(self) -> float:
        return self.db + SURE_SD * self.sd if self.sd < WILD_DB else np.inf


def _gain(before: Real, after: Real) -> Gain:
    """From the medians; windows overlap, and what lies beside a start changes within a second, so
    there are as many looks as :data:`LOOK_S` goes into it.
    """
    found = float(np.median(after) - np.median(before))
    spread = 0.0
    for part in (before, after):
        looks = max(len(part) * HOP_S / LOOK_S, 1.0)
        sd = SD_OF_MAD * float(np.median(np.abs(part - np.median(part))))
        spread += (SE_OF_MEDIAN * sd) ** 2 / looks
    return Gain(found, float(np.sqrt(spread)))


def heard(samples: Real, rate: int, *, line_hz: float = 60.0, engine: bool = False) -> Heard:
    """What a recording says of a start.

    Args:
        samples: between −1 and 1.
        rate: samples a second [Hz].
        line_hz: 50 or 60.
        engine: whether a set with an engine feeds the motor: then the frequency may sag and the
            engine is sought.

    Returns:
        When it started, how long it took, and how sure that is.

    Raises:
        Unclear: there is nothing to hear in it at all.
    """
    low = prepared(samples, rate)
    times, hz, power = spectrum(low)
    level, stands = _hum(hz, power, line_hz, engine)
    # The two multiples that stand out most: a note of music is seldom in tune with both.
    reach = np.quantile(level, LOUDEST, axis=1) - np.quantile(level, QUIET, axis=1)
    plain = np.minimum(reach, np.quantile(stands, LOUDEST, axis=1))
    best = sorted(np.argsort(plain)[-2:].tolist())
    raw = _smooth(level[best].mean(axis=0))
    clear = _smooth(stands[best].mean(axis=0))
    tries = _tries(raw, clear)
    begun = tries[0][0] if tries else len(raw)
    before = slice(0, max(begun - EDGE, 0))
    quiet = float(np.median(raw[before] if before.stop else raw))
    start_s = float(times[min(begun, len(times) - 1)])
    spun = firing(low, RATE, start_s) if engine else None
    attempts = tuple(Attempt(float(times[a]), float((b - a) * HOP_S)) for a, b in tries)

    def told(outcome: str | None, why: str, seconds: float | None = None) -> Heard:
        return Heard(outcome, why, attempts, seconds, spun)

    if not tries:
        return told(None, NOTHING)
    if before.stop * HOP_S < MIN_BEFORE_S:
        return told(None, "it hummed before the recording began; start recording first")
    a, b = tries[-1]
    loud = float(np.median(raw[a:b]))
    if loud - float(np.quantile(raw[before], HIGH)) < RISE_DB:
        return told(None, NOTHING)
    if not engine and not _in_tune(hz, power, tries[-1], line_hz, best):
        return told(None, "what is heard is not in tune with the line: music or speech?")
    if not engine:
        late = _by_pump(hz, power, line_hz, before, tries[-1])
        if late is not None:
            return told("starts", "", late)
    after = slice(b + EDGE, len(raw))
    if (after.stop - after.start) * HOP_S < MIN_AFTER_S:
        if _stands(raw[a:b]):
            return told("stalls", "it hums on and does not come up to speed")
        return told(None, "it hums to the end of the recording; record a few seconds more")
    if loud - float(np.median(raw[after])) < MIN_DROP_DB:
        return told(None, NOTHING)
    hum = _gain(clear[before], clear[after])
    pump, pumps, _ = _pump(hz, power, line_hz, before, after)
    # What a running motor's hum, RUNNING_DB under the locked rotor's, would add to the quiet.
    runs = 10.0 * float(np.log10(1.0 + 10.0 ** ((loud - RUNNING_DB - quiet) / 10.0)))
    seconds = (b - a) * HOP_S
    # An engine's multiples wander over a shaft's: beside one the pump alone proves nothing.
    if hum.minimum >= RUNS_DB or (pump.minimum >= PUMPS_DB and not engine):
        return told("starts", "", seconds)
    if hum.maximum <= runs and (engine or pumps <= max(runs, PUMPS_DB)):
        return told("stalls", "it hummed and went off")
    return told(None, "it grew quiet: the recording does not show whether it runs or went off")


def _stands(hum: Real) -> bool:
    """Whether a hum that goes on is a rotor that stands: as loud all along as at first."""
    if len(hum) * HOP_S < HUMS_ON_S:
        return False
    return abs(float(np.quantile(hum[:FIRST], HIGH) - np.median(hum[FIRST:]))) < STEADY_DB


def _tries(raw: Real, clear: Real) -> list[tuple[int, int]]:
    """Where a rotor stands: its hum is within :data:`LOUD_DB` of the loudest, and stands out."""
    peak = float(np.quantile(raw, PEAK))
    found = []
    for a, b in _stretches(raw > peak - FIRST_LOOK * LOUD_DB):
        level = float(np.median(np.sort(raw[a:b])[-max((b - a) // 2, 3) :]))
        for c, d in _stretches(raw[a:b] > level - LOUD_DB):
            if np.quantile(clear[a + c : a + d], MOSTLY) >= STANDS_DB:
                found.append((a + c, a + d))
    strongest = max((float(np.median(raw[a:b])) for a, b in found), default=0.0)
    return [(a, b) for a, b in found if float(np.median(raw[a:b])) >= strongest - ALIKE_DB]


def _shaft(hz: Real, power: Real, line_hz: float, slip: float) -> Real:
    """How far the multiples of a pump's shaft stand over the sound beside them [dB], by time."""
    lines = []
    for n in PUMP_MULTIPLES:
        at = line_hz * (1.0 - slip) * n
        there = power[_near(hz, at, -SHAFT_HZ, SHAFT_HZ)].max(axis=0)
        beside = _near(hz, at, *BESIDE_HZ)
        lines.append(_decibel(there) - _decibel(power[beside].mean(axis=0)))
    return _smooth(np.mean(lines, axis=0))


def _pump(
    hz: Real, power: Real, line_hz: float, before: slice, after: slice
) -> tuple[Gain, float, Real]:
    """By how much a pump stands out more after than before [dB], at the speed, a few hundredths
    under the line frequency, where it surely does so most; the most it may do so at any; and how
    far by time.
    """
    tried = [_shaft(hz, power, line_hz, slip) for slip in SLIPS]
    gains = [_gain(one[before], one[after]) for one in tried]
    best = max(range(len(tried)), key=lambda n: (gains[n].minimum, gains[n].db))
    return gains[best], max(gain.maximum for gain in gains), tried[best]


def _by_pump(
    hz: Real, power: Real, line_hz: float, before: slice, last: tuple[int, int]
) -> float | None:
    """Seconds until the pump is heard at its speed, where the hum never falls: a soft start's
    current is hardly more than a running motor's.
    """
    begun, ended = last
    end = power.shape[1]
    if (ended - begun) * HOP_S < HUMS_ON_S and ended < end - EDGE:
        return None
    gain, _, stands = _pump(hz, power, line_hz, before, slice((begun + end) // 2, end))
    if gain.minimum < 2.0 * PUMPS_DB:
        return None
    at = _rises(stands[begun:], float(np.median(stands[before])) + gain.db / 2.0)
    return at * HOP_S if at is not None and 0 < at < (end - begun) // 2 else None


def _rises(level: Real, half: float) -> int | None:
    """The frame at which a level rises for good: where a step fits it best, and where it first
    stays over the half; None where the two do not agree.
    """
    n = len(level)
    cut = np.arange(3, n - LASTS)
    if not len(cut):
        return None
    sums, squares = np.cumsum(level), np.cumsum(np.square(level))
    first = sums[cut - 1] / cut
    second = (sums[-1] - sums[cut - 1]) / (n - cut)
    spread = squares[-1] - cut * first**2 - (n - cut) * second**2
    best = int(cut[int(np.argmin(spread))])
    stays = np.lib.stride_tricks.sliding_window_view(level > half, LASTS).mean(axis=1) > HIGH
    over = np.flatnonzero(stays)
    agree = len(over) > 0 and abs(int(over[0]) - best) <= AGREE
    return (int(over[0]) + best) // 2 if agree else None


def _in_tune(hz: Real, power: Real, try_: tuple[int, int], line_hz: float, best: list[int]) -> bool:
    """Whether what hums lies at twice the line frequency and its multiples."""
    mean = power[:, try_[0] : try_[1]].mean(axis=1)
    for n in (HARMONICS[b] for b in best):
        near = _near(hz, 2.0 * line_hz * n, -TUNE_LOOK_HZ, TUNE_LOOK_HZ)
        top = float(hz[near][int(np.argmax(mean[near]))])
        if abs(top - 2.0 * line_hz * n) > OFF_TUNE_HZ:
            return False
    return True
