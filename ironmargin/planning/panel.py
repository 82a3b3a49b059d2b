"""The panel of a rig as a schedule, and what its supply has to carry by the code's way of counting.

The count follows the National Electrical Code for an optional standby system whose loads a person
chooses (702.4), articles from memory: an aid, not a permit. The authority having jurisdiction
decides.
"""

from __future__ import annotations

import math

from ironmargin.case import Case
from ironmargin.loads.demand import L1L2, Demand
from ironmargin.loads.reader import demand_of
from ironmargin.record import record
from ironmargin.setup.loads import COOLING_MODES, AirConditioner, Rotating
from ironmargin.setup.model import Setup
from ironmargin.verdict.check import Checked

LARGEST_MOTOR = 1.25
"""What the largest motor counts (NEC 430.24, and 440.33 for compressors; from memory) [1]."""
CONTINUOUS = 1.25
"""What a load of three hours and more counts (NEC 210.20(A), 215.3; from memory) [1]."""
LEGS = ("L1", "L2", "L1-L2")


@record
class PanelRow:
    """One circuit: its breaker [A], its leg, what hangs on it, and what that draws [A, W]. A load
    of no circuit is a row of its own.
    """

    circuit: str
    breaker_a: float | None
    leg: str
    loads: tuple[str, ...]
    amps: float
    watts: float


@record
class CountedLoad:
    """One chosen load as the code counts it [VA], with the factor [1] and the article."""

    name: str
    va: float
    factor: float
    article: str

    @property
    def counted_va(self) -> float:
        """What it counts [VA]."""
        return self.va * self.factor


@record
class Panel:
    """The schedule and the count of a setup; ``supply_va`` is what the supply sustains here [VA],
    None where nothing but its breaker says.
    """

    rows: tuple[PanelRow, ...]
    counted: tuple[CountedLoad, ...]
    supply_va: float | None

    @property
    def total_va(self) -> float:
        """What all chosen loads count together [VA]."""
        return sum(x.counted_va for x in self.counted)


def every_demand(case: Case) -> list[Demand]:
    """The draw of every load of the rig, in its order; what is not wanted as it would run.

    Args:
        case: the prepared setup.

    Returns:
        One a load.
    """
    setup = case.setup
    running = {d.load.id: d for d in case.demands}
    out = []
    for at, load in enumerate(setup.rig.loads):
        mode = COOLING_MODES[-1] if isinstance(load, AirConditioner) else None
        out.append(running.get(load.id) or demand_of(setup, at, mode))
    return out


def _rows(setup: Setup, demands: list[Demand]) -> tuple[PanelRow, ...]:
    circuits = {c.id: c for c in setup.rig.circuits}
    groups: dict[tuple[str, str], list[Demand]] = {
        (c.id, "L1-L2" if c.leg == "L1L2" else c.leg): [] for c in setup.rig.circuits
    }
    for demand in demands:
        own = circuits.get(demand.load.circuit or "")
        leg = LEGS[demand.leg] if demand.leg <= L1L2 else LEGS[0]
        place = "L1-L2" if own and own.leg == "L1L2" else own.leg if own else leg
        groups.setdefault((own.id if own else f"\0{demand.load.id}", place), []).append(demand)
    rows = []
    for (ident, leg), members in groups.items():
        circuit = circuits.get(ident)
        rows.append(
            PanelRow(
                (circuit.name or circuit.id) if circuit else "",
                circuit.breaker_a if circuit else None,
                leg,
                tuple(d.load.name for d in members),
                sum(x.amps for d in members for x in d.steady),
                sum(x.va.real for d in members for x in d.steady),
            )
        )
    return tuple(
        sorted(rows, key=lambda r: (r.breaker_a is None, LEGS.index(r.leg), r.circuit, r.loads))
    )


def _counted(demands: list[Demand]) -> tuple[CountedLoad, ...]:
    """Each chosen load; the largest motor and what runs on and on count more."""
    size = {d.load.id: sum(abs(x.va) for x in d.steady) for d in demands}
    motors = [d for d in demands if isinstance(d.load, Rotating)]
    largest = max(motors, key=lambda d: size[d.load.id], default=None)
    out = []
    for demand in sorted(demands, key=lambda d: -size[d.load.id]):
        load = demand.load
        if isinstance(load, Rotating):
            article = "NEC 440.33" if isinstance(load, AirConditioner) else "NEC 430.24"
            factor = LARGEST_MOTOR if demand is largest else 1.0
        elif demand.duty >= 1.0 and not load.on_s:
            article, factor = "NEC 210.20(A)", CONTINUOUS
        else:
            article, factor = "NEC 220.14", 1.0
        out.append(CountedLoad(load.name, size[load.id], factor, article))
    return tuple(out)


def panel_of(checked: Checked) -> Panel:
    """The panel schedule and the load count of a checked setup.

    Args:
        checked: a check that keeps what pictures need.

    Returns:
        The schedule and the count.
    """
    case = checked.case
    setup, source = case.setup, case.source
    known = {x.id for x in setup.rig.loads}
    chosen = [d for d in case.demands if d.load.id in known]
    whole_va = source.conductors * source.continuous_a * source.leg_v
    supply_va = whole_va if math.isfinite(whole_va) else None
    return Panel(_rows(setup, every_demand(case)), _counted(chosen), supply_va)
