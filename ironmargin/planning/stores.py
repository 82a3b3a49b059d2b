"""What is in stock as figures: fuel, battery, generator, and the days loads are used."""

from __future__ import annotations

from dataclasses import replace

from ironmargin.case import prepare
from ironmargin.enduring.battery import CHARGING
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.fuel import ECO_IDLE, PROPANE_KG_PER_L, WH_PER_L, willans
from ironmargin.errors import Fault, SetupError
from ironmargin.loads.reader import demand_of
from ironmargin.planning.stock import Stock
from ironmargin.record import record
from ironmargin.setup.changed import released
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup, Wanted
from ironmargin.supplies.kinds.inverters import idle_w

CHARGE_C = 0.2
"""Bulk charging where nothing is said: a fifth of the battery an hour (common practice)."""


DAY_H = 24.0


@record
class Day:
    """A load in a day: its watts while on, hours wanted and needed, its rank."""

    load: str
    name: str
    watts: float
    wanted_h: float
    min_h: float
    rank: str


@record
class Means:
    """What a day is lived on.

    Attributes:
        fuel_wh: heat in stock [Wh].
        idle_w, slope: Willans line of all sets, heat [W] and [1].
        set_w: what the sets give [W].
        set_h: hours a day they may run.
        battery_wh: usable, 0 where none.
        charge_w: into the battery from the set [W].
        efficiency, charging: out of it and into it [1].
        own_w: of the inverter [W].
        solar_wh: a day.
    """

    fuel_wh: float
    idle_w: float
    slope: float
    set_w: float
    set_h: float
    battery_wh: float = 0.0
    charge_w: float = 0.0
    efficiency: float = 1.0
    charging: float = 1.0
    own_w: float = 0.0
    solar_wh: float = 0.0


def days_of(setup: Setup, stock: Stock) -> tuple[Day, ...]:
    """The loads of a day with their watts.

    Args:
        setup: supply, path, rig and rules of the question.
        stock: fuel or battery, and what is wanted of a day.

    Returns:
        Hours wanted and least [h], watts [W], and what is missed least.
    """
    loads = {x.id: (at, x) for at, x in enumerate(setup.rig.loads)}
    modes = {w.load: w.mode for w in setup.wanted}
    uses: list[tuple[str, str | None, float, float, str | None]] = (
        [(u.load, u.mode, u.hours, u.min_hours, u.priority) for u in stock.loads]
        if stock.loads is not None
        else [(x, modes[x], 24.0, 0.0, None) for x in modes]
    )
    case = prepare(
        _with_uses(setup, [(ident, mode or modes.get(ident)) for ident, mode, *_ in uses])
    )
    demands = {d.load.id: d for d in case.demands}
    found = []
    for ident, mode, hours, minimum, rank in uses:
        at, load = loads[ident]
        cooling = isinstance(load, AirConditioner)
        demand = demands.get(ident)
        if demand is None:  # not served here: its watts as it would have them
            demand = demand_of(setup, at, (mode or modes.get(ident)) if cooling else None)
        watts = sum(d.va.real for d in demand.steady)
        if stock.loads is None:
            hours = 24.0 * demand.hours_duty
        else:
            watts *= demand.hours_duty if demand.cycles_per_h else 1.0
        priority = rank or load.priority
        needed = hours if priority == "must" and stock.loads is None else minimum
        found.append(Day(ident, load.name, watts, hours, needed, priority))
    return tuple(found)


def _with_uses(setup: Setup, uses: list[tuple[str, str | None]]) -> Setup:
    """The question of running these loads, in these modes, together."""
    cooling = {x.id for x in setup.rig.loads if isinstance(x, AirConditioner)}
    wanted = tuple(Wanted(load=i, mode=m if i in cooling else None) for i, m in dict(uses).items())
    return released(replace(setup, wanted=wanted))


def starving_h(setup: Setup) -> float | None:
    """When the cylinder of a set gets too cold to feed everything wanted [h]; None where it does
    not, or there is none.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Hours [h].
    """
    case = prepare(replace(setup, conditions=replace(setup.conditions, target_hours=None)))
    found = lasting(case, one_more=False).cylinder
    return found.starves_h if found is not None else None


def means_of(setup: Setup, stock: Stock) -> Means:
    """What there is, from the setup's supply and the stock.

    Args:
        setup: supply, path, rig and rules of the question.
        stock: fuel or battery, and what is wanted of a day.

    Returns:
        Energy in stock [Wh], and what an hour and a watt take of it.

    Raises:
        SetupError: nothing in stock for this supply, or fuel that its sets do not burn.
    """
    supply = setup.supply
    units = supply.engines
    fuel_wh = idle = slope = set_w = 0.0
    if units:
        fuel = stock.fuel or units[0].fuel
        may = {u for x in units for u in (x.fuel, x.ratings_for, *x.by_fuel)}
        if fuel not in may:
            rule = f"the generator burns {', '.join(sorted(may))}"
            raise SetupError([Fault("fuel", "fuel", f"{rule} (got {fuel})")])
        litres = stock.litres if stock.litres is not None else None
        if stock.kg is not None:
            litres = (litres or 0.0) + stock.kg / PROPANE_KG_PER_L
        if litres is None:
            raise SetupError([Fault("litres", "missing", "must be given (got nothing)")])
        fuel_wh = litres * WH_PER_L.get(fuel, WH_PER_L["gasoline"])
        case = prepare(setup)
        set_w = sum(x.continuous_w for x in units)
        if supply.limit_set_a is None:
            volts = case.source.leg_v * case.source.conductors
            set_w = min(set_w, case.source.continuous_a * volts)
        total = sum(u.continuous_w for u in units)
        for unit in units:
            line = willans(unit)
            saved = (1.0 - ECO_IDLE) * line.idle_w if unit.eco and line.typical else 0.0
            idle += line.idle_w - saved
            slope += (line.slope + saved / unit.continuous_w) * unit.continuous_w / total
    inverter = supply.battery
    if not units and inverter is None:
        rule = "a post needs no rationing: ration a generator or a battery"
        raise SetupError([Fault("supply", "supply", f"{rule} (got {supply.kind})")])
    sun = stock.solar.peak_w * stock.solar.sun_h if stock.solar is not None else 0.0
    if inverter is None:
        return Means(fuel_wh, idle, slope, set_w, stock.generator_hours)
    charging = supply.charging if supply.input_a else CHARGING
    charge_w = stock.charge_w or CHARGE_C * inverter.battery_wh
    return Means(
        fuel_wh,
        idle,
        slope,
        set_w,
        stock.generator_hours if units else 0.0,
        inverter.battery_wh * inverter.usable_fraction,
        min(charge_w, set_w) if units else 0.0,
        inverter.efficiency,
        charging,
        idle_w(inverter),
        sun * charging + 24.0 * inverter.input_w,
    )
