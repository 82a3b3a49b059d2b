"""Fuel by a Willans line: ``rate = a·P_rated + b·P``, fitted to known points where there are any;
hours, refills, cost.

Typical curves by class of set stand in ``tables/fuel_curves.csv``: an inverter set slows down at
part load, a conventional one turns at full speed and burns more there (a 5.5 kW set on 25 l runs
about 9 to 10 h at half load; from memory), a diesel burns least. Other fuels scale by energy
content: gasoline E10 120,200 Btu/gal, propane 91,400 Btu/gal and 4.24 lb/gal, diesel 137,400
Btu/gal (EIA, from memory). Rates are heat [W] inside, so that a fuel is only a divisor. In eco the
idle part falls with load, to 40 % at none (memory); points of the user's already hold it.
"""

from __future__ import annotations

from ironmargin.electrics.network import Figure
from ironmargin.record import record
from ironmargin.setup.engines import FUELS, Cylinder, Generator
from ironmargin.setup.model import Prices
from ironmargin.starting.nights import NIGHT_H
from ironmargin.tables import rows

LITRES_PER_GALLON = 3.785411784
WH_PER_BTU = 0.29307107
BTU_PER_GALLON = {"gasoline": 120_200.0, "propane": 91_400.0, "diesel": 137_400.0}
WH_PER_L = {fuel: btu * WH_PER_BTU / LITRES_PER_GALLON for fuel, btu in BTU_PER_GALLON.items()}
PROPANE_KG_PER_L = 4.24 * 0.45359237 / LITRES_PER_GALLON
ECO_IDLE = 0.4
"""Idle fuel at no load in eco over idle fuel at full speed (memory)."""
PRICE_OF = {"gasoline": ("gasoline_per_l", 1.0), "diesel": ("diesel_per_l", 1.0)}


@record
class WillansLine:
    """Heat taken against load: ``idle_w`` [W] and ``slope`` [1]; ``typical`` if not fitted to a
    known point.
    """

    idle_w: float
    slope: float
    typical: bool

    def heat_w(self, load_w: Figure, eco_share: Figure = 1.0) -> Figure:
        """Heat at a load [W]; ``eco_share`` scales the idle part. A number or an array.

        Args:
            load_w: what the set gives [W].
            eco_share: of the idle part [1].

        Returns:
            Watts of fuel, of the shape of what is given [W].
        """
        return self.idle_w * eco_share + self.slope * load_w


def eco_share(supply: Generator, load_w: Figure) -> Figure:
    """Idle part in eco over the idle part at full speed, at a load [1]; 1 where the line was fitted
    to known points.

    Args:
        supply: one engine set.
        load_w: load [W].

    Returns:
        The share [1], of the shape of the load.
    """
    if not supply.eco or not willans(supply).typical:
        return 1.0
    return ECO_IDLE + (1.0 - ECO_IDLE) * load_w / supply.continuous_w


def fuel_class(supply: Generator) -> str:
    """Which typical fuel curve a set has: ``inverter``, ``conventional`` or ``diesel``.

    Args:
        supply: a generator.

    Returns:
        The row of the table.
    """
    if "diesel" in (supply.fuel, supply.ratings_for):
        return "diesel"
    return "inverter" if supply.inverter else "conventional"


def typical_line(supply: Generator) -> WillansLine:
    """The typical curve of a set's class, as heat.

    Args:
        supply: one engine set.

    Returns:
        Heat over load.
    """
    row = next(r for r in rows("fuel_curves") if r["class"] == fuel_class(supply))
    gallon_wh = BTU_PER_GALLON[row["fuel"]] * WH_PER_BTU
    rated_kw = supply.continuous_w / 1000.0
    return WillansLine(
        float(row["idle_gal_per_h_per_kw"]) * rated_kw * gallon_wh,
        float(row["gal_per_kwh"]) / 1000.0 * gallon_wh,
        True,
    )


