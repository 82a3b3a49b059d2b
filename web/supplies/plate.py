"""A supply's plate by photograph: what is sure goes into its document, the rest is asked."""

from __future__ import annotations

import copy
from dataclasses import replace
from functools import partial

from django.core.files.uploadedfile import UploadedFile

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.loads.plate_words import Words
from ironmargin.sensing.supply_plate import RECORDS, supply_figures
from ironmargin.setup.engines import FuelRating
from ironmargin.setup.parts import read_supply
from ironmargin.setup.records import specs
from ironmargin.setup.spec import Spec
from web.design.fields import put
from web.design.photo_words import READERS, beside, look
from web.design.pictures import LARGEST_BYTES, NotAPicture

Shown = list[Document]
OTHER_FUEL = "by_fuel."


def _spec(kind: str, field: str) -> Spec:
    """What a figure's field takes; of another fuel's rating it says which."""
    if not field.startswith(OTHER_FUEL):
        return specs(RECORDS[kind])[field][1]
    _, fuel, name = field.split(".")
    spec = specs(FuelRating)[name][1]
    return replace(spec, doc=spec.doc.replace("this fuel", fuel.replace("_", " ")))


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
    changed = copy.deepcopy(document)
    for figure in figures:
        if figure.sure:
            put(changed, figure.field, figure.value)
    fits = True
    try:
        read_supply(changed)
    except SetupError:
        changed, fits = document, False
    shown = [beside(f, seen[f.line], _spec(kind, f.field), units) for f in figures]
    return changed, [row | {"sure": row["sure"] and fits} for row in shown]
