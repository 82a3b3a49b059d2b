"""Which running loads decide a finding: each is taken away in turn, and the margin watched.

What gives first is not always what is listed first: a charger of 400 W may decide a start that the
larger heater beside it leaves alone, since the heater fades with the volts and the charger does
not.
"""

from __future__ import annotations

import numpy as np

from ironmargin.case import dead_at
from ironmargin.limits.ledger import Row, View
from ironmargin.limits.now import now_of_sets
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.starting.side_by_side import side_by_side
from ironmargin.starting.starts import Start, warm_heat
from ironmargin.sustaining.steady import source_amps
from ironmargin.verdict.check import Checked, without_motors

MIN_AMPS = 0.3
"""Loads that draw less decide nothing."""
MIN_GAIN = 0.01
MAX = 3
WORTH = 3.0
"""What helps less than this part of the first is not named [1]."""
MAX_TRIED = 8


def deciding(checked: Checked, finding: Row) -> tuple[int, ...]:
    """Demands whose going helps a finding most, the most first: only those that help at least a
    third as much as the first.

    Args:
        checked: a verdict with its case.
        finding: the row that is asked about.

    Returns:
        Numbers of demands.
    """
    gains = sorted(_gains(checked, finding), reverse=True)
    if not gains or gains[0][0] < MIN_GAIN:
        return ()
    return tuple(at for gain, at in gains if gain >= gains[0][0] / WORTH)[:MAX]


def _candidates(checked: Checked) -> list[int]:
    """The loads worth taking away: of many, those that draw the most."""
    drawn = {at: sum(x.amps for x in d.steady) for at, d in enumerate(checked.case.demands)}
    worth = [at for at, amps in drawn.items() if amps >= MIN_AMPS]
    return sorted(sorted(worth, key=lambda at: -drawn[at])[:MAX_TRIED])


def _gains(checked: Checked, finding: Row) -> list[tuple[float, int]]:
    if isinstance(finding.about, Start):
        return _of_start(checked, finding.about)
    if finding.problem == "drops-out":
        case = checked.case
        return [
            (sum(d.amps for d in case.demands[at].steady) / 100.0, at)
            for at in _candidates(checked)
        ]
    return _of_settled(checked, finding) if finding.limit.settled else []


def _of_start(checked: Checked, start: Start) -> list[tuple[float, int]]:
    case = checked.case
    warm = warm_heat(case, source_amps(case, without_motors(case)))
    starting = {s.demand for s in start.starters}

    def gain(at: int) -> tuple[float, int]:
        scenario = StartScenario(
            case, Plan(start.starters, off=frozenset({at}) | dead_at(case, start.starters[0])), warm
        )
        passes = scenario.passes()
        reserve = (
            scenario.reserve_of_path(passes, rough=True)
            if start.gives_first == "path"
            else scenario.reserve_of_supply(passes, rough=True)
        )
        return (1.0 - reserve.factor) - start.margin, at

    return side_by_side(gain, [at for at in _candidates(checked) if at not in starting])


def _of_settled(checked: Checked, finding: Row) -> list[tuple[float, int]]:
    """How much each load adds to the limit that a finding stands on."""
    case, tried = checked.case, _candidates(checked)
    if not tried:
        return []
    on = np.ones((len(tried), len(case.demands)))
    on[np.arange(len(tried)), tried] = 0.0
    same = [
        row.margin
        for row in finding.limit.rows(View(now_of_sets(case, on)))
        if (row.place, row.name, row.note) == (finding.place, finding.name, finding.note)
    ]
    if not same:
        return []
    minimum = np.broadcast_to(np.asarray(same[0]), len(tried))
    before = float(finding.margin)
    return [(gain - before, at) for gain, at in zip(minimum.tolist(), tried, strict=True)]
