"""A display by photograph: the figure of a clamp, a plug-in meter or a set, with its unit and
whether it is a held peak, read in a subprocess.

The reader of words finds where the figure stands, its unit and its signs; the reader of seven
segments looks at each segment. A figure is sure where both say the same.
"""

from __future__ import annotations

import base64
import io
from dataclasses import dataclass

from PIL import Image

from ironmargin.sensing.segments import HIGH, Row, read_row
from web.design.photo_words import MIN_SIDE, READERS, Corners, boxes_of, sized
from web.design.pictures import LARGEST_BYTES, NotAPicture, upright_of

SIDE = 1000
UNITS = {
    "A": "A",
    "AMPS": "A",
    "V": "V",
    "VOLTS": "V",
    "W": "W",
    "WATTS": "W",
    "HZ": "Hz",
    "VA": "VA",
}
SIGNS = ("MAX", "PEAK", "INRUSH", "HOLD")
FIELDS = {
    "start": {"A": "peak_a", "V": "lowest_v", "Hz": "lowest_hz"},
    "run": {"A": "amps", "V": "volts", "W": "watts", "VA": "va"},
    "supply": {"A": "amps", "V": "volts", "Hz": "hz"},
}
"""Which field of an entry a figure goes to, by its unit."""
MIN_SURE = 0.8
SURE_UNIT = 0.6
NO_DISPLAY = (
    "no figure of a display was found; fill the picture with the display, hold it straight, and "
    "keep glare off it"
)
MORE_ROWS = "more than one figure is on it; photograph only the one you want"


@dataclass(frozen=True)
class Seen:
    """A display as it was read.

    Attributes:
        shows: its digits and point; unit: A, V, W, VA, Hz or empty; peak: whether it says that the
        figure is held; sure: whether it may be filled in without asking; piece: the figure's piece
        of the picture as JPEG.
    """

    shows: str
    unit: str
    peak: bool
    sure: bool
    piece: bytes

    @property
    def picture(self) -> str:
        """The piece as an address of data."""
        return "data:image/jpeg;base64," + base64.b64encode(self.piece).decode("ascii")


def _straightened(image: Image.Image, box: Corners) -> tuple[Image.Image, tuple[slice, slice]]:
    """The piece around a line of words, laid level, with as much ground beside it as it is
    high; and the rows and columns of the line itself.
    """
    import cv2
    import numpy as np

    corners = np.array(box, np.float32)
    across, down = corners[1] - corners[0], corners[3] - corners[0]
    wide, high = float(np.hypot(*across)), float(np.hypot(*down))
    side, voc_factor = 1.1 * high / max(wide, 1.0), 0.2
    grown = np.array(
        [
            corners[0] - side * across - voc_factor * down,
            corners[1] + side * across - voc_factor * (corners[2] - corners[1]),
            corners[2] + side * (corners[2] - corners[3]) + voc_factor * (corners[2] - corners[1]),
            corners[3] - side * (corners[2] - corners[3]) + voc_factor * down,
        ],
        np.float32,
    )
    tall = round(HIGH * (1.0 + 2.0 * voc_factor))
    long = max(round(HIGH * (wide / high + 2.2)), HIGH) if high else HIGH
    onto = np.array([[0, 0], [long, 0], [long, tall], [0, tall]], np.float32)
    turn = cv2.getPerspectiveTransform(grown, onto)
    found = cv2.warpPerspective(
        np.asarray(image), turn, (long, tall), borderMode=cv2.BORDER_REPLICATE
    )
    beside = round(1.1 * HIGH)
    above = round(voc_factor * HIGH)
    own = (slice(above, tall - above), slice(beside, max(long - beside, beside + 1)))
    return Image.fromarray(found), own


def _height(box: Corners) -> float:
    return max(abs(float(box[3][1]) - float(box[0][1])), abs(float(box[2][1]) - float(box[1][1])))


def _read(piece: Image.Image, inner: tuple[slice, slice]) -> Row | None:
    """The row of the piece, on the colour that stands out most."""
    import numpy as np

    colours = np.asarray(piece, float)
    own = np.moveaxis(colours[inner], 2, 0)
    spread = [float(np.quantile(c, 0.98) - np.quantile(c, 0.02)) for c in own]
    return read_row(colours[:, :, int(np.argmax(spread))], inner)


def look(raw: bytes) -> tuple[Seen | None, str]:
    """What a display shows, and why nothing. Runs in the process apart."""
    try:
        image = upright_of(raw, SIDE)
        if min(image.size) < MIN_SIDE:
            return None, f"the picture is too small; {MIN_SIDE} points a side at least"
        image = sized(image)
        lines = boxes_of(image, turn=False)
        return _seen(image, lines)
    except NotAPicture as why:
        return None, str(why)
    except MemoryError:
        return None, "it needs more memory than a picture may have; send it smaller"


def _seen(image: Image.Image, lines: list[tuple[str, float, Corners]]) -> tuple[Seen | None, str]:
    words = [(text.upper().strip(" .:"), sure) for text, sure, _ in lines]
    peak = any(sure >= SURE_UNIT and any(s in text for s in SIGNS) for text, sure in words)
    units = {UNITS[text] for text, sure in words if text in UNITS and sure >= SURE_UNIT}
    rows = []
    for text, sure, box in sorted(lines, key=lambda line: -_height(line[2])):
        if text.upper().strip(" .:") in UNITS or any(s in text.upper() for s in SIGNS):
            continue
        piece, inner = _straightened(image, box)
        row = _read(piece, inner)
        if row is not None and row.shows.strip("."):
            rows.append((text, sure, box, piece, row))
    if not rows:
        return None, NO_DISPLAY
    text, sure, box, piece, row = rows[0]
    rivals = [r for r in rows[1:] if _height(r[2]) > 0.75 * _height(box) and len(r[4].shows) > 1]
    if len(rivals) > 1:
        return None, MORE_ROWS
    same = text.strip().rstrip(".").replace(",", ".") == row.shows and sure >= MIN_SURE
    out = io.BytesIO()
    piece.save(out, "JPEG", quality=60)
    unit = next(iter(units)) if len(units) == 1 else ""
    return Seen(row.shows, unit, peak, same and row.clear and not rivals, out.getvalue()), ""


def read(raw: bytes) -> Seen:
    """What a photographed display shows.

    Raises:
        NotAPicture: it is none, too large, or no display is on it.
    """
    if len(raw) > LARGEST_BYTES:
        raise NotAPicture(f"it must be at most {LARGEST_BYTES // 1_000_000} MB (got {len(raw):,})")
    seen = READERS.run(look, raw)
    if seen is None:
        raise NotAPicture(NO_DISPLAY)
    return seen


def field_of(seen: Seen, kind: str) -> str:
    """The field of an entry that a display's figure goes to; empty where its unit says none."""
    return FIELDS.get(kind, {}).get(seen.unit, "")


def fields_of(seen: Seen, kind: str) -> list[tuple[str, str]]:
    """The fields a figure may go to, each with its unit: all of the kind where none was read."""
    return [
        (field, unit) for unit, field in FIELDS.get(kind, {}).items() if seen.unit in ("", unit)
    ]


def figures(seen: Seen, kind: str) -> dict[str, str]:
    """What of it goes into the form: only what is sure."""
    field = field_of(seen, kind)
    return {field: seen.shows} if field and seen.sure else {}
