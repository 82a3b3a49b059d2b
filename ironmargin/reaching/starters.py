"""Start gear side by side: each motor that starts across the line, with a kit and with soft
starters of several peaks and ramps, on the supply that is there.

A soft starter is described by what it holds the motor's current to, as a share of locked-rotor
amps, and by the length of its ramp. A low peak asks little of the supply and may not turn the
rotor; a long ramp asks for longer (common practice, no source: makers give peaks of 30 to 50 % of
locked-rotor amps and ramps of a third of a second to a second and more).
"""

from __future__ import annotations

import math

from ironmargin.document import Document
from ironmargin.limits.ledger import FAILS, state_of
from ironmargin.per_cent import PLACES, percent
from ironmargin.record import record
from ironmargin.setup.changed import with_load
from ironmargin.setup.loads import Rotating, SoftStart
from ironmargin.setup.model import Setup
from ironmargin.setup.rules import check_rules
from ironmargin.setup.ways import running_loads
from ironmargin.verdict.check import Checked, examine

ACROSS_THE_LINE = ("run-capacitor", "start-capacitor", "hard-start", "soft-start")
PEAKS = (0.3, 0.4, 0.5)
"""Peak of the motor's current over locked-rotor amps [1]."""
RAMPS_S = (0.3, 0.6, 1.2)
"""Length of the ramp [s]."""
MAX_MOTORS = 3


@record
class Starter:
    """One kind of start gear on one motor, judged.

    Attributes:
        load: its id.
        gear: ``as it is``, ``hard-start`` or ``soft-start``.
        fraction, ramp_s: of a soft starter, its peak over locked-rotor amps [1] and its ramp [s].
        peak_a: most the supply carries in this motor's start [A].
        seconds: until up to speed [s], infinite if never.
        outcome, start_margin, state: of this start.
        verdict, margin: of all.
    """

    load: str
    name: str
    gear: str
    fraction: float | None
    ramp_s: float | None
    peak_a: float
    seconds: float
    outcome: str
    start_margin: float
    state: str
    verdict: str
    margin: float

    @property
    def words(self) -> str:
        """The gear in words."""
        if self.fraction is None or self.ramp_s is None:
            return {"hard-start": "hard-start kit"}.get(self.gear, self.gear)
        return f"soft starter, {percent(self.fraction)} of locked-rotor amps, {self.ramp_s:g} s"


def starters(setup: Setup) -> tuple[Starter, ...]:
    """Every motor that runs in the setup and starts across the line or through a soft starter, as
    it is and with each kind of gear; at most three motors, the largest first.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        A row for each motor and kind of gear.
    """
    motors = [
        x
        for x in running_loads(setup)
        if isinstance(x, Rotating) and x.start_gear in ACROSS_THE_LINE
    ]
    found: list[Starter] = []
    before = examine(setup, quick=True) if motors else None
    started = {r.load: r.peak_a for r in before.result.starts} if before else {}
    motors.sort(key=lambda x: -started.get(x.id, 0.0))
    for motor in motors[:MAX_MOTORS]:
        assert before is not None
        found.append(_judged(before, motor, "as it is", None))
        if motor.start_gear in ("run-capacitor", "start-capacitor") and motor.takes_kit:
            kit = with_load(setup, motor.id, start="hard-start")
            found.append(_judged(examine(kit, quick=True), motor, "hard-start", None))
        for fraction in PEAKS:
            for ramp_s in RAMPS_S:
                gear = SoftStart(fraction=fraction, ramp_s=ramp_s)
                changed = with_load(setup, motor.id, start="soft-start", soft_start=gear)
                if not check_rules(changed):
                    quick = examine(changed, quick=True)
                    found.append(_judged(quick, motor, "soft-start", gear))
    return tuple(found)


def _judged(checked: Checked, motor: Rotating, gear: str, soft: SoftStart | None) -> Starter:
    start = next((s for s in checked.result.starts if s.load == motor.id), None)
    seconds = start.seconds if start is not None else None
    passes = start is not None and start.outcome == "starts"
    return Starter(
        motor.id,
        motor.name,
        gear,
        soft.fraction if soft else None,
        soft.ramp_s if soft else None,
        start.peak_a if start else 0.0,
        seconds if seconds is not None else math.inf,
        start.outcome if start else "",
        start.margin if start else 0.0,
        state_of(start.margin, checked.setup.rules.thin_below) if start and passes else FAILS,
        checked.result.verdict,
        checked.result.iron_margin,
    )


def starters_json(found: tuple[Starter, ...]) -> list[Document]:
    """The rows of a comparison of start gear; what does not apply is left out.

    Args:
        found: the rows.

    Returns:
        Objects that JSON can hold.
    """

    def row(s: Starter) -> Document:
        out: Document = {
            "load": s.load,
            "gear": s.gear.replace(" ", "-"),
            "peak_a": round(s.peak_a, 1),
            "outcome": s.outcome,
            "start": s.state,
            "start_margin": round(s.start_margin, PLACES),
            "verdict": s.verdict,
            "iron_margin": round(s.margin, PLACES),
        }
        if s.fraction is not None:
            out |= {"fraction": s.fraction, "ramp_s": s.ramp_s}
        return out | ({"seconds": round(s.seconds, 2)} if math.isfinite(s.seconds) else {})

    return [row(s) for s in found]


def starters_words(found: tuple[Starter, ...]) -> list[str]:
    """The same in lines for the terminal, the motor named once.

    Args:
        found: the rows.

    Returns:
        A line each.
    """
    lines, named = [], ""
    for s in found:
        if s.name != named:
            named = s.name
            lines.append(f"start gear for {named}:")
        time = f"{s.seconds:.2f} s" if math.isfinite(s.seconds) else s.outcome
        lines.append(
            f"{percent(s.start_margin):>6} {s.verdict:<5} {s.peak_a:5.1f} A {time:<8} {s.words}"
        )
    return lines
