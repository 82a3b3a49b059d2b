"""Plates of generators, inverters and batteries: their figures are read, in the units they come in;
what is not sure or does not fit is asked.
"""

from __future__ import annotations

import unittest

from ironmargin.loads.plate_words import SURE, Words
from ironmargin.sensing.supply_plate import PLACES, RECORDS, supply_figures
from ironmargin.setup.parts import read_supply
from ironmargin.setup.records import specs


def read(*lines: str, kind: str = "generator", sure: float = 0.97) -> dict[str, float | str]:
    """The sure figures of a plate's lines."""
    found = supply_figures([Words(line, sure) for line in lines], kind)
    return {f.field: f.value for f in found if f.sure}


class AGeneratorsPlate(unittest.TestCase):
    def test_its_watts_volts_fuel_and_tank(self) -> None:
        for lines in (
            ("RUNNING WATTS 3400W", "STARTING WATTS 4500 W", "120V 60HZ", "GASOLINE TANK 2.6 GAL"),
            ("RATED OUTPUT: 3400 W", "MAX. OUTPUT 4.5 kW", "VOLTAGE 120 V",
             "UNLEADED FUEL TANK CAPACITY 9.84 L"),
            ("RUNNING WATTS 3400", "STARTING WATTS: 4500", "120V", "GASOLINE TANK 9.84 L"),
            ("3400 W RATED", "4500 W MAX", "AC 120 V", "gasoline", "9.84 L TANK"),
        ):  # fmt: skip
            with self.subTest(lines[0]):
                found = read(*lines)
                self.assertEqual(found["continuous_w"], 3400.0)
                self.assertEqual(found["starting_w"], 4500.0)
                self.assertEqual(found["voltage_v"], 120.0)
                self.assertEqual(found["fuel"], "gasoline")
                self.assertAlmostEqual(float(found["tank_l"]), 9.84, delta=0.01)

    def test_the_higher_of_two_voltages_counts(self) -> None:
        self.assertEqual(read("120/240 V")["voltage_v"], 240.0)

    def test_the_output_goes_with_the_volts(self) -> None:
        """A set of two legs whose volts alone were filled in would not be read at all."""
        for line, output in (
            ("120/240 V", "120/240"), ("120V / 240V 60 Hz", "120/240"), ("AC 120 V", "120"),
            ("230 V 50 Hz", "230"), ("220-240V~ 50Hz", "230"), ("240 V 60 HZ", "120/240"),
        ):  # fmt: skip
            self.assertEqual(read(line).get("output"), output, line)
            found = {"kind": "generator", "continuous_w": 5000, "starting_w": 6000} | read(line)
            read_supply(found)
        self.assertNotIn("output", read("12 V DC 8 A"))

    def test_powers_behind_their_words_or_before_them(self) -> None:
        for line, running, starting in (
            ("3.2 kW MAX 3.0 kW RATED", 3000.0, 3200.0),
            ("RATED 3.0 kW MAX 3.2 kW", 3000.0, 3200.0),
            ("7500 RUNNING WATTS, 9375 STARTING WATTS", 7500.0, 9375.0),
            ("STARTING WATTS 4375 RUNNING WATTS 3500", 3500.0, 4375.0),
        ):
            found = read(line)
            self.assertEqual(
                (found.get("continuous_w"), found.get("starting_w")), (running, starting), line
            )

    def test_two_fuels_powers_go_to_each(self) -> None:
        """The fuel before its figures, or on the line above them; gasoline's is the set's own."""
        for lines in (
            ("GASOLINE: 7500 RUNNING 9375 STARTING", "PROPANE: 6750 RUNNING 8438 STARTING"),
            ("PROPANE", "RUNNING 6750 W", "STARTING 8438 W", "GASOLINE", "RUNNING 7500 W",
             "STARTING 9375 W"),
        ):  # fmt: skip
            found = {f.field: f for f in supply_figures([Words(x, 0.97) for x in lines])}
            self.assertFalse(found.pop("fuel").sure)  # which one it runs on nobody has said
            self.assertEqual(
                {path: (f.value, f.sure) for path, f in found.items()},
                {
                    "continuous_w": (7500.0, True),
                    "starting_w": (9375.0, True),
                    "by_fuel.propane.continuous_w": (6750.0, True),
                    "by_fuel.propane.starting_w": (8438.0, True),
                },
            )

    def test_half_a_fuel_s_powers_are_asked(self) -> None:
        lines = ("GASOLINE 7500 RUNNING 9375 STARTING", "PROPANE 6750 RUNNING")
        found = {f.field: f for f in supply_figures([Words(x, 0.97) for x in lines])}
        self.assertEqual(found["continuous_w"].others, (6750.0,))
        self.assertNotIn("by_fuel.propane.continuous_w", found)

    def test_what_two_lines_say_differently_is_asked(self) -> None:
        found = supply_figures([Words("RUNNING 3400 W", 0.97), Words("RATED 3000 W", 0.97)])
        self.assertEqual(
            [(f.field, f.sure, f.others) for f in found], [("continuous_w", False, (3000.0,))]
        )

    def test_what_the_reader_was_not_sure_of_is_asked(self) -> None:
        self.assertEqual(read("RUNNING 3400 W", sure=SURE - 0.01), {})
        self.assertEqual(read("RUNNING 3400 W", sure=SURE), {"continuous_w": 3400.0})
        self.assertEqual(read("RUNNING 34OO W"), {})  # letters put right

    def test_two_fuels_are_asked(self) -> None:
        self.assertNotIn("fuel", read("GASOLINE OR PROPANE"))

    def test_out_of_range_is_no_figure(self) -> None:
        self.assertEqual(
            read("RUNNING 99999999 W", "VOLTAGE 120 V"), {"voltage_v": 120.0, "output": "120"}
        )

    def test_words_without_figures_are_none(self) -> None:
        self.assertEqual(
            read("CARBON MONOXIDE", "READ THE MANUAL", "MODEL 3400", "SERIAL 4500W1"), {}
        )


