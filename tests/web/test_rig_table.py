"""The working table of a rig."""

from __future__ import annotations

import re
from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.shared import document
from tests.web.test_inventory import Base
from web.rigs import service, table, table_edits, twelve
from web.rigs import typical as typical_loads
from web.rigs.models import Rig
from web.setups import judging, repository


class Table(Base):
    def test_a_cell_is_kept_and_the_totals_follow(self) -> None:
        answer = self.post("rig-edit", load="kettle", column="draw", value="2400")
        self.assertContains(answer, "Saved.")
        self.assertEqual(self.rig.document["loads"][1]["watts"], 2400)
        self.assertContains(answer, 'data-leg="L2">20.0 A')
        self.assertEqual(self.rig.version, 4)

    def test_each_column(self) -> None:
        cases = [
            ("name", "Big kettle", {"name": "Big kettle"}),
            ("unit", "A", {"amps": 1500}),
            ("draw", "10", {"amps": 10}),
            ("count", "2", {"count": 2}),
            ("duty", "0.2", {"duty": 0.2}),
            ("place", "L1", {"leg": "L1"}),
            ("priority", "wait", {"priority": "wait"}),
            ("always_on", "on", {"always_on": True}),
            ("from", "measured", {"from": "measured"}),
            ("kind", "motor", {"kind": "motor", "running_a": 10}),
            ("lra_a", "44", {"lra_a": 44}),
            ("start", "soft-start", {"start": "soft-start"}),
            ("kind", "microwave", {"watts": 1200}),
            ("always_on", "", {}),
        ]
        for column, value, expected in cases:
            answer = self.post("rig-edit", load="kettle", column=column, value=value)
            self.assertEqual(answer.status_code, 200, (column, answer.content))
            load = self.rig.document["loads"][1]
            self.assertEqual({k: load.get(k) for k in expected}, expected, column)
        self.assertNotIn("always_on", self.rig.document["loads"][1])

    def test_gear_nobody_named_is_shown_as_it_is_judged(self) -> None:
        unit = {"id": "u", "name": "Unit", "kind": "air-conditioner", "running_a": 12, "lra_a": 60}
        for volts, gear in ((120, "start-capacitor"), (240, "run-capacitor")):
            row = table.row_of(unit | {"voltage_v": volts}, 0, "120/240", None)
            self.assertEqual(row.cells["start"], gear)

    def test_bad_cells_are_named_and_nothing_is_stored(self) -> None:
        for column, value, words in (
            ("draw", "sixty", "must be a number"),
            ("draw", "-5", "must be above 0"),
            ("draw", "nan", "finite"),
            ("draw", "1e308", "at most"),
            ("draw", "", "must be given"),
            ("kind", "teapot", "must be one of"),
            ("lra_a", "7", "no LRA"),
            ("voltage_v", "170", "must be near"),
            ("place", "c:none", "must be the id"),
            ("count", "1.5", "whole"),
            ("nonsense", "1", "has no"),
            ("name", " ", "must not be empty"),
        ):
            before = self.rig.document
            answer = self.post("rig-edit", load="kettle", column=column, value=value)
            self.assertContains(answer, words, status_code=422, msg_prefix=column)
            self.assertEqual(self.rig.document, before)
        self.assertContains(
            self.post("rig-edit", load="gone", column="draw", value="5"), "reload", status_code=422
        )

    def test_loads_that_never_run_together(self) -> None:
        ids = [x["id"] for x in self.rig.document["loads"]][:2]
        for _ in range(2):  # once is enough
            self.post("rig-lockout", first=ids[0], second=ids[1])
        pairs = [{"first": ids[0], "second": ids[1]}]
        self.assertEqual(self.rig.document["lockouts"], pairs)
        page = self.client.get(reverse("rig", args=[self.rig.pk]))
        names = [x["name"] for x in self.rig.document["loads"]][:2]
        self.assertContains(page, f"{names[0]} or {names[1]}")
        for second in ("gone", ids[0]):
            answer = self.post("rig-lockout", first=ids[0], second=second)
            self.assertEqual(answer.status_code, 422, second)
            self.assertEqual(self.rig.document["lockouts"], pairs)
        self.post("rig-remove", load=ids[1])
        self.assertEqual(self.rig.document.get("lockouts", []), [])
        self.post("rig-undo")
        self.assertEqual(self.rig.document["lockouts"], pairs)
        self.post("rig-lockout", remove="0")
        self.assertEqual(self.rig.document.get("lockouts", []), [])

    def test_the_panel_and_its_breakers(self) -> None:
        self.post("rig-circuit")
        self.assertContains(
            self.post("rig-edit", load="", column="circuits.0.breaker_a", value="15"), "Saved."
        )
        self.post("rig-edit", load="kettle", column="place", value="c:b1")
        page = self.client.get(reverse("rig", args=[self.rig.pk]))
        self.assertContains(page, "of 15")
        self.post("rig-edit", load="", column="main_a", value="30")
        self.assertEqual(
            (self.rig.document["main_a"], self.rig.document["circuits"][0]["breaker_a"]), (30, 15)
        )
        self.assertContains(
            self.post("rig-edit", load="", column="circuits.9.leg", value="L1"),
            "no breaker",
            status_code=422,
        )
        self.post("rig-edit", load="", column="circuits.0.breaker_trips", value="early")
        self.assertEqual(self.rig.document["circuits"][0]["breaker_trips"], "early")
        for standard, stored in (("IEC60898-D", "IEC60898-D"), ("", None)):
            self.post("rig-edit", load="", column="circuits.0.breaker_standard", value=standard)
            self.assertEqual(self.rig.document["circuits"][0].get("breaker_standard"), stored)
        self.assertContains(
            self.post("rig-edit", load="", column="circuits.0.breaker_trips", value="never"),
            "must be one of",
            status_code=422,
        )
        self.post("rig-circuit", remove="b1")
        self.assertEqual(
            self.rig.document["loads"][1], self.rig.document["loads"][1] | {"leg": "L1"}
        )
        self.assertContains(self.post("rig-edit", load="", column="service", value="120"), "Saved.")

    def test_add_typical_remove_and_take_back(self) -> None:
        key, title = typical_loads.loads()[3]
        self.post("rig-add", name=title)
        self.assertEqual(self.rig.document["loads"][-1]["id"], key)
        count = len(self.rig.document["loads"])
        self.assertContains(self.post("rig-add", name="Mystery box"), "What is", status_code=422)
        self.assertEqual(len(self.rig.document["loads"]), count)
        self.post("rig-add", name="Garden pump", what="motor-3-4hp-240")
        pump = self.rig.document["loads"][-1]
        self.assertEqual((pump["name"], pump["voltage_v"]), ("Garden pump", 240.0))
        self.assertEqual((pump["running_a"], pump["lra_a"]), (6.9, 41.4))  # NEC 430.248, 430.251(A)
        self.post("rig-remove", load=pump["id"])
        self.post("rig-add", name="Mystery box", what="unknown")
        self.assertEqual(self.rig.document["loads"][-1]["name"], "Mystery box")
        self.post("rig-remove", load="roof")
        self.assertNotIn("roof", [x["id"] for x in self.rig.document["loads"]])
        self.assertContains(self.post("rig-undo"), "Taken back")
        self.assertIn("roof", [x["id"] for x in self.rig.document["loads"]])

    def test_a_name_that_is_near_a_typical_load_is_asked_with_it_chosen(self) -> None:
        for name, guess in (
            ("Fridge", "fridge-rv"),
            ("My TV", "tv"),
            ("Front A/C", "ac-13k"),
            ("espresso machine 1350 W", "coffee-drip"),
            ("Hair dryer, kids", "hair-dryer"),
            ("Mystery box", None),
            ("Electric", None),
            ("", None),
        ):
            answer = self.post("rig-add", name=name)
            self.assertEqual(answer.status_code, 422, name)
            found = re.search(r'data-guess="([^"]+)"', answer.content.decode())
            self.assertEqual(found and found[1], guess, name)
        answer = self.post("rig-add", name="Water pump")
        self.assertContains(answer, "runs off 12 V in most rigs", status_code=422)
        requested = self.post("rig-add", name="Fridge")
        self.assertContains(requested, "refrigerator, absorption, on AC?", status_code=422)
        self.assertNotContains(requested, "still in its cell", status_code=422)
        self.post("rig-add", name="Fridge", what="fridge-rv")
        self.assertTrue(self.rig.document["loads"][-1]["gas"])
        of_a_van = service.make(self.owner, "Van", "230")
        answer = self.client.post(reverse("rig-add", args=[of_a_van.pk]), {"name": "kettle?"})
        self.assertContains(answer, 'data-guess="kettle-230"', status_code=422)

    def test_what_a_load_draws_may_be_typed_behind_its_name(self) -> None:
        def added(name: str, what: str = "") -> Any:
            self.assertEqual(self.post("rig-add", name=name, what=what).status_code, 200, name)
            return self.rig.document["loads"][-1]

        for typed, what, name, draw in (
            ("Espresso machine 1,350 W", "unknown", "Espresso machine", {"watts": 1350.0}),
            ("Glass kiln: 1.5 kW", "unknown", "Glass kiln", {"watts": 1500.0}),
            ("Old lamp, 0.8 amps", "tv", "Old lamp", {"amps": 0.8}),
            ("Oven 9 A", "microwave-rv", "Oven", {"watts": 1080}),
            ("Toaster oven 1400 watts", "", "Toaster oven", {"watts": 1400.0}),
            ("Converter 80 A", "charger-55", "Converter", {"watts": 1240.0}),  # of its battery
        ):
            load = added(typed, what)
            self.assertEqual((load["name"], load["from"]), (name, "plate"), typed)
            given = {k: v for k, v in load.items() if k in ("watts", "amps")}
            self.assertEqual(given, draw, typed)
        # A motor's figure is the whole of it: its fan and its locked-rotor amps go along.
        usual = typical_loads.load_document("ac-13k", set())
        assert usual is not None
        for typed in ("Roof cooler 11 A", "Roof cooler 1254 W"):
            load = added(typed, "ac-13k")
            self.assertAlmostEqual(load["running_a"] + load["fan_high_a"], 11.0, 1, typed)
            ratio = usual["lra_a"] / usual["running_a"]
            self.assertAlmostEqual(load["lra_a"] / load["running_a"], ratio, 1)
            self.assertEqual((load["name"], load.get("from")), ("Roof cooler", None))
        answer = self.post("rig-add", name="Odd thing 5 W")
        self.assertContains(answer, "What is &quot;Odd thing&quot;", status_code=422)
        count = len(self.rig.document["loads"])
        answer = self.post("rig-add", name="Nothing 0 W", what="unknown")
        self.assertContains(answer, "above 0", status_code=422)
        self.assertEqual(len(self.rig.document["loads"]), count)
        self.assertEqual(added("Suite 7 A4 printer", "tv")["name"], "Suite 7 A4 printer")

    def test_pasted_rows_fill_cells_and_make_loads(self) -> None:
        text = (
            "Toaster\tresistive\t900\tW\t\t\t120\t1\t0.1\tL1\twait\tno\tmeasured\nHeat "
            "pump\tmotor\t9\tA\t48\tsoft-start\t240\t1\t\t\tmust\t\tplate\nBad\tresistive\tmany\tW"
        )
        answer = self.post("rig-paste", row="2", column="name", value=text)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertContains(answer, "row 3, Draws: must be a number")
        loads = {x["name"]: x for x in self.rig.document["loads"]}
        self.assertEqual(
            (loads["Toaster"]["watts"], loads["Toaster"]["priority"], loads["Toaster"]["from"]),
            (900, "wait", "measured"),
        )
        self.assertEqual(
            (
                loads["Heat pump"]["lra_a"],
                loads["Heat pump"]["start"],
                loads["Heat pump"]["voltage_v"],
            ),
            (48, "soft-start", 240),
        )
        answer = self.post("rig-paste", row="0", column="draw", value="11\tA\n1600\tW")
        self.assertEqual(
            (self.rig.document["loads"][0]["running_a"], self.rig.document["loads"][1]["watts"]),
            (11, 1600),
        )

    def test_the_drawer_knows_every_field(self) -> None:
        page = self.client.get(reverse("rig-load", args=[self.rig.pk]), {"load": "roof"})
        self.assertContains(page, 'data-detail="high_cool_a"')
        self.post("rig-detail", load="roof", column="high_cool_a", value="13.3")
        self.post("rig-detail", load="roof", column="start", value="soft-start")
        self.post("rig-detail", load="roof", column="soft_start.fraction", value="0.4")
        self.assertEqual(self.rig.document["loads"][0]["soft_start"]["fraction"], 0.4)
        self.assertContains(
            self.post("rig-detail", load="roof", column="nothing", value="1"),
            "no such field",
            status_code=422,
        )
        self.assertContains(
            self.post("rig-detail", load="roof", column="high_cool_a", value="-1"),
            "must be above",
            status_code=422,
        )

    def test_two_pages_of_one_rig(self) -> None:
        stale = self.rig.version
        self.post("rig-edit", load="kettle", column="draw", value="1000")
        answer = self.post("rig-edit", version=stale, load="kettle", column="draw", value="1200")
        self.assertContains(answer, "changed from another page", status_code=409)
        self.assertContains(answer, "1200", status_code=409)
        self.assertContains(answer, "Kettle watts from 1500 to 1000", status_code=409)
        self.assertEqual(self.rig.document["loads"][1]["watts"], 1000)

    def test_twelve_volt_things(self) -> None:
        self.post("rig-12-v", value="Fan\n\nPump\n")
        self.assertEqual(self.rig.twelve_volt, ["Fan", "Pump"])
        self.assertContains(self.client.get(reverse("rig", args=[self.rig.pk])), "Pump")

    def test_the_twelve_volt_side_is_counted_where_amps_and_hours_are_known(self) -> None:
        lines = "Furnace fan 7 A 5 h\nPump\nDish: 40 W, 3,5 h"
        answer = self.post("rig-12-v", value=lines, battery_ah="200", full="on", charger="")
        self.assertContains(answer, "12 V takes 46 Ah a night")
        side = self.rig.document["dc"]
        self.assertEqual(
            side["uses"],
            [
                {"name": "Furnace fan", "amps": 7, "hours": 5},
                {"name": "Dish", "amps": 3.12, "hours": 3.5},
            ],
        )
        self.assertEqual((side["battery_ah"], side["full"]), (200, True))
        self.assertEqual(len(self.rig.twelve_volt), 3)
        self.post(
            "rig-12-v", value=lines, battery_ah="100", volts="25.6", usable="80 %", charger=""
        )
        side = self.rig.document["dc"]
        self.assertEqual((side["volts"], side["usable_fraction"]), (25.6, 0.8))
        self.assertEqual(side["uses"][1]["amps"], 1.56)  # 40 W of 25.6 V
        refused = self.post("rig-12-v", value=lines, volts="x", battery_ah="1", charger="")
        self.assertContains(refused, "must be a number", status_code=422)
        refused = self.post("rig-12-v", value=lines, battery_ah="many", charger="")
        self.assertContains(refused, "must be a number", status_code=422)
        refused = self.post("rig-12-v", value="", battery_ah="0", charger="")
        self.assertContains(refused, "must be above 0", status_code=422)
        refused = self.post("rig-12-v", value="", battery_ah="", charger="kettle")
        self.assertContains(refused, "must be the id of one of the rig", status_code=422)
        self.post("rig-12-v", value="", battery_ah="", volts="", usable="", charger="")
        self.assertNotIn("dc", self.rig.document)

    def test_twelve_volt_things_as_they_are_said(self) -> None:
        for line, name, amps, hours in (
            ("furnace fan 7A, 5 hours", "furnace fan", 7.0, 5.0),
            ("Freezer 45 W all night", "Freezer", 3.52, 10.0),
            ("pump 8A 15 min", "pump", 8.0, 0.25),
            ("CPAP 30W 8 hrs", "CPAP", 2.34, 8.0),
            ("Fan, 2.5 amps, 6 hours", "Fan", 2.5, 6.0),
            ("blower 90 watts for 4 hrs", "blower", 7.03, 4.0),
            ("Lamp 2 A overnight 3 h", "Lamp", 2.0, 3.0),
            ("Iron 5 A 99 h", "Iron", 5.0, 24.0),
        ):
            self.assertEqual(twelve.use_of(line), {"name": name, "amps": amps, "hours": hours})
        for line in (
            "Lights",
            "Lights 3 A",
            "Lights 4 h",
            "5 Apples 3 mice",
            "hose 3 m 2 A",
            "3 AA cells 2 h",
        ):
            self.assertIsNone(twelve.use_of(line), line)

    def test_how_long_a_load_is_on_is_percent(self) -> None:
        load = {"id": "k", "name": "Kettle", "kind": "resistive", "watts": 900}
        for typed, duty in (("25", 0.25), ("25 %", 0.25), ("0.25", 0.25)):
            edited, fault = table_edits.edit_load(load, "duty", typed)
            self.assertIsNone(fault)
            self.assertEqual(edited["duty"], duty)
        (group,) = (g for g in table.groups({"loads": [edited]}, None) if g.rows)
        self.assertEqual(group.rows[0].cells["duty"], "25")
        _, fault = table_edits.edit_load(load, "duty", "140")
        assert fault is not None
        self.assertEqual(fault.message, "must be at most 100 % (got 140 %)")

    def test_the_space_is_typed_in_ones_own_units(self) -> None:
        self.client.cookies["units"] = "us"
        self.post("rig-room", area_m2="240", insulation="good", target_c="77")
        room = self.rig.document["room"]
        self.assertAlmostEqual(room["area_m2"], 22.3, places=2)
        self.assertAlmostEqual(room["target_c"], 25.0, places=2)
        page = self.client.get(reverse("rig", args=[self.rig.pk]))
        self.assertContains(page, 'value="240"')
        refused = self.post("rig-room", area_m2="large", insulation="good", target_c="77")
        self.assertContains(refused, "must be a number", status_code=422)
        refused = self.post("rig-room", area_m2="240", insulation="soft", target_c="77")
        self.assertContains(refused, "must be one of", status_code=422)

    def test_sixty_loads_take_a_constant_number_of_queries(self) -> None:
        def queries() -> int:
            with CaptureQueriesContext(connection) as caught:
                self.client.get(reverse("rig", args=[self.rig.pk]))
            return len(caught)

        queries()
        few = queries()
        loads = [
            {"id": f"l{n}", "name": f"Load {n}", "kind": "electronic", "watts": 50}
            for n in range(60)
        ]
        self.rig = service.put(self.rig, self.rig.version, self.rig.document | {"loads": loads})
        self.assertEqual(queries(), few)

    def test_a_changed_rig_changes_the_verdicts_that_stand_on_it(self) -> None:
        setup = repository.store(self.owner, judging.judge(document(4)))
        rig = Rig.objects.get(pk=setup.rig_id)
        self.post("rig-edit", rig, load="bed", column="start", value="start-capacitor")
        setup.refresh_from_db()
        self.assertTrue(setup.stale)
        self.assertContains(self.client.get(reverse("setups")), "computing")
        self.assertContains(self.client.get(reverse("setup-chip", args=[setup.pk])), "Fails")
        setup.refresh_from_db()
        self.assertEqual((setup.verdict, setup.stale), ("fails", False))
