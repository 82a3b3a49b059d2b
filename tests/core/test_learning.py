"""What a log tells: the rules of the trade about readings, and what may correct what."""

from __future__ import annotations

import contextlib
import io
import itertools
import json
import math
import tempfile
import unittest
from pathlib import Path
from typing import Any

from ironmargin.__main__ import main
from ironmargin.enduring.fuel import WH_PER_L
from ironmargin.enduring.noise import sound_of_set
from ironmargin.errors import SetupError
from ironmargin.learning.capture import read_capture
from ironmargin.learning.learn import Figure, Found, learn
from ironmargin.learning.log import ENTRY_KINDS, StartEntry, log_schema, read_log, write_log
from ironmargin.learning.next_reading import NextReading, next_readings
from ironmargin.learning.seen import with_changes
from ironmargin.learning.snapshot import differs, snapshot_of
from ironmargin.learning.words import learned_json, learned_words
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.starting.known import KEY, known_of
from ironmargin.verdict.check import examine
from tests.core.test_engine import POST as A_POST
from tests.core.test_engine import UNIT, question
from tests.shared import changed, document

POST: dict[str, Any] = {"kind": "shore", "breaker_a": 30, "source_ohm": 0.1}


def on_a_post(**load: Any) -> Setup:
    """A rooftop unit on a strong 30 A post, with a fridge and a heater in the rig."""
    roof = {
        "id": "roof",
        "name": "Roof",
        "kind": "air-conditioner",
        "running_a": 12,
        "lra_a": 60,
        "fan_high_a": 2.5,
        "from": "plate",
    } | load
    return read_setup(
        {
            "format": "iron-margin/setup",
            "version": 1,
            "name": "post",
            "supply": POST,
            "rig": {
                "name": "r",
                "service": "120",
                "main_a": 30,
                "loads": [
                    roof,
                    {"id": "heater", "name": "Heater", "kind": "resistive", "watts": 1500},
                    {"id": "tv", "name": "TV", "kind": "electronic", "watts": 240},
                    {"id": "fan", "name": "Fan", "kind": "motor", "running_a": 2, "lra_a": 10},
                ],
            },
            "wanted": [{"load": "roof"}],
        }
    )


def told(setup: Setup, *entries: dict[str, Any]) -> Found:
    return learn(setup, read_log({"format": "iron-margin/log", "entries": list(entries)}, setup))


def start(peak_a: float | None = None, **more: Any) -> dict[str, Any]:
    found: dict[str, Any] = {"kind": "start", "load": "roof", "instrument": "inrush-clamp"}
    return found | ({"peak_a": peak_a} if peak_a is not None else {}) | more


def lra_of(found: Found) -> Figure:
    return next(f for f in found.figures if f.field.endswith("lra_a"))


def predicted(setup: Setup) -> float:
    """The peak that is predicted for the roof's start [A]."""
    found = told(setup, start(50.0))
    (one,) = (j for j in found.entries if j.figure == "peak_a")
    assert one.predicted is not None
    return one.predicted[1]


class WhatChanged(unittest.TestCase):
    def test_it_is_put_to_its_own_load_and_not_asked_of_the_first(self) -> None:
        """A figure the first load of the rig has not, as its fan's amps beside a heater."""
        heater = {"id": "h", "name": "Heater", "kind": "resistive", "watts": 100}
        setup = question(A_POST, [heater, UNIT])
        entry = StartEntry(load="u", changed={"fan_high_a": 2.0, "lra_a": 48.0})
        load = with_changes(setup, entry).rig.loads[1]
        self.assertEqual((load.fan_high_a, load.lra_a), (2.0, 48.0))


