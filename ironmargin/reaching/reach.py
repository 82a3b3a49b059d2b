"""How far a setup holds: the margin over two figures, and the limits of each that people ask about.

Every point of the map is the very check of the setup with its figures put in, so that the map and a
single check never differ. The lines where it turns thin, and where it fails, run between the points
by straight line. A limit is walked to from where the setup stands and bisected.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from ironmargin.errors import Fault, SetupError
from ironmargin.limits.ledger import HOLDS, THIN
from ironmargin.reaching.axes import MAX_POINTS, NAMED, Axis, put, span_of
from ironmargin.reaching.where_words import where_words
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.tables import FOOT_M, fahrenheit
from ironmargin.verdict.check import Checked, examine_unless_fails

REACH_FORMAT = "iron-margin/reach"
COARSE = 4
"""Every so manieth point comes first, for a first picture."""
WALK = 10
"""Steps from where a setup stands to the end of a figure's range."""
RELATIVE = 0.01
OF_LIMITS = {HOLDS: (HOLDS,), "passes": (HOLDS, THIN)}
"""Verdicts that count as still holding, and as not yet failing."""


@record
class Point:
    """A check at one point: verdict, margin, and the check and place that give first.

    ``verdict`` is ``none`` where the figures do not make a setup. ``by_check``, ``by_where`` are
    what makes the verdict, where that is another rule than the smallest margin's.
    """

    verdict: str
    margin: float
    check: str
    where: str
    by_check: str = ""
    by_where: str = ""


@record
class Edge:
    """How far a figure may go one way: the last value, and what gives first beyond; None at the end
    of its range.
    """

    value: float
    check: str | None = None
    where: str | None = None


@record
class Limit:
    """How far a figure may go: down and up, until it no longer holds and until it fails."""

    field: str
    unit: str
    now: float
    verdict: str
    holds_low: Edge | None
    holds_high: Edge | None
    passes_low: Edge | None
    passes_high: Edge | None


@record
class Reach:
    """The map and the limits of a setup; ``points[y][x]``."""

    setup: Setup
    x: Axis
    y: Axis
    points: tuple[tuple[Point, ...], ...]
    limits: tuple[Limit, ...]


NOWHERE = Point("none", -1.0, "", "")


def point_of(checked: Checked) -> Point:
    """What a map keeps of a check.

    Args:
        checked: a verdict with its case.

    Returns:
        Verdict, margin [1] and what gives first.
    """
    result = checked.result
    weakest = result.weakest
    first = next((w for w in result.why if w.verdict == result.verdict), None)
    # Thin by its chance alone, or by an early breaker: then that is what gives first.
    finding = next(iter(checked.findings), None)
    by_rule = first is not None and finding is not None and checked.verdict_of(finding) == HOLDS
    check, where = (
        (first.check, first.where) if first and by_rule else (weakest.check, weakest.where)
    )
    return Point(result.verdict, result.iron_margin, weakest.check, weakest.where, check, where)


def at(setup: Setup, *figures: tuple[str, float]) -> Point:
    """The check of a setup with figures put in; a point of verdict ``none`` where they break a
    rule.

    Args:
        setup: supply, path, rig and rules of the question.
        *figures: fields with their values.

    Returns:
        Verdict, margin [1] and what gives first.
    """
    try:
        for field, value in figures:
            setup = put(setup, field, value)
    except SetupError:
        return NOWHERE
    return point_of(examine_unless_fails(setup))


