"""Published and typical values as CSV; every row names its source, a key of ``sources.csv``."""

from __future__ import annotations

import csv
from functools import cache
from os.path import dirname, join

from ironmargin.errors import TableError

HERE = dirname(__file__)
FOOT_M = 0.3048
FAHRENHEIT_PER_K, FREEZING_F = 1.8, 32.0


def fahrenheit(celsius: float) -> float:
    """A temperature in °F.

    Args:
        celsius: the same [°C].

    Returns:
        The temperature [°F].
    """
    return celsius * FAHRENHEIT_PER_K + FREEZING_F


def celsius(fahrenheit: float) -> float:
    """A temperature in °C.

    Args:
        fahrenheit: the same [°F].

    Returns:
        The temperature [°C].
    """
    return (fahrenheit - FREEZING_F) / FAHRENHEIT_PER_K


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """The rows of ``name``.csv as text, in the order of the file.

    Args:
        name: of the table.

    Returns:
        A dictionary a row.

    Raises:
        TableError: no such table, or a row without a known source.
    """
    try:
        with open(join(HERE, f"{name}.csv"), encoding="utf-8", newline="") as file:
            found = tuple(csv.DictReader(file))
    except OSError as error:
        raise TableError(f"no table {name}: {error.strerror}") from None
    if name != "sources":
        known = {row["key"] for row in rows("sources")}
        for at, row in enumerate(found, 2):
            if row.get("source") not in known:
                raise TableError(f"{name}.csv line {at}: unknown source {row.get('source')!r}")
    return found


def number_of(table: str, key: str, value: str, column: str) -> float:
    """The number in ``column`` of the row of ``table`` whose ``key`` is ``value``.

    Args:
        table: name of the table.
        key: column it is found by.
        value: in that column.
        column: of the number.

    Returns:
        The number, in the unit of the column.

    Raises:
        TableError: there is no such row.
    """
    for row in rows(table):
        if row[key] == value:
            return float(row[column])
    raise TableError(f"{table}.csv has no row with {key} {value}")


@cache
def conductor_ohm_per_m(awg: int) -> float:
    """Resistance of one stranded uncoated copper conductor at 75 °C [ohm/m].

    Source: NEC Chapter 9 Table 8 (ohm per 1,000 ft), one way of the loop.

    Args:
        awg: size of the conductor.

    Returns:
        Resistance [ohm/m].
    """
    return number_of("conductors", "awg", str(awg), "ohm_per_kft") / (1000 * FOOT_M)


@cache
def cord_ampacity_a(awg: int) -> float:
    """Ampacity of flexible cord with two current-carrying conductors [A]. Source: NEC Table
    400.5(A)(1).

    Args:
        awg: size of the conductor.

    Returns:
        Amps [A].
    """
    return number_of("cord_ampacity", "awg", str(awg), "ampacity_a")


def code_letter_kva_per_hp(letter: str) -> float:
    """Middle of the band of locked-rotor kVA per horsepower of a NEC code letter [kVA/hp].

    Source: NEC Table 430.7(B). The open-ended letter V is taken at its lower bound.

    Args:
        letter: A to V.

    Returns:
        Apparent power a horsepower [kVA/hp].

    Raises:
        TableError: there is no such letter.
    """
    for row in rows("code_letters"):
        if row["letter"] == letter:
            low, high = float(row["kva_per_hp_low"]), row["kva_per_hp_high"]
            return (low + float(high)) / 2 if high else low
    raise TableError(f"code_letters.csv has no row with letter {letter}")


@cache
def spread_of(figure: str, origin: str) -> float:
    """Relative standard deviation of a figure by where it comes from [1]: the one table for the
    chance of a start and for what a log corrects.

    Args:
        figure: name of the figure in the table.
        origin: ``measured``, ``plate``, ``typical`` ….

    Returns:
        Relative standard deviation [1].

    Raises:
        TableError: the table has no such figure of that origin.
    """
    for row in rows("uncertainty"):
        if row["figure"] == figure and row["origin"] == origin:
            return float(row["sd"])
    raise TableError(f"uncertainty.csv has no {figure} of origin {origin}")