class Readings(unittest.TestCase):
    def test_a_peak_corrects_locked_rotor_amps_and_the_range_holds_it(self) -> None:
        setup = on_a_post()
        nominal = predicted(setup)
        found = told(setup, start(0.88 * nominal, outcome="starts"))
        figure = lra_of(found)
        self.assertLess(figure.after, 0.95 * figure.before)
        self.assertLess(figure.low, figure.after)
        self.assertLess(figure.after, figure.high)
        self.assertEqual((figure.was, figure.before), ("plate", 60))
        corrected = write_setup(found.setup)["rig"]["loads"][0]
        self.assertEqual(corrected["from"], "measured")
        self.assertAlmostEqual(corrected["lra_a"], figure.after, delta=0.01)

    def test_a_slow_meter_never_lowers_locked_rotor_amps(self) -> None:
        setup = on_a_post()
        for instrument in ("clamp", "watt-meter", "monitor", "set-display"):
            found = told(setup, start(15.0, instrument=instrument))
            self.assertEqual([f for f in found.figures if "lra" in f.field], [], instrument)
            self.assertIn("too-slow", [j.judged for j in found.entries])
        # Above what was predicted even a slow meter tells: it is a lower bound.
        found = told(setup, start(1.3 * predicted(setup), instrument="monitor"))
        self.assertGreater(lra_of(found).after, 62)

    def test_a_clamp_around_the_whole_cord_changes_nothing(self) -> None:
        setup = on_a_post()
        found = told(
            setup,
            start(0.2, on="whole-cord"),
            {"kind": "run", "load": "heater", "amps": 0.1, "on": "whole-cord"},
        )
        self.assertEqual(found.figures, ())
        self.assertEqual({j.judged for j in found.entries}, {"cancelled"})
        self.assertEqual(found.before, found.after)

    def test_the_compressor_s_wire_has_no_fan_in_it(self) -> None:
        setup = on_a_post()
        whole, own = predicted(setup), told(setup, start(50.0, on="compressor-wire"))
        (one,) = (j for j in own.entries if j.figure == "peak_a")
        assert one.predicted is not None
        self.assertLess(one.predicted[1], whole - 1.0)
        report = told(setup, start(50.0, instrument="starter-report"))
        (other,) = (j for j in report.entries if j.figure == "peak_a")
        self.assertEqual(one.predicted, other.predicted)

    def test_one_wild_reading_among_ten_moves_less_than_the_former_interval(self) -> None:
        setup = on_a_post()
        good = 0.9 * predicted(setup)
        tame = told(setup, *[start(good * (1 + 0.01 * (n % 3 - 1))) for n in range(9)])
        wild = told(
            setup, *[start(good * (1 + 0.01 * (n % 3 - 1))) for n in range(9)], start(2.2 * good)
        )
        before, after = lra_of(tame), lra_of(wild)
        self.assertLess(abs(after.after - before.after), before.high - before.low)
        self.assertIn("unlikely", [j.judged for j in wild.entries])

    def test_learning_twice_from_one_log_changes_nothing_more(self) -> None:
        setup = on_a_post()
        entries = (
            start(0.9 * predicted(setup)),
            {"kind": "run", "load": "heater", "watts": 1390, "instrument": "watt-meter"},
        )
        once = told(setup, *entries)
        twice = told(once.setup, *entries)
        self.assertEqual(twice.figures, ())
        self.assertEqual(write_setup(twice.setup), write_setup(once.setup))

    def test_more_good_readings_never_widen(self) -> None:
        setup = on_a_post()
        good = 0.93 * predicted(setup)
        widths = []
        for count in (1, 2, 4, 8):
            figure = lra_of(told(setup, *[start(good)] * count))
            widths.append(figure.high - figure.low)
        for wide, narrow in itertools.pairwise(widths):
            self.assertLessEqual(narrow, 1.02 * wide)
        self.assertLess(widths[-1], 0.8 * widths[0])

    def test_what_a_setup_has_learned_is_where_the_next_log_begins(self) -> None:
        setup = on_a_post()
        good = 0.9 * predicted(setup)
        once = told(setup, start(good), start(1.01 * good)).setup
        more = told(once, start(good, notes="another day"))
        for figure in more.figures:
            if figure.field.endswith("lra_a"):
                # No narrower than what our own model of a peak is off, 3 % a rig.
                self.assertLess(figure.high - figure.low, 0.15 * figure.after)

    def test_first_starts_of_a_soft_starter_are_higher_than_learned_ones(self) -> None:
        setup = on_a_post(start="soft-start")
        peaks = []
        for starts in (0, 2, 5):
            found = told(setup, start(20.0, changed={"learned_starts": starts}))
            (one,) = (j for j in found.entries if j.figure == "peak_a")
            assert one.predicted is not None
            peaks.append(one.predicted[1])
        self.assertGreater(peaks[0], peaks[1])
        self.assertGreater(peaks[1], peaks[2])

    def test_the_soft_starter_s_own_report_corrects_what_it_holds(self) -> None:
        setup = on_a_post(start="soft-start")
        found = told(setup, *[start(14.0, instrument="starter-report", outcome="starts")] * 3)
        (figure,) = (f for f in found.figures if "soft_start" in f.field)
        self.assertNotAlmostEqual(figure.after, figure.before, places=3)

    def test_a_start_without_the_soft_starter_still_tells_of_the_motor(self) -> None:
        setup = on_a_post(start="soft-start")
        before = start(48.0, changed={"start": "start-capacitor"})
        self.assertLess(lra_of(told(setup, before, dict(before, peak_a=49.0))).after, 58)

    def test_a_trace_tells_its_own_peak_and_lowest_volts(self) -> None:
        setup = on_a_post()
        trace = [
            [0.01 * n, 54.0 if n < 20 else 14.0, 112.0 if n < 20 else 119.0] for n in range(60)
        ]
        found = told(setup, start(None, trace=trace, instrument="trace"))
        measured = {j.figure: j.measured for j in found.entries}
        self.assertEqual((measured["peak_a"], measured["lowest_v"]), (54.0, 112.0))

    def test_a_stall_says_the_compressor_is_stiffer_or_the_set_weaker(self) -> None:
        def weak(doc: dict[str, Any]) -> None:
            for unit in doc["supply"]["units"]:
                unit.update(starting_w=1300, continuous_w=1300)

        setup = changed(1, weak)
        found = told(setup, *[start(None, outcome="stalls", instrument="by-ear")] * 3)
        self.assertEqual((found.before[0], found.after[0]), ("thin", "fails"))
        moved = {f.field.rpartition(".")[2]: f.after / f.before for f in found.figures}
        self.assertGreater(moved["breakaway"], 1.1)
        self.assertLess(moved["starting_w"], 1.0)
        (choice,) = found.choices
        self.assertEqual(choice.after, "folds-back")  # one that cuts off would have opened

    def test_what_this_setup_has_not_is_not_comparable(self) -> None:
        found = told(on_a_post(), start(20.0) | {"load": "heater"})
        self.assertEqual([j.judged for j in found.entries], ["not-comparable"])
        self.assertEqual(found.figures, ())


