"""A meter's or scope's capture as CSV: any column order, comma, semicolon or tab, seconds or
milliseconds. What is a waveform becomes RMS over one mains cycle.
"""

from __future__ import annotations

import csv
import math
import re
from typing import Any

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.errors import Fault, SetupError
from ironmargin.learning.entries import MAX_POINTS
from ironmargin.record import record

MAX_ROWS = 100_000
MAX_BYTES = 5_000_000
MAX_FAULTS = 20
NAMES = {
    "time": ("time", "t", "sec", "seconds", "ms", "zeit", "temps"),
    "amps": ("amps", "amp", "a", "current", "i", "ch2"),
    "volts": ("volts", "volt", "v", "voltage", "u", "ch1"),
}
SWINGS = 0.2
"""Share of readings below nought from which a column is a waveform, not RMS."""
MAINS_HZ = (50.0, 60.0)
MIN_PER_CYCLE = 8
"""Readings a cycle under which no RMS can be made of a waveform (twice Nyquist's, and to spare)."""
MILLI = 1e-3
NEAR_MAINS_HZ = 40.0, 70.0
"""A waveform within these is one of 50 or 60 Hz [Hz]."""


@record
class Capture:
    """A capture ready to be kept: rows of time [s], amps [A] and volts [V].

    ``hz`` is the mains frequency found where it was a waveform, else None.
    """

    rows: tuple[tuple[float, float, float], ...]
    hz: float | None

    @property
    def words(self) -> str:
        """What was made of it."""
        length = self.rows[-1][0] - self.rows[0][0]
        made = f", made RMS over each cycle of {self.hz:.0f} Hz" if self.hz else ""
        return f"{len(self.rows)} readings over {length:.2f} s{made}"


def _text(raw: bytes) -> str:
    if len(raw) > MAX_BYTES:
        rule = f"a capture has at most {MAX_BYTES:,} bytes; cut it to the start"
        raise SetupError([Fault("file", "large", f"{rule} (got {len(raw):,})")])
    if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return raw.decode("utf-16", errors="replace")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace")


def _column(header: list[str], what: str) -> int | None:
    for at, cell in enumerate(header):
        words = re.split(r"[^a-z0-9]+", cell.strip().lower())
        if words and words[0] in NAMES[what]:
            return at
    return None


def _number(cell: str, decimal_comma: bool) -> float:
    words = cell.strip().replace("\u202f", "").replace(" ", "")
    value = float(words.replace(",", ".") if decimal_comma else words)
    if not math.isfinite(value):
        raise ValueError(cell)
    return value


def _table(text: str) -> tuple[Real, bool]:
    """The columns time, amps, volts, and whether time is in milliseconds."""
    lines = [x for x in text.splitlines() if x.strip() and not x.lstrip().startswith("#")]
    if not lines:
        raise SetupError([Fault("file", "empty", "must have a header row and readings (got none)")])
    delimiter = max(";\t,", key=lines[0].count)
    header = next(csv.reader([lines[0]], delimiter=delimiter))
    places = {what: _column(header, what) for what in NAMES}
    missing = [what for what in ("time", "amps") if places[what] is None]
    if missing:
        rule = (
            f"line 1 must name the columns time_s and amps (and volts); no {missing[0]} among them"
        )
        raise SetupError([Fault("file", "header", f'{rule} (got "{lines[0][:60]}")')])
    body = lines[1:]
    if not 2 <= len(body) <= MAX_ROWS:
        rule = f"must have 2 to {MAX_ROWS:,} readings; cut it to the start"
        raise SetupError([Fault("file", "rows", f"{rule} (got {len(body):,})")])
    faults: list[Fault] = []
    rows: list[list[float]] = []
    comma = delimiter == ";"
    for number, cells in enumerate(csv.reader(body, delimiter=delimiter), 2):
        row = []
        for what, place in places.items():
            if place is None:
                row.append(math.nan)
                continue
            try:
                row.append(_number(cells[place], comma))
            except (ValueError, IndexError):
                got = cells[place] if place < len(cells) else "nothing"
                faults.append(
                    Fault(
                        f"line {number}, column {place + 1} ({what})",
                        "number",
                        f'must be a number (got "{got[:30]}")',
                    )
                )
                break
        else:
            rows.append(row)
        if len(faults) >= MAX_FAULTS:
            break
    if faults:
        raise SetupError(faults)
    time = header[places["time"] or 0].strip().lower()
    return np.array(rows), bool(re.search(r"(^|[^a-z])(ms|msec|milli)", time))


