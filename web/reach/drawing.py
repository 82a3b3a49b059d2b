"""The map of a reach and the bars of a sizing as plain figures for the templates. No physics
here.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from ironmargin.document import Document
from web.design.drawing import STATE_SHAPES
from web.design.fields import EDGE
from web.setups.stations import Answer

LEFT, TOP, CELL_W, CELL_H = 76.0, 8.0, 16.0, 13.0
RIGHT, FOOT = 26.0, 40.0
UNITS = {"outdoor_c": "°C", "altitude_m": "m", "base_load_w": "W", "cord_m": "m", "shore_v": "V"}
TITLES = {
    "outdoor_c": "Outdoor heat",
    "altitude_m": "Height above the sea",
    "base_load_w": "Base load beside it",
    "supply_strength": "Strength of the supply",
    "cord_m": "Length of the longest cord",
    "shore_v": "Volts at the post",
}
AXES = {
    "outdoor_c": (0.0, 50.0),
    "altitude_m": (0.0, 3000.0),
    "base_load_w": (0.0, 2000.0),
    "supply_strength": (0.5, 2.0),
    "cord_m": (5.0, 105.0),
    "shore_v": (100.0, 132.0),
}
"""What may be an axis here, and over which span."""
EURO_VOLTS = (195.0, 255.0)
COLUMNS, ROWS = 21, 16
LABEL_EVERY = 5
MIXED = "figures that make no setup"


def span(field: str, service: str) -> tuple[float, float]:
    """From where to where an axis is drawn; a post's volts go with its service."""
    return EURO_VOLTS if field == "shore_v" and service == "230" else AXES[field]


def shown(field: str, value: float, units: str) -> str:
    """A figure of an axis in a person's units, rounded to what can be read."""
    unit = UNITS.get(field, "")
    if units == "us" and unit in EDGE:
        value, unit = EDGE[unit][1](value), EDGE[unit][0]
    if field == "supply_strength":
        return f"{value:.2f} ×"
    return f"{float(f'{value:.3g}'):,.0f} {unit}"


@dataclass(frozen=True)
class Cell:
    """One point of the map: where it is drawn, its state, and its words."""

    row: int
    column: int
    x: float
    y: float
    state: str
    words: str
    here: bool
    margin: float = 0.0


@dataclass(frozen=True)
class Map:
    """The map, ready to draw; ``walls`` are the lines between states, ``names`` a word in each,
    ``column`` and ``row`` the point it stands at; ``day`` the lines of the day's coolest and
    hottest.
    """

    width: float
    height: float
    cells: list[Cell]
    walls: str
    names: list[tuple[float, float, str]]
    x_ticks: list[tuple[float, str]]
    y_ticks: list[tuple[float, str]]
    x_title: str
    y_title: str
    column: int
    row: int
    day: str = ""
    cell_w: float = CELL_W
    cell_h: float = CELL_H


def draw_map(
    answer: Document,
    names: dict[str, str],
    now: dict[str, float],
    units: str,
    day: tuple[float, ...] = (),
) -> Map:
    """The map of a search's answer.

    Args:
        names: what loads are called; now: where the setup stands on each axis; day:
        the day's coolest and hottest, to be drawn across an axis of heat [°C].
    """
    xs, ys = answer["x"]["values"], answer["y"]["values"]
    fx, fy = answer["x"]["field"], answer["y"]["field"]
    rows = len(ys)
    nearest = _nearest(xs, now.get(fx)), _nearest(ys, now.get(fy))
    states = answer["verdict"]
    cells = []
    for row in range(rows):
        for column in range(len(xs)):
            state, margin = states[row][column], answer["margin"][row][column]
            first = answer["gives_first"][row][column]
            place = f"{shown(fx, xs[column], units)}, {shown(fy, ys[row], units)}"
            said = f"{state}, {margin * 100:+.0f} %".replace("-", "−")
            where = names.get(first["where"], first["where"])
            words = (
                f"{place}: {said}; {where} gives first" if state != "none" else f"{place}: {MIXED}"
            )
            x, y = LEFT + column * CELL_W, TOP + (rows - 1 - row) * CELL_H
            cells.append(Cell(row, column, x, y, state, words, (column, row) == nearest, margin))
    return Map(
        LEFT + len(xs) * CELL_W + RIGHT,
        TOP + rows * CELL_H + FOOT,
        cells,
        _walls(states),
        _names(states),
        [
            (LEFT + (n + 0.5) * CELL_W, shown(fx, xs[n], units))
            for n in range(0, len(xs), LABEL_EVERY)
        ],
        [
            (TOP + (rows - 1 - n + 0.5) * CELL_H, shown(fy, ys[n], units))
            for n in range(0, rows, LABEL_EVERY)
        ],
        TITLES.get(fx, fx),
        TITLES.get(fy, fy),
        max(nearest[0], 0),
        max(nearest[1], 0),
        _day(day, fx, xs, fy, ys),
    )


def _day(day: tuple[float, ...], fx: str, xs: list[float], fy: str, ys: list[float]) -> str:
    """Lines at the day's temperatures, as SVG path data; none where heat is no axis."""
    out = []
    for value in day:
        if fx == "outdoor_c" and xs[0] <= value <= xs[-1]:
            at = LEFT + (0.5 + (value - xs[0]) / (xs[1] - xs[0])) * CELL_W
            out.append(f"M{at:.1f} {TOP:.0f}v{len(ys) * CELL_H:.0f}")
        elif fy == "outdoor_c" and ys[0] <= value <= ys[-1]:
            at = TOP + (len(ys) - 0.5 - (value - ys[0]) / (ys[1] - ys[0])) * CELL_H
            out.append(f"M{LEFT:.0f} {at:.1f}h{len(xs) * CELL_W:.0f}")
    return "".join(out)


