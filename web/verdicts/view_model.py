"""Everything the verdict's page shows, as plain data: computed once for each question, then kept by
the hash of its content.
"""

from __future__ import annotations

import hashlib
import json
from contextlib import suppress
from functools import cache
from pathlib import Path

from django.db import IntegrityError
from django.utils import timezone

import ironmargin
from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.planning.legs import leg_moves
from ironmargin.practice.proving import proof_of
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import write_setup
from ironmargin.verdict.picture import Picture, picture_of
from ironmargin.verdict.result import result_json
from ironmargin.verdict.stations import chance_words, start_margin
from web.design.afterwards import afterwards, made_already, store_afterwards
from web.setups import judging
from web.verdicts.drawings.page import draw
from web.verdicts.drawings.path import draw_path
from web.verdicts.drawings.rail import rail_of
from web.verdicts.models import Judgement
from web.verdicts.sentence import parts_of

MAX_STORED = 2_000
PRUNED_AT_ONCE = 100
MUTE = ("name", "notes", "x")
"""Fields of a setup that change nothing of its verdict."""
MAX_MOVES = 6


@cache
def made_by() -> str:
    """The hash of everything a verdict's figures and drawings come from: the core's source and
    tables, and this layer's drawings. What was kept by other code is never found again.
    """
    found = hashlib.sha256()
    for folder in (Path(ironmargin.__file__).parent, Path(__file__).parent):
        for file in sorted(f for f in folder.rglob("*") if f.suffix in (".py", ".pxd", ".csv")):
            if "migrations" not in file.parts:
                found.update(f"{file.relative_to(folder)}\n".encode() + file.read_bytes())
    return found.hexdigest()


def content_key(document: Document, *more: object) -> str:
    """The hash of what decides a verdict: the question without its name and notes, and what it is
    computed by.
    """
    body = {k: v for k, v in document.items() if k not in MUTE}
    text = json.dumps(
        [body, made_by(), *more], sort_keys=True, separators=(",", ":"), ensure_ascii=False
    )
    return hashlib.sha256(text.encode()).hexdigest()


def _read(document: Document) -> tuple[Setup | None, tuple[Fault, ...]]:
    try:
        return judging.read(document), ()
    except SetupError as error:
        return None, tuple(error.faults)


def plain_document(document: Document) -> tuple[Document | None, tuple[Fault, ...]]:
    """A document as the core writes it, or the faults that keep it from being read."""
    setup, faults = _read(document)
    return (None if setup is None else write_setup(setup)), faults


def view_model(
    document: Document, picture: str | None = None, against: Document | None = None
) -> tuple[Document | None, tuple[Fault, ...]]:
    """What the page shows of a question; nothing that was computed before is computed again.

    Args:
        picture: id of the load whose start is drawn; against: another question whose start is drawn
        over it.

    Returns:
        The plain data, or None and the faults; one of them is
        :data:`web.setups.judging.TOO_MUCH` where it is left to the queue (:func:`computed`
        there, then :func:`store`).
    """
    setup, faults = _read(document)
    if setup is None:
        return None, faults
    plain = write_setup(setup)
    other, _ = plain_document(against) if against is not None else (None, ())
    key = _key(plain, picture, other)
    if (made := made_already(key)) is not None:
        return json.loads(made), ()
    stored = Judgement.objects.filter(pk=key).first()
    if stored is not None:
        afterwards(lambda: Judgement.objects.filter(pk=key).update(used_at=timezone.now()))
        found: Document = json.loads(stored.data)
        return found, ()
    text, faults = computed(plain, picture, other, setup=setup)
    if text is None:
        return None, faults
    store_afterwards(key, text, _store)
    return json.loads(text), ()


PRUNES = "0"
"""Keys are hashes: one in sixteen begins so, and looks whether there are too many."""


def _key(document: Document, picture: str | None, other: Document | None) -> str:
    return content_key(document, picture, content_key(other) if other else None)


def store(document: Document, picture: str | None, other: Document | None, text: str) -> None:
    """Keep what was computed of a question, as JSON; documents as the core writes them."""
    _store(_key(document, picture, other), text)


def _store(key: str, text: str) -> None:
    with suppress(IntegrityError):  # another page has just kept the same
        Judgement(key=key, data=text).save(force_insert=True)
    if key.startswith(PRUNES):
        _prune()


def _prune() -> None:
    """Let the longest unused go when there are too many."""
    over = Judgement.objects.count() - MAX_STORED
    if over > 0:
        old = list(
            Judgement.objects.order_by("used_at").values_list("pk", flat=True)[
                : over + PRUNED_AT_ONCE
            ]
        )
        Judgement.objects.filter(pk__in=old).delete()


def _overlay(other: Document | None, load: str | None, at_once: bool) -> Picture | None:
    if other is None:
        return None
    judged = judging.judge(other, load, at_once=at_once)
    if judged.checked is None or not judged.checked.starts:
        return None
    of_load = [
        s
        for s in judged.checked.starts
        if judged.checked.case.demands[s.starters[0].demand].load.id == load
    ]
    return picture_of(judged.checked, (of_load or judged.checked.starts)[0])


def computed(
    document: Document,
    picture: str | None,
    other: Document | None,
    *,
    at_once: bool = True,
    setup: Setup | None = None,
) -> tuple[str | None, tuple[Fault, ...]]:
    """What the page shows, computed anew, as JSON; None and why where that is too much
    ``at_once``; ``setup`` is the document's, where it has been read before.
    """
    judged = judging.judge(document, picture, at_once=at_once, setup=setup)
    checked = judged.checked
    if checked is None:
        return None, judged.faults
    path = draw_path(document, checked)
    data = draw(checked, judged.picture, _overlay(other, judged.picture, at_once)) | {
        "result": result_json(checked.result),
        "assumed": {a.field: a.value for a in checked.result.assumed},
        "parts": parts_of(checked),
        "rail": rail_of(checked),
        "path": path,
        "moves": leg_moves(checked.case)[:MAX_MOVES],
        "verdict": checked.result.verdict,
        "iron_margin": checked.result.iron_margin,
        "sentence": checked.result.weakest.sentence,
        "proof": proof_of(checked),
        "chances": {
            s.load: chance_words(s, start_margin(checked, s.load))
            for s in checked.result.starts
            if s.chance is not None
        },
    }
    return json.dumps(data, allow_nan=False, default=vars), ()
