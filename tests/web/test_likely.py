"""Names as people type them, and the typical load that is proposed for each."""

from __future__ import annotations

from django.test import SimpleTestCase

from ironmargin.document import Document
from web.rigs.likely import likely, off_the_battery, size_of

TRAILER: Document = {"what": "vehicle", "service": "120/240"}
HOUSE: Document = {"what": "building", "service": "120/240"}
VAN: Document = {"what": "vehicle", "service": "230"}


class Names(SimpleTestCase):
    def test_the_size_in_a_name_chooses_the_size(self) -> None:
        for name, of, value in (
            ("15k AC", "btu", 15_000), ("13.5 BTU roof unit", "btu", 13_500),
            ("15,000 Btu/h", "btu", 15_000), ("RV AC 13,500", "btu", 13_500),
            ("2.5 ton", "btu", 30_000), ("1 1/2 hp pump", "hp", 1.5), ("1/3-hp sump", "hp", 1 / 3),
            ("50 gal heater", "gal", 50), ("charger, 45 A", "A", 45), ("700 W oven", "W", 700),
        ):  # fmt: skip
            found = size_of(name)
            assert found is not None, name
            self.assertEqual(found[0], of, name)
            self.assertAlmostEqual(found[1], value, 6, name)
        for name in ("AC", "0 hp", "1/0 hp", "A1 lamp", ""):
            self.assertIsNone(size_of(name), name)

    def test_in_a_trailer(self) -> None:
        for name, key in (
            ("15k AC", "ac-15k"), ("13.5 BTU AC", "ac-13k"), ("AC", "ac-13k"),
            ("heat pump", "ac-13k"), ("soft start AC", "ac-15k-soft"), ("dryer", "washer-dryer-rv"),
            ("converter", "charger-55"), ("water heater 10 gal", "water-heater-rv-10"),
            ("mini fridge", "fridge-small"), ("ceramic heater", "space-heater"),
            ("heater", "space-heater"), ("oven", "microwave-rv"), ("CPAP", "cpap"),
            ("outdoor kitchen fridge", "fridge-rv"), ("washer", "washer"), ("radio", ""),
            ("LED bulbs", "lights-led"), ("fans", "fan-box"), ("two fridges", "fridge-rv"),
        ):  # fmt: skip
            self.assertEqual(likely(name, TRAILER), key, name)

    def test_in_a_house(self) -> None:
        for name, key in (
            ("central AC 3 ton", "condenser-30"), ("3.5 ton condenser", "condenser-35"),
            ("AC", "condenser-30"),
            ("central air conditioner", "condenser-30"), ("window AC", "ac-window-10k"),
            ("heat pump", "heat-pump-mini"),
            ("furnace", "furnace-blower"), ("water heater", "water-heater-house"),
            ("dryer", "dryer-240"), ("oven", "oven-240"), ("EV charger", "car-charger-120"),
            ("well pump 1 hp", "well-pump-one"), ("pump 2 hp", "motor-2hp-120"),
            ("pellet stove", "pellet-stove"), ("tankless water heater", "tankless-240"),
        ):  # fmt: skip
            self.assertEqual(likely(name, HOUSE), key, name)
        self.assertEqual(likely("kettle", VAN), "kettle-230")
        for unsaid in ({"name": "Alder Creek house"}, {"loads": [{"name": "Furnace blower"}]}):
            self.assertEqual(likely("dryer", unsaid), "dryer-240", unsaid)
            self.assertFalse(off_the_battery("water pump", unsaid))
        self.assertEqual(likely("dryer", {}), "washer-dryer-rv")

    def test_nothing_is_proposed_for_what_tells_nothing(self) -> None:
        for name in ("", "my new box", "120 V", "zzz", "1/0 hp", "<b>", "9" * 200):
            self.assertEqual(likely(name, TRAILER), "", name)

    def test_what_runs_off_12_v(self) -> None:
        for name in ("Water pump", "slide-out", "Front jacks", "LP detector"):
            self.assertTrue(off_the_battery(name, TRAILER), name)
            self.assertFalse(off_the_battery(name, HOUSE), name)
        self.assertFalse(off_the_battery("well pump", TRAILER))
