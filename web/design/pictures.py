"""Photographs that come in: decoded in a subprocess, bounded in memory and time, and made small.

What is kept is made anew from the pixels, so that nothing else of the file stays: no place and no
device in its metadata, no second file behind the picture.
"""

from __future__ import annotations

import ctypes
import io
import multiprocessing
import resource
from collections.abc import Callable
from contextlib import suppress
from typing import TypeVar

from PIL import Image, ImageFile, ImageOps

from web.design.pool import NotDone, SubprocessPool

T = TypeVar("T")
LARGEST_BYTES = 12_000_000
"""Largest file of a photograph: a telephone's own."""
MAX_PIXELS = 60_000_000
MAX_SIDE = 12_000
FORMATS = ("JPEG", "PNG", "WEBP")
STORED_SIDE, MIN_SIDE = 1280, 480
STORED_BYTES = 110_000
"""A kept photograph is at most so large: twelve of them go into one entry of an account's zip."""
QUALITIES = (80, 65, 50)
MAX_MEMORY, MAX_S, MAX_WAIT_S = 1 << 30, 8.0, 12.0
PICTURES_A_PROCESS = 200
M_MMAP_THRESHOLD, LARGE_BLOCK = -3, 4 << 20


class NotAPicture(Exception):
    """What came is no photograph that can be kept; the message says why and what to do."""


def upright_of(raw: bytes, side: int) -> Image.Image:
    """A photograph decoded, upright, with no side much longer than it may be. Runs in a subprocess.

    Raises:
        NotAPicture: it is none, or larger than may be.
    """
    try:
        with Image.open(io.BytesIO(raw), formats=FORMATS) as opened:
            wide, high = opened.size
            if wide * high > MAX_PIXELS or max(wide, high) > MAX_SIDE:
                raise NotAPicture(
                    f"the picture has {wide:,} x {high:,} points, more than {MAX_PIXELS:,}; "
                    "send it smaller"
                )
            opened.draft("RGB", (2 * side, 2 * side))
            return ImageOps.exif_transpose(opened).convert("RGB")
    except Image.DecompressionBombError:
        raise NotAPicture("the picture has too many points; send it smaller") from None
    except (OSError, SyntaxError, ValueError):
        raise NotAPicture("it must be a photograph: JPEG, PNG or WebP") from None


def shrunk(raw: bytes) -> bytes:
    """A photograph as a small JPEG, upright, nothing but its pixels. Runs in the subprocess.

    Raises:
        NotAPicture: it is none, or larger than may be.
    """
    upright = upright_of(raw, STORED_SIDE)
    side = STORED_SIDE
    while True:
        upright.thumbnail((side, side))
        for quality in QUALITIES:
            out = io.BytesIO()
            upright.save(out, "JPEG", quality=quality, optimize=True)
            if out.tell() <= STORED_BYTES or side <= MIN_SIDE:
                return out.getvalue()
        side = max(side * 3 // 4, MIN_SIDE)


def begin(max_bytes: int) -> None:
    """Bound the subprocess."""
    resource.setrlimit(resource.RLIMIT_AS, (max_bytes, max_bytes))
    Image.MAX_IMAGE_PIXELS = None  # looked at above, with our own words
    ImageFile.LOAD_TRUNCATED_IMAGES = False  # the printer's library, forked along, sets it
    give_back()


def give_back() -> None:
    """Let large blocks of memory go back as soon as they are free: left to itself the C library
    keeps what pictures of many sizes leave behind (GNU's ``mallopt``; another has none).
    """
    with suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").mallopt(M_MMAP_THRESHOLD, LARGE_BLOCK)


def try_shrunk(raw: bytes) -> tuple[bytes, str]:
    """What :func:`shrunk` makes, or why not: exceptions of ours do not travel between processes."""
    try:
        return shrunk(raw), ""
    except NotAPicture as why:
        return b"", str(why)
    except MemoryError:
        return b"", "it needs more memory than a picture may have; send it smaller"


class PicturePool(SubprocessPool):
    """A process that looks at pictures."""

    def __init__(self, max_bytes: int, max_s: float, max_wait_s: float) -> None:
        super().__init__(PICTURES_A_PROCESS, begin, max_bytes, max_s=max_s, max_wait_s=max_wait_s)

    def run(self, work: Callable[[bytes], tuple[T, str]], raw: bytes) -> T:
        """What some work makes of a picture; it gives that, and why not.

        Raises:
            NotAPicture: it says why not, or it takes too long or too much.
        """
        try:
            found, why = self.ask(work, raw)
        except NotDone:
            raise NotAPicture("it takes too long to open; send it smaller") from None
        if why:
            raise NotAPicture(why)
        stored: T = found
        return stored


DECODERS = PicturePool(MAX_MEMORY, MAX_S, MAX_WAIT_S)


def as_jpeg(raw: bytes) -> bytes:
    """A photograph as it is kept.

    Raises:
        NotAPicture: it is none, or it needs more memory or time than one may have.
    """
    if len(raw) > LARGEST_BYTES:
        raise NotAPicture(f"it must be at most {LARGEST_BYTES // 1_000_000} MB (got {len(raw):,})")
    if multiprocessing.parent_process() is not None:
        return shrunk(raw)  # this is a bounded process already: an account's zip on its way in
    return DECODERS.run(try_shrunk, raw)
