"""What was learned, written into a setup: its corrected figures, what it has learned from, and the
draws kept with its rig and its supply.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import replace
from typing import Any

import numpy as np

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.learning.entries import Entry, TripEntry
from ironmargin.learning.figures import Choice, Figure, fields_of
from ironmargin.learning.particles import Posterior
from ironmargin.setup.changed import with_engines
from ironmargin.setup.model import Setup
from ironmargin.setup.post import Shore
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.records import write_record
from ironmargin.starting.known import (
    KEY,
    NO_FIGURE,
    SUPPLY,
    figure_of,
    known_table,
    learned_before,
    stored,
)
from ironmargin.supplies.kinds.post import thevenin


def _put(document: Document, path: str, value: float) -> None:
    where: Any = document
    parts = path.replace("]", "").replace("[", ".").split(".")
    for part in parts[:-1]:
        if part.isdigit():
            where = where[int(part)]
        else:
            where = where.setdefault(part, {})
    where[parts[-1]] = value


def corrected_by(setup: Setup, figures: list[Figure], choices: list[Choice]) -> Setup:
    """The setup with the learned figures; one that cannot stand beside the others is left out.

    Args:
        setup: as it was before the log.
        figures: that are learned.
        choices: that are made.

    Returns:
        The setup.
    """
    for choice in choices:
        if choice.field == "supply.tester":
            assert isinstance(setup.supply, Shore)
            setup = replace(setup, supply=replace(setup.supply, tester=choice.after))
        elif choice.field.startswith("hookup["):
            at = int(choice.field.split("[")[1].split("]")[0])
            part = replace(setup.hookup[at], condition=choice.after)
            setup = replace(setup, hookup=(*setup.hookup[:at], part, *setup.hookup[at + 1 :]))
        else:
            setup = with_engines(setup, character=choice.after)
    try:
        return read_setup(with_figures(setup, figures))
    except SetupError:
        found, taken = setup, list[Figure]()
        for figure in figures:
            with suppress(SetupError):
                found = read_setup(with_figures(setup, [*taken, figure]))
                taken.append(figure)
        return found


def with_figures(setup: Setup, figures: list[Figure]) -> Document:
    """A setup's document with learned figures; a load whose figures were read is measured now.

    Args:
        setup: as it was before the log.
        figures: that are learned.

    Returns:
        The open format's object.
    """
    document = write_setup(setup)
    for figure in figures:
        _put(document, figure.field, float(f"{figure.after:.4g}"))
        head, _, name = figure.field.rpartition(".")
        post = setup.supply
        if isinstance(post, Shore) and head == "supply" and name in ("voltage_v", "source_ohm"):
            volts, ohm = thevenin(post)
            if document["supply"].pop("readings", None):
                document["supply"].setdefault("voltage_v", volts)
                document["supply"].setdefault("source_ohm", ohm)
        if name == "starting_w":
            where = (
                document["supply"]
                if head == "supply"
                else document["supply"]["units"][int(head.split("[")[1][:-1])]
            )
            where["continuous_w"] = min(where["continuous_w"], where["starting_w"])
        if head.startswith("rig.loads") and name != "breakaway":
            at = int(head.split("[")[1].split("]")[0])
            document["rig"]["loads"][at]["from"] = "measured"
    return document


def noted(setup: Setup, figures: list[Figure], entries: Iterable[Entry]) -> Setup:
    """The setup with what it has learned from, and how sure its figures are now.

    Args:
        setup: with the learned figures.
        figures: that are learned.
        entries: of the log.

    Returns:
        The setup.
    """
    known, sure = learned_before(setup)
    known |= {digest(e) for e in entries if not isinstance(e, TripEntry)}
    for figure in figures:
        sure[figure.field] = {"sd": round(figure.sd, 4)}
    learned = {"entries": sorted(known), "figures": dict(sorted(sure.items()))}
    return replace(setup, x=dict(setup.x) | {KEY: learned})


def with_samples(
    setup: Setup, corrected: Setup, posterior: Posterior, without: set[str], figures: list[Figure]
) -> Setup:
    """The setup with draws of what the starts told, kept with its rig and its supply; of a figure
    that was declined or read by itself (``without``) none.

    Args:
        setup: as it was before the log.
        corrected: with the learned figures.
        posterior: what the starts tell.
        without: paths of figures that are left out.
        figures: that are learned.

    Returns:
        The setup.
    """
    fields = {u.name: set[str]() for u in posterior.unknowns}
    for what, ident in fields:
        if what not in NO_FIGURE:
            fields[what, ident] = {field for field, *_ in fields_of(setup, what, ident)}
    rows, names = posterior.rows(), []
    columns = []
    for n, unknown in enumerate(posterior.unknowns):
        if without & fields[unknown.name]:
            continue
        moved = next((f for f in figures if f.field in fields[unknown.name]), None)
        shift = 0.0
        now = figure_of(corrected, unknown.name)
        if moved is not None and now is not None and moved.before > 0.0 < moved.after:
            shift = math.log(moved.after / moved.before)
            post = unknown.what == SUPPLY and setup.supply.post is setup.supply
            shift = -shift if post else shift
        names.append(unknown.name)
        columns.append(rows[:, n] - shift)
    if not names:
        return corrected
    before = known_table(setup)
    text = json.dumps([sorted(map(list, names)), posterior.rows().round(4).tolist()])
    drawn_with = hashlib.sha256(text.encode()).hexdigest()[:12]
    for name, column in before.items():
        if name not in names and not without & fields.get(name, set()):
            names.append(name)
            columns.append(column)
    rig, supply = stored(corrected, names, np.column_stack(columns), drawn_with)
    if rig:
        x = dict(corrected.rig.x) | {KEY: rig}
        corrected = replace(corrected, rig=replace(corrected.rig, x=x))
    if supply:
        x = dict(corrected.supply.x) | {KEY: supply}
        corrected = replace(corrected, supply=corrected.supply.remembering(x))
    return corrected


def digest(entry: Entry) -> str:
    """What an entry is known by once a setup has learned from it.

    Args:
        entry: of a log.

    Returns:
        Sixteen hexadecimal digits.
    """
    text = json.dumps([entry.kind, write_record(entry)], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]
