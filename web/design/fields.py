"""Inputs of forms over documents of the open format: how fields are called, shown in a person's
units, and put back.

Types, ranges, defaults and choices come from the core's field specifications; only labels and
glosses are said here. An input's name is the path of its field, so that a fault finds its input by
itself.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.setup.records import Rows, specs
from ironmargin.setup.spec import Choice, Flag, Number
from ironmargin.tables import FOOT_M, celsius, fahrenheit
from web.design.labels import LABELS
from web.design.typed import (
    SHARE,
    SHARES,
    as_percent,
    fault_in_percent,
    rows_words,
    typed_hour,
    typed_in,
    typed_rows,
)

EDGE: dict[str, tuple[str, Callable[[float], float], Callable[[float], float]]] = {
    "°C": ("°F", fahrenheit, celsius),
    "m2": ("ft²", lambda m2: m2 / 0.09290304, lambda ft2: ft2 * 0.09290304),
    "m": ("ft", lambda m: m / FOOT_M, lambda ft: ft * FOOT_M),
    "l": ("gal", lambda litres: litres / 3.785411784, lambda gal: gal * 3.785411784),
    "kg": ("lb", lambda kg: kg / 0.45359237, lambda lb: lb * 0.45359237),
}
"""What US users see instead: unit, and both conversions."""
PATH = re.compile(r"[a-z_]+(\[\d{1,3}\])?(\.[a-z_]+(\[\d{1,3}\])?)*\Z")
STEP = re.compile(r"([a-z_]+)(?:\[(\d+)\])?")


def in_units(value: float, unit: str, units: str) -> tuple[float, str]:
    """A figure and its unit as a person sees them."""
    if units == "us" and unit in EDGE:
        shown, convert, _ = EDGE[unit]
        return convert(value), shown
    return value, unit


def from_units(value: float, unit: str, units: str) -> float:
    """A figure typed in a person's units, in the core's."""
    return EDGE[unit][2](value) if units == "us" and unit in EDGE else value


UNITS = {
    "a",
    "v",
    "w",
    "va",
    "wh",
    "kwh",
    "s",
    "h",
    "m",
    "m2",
    "l",
    "kg",
    "c",
    "dba",
    "db",
    "ohm",
    "hz",
}
"""What ends a field's name and is no word of it."""
OF_THE_CLOCK = ("quiet_from_h", "quiet_to_h", "starts_at_h")
"""Fields that are a time of the day, in hours."""
LONGEST_TYPED = 200
MAX_ROWS = 500
READABLE = 3
"""Figures of a number that was converted: 29.5 ft can be read, 29.5276 ft cannot."""


@dataclass(frozen=True)
class Field:
    """One input of the form."""

    path: str
    label: str
    gloss: str
    kind: str
    value: str
    unit: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    placeholder: str = ""
    typical: bool = False
    fault: str = ""
    optional: bool = False
    share: bool = False
    """Percent to a person, a share in the format."""

    @property
    def ident(self) -> str:
        """An id for the page."""
        return "f-" + re.sub(r"[^a-z0-9]+", "-", self.path)


@dataclass(frozen=True)
class Group:
    """Inputs that belong together.

    Attributes:
        fold: words of the fold they stand in on a phone, with neighbors of the same; none if empty.
    """

    key: str
    title: str
    fields: tuple[Field, ...]
    note: str = ""
    fold: str = ""


def look_up(document: object, path: str) -> object:
    """The value at a path of a document, or None."""
    for name, number in STEP.findall(path):
        document = document.get(name) if isinstance(document, dict) else None
        if number and isinstance(document, list):
            document = document[int(number)] if int(number) < len(document) else None
    return document


def rows_of(document: object, path: str) -> list[Document]:
    """The list at a path, or an empty one; one longer than any may be has no rows to draw."""
    found = look_up(document, path)
    return found if isinstance(found, list) and len(found) <= MAX_ROWS else []


def put(document: Document, path: str, value: object) -> None:
    """Set the value at a path whose parents exist; None removes it. Paths that lead nowhere are
    ignored.
    """
    steps = STEP.findall(path)
    for name, number in steps[:-1]:
        found = document.get(name)
        if found is None and not number:
            found = document.setdefault(name, {})
        if number and isinstance(found, list) and int(number) < len(found):
            found = found[int(number)]
        if not isinstance(found, dict):
            return
        document = found
    name = steps[-1][0]
    if value is None:
        document.pop(name, None)
    else:
        document[name] = value


def known_kind(kinds: Mapping[str, type], item: object) -> type | None:
    """The dataclass of a document's object by its kind, or None where it has none that is known."""
    kind = item.get("kind") if isinstance(item, dict) else None
    return kinds.get(kind) if isinstance(kind, str) else None


def words(choice: str, field: str = "") -> str:
    """A choice of the format in words; of a ``field`` where it means something of its own there."""
    own = CHOICES.get(f"{field}.{choice}")
    return own or CHOICES.get(choice, choice.replace("-", " ").replace("_", " "))


