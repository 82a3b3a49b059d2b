"""An engine heard: its firing frequency, by how much it slows when a motor starts, and when it is
back.

A four-stroke cylinder fires every second turn, so its sound has the multiples of half its speed. In
windows of half a second the frequency is taken whose multiples hold the most sound over what lies
between them.
"""

from __future__ import annotations

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record

WINDOW_S, HOP_S = 0.5, 0.05
LOWEST_HZ, HIGHEST_HZ, STEP_HZ = 17.0, 66.0, 0.1
MULTIPLES = 7
STANDS = 3.0
"""The multiples hold so many times the sound between them."""
BACK = 0.02
MIN_BEFORE = 8
MIN_DIP = 0.01
MAX_DIP = 0.3
"""An engine that slowed by more has stalled; a window so far off is another octave [1]."""
STANDS_AFTER = 2.0
"""As :data:`STANDS`, while the motor starts beside it."""
FINER = 8
"""Points of a transform over those of its window: the frequency is read between them."""


@record
class Engine:
    """An engine as it was heard.

    Attributes:
        before_hz: its firing frequency before a start.
        dip: by how much it slowed then [1].
        back_s: when it was back within 2 % [s after the start], None if it never slowed.
    """

    before_hz: float
    dip: float
    back_s: float | None

    @property
    def lowest_hz(self) -> float:
        """Its lowest firing frequency."""
        return self.slowed(self.before_hz)

    def slowed(self, hz: float) -> float:
        """What a frequency that follows it fell to [Hz].

        Args:
            hz: before the start [Hz].

        Returns:
            Hertz [Hz].
        """
        return hz * (1.0 - self.dip)


def _weights(hz: Real) -> tuple[Real, Real, Real]:
    """Candidate frequencies, and for each the frequencies of its multiples and of the middles
    between them, as numbers of bins.
    """
    tried = np.arange(LOWEST_HZ, HIGHEST_HZ, STEP_HZ)
    n = np.arange(1, MULTIPLES + 1)
    step = hz[1] - hz[0]
    on = np.rint(tried[:, None] * n / step).astype(int)
    off = np.rint(tried[:, None] * (n + 0.5) / step).astype(int)
    return tried, on, off


def track(low: Real, rate: int) -> tuple[Real, Real, Real]:
    """Times [s], firing frequency [Hz] and how far it stands out [1] of sound, window by window.

    Args:
        low: samples of the sound (samples,).
        rate: of them [Hz].

    Returns:
        Three arrays (windows,).
    """
    from scipy.signal import ShortTimeFFT
    from scipy.signal.windows import hann

    wide = int(WINDOW_S * rate)
    transform = ShortTimeFFT(hann(wide, sym=False), int(HOP_S * rate), rate, mfft=FINER * wide)
    power = np.sqrt(transform.spectrogram(low))
    times = transform.t(len(low))
    whole = (times >= WINDOW_S / 2) & (times <= len(low) / rate - WINDOW_S / 2)
    power, times = power[:, whole], times[whole]
    tried, on, off = _weights(transform.f)
    # The lowest octave that explains the sound: multiples that are missing count against one.
    strength = np.log(power[on] + 1e-12).mean(axis=1) - np.log(power[off] + 1e-12).mean(axis=1)
    best = np.argmax(strength, axis=0)
    at = np.arange(len(times))
    return times, tried[best], np.exp(strength[best, at])


def firing(low: Real, rate: int, start_s: float) -> Engine | None:
    """The engine that is heard before a start and after it; None where none stands out.

    Args:
        low: samples.
        rate: of them [Hz].
        start_s: when the motor was switched on [s].

    Returns:
        Its frequency [Hz] and how far it dips [1].
    """
    times, hz, stands = track(low, rate)
    before = times < start_s - WINDOW_S / 2
    if before.sum() < MIN_BEFORE or np.median(stands[before]) < STANDS:
        return None
    usual = float(np.median(hz[before]))
    if np.median(np.abs(hz[before] - usual)) > BACK * usual:
        return None
    # After it, a window counts whose frequency is near the one before it: not an octave off.
    after = (
        (times >= start_s - WINDOW_S / 2)
        & (np.abs(hz / usual - 1.0) < MAX_DIP)
        & (stands > STANDS_AFTER)
    )
    if not after.any():
        return None
    dip = 1.0 - float(hz[after].min()) / usual
    if dip < MIN_DIP:
        return Engine(usual, max(dip, 0.0), None)
    slow = times[after][int(np.argmin(hz[after]))]
    again = times[after][(times[after] > slow) & (hz[after] >= (1.0 - BACK) * usual)]
    return Engine(usual, dip, float(again[0] - start_s) if len(again) else None)
