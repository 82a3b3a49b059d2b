"""The plate reader and the totals of a rig, against published tables and hand arithmetic."""

from __future__ import annotations

import unittest

from ironmargin.errors import SetupError
from ironmargin.loads.plate_reader import read_plate
from ironmargin.setup.parts import read_rig, read_supply
from ironmargin.sustaining.totals import totals


class Plates(unittest.TestCase):
    def test_horsepower_and_code_letter_by_the_nec(self) -> None:
        # NEC Table 430.248 (from memory): 1 hp at 230 V takes 8 A, at 115 V 16 A. Table 430.7(B): J
        # is 7.1 to 7.99 kVA/hp, middle 7.545.
        load = read_plate({"kind": "motor", "hp": 1.0, "code_letter": "J", "rated_v": 230.0}).load
        self.assertEqual((load["running_a"], load["lra_a"]), (8.0, round(7.545 * 1000 / 240, 1)))
        self.assertEqual(
            read_plate({"kind": "motor", "hp": 1.0, "rated_v": 115.0}).load["running_a"], 16.0
        )

    def test_mca_is_a_quarter_more_than_rla_and_the_fan(self) -> None:
        good = read_plate(
            {"kind": "air-conditioner", "rla_a": 12.0, "fan_a": 2.0, "mca_a": 17.0, "lra_a": 60.0}
        )
        self.assertEqual(good.conflicts, ())
        bad = read_plate(
            {"kind": "air-conditioner", "rla_a": 12.0, "fan_a": 2.0, "mca_a": 24.0, "lra_a": 60.0}
        )
        self.assertIn("does not fit 1.25", bad.conflicts[0])
        derived = read_plate(
            {"kind": "air-conditioner", "fan_a": 2.0, "mca_a": 17.0, "lra_a": 60.0}
        )
        self.assertAlmostEqual(derived.load["running_a"], 12.0)

    def test_how_far_mca_may_be_off(self) -> None:
        """8 % of what follows from RLA and fan; 2 A where the fan, about 2.5 A, is not known."""
        for plate, fits, not_any_more in (
            ({"rla_a": 40.0, "fan_a": 2.0}, (48.0, 56.0), (47.7, 56.4)),
            ({"rla_a": 4.0}, (5.6, 9.4), (5.4, 9.6)),
        ):
            for values, conflicts in ((fits, 0), (not_any_more, 1)):
                for mca in values:
                    requested = {
                        "kind": "air-conditioner",
                        "lra_a": 5 * plate["rla_a"],
                        "mca_a": mca,
                    }
                    self.assertEqual(len(read_plate(requested | plate).conflicts), conflicts, mca)

    def test_what_does_not_fit_together(self) -> None:
        cases = [
            ({"kind": "motor", "rla_a": 10.0, "lra_a": 8.0}, "may be swapped"),
            ({"kind": "motor", "rla_a": 10.0, "lra_a": 20.0}, "four to six times"),
            ({"kind": "motor", "rla_a": 10.0, "lra_a": 90.0}, "four to six times"),
            ({"kind": "resistive", "rated_w": 1500.0, "rated_a": 25.0}, "no such power factor"),
            ({"kind": "resistive", "rated_w": 1500.0, "rated_a": 10.0}, "no such power factor"),
            ({"kind": "motor", "rla_a": 5.0, "phase": 3}, "3 phases"),
            ({"kind": "motor", "rla_a": 5.0, "code_letter": "J"}, "says nothing"),
            ({"kind": "motor"}, "too little"),
            ({"kind": "resistive"}, "too little"),
            ({"kind": "motor", "rla_a": 5.0, "mca_a": 8.75, "mocp_a": 5.0}, "MOCP"),
        ]
        for plate, words in cases:
            self.assertTrue(
                any(words in c for c in read_plate(plate).conflicts),
                (plate, read_plate(plate).conflicts),
            )
        self.assertIsNone(read_plate({"kind": "motor", "rla_a": 10.0, "lra_a": 8.0}).load)

    def test_what_is_unusual_but_may_be_is_taken(self) -> None:
        """A rotor of three and a half times its running amps; a power factor of 0.65."""
        for plate in (
            {"kind": "motor", "rla_a": 10.0, "lra_a": 35.0},
            {"kind": "electronic", "rated_w": 390.0, "rated_a": 5.0},
        ):
            self.assertEqual(read_plate(plate).conflicts, (), plate)

    def test_what_was_assumed_is_said_and_marked(self) -> None:
        reading = read_plate({"kind": "air-conditioner", "btu_h": 13500.0, "refrigerant": "R-410A"})
        self.assertEqual(
            {x.name for x in reading.assumed},
            {"volts", "running amps", "locked-rotor amps", "start gear"},
        )
        self.assertEqual(reading.load["from"], "typical")
        self.assertIn("ignored", next(x.why for x in reading.read if x.name == "Refrigerant"))
        self.assertEqual(
            read_plate({"kind": "air-conditioner", "rla_a": 4.0, "lra_a": 20.0}, "230").load[
                "voltage_v"
            ],
            230.0,
        )

    def test_a_unit_of_208_to_240_v_has_a_run_capacitor_unless_said(self) -> None:
        """Common practice, no source."""
        for volts, gear in (
            (208.0, "run-capacitor"),
            (230.0, "run-capacitor"),
            (115.0, "start-capacitor"),
        ):
            plate = {"kind": "air-conditioner", "rated_v": volts, "rla_a": 12.0, "lra_a": 60.0}
            reading = read_plate(plate, "120/240")
            self.assertEqual(reading.load["start"], gear)
            why = next(x.why for x in reading.assumed if x.name == "start gear")
            self.assertIn(gear.replace("-", " "), why)
        said = read_plate(plate | {"rated_v": 230.0, "start": "hard-start"}, "120/240")
        self.assertEqual(said.load["start"], "hard-start")

    def test_a_units_watts_amps_and_cooling_have_its_fan_in_them(self) -> None:
        """A plate of "1370 W rated input" is 12.0 A at 120 V and a power factor of 0.95, the fan in
        them: with the fan on top the unit would be taken for 1,620 W. A pump's amps are its own.
        """
        unit = {"kind": "air-conditioner"}
        for plate, whole in (
            ({"rated_w": 1370.0, "rated_v": 115.0}, 12.02),
            ({"rated_w": 1370.0, "fan_a": 2.5}, 12.02),
            ({"rated_a": 13.0}, 13.0),
            ({"rated_a": 13.0, "fan_a": 2.5}, 13.0),
            ({"btu_h": 13500.0}, 13.16),
        ):
            reading = read_plate(unit | plate)
            load = reading.load
            assert load is not None
            self.assertAlmostEqual(load["running_a"] + load["fan_high_a"], whole, 1, plate)
            line = [x for x in (*reading.derived, *reading.assumed) if x.name == "running amps"]
            self.assertIn("fan", line[0].why)
            self.assertLess(load["fan_high_a"], 0.3 * load["running_a"])
            self.assertAlmostEqual(load["lra_a"], 5 * load["running_a"], 0)
        by_mca = read_plate(unit | {"mca_a": 17.0}).load
        assert by_mca is not None
        self.assertAlmostEqual(1.25 * by_mca["running_a"] + by_mca["fan_high_a"], 17.0, 1)
        pump = read_plate({"kind": "motor", "rated_a": 8.0}).load
        assert pump is not None
        self.assertEqual(pump["running_a"], 8.0)

    def test_a_motor_wired_two_ways_is_taken_at_its_lower_volts_and_said(self) -> None:
        motor = {"kind": "motor", "rated_v": "115/230", "rated_a": "9.8/4.9", "hp": "1/2"}
        found = read_plate(motor, "120/240")
        assert found.load is not None
        self.assertEqual(found.load["running_a"], 9.8)
        self.assertNotIn("voltage_v", found.load)  # 120 V
        self.assertIn("wired for the lower volts", found.assumed[0].why)
        self.assertEqual(found.assumed[0].value, "115 V")
        self.assertIn("115/230 V", [line.value for line in found.read])
        turned = read_plate(motor | {"rated_v": "230/115", "rated_a": "4.9/9.8"}, "120/240")
        self.assertEqual(turned.load, found.load)

    def test_one_machine_on_two_services_counts_at_the_higher_and_keeps_its_range(self) -> None:
        heater = {"kind": "resistive", "rated_v": "240/208", "rated_w": "4500/3380"}
        load = read_plate(heater, "120/240").load
        assert load is not None
        self.assertEqual((load["watts"], load["voltage_v"]), (4500.0, 240.0))
        self.assertEqual(load["voltage_min_v"], 208.0)
        unit = {"kind": "motor", "rated_v": "208-230", "rla_a": 9.0, "lra_a": 50.0}
        load = read_plate(unit, "120/240").load
        assert load is not None
        self.assertEqual((load["running_a"], load["voltage_min_v"]), (9.0, 208.0))
        load = read_plate({"kind": "motor", "rated_v": "190/120", "rated_a": "4/6"}).load
        assert load is not None  # 1.58 times: two services
        self.assertEqual((load["running_a"], load["voltage_v"]), (4.0, 190.0))
        load = read_plate({"kind": "motor", "rated_v": "193/120", "rated_a": "4/6"}).load
        assert load is not None  # 1.61 times: wired two ways
        self.assertEqual(load["running_a"], 6.0)

    def test_a_pair_without_its_volts_is_taken_at_the_larger_and_said(self) -> None:
        found = read_plate({"kind": "resistive", "rated_v": 120.0, "rated_a": "7/8,5"})
        assert found.load is not None
        self.assertEqual(found.load["amps"], 8.5)
        self.assertIn("the larger of two", found.assumed[0].why)

    def test_horsepower_as_it_is_printed(self) -> None:
        for printed, same in (("1/2", 0.5), ("1 1/2", 1.5), ("3/4", 0.75), (2.0, 2.0)):
            found = read_plate({"kind": "motor", "hp": printed})
            self.assertEqual(found.load, read_plate({"kind": "motor", "hp": same}).load, printed)

    def test_what_is_no_pair_is_named(self) -> None:
        for bad in ({"hp": "1/0"}, {"rated_v": "1e9/3"}, {"rated_v": "12/24"}, {"rated_a": "0/5"},
                    {"rated_v": "208/230/460"}, {"rated_a": "-4/5"}, {"rla_a": "/"}):  # fmt: skip
            found = read_plate({"kind": "motor", **bad})
            self.assertEqual({path for path, _ in found.faults}, set(bad), bad)

    def test_a_charger_s_plate(self) -> None:
        load = read_plate({"kind": "charger", "rated_v": "108-130", "rated_w": 1000.0}).load
        assert load is not None
        self.assertEqual((load["kind"], load["watts"]), ("charger", 1000.0))

    def test_bad_fields_are_named(self) -> None:
        reading = read_plate({"kind": "teapot", "rated_w": "x", "lra_a": -5})
        self.assertEqual({f for f, _ in reading.faults}, {"kind", "rated_w", "lra_a"})
        self.assertEqual(read_plate({}).faults[0][0], "kind")

    def test_the_most_and_least_a_plate_may_say(self) -> None:
        """Beyond lies a slip of the pen or of the reader of photographs: no single-phase machine on
        a rig or a small house is larger."""
        for field, within, beyond in (
            ("name", "x" * 120, "x" * 121),
            ("rated_v", (100, 250), (99, 251)),
            ("hz", (45, 65), (44, 66)),
            ("phase", (1, 3), (0, 4)),
            ("rated_w", (100_000,), (0, 100_001)),
            ("rated_a", (1000,), (0, 1001)),
            ("rated_va", (100_000,), (0, 100_001)),
            ("rla_a", (1000,), (0, 1001)),
            ("lra_a", (5000,), (0, 5001)),
            ("fan_a", (200,), (0, 201)),
            ("hp", (500,), (0, 501)),
            ("mca_a", (1000,), (0, 1001)),
            ("mocp_a", (1000,), (0, 1001)),
            ("btu_h", (1000, 200_000), (999, 200_001)),
            ("refrigerant", "x" * 60, "x" * 61),
        ):
            for values, refused in ((within, False), (beyond, True)):
                for value in (values,) if isinstance(values, str) else values:
                    found = read_plate({"kind": "motor", field: value}).faults
                    self.assertEqual([f for f, _ in found], [field] * refused, (field, value))

    def test_other_loads(self) -> None:
        by_va = read_plate({"kind": "electronic", "rated_va": 240.0, "rated_v": 120.0})
        self.assertEqual((by_va.load or {})["amps"], 2.0)
        self.assertIn("volt-amperes / volts", [x.why for x in by_va.derived])
        self.assertEqual(read_plate({"kind": "microwave", "rated_a": 12.5}).load["watts"], 1500)
        self.assertEqual(read_plate({"kind": "electronic", "rated_a": 2.0}).load["amps"], 2.0)
        self.assertEqual(read_plate({"kind": "motor", "rated_w": 1140.0}).load["running_a"], 10.0)


