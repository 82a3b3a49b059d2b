"""What would make it hold: single changes and pairs tried by the core, best first.

Every single change is examined without trials; those that no longer fail are examined once more as
the setup's rules say. Where few single ones hold, pairs of the most promising are tried the same
way. Best first means: holds before thin, then cost class, then trouble, then margin gained. The
search is the same every time: only a caller's ``stop`` cuts it short.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations

import numpy as np

from ironmargin.document import Document
from ironmargin.limits.ledger import FAILS, HOLDS, settled_margin
from ironmargin.limits.now import now_of_sets
from ironmargin.listed import listed
from ironmargin.per_cent import PLACES, percent
from ironmargin.planning.change import COSTS, FREE, Change
from ironmargin.planning.changes import changes_of
from ironmargin.record import record
from ironmargin.setup.changed import leave_off, together_with
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import write_setup
from ironmargin.setup.rules import check_rules
from ironmargin.setup.work import work_of
from ironmargin.starting.starts import PATH, Start
from ironmargin.verdict.check import Checked, examine, surely_fails, with_chance
from ironmargin.verdict.sentences import say

ENOUGH = 3
"""With so many single changes that hold, pairs are not looked for."""
PAIRED = 8
"""Single changes that go into pairs."""
MOST = 24
MOST_NEAREST = 500_000
"""Work the nearest remedy may take, as :func:`ironmargin.setup.work.work_of` counts it: it is part
of every page that fails.
"""
STARTS_SHARE = 10
"""What part of a quick check's work its starts alone are, each run once."""
OFF_KINDS = ("leave-off", "postpone")
CORD_KINDS = ("thicker-cord", "shorter-cord")
GEAR_KINDS = ("hard-start", "soft-start", "inline-soft-start")
NEAR = 1e-3
"""Margins of many sets at once are known so well."""
REMEDIES_FORMAT = "iron-margin/remedies"
BETTER = 0.005
SAID = {"holds": "it holds", "thin": "it just holds", "fails": "it still fails"}

Progress = Callable[[int, int], None]


@record
class Remedy:
    """One way to make it hold: the changes it takes, and the setup, verdict and margin they lead
    to.
    """

    changes: tuple[Change, ...]
    setup: Setup
    verdict: str
    iron_margin: float
    weakest: str

    @property
    def change(self) -> str:
        """The stable words of its changes, joined by +."""
        return "+".join(c.kind for c in self.changes)

    @property
    def what(self) -> str:
        """What to do, as an instruction."""
        first, *rest = (c.what for c in self.changes)
        return first + "".join(f", and {w[:1].lower()}{w[1:]}" for w in rest)

    @property
    def cost(self) -> str:
        """The dearest of its changes."""
        return max((c.cost for c in self.changes), key=COSTS.index)

    @property
    def effort(self) -> int:
        """Trouble of all its changes."""
        return sum(c.effort for c in self.changes) + 2 * (len(self.changes) - 1)

    @property
    def sentence(self) -> str:
        """What to do and what it leads to."""
        return (
            f"{self.what} and {SAID[self.verdict]} with {percent(self.iron_margin)} of iron "
            f"left. {self.weakest}"
        )


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
    return quick.result.verdict == "thin" and (apart or not near)


def _rank(remedy: Remedy) -> tuple[bool, int, int, float]:
    return remedy.verdict != "holds", COSTS.index(remedy.cost), remedy.effort, -remedy.iron_margin


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


