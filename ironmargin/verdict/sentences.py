"""The one sentence: what gives first, and what to do about it, in the user's words."""

from __future__ import annotations

from ironmargin.loads.demand import Demand
from ironmargin.starting.starts import Start
from ironmargin.verdict.check import Checked, Finding, handles_a, peak_margin
from ironmargin.verdict.remedy import Remedy
from ironmargin.verdict.result import Weakest

SUPPLY_WORDS = {"generator": "the set", "parallel": "the sets", "shore": "the post", "battery-inverter": "the inverter", "assist": "post and inverter"}
PROBLEMS = {
    "no-240": "needs 240 V between two opposite legs, and this path brings none",
    "no-leg": "hangs on leg L2, and this path leaves L2 dead",
    "low-volts": "is offered far less than its rated volts",
}
MUCH_STRONGER = 4.0


def percent(share: float) -> str:
    """A share as whole per cent, never minus nought."""
    return f"{abs(round(share * 100)):d} %"


def how_often(per_night: float) -> str:
    """How often something happens, as a person would say it."""
    if per_night >= 1.0:
        return f"about {per_night:.0f} times a night"
    if per_night * 3650 < 1.0:
        return "hardly ever in ten years"
    return f"about once in {1.0 / per_night:.0f} nights"


def running_list(checked: Checked, start: Start, most: int = 3) -> str:
    """The larger loads that run beside a start, as words."""
    others = {s.demand for s in start.starters}
    beside: list[Demand] = sorted(
        (d for at, d in enumerate(checked.case.demands) if at not in others), key=lambda d: -sum(x.amps for x in d.steady))
    names = [d.load.name for d in beside if sum(x.amps for x in d.steady) >= 3.0][:most]
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _stronger(margin: float) -> str:
    if margin <= -MUCH_STRONGER:
        return "Nothing near this size would do."
    return f"It would have to be {percent(margin)} stronger."


def start_words(checked: Checked, finding: Finding) -> str:
    """A start that fails or is the thinnest."""
    start: Start = finding.row
    supply = SUPPLY_WORDS[checked.case.source.kind]
    beside = running_list(checked, start)
    while_running = f" with {beside} running" if beside else ""
    limit = checked.case.source.limit_a
    if start.outcome == "starts":
        if finding.margin < start.margin and checked.case.setup.rules.breaker_school == "peak":
            handle = min(handles_a(checked.case))
            over = "goes over" if peak_margin(checked.case, start) < 0 else "comes nearest"
            return f"{finding.name}'s start {over} the {handle:.0f} A handle{while_running}: {start.wanted_a + checked.case.source.also_a:.0f} A at the peak."
        return f"Thinnest at {finding.name}'s start{while_running}: {start.lowest_v:.0f} V at the dip, up in {start.seconds:.1f} s."
    verb = {"stalls": "stalls when it starts", "trips": "trips the supply when it starts", "unsolved": "cannot be solved"}[start.outcome]
    holds = f"{supply} can hold {limit:.0f} A here" if limit < 1e6 else f"{supply} gives {start.peak_a:.0f} A"
    sag = f"and {'sag' if supply.endswith('s') else 'sags'} to {start.lowest_v:.0f} V"
    return f"{finding.name} {verb}{while_running}: it wants {start.wanted_a:.0f} A, {holds} {sag}. {_stronger(finding.margin)}"


def other_words(checked: Checked, finding: Finding) -> str:
    """Any check but a start."""
    row, fails = finding.row, finding.margin < 0
    if finding.check == "service":
        return f"{finding.name} {PROBLEMS[row.problem]}."
    if finding.check == "sustain" and row is not None:
        rule = f"{row.limit_a:.1f} A it may carry for hours" if row.note == "continuous" else f"{row.limit_a:.1f} A limit"
        lead = f"Too much at once: {row.amps:.1f} A" if fails else f"Thinnest when settled: {row.amps:.1f} A"
        return f"{lead} at {row.name}, against the {rule}."
    if finding.check == "path":
        bare = " No breaker before it protects it." if row.unprotected else ""
        return f"{row.name} {'is overloaded' if fails else 'is the thinnest part'}: {row.amps:.1f} A on a rating of {row.rating_a:.0f} A.{bare}"
    if finding.check == "voltage" and row.v > row.nominal_v:
        return f"Volts on {row.where.removesuffix(' (too high)')} stand at {row.v:.1f} V; the most they may be is {row.low_v:.0f} V. Do not plug in."
    if finding.check == "voltage":
        return f"Volts on {row.where} settle at {row.v:.1f} V; the least they may be is {row.low_v:.0f} V."
    if finding.check == "endurance":
        lasts = min(h for h in (row.fuel_h, row.battery_h) if h is not None)
        return f"It lasts {lasts:.1f} h of the {checked.case.setup.conditions.target_hours:g} h wanted."
    return "Nothing is asked to run."


def say(checked: Checked, remedy: Remedy | None, *, looked: bool = True) -> Weakest:
    """The weakest link with its sentence and the nearest remedy in words; ``looked`` if one was looked for."""
    finding = next((f for f in checked.findings), None)
    result = checked.result
    if finding is None or not result.solver["converged"]:
        return Weakest("sustain", "supply", f"No verdict: {result.solver['reason']}. Check the supply's figures and the loads.")
    words = start_words(checked, finding) if finding.check == "start" else other_words(checked, finding)
    together = checked.together
    if result.verdict != "fails" and together is not None and together.outcome != "starts":
        words += f" If all motors start in the same moment they do not make it: start them one by one ({how_often(together.per_night or 0.0)})."
    if remedy is not None:
        end = "it holds" if remedy.verdict == "holds" else "it just holds"
        advice = f"{remedy.what} and {end} with {percent(remedy.iron_margin)} of iron left."
        return Weakest(finding.check, finding.where, f"{words} {advice}", advice, remedy.iron_margin)
    if result.verdict == "fails" and looked:
        return Weakest(finding.check, finding.where, f"{words} No single change here makes it hold.")
    return Weakest(finding.check, finding.where, words)
