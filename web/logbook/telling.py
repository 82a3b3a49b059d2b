"""What the log's page says of what the readings tell: the answer, the corrections and where each is
written, and what to measure next.
"""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.learning.learn import Found
from ironmargin.learning.next_reading import NextReading, next_readings
from ironmargin.listed import listed
from ironmargin.setup.model import Setup
from ironmargin.setup.work import work_of
from web.design.templatetags.figures import brief, percent, words
from web.logbook.service import Line
from web.setups import judging
from web.setups.models import SavedSetup
from web.setups.stations import Answer

COUNTED = ("No", "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten")
HELD = (
    ("inrush-clamp", "an inrush clamp"),
    ("trace", "a logger that records a trace"),
    ("starter-report", "the soft starter's own report"),
)
"""Instruments a person may say they have."""
USUAL = ("inrush-clamp", "starter-report")
MAX_NEXT = 3
POINT = 0.005
"""A margin that moves by less shows the same figure."""


def next_of(setup: Setup, have: tuple[str, ...]) -> list[NextReading]:
    """What to measure next, with these instruments; of each load the best."""
    if 2 * work_of(setup) > judging.MAX_AT_ONCE:
        return []
    found = {one.load: one for one in reversed(next_readings(setup, have))}
    return sorted(found.values(), key=lambda one: -one.narrows / one.minutes)[:MAX_NEXT]


@dataclass(frozen=True)
class Correction:
    """A figure or a choice that the readings correct, and where it is written.

    Attributes:
        where: the rig, the supply or the setup it goes to, and how many setups that changes.
        folded: it moves no margin by a point, so that it is not worth a look.
    """

    field: str
    label: str
    before: str
    after: str
    detail: str
    where: str
    folded: bool


def corrections(saved: SavedSetup, found: Found) -> list[Correction]:
    """What the readings correct, what matters first."""
    rows = [
        Correction(
            f.field, f.label, brief(f.before), _with_unit(f.after, f.unit),
            f"nine in ten between {brief(f.low)} and {brief(f.high)}; was {f.was}",
            where_written(saved, f.field), abs(f.moves) < POINT,
        )
        for f in found.figures
    ]  # fmt: skip
    rows += [
        Correction(
            c.field, c.label, c.before, words(c.after), f"{c.sure * 100:.0f} in 100 sure",
            where_written(saved, c.field), False,
        )
        for c in found.choices
    ]  # fmt: skip
    return sorted(rows, key=lambda row: row.folded)


def _with_unit(value: float, unit: str) -> str:
    return brief(value) if unit == "1" else f"{brief(value)} {unit}"


def where_written(saved: SavedSetup, field: str) -> str:
    """Where a correction goes, in words."""
    part = field.split(".")[0].split("[")[0]
    held = {"rig": saved.rig, "supply": saved.supply}.get(part)
    if held is None:
        return "into this setup alone"
    others = held.setups.filter(deleted_at=None).count()
    return f"into the {part} {held.name}" + (f", which {others} setups use" if others > 1 else "")


def answer_of(found: Found, lines: list[Line]) -> Answer:
    """What the readings say, in a line: what they correct and whether the verdict hangs on it."""
    count = len(lines)
    number = COUNTED[count] if count < len(COUNTED) else f"{count}"
    word = f"{number} reading{'' if count == 1 else 's'}"
    if not count:
        said = (
            "One clamp reading of a start, or of a load running, makes every answer more certain."
        )
        return Answer(word, said)
    if not found.figures and not found.choices:
        said = "They agree with the setup: nothing to correct."
        if found.tells:
            said = f"{said} {odds_words(found)}"
        return Answer(word, said)
    # Named are the figures that move a margin by a point; where none does, all there are.
    ranked = sorted(found.figures, key=lambda f: -abs(f.moves))
    telling = [f for f in ranked if abs(f.moves) >= POINT] or ranked
    told = [f"{f.label}: now {_with_unit(f.after, f.unit)}" for f in telling[:2]]
    told += [f"{c.label} {words(c.after)}" for c in found.choices[:1]]
    shown = "; ".join(told)
    before, after = found.before, found.after
    same = before[0] == after[0]
    change = (
        "This does not change the verdict"
        if same
        else f"With that the verdict is: {after[0]}, {percent(after[1])}"
    )
    return Answer(word, f"{shown}. {change}.", "" if same else after[0])


def odds_words(found: Found) -> str:
    """How the odds of each start change by what was learned."""
    said = [
        f"{o.name} starts {o.after * 100:.0f} times in 100, not {o.before * 100:.0f}"
        for o in found.odds
        if abs(o.after - o.before) >= POINT * 2
    ]
    return f"{listed(said)}." if said else ""
