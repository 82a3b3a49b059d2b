"""What a person typed as a figure, in the unit it is asked in: as printed, as percent, as rows."""

from __future__ import annotations

import math
import re

from ironmargin.enduring.fuel import LITRES_PER_GALLON, PROPANE_KG_PER_L
from ironmargin.loads.plate_words import BTU_A_KCAL
from ironmargin.tables import FOOT_M, celsius, fahrenheit

SHARES = {
    "charge_efficiency",
    "continuous_fraction",
    "duty",
    "efficiency",
    "fill",
    "fraction",
    "imbalance",
    "start_soc",
    "thin_below",
    "usable_fraction",
}
"""Fields that are a share in the format, and percent to a person."""
SHARE = "share"
"""The unit a share has in here; what is percent in the format itself has ``%``."""
IN_FAULT = re.compile(r"(at most|at least|above|below|\(got) (-?\d+(?:\.\d+)?(?:e-?\d+)?)")


def as_percent(share: float) -> str:
    """A share as a person reads it, without the sign."""
    return f"{100.0 * share:.6g}"


def typed_share(typed: str) -> float | str:
    """A share as it was typed: 85, 85 % or 0.85; what is above one can only be percent."""
    plain = typed.strip()
    value = typed_number(plain.removesuffix("%"))
    if not isinstance(value, float):
        return typed
    return value / 100.0 if plain.endswith("%") or abs(value) > 1.0 else value


def fault_in_percent(message: str) -> str:
    """What is wrong with a share, in percent."""
    return IN_FAULT.sub(lambda found: f"{found[1]} {as_percent(float(found[2]))} %", message)


def typed_number(typed: str) -> float | str:
    """What was typed as a number, or as it stands so that the check can name it."""
    plain = typed.strip().replace("\u2212", "-")
    if re.fullmatch(r"-?\d+,\d{1,2}", plain):
        plain = plain.replace(",", ".")
    try:
        return float(plain.replace(",", ""))
    except ValueError:
        return typed


ENERGY = re.compile(
    r"(?:(?P<count>\d+)\s*[x×*]\s*)?(?P<ah>\d+(?:[.,]\d+)?)\s*Ah\s*[x×*@,]?\s*"
    r"(?P<volts>\d+(?:[.,]\d+)?)\s*V|(?P<kwh>\d+(?:[.,]\d+)?)\s*kWh",
    re.IGNORECASE,
)
"""Batteries as they are sold: 2 x 100 Ah 12.8 V, or 5.1 kWh."""


def typed_energy(typed: str) -> float | str:
    """Watt-hours as they were typed: a plain figure, amp-hours at volts, or kilowatt-hours [Wh]."""
    found = ENERGY.fullmatch(typed.strip())
    if found is None:
        return typed_number(typed)
    given = {k: float(v.replace(",", ".")) for k, v in found.groupdict().items() if v}
    if "kwh" in given:
        return 1000.0 * given["kwh"]
    return given.get("count", 1.0) * given["ah"] * given["volts"]


LB = 0.45359237
BTU_H_A_WATT = 3.41214
"""A pound in kilograms, which is exact, and a watt in Btu/h (ISO 80000-5)."""
ALSO = {
    "Btu/h": {
        "kcal/h": BTU_A_KCAL,
        "kcal": BTU_A_KCAL,
        "kw": 1000.0 * BTU_H_A_WATT,
        "w": BTU_H_A_WATT,
        "btu": 1.0,
        "btu/h": 1.0,
    },
    "W": {"kw": 1000.0, "w": 1.0},
    "A": {"ma": 0.001, "a": 1.0},
    "V": {"v": 1.0},
    "l": {
        "l": 1.0,
        "gal": LITRES_PER_GALLON,
        "kg": 1.0 / PROPANE_KG_PER_L,
        "lb": LB / PROPANE_KG_PER_L,
    },
    "gal": {
        "gal": 1.0,
        "l": 1.0 / LITRES_PER_GALLON,
        "kg": 1.0 / PROPANE_KG_PER_L / LITRES_PER_GALLON,
        "lb": LB / PROPANE_KG_PER_L / LITRES_PER_GALLON,
    },
    "hp": {"hp": 1.0, "kw": 1.34102},
    "lb": {"lb": 1.0, "lbs": 1.0, "kg": 1.0 / LB},
    "kg": {"kg": 1.0, "lb": LB, "lbs": LB},
    "ft²": {"ft²": 1.0, "ft2": 1.0, "m²": 1.0 / FOOT_M**2, "m2": 1.0 / FOOT_M**2},
    "m2": {"m²": 1.0, "m2": 1.0, "ft²": FOOT_M**2, "ft2": FOOT_M**2},
    "ft": {"ft": 1.0, "feet": 1.0, "'": 1.0, "m": 1.0 / FOOT_M, "yd": 3.0},
    "m": {"m": 1.0, "ft": FOOT_M, "feet": FOOT_M, "'": FOOT_M, "km": 1000.0},
    "h": {"h": 1.0, "hr": 1.0, "hours": 1.0, "min": 1.0 / 60.0, "d": 24.0, "days": 24.0},
    "s": {"s": 1.0, "sec": 1.0, "ms": 0.001, "min": 60.0},
    "min": {"min": 1.0, "h": 60.0, "s": 1.0 / 60.0},
    "AWG": {"awg": 1.0, "ga": 1.0, "gauge": 1.0},
    "mm2": {"mm2": 1.0, "mm²": 1.0},
    "Ah": {"ah": 1.0},
    "ohm": {"ohm": 1.0, "ohms": 1.0, "Ω": 1.0, "ω": 1.0},
    "dBA": {"dba": 1.0, "db": 1.0},
}
"""What may be typed behind a figure, by the unit it is asked in, and how many of that it is; fuel
that is weighed is propane.
"""
BEHIND = re.compile(r"#?(.*?[\d.,])\s*([A-Za-z/'°Ω²]+2?)")
DEGREES = {"c": "°C", "°c": "°C", "celsius": "°C", "f": "°F", "°f": "°F", "fahrenheit": "°F"}


