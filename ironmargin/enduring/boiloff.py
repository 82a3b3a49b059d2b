"""Propane boil-off: the liquid cools as it evaporates, and a low, cold cylinder cannot feed a big
set.

``m·c·dT/dt = U·A(m)·(T_air − T) − ṁ·h_fg``; heat comes through the wetted wall only. The set
starves when the vapour's pressure above the air falls under what the regulator needs. Pressure,
latent heat, specific heat and density of propane come from a table of the saturation line
(CoolProp); U about 20 W/m²K, still air, radiation and the water that condenses and freezes on a
cold wall together (memory: 8 dry, over 20 with frost), more on a narrow shell as free convection
goes with D^(−1/4). A regulator's need rises with what flows through it: 0.69 bar, 10 psi, at full
flow (memory). The cylinder cools by the mean draw; at a compressor start the set asks for full flow
for a moment, about half as much again.
"""

from __future__ import annotations

import math
from functools import cache, lru_cache

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.supplies.derate import isa_pressure_hpa
from ironmargin.tables import rows

U_W_PER_M2K = 21.0
U_AT_DIAMETER_M, CONVECTION = 0.30, 0.25
"""The diameter it is of [m], and by which power of it free convection goes [1]."""
REGULATOR_PA = 0.69e5
AT_A_START = 1.5
"""What flows at a compressor start over the mean (memory)."""
STEEL_J_PER_KG_K = 490.0
TARE_OVER_CAPACITY = 0.85
"""Empty mass of a steel cylinder over the propane it holds (memory: 17 lb for 20 lb)."""
FULL_SHARE = 0.8
"""A cylinder is full at 80 % of its volume."""
SLENDER, SMALL_SLENDER, SMALL_KG = 1.2, 2.2, 2.0
"""Height over diameter of the shell (memory): a 20 lb cylinder, and a hand-sized bottle of up to 2
kg.
"""
FILLED_AT_C = 15.6
"""Liquid is sold and a cylinder filled at 60 °F."""
LAST_ROW = 1e-6
"""How far under the last row of a table a place in it stays, so that there is a row after it."""
EMPTY_KG, LONGEST_S, STEP_S = 1e-3, 30 * 86_400.0, 30.0
"""What counts as empty [kg], how long a cylinder is followed at most, and in which steps [s]."""


@cache
def saturation() -> tuple[Real, Real, Real, Real, Real]:
    """Propane on the saturation line, each degree: °C, pressure [Pa], latent heat [J/kg], liquid
    c_p [J/kgK] and density [kg/m³].

    Returns:
        Five arrays of the same length.
    """
    columns = (
        "temperature_c",
        "pressure_pa",
        "latent_j_per_kg",
        "specific_j_per_kg_k",
        "density_kg_per_m3",
    )
    t, pressure, latent, specific, density = (
        np.array([float(row[name]) for row in rows("propane")]) for name in columns
    )
    return t, pressure, latent, specific, density


@cache
def _columns() -> tuple[tuple[list[float], ...], float]:
    """The saturation line as lists (pressure, latent heat, specific heat, density), and the first
    temperature [°C].
    """
    t, *columns = (column.tolist() for column in saturation())
    return tuple(columns), t[0]


@cache
def liquid_kg_per_m3() -> float:
    """Density of the liquid as it is filled [kg/m³], of the table of the saturation line.

    Returns:
        Density [kg/m³].
    """
    (_, _, _, density), first_c = _columns()
    return _at(density, first_c, FILLED_AT_C)


def gauge_pa(liquid_c: float, altitude_m: float) -> float:
    """Pressure in a cylinder over the air around it [Pa].

    Args:
        liquid_c: temperature of the liquid [°C].
        altitude_m: height above the sea [m].

    Returns:
        Gauge pressure [Pa].
    """
    (pressure, _, _, _), first_c = _columns()
    return _at(pressure, first_c, liquid_c) - isa_pressure_hpa(altitude_m) * 100.0


def needed_pa(starts: bool) -> float:
    """Gauge pressure the regulator needs: for the mean draw, or for a compressor start [Pa].

    Args:
        starts: whether compressors start on it.

    Returns:
        Gauge pressure [Pa].
    """
    return REGULATOR_PA if starts else REGULATOR_PA / AT_A_START


def cooled_c(
    capacity_kg: float, liquid_kg: float, liquid_c: float, air_c: float, kg_per_s: float, s: float
) -> float:
    """Temperature of the liquid after a span at a rate of vapor out of one cylinder [°C].

    ``m·c·dT/dt = U·A(m)·(T_air − T) − ṁ·h_fg``, linear in temperature over the span: exact for
    fixed coefficients, so that a light cylinder does not overshoot.

    Args:
        capacity_kg: of the cylinder [kg].
        liquid_kg: liquid left [kg].
        liquid_c: temperature to begin with [°C].
        air_c: air around it [°C].
        kg_per_s: vapor drawn [kg/s].
        s: length of the span [s].

    Returns:
        Temperature at its end [°C].
    """
    (_, latent, specific, _), first_c = _columns()
    heat_capacity = (
        liquid_kg * _at(specific, first_c, liquid_c)
        + TARE_OVER_CAPACITY * capacity_kg * STEEL_J_PER_KG_K
    )
    gained = wall_w_per_m2k(capacity_kg) * wetted_m2(capacity_kg, liquid_kg)
    target = air_c - kg_per_s * _at(latent, first_c, liquid_c) / gained
    return target + (liquid_c - target) * math.exp(-gained * s / heat_capacity)


