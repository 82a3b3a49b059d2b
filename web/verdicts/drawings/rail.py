"""What the rail shows beside a setup's form: what the supply gives here, amps and watts of each
load with its share of the limit, the total of each leg. Figures in, places out.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ironmargin.loads.demand import L1L2, Demand
from ironmargin.planning.panel import every_demand
from ironmargin.verdict.check import Checked
from web.verdicts.drawings.legs import Column, Legs, draw_legs

DRAWN_AMPS = 20.0
"""A whole share bar where a leg has no limit [A]."""


@dataclass(frozen=True)
class Draws:
    """One load: settled amps of a leg [A], watts [W], and its share of the leg's limit [1]."""

    amps: float
    watts: float
    share: float


@dataclass(frozen=True)
class Rail:
    """The figures of the rail; ``loads`` by the id of each load."""

    figure: str
    here: str
    loads: dict[str, Draws]
    totals: list[Column]


def _figure(checked: Checked) -> str:
    """What is said of the supply first: amps of a post, watts of everything else."""
    source = checked.case.source
    rated = [b.rating_a for b in source.breakers]
    if source.kind == "shore" and rated:
        return f"{min(rated):g} A"
    if not math.isfinite(source.continuous_a):
        return ""
    return f"{source.conductors * source.continuous_a * source.leg_v:,.0f} W"


def _here(checked: Checked) -> str:
    """What the supply gives here, in a line."""
    source = checked.case.source
    said = [f"{source.leg_v:.0f} V at no load"]
    ohm = abs(source.hot_ohm + source.neutral_ohm)
    if source.kind == "shore":
        said.append(f"{ohm:.2f} Ω")
    limits = [c.limit_a for c in draw_legs(checked).columns if c.limit_a]
    if limits:
        said.append(f"{min(limits):.3g} A for hours")
    if source.derate:
        said[0] = f"{source.derate[-1].starting_w:,.0f} W for seconds here"
    return ", ".join(said)


def _draws(demand: Demand, whole_a: float) -> Draws:
    """A load's figures; its bar is as long as its share of so many amps [A]."""
    amps = sum(d.amps for d in demand.steady)
    watts = sum(d.va.real for d in demand.steady)
    return Draws(amps, watts, min(amps / whole_a, 1.0))


def rail_of(checked: Checked) -> Rail:
    """The figures of a checked setup."""
    legs = draw_legs(checked)
    loads = {d.load.id: _draws(d, _limit(legs, d.leg)) for d in every_demand(checked.case)}
    return Rail(_figure(checked), _here(checked), loads, legs.columns)


def _limit(legs: Legs, leg: int) -> float:
    """What a leg may carry for hours [A]."""
    here = legs.columns if leg == L1L2 else [legs.columns[min(leg, len(legs.columns) - 1)]]
    return min((c.limit_a for c in here if c.limit_a), default=DRAWN_AMPS)
