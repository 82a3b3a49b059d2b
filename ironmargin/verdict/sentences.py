"""The one sentence: what gives first, and what to do about it. Each limit tells its own part."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

from ironmargin.limits.coincidence import how_often
from ironmargin.limits.ledger import FAILS, HOLDS, Row, SentenceContext
from ironmargin.limits.start_chance import StartChance
from ironmargin.listed import listed
from ironmargin.loads.demand import Demand
from ironmargin.per_cent import percent
from ironmargin.starting.starts import Start
from ironmargin.verdict.check import Checked
from ironmargin.verdict.deciding import deciding
from ironmargin.verdict.result import Weakest

WORTH_NAMING_A = 3.0
"""Loads beside a start are named from this draw on where none decides it [A]."""
WORTH_NAMING_V = 1.0


class Cure(Protocol):
    """A remedy as a sentence needs it: what to do, and the verdict and margin it leads to."""

    @property
    def advice(self) -> str:
        """What to do, as an instruction."""

    @property
    def verdict(self) -> str:
        """The verdict it leads to."""

    @property
    def iron_margin(self) -> float:
        """The margin it leads to [1]."""


def running_list(checked: Checked, start: Start, decides: tuple[int, ...], maximum: int = 3) -> str:
    """What runs beside a start and decides it, as words; where nothing decides, the larger
    loads.

    Args:
        checked: a verdict with its case.
        start: as it was followed.
        decides: numbers of demands whose going helps most.
        maximum: how many are named.

    Returns:
        Names, joined.
    """
    if decides:
        return listed([checked.case.demands[at].load.name for at in decides])
    others = {s.demand for s in start.starters}
    concurrent: list[Demand] = sorted(
        (d for at, d in enumerate(checked.case.demands) if at not in others),
        key=lambda d: -sum(x.amps for x in d.steady),
    )
    large = [d.load.name for d in concurrent if sum(x.amps for x in d.steady) >= WORTH_NAMING_A]
    return listed(large[:maximum])


def lost_on_the_way(checked: Checked) -> str:
    """Which part of the path loses most, where the path loses more than the supply.

    Args:
        checked: a verdict with its case.

    Returns:
        A sentence that begins with a space; empty where it is not the path.
    """
    parts = sorted(checked.result.path, key=lambda p: -p.volts_drop)
    whole = sum(p.volts_drop for p in parts)
    source = checked.case.source
    drop = abs(source.hot_ohm + source.neutral_ohm) * max(float(a) for a in checked.now.amps)
    if not parts or whole <= drop or parts[0].volts_drop < WORTH_NAMING_V:
        return ""
    return f" {parts[0].name} alone loses {parts[0].volts_drop:.0f} V."


def telling(checked: Checked, row: Row, decides: tuple[int, ...] = ()) -> SentenceContext:
    """What a limit needs to tell its sentence.

    Args:
        checked: a verdict with its case.
        row: of the ledger.
        decides: numbers of demands whose going helps most.

    Returns:
        The case, what runs beside it, and whether it fails.
    """
    start = row.about if isinstance(row.about, Start) else None
    names = (
        running_list(checked, start, decides)
        if start is not None
        else listed([checked.case.demands[at].load.name for at in decides])
    )
    fails = checked.verdict_of(row) == FAILS
    return SentenceContext(checked.case, checked.now, names, fails, lost_on_the_way(checked))


def why_words(checked: Checked, row: Row) -> str:
    """The rule that makes the verdict, where it is not the weakest margin's own.

    Args:
        checked: a verdict with its case.
        row: the weakest.

    Returns:
        A sentence; empty where the row says it.
    """
    result = checked.result
    if result.verdict == HOLDS:
        return ""
    of_it = [w for w in result.why if w.verdict == result.verdict]
    chance = StartChance.key
    own = checked.verdict_of(row) == result.verdict
    if not of_it or own:
        return ""
    decided = [
        r for r in checked.rows if r.limit.key == chance and checked.verdict_of(r) == result.verdict
    ]
    words = decided[0].limit.why(decided[0]) if decided else of_it[0].sentence
    return f" {words[:1].upper()}{words[1:]}."


def _kept_off(checked: Checked) -> str:
    """What a load manager keeps off of what was asked, before all else; empty where nothing."""
    shed = checked.case.shed
    if not shed:
        return ""
    stays, it = ("stays", "it") if len(shed) == 1 else ("stay", "them")
    names = listed([x.name for x in shed])
    return f"{names} {stays} off: the load manager sheds {it} for the rest. "


def say(checked: Checked, remedy: Cure | None, *, looked: bool = True) -> Weakest:
    """The weakest link with its sentence and the first fix in words; ``looked`` if one was looked
    for.

    Args:
        checked: a check that keeps what pictures need.
        remedy: the first fix, where one was found.
        looked: whether one was looked for.

    Returns:
        The weakest link in words.
    """
    result = checked.result
    first = next(iter(checked.findings), None)
    if not result.solver.converged:
        settles = next(r for r in checked.rows if r.limit.key == "settles")
        sentence = settles.limit.sentence(settles, telling(checked, settles))
        return Weakest("sustain", "supply", sentence)
    if first is None:
        return Weakest("sustain", "supply", "Nothing is switched on.")
    if first.check == "voltage":  # what drops out says more than the volts it drops out at
        first = next((r for r in checked.findings if r.problem == "drops-out"), first)
    decides = deciding(checked, first)
    words = first.limit.sentence(first, telling(checked, first, decides))
    words += why_words(checked, first)
    together = checked.together
    if result.verdict != FAILS and together is not None and not together.passes:
        words += (
            " If all motors start in the same moment, one of them does not start: start them "
            f"one by one ({how_often(together.per_night or 0.0)})."
        )
    words = _kept_off(checked) + words[:1].upper() + words[1:]
    found = Weakest(
        first.check,
        first.where,
        words,
        decides=tuple(checked.case.demands[at].load.id for at in decides),
    )
    if remedy is not None:
        end = "it holds" if remedy.verdict == HOLDS else "it just holds"
        advice = f"{remedy.advice} and {end} with {percent(remedy.iron_margin)} of iron left."
        return replace(
            found, sentence=f"{words} {advice}", remedy=advice, remedy_margin=remedy.iron_margin
        )
    if result.verdict == FAILS and looked:
        return replace(found, sentence=f"{words} No single change here makes it hold.")
    return found