def _at(column: list[float], first_c: float, temperature_c: float) -> float:
    """A property at a temperature, between two rows of a table of whole degrees."""
    place = min(max(temperature_c - first_c, 0.0), len(column) - 1.0 - LAST_ROW)
    row = int(place)
    return column[row] + (place - row) * (column[row + 1] - column[row])


@record
class BoilOff:
    """A cylinder emptying: time [s], liquid [kg], temperature [°C] and gauge pressure [Pa].

    ``starves_h`` is when it starves, ``at_start`` whether only a compressor start does it then,
    ``left_kg`` what stays in it; ``empty_h`` when it is empty, where it never starves.
    """

    t_s: Real
    liquid_kg: Real
    liquid_c: Real
    gauge_pa: Real
    starves_h: float | None
    empty_h: float | None
    left_kg: float
    at_start: bool = False

    @property
    def ends_h(self) -> float:
        """Hours until it feeds the set no longer."""
        return self.starves_h if self.starves_h is not None else self.empty_h or 0.0


@cache
def radius_m(capacity_kg: float) -> float:
    """Radius of a cylinder's shell [m].

    Args:
        capacity_kg: of propane when full [kg].

    Returns:
        Meters [m].
    """
    volume = capacity_kg / liquid_kg_per_m3() / FULL_SHARE
    slender = SMALL_SLENDER if capacity_kg <= SMALL_KG else SLENDER
    return float((volume / (2.0 * math.pi * slender)) ** (1.0 / 3.0))


@cache
def wall_w_per_m2k(capacity_kg: float) -> float:
    """Heat that comes through a cylinder's wall, narrow ones better [W/m²K].

    Args:
        capacity_kg: of propane when full [kg].

    Returns:
        Watts a square meter and kelvin [W/m²K].
    """
    return float(U_W_PER_M2K * (U_AT_DIAMETER_M / (2.0 * radius_m(capacity_kg))) ** CONVECTION)


def wetted_m2(capacity_kg: float, liquid_kg: float) -> float:
    """Wall wetted by the liquid that the air reaches: the side up to the level, and half the bottom
    of an upright cylinder [m²].

    A foot ring keeps the air off the other half (memory).

    Args:
        capacity_kg: of propane when full [kg].
        liquid_kg: that is in it [kg].

    Returns:
        Square meters [m²].
    """
    radius = radius_m(capacity_kg)
    level = liquid_kg / liquid_kg_per_m3() / (math.pi * radius**2)
    return float(0.5 * math.pi * radius**2 + 2.0 * math.pi * radius * level)


@lru_cache(maxsize=64)
def boil_off(
    capacity_kg: float,
    fill: float,
    count: int,
    air_c: float,
    rate_kg_per_h: float,
    altitude_m: float = 0.0,
    *,
    starts: bool = False,
    step_s: float = STEP_S,
) -> BoilOff:
    """Empty ``count`` equal cylinders side by side at a constant rate of vapour [kg/h]; ``starts``
    if compressors start on it.

    The steel follows the liquid. Starved: gauge pressure under the regulator's need; what is then
    left stays in the cylinder.

    Args:
        capacity_kg: of propane when full [kg].
        fill: share it begins with [1].
        count: cylinders that feed together.
        air_c: around them [°C].
        rate_kg_per_h: taken from all of them [kg/h].
        altitude_m: of the place [m].
        starts: whether compressors start on it, which needs more pressure.
        step_s: length of a step [s].

    Returns:
        How long it feeds, how cold it gets, and what is left.
    """
    mass, temperature, each = capacity_kg * fill, air_c, rate_kg_per_h / 3600.0 / count
    steps = []
    starves: float | None = None
    now = 0.0
    needed = needed_pa(starts)
    while mass > EMPTY_KG and now < LONGEST_S:
        gauge = gauge_pa(temperature, altitude_m)
        steps.append((now, mass, temperature, gauge))
        if gauge < needed:
            starves = now / 3600.0
            break
        temperature = cooled_c(capacity_kg, mass, temperature, air_c, each, step_s)
        mass -= each * step_s
        now += step_s
    table = np.array(steps)
    table.flags.writeable = False
    empty = now / 3600.0 if starves is None else None
    return BoilOff(
        table[:, 0],
        table[:, 1],
        table[:, 2],
        table[:, 3],
        starves,
        empty,
        max(mass, 0.0) * count if starves is not None else 0.0,
        starts and starves is not None and float(table[-1, 3]) >= needed_pa(False),
    )
