"""Typical figures that learn: what many measured units of a kind and size have in common.

Each unit gives the logarithm of its figure with its own standard deviation, as its log left it. The
units of one class are samples around a middle: ``y_i ~ N(μ, τ² + s_i²)``. τ² is DerSimonian and
Laird's estimate (Controlled Clinical Trials 7, 1986), held loosely at what was believed; μ is
weighed by precision and held loosely at the printed table. What a new unit of the class may have is
``N(μ, τ² + var μ)``.

No reading can be told from the result: a figure stands on five units of three accounts at least, no
account counts with more than three units, medians are rounded to two digits and counts to fives.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from ironmargin.document import Document
from ironmargin.electrics.network import Real
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.loads import AirConditioner, Motor, Rotating
from ironmargin.setup.model import Rig
from ironmargin.setup.spec import shown
from ironmargin.starting.chance import Z_RIG
from ironmargin.starting.known import LRA, known_rig
from ironmargin.tables import rows, spread_of

POOL_FORMAT = "iron-margin/typicals"
FIGURES = ("lra_a",)
MIN_UNITS, MIN_ACCOUNTS, MAX_OF_ONE = 5, 3, 3
COUNTS_BY = 5
NEAR = 0.15
"""A unit is of the class whose running volt-amperes are within so much of its own [1]."""
PRIOR_UNITS = 4.0
"""Units that what was believed of the spread is worth."""
TABLE_SD = 0.2
"""How far the printed table's middle may be off [1] (common practice, no source)."""
MIN_SD, MAX_SD = 0.02, 0.6
MAX_FIGURES, MAX_BYTES = 500, 1_000_000
SAME_VOLTS = 0.1
"""A typical load is for these volts if its own are no further off [1]."""
MAX_COUNT = 1e7
"""More units or accounts than this are no count."""


@record
class Unit:
    """One measured unit: a number for its account, its class, its figure's logarithm, and how sure
    that is.
    """

    account: int
    key: str
    log_value: float
    sd: float


@record
class Typical:
    """A typical figure of a class of loads.

    Attributes:
        key: of the typical load it stands for.
        figure: which one.
        median: of it [A].
        sd: of a new unit's logarithm [1].
        units, accounts: how many are behind it, rounded down; none behind a printed figure.
    """

    key: str
    figure: str
    median: float
    sd: float
    units: int
    accounts: int

    @property
    def low(self) -> float:
        """Below which one unit of twenty lies."""
        return self.median * math.exp(-Z_RIG * self.sd)

    @property
    def high(self) -> float:
        """Above which one unit of twenty lies."""
        return self.median * math.exp(Z_RIG * self.sd)


def class_of(load: Rotating) -> str | None:
    """The typical load a unit is one of, by kind, volts and running amps; None where none is near.
    Its start gear is another matter: the rotor is the same.

    Args:
        load: an air conditioner or a motor.

    Returns:
        Key of the typical load.
    """
    if not isinstance(load, AirConditioner | Motor) or not load.running_a:
        return None
    best: tuple[float, str] | None = None
    for row in rows("typical_loads"):
        if row["kind"] != load.kind or not row["running_a"] or not row["lra_a"]:
            continue
        if abs(float(row["voltage_v"]) / load.voltage_v - 1.0) > SAME_VOLTS or "soft" in row["key"]:
            continue
        off = abs(math.log(load.running_a / float(row["running_a"])))
        if off <= NEAR and (best is None or off < best[0]):
            best = (off, row["key"])
    return best[1] if best else None


def units_of(rig: Rig, account: int) -> list[Unit]:
    """The units of a rig whose locked-rotor amps a log has told of; numbers alone, no names.

    Args:
        rig: the rig: legs, circuits, loads.
        account: whose rig it is, as a number.

    Returns:
        One unit a motor.
    """
    known = known_rig(rig)
    found = []
    for load in rig.loads:
        if not isinstance(load, Rotating) or not load.lra_a or (LRA, load.id) not in known:
            continue
        key, samples = class_of(load), known[LRA, load.id]
        if key is not None:
            sd = min(max(float(np.std(samples)), MIN_SD), MAX_SD)
            found.append(Unit(account, key, math.log(load.lra_a) + float(np.mean(samples)), sd))
    return found


def _prior_of(key: str) -> float:
    """The printed table's figure, as a logarithm."""
    return math.log(next(one.median for one in printed() if one.key == key))


def printed() -> tuple[Typical, ...]:
    """The figures of the printed table, with the spread that is believed of them.

    Returns:
        One a class.
    """
    sd = spread_of("locked-rotor amps", "typical")
    return tuple(
        Typical(row["key"], FIGURES[0], float(row["lra_a"]), sd, 0, 0)
        for row in rows("typical_loads")
        if row["lra_a"]
    )


def _kept(accounts: Real, sds: Real) -> NDArray[np.intp]:
    """Places of the units that count: of one account the surest."""
    order = np.lexsort((sds, accounts))
    ranked = accounts[order]
    first = np.flatnonzero(np.r_[True, ranked[1:] != ranked[:-1]])
    rank = np.arange(len(ranked)) - np.repeat(first, np.diff(np.r_[first, len(ranked)]))
    return order[rank < MAX_OF_ONE]


