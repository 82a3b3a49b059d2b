"""Hours of a setup: what is asked with the sliders, and what the page shows of the answer."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from django.http import QueryDict

from ironmargin.case import prepare
from ironmargin.document import Document
from ironmargin.electrics.network import Real
from ironmargin.enduring.dc_side import dc_words
from ironmargin.enduring.endurance import lasting
from ironmargin.enduring.found import Lasting
from ironmargin.enduring.fuel import unknown_store
from ironmargin.enduring.left import by_mode, level_of
from ironmargin.errors import SetupError
from ironmargin.listed import clock, clock_after
from ironmargin.loads import rooms
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.records import write_record
from web.design.context import Context
from web.design.fields import from_units, in_units
from web.design.typed import typed_figure
from web.hours.endless import endless
from web.setups.stations import Answer

MIN_TURN_K = 0.2
"""A thermostat turned by less has not been turned."""
STEP_S = 60.0
WIDTH, HEIGHT = 720.0, 150.0
MAX_POINTS = 360
TICK_HOURS, MAX_TICKS = (1, 2, 3, 6, 12, 24), 7
"""Hours between the words of the axis, and so many of them that a phone can show."""
SLIDERS = {
    "hours": ("Hours wanted", 1.0, 168.0, 1.0, "h"),
    "outdoor": ("Heat outdoors", -10.0, 50.0, 1.0, "°C"),
    "tank": ("Tank", 1.0, 60.0, 0.5, "l"),
    "cylinders": ("Cylinders", 1.0, 6.0, 1.0, ""),
    "thermostat": ("Thermostat", 18.0, 30.0, 0.5, "°C"),
    "limit": ("Input limit", 1.0, 50.0, 1.0, "A"),
    "soc": ("Charge at the beginning", 10.0, 100.0, 5.0, "%"),
    "charged": ("Charging input", 0.0, 2000.0, 25.0, "W"),
}


@dataclass(frozen=True)
class Slider:
    """One slider: its name, range and where it stands."""

    name: str
    label: str
    minimum: float
    maximum: float
    step: float
    unit: str
    value: float


def sliders(setup: Setup, units: str) -> list[Slider]:
    """The sliders that mean anything on this supply, at where the setup stands, in a person's
    units.
    """
    supply = setup.supply
    found: dict[str, float] = {
        "hours": setup.conditions.target_hours or 10.0,
        "outdoor": setup.conditions.outdoor_c,
    }
    if len(supply.engines) == 1:
        unit = supply.engines[0]
        if unit.tank_l is not None and unit.fuel != "propane":
            found["tank"] = unit.tank_l
        if unit.fuel == "propane" and unit.cylinder is not None:
            found["cylinders"] = float(unit.cylinder.count)
    wanted = {w.load for w in setup.wanted}
    if any(isinstance(x, AirConditioner) and x.id in wanted for x in setup.rig.loads):
        found["thermostat"] = (setup.rig.room or rooms.USUAL).target_c
    if supply.limit_set_a is not None:
        found["limit"] = supply.limit_set_a
    if supply.battery is not None:
        found["soc"] = 100.0 * supply.battery.start_soc
        found["charged"] = supply.battery.input_w
    return [_slider(name, value, units) for name, value in found.items()]


def _slider(name: str, value: float, units: str) -> Slider:
    label, minimum, maximum, step, unit = SLIDERS[name]
    low, shown = in_units(minimum, unit, units)
    high, _ = in_units(maximum, unit, units)
    at, _ = in_units(value, unit, units)
    return Slider(name, label, round(low, 1), round(high, 1), step, shown, round(at, 2))


def requested(setup: Setup, query: QueryDict, units: str) -> Setup:
    """The setup with what the sliders say; what cannot be read stays as it is."""
    document = write_setup(setup)
    document.setdefault("conditions", {})
    supply = document["supply"]
    room = setup.rig.room or rooms.USUAL
    thermostat = room.target_c
    for slider in sliders(setup, units):
        value = typed_figure(query.get(slider.name))
        if value is None or not slider.minimum <= value <= slider.maximum:
            continue
        value = from_units(value, SLIDERS[slider.name][4], units)
        if slider.name == "hours":
            document["conditions"]["target_hours"] = value
        elif slider.name == "outdoor":
            document["conditions"]["outdoor_c"] = value
        elif slider.name == "tank":
            supply.get("input", supply)["tank_l"] = value
        elif slider.name == "cylinders":
            engine = supply.get("input", supply)
            engine["cylinder"] = dict(engine.get("cylinder") or {}) | {"count": int(value)}
        elif slider.name == "thermostat":
            thermostat = value
        elif slider.name == "limit":
            if value != supply["input_limit_a"]:  # another limit has not been read
                supply.pop("input_read_w", None)
            supply["input_limit_a"] = value
        elif slider.name == "charged":
            supply.get("inverter", supply)["input_w"] = value
        elif slider.name == "soc":
            supply.get("inverter", supply)["start_soc"] = value / 100.0
    if abs(thermostat - room.target_c) > MIN_TURN_K:
        outdoor = document["conditions"].get("outdoor_c", setup.conditions.outdoor_c)
        turned = replace(room, target_c=thermostat)
        document["rig"]["room"] = write_record(turned)
        factor = rooms.duty_at(turned, outdoor) / rooms.duty_at(room, outdoor)
        for load in document["rig"]["loads"]:
            if load["kind"] == "air-conditioner":
                _runs_longer(load, factor)
    try:
        return read_setup(document)
    except SetupError:
        return setup


def _runs_longer(load: Document, factor: float) -> None:
    """Run an air conditioner that has on and off times of its own as much longer or shorter as
    another thermostat asks; without them the room says it.
    """
    if load.get("on_s") and load.get("off_s"):
        whole = load["on_s"] + load["off_s"]
        load["on_s"] = min(max(load["on_s"] * factor, 1.0), whole - 1.0)
        load["off_s"] = whole - load["on_s"]
    elif load.get("duty"):
        load["duty"] = round(min(load["duty"] * factor, 1.0), 4)


@dataclass(frozen=True)
class Axis:
    """The hours drawn: path data and marks, in a box of WIDTH by HEIGHT."""

    load: str
    level: str
    band: str
    max_w: float
    hours: float
    ticks: tuple[tuple[float, str], ...]
    quiet: tuple[tuple[float, float], ...]
    marks: tuple[tuple[float, str], ...]
    level_words: str


def draw(setup: Setup, found: Lasting) -> Axis:
    """The load, the level of fuel or charge with its band, quiet hours and what happens."""
    time, load = found.series["time_h"], found.series["load_w"]
    hours = float(time[-1]) if len(time) > 1 else 1.0
    every = max(len(time) // MAX_POINTS, 1)
    stretches = range(0, len(load), every)
    mean = [float(load[n : n + every].mean()) for n in stretches]
    max_w = max(*mean, 1.0) * 1.1
    at = [float(time[n]) for n in stretches]
    points = [
        f"{WIDTH * t / hours:.1f} {HEIGHT * (1 - w / max_w):.1f}"
        for t, w in zip(at, mean, strict=True)
    ]
    area = f"M0 {HEIGHT}L" + "L".join(points) + f"L{WIDTH} {HEIGHT}Z"
    level, low, high, words = level_of(setup.supply, found, STEP_S)
    x = np.linspace(0.0, WIDTH, len(level))

    def line(values: Real) -> str:
        return "L".join(
            f"{a:.1f} {HEIGHT * (1 - min(max(v, 0.0), 1.0)):.1f}"
            for a, v in list(zip(x, values, strict=True))[:: max(len(values) // MAX_POINTS, 1)]
        )

    path = "M" + line(level) if len(level) else ""
    band = ""
    if len(level):
        back = "L".join(reversed(line(low).split("L")))
        band = f"M{line(high)}L{back}Z"
    begins = setup.site.starts_at_h
    step = next((s for s in TICK_HOURS if hours / s <= MAX_TICKS), TICK_HOURS[-1])
    ticks = tuple(
        (round(WIDTH * h / hours, 1), clock(begins + h)) for h in range(0, int(hours) + 1, step)
    )
    return Axis(
        area,
        path,
        band,
        max_w,
        hours,
        ticks,
        _quiet(setup, hours),
        _marks(setup, found, hours),
        words,
    )


def _quiet(setup: Setup, hours: float) -> tuple[tuple[float, float], ...]:
    site = setup.site
    if site.quiet_from_h is None or site.quiet_to_h is None:
        return ()
    length = (site.quiet_to_h - site.quiet_from_h) % 24.0
    found = []
    begin = site.quiet_from_h - site.starts_at_h - 24.0
    while begin < hours:
        first, last = max(begin, 0.0), min(begin + length, hours)
        if last > first:
            found.append(
                (round(WIDTH * first / hours, 1), round(WIDTH * (last - first) / hours, 1))
            )
        begin += 24.0
    return tuple(found)


def _marks(setup: Setup, found: Lasting, hours: float) -> tuple[tuple[float, str], ...]:
    """What happens in the hours, each with its moment."""
    e, begins = found.endurance, setup.site.starts_at_h
    marks: list[tuple[float, str]] = []

    def add(hour: float | None, words: str) -> None:
        if hour is not None and 0.0 <= hour <= hours:
            marks.append((round(WIDTH * hour / hours, 1), f"{words} {clock(begins + hour)}"))

    if e.starves_h is not None:
        add(e.starves_h, "starves at a start" if e.starves_at_start else "too cold to feed it")
    for n, hour in enumerate((e.refill_at_h or ())[:8]):
        add(hour, f"refill {n + 1}")
    add(e.battery_h, "empty")
    return tuple(marks)


def answer(setup: Setup, query: QueryDict, units: str) -> Context:
    """Everything the first section shows."""
    now = requested(setup, query, units)
    case = prepare(now)
    found = lasting(case, step_s=STEP_S)
    return {
        "now": now,
        "found": found,
        "e": found.endurance,
        "axis": draw(now, found),
        "sliders": sliders(now, units),
        "fuels": [(f, NOTES.get(f.fuel, "")) for f in found.fuels],
        "modes": by_mode(now, found, STEP_S),
        "priced": any(f.cost_per_night is not None for f in found.fuels),
        "back_at": back_at(now, found),
        "looks": looks_of(now, found),
        "then": then_of(now, found),
        "dc_words": dc_words(now),
        "query": query,
        "answer": words_of(now, found),
        "unknown": unknown_store(now.supply.engines),
    }


def words_of(setup: Setup, found: Lasting) -> Answer:
    """How long it lasts, in a figure and a sentence."""
    e, begins = found.endurance, setup.site.starts_at_h
    wanted = setup.conditions.target_hours
    lasts = min((h for h in (e.fuel_h, e.battery_h) if h is not None), default=None)
    if lasts is None:
        cost = f" It costs {e.cost_per_night:.2f} a night." if e.cost_per_night else ""
        why = endless(setup)
        return replace(why, sentence=f"{why.sentence}{cost}")
    what = "battery" if e.battery_h == lasts else "fuel on board"
    enough = e.margin is None or e.margin >= 0.0
    said = f"The {what} lasts until {clock_after(begins, lasts)}"
    if wanted:
        gap = abs(lasts - wanted)
        said += f", {gap:.1f} h {'longer than' if enough else 'short of'} the {wanted:g} h wanted"
    if e.refills:
        said += f"; {e.refills} refill{'s' if e.refills > 1 else ''} would be enough"
    if e.starves_h is not None:
        said += f". The cylinder is too cold to feed it after {e.starves_h:.1f} h"
        enough = False
    return Answer(f"{lasts:.1f} h", f"{said}.", "holds" if enough else "fails")


def back_at(setup: Setup, found: Lasting) -> str:
    """When the charge is back, on the clock and with its day; empty where nothing was taken."""
    refill = found.endurance.refill_h
    if not refill or setup.conditions.target_hours is None:
        return ""
    return clock_after(setup.site.starts_at_h, setup.conditions.target_hours + refill)


def looks_of(setup: Setup, found: Lasting) -> list[tuple[str, str]]:
    """When to look at the tank, cylinder or battery: at a half and at a quarter, on the clock."""
    level, _, _, _ = level_of(setup.supply, found, STEP_S)
    marks = []
    for share, words in LOOKS:
        below = np.flatnonzero(np.asarray(level) <= share)
        if len(level) and level[0] > share and len(below):
            after_h = float(below[0]) * STEP_S / 3600.0
            marks.append((words, clock_after(setup.site.starts_at_h, after_h)))
    return marks


def then_of(setup: Setup, found: Lasting) -> str:
    """What the other fuel on board adds, and when the selector is turned; empty without one."""
    first = next((u.fuel for u in setup.supply.engines), "")
    hours = {f.fuel: f.hours for f in found.fuels if f.hours}
    others = {fuel: h for fuel, h in hours.items() if fuel != first}
    runs = found.endurance.fuel_h
    if runs is None or not others:
        return ""
    other, more = max(others.items(), key=lambda item: item[1])
    at, end = (clock_after(setup.site.starts_at_h, h) for h in (runs, runs + more))
    return (
        f"The {other.replace('_', ' ')} on board adds {more:.1f} h: turn the selector before "
        f"{at}, with the loads off, and it runs until {end}."
    )


LOOKS = ((0.5, "half"), (0.25, "a quarter"))
NOTES = {
    "gasoline": "Keeps some months with stabilizer. Never keep it in living space, never refuel "
    "hot.",
    "propane": "Keeps for years. Keep it upright, outside, valve shut when not in use. Weak in "
    "the cold.",
    "diesel": "Keeps a year. Hard to clean up; gels in frost.",
    "natural_gas": "Never runs out by itself, but fails with the pipe. The connection is licensed "
    "work.",
}
"""Storage and safety in a line (common practice, no source)."""
