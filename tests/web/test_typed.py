"""What is typed into a setup's form: units, times, shares and figures as people say them."""

from __future__ import annotations

from ironmargin.setup.hookup import HOOKUP_KINDS
from ironmargin.setup.records import specs
from tests.kinds import SUPPLIES
from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_setups import form_of
from web.design.fields import put_all
from web.design.typed import (
    SHARE,
    fault_in_percent,
    typed_clock,
    typed_energy,
    typed_hour,
    typed_in,
    typed_span,
)
from web.setups import judging
from web.setups.form import Form, edited
from web.setups.typical import first_setup
from web.supplies.form import SupplyForm, edited_supply
from web.supplies.typical import supply_document


class Typed(PageCase):
    """What stands on things, as people type it."""

    def test_each_generator_of_a_pair_has_its_cylinder_and_its_noise(self) -> None:
        for name, at in (
            ("parallel", "supply.units[0]"),
            ("assist on a generator", "supply.input"),
        ):
            document = SUPPLIES[name]
            paths = {
                f.path
                for g in SupplyForm({"supply": document}, "si").supply_groups(full=True)
                for f in g.fields
            }
            typed = {f"{at}.cylinder.count": "2", f"{at}.noise.dba": "58"}
            self.assertLessEqual(typed.keys(), paths)
            told = edited_supply(document, typed, "si")
            generator = told["units"][0] if "units" in told else told["input"]
            self.assertEqual(generator["cylinder"]["count"], 2)
            self.assertEqual(generator["noise"]["dba"], 58.0)
            empty = edited_supply(document, {f"{at}.cylinder.count": ""}, "si")
            generator = empty["units"][0] if "units" in empty else empty["input"]
            self.assertNotIn("cylinder", generator)
            self.assertNotIn("noise", generator)

    def test_a_figure_is_typed_in_the_unit_that_is_printed(self) -> None:
        for typed, unit, value in (
            ("2,500 kcal/h", "Btu/h", 9920.0),
            ("3.5 kW", "Btu/h", 11942.49),
            ("12000", "Btu/h", 12000.0),
            ("1.5 kW", "W", 1500.0),
            ("350 mA", "A", 0.35),
            ("12.5 A", "A", 12.5),
            ("0,75 kW", "hp", 1.005765),
            ("20 lb", "gal", 20 / 4.24),
            ("9 kg", "l", 9 / 0.45359237 / 4.24 * 3.785411784),
            ("10 l", "gal", 10 / 3.785411784),
            ("1,600 m", "ft", 1600 / 0.3048),
            ("50 ft", "m", 15.24),
            ("25'", "ft", 25.0),
            ("35 °C", "°F", 95.0),
            ("95 F", "°C", 35.0),
            ("35", "°F", 35.0),
            ("72°F", "°F", 72.0),
            ("10 AWG", "AWG", 10.0),
            ("#12 AWG", "AWG", 12.0),
            ("2.5 mm²", "mm2", 2.5),
            ("90 min", "h", 1.5),
            ("2 days", "h", 48.0),
            ("3 min", "s", 180.0),
            ("0.2 Ω", "ohm", 0.2),
            ("60 dB", "dBA", 60.0),
            ("300 ft²", "m2", 27.8709),
            ("20 lb", "kg", 9.0718),
            ("12 kg", "lb", 26.4555),
            ("hot F", "°C", "hot F"),
            ("5 V", "W", "5 V"),
            ("some", "W", "some"),
            ("kW", "W", "kW"),
        ):
            found = typed_in(typed, unit)
            if isinstance(value, float):
                self.assertAlmostEqual(found, value, delta=1e-4 * abs(value), msg=typed)
            else:
                self.assertEqual(found, value, typed)
        self.assertEqual(typed_in("2 x 100 Ah 12.8 V", "Wh"), 2560.0)

    def test_a_time_of_the_day_is_typed_as_it_is_said(self) -> None:
        for typed, clock in (
            ("10 pm", "22:00"), ("10PM", "22:00"), ("22", "22:00"), ("2200", "22:00"),
            ("830", "08:30"), ("8.30", "08:30"), ("8:30 a.m.", "08:30"), ("12 am", "00:00"),
            ("12pm", "12:00"), ("noon", "12:00"), ("midnight", "24:00"), ("24", "24:00"),
            ("25", "25"), ("24:01", "24:01"), ("13 pm", "13 pm"), ("0 am", "0 am"),
            ("soon", "soon"), ("", ""), ("9" * 30, "9" * 30),
        ):  # fmt: skip
            self.assertEqual(typed_clock(typed), clock, typed)
        for typed, ends in (
            ("8-12", ("08:00", "12:00")), ("10 pm to 7 am", ("22:00", "07:00")),
            ("8-10 pm", ("20:00", "22:00")), ("10-2pm", ("10:00", "14:00")),
            ("11-7am", ("23:00", "07:00")), ("20:00\u201308:00", ("20:00", "08:00")),
            ("8-", ("08:00", "")), ("8", ("08:00", "")), ("x until y", ("x", "y")),
        ):  # fmt: skip
            self.assertEqual(typed_span(typed), ends, typed)
        for hour, value in (("10 pm", 22.0), ("22", 22.0), ("6:30", 6.5), ("22.5", 22.5)):
            self.assertEqual(typed_hour(hour), value, hour)
        self.assertEqual(typed_hour("late"), "late")
        site = form_of(document(2)) | {"site.quiet_from_h": "10 pm", "site.quiet_to_h": "7 am"}
        told = edited(document(2), site, "us")["site"]
        self.assertEqual((told["quiet_from_h"], told["quiet_to_h"]), (22.0, 7.0))

    def test_what_is_percent_in_the_format_stays_percent(self) -> None:
        """Humidity is 60 in the file, shown as 60, and typed as 60: no share of one."""
        damp = document(2) | {"conditions": {"humidity_pct": 85}}
        fields = {f.path: f for g in Form(damp, "us").groups() for f in g.fields}
        field = fields["conditions.humidity_pct"]
        self.assertEqual((field.value, field.unit), ("85", "%"))
        for typed, value in (("40", 40.0), ("40 %", 40.0), ("0.5", 0.5)):
            told = edited(damp, {"conditions.humidity_pct": typed}, "us")
            self.assertEqual(told["conditions"]["humidity_pct"], value, typed)
        usual = {f.path: f for g in Form(document(2), "us").groups() for f in g.fields}
        self.assertEqual(usual["conditions.humidity_pct"].value, "60")
        wound = {"kind": "transformer", "type": "auto", "va": 2000, "from_v": 120, "to_v": 240}
        (group,) = Form(document(2) | {"hookup": [wound]}, "us").path_groups()
        percent = next(f for f in group.fields if f.path.endswith("impedance_pct"))
        self.assertEqual((percent.value, percent.unit), ("4", "%"))

    def test_a_share_is_percent_to_a_person(self) -> None:
        """Shown as 85 with % beside it; typed as 85, 85 % or 0.85; refused in percent, too."""
        for typed, share in (
            ("85", 0.85), ("85 %", 0.85), ("0.85", 0.85), ("0,85", 0.85), ("1", 1.0),
            ("100", 1.0), ("0.5 %", 0.005), ("0", 0.0), ("140", 1.4), ("most", "most"),
        ):  # fmt: skip
            self.assertEqual(typed_in(typed, SHARE), share, typed)
        for told, in_percent in (
            ("must be at most 1 (got 1.4)", "must be at most 100 % (got 140 %)"),
            ("must be at least 1e-06 (got 1e-09)", "must be at least 0.0001 % (got 1e-07 %)"),
            ("must be a number (got 'most')", "must be a number (got 'most')"),
        ):
            self.assertEqual(fault_in_percent(told), in_percent)
        battery = {"supply": SUPPLIES["battery-inverter"] | {"start_soc": 0.6}}
        (group,) = SupplyForm(battery, "us").supply_groups()
        field = next(f for f in group.fields if f.path == "supply.start_soc")
        self.assertEqual((field.value, field.unit), ("60", "%"))
        put_all(battery, [field], {"supply.start_soc": "45 %"}, "us")
        self.assertEqual(battery["supply"]["start_soc"], 0.45)
        faults = {"supply.start_soc": "must be at most 1 (got 1.4)"}
        (group,) = SupplyForm(battery, "us", faults).supply_groups()
        field = next(f for f in group.fields if f.path == "supply.start_soc")
        self.assertIn("at most 100 %", field.fault)

    def test_a_battery_is_typed_as_it_is_sold(self) -> None:
        for typed, wh in (
            ("2 x 100 Ah 12.8 V", 2560.0),
            ("100Ah 12V", 1200.0),
            ("4×230 Ah × 6 V", 5520.0),
            ("5,1 kWh", 5100.0),
            ("5100", 5100.0),
            ("0 Ah 12 V", 0.0),
            ("a big one", "a big one"),
        ):
            self.assertEqual(typed_energy(typed), wh, typed)
        station = dict(first_setup())
        station["supply"] = supply_document("inverter-2000")
        told = edited(station, form_of(station) | {"supply.battery_wh": "2 x 100 Ah 12.8 V"}, "us")
        self.assertEqual(told["supply"]["battery_wh"], 2560.0)
        nothing = edited(station, form_of(station) | {"supply.battery_wh": "0 Ah 12 V"}, "si")
        faults = judging.judge(nothing).faults
        self.assertEqual([f.path for f in faults], ["supply.battery_wh"])

    def test_every_figure_of_a_part_has_its_input_and_nothing_said_stays_unsaid(self) -> None:
        parts = [
            {"kind": "guard"},
            {"kind": "transformer", "va": 3000},
            {"kind": "outlet", "rating_a": 20},
            {"kind": "adapter", "from": "5-15", "to": "TT-30", "rating_a": 15},
            {"kind": "splitter", "from": ["TT-30", "TT-30"], "to": "14-50", "rating_a": 30},
        ]
        doc = dict(first_setup()) | {"hookup": parts}
        requested = {f.path for g in Form(doc, "si").path_groups() for f in g.fields}
        for at, part in enumerate(parts):
            known = set(specs(HOOKUP_KINDS[str(part["kind"])])) - {"name"}
            known -= {"from"} if part["kind"] == "splitter" else set()
            self.assertEqual({f"hookup[{at}].{key}" for key in known} - requested, set())
        self.assertEqual(edited(doc, form_of(doc), "si")["hookup"], parts)
        for typed, value in (("yes", True), ("no", False), ("", None)):
            told = edited(doc, form_of(doc) | {"hookup[0].open_ground": typed}, "si")
            self.assertIs(told["hookup"][0].get("open_ground"), value)

    def test_a_vehicle_feeds_one_leg_or_two(self) -> None:
        for key, output in (("vehicle-2400", None), ("vehicle-7200", "120/240")):
            doc = dict(first_setup()) | {"supply": supply_document(key)}
            self.assertEqual(judging.judge(doc).faults, ())
            self.assertEqual(doc["supply"].get("output"), output)
