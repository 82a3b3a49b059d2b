"""From a generator's plate to what it gives here and now: fuel, altitude, heat.

SAE J1349, naturally aspirated: ``cf = 1.180·(990/p_d)·√((T + 273)/298) − 0.18``, power divided by
``cf``, with the dry pressure ``p_d`` [hPa]: that of the ISO 2533 standard atmosphere less the water
vapour in it (Magnus formula, WMO-No. 8, Annex 4.B; from memory). 60 % relative humidity is assumed
where none is given. No credit is taken for air better than the plate's.
"""

from __future__ import annotations

import math

from ironmargin.record import record
from ironmargin.setup.engines import Generator
from ironmargin.setup.model import Conditions

FUEL_FACTOR = {"gasoline": 1.0, "propane": 0.90, "natural_gas": 0.82, "diesel": 1.0}
"""Power on a fuel over power on gasoline (common practice)."""
REFERENCE_C = 25.0
SEA_LEVEL_HPA, LAPSE_PER_M, ISA_EXPONENT = 1013.25, 2.25577e-5, 5.25588
"""Standard atmosphere (ISO 2533): pressure at sea level [hPa], 0.0065 K/m over 288.15 K [1/m], and
g·M/(R·L) [1]."""
MAGNUS = 6.112, 17.62, 243.12
"""Coefficients over water: [hPa], [1], [°C] (WMO-No. 8, Annex 4.B)."""
SAE_DRY_HPA, SAE_AIR_K, SAE_ZERO_K = 990.0, 298.0, 273.0
"""Reference of SAE J1349: dry pressure [hPa], 25 °C as it counts kelvins [K]."""
SAE_FRICTION = 0.18
"""Share of an engine's power that friction takes whatever the air (SAE J1349: mechanical efficiency
85 %, as 0.18 of the brake power)."""


@record
class DerateStep:
    """One link of the derating chain: what it is, its factor, and the watts left after it; where a
    figure of the place makes it, that figure and its unit.
    """

    key: str
    label: str
    factor: float
    continuous_w: float
    starting_w: float
    source: str
    value: float | None = None
    unit: str = ""


def isa_pressure_hpa(altitude_m: float) -> float:
    """Pressure of the standard atmosphere [hPa]. Source: ISO 2533, troposphere.

    Args:
        altitude_m: height above the sea [m].

    Returns:
        Pressure [hPa].
    """
    return float(SEA_LEVEL_HPA * (1.0 - LAPSE_PER_M * altitude_m) ** ISA_EXPONENT)


def vapour_hpa(air_c: float, humidity_pct: float) -> float:
    """Pressure of the water vapour in air [hPa]: ``6.112·exp(17.62·T/(243.12 + T))`` times the
    relative humidity.

    Args:
        air_c: air [°C].
        humidity_pct: relative humidity [%].

    Returns:
        Pressure [hPa].
    """
    a, b, c = MAGNUS
    return humidity_pct / 100.0 * a * math.exp(b * air_c / (c + air_c))


def sae_j1349_cf(dry_pressure_hpa: float, air_c: float) -> float:
    """SAE J1349 correction factor; observed power = rated power / cf [1].

    Args:
        dry_pressure_hpa: of the air without its vapor [hPa].
        air_c: air [°C].

    Returns:
        The factor [1].
    """
    share = (SAE_DRY_HPA / dry_pressure_hpa) * ((air_c + SAE_ZERO_K) / SAE_AIR_K) ** 0.5
    return float((1.0 + SAE_FRICTION) * share - SAE_FRICTION)


def derating_chain(supply: Generator, conditions: Conditions) -> tuple[DerateStep, ...]:
    """The steps from the plate to here and now; the last one holds the watts to use [W].

    Args:
        supply: one engine set.
        conditions: weather and height.

    Returns:
        The steps, the plate's first.
    """
    continuous, starting = supply.continuous_w, supply.starting_w
    steps = [
        DerateStep(
            "plate",
            f"plate, {supply.ratings_for.replace('_', ' ')}",
            1.0,
            continuous,
            starting,
            "plate",
        )
    ]

    def apply(
        key: str, label: str, factor: float, source: str, value: float | None = None, unit: str = ""
    ) -> None:
        nonlocal continuous, starting
        continuous, starting = continuous * factor, starting * factor
        steps.append(DerateStep(key, label, factor, continuous, starting, source, value, unit))

    if supply.fuel != supply.ratings_for:
        stated = supply.by_fuel.get(supply.fuel)
        if stated is not None:
            factor = stated.continuous_w / continuous
            continuous, starting = stated.continuous_w, stated.starting_w
            steps.append(
                DerateStep(
                    "fuel",
                    f"on {supply.fuel.replace('_', ' ')}, its own rating",
                    factor,
                    continuous,
                    starting,
                    "plate",
                )
            )
        else:
            factor = min(FUEL_FACTOR[supply.fuel] / FUEL_FACTOR[supply.ratings_for], 1.0)
            apply("fuel", f"on {supply.fuel.replace('_', ' ')}", factor, "common practice")
    pressure = isa_pressure_hpa(conditions.altitude_m)
    damp = pressure - vapour_hpa(conditions.outdoor_c, conditions.humidity_pct)
    thin_air = min(1.0, 1.0 / sae_j1349_cf(pressure, REFERENCE_C))
    both = min(thin_air, 1.0 / sae_j1349_cf(pressure, conditions.outdoor_c))
    all_three = min(both, 1.0 / sae_j1349_cf(damp, conditions.outdoor_c))
    height, heat = conditions.altitude_m, conditions.outdoor_c
    apply("altitude", f"at {height:,.0f} m", thin_air, "SAE J1349, ISO 2533", height, "m")
    apply("heat", f"at {heat:.0f} °C", both / thin_air, "SAE J1349", heat, "°C")
    apply("humidity", f"at {conditions.humidity_pct:.0f} % humidity", all_three / both, "SAE J1349")
    return tuple(steps)
