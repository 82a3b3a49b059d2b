"""What single readings teach, as they come."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from pathlib import Path
from typing import Any

from ironmargin.__main__ import main
from ironmargin.errors import SetupError
from ironmargin.learning.capture import read_capture
from ironmargin.learning.entries import entry_kinds
from ironmargin.learning.figures import choices_of
from ironmargin.learning.log import log_schema, read_log, write_log
from ironmargin.learning.words import learned_words
from ironmargin.setup.reading import read_setup, write_setup
from tests.core.test_learning import on_a_post, start, told


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
        """Common practice: 20 °F (11 K) and more cools, under 15 °F (8 K) does not."""
        for colder_k, word, says in (
            (14.0, "agrees", "it cools"), (11.5, "agrees", "it cools"),
            (10.5, "agrees", "weak"), (8.5, "agrees", "weak"),
            (7.5, "unlikely", "does not cool"), (4.0, "unlikely", "does not cool"),
        ):  # fmt: skip
            air = {"return_c": 26.0, "outlet_c": 26.0 - colder_k}
            (one,) = told(on_a_post(), {"kind": "run", "load": "roof"} | air).entries
            self.assertEqual((one.figure, one.judged), ("air", word))
            self.assertIn(says, one.sentence)

    def test_a_set_s_character_is_put_down_from_85_in_100_sure(self) -> None:
        class Found:
            cuts_off: float | None = None

        for cuts, after in (
            (None, None), (0.84, None), (0.5, None), (0.16, None),
            (0.86, "cuts-off"), (0.14, "folds-back"),
        ):  # fmt: skip
            found = Found()
            found.cuts_off = cuts
            put_down = choices_of(on_a_post(), found, {})
            self.assertEqual([c.after for c in put_down], [after] if after else [], cuts)
            for choice in put_down:
                self.assertAlmostEqual(choice.sure, 0.86)

    def test_a_soft_starter_that_has_not_learned_is_not_as_expected(self) -> None:
        setup = on_a_post(start="soft-start", soft_start={"peak_a": 38.6})
        first = told(setup, start(58.0, instrument="inrush-clamp", outcome="starts"))
        self.assertNotIn("agrees", [j.judged for j in first.entries if j.figure == "peak_a"])


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
        self.assertEqual(len(kinds), len(entry_kinds()))

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

    def test_a_waveform_that_is_of_no_mains_is_refused(self) -> None:
        for hz, mains in ((35.0, False), (44.0, True), (66.0, True), (75.0, False)):
            rows = ["t,i,u"]
            for n in range(2000):
                wave = 170.0 * math.sin(2 * math.pi * hz * n / 4000)
                rows.append(f"{n / 4000:.5f},{0.1 * wave:.4f},{wave:.4f}")
            raw = "\n".join(rows).encode()
            if mains:
                self.assertIn(read_capture(raw).hz, (50.0, 60.0))
            else:
                with self.assertRaisesRegex(SetupError, "50 or 60 Hz"):
                    read_capture(raw)

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
