"""The form of a setup: which of its fields are shown, how they are called, and how what was typed
goes back.

Types, ranges, defaults and choices come from the core's field specifications; only labels and
glosses are said here. An input's name is the path of its field, so that a fault finds its input by
itself.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.setup.loads import COOLING_MODES, LOAD_KINDS
from ironmargin.setup.model import Conditions, Rig, Rules
from ironmargin.setup.spec import Choice, Flag, Number, Rows, specs
from ironmargin.setup.supplies import (
    SUPPLY_KINDS,
    BatteryInverter,
    Cylinder,
    FuelRating,
    Generator,
    Noise,
)

LABELS = {
    "continuous_w": ("Running power", "What it gives for hours."),
    "starting_w": ("Starting power", "What it gives for a few seconds."),
    "surge_w": ("Surge power", "What it gives for a few seconds."),
    "surge_s": ("Surge lasts", ""),
    "fuel": ("Fuel now", ""),
    "ratings_for": ("Ratings are for", "The fuel on the plate."),
    "inverter": ("Inverter set", "Holds its current at the limit and lets volts sag."),
    "eco": ("Eco mode on", "The engine idles; a start finds it slow."),
    "leg_limit_a": ("Outlet breaker", "The set's own breaker, each leg."),
    "output": ("Output", ""),
    "voltage_v": ("Volts", ""),
    "dba": ("Noise level", ""),
    "at_m": ("Read at", "How far from the set the noise was read."),
    "breaker_a": ("Post breaker", "The number on its handle."),
    "legs": ("Legs", "One hot conductor, two opposite ones, or two on the same leg."),
    "source_ohm": ("Service impedance", "How soft the post is: volts lost for each amp."),
    "also_on_circuit_a": ("Already on it", "Another load behind the same breaker."),
    "fuel_points": ("Known points", "Load in W and hours on a tank, as 1375 16; 5500 6.5"),
    "tank_l": ("Tank", ""),
    "mass_kg": ("Mass", "To know who lifts it."),
    "readings": (
        "Two readings",
        "Volts and amps at the post, as 121.4 0; 117.9 22. They replace volts and impedance.",
    ),
    "kit_limit_a": ("Kit rating", "Outlet and cord of the parallel kit."),
    "input_limit_a": ("Input limit", "The most it takes from the post."),
    "battery_wh": ("Battery", ""),
    "start_soc": ("Charge at start", "1 is full."),
    "outdoor_c": ("Outdoor heat", "Hot air weakens engines and loads compressors."),
    "altitude_m": ("Altitude", "Thin air weakens engines, 3 to 4 % each 1,000 ft."),
    "target_hours": ("Must last", "Leave empty if it does not matter."),
    "breaker_school": (
        "Breaker school",
        "May a start exceed the handle for a moment? Both answers are always computed.",
    ),
    "round_up": ("Round up to 15 A", "Count every big appliance that was not measured as 15 A."),
    "main_a": ("Main breaker", ""),
    "running_a": ("Running amps", "RLA on the plate."),
    "lra_a": ("Locked-rotor amps", "LRA on the plate: what the motor draws before it turns."),
    "high_cool_a": (
        "High cool",
        "Amps of everything in this mode; a measured figure wins over the plate.",
    ),
    "fan_high_a": ("Fan high", ""),
    "start": ("Start gear", "How the compressor is helped."),
    "watts": ("Watts", ""),
    "amps": ("Amps", ""),
    "provenance": ("Known from", "Measured beats plate beats typical."),
    "count": ("How many", ""),
    "rating_a": ("Rating", ""),
    "length_m": ("Length", ""),
    "awg": ("Wire size", ""),
    "condition": ("Contacts", ""),
    "feeds": ("Feeds", ""),
    "peak_a": ("Soft-start peak", ""),
    "fraction": ("Soft-start peak", "As a share of locked-rotor amps."),
    "learned_starts": ("Starts learned", ""),
}
SUPPLY_FIELDS = {
    "generator": (
        "continuous_w",
        "starting_w",
        "fuel",
        "ratings_for",
        "eco",
        "inverter",
        "leg_limit_a",
    ),
    "shore": ("breaker_a", "legs", "voltage_v", "source_ohm", "also_on_circuit_a"),
    "parallel": ("kit_limit_a",),
    "battery-inverter": ("continuous_w", "surge_w", "surge_s", "battery_wh", "start_soc"),
    "assist": ("input_limit_a",),
}
MORE_FIELDS = {
    "generator": ("output", "voltage_v", "limit_headroom", "tank_l", "fuel_points", "mass_kg"),
    "parallel": ("imbalance",),
    "shore": ("readings", "breaker_standard"),
    "battery-inverter": ("output", "voltage_v", "usable_fraction", "efficiency"),
    "assist": ("charge_efficiency",),
}
LOAD_FIELDS = {
    "air-conditioner": ("running_a", "lra_a", "high_cool_a", "fan_high_a", "start"),
    "motor": ("running_a", "lra_a", "start"),
    "microwave": ("watts",),
}
PART_FIELDS = ("rating_a", "length_m", "awg", "feeds", "condition")
EDGE: dict[str, tuple[str, Callable[[float], float], Callable[[float], float]]] = {
    "°C": ("°F", lambda c: c * 1.8 + 32.0, lambda f: (f - 32.0) / 1.8),
    "m": ("ft", lambda m: m / 0.3048, lambda ft: ft * 0.3048),
}
"""What US users see instead: unit, and both conversions."""
SUPPLY_TITLES = {
    "generator": "Generator",
    "shore": "Shore post",
    "parallel": "Sets in parallel",
    "battery-inverter": "Battery inverter",
    "assist": "Post with assist",
}
PATH = re.compile(r"[a-z_]+(\[\d{1,3}\])?(\.[a-z_]+(\[\d{1,3}\])?)*\Z")
STEP = re.compile(r"([a-z_]+)(?:\[(\d+)\])?")
LONGEST_TYPED = 200


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

    @property
    def ident(self) -> str:
        """An id for the page."""
        return "f-" + re.sub(r"[^a-z0-9]+", "-", self.path)


@dataclass(frozen=True)
class Group:
    """Inputs that belong together."""

    key: str
    title: str
    fields: tuple[Field, ...]
    note: str = ""


@dataclass(frozen=True)
class LoadRow:
    """One load: whether it is wanted, and its inputs."""

    ident: str
    name: str
    kind: str
    wanted: bool
    always_on: bool
    mode: str
    modes: tuple[str, ...]
    provenance: Field
    fields: tuple[Field, ...]


def look_up(document: Any, path: str) -> Any:
    """The value at a path of a document, or None."""
    for name, number in STEP.findall(path):
        document = document.get(name) if isinstance(document, dict) else None
        if number and isinstance(document, list):
            document = document[int(number)] if int(number) < len(document) else None
    return document


def rows_of(document: Any, path: str) -> list[Any]:
    """The list at a path, or an empty one."""
    found = look_up(document, path)
    return found if isinstance(found, list) else []


def put(document: dict[str, Any], path: str, value: Any) -> None:
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


def _known(kinds: Mapping[str, type], item: Any) -> type | None:
    """The dataclass of a document's object by its kind, or None where it has none that is known."""
    kind = item.get("kind") if isinstance(item, dict) else None
    return kinds.get(kind) if isinstance(kind, str) else None


