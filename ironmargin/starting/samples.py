"""What is uncertain of a start, drawn: everything of rig and day but how strong the supply is.

How far each figure may be off stands in ``tables/uncertainty.csv``; where a log has told of the
rig, what it left (``starting.known``) takes its place.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache

import numpy as np

from ironmargin.document import Document
from ironmargin.electrics.network import Real
from ironmargin.loads.demand import Demand
from ironmargin.record import record
from ironmargin.starting.known import (
    NOTHING,
    SUPPLY,
    Known,
    Name,
    SourceStrength,
    root_of,
    source_strength_of,
)
from ironmargin.starting.points import normal
from ironmargin.starting.scenario import StartScenario, short_time
from ironmargin.tables import spread_of

LIMIT_SD = spread_of("supply limit", "plate")
MODEL_SD = spread_of("model of a start", "rig")
"""Two good models of the same motor differ by 10 to 12 %, twice this, in the supply it needs
(checked in tests/reference).
"""
VOLTS_SD = spread_of("line volts", "day")
LOCKOUT_SD = spread_of("overload lockout", "day")
OWN_STIFFNESS_SD = spread_of("breakaway torque", "unit")
BREAKAWAY_DAY_SD = spread_of("breakaway torque", "day")
"""Of the breakaway torque: the compressor's own, and the day's."""
MIN_FACTOR = 0.3
"""A plate's locked-rotor amps are never under this share of what is printed [1]."""
MIN_LOCKOUT = 0.05
"""A lockout never takes less than this share of its time [1]."""


@record
class Unknown:
    """One thing that is not known of a start: its kind (``volts``, ``lockout``, ``short``, ``lra``,
    ``stiff`` or ``day``), and the load and unit it is about.
    """

    kind: str
    load: str = ""
    unit: int = 0

    @property
    def field(self) -> str:
        """As the result format writes it. Nothing reads it back."""
        return f"{self.kind}/{self.load}"


OF_SUPPLY = (Unknown("volts"), Unknown("lockout"), Unknown("short"))


def share_below(z: float) -> float:
    """The standard normal distribution function.

    Args:
        z: where [standard deviations].

    Returns:
        Probability [1].
    """
    return 0.5 * math.erfc(-z / math.sqrt(2.0))


def shares_below(z: Real) -> Real:
    """The same of each.

    Args:
        z: where (n,) [standard deviations].

    Returns:
        Probabilities (n,) [1].
    """
    return np.array([share_below(x) for x in z.tolist()])


@record
class Samples:
    """The samples of a start scenario, one row a line: errors the engine takes, and the normal
    deviates behind them by name.

    Attributes:
        source_strength: how strong supply and path are, given the samples.
        learned: columns a log told of.
    """

    voc_factor: Real
    lockout: Real
    short: Real
    lra: Real
    breakaway: Real
    z: Real
    names: tuple[Unknown, ...]
    rig: tuple[bool, ...]
    source_strength: SourceStrength
    learned: tuple[int, ...] = ()

    def each(self) -> Iterator[Document]:
        """The engine's arguments, line by line.

        Yields:
            Factors of volts, lockout and short-time limit, and of each motor's rotor and
            stiffness [1].
        """
        for at in range(len(self.voc_factor)):
            yield {
                "voc_factor": float(self.voc_factor[at]),
                "lockout": float(self.lockout[at]),
                "short": float(self.short[at]),
                "lra": self.lra[at],
                "breakaway": self.breakaway[at],
            }


def lra_sd(demand: Demand) -> float:
    """Standard deviation of a motor's locked-rotor amps, by where they come from [1].

    Args:
        demand: what a load draws.

    Returns:
        Relative standard deviation [1].
    """
    typical = demand.plate is not None and demand.plate.lra_typical
    origin = "typical" if typical else demand.load.provenance
    pooled: float | None = getattr(demand.load, "lra_spread", None)
    if pooled is not None and origin == "typical" and getattr(demand.load, "lra_a", None):
        return pooled  # of the measured units behind a typical figure
    return spread_of("locked-rotor amps", origin)


@lru_cache(maxsize=1024)
def _unknown(kind: str, load: str, nth: int) -> Unknown:
    return Unknown(kind, load, nth)


