"""Digits of seven segments, read from a picture of their row: how each meter, plug-in meter and set
shows its figures.

The row is laid upright and its slant taken out; what is brighter or darker than its ground is ink.
Each digit's seven places are looked at by themselves, so that a digit comes with how clearly each
place was lit or not; what lights no digit is no figure at all.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.sensing.stretches import Where, stretches

Mask = NDArray[np.uint8]
HIGH = 96
"""Height a row of digits is brought to, of its box [pixels]."""
LIT = {
    "abcdef": "0", "bc": "1", "abged": "2", "abgcd": "3", "fgbc": "4", "afgcd": "5",
    "afgedc": "6", "fgedc": "6", "abc": "7", "fabc": "7", "abcdefg": "8", "abcdfg": "9",
    "abcfg": "9",
}  # fmt: skip
"""Lit places, a at the top and on clockwise, g in the middle; some displays draw 6, 7, 9 otherwise
(common practice, no source).
"""
DIGITS = {frozenset(lit): digit for lit, digit in LIT.items()}
ZONES = {
    "a": (0.30, 0.70, 0.00, 0.16), "g": (0.30, 0.70, 0.42, 0.58), "d": (0.30, 0.70, 0.84, 1.00),
    "f": (0.00, 0.24, 0.18, 0.40), "b": (0.76, 1.00, 0.18, 0.40),
    "e": (0.00, 0.24, 0.60, 0.82), "c": (0.76, 1.00, 0.60, 0.82),
}  # fmt: skip
"""Where each place lies in a digit's box: left, right, top, bottom [1]."""
SHEARS = np.arange(-0.15, 0.41, 0.025)
NARROW = 0.34
"""A digit so narrow for its height is a 1 [1]."""
ALIKE, APART = 0.8, 1.05
"""Digits of one row are as high as the highest to this share; so far from their neighbor at most
[of their height].
"""
MIN_HIGH, MIN_WIDE, MAX_WIDE = 0.28, 0.06, 5.0
"""A row is at least so high [of its picture]; a digit at least so wide, and what has grown together
at most [of its height].
"""
ABOVE_FOOT, FOOT = 0.74, 0.8
"""Down to here there is no point; from here on it stands [of a digit's height]."""
LEANS = 0.28
"""So much a row may still lean [1]."""
CLEAR = 0.16
"""A place whose ink is nearer than this to half is not clear [1]."""
MIN_CONTRAST = 14.0
STROKE, GAP = 7, 0.035
"""A stroke is at most a picture's height over the one; gaps of a digit's places are closed up to
the other share of it.
"""
FULLEST = 0.96
NEIGHBORS = 8
"""Pixels that touch one, corners counted."""
BESIDE = 5
"""A row is straightened with a fifth of its height above and below it."""
LEAN_STEP = 0.02
UPRIGHT, AS_WIDE = 0.75, 0.75
"""A 1 is inked along this share of its height at least; another digit is as wide as the widest to
this share."""


@record
class Row:
    """A row of digits: what it shows, and whether every place of every digit was clear."""

    shows: str
    clear: bool


@record
class _Piece:
    left: int
    top: int
    wide: int
    high: int

    @property
    def right(self) -> int:
        return self.left + self.wide

    @property
    def bottom(self) -> int:
        return self.top + self.high


