"""The path as a one-line diagram: source, parts, legs and panel, each part with its rating and its
neck. Figures in, places out.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ironmargin.limits.ledger import state_of
from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.verdict.check import Checked
from web.design.drawing import half_thickness
from web.design.fields import known_kind
from web.supplies.words import short_name

MOST_PARTS = 30
PITCH, FIRST, MIDDLE, MOST_HALF = 128.0, 150.0, 74.0, 15.0
LEG_GAP = 13.0


@dataclass(frozen=True)
class PartPlace:
    """A part on the drawing."""

    at: int
    kind: str
    name: str
    rating: str
    reading: str
    margin: float | None
    state: str
    x: float
    half: float
    weakest: bool
    bare: bool
    neck: str


def neck(x: float, h: float, fails: bool) -> str:
    """A part as a length of bar, as thick as its margin; broken where it fails."""
    m = MIDDLE
    if fails:
        return (
            f"M{x - 46:.1f} {m - 9}H{x - 8:.1f}L{x - 3:.1f} {m - 3}L{x - 9:.1f} "
            f"{m + 2}L{x - 5:.1f} {m + 9}H{x - 46:.1f}Z"
            f"M{x + 46:.1f} {m - 9}H{x + 8:.1f}L{x + 4:.1f} {m - 3}L{x + 9:.1f} "
            f"{m + 3}L{x + 5:.1f} {m + 9}H{x + 46:.1f}Z"
        )
    return (
        f"M{x - 46:.1f} {m - MOST_HALF}C{x - 30:.1f} {m - MOST_HALF} {x - 30:.1f} "
        f"{m - h:.1f} {x - 16:.1f} {m - h:.1f}H{x + 16:.1f}"
        f"C{x + 30:.1f} {m - h:.1f} {x + 30:.1f} {m - MOST_HALF} {x + 46:.1f} "
        f"{m - MOST_HALF}V{m + MOST_HALF}"
        f"C{x + 30:.1f} {m + MOST_HALF} {x + 30:.1f} {m + h:.1f} {x + 16:.1f} "
        f"{m + h:.1f}H{x - 16:.1f}"
        f"C{x - 30:.1f} {m + h:.1f} {x - 30:.1f} {m + MOST_HALF} {x - 46:.1f} {m + MOST_HALF}Z"
    )


@dataclass(frozen=True)
class PathDrawing:
    """The drawing: its width, its parts, the gaps between them, and the legs at the panel."""

    width: float
    source: str
    rig: str
    parts: tuple[PartPlace, ...]
    gaps: tuple[float, ...]
    legs: tuple[tuple[str, float, str], ...]
    panel_x: float
    tied_from: float | None


def _rating(item: dict[str, Any]) -> str:
    """A part's rating in words; what was typed and is no figure is not drawn."""
    for name, unit in (("rating_a", "A"), ("va", "VA"), ("awg", "AWG"), ("mm2", "mm²")):
        value = item.get(name)
        if isinstance(value, int | float) and not isinstance(value, bool):
            return f"{value:g} {unit}"
    return ""


def draw_path(document: dict[str, Any], checked: Checked | None) -> PathDrawing | None:
    """Draw the path of a document; margins and the weakest part only where it could be checked."""
    hookup = document.get("hookup", [])
    if not isinstance(hookup, list) or len(hookup) > MOST_PARTS:
        return None
    if any(known_kind(HOOKUP_KINDS, x) is None for x in hookup):
        return None
    margins = {p.item: p for p in checked.result.path} if checked else {}
    thin = checked.case.setup.rules.thin_below if checked else 0.15
    weakest = min(margins.values(), key=lambda p: p.margin).item if margins else None
    parts = []
    for at, item in enumerate(hookup):
        row = margins.get(at)
        state = state_of(row.margin, thin) if row else "none"
        half = half_thickness(
            row.margin if row and row.margin >= 0 else 0.5 if row is None else 0.0, MOST_HALF
        )
        name = str(item.get("name") or str(item["kind"]).replace("-", " "))
        reading = f"{row.amps:.1f} A" if row else ""
        parts.append(
            PartPlace(
                at,
                item["kind"],
                name,
                _rating(item),
                reading,
                row.margin if row else None,
                state,
                FIRST + PITCH * (at + 0.5),
                half,
                at == weakest,
                bool(row and row.unprotected),
                neck(FIRST + PITCH * (at + 0.5), half, state == "fails"),
            )
        )
    panel_x = FIRST + PITCH * max(len(hookup), 1) + 30
    legs: list[tuple[str, float, str]] = []
    tied_from = None
    if checked:
        up = checked.case.feed.upstream
        amps = {name: f"{row.a:.1f} A" for name, row in checked.result.legs.items()}
        names = [n for n in ("L1", "L2") if n in amps]
        legs = [
            (n, MIDDLE + (k - (len(names) - 1) / 2) * 2 * LEG_GAP, amps[n])
            for k, n in enumerate(names)
        ]
        if up.tied:
            tied_from = next((p.x for p in parts if p.kind in ("adapter", "splitter")), FIRST)
    supply = document.get("supply")
    source = short_name(supply) if checked and isinstance(supply, dict) else "supply"
    rig = document.get("rig")
    return PathDrawing(
        panel_x + 118,
        source,
        str(rig.get("name", "rig")) if isinstance(rig, dict) else "rig",
        tuple(parts),
        tuple(FIRST + PITCH * n for n in range(len(hookup) + 1)),
        tuple(legs),
        panel_x,
        tied_from,
    )
