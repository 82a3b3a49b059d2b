"""Step lists: what to do with one's hands, in order, with the gates that must be passed.

The lists stand in :mod:`ironmargin.practice.lists` as data; here they are chosen and filled in for
a setup. A gate that is not passed stops the list; an open ground, reversed polarity or a way back
into the street ends it: "stop, licensed help".
"""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import replace

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.limits.ledger import FAILS
from ironmargin.planning.first_fix import first_fix
from ironmargin.practice.facts import READING_SHARE, Facts, StartFacts, facts_of
from ironmargin.practice.lines import EACH_START, GUARD_WAIT, Line
from ironmargin.practice.lists import LISTS, TITLES
from ironmargin.practice.lists.tripped import tripped_facts
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.verdict.sentences import say

STEPS_FORMAT = "iron-margin/steps"
PURPOSES = tuple(LISTS)
START, TRIPPED = "start", "tripped"
UNMEASURED = "not measured"
"""What is read at a gate that is passed without an instrument; one that ends the list is not."""
STOPPED = "Stop here: switch off, unplug, and get licensed help. Do not go on with this list."
MAX_READ = 1e6
"""No instrument shows more."""
SEEN_S = 0.05
"""A light that is on for less is not seen [s]."""
TURN_S = 15.0
"""Wait between loads that take turns [s]: by then the first has settled (common practice)."""


@record
class Gate:
    """A reading that must be in range before the hands go on.

    ``low`` and ``high`` in ``unit``; or ``words``: the one answer that passes. ``ends`` where a
    wrong one ends the whole list; ``must`` where nobody goes on without a reading.
    """

    reading: str
    unit: str = ""
    low: float | None = None
    high: float | None = None
    words: str = ""
    if_not: str = ""
    ends: bool = False
    must: bool = False

    @property
    def may_skip(self) -> bool:
        """Whether the hands may go on unmeasured."""
        return not (self.ends or self.must)

    @property
    def asks(self) -> str:
        """What passes, in words."""
        if self.words:
            return f"{self.reading}: {self.words}"
        if self.low is not None and self.high is not None:
            return f"{self.reading}: {self.low:g} to {self.high:g} {self.unit}"
        if self.high is not None:
            return f"{self.reading}: at most {self.high:g} {self.unit}"
        return f"{self.reading}: at least {self.low or 0.0:g} {self.unit}"


@record
class Step:
    """One step, filled in for a setup."""

    id: str
    text: str
    why: str
    other_way: str = ""
    expect: str = ""
    caution: str = ""
    wait_s: float = 0.0
    tools: tuple[str, ...] = ()
    gate: Gate | None = None


@record
class Passed:
    """What a reading at a gate says: whether the hands may go on, and in words why."""

    passes: bool
    ends: bool
    sentence: str


def pass_gate(gate: Gate, reading: object) -> Passed:
    """Judge a reading at a gate.

    Args:
        gate: what is asked for.
        reading: what was read, in its unit.

    Returns:
        Whether it passes, and what to do if not.

    Raises:
        SetupError: a number was asked for and none was given.
    """
    if isinstance(reading, str) and reading.strip().lower() == UNMEASURED and gate.may_skip:
        return Passed(
            True, False, f"Not measured, so nothing here warns you. {gate.if_not}".strip()
        )
    if gate.words:
        right = isinstance(reading, str) and reading.strip().lower() == gate.words.lower()
        if right:
            return Passed(True, False, f"{gate.reading}: {gate.words}. Go on.")
        return Passed(False, gate.ends, f"{gate.if_not} {STOPPED if gate.ends else ''}".strip())
    value = math.nan
    if isinstance(reading, int | float) and not isinstance(reading, bool):
        value = float(reading)
    elif isinstance(reading, str):
        with suppress(ValueError):
            value = float(reading.strip().replace(",", "."))
    if not abs(value) <= MAX_READ:
        got = str(reading)[:30]
        rule = f'must be a number in {gate.unit} (got "{got}")'
        raise SetupError([Fault("reading", "number", rule)])
    fine = (gate.low is None or value >= gate.low) and (gate.high is None or value <= gate.high)
    if fine:
        return Passed(True, False, f"{value:g} {gate.unit}: in range. Go on.")
    says = f"{value:g} {gate.unit} is out of range ({gate.asks}). {gate.if_not}"
    return Passed(False, gate.ends, f"{says} {STOPPED if gate.ends else ''}".strip())


