"""Whatever the open formats can say can be typed on the web: a field that no page has is found
here, or named with the reason why none has it.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Mapping
from dataclasses import replace
from itertools import product
from pathlib import Path

from django.test import SimpleTestCase

from ironmargin.bench.script import Begin
from ironmargin.document import Document
from ironmargin.learning.entries import entry_kinds
from ironmargin.planning.stock import Stock, Sun, Use
from ironmargin.planning.tasks import Running, Task, Tasks
from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.setup.loads import load_kinds
from ironmargin.setup.model import (
    Circuit,
    Conditions,
    DcSide,
    Prices,
    Rig,
    Room,
    Rules,
    Setup,
    Site,
)
from ironmargin.setup.parts import read_supply
from ironmargin.setup.records import specs
from tests.kinds import SUPPLIES, question
from web.design.fields import look_up, put_all
from web.hours.prices import PRICES
from web.logbook.service import fields_of
from web.rigs.service import details
from web.running_order.service import TASK_FIELDS
from web.setups.demo import documents
from web.setups.form import Form
from web.supplies.form import SupplyForm

FILE = {"format", "version", "x", "name", "notes"}
"""What every file has; names and notes are typed at the head of each page."""
ELSEWHERE: dict[str, dict[str, str]] = {
    "rules": {"trials": "how exact a chance is, not a choice of a person", "seed": "the same"},
    "battery-inverter": {"sun_first": "it has no input to share with; an assist's is asked"},
    "vehicle": {"sun_first": "it has no input to share with"},
    "load": {"id": "made from the name", "circuit": "the table's breaker or leg", "leg": "the same",
             "soft_start": "asked where it has one"},
    "rig": {"circuits": "their own form", "lockouts": "never both", "loads": "the table",
            "room": "its own form", "dc": "the 12 V side", "service": "the head of the page"},
    "circuit": {"id": "made anew"},
    "dc": {"uses": "one a line"},
    "entry": {"at": "when, if not now", "was": "taken from the setup", "load": "which load",
              "mode": "its mode", "with_running": "what else was running", "running": "the same",
              "changed": "the setup as it is now", "trace": "a capture's file",
              "where": "what opened", "notes": "the guided surveys write their own",
              "item": "the plug that is felt", "readings": "the guided minutes",
              "steps": "the guided survey", "by": "the hand or the thermometer it is felt with"},
    "stock": {"kg": "fuel by the pound or kilogram", "fuel": "the generator's own",
              "charge_w": "the rig's chargers say it", "solar": "watts and hours of sun",
              "loads": "the hours of each", "litres": "", "days": "", "generator_hours": ""},
    "use": {"load": "each has a row", "mode": "as the setup wants it"},
    "task": {"id": "made anew"},
    "tasks": {"tasks": "the table"},
    "running": {"mode": "as the setup wants it"},
    "begin": {"soc": "set on the bench", "fuel": "set on the bench"},
}  # fmt: skip


def shown(form: SupplyForm) -> set[str]:
    """The paths a supply's form has."""
    return {f.path for group in form.supply_groups(full=True) for f in group.fields}