def samples_of(
    scenario: StartScenario,
    lines: int,
    seed: int,
    shift: Real | float = 0.0,
    *,
    plain: bool = False,
) -> Samples:
    """Sobol points of every uncertain input but the strength, their middle moved by ``shift``: the
    same for the same seed.

    Args:
        scenario: the start.
        lines: how many samples.
        seed: of the points.
        shift: of their middle, in standard deviations.
        plain: as if no log had told of anything.

    Returns:
        The samples, with the names of what each column is.
    """
    rows = [r for r in range(scenario.motors) if scenario.model.motors.on[r]]
    starting = [r for r in rows if scenario.model.motors.starting[r]]

    def about(kind: str, row: int) -> Unknown:
        at = scenario.case.rows[row]
        return _unknown(kind, scenario.case.demands[at].load.id, row - scenario.case.rows.index(at))

    names = [
        *OF_SUPPLY,
        *(about("lra", r) for r in rows),
        *(about("stiff", r) for r in starting),
        *(about("day", r) for r in starting),
    ]
    rig = [
        False,
        False,
        True,
        *(True for _ in rows),
        *(True for _ in starting),
        *(False for _ in starting),
    ]
    z = normal(lines, len(names), seed) + shift
    lra, breakaway = (
        np.ones((lines, max(scenario.motors, 1))),
        np.ones((lines, max(scenario.motors, 1))),
    )
    own: dict[int, Real] = {}
    known = NOTHING if plain else _of_source_strength(scenario)
    learned = [at for at, name in enumerate(names) if _known_as(name) in known.names]
    wanted = [_known_as(names[at]) for at in learned]
    part = known.of(wanted)
    if learned:
        logs = part.mean + z[:, learned] @ root_of(part.cov).T
        own = {at: logs[:, n] for n, at in enumerate(learned)}
    for at, row in enumerate(rows, 3):
        demand = scenario.case.demands[scenario.case.rows[row]]
        spread = np.maximum(1.0 + lra_sd(demand) * z[:, at], MIN_FACTOR)
        lra[:, row] = np.exp(own[at]) if at in own else spread
    for at, row in enumerate(starting, 3 + len(rows)):
        # A soft starter has learned its own compressor: what it meets is the day's stiffness only.
        sd = 0.0 if scenario.model.motors.soft_a[row] > 0.0 else OWN_STIFFNESS_SD
        stiff = own.get(at, sd * z[:, at])
        breakaway[:, row] = np.exp(stiff + BREAKAWAY_DAY_SD * z[:, at + len(starting)])
    voc_factor = 1.0 + VOLTS_SD * z[:, 0]
    lockout = np.maximum(1.0 + LOCKOUT_SD * z[:, 1], MIN_LOCKOUT)
    share = shares_below(own.get(2, z[:, 2]))
    short = np.asarray(short_time(scenario.case.source.short_factor, share))
    source_strength = source_strength_of(known, wanted, LIMIT_SD, MODEL_SD)
    slopes = np.zeros(len(names))
    slopes[learned] = source_strength.slopes
    source_strength = replace(source_strength, slopes=slopes)
    return Samples(
        voc_factor,
        lockout,
        short,
        lra,
        breakaway,
        z,
        tuple(names),
        tuple(rig),
        source_strength,
        tuple(learned),
    )


def _of_source_strength(scenario: StartScenario) -> Known:
    """What a log told, without the wire behind a post: that is no limit of a supply, and stands in
    the file as it was learned.
    """
    if scenario.case.source.kind != "shore":
        return scenario.known
    return scenario.known.of([name for name in scenario.known.names if name != (SUPPLY, "")])


def _known_as(name: Unknown) -> Name:
    """What a log calls an unknown; of several units of a load it tells of the first."""
    return (name.kind if name.unit == 0 else "", name.load)


def source_strength_sd() -> float:
    """Standard deviation of how strong supply and path are against what the start needs, of a rig
    no log has told of: the limit, and the model's own form [1].

    Returns:
        Of its logarithm [1].
    """
    return math.hypot(LIMIT_SD, MODEL_SD)
