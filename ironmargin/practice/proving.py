"""Prove it: the short try, with what is at hand, that says most about a verdict, done safely.

All of it common practice, no source.
"""

from __future__ import annotations

from ironmargin.limits.ledger import Row, margin_of
from ironmargin.listed import listed
from ironmargin.record import record
from ironmargin.setup.loads import AirConditioner
from ironmargin.starting.starts import Start
from ironmargin.verdict.check import Checked

SURE = 0.10
"""A reading so far from what was computed says that a figure of the setup is wrong [1]: clamps and
plates together are no better (common practice)."""
HUMS_S = 2.0
"""A motor that hums longer than this is not going to start [s] (common practice)."""


@record
class Proof:
    """A try of half a minute.

    Attributes:
        what: what to do.
        safe: how, so that nothing is hurt by it.
        settles: what each reading would mean.
        kind, load: the entry of the log that it makes, and of which load.
    """

    what: str
    safe: str
    settles: tuple[str, ...]
    kind: str
    load: str = ""


def proof_of(checked: Checked) -> Proof | None:
    """The try that says most about a verdict; None where nothing is asked to run, or nothing but a
    rule stands in its way.

    Args:
        checked: a check that keeps what pictures need.

    Returns:
        The try, or None.
    """
    first = next(iter(checked.findings), None)
    if first is None or not checked.case.demands:
        return None
    if isinstance(first.about, Start) and first.check == "start":
        return _of_start(checked, first.about)
    if first.check == "voltage" and first.unit == "V":
        return _of_volts(first)
    if first.check in ("sustain", "path") and first.unit == "A":
        return _of_amps(checked, first)
    return None


def _of_start(checked: Checked, start: Start) -> Proof:
    load = checked.case.demands[start.starters[0].demand].load
    concurrent = [d.load.name for d in checked.case.demands if d.load.id != load.id]
    others = f", with {listed(concurrent[:3])} on" if concurrent else ""
    how = "from its fan, low cool, then high" if isinstance(load, AirConditioner) else "by itself"
    peak, dip = start.peak_a, start.lowest_v
    if start.passes:
        after = (
            f"It comes up to speed within a tenth of {peak:.0f} A and {dip:.0f} V: the verdict is "
            "right about this start.",
            f"It peaks over {peak * (1.0 + SURE):.0f} A or dips under {dip * (1.0 - SURE):.0f} V: "
            "the rig is harder to start, or the supply weaker, than the setup says.",
        )
    else:
        after = (
            f"It hums, or something opens: the verdict is right. Leave {load.name} off here.",
            "It starts anyway: its locked-rotor amps are lower, or the supply is stronger, than "
            "the setup says. Write down the peak.",
        )
    return Proof(
        f"Start {load.name} once, {how}{others}. Watch the volts, and the peak on an inrush clamp.",
        f"Keep a hand on its thermostat. If it hums longer than {HUMS_S:.0f} s, or the overload "
        "light stays red, switch it off. Wait five minutes before you try again, and do not try a "
        "third time.",
        after,
        "start",
        load.id,
    )


def _of_volts(row: Row) -> Proof:
    return Proof(
        f"Run everything you want for half a minute, then measure the volts at {_place(row)}.",
        "Use a meter with sound leads, in an outlet, and leave the panel closed. If motors labor, "
        "switch the largest load off at once.",
        (
            f"As computed, {row.limit.reading(row)}: the verdict is right.",
            "A tenth of the drop better: the cord or the supply is stronger than the setup says. "
            "Worse: a contact is bad. Feel each one.",
        ),
        "supply",
    )


def _of_amps(checked: Checked, row: Row) -> Proof:
    allowed, now = float(row.allowed), max(float(a) for a in checked.now.amps)
    room = float(margin_of(now, row.allowed))
    if room < 0.0:
        after = (
            f"About {now:.0f} A: the verdict is right. It may carry {allowed:.0f} A.",
            f"Under {allowed:.0f} A: a load draws less than the setup says. Write it down.",
        )
    else:
        after = (
            f"About {now:.0f} A while every compressor runs: the verdict is right.",
            f"Over {allowed:.0f} A: it does not hold for hours, whatever the setup says.",
        )
    return Proof(
        f"Run everything you want for half a minute, then clamp one hot conductor at "
        f"{_place(row)}.",
        "Clamp one conductor, not the whole cord, where that is safe: at a line splitter, or read "
        "the rig's own meter. Leave the panel closed.",
        after,
        "run",
    )


def _place(row: Row) -> str:
    name = row.name.removesuffix(", continuous").removesuffix(", running")
    return f"the {name}" if name[:1].islower() else name