def willans(supply: Generator) -> WillansLine:
    """The line of a set.

    Two or more points are fitted by least squares with neither part below zero; one point scales
    the typical line; none leaves it. Points are hours on the tank on the fuel the ratings are for.

    Args:
        supply: one engine set.

    Returns:
        Heat over load.
    """
    typical = typical_line(supply)
    fuel = supply.ratings_for if supply.ratings_for in WH_PER_L else "gasoline"
    if not supply.fuel_points or supply.tank_l is None:
        return typical
    points = [(w, supply.tank_l * WH_PER_L[fuel] / h) for w, h in supply.fuel_points]
    spread = max(w for w, _ in points) - min(w for w, _ in points)
    if spread < 1.0:
        factor = points[0][1] / typical.heat_w(points[0][0])
        return WillansLine(typical.idle_w * factor, typical.slope * factor, False)
    n = len(points)
    mean_w, mean_heat = sum(w for w, _ in points) / n, sum(q for _, q in points) / n
    slope = max(
        sum((w - mean_w) * (q - mean_heat) for w, q in points)
        / sum((w - mean_w) ** 2 for w, _ in points),
        0.0,
    )
    idle = mean_heat - slope * mean_w
    if idle < 0.0:
        idle, slope = 0.0, sum(w * q for w, q in points) / sum(w * w for w, _ in points)
    return WillansLine(idle, slope, False)


def on_board_wh(supply: Generator, fuel: str) -> tuple[float, float] | None:
    """Heat on board for a fuel, nominally and as really filled [Wh]; None where it does not run dry
    or is unknown.

    Args:
        supply: one engine set.
        fuel: ``gasoline``, ``propane``, ``natural_gas`` or ``diesel``.

    Returns:
        Nominal and real heat [Wh], or None.
    """
    if fuel == "propane":
        if supply.cylinder is None:
            return None
        full = (
            supply.cylinder.capacity_kg
            * supply.cylinder.count
            / PROPANE_KG_PER_L
            * WH_PER_L["propane"]
        )
        return full, full * supply.cylinder.fill
    if supply.tank_l is None or fuel not in WH_PER_L:
        return None
    full = supply.tank_l * WH_PER_L[fuel]
    return full, full


def unknown_store(units: tuple[Generator, ...]) -> str:
    """What a set's fuel stands in and nobody has said.

    Args:
        units: sets that share the load.

    Returns:
        ``tank`` or ``cylinder``; empty where it is known, or comes by pipe.
    """
    for unit in units:
        if unit.fuel in WH_PER_L and on_board_wh(unit, unit.fuel) is None:
            return "cylinder" if unit.fuel == "propane" else "tank"
    return ""


@record
class FuelUse:
    """One fuel at one load.

    Attributes:
        litres_per_h: rate [l/h], None for natural gas.
        heat_w: heat taken [W].
        hours, hours_nominal: on what is on board as really filled, and when full by the plate [h].
        refills: for the hours wanted beyond what is on board.
        cost_per_h, cost_per_night: in the prices' money, a night of ten hours.
        bought: the way propane is bought where several have a price.
    """

    fuel: str
    litres_per_h: float | None
    heat_w: float
    hours: float | None = None
    hours_nominal: float | None = None
    refills: int | None = None
    cost_per_h: float | None = None
    cost_per_night: float | None = None
    bought: str = ""


EXCHANGE_FILL = 0.85
"""What an exchanged cylinder holds of what its plate says [1]: 4.0 of 4.7 gallons (common practice,
no source)."""
WEIGHED, EXCHANGED, FILLED = "by weight", "exchanged", "filled"


def propane_per_kg(prices: Prices, cylinder: Cylinder | None) -> dict[str, float]:
    """Money for a kilogram of propane in each way it is bought that has a price; a cylinder's price
    needs a cylinder, or a usual one is taken.

    Args:
        prices: as they were typed.
        cylinder: that it is bought in.

    Returns:
        Money by way.
    """
    holds_kg = (cylinder or Cylinder()).capacity_kg
    ways = {
        WEIGHED: (prices.propane_per_kg, 1.0),
        FILLED: (prices.propane_per_fill, holds_kg),
        EXCHANGED: (prices.propane_per_exchange, EXCHANGE_FILL * holds_kg),
    }
    return {way: price / kg for way, (price, kg) in ways.items() if price is not None}


