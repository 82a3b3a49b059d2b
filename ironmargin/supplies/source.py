"""Every kind of supply as one thing: electromotive force, impedance, limits, lockouts and breakers.

Below its limit an inverter set behaves as a voltage source with a small internal resistance. At its
limit it is a current source: the electronics hold ``I_lim = starting_W/V·headroom``, somewhat more
in the first second, and volts fold back to ``I_lim/|Y|``. Thin or hot air takes nothing from the
electronics; it takes the engine's power, which is the second limit. A set folds back (it holds its
current and lets the volts sag for a while) or cuts off (it opens within half a second above its
limit); which of the two is its character. Two lockouts open the output until it is reset by hand:
overload ``Σ((I/I_cont)² − 1)·dt > k`` and volts below 60 % for about 2.5 s (common practice).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from ironmargin.electrics.services import HIGH_V
from ironmargin.record import record
from ironmargin.registry import load_all
from ironmargin.setup.model import Conditions
from ironmargin.setup.supply import Supply
from ironmargin.supplies.derate import DerateStep

REGULATION = 0.02
"""Internal resistance of an inverter set, per unit of its rating: 0.1 to 0.2 ohm on a small 120 V
set (common practice).
"""
NEVER = math.inf
LEG_NAMES = ("L1", "L2")


@record
class Breaker:
    """A breaker of the supply, the path or the rig: where it is, its rating [A], its standard, and
    how it trips against its curve.
    """

    where: str
    name: str
    rating_a: float
    standard: str = "UL489"
    trips: str = "on-curve"


@record
class Input:
    """What an inverter/charger takes its power from.

    Attributes:
        kind: of the supply there.
        limit_a: most it takes [A].
        leg_v: open-circuit volts there [V].
        ohm: impedance behind them, hot and neutral [ohm].
        also_a: other loads on the same circuit [A].
        continuous_a: what that supply gives for hours [A].
        breakers: its breakers.
    """

    kind: str
    limit_a: float
    leg_v: float
    ohm: complex
    also_a: float
    continuous_a: float
    breakers: tuple[Breaker, ...]


@record
class Source:
    """A supply here and now; currents are per hot conductor.

    Attributes:
        leg_v: open-circuit volts, leg to neutral [V].
        nominal_v: nominal volts of a leg [V].
        conductors: hot conductors it brings, 1 or 2.
        leg_deg: angle of the second behind the first [°].
        hot_ohm, neutral_ohm: impedance when settled [ohm].
        transient_ohm: added in the first second of a start.
        limit_a: current its electronics hold [A].
        short_factor: the most they may hold in the first second over that [1].
        limit_w: power its engine can give, flywheel and bus apart [W]; infinite where none.
        forced: a regulator forces its field (a conventional alternator).
        continuous_a: current it sustains [A].
        lockout_a: current its overload lockout counts from [A].
        offset_a: current an assisted input carries before it [A].
        lockout_k_s: k of the overload lockout [s], infinite where none; undervolt_s likewise.
        cut_off_s: how long it stays at its limit before it opens, infinite where it folds back [s].
        eco: engine at idle when the start comes.
        also_a: another load on the same breaker [A].
        breakers: its own breakers.
        derate: derating chain of each engine.
        input: of an inverter/charger, what it takes from.
        neutral: ``floating`` or ``bonded`` as stated, empty where it is not known.
    """

    kind: str
    leg_v: float
    nominal_v: float
    conductors: int
    leg_deg: float
    hot_ohm: complex
    neutral_ohm: complex
    frequency_hz: float
    transient_ohm: complex = 0.0
    limit_a: float = NEVER
    short_factor: float = 1.0
    limit_w: float = NEVER
    forced: bool = False
    lockout_a: float = NEVER
    continuous_a: float = NEVER
    starting_a: float = NEVER
    offset_a: float = 0.0
    lockout_k_s: float = NEVER
    undervolt_s: float = NEVER
    cut_off_s: float = NEVER
    eco: bool = False
    also_a: float = 0.0
    same_leg: bool = False
    breakers: tuple[Breaker, ...] = ()
    derate: tuple[DerateStep, ...] = ()
    input: Input | None = None
    neutral: str = ""

    @property
    def input_limit_a(self) -> float | None:
        """Most an inverter/charger takes from its input [A]; None for every other supply."""
        return self.input.limit_a if self.input is not None else None

    @property
    def input_limit_w(self) -> float:
        """The same on every leg [W]; 0 for every other supply."""
        taken = self.input
        return 0.0 if taken is None else taken.limit_a * self.leg_v * self.conductors


SourceOf = Callable[[Any, Conditions], Source]
SOURCES: dict[str, SourceOf] = {}
"""The model of each kind of supply."""


def source_of_kind(kind: str) -> Callable[[SourceOf], SourceOf]:
    """Register the model of a kind of supply.

    Args:
        kind: its name in files.

    Returns:
        A decorator of the function that makes a source of such a supply in some conditions.
    """

    def registered(model: SourceOf) -> SourceOf:
        SOURCES[kind] = model
        return model

    return registered


def output_of(output: str, voltage_v: float) -> tuple[int, float]:
    """What an output brings.

    Args:
        output: as the format has it: 120, 120/240 or 230.
        voltage_v: rated volts across the winding [V].

    Returns:
        Hot conductors, and the volts of each, leg to neutral [V].
    """
    if output == "120/240":
        return 2, voltage_v / 2.0 if voltage_v > HIGH_V else voltage_v
    return 1, voltage_v


def source_of(supply: Supply, conditions: Conditions) -> Source:
    """Any supply of the setup format as a :class:`Source` in these conditions.

    Args:
        supply: of whichever kind.
        conditions: weather and height.

    Returns:
        Volts, impedance and limits of each conductor.
    """
    load_all("ironmargin.supplies.kinds")
    return SOURCES[supply.kind](supply, conditions)
