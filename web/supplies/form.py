"""The form of a supply: which of its fields are shown, on a setup's page and on its own."""

from __future__ import annotations

import copy
from collections.abc import Iterator, Mapping
from dataclasses import replace

from ironmargin.document import Document
from ironmargin.setup.engines import Cylinder, FuelRating, Generator, Noise
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.records import specs
from ironmargin.setup.supply import supply_kinds
from web.design.fields import Fields, Group, known_kind, look_up, put_all, rows_of

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
    "shore": ("breaker_a", "legs", "voltage_v", "source_ohm", "also_on_circuit_a", "breaker_at"),
    "parallel": ("kit_limit_a",),
    "battery-inverter": ("continuous_w", "surge_w", "surge_s", "battery_wh", "start_soc"),
    "assist": ("input_limit_a",),
}
MORE_FIELDS = {
    "generator": (
        "output",
        "voltage_v",
        "character",
        "neutral",
        "parallel_ready",
        "limit_over_surge",
        "tank_l",
        "fuel_points",
        "mass_kg",
    ),
    "parallel": ("imbalance",),
    "shore": ("readings", "breaker_standard", "breaker_trips", "tester"),
    "battery-inverter": (
        "type",
        "input_w",
        "alarm_w",
        "off_below_w",
        "output",
        "voltage_v",
        "chemistry",
        "battery_c",
        "peukert",
        "charger_w",
        "neutral",
        "usable_fraction",
        "efficiency",
        "idle_w",
    ),
    "assist": ("input_read_w", "charge_efficiency"),
}
NOT_ASKED = ("id", "name", "x", "kind")


def fields_of(kind: str, *, full: bool = False) -> tuple[str, ...]:
    """Which fields of a kind are asked for; every one where nothing is said of it above."""
    if kind not in SUPPLY_FIELDS:
        return tuple(key for key in specs(supply_kinds()[kind]) if key not in NOT_ASKED)
    return SUPPLY_FIELDS[kind] + (MORE_FIELDS.get(kind, ()) if full else ())


class SupplyForm(Fields):
    """The inputs of the supply in a document."""

    def supply_groups(self, *, full: bool = False) -> Iterator[Group]:
        """The supply's inputs; a parallel set or an assist has one group for each thing inside.
        ``full`` for all a supply's own page knows.
        """
        supply = self.document.get("supply")
        cls = known_kind(supply_kinds(), supply)
        if cls is None or not isinstance(supply, dict):
            return
        kind = supply["kind"]
        yield self.group(cls, fields_of(kind, full=full), "supply", supply_kinds()[kind].title)
        if full and kind == "generator":
            yield from self._of_the_set("supply", supply)
        for at, unit in enumerate(rows_of(supply, "units") if kind == "parallel" else []):
            keys = (
                SUPPLY_FIELDS["generator"] + MORE_FIELDS["generator"]
                if full
                else SUPPLY_FIELDS["generator"][:5]
            )
            path, name = f"supply.units[{at}]", f"Generator {at + 1}"
            yield self.group(Generator, keys, path, name)
            if full:
                fold = f"{name}: other fuel, cylinder, noise"
                for group in self._of_the_set(path, unit, f"{name}: "):
                    yield replace(group, fold=fold)
        if kind == "assist":
            inner = look_up(supply, "input.kind")
            if isinstance(inner, str) and inner in supply_kinds():
                made = supply_kinds()[inner]
                keys = fields_of(inner, full=full)
                yield self.group(made, keys, "supply.input", made.title)
                if full and inner == "generator":
                    for group in self._of_the_set("supply.input", supply["input"]):
                        yield replace(group, fold="Generator: other fuel, cylinder, noise")
            own, path = "battery-inverter", "supply.inverter"
            yield self.group(BatteryInverter, fields_of(own), path, "Inverter and battery")
            if full:
                more = *(key for key in MORE_FIELDS[own] if key != "type"), "sun_first"
                title = "Inverter: charging, output, losses"
                yield replace(self.group(BatteryInverter, more, path, title), fold=title)

    def _of_the_set(self, path: str, supply: Document, whose: str = "") -> Iterator[Group]:
        """What only a supply's own page shows of a generator: its rating on another fuel, its
        cylinder, its noise.
        """

        def title(words: str) -> str:
            return f"{whose}{words.lower()}" if whose else words

        other = "propane" if supply.get("ratings_for", "gasoline") != "propane" else "gasoline"
        yield self.group(
            FuelRating,
            ("continuous_w", "starting_w"),
            f"{path}.by_fuel.{other}",
            title(f"Stated on {other}"),
        )
        yield self.group(
            Cylinder,
            ("capacity_kg", "fill", "count"),
            f"{path}.cylinder",
            title("Propane cylinder"),
        )
        yield self.group(
            Noise, ("dba", "at_m", "load_w", "full_dba"), f"{path}.noise", title("Noise reading")
        )


def edited_supply(document: Document, posted: Mapping[str, str], units: str) -> Document:
    """A supply's document with what its own page posted; parts left wholly empty are taken out."""
    whole = {"supply": copy.deepcopy(document)}
    put_all(
        whole,
        [f for g in SupplyForm(whole, units).supply_groups(full=True) for f in g.fields],
        posted,
        units,
    )
    supply = whole["supply"]
    for one in (supply, *rows_of(supply, "units"), supply.get("input")):
        if isinstance(one, dict):
            _without_empty_parts(one)
    return supply


def _without_empty_parts(supply: Document) -> None:
    """Take out of a generator's document what was left wholly empty."""
    for key in ("cylinder", "noise"):
        if supply.get(key) == {}:
            supply.pop(key)
    if isinstance(supply.get("by_fuel"), dict):
        supply["by_fuel"] = {fuel: rating for fuel, rating in supply["by_fuel"].items() if rating}
