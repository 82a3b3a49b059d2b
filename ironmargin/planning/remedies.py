"""What would make it hold: single changes, pairs and threes tried by the core, best first.

Every single change is examined without trials; those that no longer fail are examined once more as
the setup's rules say. Where few single ones hold, pairs of the most promising are tried the same
way; where no pair does either, three together. The one order of everything that is advised is
:func:`ironmargin.planning.change.rank_of`. The search is the same every time: only a caller's
``stop`` cuts it short.
"""

from __future__ import annotations

from collections.abc import Callable

from ironmargin.document import Document
from ironmargin.limits.ledger import FAILS, HOLDS, THIN
from ironmargin.per_cent import PLACES, percent
from ironmargin.planning.change import ASKED, Change, rank_of
from ironmargin.planning.remedy import Remedy, cords_blamed, worth_trying
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import write_setup
from ironmargin.setup.rules import check_rules
from ironmargin.verdict.check import Checked, certain_to_fail, examine, with_chance
from ironmargin.verdict.sentences import say

ENOUGH = 3
"""With so many single changes that hold and keep what was asked for, pairs are not looked for."""
PAIRED = 8
"""Single changes that go into pairs."""
MAX_TOGETHER = 3
THREES = 3
"""Pairs that go into threes."""
MAX = 24
REMEDIES_FORMAT = "iron-margin/remedies"
BETTER = 0.005

Progress = Callable[[int, int], None]


@record
class Remedies:
    """The remedies, best first; ``complete`` unless the search was stopped; ``tried`` setups were
    examined.
    """

    before: Checked
    found: tuple[Remedy, ...]
    complete: bool
    tried: int


def _stays_thin(quick: Checked) -> bool:
    """Whether a closer look cannot make this thin one hold."""
    apart = quick.together is not None and not quick.together.passes
    first = next(iter(quick.findings), None)
    near = first is None or quick.verdict_of(first) == HOLDS
    return quick.result.verdict == THIN and (apart or not near)


def _shortfall(checked: Checked) -> float:
    """What is missing to hold, summed over every margin below the thin line, the coincidence's too
    [1].
    """
    thin = checked.case.setup.rules.thin_below
    missing = sum(max(thin - float(f.margin), 0.0) for f in checked.findings)
    together = checked.together
    return missing + (
        max(thin - together.margin, 0.0)
        if together is not None and together.outcome != "starts"
        else 0.0
    )


class _Search:
    """The setups that were tried from one that does not hold, and what was found."""

    def __init__(self, before: Checked, progress: Progress | None) -> None:
        self.before, self.progress = before, progress
        self.setup, self.old = before.setup, before.result.verdict
        self.tried = self.todo = 0
        self.found: list[Remedy] = []

    def attempt(
        self, changes: tuple[Change, ...], changed: Setup | None, *, last: bool
    ) -> Checked | None:
        """A changed setup examined; kept where it is a remedy. Of the ``last`` ones that fail
        nobody asks by how much.
        """
        self.tried += 1
        if self.progress:
            self.progress(self.tried, self.todo)
        if changed is None or changed == self.setup or check_rules(changed):
            return None
        if last and certain_to_fail(changed):
            return None
        quick = examine(changed, quick=True)
        if quick.result.verdict == FAILS or (self.old == THIN and _stays_thin(quick)):
            return quick
        full = with_chance(quick)
        verdict, margin = full.result.verdict, full.result.iron_margin
        gains = margin > self.before.result.iron_margin + BETTER or verdict == HOLDS
        if gains and (verdict == HOLDS or (self.old == FAILS and verdict == THIN)):
            sentence = say(full, None, looked=False).sentence
            self.found.append(Remedy(changes, changed, verdict, margin, sentence))
        return full

    def enough(self) -> bool:
        """Whether so many that keep what was asked for hold that no more together are tried."""
        keep = [r for r in self.found if r.rung != ASKED]
        return sum(r.verdict == HOLDS for r in keep) >= ENOUGH

    def found_any(self) -> bool:
        """Whether anything was found that keeps what was asked for."""
        return any(r.rung != ASKED for r in self.found)


Turn = tuple[tuple[Change, ...], Setup]
"""Changes to try, and the setup that holds all but the last of them."""
Tried = tuple[float, tuple[Change, ...], Setup]
"""What is missing with some changes [1], and the setup that holds them all."""