def applies(line: Line, facts: Facts) -> bool:
    """Whether a line is one of this setup's: all it needs, none of what rules it out.

    Args:
        line: of a list.
        facts: of the setup.

    Returns:
        Whether it is.
    """
    return facts.is_.issuperset(line.needs) and not facts.is_.intersection(line.without)


def steps_of(setup: Setup, purpose: str, facts: Facts | None = None) -> tuple[Step, ...]:
    """The steps of one purpose for a setup.

    Args:
        setup: supply, path, rig and rules of the question.
        purpose: one of :data:`PURPOSES`.
        facts: of the setup, where they are known.

    Returns:
        The steps, each with its reason, caution and gate.

    Raises:
        SetupError: no such purpose.
    """
    if purpose not in LISTS:
        rule = f"must be one of {', '.join(PURPOSES)}"
        raise SetupError([Fault("for", "choice", f'{rule} (got "{purpose[:40]}")')])
    facts = facts or facts_of(setup)
    if purpose == START and facts.checked.result.verdict == FAILS:
        return _no_start(facts)
    if purpose == TRIPPED:
        more, figures = tripped_facts(facts)
        facts = replace(facts, is_=facts.is_ | more, figures=facts.figures | figures)
    found: list[Step] = []
    for line in LISTS[purpose]:
        if not applies(line, facts):
            continue
        if line.id == EACH_START:
            for turn, start in enumerate(facts.starts):
                found += _each_start(line, facts, start, turn)
        else:
            found.append(_filled(line, facts, facts.figures, line.id))
    return _each_caution_once(found)


def _each_caution_once(steps: list[Step]) -> tuple[Step, ...]:
    """The steps with each caution at the first of those it belongs to."""
    said: set[str] = set()
    found = []
    for step in steps:
        found.append(replace(step, caution="") if step.caution in said else step)
        said.add(step.caution)
    return tuple(found)


def _no_start(facts: Facts) -> tuple[Step, ...]:
    """What stands instead of the start of a setup that fails: stop, why, and the first fix with its
    own start.
    """
    sentence = say(facts.checked, None, looked=False).sentence
    stop = Step("stop", "Do not start this as it is.", sentence)
    remedy, _ = first_fix(facts.checked)
    if remedy is None:
        return (stop,)
    fix = Step("first-fix", f"{remedy.what}. Then start like this:", "With that change it holds.")
    return (stop, fix, *steps_of(remedy.setup, START))


def _filled(line: Line, facts: Facts, figures: Document, ident: str) -> Step:
    gate = None
    if line.gate is not None:
        low, high = (
            figures[x] if isinstance(x, str) else x for x in (line.gate.low, line.gate.high)
        )
        gate = Gate(
            line.gate.reading.format(**figures),
            line.gate.unit,
            None if low is None else round(float(low), 1),
            None if high is None else round(float(high), 1),
            line.gate.words,
            line.gate.if_not.format(**figures),
            line.gate.ends,
            line.gate.must,
        )
    return Step(
        ident,
        line.text.format(**figures),
        line.why.format(**figures),
        line.other_way.format(**figures),
        line.expect.format(**figures),
        line.caution.format(**figures),
        float(figures["delay_s"]) if line.wait_s == GUARD_WAIT else line.wait_s,
        line.tools,
        gate,
    )


