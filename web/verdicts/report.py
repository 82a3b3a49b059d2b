"""The printed report of a setup for a client: the same bytes for the same question."""

from __future__ import annotations

import json
from functools import lru_cache

from django.template.loader import render_to_string

from ironmargin.document import Document
from ironmargin.learning.running import demand_in
from ironmargin.planning.remedies import find_remedies
from ironmargin.practice.steps import steps_of
from ironmargin.reaching.reach import up_to_words
from ironmargin.setup.reading import read_setup
from ironmargin.setup.work import work_of
from web.design.context import Context
from web.design.places import place_words
from web.design.printing import PAPER_CSS, to_pdf
from web.supplies.models import Supply
from web.verdicts.by_hour import soft_words
from web.verdicts.sentence import conditions_words
from web.verdicts.view_model import content_key, view_model

STORED = 24
"""Answers kept by each web process: a shared link may be asked for again and again."""


@lru_cache(maxsize=STORED)
def _up_to(text: str) -> str:
    setup = read_setup(json.loads(text))
    return up_to_words(setup) if work_of(setup) <= MAX_SEARCHED else ""


def up_to(document: Document) -> str:
    """How far a question holds, in heat and height; its load named. Nothing of a setup too large to
    be asked so often.
    """
    words = _up_to(json.dumps(document, sort_keys=True))
    for load in document["rig"]["loads"]:
        words = words.replace(f"then {load['id']} gives", f"then {load['name']} gives")
    return words


CLIENT = (("client", "For whom"), ("place", "Where"), ("by", "By whom"), ("date", "Date"))
"""What a report says of itself where it goes to a client."""
MAX_LETTERS = 120
MAX_REMEDIES = 3
MAX_PRINTED = 80
"""Loads on paper; a rig that has more is read from its file."""
MAX_SEARCHED = 60_000
"""Work of a check up to which a report tries every change and pair; of a larger setup it names
none, its page searches in the queue.
"""
TRIPPED = (
    "Note which one opened and what was running, and feel whether the breaker is warm.",
    "Switch the loads off, the air conditioners first, and leave them off for five minutes.",
    "Turn the breaker fully off, then on; or stop the generator, press its reset, and start it "
    "again.",
    "Start what you need most, alone, and read amps and volts before the next.",
    "If it opens again at once, is hot or smells, leave it off until a licensed electrician has "
    "seen it.",
)
"""What to do after something opened (common practice, no source)."""


def report_pdf(
    document: Document,
    client: dict[str, str] | None = None,
    paper: str = "letter",
    post: Supply | None = None,
) -> bytes | None:
    """The report of a question, for a client where one is named, with what the soft hours of its
    post do to it; None where it has faults.
    """
    data, _ = view_model(document)
    if data is None:
        return None
    context = data | {
        "document": document,
        "name": document.get("name", ""),
        "notes": document.get("notes", ""),
        "conditions_words": conditions_words(document, "si"),
        "conditions_us": conditions_words(document, "us"),
        "up_to": up_to(document),
        "soft_hours": (soft := soft_words(document, post)),
        "client": [(words, client[key]) for key, words in CLIENT if client and client.get(key)],
        "asked": _requested(document),
        "more": max(len(document["rig"]["loads"]) - MAX_PRINTED, 0),
        "remedies": _remedies(document) if data["verdict"] != "holds" else (),
        "tripped": _tripped(json.dumps(document, sort_keys=True)),
        "assumed": [
            (place_words(a["field"], document), a["value"], a["from"])
            for a in data["result"]["assumed"][:MAX_PRINTED]
        ],
    }
    return to_pdf(
        render_to_string("verdicts/report.html", context),
        "report.css",
        content_key(
            document, document.get("name", ""), document.get("notes", ""), client or {}, soft
        ),
        PAPER_CSS[paper],
    )


def _requested(document: Document) -> list[Context]:
    """The loads of the question: which are wanted, what each draws, and how that is known."""
    setup = read_setup(document)
    wanted = {w.load: w.mode for w in setup.wanted}
    rows = []
    for load in setup.rig.loads[:MAX_PRINTED]:
        mode = wanted.get(load.id)
        on = load.id in wanted or load.always_on
        steady = demand_in(setup, load.id, mode).steady if on else ()
        amps = sum(d.amps for d in steady) if on else None
        watts = sum(d.va.real for d in steady) if on else None
        words = (mode or "on").replace("-", " ") if on else "off"
        lra = getattr(load, "lra_a", None)
        rows.append({"name": load.name, "mode": words, "amps": amps, "watts": watts, "lra": lra,
                     "on": on, "known": load.provenance})  # fmt: skip
    return rows


@lru_cache(maxsize=STORED)
def _tripped(text: str) -> tuple[str, ...]:
    """What to do after something opened, computed for this setup; of a large one what is usual."""
    setup = read_setup(json.loads(text))
    if work_of(setup) > MAX_SEARCHED:
        return TRIPPED
    return tuple(step.text for step in steps_of(setup, "tripped"))


Advised = tuple[str, str, float, str, str]
"""What to do, the verdict and margin it leads to, who does it, and what is given up."""


@lru_cache(maxsize=STORED)
def _found(text: str) -> tuple[Advised, ...]:
    setup = read_setup(json.loads(text))
    if work_of(setup) > MAX_SEARCHED:
        return ()
    found = find_remedies(setup).found[:MAX_REMEDIES]
    return tuple((r.what, r.verdict, r.iron_margin, r.by, r.gives_up) for r in found)


def _remedies(document: Document) -> tuple[Advised, ...]:
    """What would make it hold, best first."""
    return _found(json.dumps(document, sort_keys=True))
