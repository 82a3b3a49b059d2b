"""How well photographed plates are read: python benchmarks/plates.py [COUNT]. Prints figures; tests
nothing.

It makes its own plates, clean and hard (turned, in perspective, blurred, noisy, with glare), from
the typefaces that ship with the site, and says which share of their figures was read right, and of
those that were told as sure. Every third plate is held out: nothing was ever tuned on it.
"""

from __future__ import annotations

import io
import random
import statistics
import sys
import tempfile
import time
from functools import cache
from pathlib import Path
from typing import NamedTuple

from fontTools.ttLib import TTFont
from PIL import Image, ImageDraw, ImageFilter, ImageFont

ROOT = Path(__file__).resolve().parents[1]
sys.path[0] = str(ROOT)  # a benchmark beside it is called queue

from ironmargin.loads.plate_words import Words, figures_of

FONTS = ROOT / "web" / "design" / "static" / "design" / "fonts"
FACES = ("archivo-latin-standard-normal", "chivo-mono-latin-wght-normal")
GROUNDS = ((192, 194, 190), (232, 230, 222), (60, 62, 66), (214, 200, 150))
HELD_OUT = 3


class Plate(NamedTuple):
    """A made plate: its photograph, and what stands on it."""

    raw: bytes
    truth: dict[str, float | str]


@cache
def font_of(face: str, size: int) -> ImageFont.FreeTypeFont:
    folder = Path(tempfile.gettempdir()) / "iron-margin-faces"
    folder.mkdir(exist_ok=True)
    path = folder / f"{face}.ttf"
    if not path.exists():
        font = TTFont(FONTS / f"{face}.woff2")
        font.flavor = None
        font.save(path)
    return ImageFont.truetype(str(path), size)


def _lines(draw: random.Random) -> tuple[list[str], dict[str, float | str]]:
    """Lines as they stand on plates, and their figures."""
    rla, lra = round(draw.uniform(6, 28), 1), float(draw.randrange(30, 160))
    fan, mca = round(draw.uniform(0.8, 4.5), 1), round(rla * 1.25 + 2, 1)
    fuse = float(draw.choice((15, 20, 25, 30, 35, 40, 45, 50)))
    volts, printed = draw.choice(((115.0, "115"), (230.0, "208/230"), (230.0, "230")))
    btu = float(draw.choice((9000, 11000, 13500, 15000, 24000, 36000)))
    gas = draw.choice(("R-410A", "R-22", "R-32"))
    a = draw.choice(("", " A"))
    lines = [
        f"MODEL {draw.randrange(1000, 9999)}{draw.choice('ABCDE')}",
        draw.choice((f"VOLTS {printed}  HZ 60  PH 1", f"{printed} V  60 HZ  1 PH")),
        draw.choice((f"COMPR  RLA {rla}{a}  LRA {lra:.0f}{a}", f"RLA {rla}   LRA {lra:.0f}")),
        f"FAN MOTOR FLA {fan}",
        draw.choice((f"MIN CIRCUIT AMPACITY {mca}", f"MCA {mca} A")),
        draw.choice((f"MAX FUSE OR BREAKER {fuse:.0f} A", f"MOP {fuse:.0f}")),
        f"COOLING {btu:.0f} BTU/H   {gas}",
    ]
    truth: dict[str, float | str] = {
        "rated_v": volts, "hz": 60.0, "phase": 1.0, "rla_a": rla, "lra_a": lra, "fan_a": fan,
        "mca_a": mca, "mocp_a": fuse, "btu_h": btu, "refrigerant": gas,
    }  # fmt: skip
    return lines, truth


