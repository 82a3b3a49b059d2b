"""Amps of each load with its share of the limit, for the rail: one after another as HTML, since a
change sends all of them and a template a load would cost more than the check of a small rig.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict

from django.utils.safestring import SafeString

from ironmargin.document import Document
from web.setups.form import Form
from web.verdicts.drawings.rail import Draws, Rail

GROUND = '<path class="share-ground" d="M0 0H100V4H0Z"/>'


def draws_of(form: Form, rail: Rail | Document | None) -> list[tuple[SafeString, SafeString]]:
    """What stands in each load's row, and the same as it is put in place of what stood there."""
    loads = rail["loads"] if isinstance(rail, Mapping) else getattr(rail, "loads", {})
    return [
        (_draw(n, loads.get(ident), runs, ""), _draw(n, loads.get(ident), runs, SWAP))
        for n, (ident, runs) in enumerate(form.wanted_loads(), 1)
    ]


SWAP = ' hx-swap-oob="true"'


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
