"""The one sentence: what gives first, and what to do about it, in the user's words."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

from ironmargin.loads.demand import Demand
from ironmargin.starting.starts import PATH, Start
from ironmargin.verdict.check import FAILS, HOLDS, Checked, Finding, handles_a, peak_margin
from ironmargin.verdict.deciding import deciding
from ironmargin.verdict.listed import listed
from ironmargin.verdict.per_cent import percent
from ironmargin.verdict.result import Weakest

SUPPLY_WORDS = {
    "generator": "the set",
    "parallel": "the sets",
    "shore": "the post",
    "battery-inverter": "the inverter",
    "assist": "post and inverter",
}
PROBLEMS = {
    "no-240": "needs 240 V between two opposite legs, and this path brings none",
    "no-leg": "hangs on leg L2, and this path leaves L2 dead",
    "low-volts": "is offered far less than its rated volts",
}
MUCH_STRONGER = 4.0
VERBS = {
    "stalls": "stalls when it starts",
    "trips": "trips the supply when it starts",
    "unsolved": "cannot be solved",
    "volts-stay-low": "comes up, but the volts stay low",
    "lets-go": "comes up, but not everything else stays on",
}


class Cure(Protocol):
    """A remedy as a sentence needs it: what to do, and the verdict and margin it leads to."""

    @property
    def what(self) -> str:
        """What to do, as an instruction."""

    @property
    def verdict(self) -> str:
        """The verdict it leads to."""

    @property
    def iron_margin(self) -> float:
        """The margin it leads to [1]."""


def how_often(per_night: float) -> str:
    """How often something happens, as a person would say it."""
    if per_night >= 1.0:
        return f"about {per_night:.0f} times a night"
    if per_night * 3650 < 1.0:
        return "hardly ever in ten years"
    return f"about once in {1.0 / per_night:.0f} nights"


def running_list(checked: Checked, start: Start, decides: tuple[int, ...], most: int = 3) -> str:
    """What runs beside a start and decides it, as words; where nothing decides, the larger
    loads.
    """
    if decides:
        return listed([checked.case.demands[at].load.name for at in decides])
    others = {s.demand for s in start.starters}
    beside: list[Demand] = sorted(
        (d for at, d in enumerate(checked.case.demands) if at not in others),
        key=lambda d: -sum(x.amps for x in d.steady),
    )
    return listed([d.load.name for d in beside if sum(x.amps for x in d.steady) >= 3.0][:most])


def _stronger(margin: float, by_path: bool) -> str:
    if margin <= -MUCH_STRONGER:
        return "Nothing near this size would do."
    if by_path:
        return (
            "It is the cords and contacts on the way: they would have to lose "
            f"{percent(1.0 - 1.0 / (1.0 - margin))} less; a bigger supply does not help."
        )
    return f"It would have to be {percent(margin)} stronger."


def start_words(checked: Checked, finding: Finding, decides: tuple[int, ...]) -> str:
    """A start that fails or is the thinnest."""
    start: Start = finding.row
    supply = SUPPLY_WORDS[checked.case.source.kind]
    beside = running_list(checked, start, decides)
    while_running = f" with {beside} running" if beside else ""
    limit = checked.case.source.limit_a
    by_path = start.gives_first == PATH
    if start.passes:
        if finding.margin < start.margin and checked.case.setup.rules.breaker_school == "peak":
            handle = min(handles_a(checked.case))
            over = "goes over" if peak_margin(checked.case, start) < 0 else "comes nearest"
            return (
                f"{finding.name}'s start {over} the {handle:.0f} A handle{while_running}: "
                f"{start.wanted_a + checked.case.source.also_a:.0f} A at the peak."
            )
        where = ", and it is the cords that give first" if by_path else ""
        return (
            f"Thinnest at {finding.name}'s start{while_running}: {start.lowest_v:.0f} V at "
            f"the dip, up in {start.seconds:.1f} s{where}."
        )
    holds = (
        f"{supply} can hold {limit:.0f} A here"
        if limit < 1e6 and not by_path
        else f"{supply} gives {start.peak_a:.0f} A"
    )
    sag = (
        f"and {'sag' if supply.endswith('s') else 'sags'} to {start.lowest_v:.0f} V"
        if not by_path
        else f"and {start.lowest_v:.0f} V arrive"
    )
    verb = f"{VERBS[start.outcome]}{while_running}"
    if start.outcome == "lets-go" and start.off:
        off = [checked.case.demands[at].load.name for at in start.off]
        verb = f"comes up, but {listed(off)} {'let' if len(off) > 1 else 'lets'} go"
    return (
        f"{finding.name} {verb}: it wants {start.wanted_a:.0f} A, {holds} {sag}. "
        f"{_stronger(finding.margin, by_path)}"
    )


def other_words(checked: Checked, finding: Finding, decides: tuple[int, ...]) -> str:
    """Any check but a start."""
    row, fails = finding.row, finding.margin < 0
    names = listed([checked.case.demands[at].load.name for at in decides])
    most = f" Most of it is {names}." if names else ""
    if finding.check == "service":
        return f"{finding.name} {PROBLEMS[row.problem]}."
    if finding.check == "sustain" and row is not None:
        rule = (
            f"{row.limit_a:.1f} A it may carry for hours"
            if row.note == "continuous"
            else f"{row.limit_a:.1f} A limit"
        )
        lead = (
            f"Too much at once: {row.amps:.1f} A"
            if fails
            else f"Thinnest when settled: {row.amps:.1f} A"
        )
        if row.note == "continuous":
            lead = (
                f"Too much for hours: {row.amps:.1f} A over the duty cycle"
                if fails
                else f"Thinnest when settled: {row.amps:.1f} A over the duty cycle"
            )
        return (
            f"{lead} at {row.name.removesuffix(', continuous')}, against the "
            f"{rule}.{most if fails else ''}"
        )
    if finding.check == "path":
        bare = " No breaker before it protects it." if row.unprotected else ""
        return (
            f"{row.name} {'is overloaded' if fails else 'is the thinnest part'}: "
            f"{row.amps:.1f} A on a rating of {row.rating_a:.0f} A.{bare}{most if fails else ''}"
        )
    if finding.check == "voltage" and checked.result.let_go:
        first, *more = checked.result.let_go
        gone = listed([first.name, *(r.name for r in more)])
        way = _loses_on_the_way(checked)
        return (
            f"{gone} {'let' if more else 'lets'} go: {first.v:.0f} V arrive, and {first.name} "
            f"holds on down to {first.lets_go_v:.0f} V.{way}"
        )
    if finding.check == "voltage" and row.v > row.nominal_v:
        return (
            f"Volts on {row.where.removesuffix(' (too high)')} stand at {row.v:.1f} V; the "
            f"most they may be is {row.low_v:.0f} V. Do not plug in."
        )
    if finding.check == "voltage":
        way = _loses_on_the_way(checked)
        return (
            f"Volts on {row.where} settle at {row.v:.1f} V; the least they may be is "
            f"{row.low_v:.0f} V.{most if fails else ''}{way if fails else ''}"
        )
    if finding.check == "endurance":
        lasts = min(h for h in (row.fuel_h, row.battery_h) if h is not None)
        cold = (
            " The cylinder gets too cold to feed the set"
            + (" at a compressor start." if row.starves_at_start else ".")
            if row.starves_h
            else ""
        )
        return (
            f"It lasts {lasts:.1f} h of the {checked.case.setup.conditions.target_hours:g} h "
            f"wanted.{cold}"
        )
    return "Nothing is asked to run."


def _loses_on_the_way(checked: Checked) -> str:
    """Which part of the path loses most, where the path loses more than the supply."""
    parts = sorted(checked.result.path, key=lambda p: -p.volts_drop)
    whole = sum(p.volts_drop for p in parts)
    source = checked.case.source
    drop = abs(source.hot_ohm + source.neutral_ohm) * max(checked.now.amps)
    return (
        f" {parts[0].name} alone loses {parts[0].volts_drop:.0f} V."
        if parts and whole > drop and parts[0].volts_drop >= 1.0
        else ""
    )


def why_words(checked: Checked, finding: Finding) -> str:
    """The rule that makes the verdict, where it is not the weakest margin's own."""
    result = checked.result
    rules = [w for w in result.why if w.verdict == result.verdict]
    if (
        result.verdict == HOLDS
        or not rules
        or any(
            w.check == finding.check
            and w.where == finding.where
            and "times in 100" not in w.sentence
            for w in rules
        )
    ):
        return ""
    return f" {rules[0].sentence[:1].upper()}{rules[0].sentence[1:]}."


