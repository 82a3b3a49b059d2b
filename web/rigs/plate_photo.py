"""A load's plate by photograph: the reader of words its words, the one plate reader its figures."""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.loads.plate_reader import PLATE
from ironmargin.loads.plate_words import Words, figures_of, filled
from web.design.photo_words import READERS, beside, look
from web.design.pictures import LARGEST_BYTES, NotAPicture


def read(raw: bytes) -> tuple[Document, list[Document]]:
    """What of a photographed plate may be filled in, and each figure with its piece of the picture.

    Raises:
        NotAPicture: it is none, too large, or no plate is on it.
    """
    if len(raw) > LARGEST_BYTES:
        raise NotAPicture(f"it must be at most {LARGEST_BYTES // 1_000_000} MB (got {len(raw):,})")
    seen = READERS.run(look, raw)
    figures = figures_of(Words(text, sure) for text, sure, _ in seen)
    return filled(figures), [beside(f, seen[f.line], PLATE[f.field]) for f in figures]
