"""What draws of the unknowns make of readings beside each other."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from ironmargin.enduring.fuel import WH_PER_L
from ironmargin.enduring.noise import sound_of_set
from ironmargin.learning.log import read_log
from ironmargin.learning.proposals import around
from ironmargin.learning.snapshot import differs, snapshot_of
from ironmargin.learning.words import learned_json
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.starting.known import KEY, known_of
from ironmargin.verdict.check import examine
from tests.core.test_learning import on_a_post, predicted, start, told
from tests.shared import changed


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


class Concurrent(unittest.TestCase):
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


class Proposed(unittest.TestCase):
    """What the next round is drawn from."""

    SDS = np.array([0.2, 0.5])

    def test_where_one_draw_carries_all_a_tenth_of_what_was_believed_is_left(self) -> None:
        logs = np.array([[0.1, -0.2], [0.4, 0.3], [-0.6, 0.9]])
        found = around(logs, np.array([0.0, 1.0, 0.0]), self.SDS)
        np.testing.assert_allclose(found.middle, logs[1])
        np.testing.assert_allclose(found.root, np.diag(0.1 * self.SDS))

    def test_else_it_is_a_fifth_wider_than_what_was_found(self) -> None:
        logs = np.random.default_rng(3).normal(0.0, 1.0, (4000, 2))
        found = around(logs, np.full(4000, 1 / 4000), self.SDS)
        spread = 1.2**2 * np.cov(logs.T, bias=True) + np.diag((0.1 * self.SDS) ** 2)
        np.testing.assert_allclose(found.root @ found.root.T, spread, rtol=1e-9)