def _nearest(values: list[float], to: float | None) -> int:
    if to is None:
        return -1
    return min(range(len(values)), key=lambda n: abs(values[n] - to))


def _walls(states: list[list[str]]) -> str:
    """The lines between cells of different states, as SVG path data."""
    rows, out = len(states), []
    for row, line in enumerate(states):
        y = TOP + (rows - 1 - row) * CELL_H
        for column, state in enumerate(line):
            x = LEFT + column * CELL_W
            if column + 1 < len(line) and line[column + 1] != state:
                out.append(f"M{x + CELL_W:.0f} {y:.0f}v{CELL_H:.0f}")
            if row + 1 < rows and states[row + 1][column] != state:
                out.append(f"M{x:.0f} {y:.0f}h{CELL_W:.0f}")
    return "".join(out)


def _names(states: list[list[str]]) -> list[tuple[float, float, str]]:
    """A word in the middle of each state's cells."""
    rows, out = len(states), []
    counts = Counter(state for line in states for state in line)
    for state in ("holds", "thin", "fails"):
        places = [(r, c) for r, line in enumerate(states) for c, s in enumerate(line) if s == state]
        if counts[state] < 6:
            continue
        mean = [sum(p[n] for p in places) / len(places) for n in (0, 1)]
        row, column = min(places, key=lambda p: (p[0] - mean[0]) ** 2 + (p[1] - mean[1]) ** 2)
        x, y = LEFT + (column + 0.5) * CELL_W, TOP + (rows - 1 - row + 0.5) * CELL_H
        out.append((x, y + 4, state))
    return out


def limit_sentences(limits: Document, names: dict[str, str], units: str) -> list[str]:
    """Every limit as a sentence: up to where it holds, and what gives first beyond."""
    out = []
    for field, limit in limits.items():
        for verb, key in (("Holds", "holds"), ("Does not fail", "passes")):
            sides = limit.get(key, {})
            for side, way in (("high", "up to"), ("low", "down to")):
                edge = sides.get(side)
                if not edge or "beyond" not in edge:
                    continue
                where = names.get(edge["beyond"]["where"], edge["beyond"]["where"])
                figure = shown(field, edge["value"], units)
                out.append(
                    f"{TITLES[field]}: {verb.lower()} {way} {figure}, then {where} gives first."
                )
    return out


def answer_of(found: Document, names: dict[str, str], units: str) -> Answer:
    """How far it holds, in a word and a sentence: up to what heat, or what the map says in all."""
    with_fix = (
        f" with this fix: {found['fix'][0].lower()}{found['fix'][1:]}" if found["fix"] else ""
    )
    states = {state for line in found["verdict"] for state in line} - {"none"}
    sentences = limit_sentences(found["limits"], names, units)
    for key, word, state in (("holds", "Holds", "holds"), ("passes", "Just holds", "thin")):
        edge = found["limits"].get("outdoor_c", {}).get(key, {}).get("high")
        if edge and "beyond" in edge:
            where = names.get(edge["beyond"]["where"], edge["beyond"]["where"])
            figure = shown("outdoor_c", edge["value"], units)
            said = (
                f"Beyond {figure}, {where} gives first{'; this is' + with_fix if with_fix else ''}."
            )
            return Answer(f"{word} up to {figure}", said, state)
    if states == {"fails"}:
        said = "Neither figure of the map makes it hold. The generator sizes below show what would."
        return Answer("Fails everywhere here", said, "fails")
    if states <= {"holds", "thin"}:
        return Answer("Holds everywhere here", f"At every point of the map{with_fix}.", "holds")
    said = sentences[0] if sentences else "The map shows where it holds and where it fails."
    lead = f"As it is, it fails. The map is{with_fix}. " if with_fix else ""
    return Answer("It depends", lead + said, "thin")


SIZES_WIDE, SIZES_HIGH = 300.0, 120.0


@dataclass(frozen=True)
class SizeDot:
    """One size on the picture of sizes: mass across, margin upwards."""

    x: float
    y: float
    state: str
    shape: str
    words: str


@dataclass(frozen=True)
class Sizes:
    """The picture of sizes; ``zero`` is where the margin is nought, ``max_kg`` the right edge."""

    dots: tuple[SizeDot, ...]
    zero: float
    max_kg: float


def draw_sizes(rows: list[Document]) -> Sizes | None:
    """Mass against margin of the sizes whose mass is known; None where there are fewer than two.

    Margins under -50 % and over 100 % are drawn at the edge.
    """
    known = [r for r in rows if r.get("mass_kg") is not None]
    if len(known) < 2:
        return None
    maximum = max(r["mass_kg"] for r in known) * 1.05

    def up(margin: float) -> float:
        return round(SIZES_HIGH * (1.0 - (min(max(margin, -0.5), 1.0) + 0.5) / 1.5), 1)

    dots = tuple(
        SizeDot(
            round(SIZES_WIDE * r["mass_kg"] / maximum, 1),
            up(r["iron_margin"]),
            r["verdict"],
            STATE_SHAPES[r["verdict"]],
            f"{r['name']}, {r['fuel']}, {r['aid_words']}: {r['verdict']}",
        )
        for r in known
    )
    return Sizes(dots, up(0.0), maximum)
