"""Words on a photograph: read in a subprocess, each line with its piece of the picture.

The reader of words is RapidOCR, whose models ship inside its package, so nothing is asked of any
network; what it saw is in memory only and goes with the answer.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Iterable, Sequence
from functools import cache

from PIL import Image

from ironmargin.loads.plate_words import Figure, Words, figures_of
from ironmargin.setup.spec import Spec
from web.design.context import Context
from web.design.fields import Fields, in_units
from web.design.pictures import NotAPicture, PicturePool, upright_of

SIDE = 1600
POINTS = 900_000
"""Every picture is brought to so many points: small print grows, and memory stays bounded."""
MIN_SIDE = 200
SNIPPET_WIDE, SNIPPET_HIGH, MARGIN = 480, 90, 6
MAX_LINES = 80
MAX_MEMORY, MAX_S, MAX_WAIT_S = 4 << 30, 16.0, 18.0
ENOUGH = 2
"""With fewer figures than this a plate may lie on its side."""
TURNS = (0, 90, 270)
NO_PLATE = (
    "no figures of a plate were found; fill the picture with the plate, hold it straight, and keep "
    "the sun out of it"
)
READERS = PicturePool(MAX_MEMORY, MAX_S, MAX_WAIT_S)
Seen = tuple[str, float, bytes]
"""A line: its words, how sure, and its piece of the picture as JPEG."""
Corners = Sequence[Sequence[float]]
"""Of a line of words: x and y of its four, from the upper left on clockwise."""
Read = tuple[list[tuple[Corners, str, float]] | None, object]
"""What the reader gives: lines with how sure it is of each, and how long it took."""
Finder = Callable[[Iterable[Words]], tuple[Figure, ...]]
"""Finds the figures of a plate."""


@cache
def _reader() -> Callable[..., Read]:
    """The reader of words; loaded in the subprocess alone."""
    from rapidocr_onnxruntime import RapidOCR

    # The picture has its size already; lines one by one need less memory and less time.
    reader: Callable[..., Read] = RapidOCR(
        intra_op_num_threads=1, det_limit_side_len=MIN_SIDE // 4, rec_batch_num=1
    )
    return reader


def sized(image: Image.Image) -> Image.Image:
    """A picture with :data:`POINTS`."""
    scale = (POINTS / (image.width * image.height)) ** 0.5
    return image.resize(
        (round(image.width * scale), round(image.height * scale)), Image.Resampling.LANCZOS
    )


def boxes_of(image: Image.Image, *, turn: bool = True) -> list[tuple[str, float, Corners]]:
    """Every line of words on a picture: what it says, how sure, and its four corners from the upper
    left on clockwise.

    Args:
        turn: whether a line may stand on its head.
    """
    import numpy as np

    found, _ = _reader()(np.asarray(image)[:, :, ::-1], use_cls=turn)
    return [(str(text), float(sure), box) for box, text, sure in (found or [])[:MAX_LINES]]


def _lines(image: Image.Image) -> list[tuple[str, float, tuple[int, int, int, int]]]:
    lines = []
    for text, sure, box in boxes_of(image):
        xs, ys = [int(x) for x, _ in box], [int(y) for _, y in box]
        around = (min(xs) - MARGIN, min(ys) - MARGIN, max(xs) + MARGIN, max(ys) + MARGIN)
        lines.append((text, sure, around))
    return sorted(lines, key=lambda line: (line[2][1] // 12, line[2][0]))


def _snippet(image: Image.Image, around: tuple[int, int, int, int]) -> bytes:
    left, top, right, bottom = around
    box = (max(left, 0), max(top, 0), min(right, image.width), min(bottom, image.height))
    piece = image.crop(box)
    piece.thumbnail((SNIPPET_WIDE, SNIPPET_HIGH))
    out = io.BytesIO()
    piece.save(out, "JPEG", quality=60)
    return out.getvalue()


def look(raw: bytes, find: Finder = figures_of) -> tuple[list[Seen], str]:
    """The lines of a plate, and why there are none. Runs in the subprocess.

    Args:
        find: what figures there are, to tell which way is up.
    """
    try:
        image = upright_of(raw, SIDE)
        if min(image.size) < MIN_SIDE:
            return [], f"the picture is too small; {MIN_SIDE} points a side at least"
        image = sized(image)
        best: list[Seen] = []
        maximum = 0
        for turn in TURNS:
            turned = image.rotate(turn, expand=True) if turn else image
            lines = _lines(turned)
            many = len(find(Words(text, sure) for text, sure, _ in lines))
            if many > maximum:
                best = [(text, sure, _snippet(turned, box)) for text, sure, box in lines]
                maximum = many
            if maximum >= ENOUGH:
                break
        return best, "" if best else NO_PLATE
    except NotAPicture as why:
        return [], str(why)
    except MemoryError:
        return [], "it needs more memory than a picture may have; send it smaller"


def shown(value: float | str, unit: str = "", units: str = "si") -> str:
    """A figure of a plate as a person types it."""
    return Fields({}, units).shown(value, unit)


def beside(figure: Figure, seen: Seen, spec: Spec, units: str = "si") -> Context:
    """A figure beside its piece of the picture, as a page in a person's units shows it."""
    text, sure, snippet = seen
    unit = getattr(spec, "unit", "")
    return {
        "field": figure.field,
        "label": spec.doc,
        "unit": in_units(0.0, unit, units)[1].replace("1", ""),
        "value": shown(figure.value, unit, units),
        "sure": figure.sure,
        "others": [shown(x, unit, units) for x in figure.others],
        "text": text,
        "hundred": round(sure * 100),
        "picture": "data:image/jpeg;base64," + base64.b64encode(snippet).decode("ascii"),
    }
