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
    beside = [d.load.name for d in checked.case.demands if d.load.id != load.id]
    others = f" with {listed(beside[:3])} as asked" if beside else ""
    how = "from its fan, low cool, then high" if isinstance(load, AirConditioner) else "by itself"
    peak, dip = start.peak_a, start.lowest_v
    if start.passes:
        after = (
            f"up to speed, a peak within a tenth of {peak:.0f} A and {dip:.0f} V: the verdict is "
            "right about this start",
            f"a peak over {peak * (1.0 + SURE):.0f} A, or under {dip * (1.0 - SURE):.0f} V: the "
            "rig is harder, or the supply softer, than was typed",
        )
    else:
        after = (
            f"it hums, or something opens: the verdict is right; leave {load.name} off here",
            "it starts all the same: its locked-rotor amps are less, or the supply is stronger, "
            "than was typed; write down the peak",
        )
    return Proof(
        f"Start {load.name} once, {how}{others}, and watch volts and the peak of an inrush clamp.",
        f"Hand on its thermostat. If it hums longer than {HUMS_S:.0f} s, or a lamp stays red, "
        "off; five minutes before it is tried again, and not a third time.",
        after,
        "start",
        load.id,
    )


def _of_volts(row: Row) -> Proof:
    return Proof(
        f"With everything asked for running half a minute, measure the volts at {_place(row)}.",
        "A meter with sound leads, in an outlet; the panel stays closed. Shed the largest load at "
        "once if motors labor.",
        (
            f"as computed, {row.limit.reading(row)}: the verdict is right",
            "better than that by a tenth of the drop: cord or supply is stronger than was typed; "
            "worse: a contact is bad, feel them",
        ),
        "supply",
    )


def _of_amps(checked: Checked, row: Row) -> Proof:
    allowed, now = float(row.allowed), max(float(a) for a in checked.now.amps)
    room = float(margin_of(now, row.allowed))
    if room < 0.0:
        after = (
            f"about {now:.0f} A: the verdict is right, {allowed:.0f} A is what it may carry",
            f"under {allowed:.0f} A: something is smaller than was typed; write it down",
        )
    else:
        after = (
            f"about {now:.0f} A while every compressor runs: the verdict is right",
            f"over {allowed:.0f} A: it does not hold for hours, whatever was typed",
        )
    return Proof(
        f"With everything asked for running half a minute, clamp one hot conductor at "
        f"{_place(row)}.",
        "Around one conductor, not the whole cord, where that can be done in safety: a line "
        "splitter, or the rig's own meter. The panel stays closed.",
        after,
        "run",
    )


def _place(row: Row) -> str:
    return row.name.removesuffix(", continuous").removesuffix(", running")