def _each_start(line: Line, facts: Facts, start: StartFacts, turn: int) -> list[Step]:
    """One start by hand: fan first where there is one, then what the meter should show."""
    band = READING_SHARE
    figures = facts.figures | {
        "load": start.name,
        "peak": f"{start.peak_a:.0f} A",
        "dip": f"{start.lowest_v:.0f} V",
        "settled_a": start.settled_a,
        "settled_low": start.settled_a * (1 - band),
        "settled_high": start.settled_a * (1 + band),
        "how": "fan, let it settle, low cool, let it settle, then high"
        if start.cools
        else "by itself, nothing else in the same moment",
        "delay": f"{start.delay_s:.0f} s",
    }
    ident = f"{EACH_START}-{start.ident}"
    if start.outcome != "starts":
        fails = Line(
            ident,
            "Leave {load} off.",
            f"By these figures it {words_of(start.outcome)}. Look at what would help first.",
        )
        return [_filled(fails, facts, figures, ident)]
    found = [_filled(line, facts, figures, ident)]
    if facts.is_ >= {"carries", "inverter-set"}:
        red = (
            f"the red overload light for about {start.red_s:.1f} s; if it stays red, stop"
            if start.red_s >= SEEN_S
            else "no red overload light; if it stays red, stop"
        )
        found[0] = replace(found[0], expect=f"{found[0].expect}, {red}")
    if turn:
        found[0] = replace(found[0], wait_s=max(found[0].wait_s, TURN_S))
    return found


def words_of(outcome: str) -> str:
    """An outcome as a verb.

    Args:
        outcome: a start's.

    Returns:
        A verb.
    """
    return {
        "stalls": "stalls",
        "trips": "trips",
        "volts-stay-low": "leaves the volts too low",
        "lets-go": "makes other loads drop out",
    }.get(outcome, "does not start")


def steps_json(setup: Setup, purpose: str, steps: tuple[Step, ...]) -> Document:
    """The JSON object of a step list.

    Args:
        setup: supply, path, rig and rules of the question.
        purpose: one of :data:`PURPOSES`.
        steps: of that purpose.

    Returns:
        The JSON object.
    """
    out = []
    for step in steps:
        one: Document = {"id": step.id, "text": step.text, "why": step.why}
        if step.gate is not None:
            gate = step.gate
            one["gate"] = {
                k: v
                for k, v in {
                    "reading": gate.reading,
                    "unit": gate.unit,
                    "low": gate.low,
                    "high": gate.high,
                    "words": gate.words,
                    "if_not": gate.if_not,
                    "ends": gate.ends,
                    "must": gate.must,
                }.items()
                if v not in (None, "")
            }
        for name in ("other_way", "expect", "caution"):
            if getattr(step, name):
                one[name] = getattr(step, name)
        if step.wait_s:
            one["wait_s"] = step.wait_s
        if step.tools:
            one["tools"] = list(step.tools)
        out.append(one)
    return {
        "format": STEPS_FORMAT,
        "version": 1,
        "for": purpose,
        "setup": setup.name,
        "stops": STOPPED,
        "steps": out,
    }


def steps_words(setup: Setup, purpose: str, steps: tuple[Step, ...]) -> str:
    """A step list in lines for the terminal.

    Args:
        setup: supply, path, rig and rules of the question.
        purpose: one of :data:`PURPOSES`.
        steps: of that purpose.

    Returns:
        The lines.
    """
    lines = [f"{TITLES[purpose]}: {setup.name}"]
    for number, step in enumerate(steps, 1):
        if step.caution:
            lines.append(f"    ! {step.caution}")
        wait = f" (wait {step.wait_s:.0f} s)" if step.wait_s else ""
        lines.append(f"{number:>3} {step.text}{wait}")
        if step.other_way:
            lines.append(f"    or: {step.other_way}")
        if step.expect:
            lines.append(f"    expect {step.expect}")
        if step.gate is not None:
            lines.append(f"    gate: {step.gate.asks}; else {step.gate.if_not}")
    lines.append("An estimate, not an approval. Local code and licensed practice come first.")
    return "\n".join(lines)