class Totals(unittest.TestCase):
    def test_legs_neutral_and_breakers_by_hand(self) -> None:
        rig = read_rig(
            {
                "name": "r",
                "service": "120/240",
                "main_a": 50,
                "circuits": [{"id": "k", "breaker_a": 20, "leg": "L1"}],
                "loads": [
                    {"id": "a", "name": "A", "kind": "resistive", "watts": 1200, "circuit": "k"},
                    {"id": "b", "name": "B", "kind": "resistive", "watts": 600, "leg": "L2"},
                    {"id": "c", "name": "C", "kind": "resistive", "watts": 2400, "voltage_v": 240},
                    {
                        "id": "m",
                        "name": "M",
                        "kind": "motor",
                        "running_a": 5,
                        "lra_a": 30,
                        "always_on": True,
                    },
                ],
            }
        )
        found = totals(rig)
        self.assertAlmostEqual(found.legs["L2"], 15.0, places=6)
        self.assertAlmostEqual(found.circuits[0].amps, 10.0, places=6)
        self.assertAlmostEqual(found.always_a, 5.0, places=6)
        self.assertEqual(found.largest_start, ("M", 30))
        self.assertAlmostEqual(
            found.neutral_a, abs(complex(10 + 5 * 0.95, -5 * (1 - 0.95**2) ** 0.5) - 5), places=6
        )

    def test_parts_read_alone(self) -> None:
        with self.assertRaises(SetupError) as caught:
            read_rig(
                {"name": "", "main_a": 5, "loads": [{"id": "a", "name": "A", "kind": "resistive"}]}
            )
        self.assertIn("rig.name", str(caught.exception))
        with self.assertRaises(SetupError) as caught:
            read_supply({"kind": "generator", "continuous_w": 500, "starting_w": 100})
        self.assertIn("supply.starting_w", str(caught.exception))
        for doc in (
            {"kind": "shore", "breaker_a": 16, "voltage_v": 230},
            {
                "kind": "generator",
                "continuous_w": 5500,
                "starting_w": 7000,
                "output": "120/240",
                "voltage_v": 240,
            },
        ):
            self.assertEqual(read_supply(doc).kind, doc["kind"])


if __name__ == "__main__":
    unittest.main()
