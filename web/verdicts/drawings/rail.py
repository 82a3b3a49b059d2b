"""What the rail shows beside a setup's form: what the supply gives here, amps and watts of each
load with its share of the limit, the total of each leg. Figures in, places out; the loads' rows as
HTML, since a change sends all of them and a template a load would cost more than the check of a
small rig.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass

from django.utils.safestring import SafeString

from ironmargin.document import Document
from ironmargin.loads.demand import L1L2, Demand
from ironmargin.planning.panel import every_demand
from ironmargin.verdict.check import Checked
from web.setups.form import Form
from web.verdicts.drawings.legs import Column, Legs, draw_legs

DRAWN_AMPS = 20.0
"""A whole share bar where a leg has no limit [A]."""
GROUND = '<path class="share-ground" d="M0 0H100V4H0Z"/>'
SWAP = ' hx-swap-oob="true"'


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


def draws_of(form: Form, rail: Rail | Document | None) -> list[tuple[SafeString, SafeString]]:
    """What stands in each load's row, and the same as it is put in place of what stood there."""
    loads = rail["loads"] if isinstance(rail, Mapping) else getattr(rail, "loads", {})
    return [
        (_draw(n, loads.get(ident), runs, ""), _draw(n, loads.get(ident), runs, SWAP))
        for n, (ident, runs) in enumerate(form.wanted_loads(), 1)
    ]


def _draw(number: int, draws: Draws | Document | None, runs: bool, swap: str) -> SafeString:
    """Figures and numbers alone: nothing of it was typed."""
    soft = "" if runs else " text-soft"
    head = f'<span class="rail-draw figure{soft}" id="draw-{number}"{swap}>'
    if draws is None:
        return SafeString(f"{head}</span>")
    one = asdict(draws) if isinstance(draws, Draws) else draws
    share = f'<path class="share" d="M0 0H{100 * one["share"]:.1f}V4H0Z"/>' if runs else ""
    return SafeString(
        f'{head}<span class="in-amps" title="{one["watts"]:,.0f} W">{one["amps"]:.1f}</span>'
        f'<span class="in-watts" title="{one["amps"]:.1f} A">{one["watts"]:,.0f}</span><svg '
        f'viewBox="0 0 100 4" preserveAspectRatio="none" aria-hidden="true">{GROUND}{share}'
        "</svg></span>"
    )