def typed_number(typed: str) -> Any:
    """What was typed as a number, or as it stands so that the check can name it."""
    plain = typed.strip().replace("\u2212", "-")
    if re.fullmatch(r"-?\d+,\d{1,2}", plain):
        plain = plain.replace(",", ".")
    try:
        return float(plain.replace(",", ""))
    except ValueError:
        return typed


def rows_words(value: Any) -> str:
    """Rows of figures as a person types them: figures apart by blanks, rows by semicolons."""
    if not isinstance(value, list):
        return "" if value is None else str(value)
    return "; ".join(
        " ".join(f"{v:g}" if isinstance(v, (int, float)) else str(v) for v in row)
        if isinstance(row, list)
        else str(row)
        for row in value
    )


def typed_rows(typed: str) -> list[Any]:
    """What was typed as rows of figures; what cannot be read stays as it is, for the check to
    name.
    """
    return [
        [typed_number(word) for word in row.replace(",", " ").split()]
        for row in typed.split(";")
        if row.strip()
    ]


def words(choice: str) -> str:
    """A choice of the format in words."""
    return {
        "120": "120 V",
        "230": "230 V",
        "120/240": "120/240 V",
        "time-current": "yes: by its time-current curve",
        "peak": "never above the handle",
        "single": "one hot",
        "split": "two, opposite",
        "same-leg": "two on the same leg",
        "network-208": "two of a 208 V network",
    }.get(choice, choice.replace("-", " ").replace("_", " "))


