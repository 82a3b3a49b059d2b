"""The path as a small one-line diagram: the parts from the supply to the panel, each as thick as
its margin. Figures in, places out.
"""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.limits.ledger import state_of
from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.verdict.check import Checked
from web.design.drawing import FULL_MARGIN, half_thickness
from web.design.fields import known_kind

MAX_PARTS = 30
LEFT, RIGHT, MIDDLE, MAX_HALF = 22.0, 262.0, 22.0, 10.0
LABEL_Y, LETTER = 58.0, 6.3
"""Where a part's name stands under it, and about how wide a letter is."""
NAMED = 4
"""So many parts are all named; of more only the weakest."""


@dataclass(frozen=True)
class PartPlace:
    """A part on the drawing: ``block`` its shape, ``label`` its name as far as there is room."""

    at: int
    kind: str
    name: str
    rating: str
    reading: str
    margin: float | None
    state: str
    x: float
    weakest: bool
    bare: bool
    block: str
    label: str
    label_y: float = LABEL_Y


def block(x: float, wide: float, h: float, fails: bool) -> str:
    """A part as a piece of the bar, as thick as its margin; broken where it fails."""
    m, w = MIDDLE, wide / 2
    if fails:
        return (
            f"M{x - w:.1f} {m - 7}H{x - 3:.1f}L{x:.1f} {m - 2}L{x - 5:.1f} {m + 2}"
            f"L{x - 2:.1f} {m + 7}H{x - w:.1f}Z"
            f"M{x + w:.1f} {m - 7}H{x + 4:.1f}L{x + 7:.1f} {m - 2}L{x + 2:.1f} {m + 2}"
            f"L{x + 5:.1f} {m + 7}H{x + w:.1f}Z"
        )
    return f"M{x - w:.1f} {m - h:.1f}H{x + w:.1f}V{m + h:.1f}H{x - w:.1f}Z"


@dataclass(frozen=True)
class PathDrawing:
    """The drawing: the parts from the supply to the panel."""

    parts: tuple[PartPlace, ...]


def _rating(item: Document) -> str:
    """A part's rating in words; what was typed and is no figure is not drawn."""
    for name, unit in (("rating_a", "A"), ("va", "VA"), ("awg", "AWG"), ("mm2", "mm²")):
        value = item.get(name)
        if isinstance(value, int | float) and not isinstance(value, bool):
            return f"{value:g} {unit}"
    return ""


def draw_path(document: Document, checked: Checked | None) -> PathDrawing | None:
    """Draw the path of a document; margins and the weakest part only where it could be checked."""
    hookup = document.get("hookup", [])
    if not isinstance(hookup, list) or len(hookup) > MAX_PARTS:
        return None
    if any(known_kind(HOOKUP_KINDS, x) is None for x in hookup):
        return None
    margins = {p.item: p for p in checked.result.path} if checked else {}
    thin = checked.case.setup.rules.thin_below if checked else 0.15
    weakest = min(margins.values(), key=lambda p: p.margin).item if margins else None
    pitch = (RIGHT - LEFT) / max(len(hookup), 1)
    parts = []
    for at, item in enumerate(hookup):
        row = margins.get(at)
        state = state_of(row.margin, thin) if row else "none"
        half = half_thickness(max(row.margin, 0.0) if row else FULL_MARGIN, MAX_HALF)
        name = str(item.get("name") or str(item["kind"]).replace("-", " "))
        x = LEFT + pitch * (at + 0.5)
        named = len(hookup) <= NAMED or at == weakest
        parts.append(
            PartPlace(
                at,
                item["kind"],
                name,
                _rating(item),
                f"{row.amps:.1f} A" if row else "",
                row.margin if row else None,
                state,
                x,
                at == weakest,
                bool(row and row.unprotected),
                block(x, 0.62 * pitch, half, state == "fails"),
                _cut(name, pitch if len(hookup) <= NAMED else 2 * pitch) if named else "",
            )
        )
    return PathDrawing(tuple(parts))


def _cut(name: str, room: float) -> str:
    """A name as far as there is room for it."""
    maximum = max(int(room / LETTER), 3)
    return name if len(name) <= maximum else name[: maximum - 1].rstrip() + "…"
