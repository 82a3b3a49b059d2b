"""A start heard: a recording decoded and listened to in a subprocess, and drawn."""

from __future__ import annotations

import base64
import io
import multiprocessing
import wave
from dataclasses import dataclass
from functools import partial

import numpy as np
from PIL import Image

from ironmargin.electrics.network import Real
from ironmargin.learning.instruments import seconds_error
from ironmargin.sensing import sound
from web.design.pictures import NotAPicture, PicturePool

LARGEST_BYTES = 2_000_000
MAX_MEMORY, MAX_S, MAX_WAIT_S = 2 << 30, 10.0, 12.0
WIDE, HIGH, TOP_HZ = 400, 160, 500.0
RANGE_DB = 55.0
STORED_RATE = 4_000
STORED_BYTES = 165_000
INSTRUMENT = "by-sound"
NO_SOUND = "it must be a sound recorded as WAV, 8 to 48 kHz"
LISTENERS = PicturePool(MAX_MEMORY, MAX_S, MAX_WAIT_S)
INK, PAPER = np.array([242, 193, 78]), np.array([18, 22, 26])
"""Loud and quiet of the picture, on either theme."""


def decoded(raw: bytes) -> tuple[Real, int]:
    """Samples between −1 and 1, both ears taken together, and their rate [Hz].

    Raises:
        NotAPicture: it is no WAV file of whole samples.
    """
    try:
        with wave.open(io.BytesIO(raw)) as file:
            rate, width, ears = file.getframerate(), file.getsampwidth(), file.getnchannels()
            maximum = int(sound.MAX_SECONDS * min(rate, sound.MAX_RATE)) + 2
            data = file.readframes(maximum)
    except (wave.Error, EOFError, ValueError, OSError, RuntimeError):
        raise NotAPicture(NO_SOUND) from None
    if width not in (1, 2, 3, 4) or not 1 <= ears <= 8 or not data:
        raise NotAPicture(NO_SOUND)
    data = data[: len(data) // (width * ears) * width * ears]
    whole = np.frombuffer(data, np.uint8).reshape(-1, width)
    if width == 1:  # the only width that WAV counts from nought
        samples = whole[:, 0].astype(float) / 128.0 - 1.0
    else:
        wide = np.zeros((len(whole), 4), np.uint8)
        wide[:, 4 - width :] = whole
        samples = wide.reshape(-1).view("<i4").astype(float) / 2.0**31
    return samples.reshape(-1, ears).mean(axis=1), rate


def as_wav(samples: Real, rate: int) -> bytes:
    """Samples between −1 and 1 as a WAV file of 16 bits."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes((np.clip(samples, -1.0, 1.0) * 32767).astype("<i2").tobytes())
    return out.getvalue()


def _picture(samples: Real, rate: int) -> bytes:
    """The spectrogram up to 500 Hz as a PNG: time to the right, frequency upward."""
    _, hz, power = sound.spectrum(sound.prepared(samples, rate))
    level = 10.0 * np.log10(power[hz <= TOP_HZ] + 1e-12)
    top = float(np.quantile(level, 0.998))
    share = np.clip((level - top + RANGE_DB) / RANGE_DB, 0.0, 1.0)[::-1, :, None]
    tinted = (PAPER + (INK - PAPER) * share).astype(np.uint8)
    image = Image.fromarray(tinted).resize((WIDE, HIGH), Image.Resampling.BILINEAR)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def listen(
    raw: bytes, line_hz: float, engine: bool
) -> tuple[tuple[sound.Heard, bytes, float] | None, str]:
    """What a recording says, its picture and its length [s]; and why not. Runs in the process
    apart.
    """
    try:
        samples, rate = decoded(raw)
        found = sound.heard(samples, rate, line_hz=line_hz, engine=engine)
        return (found, _picture(samples, rate), len(samples) / rate), ""
    except (NotAPicture, sound.Unclear) as why:
        return None, str(why)
    except MemoryError:
        return None, "it needs more memory than a recording may have; send it shorter"


def made_small(raw: bytes) -> tuple[bytes, str]:
    """A recording as it is kept: one ear, 4 kHz, nothing but its samples. Runs in the process
    apart.
    """
    from scipy.signal import resample_poly

    try:
        samples, rate = decoded(raw)
        sound.bounded(samples, rate, STORED_RATE)
        common = int(np.gcd(rate, STORED_RATE))
        stored = resample_poly(samples, STORED_RATE // common, rate // common)
        return as_wav(stored, STORED_RATE), ""
    except (NotAPicture, sound.Unclear) as why:
        return b"", str(why)
    except MemoryError:
        return b"", "it needs more memory than a recording may have; send it shorter"


def stored(raw: bytes) -> bytes:
    """A recording as it is kept with its entry.

    Raises:
        NotAPicture: it is none.
    """
    if multiprocessing.parent_process() is None:
        return LISTENERS.run(made_small, raw)
    made, why = made_small(raw)  # a bounded process already: an account's zip on its way in
    if why:
        raise NotAPicture(why)
    return made


@dataclass(frozen=True)
class Drawn:
    """What was heard, as the page shows it.

    Attributes:
        spread_s: what the seconds may be off, as learning counts with it.
        picture: the spectrogram, as an address of data.
        tries: of each attempt, from where to where along the picture [hundredths].
        lines: heights of the hum and its multiple, and what they are.
        ticks: where each second lies, and its number.
    """

    found: sound.Heard
    spread_s: float
    picture: str
    tries: tuple[tuple[float, float], ...]
    lines: tuple[tuple[float, str], ...]
    ticks: tuple[tuple[float, int], ...]


def _lasts(found: sound.Heard, number: int) -> float:
    """How long an attempt took [s]: the last one, where it was up to speed, until then."""
    last = number == len(found.attempts) - 1
    return found.seconds if last and found.seconds else found.attempts[number].hums_s


def read(raw: bytes, line_hz: float, engine: bool) -> Drawn:
    """What a recording says of a start, drawn.

    Raises:
        NotAPicture: it is no recording, or nothing can be heard in it.
    """
    if len(raw) > LARGEST_BYTES:
        raise NotAPicture(f"it must be at most {LARGEST_BYTES // 1_000_000} MB (got {len(raw):,})")
    listened = LISTENERS.run(partial(listen, line_hz=line_hz, engine=engine), raw)
    assert listened is not None
    found, png, seconds = listened
    # The picture begins half a window after the recording, and ends half a window before it.
    first, last = sound.WINDOW_S / 2, seconds - sound.WINDOW_S / 2

    def along(at_s: float) -> float:
        return round(WIDE * min(max((at_s - first) / (last - first), 0.0), 1.0), 1)

    def up(hz: float) -> float:
        return round(HIGH * (1.0 - hz / TOP_HZ), 1)

    lines = [(up(2.0 * line_hz * n), f"hum {2.0 * line_hz * n:.0f} Hz") for n in (1, 2)]
    if found.engine is not None:
        lines.append((up(found.engine.before_hz), f"engine {found.engine.before_hz:.0f} Hz"))
    return Drawn(
        found,
        float(seconds_error(INSTRUMENT, np.array([found.seconds or 0.0]))[0]),
        "data:image/png;base64," + base64.b64encode(png).decode("ascii"),
        tuple(
            (along(a.at_s), along(a.at_s + _lasts(found, n))) for n, a in enumerate(found.attempts)
        ),
        tuple(lines),
        tuple((along(float(n)), n) for n in range(1, int(last) + 1)),
    )


def figures(heard: sound.Heard, line_hz: float, conventional: bool) -> dict[str, str]:
    """What of it goes into the form: only what is sure.

    Args:
        conventional: a set whose line frequency follows its engine.
    """
    given = {"instrument": INSTRUMENT}
    if heard.outcome == "starts":
        given["outcome"] = "starts"
        if heard.seconds:
            given["seconds"] = f"{heard.seconds:.2f}"
    # Whether a motor that went off stalled or something tripped is for who stands there to say.
    if conventional and heard.engine is not None and heard.engine.dip > 0.0:
        given["lowest_hz"] = f"{heard.engine.slowed(line_hz):.1f}"
    return given