def _inks(picture: Real, inner: tuple[slice, slice]) -> list[Real]:
    """How much ink is at each place [1], were it dark, and were it bright: by how much it differs
    from its ground, which is what is left where strokes are filled in. Without contrast none.
    """
    import cv2

    grey = picture.astype(np.float32)
    stroke = np.ones((2 * (grey.shape[0] // STROKE) + 1,) * 2, np.uint8)
    found = []
    for how in (cv2.MORPH_BLACKHAT, cv2.MORPH_TOPHAT):
        depth = cv2.morphologyEx(grey, how, stroke)
        top = float(np.quantile(depth[inner], FULLEST))
        if top >= MIN_CONTRAST:
            found.append(np.asarray(np.clip(depth / top, 0.0, 1.0)))
    return found


def _sheared(ink: Real, shear: float) -> Real:
    import cv2

    high, wide = ink.shape
    lean = np.array([[1.0, shear, -shear * high / 2], [0.0, 1.0, 0.0]])
    return np.asarray(cv2.warpAffine(ink.astype(np.float32), lean, (wide, high)))


def _upright(ink: Real, row: list[_Piece]) -> Real:
    """With its slant taken out: its strokes stand upright where the row's columns are fullest or
    empty.
    """
    top, foot = min(p.top for p in row), max(p.bottom for p in row)
    left, right = min(p.left for p in row), max(p.right for p in row)
    tried = [_sheared(ink, s) for s in SHEARS]
    beside = (foot - top) // BESIDE
    columns = slice(max(left - beside, 0), right + beside)
    sharp = [float(np.sum(np.square(t[top:foot, columns].sum(axis=0)))) for t in tried]
    return tried[int(np.argmax(sharp))]


def _pieces(mask: Mask) -> list[_Piece]:
    import cv2

    count, _, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=NEIGHBORS)
    return [_Piece(*(int(v) for v in stats[n][:4])) for n in range(1, count)]


def _whole(mask: Mask) -> Mask:
    """Without what touches the picture's edge: a housing, a frame."""
    import cv2

    high, wide = mask.shape
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=NEIGHBORS)
    left, top, across, down = (stats[:, n] for n in range(4))
    edge = (left <= 0) | (top <= 0) | (left + across >= wide) | (top + down >= high)
    return np.where(edge[labels], 0, mask).astype(np.uint8)


def _row(pieces: list[_Piece], high: int) -> list[_Piece]:
    """The pieces that stand in one row as high as each other: digits, some grown together."""
    tall = [p for p in pieces if p.high > MIN_HIGH * high and p.wide < MAX_WIDE * p.high]
    best: list[_Piece] = []
    for seed in tall:
        alike = [
            p
            for p in tall
            if min(p.high, seed.high) >= ALIKE * max(p.high, seed.high)
            and abs(p.bottom - seed.bottom) < LEANS * (abs(p.left - seed.left) + seed.high)
        ]
        alike.sort(key=lambda p: p.left)
        first = last = alike.index(seed)
        while first and alike[first].left - alike[first - 1].right < APART * seed.high:
            first -= 1
        while (
            last + 1 < len(alike) and alike[last + 1].left - alike[last].right < APART * seed.high
        ):
            last += 1
        run = alike[first : last + 1]
        if sum(p.high * p.wide for p in run) > sum(p.high * p.wide for p in best):
            best = run
    return best


def _levelled(ink: Real, row: list[_Piece]) -> Real:
    """With the row's lean taken out: its level strokes lie level where the rows of the picture are
    fullest or empty.
    """
    import cv2

    high, wide = ink.shape
    left, right = min(p.left for p in row), max(p.right for p in row)
    top, foot = min(p.top for p in row), max(p.bottom for p in row)
    beside = (foot - top) // BESIDE
    rows = slice(max(top - beside, 0), foot + beside)
    best: tuple[float, Real] | None = None
    for slope in np.arange(-LEANS, LEANS + 0.5 * LEAN_STEP, LEAN_STEP):
        lean = np.array([[1.0, 0.0, 0.0], [-slope, 1.0, slope * (left + right) / 2]])
        tried: Real = np.asarray(cv2.warpAffine(ink.astype(np.float32), lean, (wide, high)), float)
        sharp = float(np.sum(np.square(tried[rows, left:right].sum(axis=1))))
        if best is None or sharp > best[0]:
            best = (sharp, tried)
    assert best is not None
    return best[1]


def _mask(ink: Real) -> tuple[Mask, list[_Piece]]:
    """Where ink is, its small gaps closed, and the row it makes."""
    import cv2

    high = ink.shape[0]
    mask = _whole((ink > 0.5).astype(np.uint8))
    reach = max(round(GAP * high), 3)
    closed: Mask = np.asarray(
        cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((reach, reach), np.uint8)), np.uint8
    )
    return closed, _row(_pieces(closed), high)


