"""How well photographed displays are read: python benchmarks/displays.py [COUNT]. Prints figures;
tests nothing.

It makes its own displays of seven segments (dark on grey, glowing, with a light behind; slanted or
upright, with segments that show faintly though they are off), with a unit and now and then a sign
that the peak is held, clean and as a shaky hand takes them. Every third is held out: nothing was
ever tuned on it.
"""

from __future__ import annotations

import io
import random
import statistics
import sys
import time
from pathlib import Path
from typing import NamedTuple

from PIL import Image, ImageDraw, ImageFilter

ROOT = Path(__file__).resolve().parents[1]
sys.path[0] = str(ROOT)

from benchmarks.plates import FACES, HELD_OUT, font_of, taken_by_hand

SEGMENTS = {
    "0": "abcdef", "1": "bc", "2": "abged", "3": "abgcd", "4": "fgbc", "5": "afgcd",
    "6": "afgedc", "7": "abc", "8": "abcdefg", "9": "abcdfg",
}  # fmt: skip
"""Which segments of a digit are lit: a at the top and on clockwise, g in the middle."""
UNITS = ("A", "V", "W", "Hz")
SIGNS = ("MAX", "PEAK", "INRUSH")
RANGES = {"A": (0.5, 150.0), "V": (92.0, 245.0), "W": (20.0, 7000.0), "Hz": (55.0, 63.0)}
# ground, ink, unlit ink, whether it glows
LOOKS = (
    ((176, 186, 168), (32, 36, 34), (164, 174, 157), False),
    ((198, 204, 196), (22, 24, 28), (198, 204, 196), False),
    ((96, 150, 210), (14, 22, 48), (90, 141, 198), False),
    ((226, 150, 60), (40, 22, 10), (214, 142, 57), False),
    ((22, 8, 8), (255, 58, 40), (44, 12, 10), True),
    ((8, 18, 10), (90, 255, 120), (12, 30, 16), True),
    ((10, 12, 20), (170, 210, 255), (20, 24, 36), True),
)


class Display(NamedTuple):
    """A made display: its photograph, and what it shows."""

    raw: bytes
    shows: str
    unit: str
    peak: bool


def _value(draw: random.Random, unit: str) -> str:
    low, high = RANGES[unit]
    value = draw.uniform(low, high)
    if unit == "W":
        return f"{value:.0f}"
    return f"{value:.1f}" if value < 100 or unit == "Hz" or draw.random() < 0.5 else f"{value:.0f}"


def _digit(
    pen: ImageDraw.ImageDraw, x: float, y: float, high: float, lit: str, ink: object, slant: float,
    thick: float,
) -> None:  # fmt: skip
    wide, t = high * 0.52, high * thick
    half, gap = high / 2, t * 0.18
    boxes = {
        "a": (t * 0.6 + gap, 0, wide - t * 0.6 - gap, t),
        "g": (t * 0.6 + gap, half - t / 2, wide - t * 0.6 - gap, half + t / 2),
        "d": (t * 0.6 + gap, high - t, wide - t * 0.6 - gap, high),
        "f": (0, t * 0.6, t, half - gap),
        "b": (wide - t, t * 0.6, wide, half - gap),
        "e": (0, half + gap, t, high - t * 0.6),
        "c": (wide - t, half + gap, wide, high - t * 0.6),
    }
    for name in lit:
        left, top, right, bottom = boxes[name]
        corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
        pen.polygon([(x + a + slant * (high - b), y + b) for a, b in corners], fill=ink)


def made(seed: int, *, hard: bool) -> Display:
    """A display of a seed."""
    draw = random.Random(seed)
    unit = draw.choice(UNITS)
    text = _value(draw, unit)
    ground, ink, off, glows = draw.choice(LOOKS)
    peak = draw.random() < 0.4
    high, thick = draw.choice((110, 150, 190)), draw.uniform(0.09, 0.16)
    slant = draw.choice((0.0, 0.0, 0.08, 0.14))
    step = high * 0.52 + high * draw.uniform(0.18, 0.3)
    places = len(text.replace(".", ""))
    blank = draw.randrange(0, 2)
    wide = int((places + blank) * step + high * 1.5)
    screen = Image.new("RGB", (wide, int(high * 1.55)), ground)
    pen = ImageDraw.Draw(screen)
    x, y = high * 0.25, high * 0.36
    for _ in range(blank):
        if draw.random() < 0.7:
            _digit(pen, x, y, high, "abcdefg", off, slant, thick)
        x += step
    for n, mark in enumerate(text):
        if mark == ".":
            continue
        _digit(pen, x, y, high, "abcdefg", off, slant, thick)
        _digit(pen, x, y, high, SEGMENTS[mark], ink, slant, thick)
        if text[n + 1 : n + 2] == ".":
            r = high * thick * 0.55
            dot = x + high * 0.52 + (step - high * 0.52) / 2
            pen.ellipse((dot - r, y + high - 2 * r, dot + r, y + high), fill=ink)
        x += step
    small = font_of(FACES[0], int(high * 0.3))
    pen.text((x + high * 0.1, y + high * 0.62), unit, font=small, fill=ink)
    if peak:
        tiny = font_of(FACES[0], int(high * 0.2))
        pen.text((high * 0.3, high * 0.06), draw.choice(SIGNS), font=tiny, fill=ink)
    if glows:
        glow = screen.filter(ImageFilter.GaussianBlur(high * 0.05))
        screen = Image.blend(screen, glow, 0.35)
    housing = tuple(draw.randrange(20, 90) for _ in range(3))
    margin = draw.randrange(40, 160)
    image = Image.new("RGB", (wide + 2 * margin, screen.height + 2 * margin), housing)
    image.paste(screen, (margin, margin))
    if hard:
        image = taken_by_hand(image, draw)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=draw.choice((60, 80, 90)))
    return Display(out.getvalue(), text, unit, peak)


def measure(count: int) -> None:
    """Print what is read of so many clean ones and as many hard ones."""
    from web.design.pictures import give_back
    from web.logbook.display import look

    give_back()

    for hard in (False, True):
        tally = {True: [0, 0, 0, 0, 0, 0], False: [0, 0, 0, 0, 0, 0]}
        times = []
        for seed in range(count):
            one = made(seed + 10_000 * hard, hard=hard)
            begun = time.perf_counter()
            seen, _ = look(one.raw)
            times.append(time.perf_counter() - begun)
            row = tally[seed % HELD_OUT == 0]
            row[0] += 1
            if seen is None:
                continue
            row[1] += seen.shows == one.shows
            row[2] += seen.sure
            row[3] += seen.sure and seen.shows == one.shows
            row[4] += seen.unit == one.unit
            row[5] += seen.peak == one.peak
        times.sort()
        words = "hard" if hard else "clean"
        for out, (all_, good, sure, good_sure, units, peaks) in sorted(tally.items()):
            held = "held out" if out else "others"
            print(
                f"{words}, {held}: {good} of {all_} figures right ({100 * good / max(all_, 1):.1f} "
                f"%), told as sure {sure}, of them right {100 * good_sure / max(sure, 1):.1f} %; "
                f"unit right {100 * units / max(all_, 1):.0f} %, sign of a peak "
                f"{100 * peaks / max(all_, 1):.0f} %"
            )
        print(
            f"{words}: p50 {statistics.median(times):.2f} s, "
            f"p95 {times[int(0.95 * (len(times) - 1))]:.2f} s a display, one thread"
        )


if __name__ == "__main__":
    measure(int(sys.argv[1]) if len(sys.argv) > 1 else 60)