def weak_pair() -> Setup:
    """A rooftop unit on two sets that start it about three times in four."""

    def weak(doc: dict[str, Any]) -> None:
        for unit in doc["supply"]["units"]:
            unit.update(starting_w=1300, continuous_w=1300)

    return changed(1, weak)


def chance_of(setup: Setup) -> float:
    (row,) = examine(setup).result.starts
    assert row.chance is not None
    return row.chance


class Drawn(unittest.TestCase):
    """What a log leaves with rig and supply, and what that changes."""

    def heard(self, outcome: str, count: int) -> list[dict[str, Any]]:
        return [
            start(None, outcome=outcome, instrument="by-ear", notes=f"{n}") for n in range(count)
        ]

    def test_twelve_starts_of_twelve_raise_the_chance_and_twelve_stalls_end_it(self) -> None:
        setup = weak_pair()
        before = chance_of(setup)
        self.assertAlmostEqual(before, 0.78, delta=0.1)
        some, many = (chance_of(told(setup, *self.heard("starts", n)).setup) for n in (3, 12))
        self.assertGreater(some, before + 0.04)
        self.assertGreater(many, 0.93)
        self.assertLess(chance_of(told(setup, *self.heard("stalls", 12)).setup), 0.15)
        rows = [
            examine(s).result.starts[0]
            for s in (setup, told(setup, *self.heard("starts", 12)).setup)
        ]
        widths = [(r.chance_rig_high or 0.0) - (r.chance_rig_low or 0.0) for r in rows]
        self.assertLess(widths[1], 0.7 * widths[0])

    def test_readings_that_equal_the_prediction_change_nothing(self) -> None:
        """A set of 3,500 W stays within 2 %."""
        document = write_setup(on_a_post()) | {
            "supply": {"kind": "generator", "continuous_w": 2800, "starting_w": 3500}
        }
        setup = read_setup(document)
        peak = predicted(setup)
        for count in (1, 4, 12):
            found = told(setup, *[start(round(peak, 1), notes=f"{n}") for n in range(count)])
            watts = found.setup.supply.starting_w  # type: ignore[union-attr]
            self.assertAlmostEqual(watts / 3500.0, 1.0, delta=0.02, msg=count)

    def test_a_set_that_tripped_twice_on_a_soft_start_is_no_sure_thing(self) -> None:
        unit = {"start": "soft-start", "soft_start": {"peak_a": 15.5}, "running_a": 9, "lra_a": 42}
        document = write_setup(on_a_post(**unit)) | {
            "supply": {"kind": "generator", "continuous_w": 1600, "starting_w": 1900}
        }
        setup = read_setup(document)
        found = told(setup, *self.heard("trips", 2))
        self.assertLess(chance_of(found.setup), min(0.75, chance_of(setup) - 0.2))
        (choice,) = found.choices
        self.assertEqual((choice.field, choice.after), ("supply.character", "cuts-off"))

    def test_what_one_supply_taught_of_the_rig_goes_with_the_rig_to_another(self) -> None:
        taught = told(weak_pair(), *self.heard("stalls", 6)).setup
        other = {"kind": "generator", "continuous_w": 2100, "starting_w": 2500}
        fresh, with_it = (
            chance_of(read_setup(write_setup(s) | {"supply": other})) for s in (weak_pair(), taught)
        )
        self.assertLess(with_it, fresh - 0.02)

    def test_a_figure_changed_by_hand_is_as_uncertain_as_before(self) -> None:
        setup = on_a_post()
        good = 0.9 * predicted(setup)
        taught = told(setup, *[start(good, notes=f"{n}") for n in range(4)]).setup
        self.assertIn(("lra", "roof"), known_of(taught).names)
        document = write_setup(taught)
        document["rig"]["loads"][0]["lra_a"] *= 1.1
        names = known_of(read_setup(document)).names
        self.assertNotIn(("lra", "roof"), names)
        self.assertIn(("model", ""), names)

    def test_draws_from_a_stranger_s_file_are_taken_as_none(self) -> None:
        row = [0.1]
        for bad in (
            7, [], {"unknowns": 3}, {"unknowns": [], "rows": []},
            {"unknowns": [{"what": "model"}], "rows": [row] * 63},
            {"unknowns": [{"what": "model"}], "rows": [[float("nan")]] * 64},
            {"unknowns": [{"what": "model"}], "rows": [[1e9]] * 64},
            {"unknowns": [{"what": "model"}], "rows": [["x"]] * 64},
            {"unknowns": [{"what": 4}], "rows": [row] * 64},
            {"unknowns": [{"what": "ufo"}], "rows": [row] * 64},
            {"unknowns": [{"what": "model"}] * 100, "rows": [row * 100] * 64},
        ):  # fmt: skip
            document = write_setup(weak_pair())
            document["rig"]["x"] = document["supply"]["x"] = {"learned": bad}
            self.assertEqual(known_of(read_setup(document)).names, (), bad)
        same = write_setup(weak_pair())
        same["rig"]["x"] = {"learned": {"unknowns": [{"what": "model"}], "rows": [row] * 64}}
        self.assertGreater(chance_of(read_setup(same)), 0.9)  # no spread at all is no crash


