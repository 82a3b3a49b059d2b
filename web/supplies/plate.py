"""A supply's plate by photograph: what is sure goes into its document, the rest is asked."""

from __future__ import annotations

from functools import partial

from django.core.files.uploadedfile import UploadedFile

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.loads.plate_words import Words
from ironmargin.sensing.supply_plate import RECORDS, supply_figures
from ironmargin.setup.parts import read_supply
from ironmargin.setup.records import specs
from web.design.photo_words import READERS, beside, look
from web.design.pictures import LARGEST_BYTES, NotAPicture

Shown = list[Document]


def read_plate(
    document: Document, file: UploadedFile[bytes] | None, units: str
) -> tuple[Document, Shown]:
    """A supply's document with the sure figures of its photographed plate, and every figure beside
    its piece of the picture; one that does not fit the others is asked, too.

    Raises:
        NotAPicture: it is none, too large, or no plate is on it.
    """
    if file is None or not file.size:
        raise NotAPicture("choose a photograph first")
    if file.size > LARGEST_BYTES:
        raise NotAPicture(f"it must be at most {LARGEST_BYTES // 1_000_000} MB")
    kind = str(document.get("kind", ""))
    if kind not in RECORDS:
        raise NotAPicture("only generators and inverters are read from a plate")
    find = partial(supply_figures, kind=kind)
    seen = READERS.run(partial(look, find=find), file.read())
    figures = find(Words(text, sure) for text, sure, _ in seen)
    changed = document | {f.field: f.value for f in figures if f.sure}
    fits = True
    try:
        read_supply(changed)
    except SetupError:
        changed, fits = document, False
    of = specs(RECORDS[kind])
    shown = [beside(f, seen[f.line], of[f.field][1], units) for f in figures]
    return changed, [row | {"sure": row["sure"] and fits} for row in shown]
