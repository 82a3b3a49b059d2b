"""What the starts of a log can tell of, and how far each may be off before it is read.

Of each load that was seen starting: its locked-rotor amps, how stiff its compressor is, and with a
soft starter the current it holds. Of the supply: how strong it is, and what its electronics hold in
the first second. Of the rig as a whole: by how much our own model is off, in the strength a start
needs and in peaks, dips and times; that is one figure a rig, not new with each reading. All are
logarithms of factors but the first second, a standard normal draw.
"""

from __future__ import annotations

import math

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.setup.model import Setup
from ironmargin.starting.chance import Z_RIG
from ironmargin.starting.known import (
    DIPS,
    HELD,
    LRA,
    MODEL,
    PEAKS,
    SHORT,
    STIFF,
    SUPPLY,
    TIMES,
    Known,
    Name,
    known_of,
    root_of,
)
from ironmargin.starting.samples import LIMIT_SD, MODEL_SD, OWN_STIFFNESS_SD, lra_sd, shares_below
from ironmargin.starting.scenario import StartScenario
from ironmargin.tables import spread_of

FREEDOM = 4.0
HEAVY_SHARE = Z_RIG / 2.1318
"""Student's t of four degrees that holds nine in ten where a normal law of the same table does: its
tails let good readings overturn a plate that is of another unit.
"""
HEAVY_TOP, NORMAL_TOP = math.log(0.375), -0.5 * math.log(2.0 * math.pi)
"""Logarithms of the density in the middle, of that t and of a normal draw."""
OF_MODEL = (
    (MODEL, MODEL_SD),
    (PEAKS, spread_of("model of a peak", "rig")),
    (DIPS, spread_of("model of a dip", "rig")),
    (TIMES, spread_of("model of the time to speed", "rig")),
)
POST_SD = spread_of("post impedance", "typical")


@record
class Unknown:
    """One figure to be learned.

    Attributes:
        what, load: as in :mod:`ironmargin.starting.known`.
        sd: of its logarithm.
        heavy: a plate or a guess that may be wholly wrong, once in a while.
    """

    what: str
    load: str
    sd: float
    heavy: bool = False

    @property
    def name(self) -> Name:
        return self.what, self.load


def unknowns_of(setup: Setup, scenarios: list[tuple[StartScenario, int, bool]]) -> list[Unknown]:
    """What some starts can tell of.

    Args:
        setup: as it was before the log.
        scenarios: each with the row that starts, and whether it was read on another supply.

    Returns:
        In the order they are drawn in.
    """
    found: dict[Name, Unknown] = {}

    def tell(what: str, load: str, sd: float, heavy: bool = False) -> None:
        found.setdefault((what, load), Unknown(what, load, sd, heavy))

    for scenario, row, _ in scenarios:
        demand = scenario.case.demands[scenario.case.rows[row]]
        load, ident = demand.load, demand.load.id
        tell(LRA, ident, lra_sd(demand), True)
        if scenario.model.motors.soft_a[row] > 0.0:
            # A soft starter has learned its own compressor: only the day's stiffness is left.
            soft = getattr(load, "soft_start", None)
            given = soft is not None and (soft.peak_a is not None or soft.fraction is not None)
            origin = "measured" if given and load.provenance == "measured" else "typical"
            tell(HELD, ident, spread_of("soft-start current", origin), True)
        else:
            tell(STIFF, ident, OWN_STIFFNESS_SD)
    own = [scenario for scenario, _, other in scenarios if not other]
    if own:
        post = setup.supply.post is setup.supply
        tell(SUPPLY, "", POST_SD if post else LIMIT_SD, True)
        if any(scenario.case.source.short_factor > 1.0 for scenario in own):
            tell(SHORT, "", 1.0)
    for what, sd in OF_MODEL:
        tell(what, "", sd)
    return list(found.values())


