"""What stands on the plate of a supply as it was read from a photograph: a generator's, an
inverter's, a battery's. Sure and asked as a load's plate is (:mod:`ironmargin.loads.plate_words`).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from ironmargin.electrics.services import HIGH_V, SERVICE_120, nominal_of
from ironmargin.loads.plate_words import (
    GAP,
    SURE,
    Figure,
    N,
    ReadAs,
    Words,
    figure_of,
    gathered,
    patterns,
    read_number,
)
from ironmargin.setup.engines import Generator
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.records import specs
from ironmargin.setup.spec import INVALID, Faults, Spec

LITRES_A_GALLON = 3.785411784
KILO = 1000.0
BARE = r"(?<![0-9.,])([0-9]{3,5})"
"""A figure of watts that has no unit."""
POWER = rf"{N}\s*(K?)(?:W(?:ATTS?)?|VA)\b"
STARTING = r"(?:STARTING|SURGE|MAX(?:IMUM|\.)?|PEAK)"
RUNNING = r"(?:RUNNING|RATED|CONT(?:INUOUS|\.)?|NOMINAL)"
WORDS = r"(?:\s*(?:OUTPUT|POWER|AC|LOAD|OF))*"


def _power(word: str) -> tuple[re.Pattern[str], ...]:
    """A power behind its word, or before it."""
    return patterns(
        rf"{word}{WORDS}{GAP}{POWER}",
        rf"{word}{WORDS}\s*WATTS?{GAP}{POWER}",
        rf"{word}{WORDS}\s*WATTS?{GAP}{N}()",
        rf"{POWER}{WORDS}\s*{word}",
        rf"{BARE}()\s*{word}",
    )


PATTERNS: dict[str, tuple[re.Pattern[str], ...]] = {
    "starting_w": _power(STARTING),
    "continuous_w": _power(RUNNING),
    "battery_wh": patterns(rf"{N}\s*(K?)WH\b"),
    "battery_ah": patterns(rf"{N}\s*()AH\b"),
    "battery_v": patterns(rf"{N}\s*()V\s*DC\b", rf"DC{GAP}{N}()\s*V\b"),
    "voltage_v": patterns(
        r"(?:VOLTS?|VOLTAGE)[\s:=.]*([12][0-9]{2}(?:[/-][12][0-9]{2})?)()",
        r"([12][0-9]{2}(?:[/-][12][0-9]{2})?)()\s*V(?:OLTS?|\s*AC|\b)",
    ),
    "tank_l": patterns(
        rf"(?:TANK|FUEL){WORDS}(?:\s*CAPACITY)?{GAP}{N}\s*(L|GAL)", rf"{N}\s*(L|GAL)[A-Z]*\s*TANK"
    ),
}
SAID = {
    "fuel": {
        "gasoline": r"GASOLINE|UNLEADED|PETROL", "propane": r"PROPANE|L\.?P\.?G\b",
        "diesel": r"DIESEL", "natural_gas": r"NATURAL\s+GAS",
    },
    "chemistry": {"lithium": r"LI-?ION|LITHIUM|LIFEPO", "lead": r"\bAGM\b|\bGEL\b|LEAD.?ACID"},
}  # fmt: skip
"""Figures that are a word, and what says them."""
PLACES = {
    "generator": {
        "continuous_w": "continuous_w", "starting_w": "starting_w", "voltage_v": "voltage_v",
        "output": "output", "tank_l": "tank_l", "fuel": "fuel",
    },
    "battery-inverter": {
        "continuous_w": "continuous_w", "starting_w": "surge_w", "voltage_v": "voltage_v",
        "output": "output", "battery_wh": "battery_wh", "chemistry": "chemistry",
    },
}  # fmt: skip
"""Which field of a kind of supply a figure goes to."""
OF_POWER = ("starting_w", "continuous_w")
RATED_FOR = "gasoline"
"""The fuel the first pair of ratings is of, where a plate has a pair for each."""
A_WORD = patterns(rf"{STARTING}|{RUNNING}")[0]
A_POWER = patterns(rf"{POWER}|{BARE}\s*(?:{STARTING}|{RUNNING})")[0]
OUTPUT_POWER = patterns(rf"OUT\s?PUT.*?{POWER}")[0]
"""A power that only says that it comes out: asked, whether it is for hours."""
VOLTS = patterns(r"(?<![0-9.,])([12][0-9]{2})(?=\s*(?:[/-]\s*[12][0-9]{2}\s*)?V)")[0]
FIFTY_HZ = patterns(r"\b50\s*HZ|HZ[\s:=.]*50\b")[0]
RECORDS = {"generator": Generator, "battery-inverter": BatteryInverter}


def _value(field: str, said: str, unit: str) -> tuple[float | None, bool]:
    if field == "voltage_v":
        found = [read_number(x) for x in re.split(r"[/-]", said)]
        return max((v for v, _ in found if v is not None), default=None), False
    value, mended = read_number(said)
    if value is None:
        return None, True
    by = {"K": KILO, "GAL": LITRES_A_GALLON}.get(unit.upper(), 1.0)
    return value * by, mended


def _outputs(text: str) -> Iterator[str]:
    """What a line says of the output: one leg, two, or that of Europe."""
    volts = [int(v) for v in VOLTS.findall(text)]
    low, high = any(v < HIGH_V for v in volts), [v for v in volts if v > HIGH_V]
    if low and high:
        yield "120/240"
    elif low:
        yield "120"
    elif high:
        yield (
            "120/240"
            if max(high) >= 2.0 * nominal_of(SERVICE_120) and not FIFTY_HZ.search(text)
            else "230"
        )


def _figures_first(text: str) -> bool:
    """Whether a line has its powers before their words: "3.2 kW MAX, 3.0 kW RATED"."""
    figures = [found.start() for found in A_POWER.finditer(text)]
    words = [found.start() for found in A_WORD.finditer(text)]
    return bool(figures and words) and figures[0] < words[0] and figures[-1] < words[-1]


def _candidates(text: str) -> Iterator[tuple[str, float | str, bool]]:
    left, turned = text, _figures_first(text)
    for field, tried in PATTERNS.items():
        for pattern in tried[::-1] if turned and field in OF_POWER else tried:
            found = pattern.search(left)
            if found is None:
                continue
            value, mended = _value(field, found[1], found[2] or "")
            if value is not None and value > 0.0:
                yield field, value, mended
                left = f"{left[: found.start()]} | {left[found.end() :]}"
                break
    if (bare := OUTPUT_POWER.search(left)) and not A_WORD.search(left):
        value, _ = _value("continuous_w", bare[1], bare[2] or "")
        if value:
            yield "continuous_w", value, True
    for output in _outputs(text):
        yield "output", output, False
    for field, words in SAID.items():
        readings = [key for key, word in words.items() if re.search(word, text, re.IGNORECASE)]
        if readings:
            yield field, readings[0], len(readings) > 1


def _within(spec: Spec, value: float | str) -> bool:
    faults: Faults = []
    return spec.read(value, "", faults) is not INVALID and not faults


def _by_fuel(lines: tuple[Words, ...]) -> dict[str, dict[str, list[ReadAs]]]:
    """Both powers of each fuel that a plate names a pair for; a fuel stands before its figures, on
    their line or above them.
    """
    found: dict[str, dict[str, list[ReadAs]]] = {}
    fuel = ""
    for at, line in enumerate(lines):
        said = [key for key, word in SAID["fuel"].items() if re.search(word, line.text, re.I)]
        fuel = said[0] if len(said) == 1 else fuel if not said else ""
        for field, value, mended in _candidates(line.text):
            if fuel and field in OF_POWER:
                sure = line.sure >= SURE and not mended
                found.setdefault(fuel, {}).setdefault(field, []).append((value, sure, at))
    return {key: powers for key, powers in found.items() if set(powers) == set(OF_POWER)}


def supply_figures(lines: Iterable[Words], kind: str = "generator") -> tuple[Figure, ...]:
    """The figures of a supply's plate that a kind of supply has a field for, each by that field.

    Args:
        lines: lines of text as read, with where they stand.
        kind: ``generator`` or ``battery-inverter``; any other has none.

    Returns:
        The figures, each by its field.
    """
    lines = tuple(lines)
    found = gathered(lines, _candidates)
    fuels = _by_fuel(lines) if kind == "generator" else {}
    if RATED_FOR in fuels and len(fuels) > 1:
        found |= fuels.pop(RATED_FOR)
    else:
        fuels = {}
    if "battery_wh" not in found and {"battery_ah", "battery_v"} <= found.keys():
        (ah, sure_ah, at), (volts, sure_v, _) = found["battery_ah"][0], found["battery_v"][0]
        assert isinstance(ah, float)
        assert isinstance(volts, float)
        found["battery_wh"] = [(ah * volts, sure_ah and sure_v, at)]
    record = RECORDS.get(kind)
    ranges = {name: spec for name, (_, spec, _) in specs(record).items()} if record else {}
    out = []
    for field, path in PLACES.get(kind, {}).items():
        readings = [t for t in found.get(field, []) if _within(ranges[path], t[0])]
        if readings:
            out.append(figure_of(path, readings))
    for fuel, powers in fuels.items():
        both = {f: [t for t in powers[f] if _within(ranges[f], t[0])] for f in OF_POWER}
        if all(both.values()):
            out += [figure_of(f"by_fuel.{fuel}.{f}", told) for f, told in sorted(both.items())]
    return tuple(out)