class Remembered(unittest.TestCase):
    """A reading keeps the gear, the supply and the weather it was read in."""

    def test_a_start_before_the_soft_starter_stays_one_after_it_was_fitted(self) -> None:
        bare = on_a_post()
        entry = start(52.0, outcome="starts", was=snapshot_of(bare, "roof"))
        fitted = on_a_post(start="soft-start")
        (one,) = (j for j in told(fitted, entry).entries if j.figure == "peak_a")
        assert one.predicted is not None
        self.assertAlmostEqual(one.predicted[1], predicted(bare), delta=2.0)
        self.assertIn("start", differs(fitted, read_log({"entries": [entry]}).entries[0]))
        forgotten = told(fitted, start(52.0, outcome="starts")).entries[0]
        self.assertEqual(forgotten.judged, "unlikely")

    def test_another_supply_is_one_and_a_corrected_rating_is_none(self) -> None:
        at = lambda watts: read_setup(  # noqa: E731
            write_setup(on_a_post())
            | {"supply": {"kind": "generator", "continuous_w": 2000, "starting_w": watts}}
        )
        entry = read_log({"entries": [start(30.0, was=snapshot_of(at(2200), "roof"))]}).entries[0]
        self.assertNotIn("supply", differs(at(2100), entry))
        self.assertIn("supply", differs(at(3500), entry))
        self.assertIn("supply", differs(on_a_post(), entry))

    def test_a_memory_that_is_nonsense_is_none(self) -> None:
        for was in ({"supply": 7, "gear": [], "conditions": "hot"}, {"supply": {"kind": "ufo"}}):
            found = told(on_a_post(), start(50.0, was=was))
            self.assertEqual(len([j for j in found.entries if j.figure != "x"]), 1)


class Next(unittest.TestCase):
    """What is worth measuring, and what is not asked for."""

    def of(self, number: int, *have: str) -> list[NextReading]:
        return next_readings(read_setup(document(number)), have)

    def test_locked_rotor_amps_are_not_asked_for_where_the_set_s_limit_decides(self) -> None:
        """On a set that holds its limit the peak is the set's, whatever the rotor would draw."""
        self.assertEqual([r.instrument for r in self.of(13, "inrush-clamp", "by-ear")], ["by-ear"])
        checked = examine(read_setup(document(13)))
        self.assertTrue(all(s.chance_decided_by is None for s in checked.result.starts))

    def test_a_start_that_is_a_close_call_is_worth_a_listen_and_a_sure_one_is_not(self) -> None:
        (heard,) = self.of(16, "by-ear")
        self.assertGreater(heard.narrows, 0.05)
        self.assertLess(heard.low, heard.known_low)
        self.assertIn("four times", heard.sentence)
        for number in (1, 7, 11):
            self.assertEqual(self.of(number, "inrush-clamp", "trace", "by-ear"), [])

    def test_the_shortest_of_equals_comes_first_and_a_report_needs_a_soft_starter(self) -> None:
        found = self.of(16, "trace", "inrush-clamp", "starter-report", "by-ear", "by-ear", "ufo")
        minutes = [r.minutes for r in found]
        self.assertEqual(minutes, sorted(minutes))
        self.assertEqual(self.of(9, "starter-report"), [])

    def test_what_hardly_starts_is_not_tried_for_a_reading(self) -> None:
        self.assertEqual(self.of(2, "by-ear"), [])

    def test_the_narrowing_foretold_is_about_what_learning_gives(self) -> None:
        setup = read_setup(document(9))
        one = next(r for r in next_readings(setup, ("by-ear",)) if r.load == "small")
        heard = [
            {"kind": "start", "load": "small", "instrument": "by-ear", "outcome": "starts",
             "notes": f"{n}"}
            for n in range(4)
        ]  # fmt: skip
        (after,) = (s for s in examine(told(setup, *heard).setup).result.starts
                    if s.load == "small")  # fmt: skip
        assert after.chance_rig_low is not None
        self.assertGreater(after.chance_rig_low, one.low + 0.1)
        self.assertAlmostEqual(after.chance_rig_low, one.known_low, delta=0.3)