class AnInvertersPlate(unittest.TestCase):
    def test_its_watts_surge_and_battery(self) -> None:
        found = read(
            "CONT. POWER 3000W",
            "SURGE 6000W",
            "120 VAC",
            "LIFEPO4 12.8V DC 200AH",
            kind="battery-inverter",
        )
        self.assertEqual(found["continuous_w"], 3000.0)
        self.assertEqual(found["surge_w"], 6000.0)
        self.assertEqual(found["chemistry"], "lithium")
        self.assertAlmostEqual(float(found["battery_wh"]), 2560.0)

    def test_a_power_that_only_comes_out_is_asked(self) -> None:
        lines = ("2048 Wh 51.2V 40Ah LiFePO4", "AC OUTPUT 120V 20A 2400W SURGE 4800W")
        found = supply_figures([Words(line, 0.97) for line in lines], "battery-inverter")
        values = {f.field: (f.value, f.sure) for f in found}
        self.assertEqual(values["continuous_w"], (2400.0, False))
        self.assertEqual(values["surge_w"], (4800.0, True))
        self.assertEqual(values["battery_wh"], (2048.0, True))

    def test_watt_hours_win_over_amp_hours(self) -> None:
        found = read("2.56 KWH", "12V DC 100AH AGM", kind="battery-inverter")
        self.assertEqual((found["battery_wh"], found["chemistry"]), (2560.0, "lead"))


class ItsFields(unittest.TestCase):
    def test_every_figure_has_a_field_of_its_kind(self) -> None:
        for kind, places in PLACES.items():
            self.assertLessEqual(set(places.values()), set(specs(RECORDS[kind])), kind)

    def test_other_supplies_have_none(self) -> None:
        self.assertEqual(read("RUNNING 3400 W", kind="shore"), {})