def say(checked: Checked, remedy: Cure | None, *, looked: bool = True) -> Weakest:
    """The weakest link with its sentence and the nearest remedy in words; ``looked`` if one was
    looked for.
    """
    finding = next((f for f in checked.findings), None)
    result = checked.result
    if finding is None or not result.solver["converged"]:
        return Weakest(
            "sustain",
            "supply",
            f"No verdict: {result.solver['reason']}. Check the supply's figures and the loads.",
        )
    decides = deciding(checked, finding)
    words = (
        start_words(checked, finding, decides)
        if finding.check == "start"
        else other_words(checked, finding, decides)
    )
    words += why_words(checked, finding)
    together = checked.together
    if result.verdict != FAILS and together is not None and not together.passes:
        words += (
            " If all motors start in the same moment they do not make it: start them one by "
            f"one ({how_often(together.per_night or 0.0)})."
        )
    found = Weakest(
        finding.check,
        finding.where,
        words,
        decides=tuple(checked.case.demands[at].load.id for at in decides),
    )
    if remedy is not None:
        end = "it holds" if remedy.verdict == HOLDS else "it just holds"
        advice = f"{remedy.what} and {end} with {percent(remedy.iron_margin)} of iron left."
        return replace(
            found, sentence=f"{words} {advice}", remedy=advice, remedy_margin=remedy.iron_margin
        )
    if result.verdict == FAILS and looked:
        return replace(found, sentence=f"{words} No single change here makes it hold.")
    return found