class Running(unittest.TestCase):
    def test_a_heater_scales_with_volts_and_electronics_against_them(self) -> None:
        setup = on_a_post()
        found = told(
            setup,
            {"kind": "run", "load": "heater", "amps": 11.25, "volts": 108},
            {"kind": "run", "load": "tv", "amps": 2.34, "volts": 108},
        )
        middle = {j.entry: j.predicted[1] for j in found.entries if j.predicted}
        self.assertAlmostEqual(middle[0], 12.5 * 0.9, delta=0.05)
        self.assertAlmostEqual(middle[1], 240 / 0.95 / 120 / 0.9, delta=0.05)

    def test_a_reading_corrects_the_mode_it_was_read_in(self) -> None:
        found = told(on_a_post(), {"kind": "run", "load": "roof", "mode": "low-cool", "amps": 11.0})
        (figure,) = found.figures
        self.assertEqual(figure.field, "rig.loads[0].low_cool_a")
        self.assertAlmostEqual(figure.after, 11.0, delta=0.3)

    def test_amps_read_on_a_cool_day_are_not_those_of_a_hot_one(self) -> None:
        """Nine amps at 68 °F are about a quarter more at 95 °F (1.1 % a degree C, from memory)."""
        setup = on_a_post(high_cool_a=12.0)
        reading = {"kind": "run", "load": "roof", "amps": 9.0, "instrument": "clamp"}
        cool = reading | {"was": {"conditions": {"outdoor_c": 20.0}}}
        (hot,), (day,) = (told(setup, *[one] * 3).figures for one in (reading, cool))
        self.assertAlmostEqual(hot.after, 9.1, delta=0.2)
        self.assertGreater(day.after, 1.1 * hot.after)
        self.assertLess(day.after, 1.3 * hot.after)

    def test_a_survey_becomes_loads(self) -> None:
        setup = on_a_post()
        steps = [
            {"on": [], "amps": 1.1, "volts": 120},
            {"on": ["heater"], "amps": 12.4, "volts": 117},
            {"on": ["heater", "tv"], "amps": 14.8, "volts": 116},
            {"on": ["tv"], "amps": 3.4, "volts": 119},
        ]
        found = told(setup, {"kind": "survey", "steps": steps})
        after = {f.field: f.after for f in found.figures}
        # 11.3 A more at 117 V is 11.6 A at 120 V: 1390 W.
        self.assertAlmostEqual(after["rig.loads[1].watts"], 1390, delta=45)
        self.assertNotIn("unlikely", [j.judged for j in found.entries])

    def test_a_survey_takes_each_mode_of_a_unit_and_watts_for_amps(self) -> None:
        setup = on_a_post(fan_low_a=2.0, fan_high_a=2.5, low_cool_a=11.0, high_cool_a=12.0)
        steps: list[dict[str, Any]] = [{"on": [], "watts": 60.0}]
        for mode, amps in (("fan-low", 1.6), ("fan-high", 2.9), ("low-cool", 12.4)):
            steps.append({"on": ["roof"], "mode": mode, "amps": amps + 0.5})
        steps.append({"on": ["heater"], "watts": 1460.0})
        found = told(setup, *[{"kind": "survey", "steps": steps}] * 3)
        after = {f.field: f.after for f in found.figures}
        at = next(n for n, x in enumerate(setup.rig.loads) if x.id == "roof")
        self.assertAlmostEqual(after[f"rig.loads[{at}].fan_low_a"], 1.6, delta=0.15)
        self.assertAlmostEqual(after[f"rig.loads[{at}].fan_high_a"], 2.9, delta=0.15)
        self.assertAlmostEqual(after[f"rig.loads[{at}].low_cool_a"], 12.4, delta=0.4)
        self.assertNotIn(f"rig.loads[{at}].high_cool_a", after)
        self.assertAlmostEqual(after["rig.loads[1].watts"], 1400.0, delta=30.0)
        says = next(j.sentence for j in found.entries)
        self.assertIn("fan low 1.", says)

    def test_a_step_of_a_survey_needs_amps_or_watts(self) -> None:
        with self.assertRaises(SetupError) as caught:
            told(on_a_post(), {"kind": "survey", "steps": [{"on": ["heater"]}]})
        self.assertEqual(caught.exception.faults[0].path, "entries[0].steps[0].amps")

    def test_steps_of_a_survey_that_disagree_are_named(self) -> None:
        steps = [
            {"on": [], "amps": 1.0},
            {"on": ["heater"], "amps": 13.5},
            {"on": ["heater", "tv"], "amps": 15.6},
            {"on": ["tv"], "amps": 9.0},
            {"on": ["heater", "tv"], "amps": 15.7},
            {"on": ["tv"], "amps": 3.1},
        ]
        found = told(on_a_post(), {"kind": "survey", "steps": steps})
        odd = [j for j in found.entries if j.judged == "unlikely"]
        self.assertEqual([j.figure for j in odd], ["step 4"])


class AsTheyCome(unittest.TestCase):
    """Readings as meters show them."""

    def heater(self, **read: float) -> float:
        entry = {"kind": "run", "load": "heater", "instrument": "watt-meter"} | read
        (figure,) = told(on_a_post(), entry).figures
        return figure.after

    def test_volt_amperes_and_a_battery_s_amps_are_readings(self) -> None:
        self.assertAlmostEqual(self.heater(va=1650.0, volts=120.0), 1650.0, delta=15.0)
        # 12.8 V times 140 A less an eighth in the inverter (common practice, no source).
        self.assertAlmostEqual(self.heater(dc_a=140.0, dc_v=12.8), 1577.0, delta=20.0)

    def test_the_dip_of_a_heater_tells_of_the_post(self) -> None:
        dip = {"kind": "run", "load": "heater", "amps": 12.0, "volts": 115.2, "volts_off": 120.6}
        figures = {f.field: f.after for f in told(on_a_post(), dip).figures}
        self.assertAlmostEqual(figures["supply.source_ohm"], 5.4 / 12.0, delta=0.001)
        self.assertAlmostEqual(figures["supply.voltage_v"], 120.6, delta=0.1)

    def test_volts_that_do_not_fall_tell_no_impedance(self) -> None:
        """Not four times ten to the minus sixteenth of an ohm."""
        for loaded in (120.0, 120.4, 119.99):
            found = told(
                on_a_post(),
                {"kind": "supply", "volts": 120.0},
                {"kind": "supply", "volts": loaded, "amps": 20.0},
            )
            self.assertNotIn("supply.source_ohm", [f.field for f in found.figures])

    def test_air_says_whether_it_cools(self) -> None:
        for out_c, word in ((13.0, "agrees"), (17.0, "agrees"), (22.0, "unlikely")):
            entry = {"kind": "run", "load": "roof", "return_c": 26.0, "outlet_c": out_c}
            (one,) = told(on_a_post(), entry).entries
            self.assertEqual((one.figure, one.judged), ("air", word))

    def test_a_soft_starter_that_has_not_learned_is_not_as_expected(self) -> None:
        setup = on_a_post(start="soft-start", soft_start={"peak_a": 38.6})
        first = told(setup, start(58.0, instrument="inrush-clamp", outcome="starts"))
        self.assertNotIn("agrees", [j.judged for j in first.entries if j.figure == "peak_a"])