def _degrees(value: float | str, said: str, unit: str) -> float | str:
    """Degrees as they were said, in those that are asked for."""
    if said == unit or not isinstance(value, float):
        return value
    return celsius(value) if unit == "°C" else fahrenheit(value)


def typed_in(typed: str, unit: str) -> float | str:
    """A figure as it was typed, in the unit it is asked in: 2,500 kcal/h where Btu/h are asked."""
    if unit == "Wh":
        return typed_energy(typed)
    if unit == SHARE:
        return typed_share(typed)
    if unit == "%":
        return typed_number(typed.strip().removesuffix("%"))
    found = BEHIND.fullmatch(typed.strip())
    if found and unit in ("°C", "°F") and (said := DEGREES.get(found[2].lower())):
        return _degrees(typed_number(found[1]), said, unit)
    times = ALSO.get(unit, {}).get(found[2].lower()) if found else None
    value = typed_number(found[1]) if found and times is not None else typed_number(typed)
    return value * times if isinstance(value, float) and times is not None else value


CLOCK = re.compile(
    r"(?P<hour>\d{1,2})(?:[:.h]?(?P<minute>\d{2}))?\s*(?P<half>[ap])?\.?m?\.?", re.IGNORECASE
)
NAMED = {"noon": 720, "midnight": 1440}
SPAN = re.compile(r"\s*(?:-|\u2013|\bto\b|\buntil\b|\btill\b)\s*", re.IGNORECASE)
HALF_DAY, DAY = 720, 1440


def _minutes(typed: str, half: str = "") -> int | None:
    """Minutes since midnight of a typed time; ``half`` (a or p) where it says none itself."""
    plain = typed.strip().lower()
    if plain in NAMED:
        return NAMED[plain]
    found = CLOCK.fullmatch(plain)
    if found is None:
        return None
    hour, minute = int(found["hour"]), int(found["minute"] or 0)
    if half := found["half"] or half:
        if not 1 <= hour <= 12:
            return None
        hour = hour % 12 + (12 if half == "p" else 0)
    at = 60 * hour + minute
    return at if minute < 60 and at <= DAY else None


def _clock(minutes: int) -> str:
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def typed_clock(typed: str) -> str:
    """A time of the day as the format has it: 10 pm, 22, 2200 and 22:00 are 22:00; what is none
    stays as it is, so that the check can name it.
    """
    at = _minutes(typed)
    return typed if at is None else _clock(at)


def typed_hour(typed: str) -> float | str:
    """A time of the day in hours: 10 pm is 22, 6:30 is 6.5; what is none stays as it is."""
    value, at = typed_number(typed), _minutes(typed)
    return value if isinstance(value, float) or at is None else at / 60.0


def typed_span(typed: str) -> tuple[str, str]:
    """Both ends of a window as it was typed: "10 pm-7 am", "22 to 7". Of "8-10 pm" both are in the
    evening, of "10-2 pm" the first is in the morning.
    """
    first, *rest = (part.strip() for part in SPAN.split(typed.strip(), maxsplit=1))
    if not rest:
        return typed_clock(first), ""
    begin, end = _minutes(first), _minutes(rest[0])
    half = CLOCK.fullmatch(rest[0].lower())
    bare = CLOCK.fullmatch(first.lower())
    if begin is not None and end is not None and half and half["half"] and bare:
        same = _minutes(first, half["half"]) if not bare["half"] else None
        if same is not None:
            begin = same if same < end else (same + HALF_DAY) % DAY
    return (first if begin is None else _clock(begin), rest[0] if end is None else _clock(end))


def typed_figure(typed: str | None) -> float | None:
    """What was typed as a finite number; None where it is none."""
    value = typed_number(typed or "")
    return value if isinstance(value, float) and math.isfinite(value) else None


def rows_words(value: object) -> str:
    """Rows of figures as a person types them: figures apart by blanks, rows by semicolons."""
    if not isinstance(value, list):
        return "" if value is None else str(value)
    return "; ".join(
        " ".join(f"{v:g}" if isinstance(v, (int, float)) else str(v) for v in row)
        if isinstance(row, list)
        else str(row)
        for row in value
    )


def typed_rows(typed: str) -> list[list[float | str]]:
    """What was typed as rows of figures; what cannot be read stays as it is, for the check to
    name.
    """
    return [
        [typed_number(word) for word in row.replace(",", " ").split()]
        for row in typed.split(";")
        if row.strip()
    ]