class EveryField(SimpleTestCase):
    def all_there(self, cls: type, there: set[str], reasons: Mapping[str, str], what: str) -> None:
        """Every field of a record is on a page, or has its reason; no reason is stale."""
        fields = set(specs(cls)) - FILE
        self.assertEqual(fields - there - set(reasons), set(), f"{what}: no page has them")

    def test_every_supply(self) -> None:
        for name, document in SUPPLIES.items():
            form = SupplyForm({"supply": document}, "si")
            there = {re.split(r"[.\[]", p.removeprefix("supply."))[0] for p in shown(form)}
            kind = "vehicle" if "vehicle" in name else str(document["kind"])
            cls = type(read_supply(document))
            self.all_there(cls, there, ELSEWHERE.get(kind, {}), name)

    def test_the_setup_s_own(self) -> None:
        form = Form(question(next(iter(SUPPLIES))), "si")
        paths = {f.path for group in form.groups() for f in group.fields}
        for cls, part in ((Conditions, "conditions"), (Rules, "rules"), (Site, "site")):
            there = {p.removeprefix(f"{part}.") for p in paths if p.startswith(f"{part}.")}
            self.all_there(cls, there, ELSEWHERE.get(part, {}), part)
        self.all_there(Prices, {name for name, _, _ in PRICES}, {}, "prices")
        parts = {"conditions", "rules", "site", "supply", "hookup", "rig", "wanted", "prices"}
        self.all_there(Setup, parts, {}, "setup")

    def test_every_part_of_the_path(self) -> None:
        for kind, cls in HOOKUP_KINDS.items():
            part = {"kind": kind} | ({"from": ["TT-30", "TT-30"]} if kind == "splitter" else {})
            document = question(next(iter(SUPPLIES))) | {"hookup": [part]}
            (group,) = Form(document, "si").path_groups()
            there = {f.path.split(".")[-1] for f in group.fields}
            listed = {"from": "comes with it as it was chosen"} if kind == "splitter" else {}
            self.all_there(cls, there | {"name"}, listed, kind)
            self.assertIn("hookup[0].name", {f.path for f in group.fields})

    def test_every_load(self) -> None:
        for kind, cls in load_kinds().items():
            load = {"id": "x", "name": "x", "kind": kind}
            there = {f.path for f in details(load)}
            self.all_there(cls, there, ELSEWHERE["load"], kind)
            if "soft_start" in specs(cls):
                soft = {f.path for f in details(load | {"start": "soft-start"})}
                self.assertIn("soft_start.peak_a", soft, kind)

    def test_the_rig_s_own(self) -> None:
        form = Form(question(next(iter(SUPPLIES))), "si")
        there = {f.path.removeprefix("rig.") for f in form.condition_group().fields}
        self.all_there(Rig, there, ELSEWHERE["rig"], "rig")
        page = self.text("rigs/templates/rigs/_circuits.html")
        there = set(re.findall(r"data-panel=\"circuits\.\{\{ c\.at \}\}\.(\w+)\"", page))
        self.all_there(Circuit, there | {"name"}, ELSEWHERE["circuit"], "circuit")
        page = self.text("rigs/templates/rigs/page.html")
        names = set(re.findall(r"name=\"(\w+)\"", page))
        there = names | ({"usable_fraction"} if "usable" in names else set())
        self.all_there(DcSide, there, ELSEWHERE["dc"], "12 V side")
        self.all_there(Room, names, {}, "room")

    def test_every_entry_of_the_log(self) -> None:
        for kind, cls in entry_kinds().items():
            self.all_there(cls, set(fields_of(kind)), ELSEWHERE["entry"], kind)
        for kind in ("start", "run", "supply", "noise", "fuel", "energy", "trip"):
            self.assertIn("notes", fields_of(kind), kind)

    def test_stock_tasks_and_bench(self) -> None:
        page = self.text("hours/templates/hours/_ration.html")
        self.all_there(Stock, set(), ELSEWHERE["stock"], "stock")
        for name in ("days", "litres", "allowed", "solar", "sun", "h-", "l-", "p-"):
            self.assertIn(f'name="{name}', page)
        self.all_there(Use, {"hours", "min_hours", "priority"}, ELSEWHERE["use"], "use")
        self.all_there(Sun, {"peak_w", "sun_h"}, {}, "sun")
        self.all_there(Task, set(TASK_FIELDS), ELSEWHERE["task"], "task")
        page = self.text("running_order/templates/running_order/_day.html")
        for name in ("generator_hours", "max_generator_h", "quiet", "run11.load", "run11.from"):
            self.assertIn(f'name="{name}"', page)
        there = {"running", "generator_hours", "max_generator_h", "quiet"}
        self.all_there(Tasks, there, ELSEWHERE["tasks"], "tasks")
        self.all_there(Running, {"load", "from", "to"}, ELSEWHERE["running"], "running")
        page = self.text("bench/templates/bench/_begin.html")
        for name in ("breakers", "how", "room"):
            self.assertIn(f'name="{name}"', page)
        self.all_there(Begin, {"all", "breakers", "room_c"}, ELSEWHERE["begin"], "begin")

    def test_every_figure_is_typed_back_to_itself_in_both_units(self) -> None:
        """What a form shows, typed again, is what the format had: within what is shown of it."""
        seen = 0
        for document, units in product(documents(), ("us", "si")):
            for field in (f for g in Form(document, units).groups() for f in g.fields):
                value = look_up(document, field.path)
                if field.kind != "number" or not isinstance(value, int | float):
                    continue
                told = copy.deepcopy(document)
                put_all(told, [replace(field, value="")], {field.path: field.value}, units)
                again = look_up(told, field.path)
                assert isinstance(again, int | float), (field.path, again)
                off = abs(again - value)
                self.assertLessEqual(off, 0.01 * abs(value) + 0.05, f"{units} {field.path}")
                seen += 1
        self.assertGreater(seen, 250)

    def test_every_figure_nobody_gave_is_the_core_s_own(self) -> None:
        """A default stands in its field as the core has it, percent and hours among them."""
        document = question("generator") | {"conditions": {}, "rules": {}}
        form = Form(document, "si")
        fields = {f.path: f for group in form.groups() for f in group.fields}
        for cls, part in ((Conditions, "conditions"), (Rules, "rules"), (Site, "site")):
            for key, (_, _, default) in specs(cls).items():
                field = fields.get(f"{part}.{key}")
                if field is None or field.kind != "number" or not isinstance(default, int | float):
                    continue
                times = 100.0 if field.share else 1.0
                self.assertAlmostEqual(float(field.value), times * default, 1, msg=field.path)
                told: Document = {part: {}}
                put_all(told, [replace(field, value="")], {field.path: field.value}, "si")
                self.assertAlmostEqual(look_up(told, field.path), default, 1, msg=field.path)

    @staticmethod
    def text(path: str) -> str:
        """A template as it is written."""
        return (Path(__file__).resolve().parents[2] / "web" / path).read_text("utf-8")
