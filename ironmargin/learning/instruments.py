"""What a reading is worth: how far each instrument may be off, and what it sees of a start at all.

A start's peak lasts a few tenths of a second. An inrush clamp or a trace holds it; anything that
shows an average over half a second and more reads far below it, so that its reading is a lower
bound and never a correction downwards (common practice). A clamp around the whole cord has the two
conductors cancel: it reads near nothing. A soft starter reports its own motor's current only.
"""

from __future__ import annotations

import math

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record

HEAVY = 4.0
"""Degrees of freedom of the reading's error: tails heavy enough that one odd reading does not
overturn ten good ones (common practice: Student's t).
"""
AT_ZERO = 0.375
"""The density of Student's t of four degrees in its middle."""
SLIPS = 0.03
"""Share of readings that are wrong altogether: a unit slip, another conductor, another start; then
any figure up to about what was read is as likely (common practice, no source).
"""
OUTCOME_SURE = 0.97
"""How often the outcome of a start is what the engine says of the same rig on the same day."""
SHORTEST_S, HAND_S = 0.1, 0.05
"""The shortest start a share of an error is taken of, and what the hand on the button adds [s]
(common practice, no source)."""


@record
class Instrument:
    """How good an instrument is, one standard deviation of each reading [1].

    Attributes:
        peak, running, volts, seconds: relative errors.
        holds: it sees the peak of a start; else its peak is a lower bound.
        own: it sees its own motor only.
    """

    words: str
    peak: float
    running: float
    volts: float
    seconds: float
    holds: bool
    own: bool = False


BENCH: dict[str, Instrument] = {
    "inrush-clamp": Instrument("an inrush clamp", 0.04, 0.02, 0.02, 0.3, True),
    "clamp": Instrument("a clamp without inrush hold", 0.04, 0.03, 0.02, 0.5, False),
    "watt-meter": Instrument("a plug-in watt meter", 0.03, 0.015, 0.01, 0.5, False),
    "monitor": Instrument("a monitor", 0.04, 0.03, 0.015, 0.5, False),
    "set-display": Instrument("the supply's display", 0.06, 0.05, 0.02, 0.5, False),
    "starter-report": Instrument("the starter's own report", 0.05, 0.05, 0.03, 0.2, True, True),
    "trace": Instrument("a trace", 0.03, 0.015, 0.01, 0.1, True),
    "by-ear": Instrument("the ear", 0.5, 0.5, 0.5, 0.5, False),
    "by-sound": Instrument("a recorded sound", 0.5, 0.5, 0.5, 0.02, False),
}
"""One row per instrument (memory: hand-held meters are good to two to four per cent)."""
SMALLEST_A = 0.3
"""No hand-held clamp tells less [A]."""


def sees_own_motor(instrument: str, on: str | None) -> bool:
    """Whether what was read is the motor's own current, without its fan and what runs beside.

    Args:
        instrument: key of the instrument.
        on: where it was put.

    Returns:
        Whether it is.
    """
    return BENCH[instrument].own or on == "compressor-wire"


def log_likelihood(read: float, true: Real, error: Real) -> Real:
    """Logarithm of how likely a reading is, for each value it may stand for, but for a constant:
    Student's t, and once in a while anything.

    Args:
        read: what was read.
        true: values it may stand for, any shape.
        error: standard deviation of the reading, of the same shape.

    Returns:
        Of the same shape.
    """
    z = (read - true) / error
    near = -0.5 * (HEAVY + 1.0) * np.log1p(z * z / HEAVY) + math.log(AT_ZERO) - np.log(error)
    slip = math.log(SLIPS / max(abs(read), 1.0))
    found: Real = np.logaddexp(math.log(1.0 - SLIPS) + near, slip)
    return found


def log_at_least(read: float, true: Real, error: Real) -> Real:
    """The same for a reading that is only a lower bound: true values above it are all as likely.

    Args:
        read: what was read.
        true: values it may stand for, any shape.
        error: standard deviation of the reading, of the same shape.

    Returns:
        Of the same shape.
    """
    return log_likelihood(read, np.minimum(true, read), error) + np.log(error)


def log_at_most(read: float, true: Real, error: Real) -> Real:
    """The same for an upper bound, as the lowest volts a slow meter shows.

    Args:
        read: what was read.
        true: values it may stand for, any shape.
        error: standard deviation of the reading, of the same shape.

    Returns:
        Of the same shape.
    """
    return log_likelihood(read, np.maximum(true, read), error) + np.log(error)


def peak_error(instrument: str, true: Real) -> Real:
    """Error of a peak [A]; what our own model is off comes with the rig, not with the reading.

    Args:
        instrument: key of the instrument.
        true: peaks, any shape [A].

    Returns:
        Standard deviation, of the same shape [A].
    """
    found: Real = np.hypot(BENCH[instrument].peak * np.maximum(true, 1e-6), SMALLEST_A)
    return found


def volts_error(instrument: str, nominal_v: float) -> float:
    """Error of the lowest volts [V].

    Args:
        instrument: key of the instrument.
        nominal_v: nominal volts [V].

    Returns:
        Standard deviation [V].
    """
    return BENCH[instrument].volts * nominal_v


def seconds_error(instrument: str, true: Real) -> Real:
    """Error of the seconds until up to speed [s].

    Args:
        instrument: what it was read with, as the log calls it.
        true: seconds it may stand for [s].

    Returns:
        Standard deviation [s], of the shape of ``true``.
    """
    found: Real = BENCH[instrument].seconds * np.maximum(true, SHORTEST_S) + HAND_S
    return found
