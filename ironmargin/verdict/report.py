"""A check as text for the terminal, and its starts as CSV."""

from __future__ import annotations

from ironmargin.limits.ledger import FAILS
from ironmargin.limits.sites import Site
from ironmargin.per_cent import signed_percent
from ironmargin.spreadsheet import csv_text
from ironmargin.verdict.check import Checked

WORDS = {"holds": "HOLDS", "thin": "THIN", "fails": "FAILS"}


def report(checked: Checked) -> str:
    """The verdict, its sentence, and one line a check, weakest first.

    Args:
        checked: a check that keeps what pictures need.

    Returns:
        The lines.
    """
    result = checked.result
    lines = [
        f"{checked.case.setup.name}",
        f"{WORDS[result.verdict]}  {signed_percent(result.iron_margin)}",
        result.weakest.sentence,
        *([result.tonight] if result.tonight and result.verdict != FAILS else []),
        "",
    ]
    for start in result.starts:
        chance = (
            f", starts {start.chance * 100:.0f} times in 100" if start.chance is not None else ""
        )
        lines.append(
            f"{signed_percent(start.margin):>7}  start {start.name}: {start.outcome}, "
            f"wants {start.wanted_a:.1f} A, peak {start.peak_a:.1f} A, "
            f"dip {start.lowest_v:.1f} V{chance}"
        )
    for row in checked.rows:
        if row.limit.in_margin and row.place.site is not Site.LOAD_START:
            margin = signed_percent(float(row.margin))
            reason = row.limit.reason(row)
            named = reason if reason.startswith(row.name) else f"{row.name}: {reason}"
            lines.append(f"{margin:>7}  {named}")
    lines += [f"caution: {words}" for words in result.cautions]
    lines.append("An estimate, not an approval. Local code and licensed practice come first.")
    return "\n".join(lines)


def trace_csv(checked: Checked) -> str:
    """The nominal starts over time: volts and amps of each leg, speed of each motor, heat of each
    breaker.

    Args:
        checked: a check that keeps what pictures need.

    Returns:
        A row a moment, with a heading.
    """
    case = checked.case
    names = [case.demands[d].load.id for d in case.rows]
    rows: list[list[object]] = [
        [
            "start",
            "time_s",
            "l1_v",
            "l2_v",
            "l1_a",
            "l2_a",
            *(f"speed_{name}" for name in names),
            *(f"heat_{b.where}_{leg + 1}" for b, leg in case.breakers),
        ]
    ]
    for start in checked.starts + ((checked.together,) if checked.together else ()):
        label = "+".join(case.demands[s.demand].load.id for s in start.starters)
        trace = start.trace
        volts, amps = (x if len(x) > 1 else [x[0], x[0] * 0] for x in (trace.v, trace.a))
        for at, t in enumerate(trace.t_s):
            row = [
                t,
                volts[0][at],
                volts[1][at],
                amps[0][at],
                amps[1][at],
                *trace.speed[:, at],
                *trace.heat[:, at],
            ]
            rows.append([label, *(float(f"{x:.5g}") for x in row)])
    return csv_text(rows)