def _runs(mask: Mask, row: list[_Piece]) -> list[_Piece]:
    """The digits of a row as boxes: stretches of columns with ink above the foot of the row, where
    no point stands.
    """
    top = round(float(np.median([p.top for p in row])))
    foot = round(float(np.median([p.bottom for p in row])))
    tall = foot - top
    band: Where = np.asarray(mask[top : top + round(ABOVE_FOOT * tall)].any(axis=0))
    found: list[_Piece] = []
    for a, b in stretches(band):
        part = mask[max(top - tall // 6, 0) : foot + tall // 6, a:b]
        rows = np.flatnonzero(part.any(axis=1))
        above = mask[max(top - tall // 3, 0) : top + tall // 10, a:b]
        below = mask[foot - tall // 10 : foot + tall // 3, a:b]
        if above.all(axis=0).any() or below.all(axis=0).any():
            continue  # a frame
        if not len(rows) or rows[-1] - rows[0] + 1 < ALIKE * tall or b - a < MIN_WIDE * tall:
            continue
        if found and a - found[-1].right >= APART * tall and a > row[-1].right:
            break
        found.append(_Piece(a, top, b - a, tall))
    return found


def _digit(ink: Real, box: _Piece) -> tuple[str, bool]:
    """A digit and whether it is clear; empty where its places make none."""
    if box.wide < NARROW * box.high:
        full = ink[box.top : box.bottom, box.left : box.right].max(axis=1)
        return "1", bool(np.mean(full > 0.5) > UPRIGHT)
    lit, clear = set(), True
    for name, (left, right, top, bottom) in ZONES.items():
        part = ink[
            box.top + int(top * box.high) : box.top + max(int(np.ceil(bottom * box.high)), 1),
            box.left + int(left * box.wide) : box.left + max(int(np.ceil(right * box.wide)), 1),
        ]
        # Along a stroke the mean counts; across it the fullest line, for it may lie off.
        level = float(np.mean(part.max(axis=0 if name in "agd" else 1)))
        if level > 0.5:
            lit.add(name)
        clear &= abs(level - 0.5) >= CLEAR
    return DIGITS.get(frozenset(lit), ""), clear


def _point(ink: Real, one: _Piece, other: _Piece) -> tuple[bool, bool]:
    """Whether a point stands between two digits, and whether that is clear."""
    foot = ink[
        round(one.top + FOOT * one.high) : round(one.bottom + 0.05 * one.high),
        one.right : other.left,
    ]
    if not foot.size:
        return False, True
    fullest = np.argsort(foot.max(axis=0))[-max(round(0.05 * one.high), 1) :]
    level = float(foot.max(axis=0)[fullest].mean())
    above = ink[
        round(one.top + 0.5 * one.high) : round(one.top + 0.7 * one.high), one.right : other.left
    ]
    # A stroke that leans into the gap goes on above; a point does not.
    level = min(level, 1.0 - float(above.max(axis=0)[fullest].mean()))
    return level > 0.5, abs(level - 0.5) >= CLEAR


def read_row(picture: Real, inner: tuple[slice, slice]) -> Row | None:
    """The figure a row of digits shows.

    Args:
        picture: grey, upright, (rows, columns) [0 to 255], with some ground around the row.
        inner: the rows and columns where its words were found.

    Returns:
        None where no row of digits is on it.
    """
    rows = []
    for ink in _inks(np.asarray(picture, float), inner):
        _, pieces = _mask(ink)
        for level in (ink, _levelled(ink, pieces)) if pieces else ():
            row = _shown(level)
            rows += [row] if row is not None else []
    return max(rows, key=lambda row: (len(row.shows), row.clear), default=None)


def _shown(ink: Real) -> Row | None:
    """The figure of a row of ink."""
    _, row = _mask(ink)
    if not row:
        return None
    ink = _upright(ink, row)
    mask, row = _mask(ink)
    boxes = _runs(mask, row) if row else []
    if not boxes:
        return None
    widest = max(p.wide for p in boxes)
    shows, clear = "", True
    for n, box in enumerate(boxes):
        digit, plain = _digit(ink, box)
        if not digit:
            return None
        clear &= plain and (box.wide < NARROW * box.high or box.wide > AS_WIDE * widest)
        point, sure = _point(ink, box, boxes[n + 1]) if n + 1 < len(boxes) else (False, True)
        clear &= sure
        shows += digit + ("." if point else "")
    return Row(shows, clear and shows.count(".") <= 1)