def made(seed: int, *, hard: bool) -> Plate:
    """A plate of a seed."""
    draw = random.Random(seed)
    lines, truth = _lines(draw)
    face, size = draw.choice(FACES), draw.choice((24, 30, 36))
    ground = draw.choice(GROUNDS)
    ink = (240, 240, 236) if sum(ground) < 300 else (36, 36, 40)
    image = Image.new("RGB", (1040, 90 + len(lines) * 2 * size), ground)
    pen = ImageDraw.Draw(image)
    for at, line in enumerate(lines):
        pen.text((48, 40 + at * 2 * size), line, font=font_of(face, size), fill=ink)
    if hard:
        image = taken_by_hand(image, draw)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=draw.choice((60, 80, 90)))
    return Plate(out.getvalue(), truth)


def taken_by_hand(image: Image.Image, draw: random.Random) -> Image.Image:
    """The plate as a shaky hand takes it in the sun."""
    wide, high = image.size
    lean = [draw.uniform(-0.06, 0.06) for _ in range(8)]
    corners = [0, 0, 0, high, wide, high, wide, 0]
    quad = [
        corner + share * (wide if n % 2 == 0 else high)
        for n, (corner, share) in enumerate(zip(corners, lean, strict=True))
    ]
    image = image.transform((wide, high), Image.Transform.QUAD, quad, Image.Resampling.BICUBIC)
    image = image.rotate(draw.uniform(-12, 12), expand=True, fillcolor=(96, 98, 92))
    image = image.filter(ImageFilter.GaussianBlur(draw.uniform(0.4, 1.6)))
    noise = Image.effect_noise(image.size, draw.uniform(8, 40)).convert("RGB")
    image = Image.blend(image, noise, draw.uniform(0.03, 0.14))
    glare = Image.new("L", image.size, 0)
    x, y = draw.uniform(0, image.width), draw.uniform(0, image.height)
    r = draw.uniform(60, 220)
    ImageDraw.Draw(glare).ellipse((x - r, y - r, x + r, y + r), fill=draw.randrange(60, 170))
    white = Image.new("RGB", image.size, (255, 255, 250))
    return Image.composite(white, image, glare.filter(ImageFilter.GaussianBlur(r / 3)))


def right(told: float | str, truth: float | str) -> bool:
    """Whether a figure was read as it stands there."""
    if isinstance(told, str) or isinstance(truth, str):
        return told == truth
    return abs(told - truth) < 1e-6


def measure(count: int) -> None:
    """Print what is read of so many clean ones and as many hard ones."""
    from web.design.photo_words import look
    from web.design.pictures import give_back

    give_back()

    for hard in (False, True):
        tally = {True: [0, 0, 0, 0], False: [0, 0, 0, 0]}
        times = []
        for seed in range(count):
            plate = made(seed + 10_000 * hard, hard=hard)
            begun = time.perf_counter()
            seen, _ = look(plate.raw)
            times.append(time.perf_counter() - begun)
            found = {f.field: f for f in figures_of(Words(t, s) for t, s, _ in seen)}
            row = tally[seed % HELD_OUT == 0]
            row[0] += len(plate.truth)
            row[1] += sum(f in found and right(found[f].value, v) for f, v in plate.truth.items())
            sure = [f for f in found.values() if f.sure]
            row[2] += len(sure)
            row[3] += sum(
                f.field in plate.truth and right(f.value, plate.truth[f.field]) for f in sure
            )
        times.sort()
        words = "hard" if hard else "clean"
        for out, (figures, good, sure_, good_sure) in sorted(tally.items()):
            held = "held out" if out else "others"
            print(
                f"{words}, {held}: {good} of {figures} figures right "
                f"({100 * good / max(figures, 1):.1f} %), told as sure {sure_}, of them right "
                f"{100 * good_sure / max(sure_, 1):.1f} %"
            )
        print(
            f"{words}: p50 {statistics.median(times):.2f} s, "
            f"p95 {times[int(0.95 * (len(times) - 1))]:.2f} s a plate, one thread"
        )


if __name__ == "__main__":
    measure(int(sys.argv[1]) if len(sys.argv) > 1 else 30)