class Beside(unittest.TestCase):
    def noise(self, *readings: tuple[float, float]) -> dict[str, Any]:
        found = told(
            on_a_post(), *[{"kind": "noise", "dba": dba, "at_m": at} for dba, at in readings]
        )
        noise: dict[str, Any] = learned_json(found)["noise"]
        return noise

    def test_the_inverse_square_law_is_recovered(self) -> None:
        free = self.noise((70.0, 1.0), (63.98, 2.0), (57.96, 4.0), (51.94, 8.0))
        self.assertAlmostEqual(free["per_doubling_db"], 6.02, delta=0.02)
        self.assertAlmostEqual(free["at_1m_dba"], 70.0, delta=0.05)
        self.assertLess(free["residual_db"], 0.05)
        walls = self.noise((70.0, 1.0), (66.0, 2.0), (62.0, 4.0), (58.0, 8.0))
        self.assertIn("walls reflect", walls["sentence"])

    def test_two_decibels_off_the_line_walls_reflect(self) -> None:
        for off, words in ((1.6, "as in a free field"), (2.4, "walls reflect")):
            signs = (1, -1, -1, 1)  # neither level nor slope takes them up
            found = self.noise(
                *((70.0 - 6.02 * n + off * sign, 2.0**n) for n, sign in enumerate(signs))
            )
            self.assertAlmostEqual(found["residual_db"], off, delta=0.01)
            self.assertIn(words, found["sentence"])

    def test_one_distance_is_carried_to_a_metre_as_in_a_free_field(self) -> None:
        """20·log10(8) dB from 8 m to 1 m: a free field, ISO 3744 (memory)."""
        one = self.noise((52.0, 8.0))
        self.assertAlmostEqual(one["at_1m_dba"], 52.0 + 18.06, delta=0.01)
        self.assertIn("one distance cannot tell", one["sentence"])

    def test_the_walk_that_was_fitted_is_what_the_hours_compute_with(self) -> None:
        """Level at 7 m and dB a doubling go into the set's noise; idling is told apart."""
        document = write_setup(on_a_post()) | {
            "supply": {"kind": "generator", "continuous_w": 3000, "starting_w": 3600}
        }
        setup = read_setup(document)
        walk = [
            {"kind": "noise", "dba": 76.0 - 4.5 * math.log2(m), "at_m": m, "load_w": 2000}
            for m in (1.0, 3.5, 7.0, 14.0)
        ]
        idling = {"kind": "noise", "dba": 50.0, "at_m": 7.0}
        found = told(setup, *walk, idling)
        noise = found.setup.supply.noise  # type: ignore[union-attr]
        self.assertAlmostEqual(noise.dba, 76.0 - 4.5 * math.log2(7.0), delta=0.1)
        self.assertAlmostEqual(noise.per_doubling_db, 4.5, delta=0.05)
        self.assertAlmostEqual(noise.load_w, 2000.0)
        sound = sound_of_set(found.setup.supply, noise, 2000.0)  # type: ignore[arg-type]
        self.assertAlmostEqual(sound.at(28.0), 76.0 - 4.5 * math.log2(28.0), delta=0.2)
        self.assertAlmostEqual(sound.at(sound.reaches(55.0)), 55.0, delta=1e-6)

    def test_the_background_is_taken_off_as_energy(self) -> None:
        found = told(
            on_a_post(),
            {"kind": "noise", "dba": 53.0103, "at_m": 7, "background_dba": 50},
            {"kind": "noise", "dba": 51, "at_m": 20, "background_dba": 50},
        )
        says = [j.sentence for j in found.entries]
        self.assertIn("50 dBA without the background", says[0])
        self.assertIn("Lost in the background", says[1])

    def test_two_fills_fit_a_fuel_line(self) -> None:
        setup = changed(2, lambda doc: None)  # 1.8 kW
        found = told(
            setup,
            {"kind": "fuel", "litres": 3.0, "hours": 6, "mean_w": 450},
            {"kind": "fuel", "litres": 6.0, "hours": 6, "mean_w": 1800},
        )
        fuel = learned_json(found)["fuel"]
        self.assertAlmostEqual(fuel["litres_per_h_at"]["450"], 0.5, delta=0.01)
        self.assertAlmostEqual(fuel["litres_per_h_at"]["1800"], 1.0, delta=0.01)
        self.assertAlmostEqual(fuel["b"], 0.5 / 1.35, delta=0.005)

    def test_one_fill_scales_the_usual_line_and_propane_by_its_energy(self) -> None:
        setup = changed(2, lambda doc: None)
        found = told(
            setup, {"kind": "fuel", "fuel": "propane", "litres": 15.1, "hours": 9.8, "mean_w": 1500}
        )
        (line,) = found.fuel
        self.assertAlmostEqual(line.a * 1.8 + line.b * 1.5, 15.1 / 9.8, delta=0.01)
        self.assertAlmostEqual(
            line.a / line.b, 0.035 / 0.10 * 1.0, delta=1e-6, msg=f"{WH_PER_L['propane']}"
        )

    def test_two_readings_at_the_post_tell_its_volts_and_impedance(self) -> None:
        found = told(
            on_a_post(),
            {"kind": "supply", "volts": 122.0, "amps": 1.0, "tester": "correct"},
            {"kind": "supply", "volts": 116.0, "amps": 21.0, "hz": 60},
        )
        after = {f.field: f.after for f in found.figures}
        self.assertAlmostEqual(after["supply.source_ohm"], 0.3, delta=0.001)
        self.assertAlmostEqual(after["supply.voltage_v"], 122.3, delta=0.01)

    def test_what_was_read_at_a_post_stands_before_what_starts_behind_it_make_of_it(self) -> None:
        """One field, one figure: and no draws of the starts that would pull at it later."""
        started = [start(52.0, lowest_v=104.0, outcome="starts", notes=f"{n}") for n in range(4)]
        read = [
            {"kind": "supply", "volts": 122.0, "amps": 1.0},
            {"kind": "supply", "volts": 116.0, "amps": 21.0},
        ]
        alone = told(on_a_post(), *started)
        both = told(on_a_post(), *started, *read)
        self.assertIn("supply.source_ohm", [f.field for f in alone.figures])
        self.assertIn(KEY, alone.setup.supply.x)
        (ohm,) = (f.after for f in both.figures if f.field == "supply.source_ohm")
        self.assertAlmostEqual(ohm, 0.3, delta=0.001)
        self.assertNotIn(KEY, both.setup.supply.x)
        for more in ((), (start(53.0, notes="later"),)):
            later = told(alone.setup, *started, *more, *read)
            names = known_of(later.setup).names
            self.assertNotIn(("supply", ""), names, "what starts told earlier is gone, too")

    def test_a_bad_tester_reading_stops_the_job(self) -> None:
        found = told(on_a_post(), {"kind": "supply", "tester": "open-ground"})
        self.assertIn("plug nothing in", found.entries[0].sentence)

    def test_a_trip_these_figures_do_not_explain_says_measure(self) -> None:
        calm = told(on_a_post(), {"kind": "trip", "where": "post", "running": ["tv"], "after_s": 9})
        self.assertEqual(calm.entries[0].judged, "unlikely")
        self.assertIn("measure", calm.entries[0].sentence)
        full = told(
            on_a_post(high_cool_a=24),
            {"kind": "trip", "where": "post", "running": ["roof", "heater"], "after_s": 600},
        )
        self.assertEqual(full.entries[0].judged, "agrees")
        self.assertIn("30 A breaker", full.entries[0].sentence)

    def test_two_meters_of_one_energy(self) -> None:
        found = told(on_a_post(), {"kind": "energy", "hours": 48, "kwh": 61.2, "park_kwh": 83.0})
        self.assertIn("36 % more", found.entries[0].sentence)

    def test_a_start_that_takes_longer_each_month_is_a_stiffening_compressor(self) -> None:
        entries = [
            start(52.0, seconds=0.3 + 0.05 * n, at=f"2026-0{n + 1}-10T12:00:00Z") for n in range(6)
        ]
        found = told(on_a_post(), *entries)
        (seconds,) = (d for d in found.drift if d.figure == "seconds")
        self.assertAlmostEqual(seconds.per_month, 0.05, delta=0.003)
        self.assertGreater(seconds.low, 0.0)
        self.assertIn("stiffening", seconds.sentence)


