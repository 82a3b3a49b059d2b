"""What a log has told of a rig and a supply: samples of their uncertain figures, kept with them.

A row of samples is one rig (or supply) that fits what was read; each number is the logarithm of a
factor on the figure as it stands in the file, or a standard normal draw for what has no figure.
The chance of a start takes their mean and their covariance in place of the plain spreads. Rows of a
rig and of a supply that were drawn together belong together, row by row.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ironmargin.document import Document
from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.setup.loads import Load, Rotating
from ironmargin.setup.model import Rig, Setup
from ironmargin.setup.supply import Supply

KEY = "learned"
ROWS = 64
MAX_UNKNOWNS, MAX_LOG = 60, 3.0
SAME = 0.002
"""Figures that differ by less are the same: files keep four digits."""
LRA, STIFF, HELD = "lra", "stiff", "held"
SUPPLY, SHORT = "supply", "short"
MODEL, PEAKS, DIPS, TIMES = "model", "peaks", "dips", "times"
OF_SUPPLY = (SUPPLY, SHORT)
MIN_VAR = 1e-8
NO_FIGURE = (SHORT, MODEL, PEAKS, DIPS, TIMES)
"""Drawn as standard normals or errors of the model itself: no field of a file holds them."""
WHATS = (LRA, STIFF, HELD, SUPPLY, *NO_FIGURE)

Name = tuple[str, str]
"""What is unknown, and the load it is about; empty for none."""
RIDGES = (0.0, 1e-9, 1e-6, 1e-3)
"""What is added to the diagonal of a covariance that is singular, over its mean, until it has a
root."""
MIN_LEFT = 0.01
"""Share of a variance that samples never explain away: they are a few dozen."""


@record
class Known:
    """What is known of some unknowns together.

    Attributes:
        names: of the columns.
        mean: of each (k).
        cov: their covariance (k, k).
    """

    names: tuple[Name, ...]
    mean: Real
    cov: Real

    def of(self, wanted: list[Name]) -> Known:
        """The same of some of them, in their order; those not known are left out.

        Args:
            wanted: names, in the order asked for.

        Returns:
            What is known of those.
        """
        at = [self.names.index(name) for name in wanted if name in self.names]
        names = tuple(self.names[n] for n in at)
        return Known(names, self.mean[at], self.cov[np.ix_(at, at)])


NOTHING = Known((), np.zeros(0), np.zeros((0, 0)))


def figure_of(setup: Setup, name: Name) -> float | None:
    """The figure in the file that a sample is a factor on; None where none stands there.

    Args:
        setup: supply, path, rig and rules of the question.
        name: what, and the load's id.

    Returns:
        The figure, in its unit; or None.
    """
    what, ident = name
    if what in NO_FIGURE:
        return None
    if what == SUPPLY:
        return supply_figure(setup.supply)
    load = next((x for x in setup.rig.loads if x.id == ident), None)
    return _load_figure(load, what) if isinstance(load, Rotating) else None


def supply_figure(supply: Supply) -> float | None:
    """The figure that says how strong a supply is: starting watts, surge watts, or ohms.

    Args:
        supply: of any kind.

    Returns:
        Watts [W], or ohms of a post [ohm]; None where it is not known.
    """
    if supply.carrying:
        return sum(unit.starting_w for unit in supply.carrying)
    if supply.battery is not None:
        return supply.battery.surge_w
    return supply.post.source_ohm if supply.post is not None else None


def _load_figure(load: Load, what: str) -> float | None:
    if what == HELD:
        soft = getattr(load, "soft_start", None)
        return None if soft is None else soft.peak_a if soft.peak_a is not None else soft.fraction
    found: float | None = getattr(load, {LRA: "lra_a", STIFF: "breakaway"}[what], None)
    return found


def _same(one: object, other: float | None) -> bool:
    if one is None or other is None:
        return one is None and other is None
    if isinstance(one, bool) or not isinstance(one, int | float):
        return False
    return abs(one - other) <= SAME * max(abs(other), 1e-9)


def _table(held: object) -> tuple[list[Document], Real, str] | None:
    """What was kept with a rig or a supply: its unknowns, its rows, and whom they were drawn with;
    None where it is not what was kept. The file may come from anywhere.
    """
    stored = held.get(KEY) if isinstance(held, dict) else None
    if not isinstance(stored, dict):
        return None
    unknowns, rows = stored.get("unknowns"), stored.get("rows")
    if not isinstance(unknowns, list) or not isinstance(rows, list):
        return None
    if not 0 < len(unknowns) <= MAX_UNKNOWNS or len(rows) != ROWS:
        return None
    if not all(isinstance(u, dict) and isinstance(u.get("what"), str) for u in unknowns):
        return None
    for row in rows:
        if not isinstance(row, list) or len(row) != len(unknowns):
            return None
        if not all(type(x) in (int, float) and abs(x) <= MAX_LOG for x in row):
            return None
    return unknowns, np.array(rows, dtype=float), str(stored.get("with", ""))


def _columns(setup: Setup) -> Iterator[tuple[Name, Real, str]]:
    """What was learned of a setup's rig and supply, each with whom it was drawn with; a figure that
    was changed by hand since is as uncertain as before, and left out.
    """
    for x, of_supply in ((setup.rig.x, False), (setup.supply.x, True)):
        found = _table(x)
        if found is None:
            continue
        unknowns, rows, drawn_with = found
        for at, unknown in enumerate(unknowns):
            name = (str(unknown["what"]), str(unknown.get("load", "")))
            if name[0] not in WHATS or (name[0] in OF_SUPPLY) != of_supply:
                continue
            value = unknown.get("value")
            if name[0] in NO_FIGURE or _same(value, figure_of(setup, name)):
                yield name, rows[:, at], drawn_with or f"{of_supply}"


def known_table(setup: Setup) -> dict[Name, Real]:
    """The samples of each unknown a log told of (ROWS).

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Logarithms of factors (ROWS,), by name.
    """
    return {name: column for name, column, _ in _columns(setup)}


def known_rig(rig: Rig) -> dict[Name, Real]:
    """The samples of a rig's own unknowns, of figures that stand as they were learned (ROWS).

    Args:
        rig: the rig: legs, circuits, loads.

    Returns:
        Logarithms of factors (ROWS,), by name.
    """
    found = _table(rig.x)
    if found is None:
        return {}
    unknowns, rows, _ = found
    held: dict[Name, Real] = {}
    for at, unknown in enumerate(unknowns):
        what, ident = str(unknown["what"]), str(unknown.get("load", ""))
        load = next((x for x in rig.loads if x.id == ident), None)
        if what not in (LRA, STIFF, HELD) or not isinstance(load, Rotating):
            continue
        if _same(unknown.get("value"), _load_figure(load, what)):
            held[what, ident] = rows[:, at]
    return held


def known_of(setup: Setup) -> Known:
    """What was learned of a setup's rig and supply, as mean and covariance.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Names, mean and covariance.
    """
    if not setup.rig.x and not setup.supply.x:
        return NOTHING
    held = {name: (column, group) for name, column, group in _columns(setup)}
    if not held:
        return NOTHING
    table = np.column_stack([column for column, _ in held.values()])
    groups = [group for _, group in held.values()]
    cov = np.atleast_2d(np.cov(table, rowvar=False))
    together = np.array([[a == b for b in groups] for a in groups])
    cov = np.where(together, cov, 0.0) + MIN_VAR * np.eye(len(held))
    return Known(tuple(held), table.mean(axis=0), cov)


def stored(
    setup: Setup, names: list[Name], rows: Real, drawn_with: str
) -> tuple[Document, Document]:
    """What is kept with the rig and with the supply of what was learned.

    Args:
        setup: with its corrected figures.
        names: of the samples, in the order of the columns.
        rows: samples of the names, (ROWS, names).
        drawn_with: stamp of the samples that belong together.

    Returns:
        JSON objects of the rig's and the supply's.
    """

    def one(of_supply: bool) -> Document:
        at = [n for n, (what, _) in enumerate(names) if (what in OF_SUPPLY) == of_supply]
        unknowns = []
        for n in at:
            what, load = names[n]
            unknown: Document = {"what": what} | ({"load": load} if load else {})
            value = figure_of(setup, names[n])
            unknowns.append(unknown | ({"value": value} if value is not None else {}))
        held = np.clip(rows[:, at], -MAX_LOG, MAX_LOG).round(4)
        return {"with": drawn_with, "unknowns": unknowns, "rows": held.tolist()} if at else {}

    return one(False), one(True)


def root_of(cov: Real) -> Real:
    """A lower triangle whose square is a covariance, however near to singular it is.

    Args:
        cov: covariance (k, k).

    Returns:
        The triangle (k, k).
    """
    scale = max(float(np.trace(cov)) / max(len(cov), 1), 1e-12)
    for more in RIDGES:
        try:
            return np.asarray(np.linalg.cholesky(cov + more * scale * np.eye(len(cov))), float)
        except np.linalg.LinAlgError:
            continue
    return np.diag(np.sqrt(np.maximum(np.diag(cov), 0.0)))


@record
class SourceStrength:
    """How strong supply and path are against what a start needs, given the other samples.

    Attributes:
        middle: logarithm of its middle.
        slopes: what it moves with each sample (names).
        sd: what is left [1].
    """

    middle: float
    slopes: Real
    sd: float

    def over(self, needed: Real, z: Real) -> Real:
        """The strength needed over the middle of what there is, line by line [1].

        Args:
            needed: strength each line needs [1].
            z: standard samples of what was learned (lines, unknowns).

        Returns:
            A figure a line.
        """
        if not self.middle and not self.slopes.any():
            return needed
        found: Real = needed * np.exp(-(self.middle + z @ self.slopes))
        return found


def source_strength_of(
    known: Known, wanted: list[Name], limit_sd: float, model_sd: float
) -> SourceStrength:
    """The strength, given some unknowns; what was not learned is as uncertain as ever.

    Args:
        known: what logs told of.
        wanted: the unknowns that are drawn, each known; slopes are over their standard samples.
        limit_sd: of the supply's limit, where no log told of it [1].
        model_sd: of our model, where no log told of it [1].

    Returns:
        Middle, slopes and what scatters beside them, of the logarithm [1].
    """
    plain = math.hypot(limit_sd, model_sd)
    parts = [(SUPPLY, ""), (MODEL, "")]
    learned = [name for name in parts if name in known.names]
    if not learned:
        return SourceStrength(0.0, np.zeros(len(wanted)), plain)
    at = [known.names.index(name) for name in learned]
    sums = np.ones(len(learned))
    spare = (limit_sd**2 if (SUPPLY, "") not in learned else 0.0) + (
        model_sd**2 if (MODEL, "") not in learned else 0.0
    )
    middle = float(known.mean[at] @ sums)
    var = float(sums @ known.cov[np.ix_(at, at)] @ sums)
    if not wanted:
        return SourceStrength(middle, np.zeros(0), math.sqrt(var + spare))
    own = [known.names.index(name) for name in wanted]
    root = root_of(known.cov[np.ix_(own, own)])
    across = sums @ known.cov[np.ix_(at, own)]
    slopes = np.asarray(np.linalg.lstsq(root, across, rcond=None)[0], float)
    left = max(var - float(slopes @ slopes), MIN_LEFT * var) + spare
    return SourceStrength(middle, slopes, math.sqrt(left))


def learned_before(setup: Setup) -> tuple[set[str], Document]:
    """Entries a setup has learned from already, and how sure its figures are.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Stamps of entries, and standard deviations by field.
    """
    held = setup.x.get(KEY)
    held = held if isinstance(held, dict) else {}
    entries, figures = held.get("entries"), held.get("figures")
    known = {x for x in entries if isinstance(x, str)} if isinstance(entries, list) else set()
    return known, dict(figures) if isinstance(figures, dict) else {}