def find_remedies(
    setup: Setup, *, progress: Progress | None = None, stop: Callable[[], bool] | None = None
) -> Remedies:
    """Try single changes and pairs, and rank those that make it hold, or hold at least thinly where
    it failed.

    Args:
        progress: called with setups tried and setups to try; stop: asked before each trial whether
        to end early.
    """
    before = examine(setup)
    old = before.result.verdict
    if old == "holds":
        return Remedies(before, (), True, 0)
    singles = list(changes_of(setup, before.case))
    tried, todo, complete = 0, len(singles), True
    found: list[Remedy] = []
    missing = _shortfall(before)
    near: list[tuple[float, Change, Setup]] = []

    def attempt(changes: tuple[Change, ...], changed: Setup | None) -> Checked | None:
        nonlocal tried
        tried += 1
        if progress:
            progress(tried, todo)
        if changed is None or changed == setup or check_rules(changed):
            return None
        quick = examine(changed, quick=True)
        if quick.result.verdict == "fails" or (old == "thin" and _stays_thin(quick)):
            return quick
        full = with_chance(quick)
        verdict, margin = full.result.verdict, full.result.iron_margin
        gains = margin > before.result.iron_margin + BETTER or verdict == "holds"
        if gains and (verdict == "holds" or (old == "fails" and verdict == "thin")):
            found.append(
                Remedy(changes, changed, verdict, margin, say(full, None, looked=False).sentence)
            )
        return full

    for change in singles:
        if stop and stop():
            complete = False
            break
        changed = change.apply(setup)
        got = attempt((change,), changed)
        if (
            got is not None
            and changed is not None
            and got.result.verdict != "holds"
            and _shortfall(got) < missing - BETTER
        ):
            near.append((_shortfall(got), change, changed))
    if complete and sum(r.verdict == "holds" for r in found) < ENOUGH:
        near.sort(key=lambda n: (COSTS.index(n[1].cost), n[1].effort, n[0]))
        best = sorted(near, key=lambda n: n[0])[: PAIRED // 2]
        chosen = list({id(c): (c, s) for _, c, s in [*best, *near]}.values())[:PAIRED]
        pairs = [(a, b, s) for (a, s), (b, _) in combinations(chosen, 2) if a.about != b.about]
        todo += len(pairs)
        for first, second, changed in pairs:
            if stop and stop():
                complete = False
                break
            attempt((first, second), second.apply(changed))
    return Remedies(before, tuple(sorted(_needed(found), key=_rank)[:MOST]), complete, tried)


def _needed(found: list[Remedy]) -> list[Remedy]:
    """Pairs whose one change does as well alone are no remedies."""
    alone = {r.changes[0].what: r for r in found if len(r.changes) == 1}
    kept = []
    for r in found:
        parts = [alone[c.what] for c in r.changes if c.what in alone] if len(r.changes) > 1 else []
        if not any(p.verdict == r.verdict or p.verdict == "holds" for p in parts):
            kept.append(r)
    return kept


def nearest_remedy(checked: Checked) -> tuple[Remedy | None, bool]:
    """The first single change that makes a failing setup hold, in the order a person at the post
    would try, None if none does; and whether all were tried that had to be.

    Loads to leave off come first, what can wait before what must run and cooling last; then what
    costs least. Where the cords are to blame they come before all else; a unit that is asked to
    cool is put on its fan only when nothing else helps.
    """
    setup, weakest = checked.case.setup, checked.result.weakest.where
    by_path = blames_path(checked)
    changes = [*_unserved(checked), *changes_of(setup, checked.case)]

    def key(change: Change) -> tuple[int, int, int]:
        if change.kind in CORD_KINDS and by_path:
            turn = 0
        elif change.about == weakest and change.kind in (*OFF_KINDS, "fan-only"):
            turn = 3
        else:
            turn = 1 if change.kind in OFF_KINDS else 2
        return turn, COSTS.index(change.cost), change.effort

    spent, hopeless = 0, _hopeless(checked)
    for change in sorted(changes, key=key):
        if spent > MOST_NEAREST:
            return None, False
        if hopeless(change):
            continue
        changed = change.apply(setup)
        if changed is None or changed == setup or check_rules(changed):
            continue
        work = work_of(changed, chances=False)
        spent += work // STARTS_SHARE
        if surely_fails(changed):
            continue
        spent += work
        quick = examine(changed, quick=True)
        if quick.result.verdict == FAILS or quick.result.iron_margin <= checked.result.iron_margin:
            continue
        spent += work_of(changed) - work
        full = with_chance(quick)
        if full.result.verdict != FAILS:
            found = full.result
            return Remedy((change,), changed, found.verdict, found.iron_margin, ""), True
    return None, True


def _hopeless(checked: Checked) -> Callable[[Change], bool]:
    """Which changes leave a settled limit exceeded, as is known without trying them: start gear
    changes nothing that is settled, and what each load left off leaves is asked of all loads at
    once.
    """
    case, now = checked.case, checked.now
    if not case.demands or float(np.min(settled_margin(now))) >= 0.0:
        return lambda change: False
    ids = [d.load.id for d in case.demands]
    gone = {ident: together_with(case.setup, ident) for ident in ids}
    on = np.array([[x not in gone[ident] for x in ids] for ident in ids], dtype=float)
    left = np.broadcast_to(np.asarray(settled_margin(now_of_sets(case, on))), len(ids))
    short = {ident for ident, margin in zip(ids, left.tolist(), strict=True) if margin < -NEAR}

    def leaves_it(change: Change) -> bool:
        return change.kind in GEAR_KINDS or (change.kind in OFF_KINDS and change.about in short)

    return leaves_it


def blames_path(checked: Checked) -> bool:
    """Whether what gives first is the way from the supply to the rig: its cords and contacts, not
    the supply.
    """
    first = checked.findings[0] if checked.findings else None
    if first is None:
        return False
    if first.check == "start":
        return isinstance(first.about, Start) and first.about.gives_first == PATH
    dropped = sum(p.volts_drop for p in checked.result.path)
    source = checked.case.source
    behind = abs(source.hot_ohm + source.neutral_ohm)
    return first.check == "voltage" and dropped > behind * max(float(a) for a in checked.now.amps)


def _unserved(checked: Checked) -> list[Change]:
    """Leaving off everything this service cannot feed at all, as one change."""
    loads = [load for load, _ in checked.case.unserved]
    if len(loads) < 2:
        return []

    def without(setup: Setup) -> Setup:
        for load in loads:
            setup = leave_off(setup, load.id)
        return setup

    return [
        Change(
            "leave-off",
            f"Leave {listed([x.name for x in loads])} off",
            FREE,
            0,
            "unserved",
            without,
        )
    ]


def remedies_json(found: Remedies) -> Document:
    """The JSON object of a search for remedies."""
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
    """The remedies in lines for the terminal."""
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
            else "No single change or pair of changes here makes it hold."
        )
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
