"""How far it holds, as JSON, CSV and lines."""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.limits.ledger import FAILS, HOLDS, THIN
from ironmargin.per_cent import PLACES
from ironmargin.reaching.reach import REACH_FORMAT, Edge, Limit, Reach, line_between
from ironmargin.reaching.where_words import where_words
from ironmargin.spreadsheet import csv_text


def _edge_json(edge: Edge | None) -> Document | None:
    if edge is None:
        return None
    out: Document = {"value": round(edge.value, 3)}
    if edge.check is not None:
        out |= {"beyond": {"check": edge.check, "where": edge.where}}
    return out


def limit_json(limit: Limit) -> Document:
    """The JSON object of a limit; what does not apply is left out.

    Args:
        limit: of a figure.

    Returns:
        An object that JSON can hold.
    """
    out: Document = {"unit": limit.unit, "now": round(limit.now, 3), "verdict": limit.verdict}
    sides = {
        "holds": {"low": limit.holds_low, "high": limit.holds_high},
        "passes": {"low": limit.passes_low, "high": limit.passes_high},
    }
    for name, both in sides.items():
        said = {side: _edge_json(edge) for side, edge in both.items() if edge is not None}
        if said:
            out[name] = said
    return out


def reach_json(found: Reach) -> Document:
    """The JSON object of a reach.

    Args:
        found: the map.

    Returns:
        The JSON object.
    """
    thin = found.setup.rules.thin_below
    return {
        "format": REACH_FORMAT,
        "version": 1,
        "x": {"field": found.x.field, "values": list(found.x.values)},
        "y": {"field": found.y.field, "values": list(found.y.values)},
        "margin": [[round(p.margin, PLACES) for p in row] for row in found.points],
        "verdict": [[p.verdict for p in row] for row in found.points],
        "gives_first": [
            [{"check": p.check, "where": p.where} for p in row] for row in found.points
        ],
        "lines": {
            "thin": [[round(a, 4), round(b, 4)] for a, b in line_between(found, thin)],
            "fails": [[round(a, 4), round(b, 4)] for a, b in line_between(found, 0.0)],
        },
        "limits": {limit.field: limit_json(limit) for limit in found.limits},
    }


def reach_csv(found: Reach) -> str:
    """The map as CSV, a row a point.

    Args:
        found: the map.

    Returns:
        The rows, with a heading.
    """
    rows: list[tuple[object, ...]] = [
        (found.x.field, found.y.field, "verdict", "iron_margin", "check", "where")
    ]
    for y, row in zip(found.y.values, found.points, strict=True):
        for x, p in zip(found.x.values, row, strict=True):
            shown = (float(f"{v:.6g}") for v in (x, y))
            rows.append((*shown, p.verdict, round(p.margin, 4), p.check, p.where))
    return csv_text(rows)


WORDS = {
    "outdoor_c": "{:.0f} °C",
    "altitude_m": "{:.0f} m",
    "base_load_w": "{:.0f} W more",
    "supply_strength": "{:.2f} times this supply",
    "cord_m": "{:.0f} m of cord",
    "shore_v": "{:.0f} V at the post",
}


def limit_words(limit: Limit, places: dict[str, str]) -> list[str]:
    """A limit as lines: up to where it holds, and down to where, and what gives first beyond.

    Args:
        limit: of a figure.
        places: what places are called (:func:`ironmargin.reaching.where_words.where_words`).

    Returns:
        A line each.
    """
    said = []
    pairs = (
        ("holds", "down to", limit.holds_low),
        ("holds", "up to", limit.holds_high),
        ("does not fail", "down to", limit.passes_low),
        ("does not fail", "up to", limit.passes_high),
    )
    for verb, way, edge in pairs:
        if edge is not None and edge.check is not None:
            figure = WORDS[limit.field].format(edge.value)
            where = places.get(edge.where or "", edge.where)
            said.append(f"{verb} {way} {figure}, then {where} gives first ({edge.check})")
    return said


def reach_words(found: Reach) -> str:
    """A reach in lines for the terminal: the map in letters, and the limits.

    Args:
        found: the map.

    Returns:
        The lines.
    """
    mark = {HOLDS: "#", THIN: "+", FAILS: ".", "none": " "}
    lines = [f"{found.setup.name}: # holds, + thin, . fails"]
    for y, row in zip(reversed(found.y.values), reversed(found.points), strict=True):
        lines.append(f"{y:>10.4g} {''.join(mark[p.verdict] for p in row)}")
    low, high = found.x.values[0], found.x.values[-1]
    lines.append(f"{found.y.field} over {found.x.field} {low:g} to {high:g}")
    places = where_words(found.setup)
    for limit in found.limits:
        lines += limit_words(limit, places)
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