def fitted(key: str, accounts: Real, logs: Real, sds: Real) -> Typical | None:
    """The typical figure of one class; None where too few stand behind it.

    Args:
        key: of the class and the figure.
        accounts: whose unit each is (units,).
        logs: of its figure over the table's (units,).
        sds: of those logarithms (units,).

    Returns:
        Middle, spread and how many stand behind it.
    """
    at = _kept(accounts, sds)
    accounts, logs, sds = accounts[at], logs[at], sds[at]
    count, people = len(logs), len(np.unique(accounts))
    if count < MIN_UNITS or people < MIN_ACCOUNTS:
        return None
    weights = 1.0 / sds**2
    middle = float(weights @ logs / weights.sum())
    q = float(weights @ (logs - middle) ** 2)
    scale = float(weights.sum() - (weights**2).sum() / weights.sum())
    between = max((q - (count - 1)) / scale, 0.0)
    held = spread_of("locked-rotor amps", "typical") ** 2
    between = (between * (count - 1) + held * PRIOR_UNITS) / (count - 1 + PRIOR_UNITS)
    weights = 1.0 / (between + sds**2)
    total = float(weights.sum()) + 1.0 / TABLE_SD**2
    mean = (float(weights @ logs) + _prior_of(key) / TABLE_SD**2) / total
    sd = math.sqrt(between + 1.0 / total)
    median = float(f"{math.exp(mean):.2g}")
    return Typical(
        key,
        FIGURES[0],
        median,
        round(min(max(sd, MIN_SD), MAX_SD), 3),
        count // COUNTS_BY * COUNTS_BY,
        max(people // COUNTS_BY * COUNTS_BY, MIN_ACCOUNTS),
    )


def typicals(units: Iterable[Unit], client: object | None = None) -> tuple[Typical, ...]:
    """The typical figures of every class that enough units stand behind.

    Args:
        units: measured units of many accounts.
        client: a Dask client that fits the classes side by side, where there are many.

    Returns:
        One a class.
    """
    groups: dict[str, tuple[list[int], list[float], list[float]]] = {}
    for unit in units:
        held = groups.setdefault(unit.key, ([], [], []))
        held[0].append(unit.account)
        held[1].append(unit.log_value)
        held[2].append(unit.sd)
    tasks = [
        (key, np.array(a), np.array(y), np.array(s)) for key, (a, y, s) in sorted(groups.items())
    ]
    if client is None:
        found = [fitted(*task) for task in tasks]
    else:
        futures = client.map(_fitted_of, tasks, pure=False)  # type: ignore[attr-defined]
        found = client.gather(futures)  # type: ignore[attr-defined]
    return tuple(one for one in found if one is not None)


def _fitted_of(task: tuple[str, Real, Real, Real]) -> Typical | None:
    return fitted(*task)


def typicals_json(found: Iterable[Typical], made_at: str) -> Document:
    """The open file of typical figures.

    Args:
        found: typical figures.
        made_at: when, ISO 8601.

    Returns:
        The JSON object.
    """
    figures = [
        {"key": t.key, "figure": t.figure, "median": t.median, "sd": t.sd, "units": t.units,
         "accounts": t.accounts}
        for t in found
    ]  # fmt: skip
    return {"format": POOL_FORMAT, "version": 1, "made_at": made_at, "figures": figures}


def read_typicals(raw: bytes) -> tuple[Typical, ...]:
    """The typical figures of a file, which may be a stranger's.

    Args:
        raw: bytes of the file.

    Returns:
        One a class.

    Raises:
        SetupError: with every fault found.
    """
    if len(raw) > MAX_BYTES:
        raise SetupError([Fault("", "large", f"at most {MAX_BYTES:,} bytes (got {len(raw):,})")])
    try:
        data = json.loads(raw.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise SetupError(
            [Fault("", "json", f"not a file of typicals: {str(error)[:80]}")]
        ) from None
    if not isinstance(data, dict) or data.get("format") != POOL_FORMAT:
        raise SetupError([Fault("format", "format", f"must be {POOL_FORMAT}")])
    figures = data.get("figures")
    if not isinstance(figures, list) or len(figures) > MAX_FIGURES:
        raise SetupError([Fault("figures", "list", f"must be a list of at most {MAX_FIGURES}")])
    known = {one.key for one in printed()}
    faults: list[Fault] = []
    found = [_read(one, f"figures[{n}]", known, faults) for n, one in enumerate(figures)]
    if faults:
        raise SetupError(faults[:20])
    return tuple(one for one in found if one is not None)


def _read(one: object, path: str, known: set[str], faults: list[Fault]) -> Typical | None:
    """One figure of a file: within half and twice the printed one, and on enough units."""
    if not isinstance(one, dict):
        faults.append(Fault(path, "object", f"must be an object (got {shown(one)})"))
        return None
    key, figure = one.get("key"), one.get("figure")
    if not isinstance(key, str) or key not in known or figure not in FIGURES:
        rule = f"must be a typical load and a figure of it (got {shown(key)}, {shown(figure)})"
        faults.append(Fault(f"{path}.key", "key", rule))
        return None
    numbers = {}
    middle = math.exp(_prior_of(key))
    for name, minimum, maximum in (
        ("median", 0.5 * middle, 2.0 * middle),
        ("sd", MIN_SD, MAX_SD),
        ("units", MIN_UNITS, MAX_COUNT),
        ("accounts", MIN_ACCOUNTS, MAX_COUNT),
    ):
        value = one.get(name)
        fine = isinstance(value, int | float) and not isinstance(value, bool)
        if not fine or not minimum <= value <= maximum:  # type: ignore[operator]
            rule = f"must be a number from {minimum:.3g} to {maximum:.3g} (got {shown(value)})"
            faults.append(Fault(f"{path}.{name}", "range", rule))
            return None
        numbers[name] = float(value)  # type: ignore[arg-type]
    units, accounts = int(numbers["units"]), int(numbers["accounts"])
    return Typical(key, str(figure), numbers["median"], numbers["sd"], units, accounts)
