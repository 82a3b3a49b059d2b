"""The form of a setup: supply, conditions, path and loads over one document, and how what was
typed goes back.
"""

from __future__ import annotations

import copy
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ironmargin.document import Document
from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.setup.loads import COOLING_MODES, SoftStart, load_kinds
from ironmargin.setup.model import Conditions, Rig, Rules, Site
from ironmargin.setup.records import specs
from web.design.fields import Field, Group, known_kind, put_all, rows_of
from web.supplies.form import SupplyForm

LOAD_FIELDS = {
    "air-conditioner": ("running_a", "lra_a", "high_cool_a", "fan_high_a", "start"),
    "motor": ("running_a", "lra_a", "start"),
    "microwave": ("watts",),
}
USUAL_MODE = "high-cool"
"""What a cooling unit runs at where nobody says otherwise."""
SHAPING = ("kind", "start", "output", "fuel")
"""Fields whose words decide which inputs a form has; figures never do."""
PART_FIELDS = (
    "limit_a",
    "restore_s",
    "rating_a",
    "length_m",
    "awg",
    "mm2",
    "coiled",
    "feeds",
    "fraction",
    "overload_a",
    "low_v",
    "high_v",
    "delay_s",
    "open_ground",
    "va",
    "type",
    "from",
    "to",
    "from_v",
    "to_v",
    "neutral",
    "permanent",
    "no_load_w",
    "no_load_va",
    "impedance_pct",
    "switched_neutral",
    "breaker_a",
    "breaker_trips",
    "condition",
    "name",
)
"""Every figure of a part, those that are asked for most first."""
LISTED: dict[str, tuple[str, ...]] = {"splitter": ("from",)}
"""Fields of a part that are lists: a splitter's two plugs come with it as it was chosen."""


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


class Form(SupplyForm):
    """The form over one setup."""

    def condition_group(self) -> Group:
        found = self.group(
            Conditions, ("outdoor_c", "altitude_m", "target_hours"), "conditions", "Here and now"
        )
        rules = self.group(
            Rules, ("trip_criterion", "continuous_fraction", "thin_below", "round_up"), "rules", ""
        )
        rig = [self.field(Rig, key, f"rig.{key}") for key in ("main_a", "main_trips", "what")]
        damp = self.field(Conditions, "humidity_pct", "conditions.humidity_pct")
        return Group("conditions", "Here and now", (*found.fields, *rig, *rules.fields, damp))

    def place_group(self) -> Group:
        """What the place asks for: how far the next ear is, what is allowed there, and when."""
        keys = ("neighbour_m", "limit_dba", "quiet_from_h", "quiet_to_h", "starts_at_h")
        return self.group(Site, keys, "site", "Neighbors and quiet hours")

    def path_groups(self) -> Iterator[Group]:
        for at, item in enumerate(rows_of(self.document, "hookup")):
            cls = known_kind(HOOKUP_KINDS, item)
            if cls is not None:
                known, lists = specs(cls), LISTED.get(str(item["kind"]), ())
                keys = tuple(k for k in PART_FIELDS if k in known and k not in lists)
                yield self.group(
                    cls,
                    keys,
                    f"hookup[{at}]",
                    item.get("name") or str(item["kind"]).replace("-", " ").capitalize(),
                )

    def groups(self) -> list[Group]:
        """Every group but the loads, in their order."""
        here = (self.condition_group(), self.place_group())
        return [*self.supply_groups(), *here, *self.path_groups()]

    def paths(self) -> list[str]:
        """The paths of every input, in order: when they change, the form has to be drawn anew."""
        groups = self.groups()
        rows = list(self.load_rows())
        return [f.path for g in groups for f in g.fields] + [
            f.path for r in rows for f in (*r.fields, r.provenance)
        ]

    def wanted_loads(self) -> list[tuple[str, bool]]:
        """Each load that has a row, in their order: its id, and whether it runs."""
        wanted = {
            w["load"]
            for w in rows_of(self.document, "wanted")
            if isinstance(w, dict) and isinstance(w.get("load"), str)
        }
        return [
            (ident := str(load.get("id", at)), ident in wanted or bool(load.get("always_on")))
            for at, load in enumerate(rows_of(self.document, "rig.loads"))
            if known_kind(load_kinds(), load) is not None
        ]

    def load_rows(self) -> Iterator[LoadRow]:
        wanted = {
            w.get("load"): w.get("mode")
            for w in rows_of(self.document, "wanted")
            if isinstance(w, dict) and isinstance(w.get("load"), str)
        }
        for at, load in enumerate(rows_of(self.document, "rig.loads")):
            cls = known_kind(load_kinds(), load)
            if cls is None:
                continue
            path = f"rig.loads[{at}]"
            keys = LOAD_FIELDS.get(load["kind"]) or (("amps",) if "amps" in load else ("watts",))
            fields = [self.field(cls, key, f"{path}.{key}") for key in keys]
            soft = load.get("soft_start")
            if load.get("start") == "soft-start":
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
                (wanted.get(ident) or USUAL_MODE) if cooling else "",
                COOLING_MODES if cooling else (),
                self.field(cls, "from", f"{path}.from"),
                tuple(fields),
            )


def _shape(value: object, key: str = "") -> object:
    if isinstance(value, dict):
        return [(k, _shape(v, k)) for k, v in value.items()]
    if isinstance(value, list):
        return [_shape(v) for v in value]
    return value if key in SHAPING else None


def same_inputs(one: Document, other: Document) -> bool:
    """Whether two documents are edited by the same inputs in the same order."""
    if _shape(one) == _shape(other):
        return True
    return Form(one, "si").paths() == Form(other, "si").paths()


def edited(document: Document, posted: Mapping[str, str], units: str) -> Document:
    """A document with what a form posted put in its fields.

    Only inputs of the form's own fields count. ``shown`` lists the paths of check boxes on the
    page, since a browser does not post the ones that are off. Numbers that cannot be read stay as
    typed, for the check to name.
    """
    new = copy.deepcopy(document)
    form = Form(new, units)
    rows = list(form.load_rows())
    known = [f for g in form.groups() for f in g.fields]
    put_all(new, known + [f for r in rows for f in (*r.fields, r.provenance)], posted, units)
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
        new["wanted"] = [_wish(r, posted.get(f"mode:{r.ident}", r.mode), new) for r in ticked]
    return new


def _wish(row: LoadRow, mode: str, document: Document) -> Document:
    """A wanted load with its mode; one that was left to its default stays so."""
    before = [w for w in rows_of(document, "wanted") if w.get("load") == row.ident]
    unsaid = any("mode" not in w for w in before) and mode == USUAL_MODE
    return {"load": row.ident} | ({"mode": mode} if row.modes and not unsaid else {})
