"""Spreadsheets people made themselves, as loads of a rig."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from ironmargin.document import Document
from tests.web.pages import PageCase
from web.rigs import own_sheet, service
from web.rigs.models import Rig

HOUSE: Document = {"service": "120/240", "main_a": 100, "what": "building", "loads": []}
SIZING = (
    "Appliance,Running Watts,Starting Watts,Qty\n"
    "Refrigerator,700,2200,1\n"
    "Sump pump 1/3 hp,1050,2150,1\n"
    "LED bulbs,9,0,10\n"
    ",,,\n"
    "Total,,2559,\n"
)


class OwnSheets(PageCase):
    def taken(self, text: str, rig: Document = HOUSE) -> tuple[list[own_sheet.Taken], list[str]]:
        table = own_sheet.table_of(text.encode())
        assert table is not None, text
        found, problems = own_sheet.read(table, rig)
        return found, [str(p) for p in problems]

    def test_a_generator_sizing_sheet(self) -> None:
        found, problems = self.taken(SIZING)
        self.assertEqual(
            [(x.load["name"], x.load["kind"], x.load.get("count", 1)) for x in found],
            [("Refrigerator", "motor", 1), ("Sump pump 1/3 hp", "motor", 1),
             ("LED bulbs", "electronic", 10)],
        )  # fmt: skip
        pump = found[1].load
        self.assertAlmostEqual(pump["running_a"] * 120 * 0.95, 1050, delta=60)
        self.assertGreater(pump["lra_a"], 3.5 * pump["running_a"])  # goes along
        self.assertEqual(found[1].like, "sump pump, 1/3 hp")
        self.assertEqual(len(problems), 1)
        self.assertIn("Starting Watts: is passed over", problems[0])

    def test_semicolons_tabs_commas_and_units_in_the_header(self) -> None:
        van = {"service": "230", "main_a": 16, "what": "vehicle", "loads": []}
        found, problems = self.taken("Load;Power (W);Volts\nkettle;2,2 kW;230\nLamp;60;230\n", van)
        self.assertEqual([x.load["watts"] for x in found], [2200.0, 60.0])
        self.assertEqual([x.load["voltage_v"] for x in found], [230.0, 230.0])
        self.assertEqual(problems, [])
        found, problems = self.taken(
            "Item\tAmps\tLRA\tVoltage\n3 ton AC\t14.5\t77\t240\nWell pump 1 hp\t8\t\t240\n"
        )
        self.assertEqual(
            [(x.load["running_a"], x.load["lra_a"], x.load["voltage_v"]) for x in found],
            [(14.5, 77.0, 240.0), (8.0, 45.0, 240.0)],
        )
        found, _ = self.taken("Load (W),Name\n100,lamp\n")
        self.assertEqual(found[0].load["watts"], 100.0)

    def test_what_is_wrong_is_named_and_the_rest_is_taken(self) -> None:
        text = "Name,Watts,Qty\nfan,x,1\nTV,100,0.5\nheater,-5,1\nfan,50,1\nfan,60,1\nbig,1e99,1\n"
        found, problems = self.taken(text)
        self.assertEqual([x.load["id"] for x in found], ["fan", "fan-2"])
        self.assertEqual(len(problems), 4)
        for words in ("line 2, watts: must be a number", "line 3, TV", "line 4, heater", "line 7"):
            self.assertTrue(any(words in p for p in problems), (words, problems))

    def test_what_is_no_such_sheet(self) -> None:
        for raw in (b"", b"a,b\n1,2\n", b"Name\nfan\n", b"\xff\xfe", b'Name,Watts\n"fan', b"\x00"):
            self.assertIsNone(own_sheet.table_of(raw), raw)

    def test_it_is_shown_before_it_is_stored(self) -> None:
        owner = User.objects.create_user("owner")
        self.client.force_login(owner)
        rig = service.make(owner, "Cabin", "120/240")
        url = reverse("rig-import", args=[rig.pk])
        before = len(rig.document["loads"])
        sheet = "Name,Watts\n<b>Lamp</b>,60\n"
        page: Any = self.client.post(url, {"file": SimpleUploadedFile("a.csv", sheet.encode())})
        self.assertContains(page, "What each row was taken for")
        self.assertContains(page, "&lt;b&gt;Lamp")
        self.assertEqual(len(Rig.objects.get().document["loads"]), before)
        page = self.client.post(url, {"file": SimpleUploadedFile("a.csv", SIZING.encode())})
        self.assertContains(page, "passed over", status_code=422)
        self.assertContains(page, "sump pump, 1/3 hp", status_code=422)
        self.client.post(url, {"raw": SIZING, "good_rows": "1"})
        names = [x["name"] for x in Rig.objects.get().document["loads"]]
        self.assertEqual(names[before:], ["Refrigerator", "Sump pump 1/3 hp", "LED bulbs"])
        rig = Rig.objects.get()
        service.put(rig, rig.version, rig.document | {"loads": [
            x | ({"leg": "L2", "priority": "wait"} if x["name"] == "Refrigerator" else {})
            for x in rig.document["loads"]
        ]})  # fmt: skip
        again = SIZING.replace("Refrigerator,700", "refrigerator,650")
        page = self.client.post(url, {"file": SimpleUploadedFile("a.csv", again.encode())})
        self.assertContains(page, "it is here already", count=3, status_code=422)
        self.client.post(url, {"raw": again, "good_rows": "1"})
        loads = Rig.objects.get().document["loads"]
        self.assertEqual(len(loads), before + 3)  # the same file twice adds nothing
        fridge = next(x for x in loads if x["name"] == "refrigerator")
        self.assertEqual((fridge["leg"], fridge["priority"]), ("L2", "wait"))