def _promising(tried: list[Tried], maximum: int) -> list[Tried]:
    """Those that go on: of what keeps what was asked for the nearest to holding and the first in
    the order of what is advised; and what is nearest of the rest, for where nothing else is left.
    """
    near = sorted(tried, key=lambda t: t[0])
    keep = [t for t in near if not any(c.requested for c in t[1])]
    first = sorted(keep, key=lambda t: (*rank_of(t[1], FAILS, 0.0), t[0]))
    rest = [t for t in near if any(c.requested for c in t[1])][: maximum // 4]
    chosen = {id(t): t for t in [*keep[: maximum // 2], *rest, *first]}
    return list(chosen.values())[:maximum]


def find_remedies(
    setup: Setup, *, progress: Progress | None = None, stop: Callable[[], bool] | None = None
) -> Remedies:
    """Try single changes, pairs where few hold, and three together where nothing does; rank those
    that make it hold, or hold at least thinly where it failed.

    Args:
        setup: supply, path, rig and rules of the question.
        progress: called with setups tried and setups to try.
        stop: asked before each trial whether to end early.

    Returns:
        What was found, best first, and whether the search has ended.
    """
    before = examine(setup)
    if before.result.verdict == HOLDS:
        return Remedies(before, (), True, 0)
    search, singles = _Search(before, progress), worth_trying(before)
    turns: list[Turn] = [((change,), setup) for change in singles]
    single: list[Tried] = []
    for size in range(1, MAX_TOGETHER + 1):
        near: list[Tried] = []
        missing = _shortfall(before)
        search.todo += len(turns)
        for changes, base in turns:
            if stop and stop():
                return _ranked(search, complete=False)
            changed = changes[-1].apply(base)
            # Of the largest sets nothing more is learned from what fails.
            got = search.attempt(changes, changed, last=size == MAX_TOGETHER)
            if got is None or changed is None or got.result.verdict == HOLDS:
                continue
            if (short := _shortfall(got)) < missing - BETTER:
                near.append((short, changes, changed))
        single = near if size == 1 else single
        if search.enough() or (size == 2 and search.found_any()):
            break
        maximum = PAIRED if size == 1 else THREES
        turns = _together(_promising(near, maximum), _promising(single, PAIRED))
    return _ranked(search, complete=True)


def _together(near: list[Tried], single: list[Tried]) -> list[Turn]:
    """What is tried next: each of the promising with one more single change, about another thing;
    the same changes once, in whatever order. First what would do if what each leaves missing added
    up, so that something to act on is known early.
    """
    out: dict[frozenset[int], tuple[float, Turn]] = {}
    for short, changes, base in near:
        about = {c.about for c in changes}
        for shorter, (one,), _ in single:
            if one.about not in about:
                both = (*changes, one)
                out.setdefault(frozenset(id(c) for c in both), (short + shorter, (both, base)))
    return [turn for _, turn in sorted(out.values(), key=lambda each: each[0])]


def _ranked(search: _Search, *, complete: bool) -> Remedies:
    """What was found, best first."""
    before = search.before
    best = sorted(
        _needed(search.found), key=lambda r: (not cords_blamed(before, r.changes), r.rank)
    )
    return Remedies(before, tuple(best[:MAX]), complete, search.tried)


def _needed(found: list[Remedy]) -> list[Remedy]:
    """Pairs whose one change does as well alone are no remedies."""
    alone = {r.changes[0].what: r for r in found if len(r.changes) == 1}
    kept = []
    for r in found:
        parts = [alone[c.what] for c in r.changes if c.what in alone] if len(r.changes) > 1 else []
        if not any(p.verdict == r.verdict or p.verdict == "holds" for p in parts):
            kept.append(r)
    return kept


def remedies_json(found: Remedies) -> Document:
    """The JSON object of a search for remedies.

    Args:
        found: what was found.

    Returns:
        The JSON object.
    """
    result = found.before.result
    return {
        "format": REMEDIES_FORMAT,
        "version": 1,
        "verdict": result.verdict,
        "iron_margin": round(result.iron_margin, PLACES),
        "tried": found.tried,
        "remedies": [
            {
                "change": r.change,
                "what": r.what,
                "sentence": r.sentence,
                "cost": r.cost,
                "effort": r.effort,
                "gives_up": r.gives_up,
                "rung": r.rung,
                "by": r.by,
                "verdict": r.verdict,
                "iron_margin": round(r.iron_margin, PLACES),
                "gained": round(r.iron_margin - result.iron_margin, PLACES),
                "setup": write_setup(r.setup),
            }
            for r in found.found
        ],
        "complete": found.complete,
    }


def remedies_words(found: Remedies) -> str:
    """The remedies in lines for the terminal.

    Args:
        found: what was found.

    Returns:
        The lines.
    """
    result = found.before.result
    lines = [
        f"{found.before.case.setup.name}: {result.verdict}, {percent(result.iron_margin)} "
        f"{'short' if result.iron_margin < 0 else 'left'}"
    ]
    lines += [
        f"{r.verdict:>6} {percent(r.iron_margin):>5}  {r.cost:<5} {r.what}" for r in found.found
    ]
    if not found.found:
        lines.append(
            "It holds as it is."
            if result.verdict == "holds"
            else "Nothing tried, up to three changes together, makes it hold."
        )
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