def heavy_quantile(z: Real) -> Real:
    """Student's t of four degrees for standard normal samples (closed form, W. Shaw, J. Comput.
    Finance 9, 2006).

    Args:
        z: standard normal, any shape.

    Returns:
        Of the same shape.
    """
    share = np.clip(shares_below(z), 1e-12, 1.0 - 1e-12)
    inside = np.clip(4.0 * share * (1.0 - share), 0.0, 1.0)
    root = np.sqrt(inside)
    q = np.cos(np.arccos(root) / 3.0) / root
    return np.asarray(np.sign(share - 0.5) * 2.0 * np.sqrt(np.maximum(q - 1.0, 0.0)), float)


@record
class Prior:
    """What is believed of some unknowns before a log: apart from each other, but for those an
    earlier log told of.
    """

    unknowns: tuple[Unknown, ...]
    before: Known
    at: tuple[int, ...]
    """Columns an earlier log told of, in the order of ``before``."""

    @property
    def sds(self) -> Real:
        """Standard deviation of each."""
        sds = np.array([u.sd for u in self.unknowns])
        sds[list(self.at)] = np.sqrt(np.diag(self.before.cov))
        return sds

    def draw(self, z: Real) -> Real:
        """Draws from standard normal ones (samples, unknowns).

        Args:
            z: (samples, unknowns).

        Returns:
            Logarithms of factors (samples, unknowns).
        """
        logs = z * np.array([u.sd for u in self.unknowns])
        for n, unknown in enumerate(self.unknowns):
            if unknown.heavy and n not in self.at:
                logs[:, n] = HEAVY_SHARE * unknown.sd * heavy_quantile(z[:, n])
        if self.at:
            at = list(self.at)
            logs[:, at] = self.before.mean + z[:, at] @ root_of(self.before.cov).T
        found: Real = logs
        return found

    def density(self, logs: Real) -> Real:
        """Logarithm of the density of samples.

        Args:
            logs: samples (samples, unknowns).

        Returns:
            (samples,).
        """
        total: Real = np.zeros(len(logs))
        for n, unknown in enumerate(self.unknowns):
            if n in self.at:
                continue
            wide = unknown.sd * (HEAVY_SHARE if unknown.heavy else 1.0)
            z = logs[:, n] / wide
            if unknown.heavy:
                total += HEAVY_TOP - 0.5 * (FREEDOM + 1.0) * np.log1p(z * z / FREEDOM)
            else:
                total += NORMAL_TOP - 0.5 * z * z
            total -= math.log(wide)
        if self.at:
            root = root_of(self.before.cov)
            far = logs[:, list(self.at)] - self.before.mean
            off = np.asarray(np.linalg.solve(root, far.T), dtype=np.float64)
            total -= 0.5 * np.sum(off * off, axis=0)
            total += len(self.at) * NORMAL_TOP - float(np.sum(np.log(np.diag(root))))
        return total


def prior_of(setup: Setup, unknowns: list[Unknown]) -> Prior:
    """What is believed of these, with what earlier logs left in rig and supply.

    Args:
        setup: as it was before the log.
        unknowns: what is drawn.

    Returns:
        What they are drawn from.
    """
    before = known_of(setup).of([u.name for u in unknowns])
    names = [u.name for u in unknowns]
    return Prior(tuple(unknowns), before, tuple(names.index(name) for name in before.names))


def column(unknowns: tuple[Unknown, ...] | list[Unknown], logs: Real, name: Name) -> Real:
    """The samples of one unknown; of one that is not drawn, nothing off.

    Args:
        unknowns: what is drawn.
        logs: samples of them (samples, unknowns).
        name: the unknown's.

    Returns:
        (samples,).
    """
    names = [u.name for u in unknowns]
    found: Real = logs[:, names.index(name)] if name in names else np.zeros(len(logs))
    return found


def share_of_post(scenario: StartScenario) -> float:
    """How much of the impedance before a panel is the post's own [1].

    Args:
        scenario: a start.

    Returns:
        The share [1].
    """
    source, up = scenario.case.source, scenario.case.feed.upstream
    own = abs(source.hot_ohm + source.neutral_ohm)
    return min(own / max(abs(up.z11), own, 1e-9), 1.0) if math.isfinite(own) else 1.0
