"""How long a case lasts: fuel, battery, noise and cost put together, with the series behind it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Real
from ironmargin.enduring.battery import (
    BatterySeries,
    capacity_wh,
    min_input_w,
    refill_hours,
    run_battery,
)
from ironmargin.enduring.boiloff import BoilOff, boil_off
from ironmargin.enduring.duty import load_series, statistics
from ironmargin.enduring.found import Endurance, Lasting
from ironmargin.enduring.fuel import (
    PROPANE_KG_PER_L,
    WH_PER_L,
    FuelUse,
    eco_share,
    fuel_use,
    fuels_side_by_side,
    on_board_wh,
    willans,
)
from ironmargin.enduring.noise import Sound, quiet_overlap_h, sound_of_set, together
from ironmargin.setup.engines import Generator
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.starting.nights import NIGHT_H, coincidences_per_night
from ironmargin.supplies.kinds.inverters import idle_w

STEP_S = 60.0
"""Step of the series, the same in a check and a closer look, so that both say the same hours."""
LONGEST_H = 24.0 * 7
MAX_REFILLS = 100
COARSE = 750
"""Steps a search over whole runs looks at: the load is averaged down to them."""
LOOK_AHEAD_H = 24.0
"""How far a battery is followed where no hours are asked for."""


def hours_margin(requested_h: float, lasts_h: float) -> float:
    """Margin of hours [1]: ``1 − requested ÷ lasts``; where it falls short, ``lasts ÷ requested
    − 1``, so that nothing is less than −1, which is nothing at all.

    Args:
        requested_h: hours wanted [h].
        lasts_h: hours there are [h].

    Returns:
        The margin [1].
    """
    if lasts_h >= requested_h:
        return 1.0 - requested_h / lasts_h
    return max(lasts_h / requested_h, 0.0) - 1.0


def fuel_hours(
    units: tuple[Generator, ...], load_w: Real, step_s: float
) -> tuple[float | None, Real]:
    """Hours until the first set runs dry under a load that varies, repeating it as often as needed;
    and litres an hour over time.

    Sets share in proportion to rating. None where nothing on board is known.

    Args:
        units: sets that share the load.
        load_w: over time (steps,) [W].
        step_s: length of a step [s].

    Returns:
        Hours [h], and litres an hour (steps,) [L/h].
    """
    total = sum(u.continuous_w for u in units)
    rates, dry = np.zeros(len(load_w)), []
    for unit in units:
        share = load_w * unit.continuous_w / total
        heat = np.asarray(willans(unit).heat_w(share, eco_share(unit, share)))
        if unit.fuel != "natural_gas":
            rates = rates + heat / WH_PER_L[unit.fuel]
        board = on_board_wh(unit, unit.fuel)
        if board is None:
            continue
        burnt = np.cumsum(heat) * step_s / 3600.0
        whole, rest = divmod(board[1], float(burnt[-1]))
        at = float(np.searchsorted(burnt, rest))
        before = float(burnt[int(at) - 1]) if at >= 1 else 0.0
        part = (rest - before) / float(heat[int(at)] * step_s / 3600.0)
        dry.append((whole * len(load_w) + at + part) * step_s / 3600.0)
    return (min(dry) if dry else None), rates


def lasting(case: Case, *, step_s: float = STEP_S, one_more: bool = True) -> Lasting:
    """The endurance of a case over the hours wanted (a day ahead for a battery without).

    Args:
        case: the prepared setup.
        step_s: of the series [s].
        one_more: look at one more cylinder beside, too.

    Returns:
        Hours, cost, sound and series of the supply.
    """
    setup = case.setup
    supply, target = setup.supply, setup.conditions.target_hours
    duty = statistics(case)
    hours = min(target or (LOOK_AHEAD_H if supply.battery is not None else NIGHT_H), LONGEST_H)
    load = load_series(case, hours, step_s)
    series: dict[str, Real] = {
        "time_h": np.arange(len(load), dtype=float) * (step_s / 3600.0),
        "load_w": load,
    }
    slowest = 1.0
    found = Endurance(
        duty.mean_w, duty.p95_w, duty.starts_per_h, coincidences_per_night(case, slowest)
    )
    battery: BatterySeries | None = None
    burdened = load
    if supply.battery is not None:
        found, battery = _battery(case, supply.battery, load, step_s, found)
        burdened = battery.input_w
        series |= {
            "input_w": battery.input_w,
            "battery_w": battery.battery_w,
            "loss_w": battery.loss_w,
            "soc": battery.soc[1:],
        }
    units = supply.engines
    fuels: tuple[FuelUse, ...] = ()
    cylinder = beside = None
    if units:
        found = _fuel(case, units, burdened, step_s, found)
        mean_w, cycles = float(burdened.mean()), duty.starts_per_h > 0
        cylinder = cylinder_of(case, units, mean_w, cycles, 0)
        beside = cylinder_of(case, units, mean_w, cycles, 1) if one_more else None
        if cylinder is not None:
            found = _by_cylinder(found, cylinder, target)
        _, rates = fuel_hours(units, burdened, step_s)
        series["fuel_l_per_h"] = rates
        fuels = fuels_side_by_side(units, float(burdened.mean()), setup.prices, target)
    else:
        if supply.post is not None and setup.prices.shore_per_kwh is not None:
            cost = float(burdened.mean()) / 1000.0 * setup.prices.shore_per_kwh
            found = replace(found, cost_per_h=cost, cost_per_night=cost * NIGHT_H)
    sound = _sound(units, float(burdened.mean())) if units else None
    loud = {
        "idling": _sound(units, 0.0),
        "carrying this load": sound,
        "at a start or fully loaded": _sound(units, sum(u.continuous_w for u in units)),
    }
    if sound is not None:
        site = setup.site
        quiet = None
        if site.quiet_from_h is not None and site.quiet_to_h is not None:
            quiet = quiet_overlap_h(site.starts_at_h, hours, site.quiet_from_h, site.quiet_to_h)
        found = replace(
            found,
            neighbour_dba=sound.at(site.neighbour_m),
            limit_at_m=sound.reaches(site.limit_dba),
            quiet_h=quiet,
        )
    if target is not None and found.lasts_h is not None:
        worst_h = found.lasts_h_worst if found.lasts_h_worst is not None else found.lasts_h
        found = replace(
            found,
            margin=hours_margin(target, found.lasts_h),
            margin_worst=hours_margin(target, worst_h),
        )
    return Lasting(
        found,
        duty,
        series,
        fuels,
        battery,
        sound,
        cylinder,
        beside,
        tuple((when, s) for when, s in loud.items() if s is not None),
    )


def _battery(
    case: Case, inverter: BatteryInverter, load: Real, step_s: float, found: Endurance
) -> tuple[Endurance, BatterySeries]:
    """Battery figures: through the hours wanted, when it is back, and how little input would do."""
    inverter = replace(inverter, battery_wh=capacity_wh(inverter, float(load.mean())))
    supply, volts = case.setup.supply, case.source.leg_v * case.source.conductors
    input_w, charging = case.source.input_limit_w, supply.charging
    idle = idle_w(inverter)
    series = run_battery(
        inverter, load, step_s, input_limit_w=input_w, charging=charging, idle_w=idle
    )
    flat = run_battery(
        inverter,
        np.full(len(load), float(load.mean())),
        step_s,
        input_limit_w=input_w,
        charging=charging,
        idle_w=idle,
    )
    empty, worst = (_empty_h(inverter, run) for run in (flat, series))
    base = sum(
        sum(d.va.real for d in x.steady) * x.hours_duty for x in case.demands if x.load.always_on
    )
    target = case.setup.conditions.target_hours
    after = float(series.soc[-1])
    lowest, full = float(series.soc.min()), inverter.start_soc
    refill = (
        refill_hours(inverter, lowest, full, input_w, charging, base + idle)
        if input_w > 0.0 or inverter.input_w > 0.0
        else None
    )
    fold = -(-len(load) // COARSE)
    coarse = load[: len(load) // fold * fold].reshape(-1, fold).mean(axis=1)
    minimum = (
        min_input_w(inverter, coarse, step_s * fold, charging, input_w, idle)
        if input_w > 0
        else None
    )
    return replace(
        found,
        battery_h=empty,
        battery_h_worst=worst,
        soc_after=after if target else None,
        lowest_soc=lowest,
        refill_h=refill,
        input_a=float(series.input_w.max()) / volts if input_w > 0 else None,
        min_input_a=minimum / volts if minimum is not None else None,
    ), series


def _empty_h(inverter: BatteryInverter, run: BatterySeries) -> float | None:
    """When a battery is empty; beyond the hours looked at, the same again and again [h]."""
    if run.empty_h is not None:
        return run.empty_h
    spent = float(run.soc[0] - run.soc[-1])
    usable = float(run.soc[0]) - (1.0 - inverter.usable_fraction)
    return usable / spent * len(run.load_w) * run.step_s / 3600.0 if spent > 1e-9 else None


def _fuel(
    case: Case, units: tuple[Generator, ...], load: Real, step_s: float, found: Endurance
) -> Endurance:
    """Fuel figures under the varying load."""
    target, prices = case.setup.conditions.target_hours, case.setup.prices
    mean = np.full(1, float(load.mean()))
    dry, _ = fuel_hours(units, mean, step_s)
    worst, rates = fuel_hours(units, load, step_s)
    total = sum(u.continuous_w for u in units)
    uses = [
        fuel_use(u, u.fuel, float(load.mean()) * u.continuous_w / total, prices, target)
        for u in units
    ]
    costs = [u.cost_per_h for u in uses if u.cost_per_h is not None]
    nominal = [u.hours_nominal for u in uses if u.hours_nominal is not None]
    refills = max(0, -int(-target // dry) - 1) if target is not None and dry else None
    when = (
        tuple(dry * (n + 1) for n in range(min(refills, MAX_REFILLS))) if refills and dry else None
    )
    litres = float(rates.mean()) if any(u.litres_per_h is not None for u in uses) else None
    cost = sum(costs) if len(costs) == len(units) else None
    return replace(
        found,
        fuel_h=dry,
        fuel_h_worst=worst,
        assumed=_curves(units),
        fuel_h_nominal=min(nominal) if nominal else None,
        refills=refills,
        refill_at_h=when,
        litres_per_h=litres,
        cost_per_h=cost,
        cost_per_night=cost * NIGHT_H if cost is not None else None,
    )


def _curves(units: tuple[Generator, ...]) -> tuple[tuple[str, float, str], ...]:
    """Which fuel curves are only typical: what each set burns at half load [l/h]."""
    found = []
    for at, unit in enumerate(units):
        line = willans(unit)
        if line.typical and unit.fuel in WH_PER_L:
            litres = line.heat_w(0.5 * unit.continuous_w) / WH_PER_L[unit.fuel]
            path = f"supply.units[{at}]" if len(units) > 1 else "supply"
            found.append((f"{path}.fuel_points", round(float(litres), 3), "typical"))
    return tuple(found)


def cylinder_of(
    case: Case, units: tuple[Generator, ...], load_w: float, starts: bool, more: int = 0
) -> BoilOff | None:
    """The cooling of the first set's cylinder at the mean draw, with ``more`` of them beside it;
    None where none feeds it.

    Args:
        case: the setup, ready to be solved.
        units: sets that share the load.
        load_w: mean of all of them [W].
        starts: whether compressors start on it.
        more: cylinders beside those there are.

    Returns:
        How long it feeds and how cold it gets.
    """
    unit = next((u for u in units if u.fuel == "propane" and u.cylinder is not None), None)
    if unit is None or unit.cylinder is None:
        return None
    share_w = load_w * unit.continuous_w / sum(u.continuous_w for u in units)
    rate = fuel_use(unit, "propane", share_w, case.setup.prices).litres_per_h or 0.0
    c, here = unit.cylinder, case.setup.conditions
    return boil_off(
        c.capacity_kg,
        c.fill,
        c.count + more,
        here.outdoor_c,
        rate * PROPANE_KG_PER_L,
        here.altitude_m,
        starts=starts,
    )


def _by_cylinder(found: Endurance, cylinder: BoilOff, target: float | None) -> Endurance:
    """A cylinder that starves ends the run before it is empty."""
    if cylinder.starves_h is None or (
        found.fuel_h is not None and found.fuel_h <= cylinder.starves_h
    ):
        return found
    hours = cylinder.starves_h
    refills = max(0, -int(-target // hours) - 1) if target is not None and hours > 0 else None
    when = tuple(hours * (n + 1) for n in range(min(refills, MAX_REFILLS))) if refills else None
    return replace(
        found,
        fuel_h=hours,
        fuel_h_worst=min(hours, found.fuel_h_worst or hours),
        starves_h=hours,
        starves_at_start=cylinder.at_start,
        refills=refills,
        refill_at_h=when,
    )


def _sound(units: tuple[Generator, ...], load_w: float) -> Sound | None:
    """The sets' sound together at a load they share by rating, where each has a reading; the
    exhaust is taken to point away.
    """
    total = sum(u.continuous_w for u in units)
    sounds = [
        sound_of_set(u, u.noise, load_w * u.continuous_w / total)
        for u in units
        if u.noise is not None
    ]
    return together(sounds) if sounds and len(sounds) == len(units) else None


def series_csv(found: Lasting) -> str:
    """The time series as CSV: hours, load, and whatever the supply has of input, battery, losses,
    charge and fuel.

    Args:
        found: hours and series of a setup.

    Returns:
        A row a step, with a heading.
    """
    names = list(found.series)
    rows = zip(*(found.series[name].tolist() for name in names), strict=True)
    return (
        ",".join(names) + "\n" + "".join(",".join(f"{x:.6g}" for x in row) + "\n" for row in rows)
    )