def frequency_of(t_s: Real, wave: Real) -> float:
    """The mains frequency of a waveform, by its upward crossings [Hz].

    Args:
        t_s: times (samples,) [s].
        wave: volts or amps (samples,).

    Returns:
        Hertz [Hz]; not a number where it crosses less than twice.
    """
    centred = wave - wave.mean()
    up = np.flatnonzero((centred[:-1] < 0.0) & (centred[1:] >= 0.0))
    if len(up) < 2:
        return math.nan
    return float((len(up) - 1) / (t_s[up[-1]] - t_s[up[0]]))


def _rms(t_s: Real, wave: Real, at: Real, cycle_s: float) -> Real:
    """RMS over the cycle around each moment."""
    total = np.concatenate([[0.0], np.cumsum(wave**2)])
    first = np.searchsorted(t_s, at - 0.5 * cycle_s)
    last = np.maximum(np.searchsorted(t_s, at + 0.5 * cycle_s), first + 1)
    last = np.minimum(last, len(t_s))
    first = np.minimum(first, last - 1)
    found: Real = np.sqrt((total[last] - total[first]) / (last - first))
    return found


def read_capture(raw: bytes) -> Capture:
    """Read a capture.

    Args:
        raw: CSV: time, amps, volts.

    Returns:
        The capture.

    Raises:
        SetupError: every reading that is none, by line and column; no such columns; too long.
    """
    table, milli = _table(_text(raw))
    t_s, amps, volts = table[:, 0] * (MILLI if milli else 1.0), table[:, 1], table[:, 2]
    if (np.diff(t_s) < 0).any():
        line = int(np.flatnonzero(np.diff(t_s) < 0)[0]) + 3
        rule = "time must not run backwards"
        raise SetupError([Fault(f"line {line}", "time", f"{rule} (got {t_s[line - 2]:g} s)")])
    t_s = t_s - t_s[0]
    if np.isnan(volts).all():
        volts = np.zeros(len(t_s))
    hz = None
    if (amps < 0).mean() > SWINGS:
        found = frequency_of(t_s, volts if (volts < 0).mean() > SWINGS else amps)
        hz = (
            min(MAINS_HZ, key=lambda x: abs(x - found))
            if NEAR_MAINS_HZ[0] < found < NEAR_MAINS_HZ[1]
            else None
        )
        if hz is None or len(t_s) / max(t_s[-1] * hz, 1e-9) < MIN_PER_CYCLE:
            rule = f"a waveform needs {MIN_PER_CYCLE} readings a cycle and 50 or 60 Hz in it"
            raise SetupError([Fault("file", "waveform", f"{rule} (got {found:.0f} Hz)")])
        at = np.arange(0.0, t_s[-1], 0.5 / hz)
        amps, volts = (_rms(t_s, x, at, 1.0 / hz) for x in (amps, volts))
        t_s = at
    if (amps < 0).any():
        line = int(np.flatnonzero(amps < 0)[0]) + 2
        rule = "amps must not be below zero"
        raise SetupError([Fault(f"line {line}", "least", f"{rule} (got {amps[line - 2]:g})")])
    if len(t_s) > MAX_POINTS:
        every = -(-len(t_s) // MAX_POINTS)
        keep: Any = slice(None, None, every)
        t_s, amps, volts = t_s[keep], amps[keep], volts[keep]
    rows = tuple(
        (round(float(t), 5), round(float(a), 3), round(float(v), 2))
        for t, a, v in zip(t_s, amps, np.abs(volts), strict=True)
    )
    return Capture(rows, hz)