def price_per_wh(
    fuel: str, prices: Prices, cylinder: Cylinder | None = None, bought: str = ""
) -> float | None:
    """Money for a watt-hour of heat of a fuel, or None where no price is given; propane in the way
    it is bought, else the cheapest.

    Args:
        fuel: ``gasoline``, ``propane``, ``natural_gas`` or ``diesel``.
        prices: what fuel costs.
        cylinder: the propane cylinder, where there is one.
        bought: the way propane is bought; the cheapest unless said.

    Returns:
        Money for a watt-hour of heat.
    """
    if fuel == "propane":
        ways = propane_per_kg(prices, cylinder)
        price = ways.get(bought) if bought else min(ways.values(), default=None)
        return None if price is None else price * PROPANE_KG_PER_L / WH_PER_L[fuel]
    if fuel == "natural_gas":
        return None if prices.natural_gas_per_kwh is None else prices.natural_gas_per_kwh / 1000.0
    name, per_litre = PRICE_OF[fuel]
    price = getattr(prices, name)
    return None if price is None else price * per_litre / WH_PER_L[fuel]


def fuel_use(
    supply: Generator,
    fuel: str,
    load_w: float,
    prices: Prices,
    wanted_h: float | None = None,
    bought: str = "",
) -> FuelUse:
    """What a set burns of a fuel at a constant load; ``bought``: the way propane is bought, of
    :func:`propane_per_kg`, the cheapest unless said.

    Args:
        supply: a generator.
        fuel: that it burns.
        load_w: what it gives [W].
        prices: as they were typed.
        wanted_h: hours it is to run [h].
        bought: the way propane is bought.

    Returns:
        Litres an hour [L/h], hours on board [h] and money.
    """
    heat = float(willans(supply).heat_w(load_w, eco_share(supply, load_w)))
    board = on_board_wh(supply, fuel)
    hours = board[1] / heat if board and heat > 0 else None
    refills = (
        max(0, -int(-(wanted_h or 0.0) // hours) - 1) if hours and wanted_h is not None else None
    )
    price = price_per_wh(fuel, prices, supply.cylinder, bought)
    cost = price * heat if price is not None else None
    return FuelUse(
        fuel,
        heat / WH_PER_L[fuel] if fuel in WH_PER_L else None,
        heat,
        hours,
        board[0] / heat if board and heat > 0 else None,
        refills,
        cost,
        cost * NIGHT_H if cost is not None else None,
        bought,
    )


def fuels_side_by_side(
    units: tuple[Generator, ...], load_w: float, prices: Prices, wanted_h: float | None = None
) -> tuple[FuelUse, ...]:
    """Every fuel all the sets may burn (present, plate's, those with a rating or a cylinder), the
    sets' use added up.

    Args:
        units: sets that share the load.
        load_w: of all of them [W].
        prices: as they were typed.
        wanted_h: hours they are to run [h].

    Returns:
        A row for each fuel and way it is bought.
    """
    total = sum(u.continuous_w for u in units)
    may = [{u.fuel, u.ratings_for, *u.by_fuel, *(["propane"] if u.cylinder else [])} for u in units]
    found = []
    for fuel, bought in [
        (f, way)
        for f in FUELS
        if all(f in each for each in may)
        for way in (_ways(units, prices) if f == "propane" else ("",))
    ]:
        uses = [
            fuel_use(u, fuel, load_w * u.continuous_w / total, prices, wanted_h, bought)
            for u in units
        ]
        costs = [u.cost_per_h for u in uses if u.cost_per_h is not None]
        cost = sum(costs) if len(costs) == len(units) else None
        litres = [u.litres_per_h for u in uses if u.litres_per_h is not None]
        first = min(uses, key=lambda u: u.hours if u.hours is not None else float("inf"))
        found.append(
            FuelUse(
                fuel,
                sum(litres) if litres else None,
                sum(u.heat_w for u in uses),
                first.hours,
                first.hours_nominal,
                first.refills,
                cost,
                cost * NIGHT_H if cost is not None else None,
                bought,
            )
        )
    return tuple(found)


def _ways(units: tuple[Generator, ...], prices: Prices) -> tuple[str, ...]:
    """The ways propane is bought that are told apart: those with a price where several have one."""
    ways = propane_per_kg(prices, units[0].cylinder)
    return tuple(ways) if len(ways) > 1 else ("",)
