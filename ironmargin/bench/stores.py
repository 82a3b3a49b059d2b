"""What a run uses up: the tank, the cylinder and its warmth, the battery."""

from __future__ import annotations

from ironmargin.bench.state import State
from ironmargin.case import Case
from ironmargin.enduring.battery import accepted_w, flows_of
from ironmargin.enduring.boiloff import EMPTY_KG, cooled_c, gauge_pa, needed_pa
from ironmargin.enduring.fuel import (
    PROPANE_KG_PER_L,
    WH_PER_L,
    eco_share,
    on_board_wh,
    price_per_wh,
    willans,
)
from ironmargin.setup.engines import Cylinder
from ironmargin.setup.model import Setup
from ironmargin.supplies.kinds.inverters import idle_w

SHUT_DOWN = 1e-9


def fill(setup: Setup, state: State, fuel: float, soc: float | None) -> None:
    """Fill tank or cylinder to a share, and the battery, at the beginning.

    Args:
        setup: supply, path, rig and rules of the run.
        state: of the run; its stores are filled.
        fuel: share of tank or cylinder [1].
        soc: state of charge of the battery [1]; None for what the setup says.
    """
    units = setup.supply.engines
    boards = [on_board_wh(u, u.fuel) for u in units]
    if units and all(b is not None for b in boards):
        state.fuel_wh = min(b[1] for b in boards if b is not None) * fuel
    held = cylinder_of(setup)
    if held is not None:
        state.cylinder_kg = held.capacity_kg * held.fill * fuel
        state.cylinder_c = state.outdoor_c
    inverter = setup.supply.battery
    if inverter is not None:
        state.soc = inverter.start_soc if soc is None else soc


def cylinder_of(setup: Setup) -> Cylinder | None:
    """The propane cylinder of the first set that burns from one.

    Args:
        setup: supply, path, rig and rules of the run.

    Returns:
        The cylinder, or None.
    """
    for unit in setup.supply.engines:
        if unit.fuel == "propane" and unit.cylinder is not None:
            return unit.cylinder
    return None


def heat_w(setup: Setup, load_w: float) -> list[float]:
    """Heat every engine set takes at a load of them all [W].

    Args:
        setup: supply, path, rig and rules of the run.
        load_w: watts the sets give together [W].

    Returns:
        Watts of fuel, a figure a set [W].
    """
    units = setup.supply.engines
    total = sum(u.continuous_w for u in units)
    shares = [load_w * u.continuous_w / total for u in units]
    return [
        float(willans(u).heat_w(w, eco_share(u, w))) for u, w in zip(units, shares, strict=True)
    ]


def from_input_w(setup: Setup, case: Case, state: State, load_w: float) -> tuple[float, float]:
    """What an assist takes from its input, and what its battery gives (negative: takes) [W].

    Args:
        setup: supply, path, rig and rules of the run.
        case: of the moment.
        state: of the run: the battery's charge.
        load_w: watts of all that runs [W].

    Returns:
        Watts of the input and watts of the battery [W].
    """
    inverter = setup.supply.battery
    if inverter is None or state.soc is None:
        return load_w, 0.0
    own = idle_w(inverter) * inverter.efficiency
    maximum = case.source.input_limit_w
    requested = load_w + own
    room = accepted_w(inverter, state.soc) if state.soc < 1.0 else 0.0
    now = flows_of(inverter, requested, maximum, setup.supply.charging, room)
    return now.input_w, now.battery_w


def use(setup: Setup, case: Case, state: State, load_w: float, seconds: float) -> None:
    """Take what a quiet span uses out of tank, cylinder and battery, and put its price down.

    Args:
        setup: supply, path, rig and rules of the run.
        case: of the moment.
        state: of the run; its stores are drawn down.
        load_w: watts of all that runs [W].
        seconds: how long [s].
    """
    if not state.set_on:
        return
    taken_w, battery_w = from_input_w(setup, case, state, load_w)
    hours = seconds / 3600.0
    inverter = setup.supply.battery
    if inverter is not None and state.soc is not None:
        floor = 1.0 - inverter.usable_fraction
        state.soc = min(state.soc - battery_w * hours / inverter.battery_wh, 1.0)
        if battery_w > 0.0 and state.soc <= floor + SHUT_DOWN:
            state.soc, state.spent = floor, "battery"
    units = setup.supply.engines
    if units:
        heats = heat_w(setup, taken_w)
        for unit, heat in zip(units, heats, strict=True):
            price = price_per_wh(unit.fuel, setup.prices)
            state.cost += (price or 0.0) * heat * hours
            if unit.fuel in WH_PER_L:
                state.litres += heat * hours / WH_PER_L[unit.fuel]
        if state.fuel_wh is not None:
            state.fuel_wh = max(state.fuel_wh - max(heats) * hours, 0.0)
            if state.fuel_wh <= 0.0:
                state.spent = "fuel"
        boil(setup, state, heats, seconds)
    elif setup.prices.shore_per_kwh is not None:
        state.cost += setup.prices.shore_per_kwh * taken_w / 1000.0 * hours


def boil(setup: Setup, state: State, heats: list[float], seconds: float) -> None:
    """Cool a cylinder by what evaporates, and warm it through its wetted wall, over one span.

    Args:
        setup: supply, path, rig and rules of the run.
        state: of the run; its cylinder is cooled and emptied.
        heats: of fuel each set takes [W].
        seconds: how long [s].
    """
    held = cylinder_of(setup)
    if held is None or state.cylinder_kg is None or state.cylinder_kg <= EMPTY_KG:
        return
    each = max(heats) / WH_PER_L["propane"] * PROPANE_KG_PER_L / 3600.0 / held.count
    state.cylinder_c = cooled_c(
        held.capacity_kg, state.cylinder_kg, state.cylinder_c, state.outdoor_c, each, seconds
    )
    state.cylinder_kg = max(state.cylinder_kg - each * seconds, 0.0)


def starves(setup: Setup, state: State, altitude_m: float, *, start: bool) -> bool:
    """Whether a cylinder is too cold to feed its set, now or through a compressor's start.

    Args:
        setup: supply, path, rig and rules of the run.
        state: of the run: the cylinder's gas.
        altitude_m: of the place [m].
        start: whether a compressor starts.

    Returns:
        Whether the gas has too little pressure.
    """
    if cylinder_of(setup) is None or state.cylinder_kg is None:
        return False
    gauge = gauge_pa(state.cylinder_c, altitude_m)
    return gauge < needed_pa(start)