CHOICES = {
    "120": "120 V",
    "230": "230 V",
    "120/240": "120/240 V",
    "time-current": "by its curve",
    "peak": "never over rating",
    "single": "single leg",
    "on-curve": "as its standard says",
    "early": "early: worn, or often tripped",
    "late": "late: worn or old",
    "folds-back": "holds the current, volts sag",
    "cuts-off": "cuts off within half a second",
    "capillary": "capillary or fixed orifice",
    "valve": "expansion valve",
    "none": "none (fan, pump)",
    "lead": "lead (also AGM, gel)",
    "lithium": "lithium",
    "bonded": "bonded to ground",
    "building": "a house or other building",
    "vehicle": "a trailer, motorhome or van",
    "stall": "a market stall",
    "split": "two, opposite",
    "same-leg": "two on the same leg",
    "network-208": "two of a 208 V network",
    "type.vehicle": "vehicle outlets",
    "type.inverter": "inverter, built in",
    "type.power-station": "power station",
    "instrument.set-display": "the supply's display",
    "instrument.starter-report": "the soft starter's report",
    "instrument.trace": "a recorded trace",
    "on.compressor-wire": "the compressor's wire",
    "ended.starved": "starved: the cylinder was too cold",
    "side.exhaust": "at the exhaust",
    "side.away": "away from the exhaust",
}
"""A choice in words; of one field where its name stands before it."""


UNSAID, YES, NO = "", "yes", "no"
ANSWERS = ((UNSAID, "not said"), (YES, "yes"), (NO, "no"))
"""What a yes-or-no field is answered with that may be left unsaid."""


def plain_label(name: str) -> str:
    """A field that nobody gave a label, without its unit, which stands beside the input."""
    words_of, _, unit = name.rpartition("_")
    return (words_of if words_of and unit in UNITS else name).replace("_", " ").capitalize()


class Fields:
    """Inputs over one document, in one system of units, with the faults of its last check."""

    def __init__(
        self,
        document: Mapping[str, object],
        units: str,
        faults: Mapping[str, str] | None = None,
        typical: Mapping[str, float] | None = None,
        raw: Mapping[str, str] | None = None,
    ) -> None:
        self.document, self.units, self.faults = document, units, faults or {}
        self.typical, self.raw = typical or {}, raw or {}

    def field(self, cls: type, key: str, path: str) -> Field:
        """The input of one field of a dataclass."""
        name, spec, default = specs(cls)[key]
        value = look_up(self.document, path)
        own = LABELS.get(f"{getattr(cls, 'kind', '')}.{name}")
        label, gloss = own or LABELS.get(name, (plain_label(name), spec.doc))
        fault = self.faults.get(path, "")
        typed = self.raw.get(path) if fault else None
        if isinstance(spec, Flag):
            if default is None:  # three answers: nothing said is not no
                said = UNSAID if value is None else YES if value else NO
                return Field(path, label, gloss, "choice", said, choices=ANSWERS, fault=fault)
            on = default if value is None else value
            return Field(path, label, gloss, "flag", "on" if on else "", fault=fault)
        if isinstance(spec, Choice):
            chosen = default if value is None else value
            choices = tuple((c, words(c, name)) for c in spec.of)
            if default is None:
                choices = (("", "not said"), *choices)
            return Field(
                path,
                label,
                gloss,
                "choice",
                typed if typed is not None else str(chosen or ""),
                choices=choices,
                fault=fault,
            )
        if isinstance(spec, Rows):
            return Field(
                path,
                label,
                gloss,
                "rows",
                typed if typed is not None else rows_words(value),
                fault=fault,
                optional=True,
            )
        unit = spec.unit if isinstance(spec, Number) else ""
        if key in SHARES:
            unit, fault = SHARE, fault_in_percent(fault)
        typical = path in self.typical
        shown = self.shown(
            value
            if value is not None
            else (default if isinstance(default, (int, float)) and not typical else None),
            unit,
        )
        hint = self.shown(self.typical.get(path), unit)
        unit = EDGE[unit][0] if self.units == "us" and unit in EDGE else unit
        return Field(
            path,
            label,
            gloss,
            "number" if isinstance(spec, Number) else "text",
            typed if typed is not None else shown,
            unit={"1": "", SHARE: "%"}.get(unit, unit),
            share=unit == SHARE,
            placeholder=hint,
            typical=typical and value is None,
            fault=fault,
            optional=default is None,
        )

    def shown(self, value: object, unit: str) -> str:
        """A figure as the person reads it."""
        if value is None:
            return ""
        if not isinstance(value, (int, float)) or isinstance(value, bool):
            return str(value)
        if unit == SHARE:
            return as_percent(value)
        if self.units == "us" and unit in EDGE:
            return f"{float(f'{EDGE[unit][1](value):.{READABLE}g}'):g}"
        return f"{value:.6g}" if abs(value) < 1e6 else f"{value:.0f}"

    def group(self, cls: type, keys: tuple[str, ...], path: str, title: str) -> Group:
        return Group(path, title, tuple(self.field(cls, key, f"{path}.{key}") for key in keys))


def put_all(new: Document, known: list[Field], posted: Mapping[str, str], units: str) -> None:
    """Put what was posted for the known fields into a document."""
    for field in known:
        if field.kind == "flag":
            on = field.path in posted
            if f"on:{field.path}" in posted and on != bool(field.value):
                put(new, field.path, on)
            continue
        if field.path not in posted:
            continue
        typed = posted[field.path][:LONGEST_TYPED].strip()
        if field.value == typed:
            # untouched: keep the figure as it was given, not as it was rounded for showing, and
            # defaults unsaid
            continue
        if field.choices == ANSWERS:
            put(new, field.path, {YES: True, NO: False}.get(typed))
            continue
        if field.kind in ("choice", "text") or not typed:
            put(new, field.path, typed or None)
            continue
        if field.kind == "rows":
            put(new, field.path, typed_rows(typed))
            continue
        clock = field.path.endswith(OF_THE_CLOCK)
        value = (
            typed_hour(typed) if clock else typed_in(typed, SHARE if field.share else field.unit)
        )
        if isinstance(value, float) and units == "us":
            back = {
                shown: convert for shown, _, convert in ((u, a, b) for u, a, b in EDGE.values())
            }.get(field.unit)
            value = back(value) if back else value
        put(new, field.path, value)