class Form:
    """The form over one document, in one system of units, with the faults of its last check."""

    def __init__(
        self,
        document: Mapping[str, Any],
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
        label, gloss = LABELS.get(name, (name.replace("_", " ").capitalize(), ""))
        fault = self.faults.get(path, "")
        typed = self.raw.get(path) if fault else None
        if isinstance(spec, Flag):
            on = default if value is None else value
            return Field(path, label, gloss, "flag", "on" if on else "", fault=fault)
        if isinstance(spec, Choice):
            chosen = default if value is None else value
            choices = tuple((c, words(c)) for c in spec.of)
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
            "number",
            typed if typed is not None else shown,
            unit="" if unit == "1" else unit,
            placeholder=hint,
            typical=typical and value is None,
            fault=fault,
            optional=default is None,
        )

    def shown(self, value: Any, unit: str) -> str:
        """A figure as the person reads it."""
        if value is None:
            return ""
        if not isinstance(value, (int, float)) or isinstance(value, bool):
            return str(value)
        if self.units == "us" and unit in EDGE:
            value = EDGE[unit][1](value)
        return f"{value:.6g}" if abs(value) < 1e6 else f"{value:.0f}"

    def supply_groups(self, *, full: bool = False) -> Iterator[Group]:
        """The supply's inputs; a parallel set or an assist has one group for each thing inside.
        ``full`` for all a supply's own page knows.
        """
        supply = self.document.get("supply")
        cls = _known(SUPPLY_KINDS, supply)
        if cls is None or not isinstance(supply, dict):
            return
        kind = supply["kind"]
        yield self.group(
            cls,
            SUPPLY_FIELDS[kind] + (MORE_FIELDS.get(kind, ()) if full else ()),
            "supply",
            SUPPLY_TITLES[kind],
        )
        if full and kind == "generator":
            yield from self._of_the_set("supply", supply)
        for at, _ in enumerate(rows_of(supply, "units") if kind == "parallel" else []):
            keys = (
                SUPPLY_FIELDS["generator"] + MORE_FIELDS["generator"]
                if full
                else SUPPLY_FIELDS["generator"][:5]
            )
            yield self.group(Generator, keys, f"supply.units[{at}]", f"Set {at + 1}")
        if kind == "assist":
            inner = look_up(supply, "input.kind")
            if isinstance(inner, str) and inner in SUPPLY_KINDS:
                yield self.group(
                    SUPPLY_KINDS[inner], SUPPLY_FIELDS[inner], "supply.input", SUPPLY_TITLES[inner]
                )
            yield self.group(
                BatteryInverter,
                SUPPLY_FIELDS["battery-inverter"],
                "supply.inverter",
                "Inverter and battery",
            )

    def _of_the_set(self, path: str, supply: dict[str, Any]) -> Iterator[Group]:
        """What only a single set's own page shows: its rating on another fuel, its cylinder, its
        noise.
        """
        other = "propane" if supply.get("ratings_for", "gasoline") != "propane" else "gasoline"
        yield self.group(
            FuelRating,
            ("continuous_w", "starting_w"),
            f"{path}.by_fuel.{other}",
            f"Stated on {other}",
        )
        yield self.group(
            Cylinder, ("capacity_kg", "fill", "count"), f"{path}.cylinder", "Propane cylinder"
        )
        yield self.group(Noise, ("dba", "at_m"), f"{path}.noise", "Noise reading")

    def group(self, cls: type, keys: tuple[str, ...], path: str, title: str) -> Group:
        return Group(path, title, tuple(self.field(cls, key, f"{path}.{key}") for key in keys))

    def condition_group(self) -> Group:
        found = self.group(
            Conditions, ("outdoor_c", "altitude_m", "target_hours"), "conditions", "Here and now"
        )
        rules = self.group(Rules, ("breaker_school", "round_up"), "rules", "")
        main = self.field(Rig, "main_a", "rig.main_a")
        return Group("conditions", "Here and now", (*found.fields, main, *rules.fields))

    def path_groups(self) -> Iterator[Group]:
        for at, item in enumerate(rows_of(self.document, "hookup")):
            cls = _known(HOOKUP_KINDS, item)
            if cls is not None:
                keys = tuple(k for k in PART_FIELDS if k in specs(cls))
                yield self.group(
                    cls,
                    keys,
                    f"hookup[{at}]",
                    item.get("name") or str(item["kind"]).replace("-", " ").capitalize(),
                )

    def paths(self) -> list[str]:
        """The paths of every input, in order: when they change, the form has to be drawn anew."""
        groups = [*self.supply_groups(), self.condition_group(), *self.path_groups()]
        rows = list(self.load_rows())
        return [f.path for g in groups for f in g.fields] + [
            f.path for r in rows for f in (*r.fields, r.provenance)
        ]

    def load_rows(self) -> Iterator[LoadRow]:
        wanted = {
            w.get("load"): w.get("mode")
            for w in rows_of(self.document, "wanted")
            if isinstance(w, dict) and isinstance(w.get("load"), str)
        }
        for at, load in enumerate(rows_of(self.document, "rig.loads")):
            cls = _known(LOAD_KINDS, load)
            if cls is None:
                continue
            path = f"rig.loads[{at}]"
            keys = LOAD_FIELDS.get(load["kind"]) or (("amps",) if "amps" in load else ("watts",))
            fields = [self.field(cls, key, f"{path}.{key}") for key in keys]
            soft = load.get("soft_start")
            if load.get("start") == "soft-start":
                from ironmargin.setup.loads import SoftStart

                keys = ("peak_a",) if isinstance(soft, dict) and "peak_a" in soft else ("fraction",)
                fields += [
                    self.field(SoftStart, key, f"{path}.soft_start.{key}")
                    for key in (*keys, "learned_starts")
                ]
            cooling = load["kind"] == "air-conditioner"
            ident = str(load.get("id", at))
            yield LoadRow(
                ident,
                str(load.get("name", ident)),
                load["kind"],
                ident in wanted,
                bool(load.get("always_on")),
                (wanted.get(ident) or "high-cool") if cooling else "",
                COOLING_MODES if cooling else (),
                self.field(cls, "from", f"{path}.from"),
                tuple(fields),
            )


