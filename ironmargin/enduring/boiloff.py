"""Propane boil-off: the liquid cools as it evaporates, and a low, cold cylinder cannot feed a big set.

``m·c·dT/dt = U·A(m)·(T_air − T) − ṁ·h_fg``; heat comes through the wetted wall only. The set starves when the vapour's
pressure above the air falls under what the regulator needs. Pressure, latent heat, specific heat and density of propane
come from CoolProp; U about 12 W/m²K for still air and a dry wall (memory, 8 to 20), the regulator's need 0.69 bar, 10 psi (memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.supplies.derate import isa_pressure_hpa

U_W_PER_M2K = 12.0
REGULATOR_PA = 0.69e5
STEEL_J_PER_KG_K = 490.0
TARE_OVER_CAPACITY = 0.85
"""Empty mass of a steel cylinder over the propane it holds (memory: 17 lb for 20 lb)."""
FULL_SHARE = 0.8
"""A cylinder is full at 80 % of its volume."""
SLENDER = 1.2
"""Height over diameter of the shell (memory, a 20 lb cylinder)."""
COLDEST_C = -60.0


@cache
def saturation() -> tuple[Real, Real, Real, Real, Real]:
    """Propane on the saturation line, each degree: °C, pressure [Pa], latent heat [J/kg], liquid c_p [J/kgK] and density [kg/m³]."""
    from CoolProp.CoolProp import PropsSI  # late: it takes seconds to import

    t = np.arange(-70.0, 61.0)
    k = t + 273.15
    pressure = np.array(PropsSI("P", "T", k, "Q", 0.0, "Propane"))
    latent = np.array(PropsSI("H", "T", k, "Q", 1.0, "Propane")) - np.array(PropsSI("H", "T", k, "Q", 0.0, "Propane"))
    return t, pressure, latent, np.array(PropsSI("C", "T", k, "Q", 0.0, "Propane")), np.array(PropsSI("D", "T", k, "Q", 0.0, "Propane"))


@dataclass(frozen=True)
class BoilOff:
    """A cylinder emptying: time [s], liquid [kg], temperature [°C] and gauge pressure [Pa]; when it starves, or None [h]."""

    t_s: Real
    liquid_kg: Real
    liquid_c: Real
    gauge_pa: Real
    starves_h: float | None
    empty_h: float | None
    left_kg: float


def wetted_m2(capacity_kg: float, liquid_kg: float) -> float:
    """Wall wetted by the liquid: the shell as an upright cylinder, its bottom and its side up to the level [m²]."""
    volume = capacity_kg / 500.0 / FULL_SHARE
    radius = (volume / (2.0 * math.pi * SLENDER)) ** (1.0 / 3.0)
    level = liquid_kg / 500.0 / (math.pi * radius**2)
    return float(math.pi * radius**2 + 2.0 * math.pi * radius * level)


def boil_off(capacity_kg: float, fill: float, count: int, air_c: float, rate_kg_per_h: float, altitude_m: float = 0.0, step_s: float = 30.0) -> BoilOff:
    """Empty ``count`` equal cylinders side by side at a constant rate of vapour [kg/h].

    The steel follows the liquid. Starved: gauge pressure under the regulator's need; what is then left stays in the cylinder.
    """
    t, pressure, latent, specific, _ = saturation()
    outside = isa_pressure_hpa(altitude_m) * 100.0
    mass, temperature, each = capacity_kg * fill, air_c, rate_kg_per_h / 3600.0 / count
    rows = []
    starves: float | None = None
    now = 0.0
    while mass > 1e-3 and now < 30 * 86400:
        gauge = float(np.interp(temperature, t, pressure)) - outside
        rows.append((now, mass, temperature, gauge))
        if gauge < REGULATOR_PA or temperature < COLDEST_C:
            starves = now / 3600.0
            break
        heat_capacity = mass * float(np.interp(temperature, t, specific)) + TARE_OVER_CAPACITY * capacity_kg * STEEL_J_PER_KG_K
        gained = U_W_PER_M2K * wetted_m2(capacity_kg, mass)
        # Linear in temperature over a step: exact for fixed coefficients, so that a light cylinder does not overshoot.
        target = air_c - each * float(np.interp(temperature, t, latent)) / gained
        temperature = target + (temperature - target) * math.exp(-gained * step_s / heat_capacity)
        mass -= each * step_s
        now += step_s
    table = np.array(rows)
    empty = now / 3600.0 if starves is None else None
    return BoilOff(table[:, 0], table[:, 1], table[:, 2], table[:, 3], starves, empty, max(mass, 0.0) * count if starves is not None else 0.0)