def order_of(
    columns: int, rows: int, first: tuple[int, int] | None = None
) -> Iterator[tuple[int, int]]:
    """Points of a map, coarse ones first, and among equals the nearest to ``first``: (row,
    column).

    Args:
        columns: of the map.
        rows: of the map.
        first: row and column to begin with; the middle where None.

    Yields:
        Each point once.
    """
    middle = first or (rows // 2, columns // 2)

    def key(place: tuple[int, int]) -> tuple[bool, int]:
        row, column = place
        return bool(row % COARSE or column % COARSE), abs(row - middle[0]) + abs(column - middle[1])

    yield from sorted(((r, c) for r in range(rows) for c in range(columns)), key=key)


def reach(
    setup: Setup,
    x: Axis,
    y: Axis,
    *,
    limits: bool = True,
    keep: Callable[[int, int, Point], None] | None = None,
) -> Reach:
    """The map of a setup over two figures, and its limits.

    Args:
        setup: supply, path, rig and rules of the question.
        x: figure along the map.
        y: figure up the map.
        limits: look for where it turns, too.
        keep: told of each point as it is found: row, column, point.

    Returns:
        Margin and verdict at each point, and the limits.

    Raises:
        SetupError: the map has too many points.
    """
    count = len(x.values) * len(y.values)
    if count > MAX_POINTS:
        rule = f"must have at most {MAX_POINTS:,} points in all; at some 5 ms each these are"
        raise SetupError(
            [Fault("x, y", "points", f"{rule} {count * 0.005 / 3600:.1f} h (got {count:,})")]
        )
    found: dict[tuple[int, int], Point] = {}
    for row, column in order_of(len(x.values), len(y.values)):
        here = at(setup, (x.field, x.values[column]), (y.field, y.values[row]))
        found[row, column] = here
        if keep:
            keep(row, column, here)
    points = tuple(
        tuple(found[row, column] for column in range(len(x.values))) for row in range(len(y.values))
    )
    return Reach(setup, x, y, points, limits_of(setup) if limits else ())


def most_telling(
    setup: Setup, spans: Mapping[str, tuple[float, float]]
) -> tuple[tuple[str, bool], ...]:
    """Figures by how much the answer hangs on them, the most first; each with whether the verdict
    turns over its span.

    Each is put at both ends: one at which the verdict turns comes before one that only moves the
    margin, and what moves it more before what moves it less.

    Args:
        setup: supply, path, rig and rules of the question.
        spans: lowest and highest of each figure, by its field.

    Returns:
        Field, and whether the verdict turns.
    """

    def weight(field: str) -> tuple[bool, float]:
        ends = [at(setup, (field, value)) for value in spans[field]]
        verdicts = {end.verdict for end in ends} - {NOWHERE.verdict}
        return len(verdicts) > 1, abs(ends[1].margin - ends[0].margin)

    weights = {field: weight(field) for field in spans}
    ranked = sorted(spans, key=weights.__getitem__, reverse=True)
    return tuple((field, weights[field][0]) for field in ranked)


def limits_of(setup: Setup, fields: tuple[str, ...] = tuple(NAMED)) -> tuple[Limit, ...]:
    """The limits of every figure a setup has.

    Args:
        setup: supply, path, rig and rules of the question.
        fields: that are asked for.

    Returns:
        One for each figure the setup has.
    """
    now = point_of(examine_unless_fails(setup))
    found = []
    for field in fields:
        value = NAMED[field].read(setup)
        if value is not None:
            found.append(_limit(setup, field, value, now))
    return tuple(found)


def up_to_words(setup: Setup) -> str:
    """Up to what heat and height a setup holds (or does not fail), in both units; empty where it
    fails as it stands.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The words.
    """
    said, places = [], where_words(setup)
    for limit in limits_of(setup, ("outdoor_c", "altitude_m")):
        edge = limit.holds_high or limit.passes_high
        if edge is None:
            return ""
        verb = "holds" if limit.holds_high else "does not fail"
        c = limit.field == "outdoor_c"
        other = fahrenheit(edge.value) if c else edge.value / FOOT_M
        figure = f"{other:,.0f} {'°F' if c else 'ft'} ({edge.value:,.0f} {limit.unit})"
        where = places.get(edge.where, edge.where) if edge.where else None
        end = f", then {where} gives first" if where else ", the end of what was looked at"
        said.append(f"{verb} up to {figure}{end}")
    words = "; ".join(said)
    return f"{words[:1].upper()}{words[1:]}." if words else ""


def _limit(setup: Setup, field: str, now: float, here: Point) -> Limit:
    named = NAMED[field]
    known = {now: here}

    def look(value: float) -> Point:
        if value not in known:
            known[value] = at(setup, (field, value))
        return known[value]

    edges, (low, high) = {}, span_of(setup, field)
    for name, counts in OF_LIMITS.items():
        for side, end in (("low", low), ("high", high)):
            edges[f"{name}_{side}"] = _edge(look, now, end, named.step, counts)
    return Limit(field, named.unit, now, here.verdict, **edges)


def _edge(
    look: Callable[[float], Point], now: float, end: float, step: float, counts: tuple[str, ...]
) -> Edge | None:
    """The last value from ``now`` towards ``end`` whose verdict still counts; None where not even
    ``now`` does.
    """
    if look(now).verdict not in counts:
        return None
    inside, outside = now, None
    for n in range(1, WALK + 1):
        value = now + (end - now) * (n / WALK) ** 2  # closer together near where it stands
        if look(value).verdict not in counts:
            outside = value
            break
        inside = value
    if outside is None:
        return Edge(end)
    while abs(outside - inside) > max(step, RELATIVE * abs(inside)):
        middle = 0.5 * (inside + outside)
        inside, outside = (middle, outside) if look(middle).verdict in counts else (inside, middle)
    beyond = look(outside)
    return Edge(inside, beyond.by_check, beyond.by_where)


def line_between(found: Reach, level: float) -> list[tuple[float, float]]:
    """Where the margin passes a level, on the edges of the map's cells: (x, y) by straight line.

    Args:
        found: a map.
        level: of the margin [1].

    Returns:
        Places on its axes, in their units.
    """
    xs, ys, points = found.x.values, found.y.values, found.points
    crossed = []
    for row, line in enumerate(points):
        for column, here in enumerate(line):
            for r, c in ((row, column + 1), (row + 1, column)):
                if r >= len(ys) or c >= len(xs):
                    continue
                there = points[r][c]
                if "none" in (here.verdict, there.verdict):
                    continue
                a, b = here.margin - level, there.margin - level
                if (a < 0) == (b < 0):
                    continue
                share = a / (a - b)
                crossed.append(
                    (xs[column] + share * (xs[c] - xs[column]), ys[row] + share * (ys[r] - ys[row]))
                )
    return crossed