class BadInput(unittest.TestCase):
    def faults(self, *entries: Any) -> dict[str, str]:
        try:
            told(on_a_post(), *entries)
        except SetupError as error:
            return {f.path: f.code for f in error.faults}
        return {}

    def test_each_fault_is_named_by_its_entry(self) -> None:
        found = self.faults(
            start(-3.0),
            start(20.0, at="2199-01-01T00:00:00Z"),
            start(20.0, at="yesterday"),
            {"kind": "run", "load": "nobody", "amps": 3},
            {"kind": "noise", "dba": 70, "at_m": 0},
            {"kind": "guess"},
            {"kind": "trip", "where": "roof box"},
            start(20.0, volts=3),
        )
        self.assertEqual(
            {k: v for k, v in found.items() if "nobody" not in k and "trip" not in v},
            {
                "entries[0].peak_a": "least",
                "entries[1].at": "future",
                "entries[2].at": "when",
                "entries[4].at_m": "above",
                "entries[5].kind": "kind",
                "entries[7].volts": "unknown-field",
            },
        )
        self.assertEqual(
            self.faults({"kind": "run", "load": "nobody", "amps": 3}),
            {"entries[0].load": "no-such-load"},
        )
        self.assertEqual(self.faults({"kind": "trip", "where": "x"}), {"entries[0].where": "where"})

    def test_what_changed_must_be_a_figure_of_the_setup(self) -> None:
        found = told(on_a_post(), start(20.0, changed={"colour": "red"}))
        self.assertEqual(found.entries[0].judged, "not-comparable")

    def test_a_log_round_trips_and_its_schema_has_every_kind(self) -> None:
        data = {
            "format": "iron-margin/log",
            "version": 1,
            "name": "n",
            "entries": [
                start(20.0, trace=[[0, 1, 2], [1, 2, 3]], with_running=["tv"]),
                {"kind": "fuel", "litres": 3, "hours": 4, "mean_w": 100},
            ],
        }
        log = read_log(data)
        self.assertEqual(read_log(write_log(log)), log)
        kinds = log_schema()["properties"]["entries"]["items"]["oneOf"]
        self.assertEqual(len(kinds), len(ENTRY_KINDS))

    def test_the_command_says_it_in_words_and_as_json(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            setup, log = Path(folder) / "s.json", Path(folder) / "l.json"
            setup.write_text(json.dumps(write_setup(on_a_post())))
            log.write_text(
                json.dumps({"format": "iron-margin/log", "version": 1, "entries": [start(50.0)]})
            )
            out = io.StringIO()
            with contextlib.redirect_stdout(out):
                code = main(["learn", str(setup), "--log", str(log), "--json"])
            found = json.loads(out.getvalue())
            self.assertEqual((code, found["format"]), (0, "iron-margin/learned"))
            self.assertEqual(found["figures"][0]["from"], "measured")
            read_setup(found["setup"])
            with contextlib.redirect_stdout(io.StringIO()) as words:
                main(["learn", str(setup), "--log", str(log)])
            self.assertIn("With what was learned", words.getvalue())
            log.write_text("{")
            with contextlib.redirect_stderr(io.StringIO()) as says:
                self.assertEqual(main(["learn", str(setup), "--log", str(log)]), 2)
            self.assertIn("not a log", says.getvalue())

    def test_words_name_every_figure(self) -> None:
        found = told(on_a_post(), start(40.0))
        for figure in found.figures:
            self.assertIn(figure.label, learned_words(found))


class Captures(unittest.TestCase):
    def lines(self, header: str, sep: str, comma: bool, milli: bool, swap: bool = False) -> bytes:
        out = [header]
        for n in range(100):
            t, amps, volts = 0.01 * n, (60.0 if n < 30 else 14.5), (95.0 if n < 30 else 119.5)
            cells = [f"{t * 1000 if milli else t:.4f}", f"{amps:.2f}", f"{volts:.2f}"]
            cells = cells[::-1] if swap else cells
            out.append(sep.join(c.replace(".", ",") if comma else c for c in cells))
        return "\r\n".join(out).encode()

    def test_five_dialects_read_to_the_same(self) -> None:
        plain = read_capture(self.lines("time_s,amps,volts", ",", False, False))
        for raw in (
            self.lines("Time (ms);Current (A);Voltage (V)", ";", True, True),
            self.lines("t\ti\tv", "\t", False, False),
            self.lines("volts,amps,time_s", ",", False, False, swap=True),
            b"\xef\xbb\xbf" + self.lines("time_ms,amps,volts", ",", False, True),
            self.lines("time_s,amps,volts", ",", False, False).decode().encode("utf-16"),
            b"# a scope\n" + self.lines("time_s,amps,volts", ",", False, False),
        ):
            self.assertEqual(read_capture(raw), plain, raw[:40])
        self.assertEqual((max(r[1] for r in plain.rows), plain.hz), (60.0, None))

    def test_a_waveform_becomes_rms_at_its_own_frequency(self) -> None:
        for hz in (50.0, 60.0):
            rows = ["t,i,u"]
            for n in range(2000):
                t = n / 4000
                wave = math.sqrt(2) * math.sin(2 * math.pi * hz * t)
                rows.append(f"{t:.5f},{20 * wave:.4f},{118 * wave:.4f}")
            found = read_capture("\n".join(rows).encode())
            self.assertEqual(found.hz, hz)
            middle = found.rows[len(found.rows) // 2]
            self.assertAlmostEqual(middle[1], 20.0, delta=0.15)
            self.assertAlmostEqual(middle[2], 118.0, delta=1.0)

    def test_a_fifth_below_nought_is_a_waveform_and_less_a_fault(self) -> None:
        """A sine lifted by 0.7 of its amplitude is a quarter below nought, by 0.89 a seventh."""

        def lifted(by: float) -> bytes:
            rows = ["t,i"]
            for n in range(1500):
                t = n / 3000
                rows.append(f"{t:.5f},{20 * (by + math.sin(2 * math.pi * 60 * t)):.3f}")
            return "\n".join(rows).encode()

        self.assertEqual(read_capture(lifted(0.7)).hz, 60.0)
        with self.assertRaisesRegex(SetupError, "below zero"):
            read_capture(lifted(0.89))

    def test_what_is_no_reading_is_named_by_line_and_column(self) -> None:
        for raw, path, code in (
            (b"time_s,amps\n0,1\n1,nan\n2,3", "line 3, column 2 (amps)", "number"),
            (b"time_s,amps,volts\n0,1,120\n1,2", "line 3, column 3 (volts)", "number"),
            (b"time_s,amps\n0,1\n1,-4\n2,3\n3,3\n4,3\n5,3\n6,3", "line 3", "least"),
            (b"time_s,amps\n1,1\n0,4", "line 3", "time"),
            (b"time_s,colour\n1,1\n2,4", "file", "header"),
            (b"", "file", "empty"),
            (b"time_s,amps\n" + b"1,1\n" * 100_001, "file", "rows"),
            (
                b"time_s,amps\n" + b"\n".join(b"%d,%d" % (n, (-1) ** n) for n in range(40)),
                "file",
                "waveform",
            ),
        ):
            with self.assertRaises(SetupError) as caught:
                read_capture(raw)
            fault = caught.exception.faults[0]
            self.assertEqual((fault.path, fault.code), (path, code))
