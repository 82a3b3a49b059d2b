"""The meter: its registers, what it shows of a bench run, and that it speaks Modbus TCP."""

from __future__ import annotations

import asyncio
import contextlib
import io
import json
import socket
import tempfile
import threading
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st
from pymodbus.client import ModbusTcpClient

from ironmargin.bench.play import run_script
from ironmargin.bench.script import read_script
from ironmargin.setup.reading import load_setup
from ironmargin_meter.__main__ import main, serve
from ironmargin_meter.reel import NOISE, Reel, usual_script
from ironmargin_meter.registers import COUNT, MAP, Nonsense, decode, encode
from tests.shared import path_of

DEMO = Path(__file__).resolve().parents[2] / "ironmargin_meter" / "demo.setup.json"
FIGURES = st.fixed_dictionaries({r.name: st.floats(0, r.maximum - 1.0 / r.per_unit) for r in MAP})


class Registers(unittest.TestCase):
    @given(FIGURES)
    def test_a_reading_comes_back_within_half_a_count(self, reading: dict[str, float]) -> None:
        back = decode(encode(reading))
        for register in MAP:
            off = abs(back[register.name] - reading[register.name])
            self.assertLessEqual(off, 0.5 / register.per_unit + 1e-6, register.name)

    def test_registers_follow_one_another(self) -> None:
        first = 0
        for register in MAP:
            self.assertEqual(register.first, first)
            first += register.words
        self.assertEqual(COUNT, first)

    def test_what_no_service_has_is_nonsense(self) -> None:
        sound = encode(dict.fromkeys((r.name for r in MAP), 1.0))
        with self.assertRaisesRegex(Nonsense, "12 registers came instead of 13"):
            decode(sound[:-1])
        with self.assertRaisesRegex(Nonsense, "volts 1: 6553.5 is more than 320"):
            decode([65535, *sound[1:]])


class AReel(unittest.TestCase):
    """What the meter shows is what the bench has, but for its noise and rounding."""

    def setUp(self) -> None:
        self.setup = load_setup(DEMO)
        self.reel = Reel(self.setup)
        self.bench = run_script(self.setup, usual_script(self.setup))

    def test_settled_amps_are_the_benchs(self) -> None:
        at = 170.0
        row = [r for r in self.bench.rows if r[0] <= at][-1]
        shown = [self.reel.at(at, 0.0, n)["amps_1"] for n in range(200)]
        mean = sum(shown) / len(shown)
        self.assertAlmostEqual(mean, row[1], delta=4 * NOISE * row[1] / 200**0.5)
        self.assertGreater(len(set(shown)), 100)

    def test_the_peak_is_held_though_no_update_fell_on_it(self) -> None:
        peak = max((r for r in self.bench.rows if r[0] < 30.0), key=lambda r: r[1])
        held = self.reel.at(30.0, 0.0, 1)
        self.assertEqual(held["held_a_1"], peak[1])
        self.assertLess(held["amps_1"], held["held_a_1"])
        later = self.reel.at(40.0, 30.0, 2)
        self.assertLess(later["held_a_1"], held["held_a_1"])

    def test_energy_goes_on_over_the_reels_end(self) -> None:
        a, b = (self.reel.at(t, 0.0, 1)["wh"] for t in (239.0, 241.0))
        self.assertGreater(a, 10.0)
        self.assertGreaterEqual(b, a)
        watts = [r for r in self.bench.rows if r[0] <= 170.0][-1][4]
        more = self.reel.at(171.0, 0.0, 1)["wh"] - self.reel.at(170.0, 0.0, 1)["wh"]
        self.assertAlmostEqual(more, watts / 3600.0, delta=0.05 * watts / 3600.0)


class OnTheWire(unittest.TestCase):
    def test_it_answers_over_modbus_and_resets_its_holds(self) -> None:
        script = {
            "format": "iron-margin/script",
            "version": 1,
            "hours": 0.1,
            "begin": {"all": "as-wanted"},
        }
        setup = load_setup(DEMO)
        reel = Reel(setup, read_script(script, setup))
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        loop = asyncio.new_event_loop()
        task = loop.create_task(serve(reel, port, updates=50.0, speed=1.0))

        def run() -> None:
            asyncio.set_event_loop(loop)
            with contextlib.suppress(asyncio.CancelledError):
                loop.run_until_complete(task)

        thread = threading.Thread(target=run)
        thread.start()
        try:
            client = ModbusTcpClient("127.0.0.1", port=port, timeout=20, retries=0)
            while not client.connect():
                pass
            found = decode(client.read_input_registers(0, count=COUNT).registers)
            true = reel.rows[2][1]
            self.assertAlmostEqual(found["amps_1"], true, delta=5 * NOISE * true + 0.01)
            self.assertEqual(found["hz"], 60.0)
            beats = {found["beat"]}
            while len(beats) < 3:
                beats.add(decode(client.read_input_registers(0, count=COUNT).registers)["beat"])
            self.assertFalse(client.write_register(0, 1).isError())
            self.assertTrue(client.read_input_registers(0, count=COUNT + 5).isError())
            client.close()
        finally:
            loop.call_soon_threadsafe(task.cancel)
            thread.join()
            loop.close()

    def test_bad_words_are_said(self) -> None:
        said = io.StringIO()
        with contextlib.redirect_stderr(said), tempfile.TemporaryDirectory() as folder:
            bad = Path(folder) / "bad.setup.json"
            bad.write_text(json.dumps({"format": "x"}), encoding="utf-8")
            self.assertEqual(main([str(bad)]), 2)
            self.assertEqual(main([str(path_of(5)), "--updates", "0"]), 2)
            with socket.socket() as taken:
                taken.bind(("127.0.0.1", 0))
                taken.listen()
                port = str(taken.getsockname()[1])
                self.assertEqual(main([str(path_of(5)), "--port", port]), 2)
        self.assertIn("format", said.getvalue())
        self.assertIn("--updates must be 0.2 to 50", said.getvalue())
        self.assertIn("cannot be used", said.getvalue())