def _put_all(
    new: dict[str, Any], known: list[Field], posted: Mapping[str, str], units: str
) -> None:
    """Put what was posted for the known fields into a document."""
    for field in known:
        if field.kind == "flag":
            if f"on:{field.path}" in posted:
                put(new, field.path, field.path in posted)
            continue
        if field.path not in posted:
            continue
        typed = posted[field.path][:LONGEST_TYPED].strip()
        if field.value == typed:
            # untouched: keep the figure as it was given, not as it was rounded for showing, and
            # defaults unsaid
            continue
        if field.kind == "choice" or not typed:
            put(new, field.path, typed or None)
            continue
        if field.kind == "rows":
            put(new, field.path, typed_rows(typed))
            continue
        value = typed_number(typed)
        if isinstance(value, float) and units == "us":
            back = {
                shown: convert for shown, _, convert in ((u, a, b) for u, a, b in EDGE.values())
            }.get(field.unit)
            value = back(value) if back and field.unit in ("°F", "ft") else value
        put(new, field.path, value)


def edited_supply(
    document: dict[str, Any], posted: Mapping[str, str], units: str
) -> dict[str, Any]:
    """A supply's document with what its own page posted; parts left wholly empty are taken out."""
    whole = {"supply": copy.deepcopy(document)}
    _put_all(
        whole,
        [f for g in Form(whole, units).supply_groups(full=True) for f in g.fields],
        posted,
        units,
    )
    supply = whole["supply"]
    for key in ("cylinder", "noise"):
        if supply.get(key) == {}:
            supply.pop(key)
    if isinstance(supply.get("by_fuel"), dict):
        supply["by_fuel"] = {fuel: rating for fuel, rating in supply["by_fuel"].items() if rating}
    return supply


def edited(document: dict[str, Any], posted: Mapping[str, str], units: str) -> dict[str, Any]:
    """A document with what a form posted put in its fields.

    Only inputs of the form's own fields count. ``shown`` lists the paths of check boxes on the
    page, since a browser does not post the ones that are off. Numbers that cannot be read stay as
    typed, for the check to name.
    """
    new = copy.deepcopy(document)
    form = Form(new, units)
    rows = list(form.load_rows())
    known = [
        f
        for g in (*form.supply_groups(), form.condition_group(), *form.path_groups())
        for f in g.fields
    ]
    _put_all(new, known + [f for r in rows for f in (*r.fields, r.provenance)], posted, units)
    if "name" in posted:
        new["name"] = posted["name"].strip()[:1000]
    if any(f"row:{r.ident}" in posted for r in rows):
        order = [w.get("load") for w in rows_of(new, "wanted") if isinstance(w, dict)]
        ticked = [
            r
            for r in rows
            if (f"want:{r.ident}" in posted if f"row:{r.ident}" in posted else r.wanted)
        ]
        ticked.sort(key=lambda r: order.index(r.ident) if r.ident in order else len(order))
        new["wanted"] = [
            {"load": r.ident} | ({"mode": posted.get(f"mode:{r.ident}", r.mode)} if r.modes else {})
            for r in ticked
        ]
    return new
