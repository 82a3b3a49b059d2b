"""Every kind of change does what it says and gives a setup that reads back; breaker plots and leg
moves against the check itself.
"""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from typing import Any

from ironmargin.case import prepare
from ironmargin.electrics.motor import pressure_left, rested_s
from ironmargin.errors import SetupError
from ironmargin.loads.demand import leg_of
from ironmargin.planning.change import COSTS, Change
from ironmargin.planning.changes import changes_of
from ironmargin.planning.changes.of_units import SMALLER
from ironmargin.planning.legs import leg_moves
from ironmargin.planning.order import running_order
from ironmargin.planning.planner import Planner
from ironmargin.planning.remedies import find_remedies
from ironmargin.planning.tasks import clock, read_tasks, slots_long, slots_of
from ironmargin.protection.breaker import NOMINAL, curve
from ironmargin.setup.changed import with_engines_scaled
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.rules import check_rules
from ironmargin.verdict.check import examine
from ironmargin.verdict.curves import LONG_S, MIN_S, breaker_plot
from tests.shared import checked, document

PAIR_ON_PROPANE: dict[str, Any] = {
    "kind": "parallel",
    "kit_limit_a": 30,
    "units": [
        {
            "kind": "generator",
            "continuous_w": 1800,
            "starting_w": 2200,
            "fuel": "propane",
            "eco": True,
        }
    ]
    * 2,
}


def setup_of(number: int, **more: Any) -> Setup:
    return read_setup(document(number) | more)


def by_kind(setup: Setup) -> dict[str, list[Change]]:
    """The changes of a setup by kind."""
    out: dict[str, list[Change]] = {}
    for change in changes_of(setup, prepare(setup)):
        out.setdefault(change.kind, []).append(change)
    return out


class Changes(unittest.TestCase):
    def test_every_change_reads_back_and_is_a_change(self) -> None:
        for number in range(1, 12):
            setup = setup_of(number)
            for change in changes_of(setup, prepare(setup)):
                changed = change.apply(setup)
                self.assertIn(change.cost, COSTS)
                self.assertTrue(change.what[0].isupper(), change.what)
                if changed is None or check_rules(changed):
                    continue
                self.assertNotEqual(changed, setup, change.what)
                self.assertEqual(read_setup(write_setup(changed)), changed, change.what)

    def test_leaving_off_and_putting_off(self) -> None:
        doc = document(5)
        doc["rig"]["loads"][1]["priority"] = "wait"
        kinds = by_kind(read_setup(doc))
        self.assertEqual(
            [c.what for c in kinds["postpone"]], ["Leave Microwave oven off until later"]
        )
        self.assertEqual(
            {c.what for c in kinds["leave-off"]},
            {
                "Leave Rooftop unit on a hot day off",
                "Switch Refrigerator off, though it is always on",
            },
        )
        self.assertLess(kinds["postpone"][0].effort, min(c.effort for c in kinds["leave-off"]))

    def test_a_pump_is_no_compressor(self) -> None:
        """Nothing presses on it: it starts again at once, is not told to rest, and no kit is made
        for it."""
        motor = {"id": "pump", "name": "Pump", "kind": "motor", "running_a": 8.0, "lra_a": 40.0}
        motor |= {"start": "start-capacitor", "wait_s": 0.0}
        for metering, presses in (("capillary", True), ("none", False)):
            doc = document(5)
            doc["supply"] = {"kind": "generator", "continuous_w": 2600, "starting_w": 3000}
            doc["rig"]["loads"] = [motor | {"metering": metering}]
            doc["wanted"] = [{"load": "pump"}]
            setup = read_setup(doc)
            start = examine(setup).starts[0]
            self.assertEqual(start.restart is not None, presses)
            self.assertEqual(prepare(setup).demands[0].plate.breakaway > 0.5, presses)
            self.assertEqual("hard-start" in by_kind(setup), presses)
            self.assertEqual(
                max(step.wait_s for step in running_order(setup).sequence.steps) > 0, presses
            )
        self.assertEqual((rested_s("none"), pressure_left(0.0, "none")), (0.0, 0.0))
        doc = document(5)
        doc["rig"]["loads"][0]["metering"] = "none"
        with self.assertRaises(SetupError) as refused:
            read_setup(doc)
        self.assertIn("metering", refused.exception.faults[0].path)

    def test_modes(self) -> None:
        doc = document(5)
        doc["rig"]["loads"][0] |= {"low_cool_a": 15}
        setup = read_setup(doc)
        modes = [
            next(w.mode for w in c.apply(setup).wanted if w.load == "roof")
            for c in (*by_kind(setup)["mode"], *by_kind(setup)["fan-only"])
        ]
        self.assertEqual(modes, ["low-cool", "fan-low"])

    def test_the_input_limit_leaves_room_for_what_else_hangs_on_the_circuit(self) -> None:
        inverter = {"continuous_w": 2000, "surge_w": 4000, "battery_wh": 5000}
        for also_a, limit_a in ((0.0, 12.0), (7.0, 5.0), (9.5, 2.0), (11.0, None)):
            post = {"breaker_a": 15, "also_on_circuit_a": also_a}
            supply = {"kind": "assist", "input": {"kind": "shore"} | post, "inverter": inverter}
            setup = setup_of(6, supply=supply | {"input_limit_a": 14})
            found = by_kind(setup).get("input-limit", [])
            made = [c.apply(setup).supply.input_limit_a for c in found]
            self.assertEqual(made, [] if limit_a is None else [limit_a], also_a)
        self.assertNotIn("input-limit", by_kind(setup_of(6, supply=supply | {"input_limit_a": 1})))
        self.assertNotIn("input-limit", by_kind(setup_of(6)))

    def test_the_set_itself(self) -> None:
        setup = setup_of(1, supply=PAIR_ON_PROPANE)
        kinds = by_kind(setup)
        self.assertTrue(all(not u.eco for u in kinds["eco-off"][0].apply(setup).supply.units))
        self.assertTrue(
            all(u.fuel == "gasoline" for u in kinds["fuel"][0].apply(setup).supply.units)
        )
        self.assertEqual(len(kinds["second-set"][0].apply(setup).supply.units), 3)
        one = setup_of(2)
        self.assertEqual(by_kind(one)["second-set"][0].apply(one).supply.kind, "parallel")
        larger = [c.apply(one).supply.continuous_w for c in by_kind(one)["next-size"]]
        self.assertEqual(larger, sorted(larger))
        self.assertGreater(larger[0], one.supply.continuous_w)

    def test_a_pair_that_cuts_off_is_exchanged_for_one_that_lets_the_volts_sag(self) -> None:
        doc = document(1)
        for unit in doc["supply"]["units"]:
            unit |= {"starting_w": 1700, "continuous_w": 1700, "character": "cuts-off"}
        cuts = read_setup(doc)
        (first,) = [r for r in find_remedies(cuts).found if r.change == "set-that-sags"]
        self.assertEqual(examine(cuts).result.verdict, "fails")
        self.assertEqual(first.verdict, "holds")
        self.assertIn("where these cut off", first.what)
        self.assertNotIn("set-that-sags", by_kind(setup_of(1)))

    def test_an_air_conditioner_is_replaced_by_one_without_a_start_or_by_a_smaller_one(
        self,
    ) -> None:
        setup = setup_of(3)
        (driven,), (smaller,) = (by_kind(setup)[k] for k in ("inverter-unit", "smaller-unit"))
        old = setup.rig.loads[0]
        for change, gives_up in ((driven, ""), (smaller, "some of its cooling")):
            self.assertEqual(
                (change.cost, change.by, change.requested), ("buy", "a technician", False)
            )
            self.assertEqual((change.about, change.gives_up), (old.id, gives_up))
        without = driven.apply(setup)
        self.assertEqual(without.rig.loads[0].running_a, old.running_a)
        self.assertEqual(examine(without).starts, ())
        less = smaller.apply(setup).rig.loads[0]
        self.assertLessEqual(less.running_a, SMALLER * old.running_a)
        self.assertGreater(less.running_a, 0.7 * old.running_a)
        self.assertLess(less.lra_a, old.lra_a)
        self.assertIn("9,000 Btu/h", smaller.what)
        # An inverter-driven one has no better; the smallest none smaller.
        self.assertFalse({"inverter-unit", "smaller-unit"} & set(by_kind(without)))
        minimum = smaller.apply(smaller.apply(setup))
        while "smaller-unit" in by_kind(minimum):
            minimum = by_kind(minimum)["smaller-unit"][0].apply(minimum)
        self.assertEqual(minimum.rig.loads[0].running_a, 7.5)

    def test_a_house_is_offered_a_window_unit_not_one_for_a_roof(self) -> None:
        doc = document(3)
        doc["rig"]["what"] = "building"
        doc["rig"]["loads"][0] |= {"running_a": 12.0}
        self.assertIn("window unit", by_kind(read_setup(doc))["smaller-unit"][0].what)

    def test_every_set_is_scaled_by_itself(self) -> None:
        unequal = PAIR_ON_PROPANE | {
            "units": [
                {
                    "kind": "generator",
                    "continuous_w": 1800,
                    "starting_w": 2200,
                    "by_fuel": {"propane": {"continuous_w": 1600, "starting_w": 2000}},
                },
                {"kind": "generator", "continuous_w": 1000, "starting_w": 1200},
            ]
        }
        units = with_engines_scaled(setup_of(1, supply=unequal), 0.5).supply.units
        self.assertEqual([(u.continuous_w, u.starting_w) for u in units], [(900, 1100), (500, 600)])
        self.assertEqual(units[0].by_fuel["propane"].starting_w, 1000)

    def test_start_gear(self) -> None:
        setup = setup_of(9)
        kinds = by_kind(setup)
        self.assertEqual(len(kinds["soft-start"]), 2)
        self.assertEqual(kinds["hard-start"][0].apply(setup).rig.loads[0].start, "hard-start")
        self.assertNotIn("inline-soft-start", kinds)  # not in a house
        rig = replace(setup, rig=replace(setup.rig, what="vehicle"))
        inline = by_kind(rig)["inline-soft-start"][0]
        self.assertEqual(inline.apply(rig).hookup[-1].kind, "inline-soft-start")
        self.assertNotIn("soft-start", by_kind(setup_of(10)))

    def test_cords(self) -> None:
        setup = setup_of(1)
        kinds = by_kind(setup)
        thick = kinds["thicker-cord"][0].apply(setup).hookup[0]
        self.assertEqual((thick.awg, thick.rating_a), (8, 40.0))
        shorter = [c.apply(setup).hookup[0].length_m for c in kinds["shorter-cord"]]
        self.assertEqual(shorter[:2], [4.0, 2.0])  # a half and a quarter of it
        before, after = (
            examine(setup, trials=0).result,
            examine(kinds["thicker-cord"][0].apply(setup), trials=0).result,
        )
        self.assertLess(after.path[0].volts_drop, before.path[0].volts_drop)

    def test_a_cord_of_any_size_becomes_up_to_three_sizes_thicker(self) -> None:
        """With the rating of the plugs such cords are sold with (common practice), where it has
        one of its own.
        """
        rated = {14: 15.0, 12: 20.0, 10: 30.0, 8: 40.0, 6: 50.0, 4: 60.0}
        sizes = [16, *rated]
        for at, awg in enumerate(sizes):
            doc = document(2)
            cord = {"kind": "cord", "awg": awg, "length_m": 30, "rating_a": 13}
            doc["hookup"] = [cord]
            setup = read_setup(doc)
            found = [
                change.apply(setup).hookup[0]
                for change in changes_of(setup, prepare(setup))
                if change.kind == "thicker-cord"
            ]
            thicker = [(size, rated[size]) for size in sizes[at + 1 :][:3]]
            self.assertEqual([(c.awg, c.rating_a) for c in found], thicker)
            bare = read_setup(doc | {"hookup": [{k: cord[k] for k in ("kind", "awg", "length_m")}]})
            for change in changes_of(bare, prepare(bare)):
                if change.kind == "thicker-cord":
                    self.assertIsNone(change.apply(bare).hookup[0].rating_a)

    def test_posts(self) -> None:
        setup = setup_of(5)
        kinds = by_kind(setup)
        two = kinds["two-outlets"][0].apply(setup)
        self.assertEqual(
            (two.supply.legs, [h.kind for h in two.hookup]), ("split", ["splitter", "cord"])
        )
        pitch = kinds["50-a-pitch"][0].apply(setup)
        self.assertEqual(
            (pitch.supply.breaker_a, pitch.supply.legs, [h.kind for h in pitch.hookup]),
            (50.0, "split", ["cord"]),
        )
        same = setup_of(8)
        self.assertEqual(by_kind(same)["opposite-legs"][0].apply(same).supply.legs, "split")
        for amps, larger in ((10, 15.0), (15, 20.0), (16, 20.0), (20, 30.0)):
            small = read_setup(document(4) | {"supply": {"kind": "shore", "breaker_a": amps}})
            outlet = by_kind(small)["other-outlet"][0].apply(small)
            self.assertEqual(outlet.supply.breaker_a, larger)
        small = read_setup(document(4) | {"supply": {"kind": "shore", "breaker_a": 15}})
        made = by_kind(small)["assist"][0].apply(small).supply
        self.assertEqual(made.kind, "assist")
        own = made.inverter  # what is sold for a rig: 3 kW, twice that for two seconds, 5 kWh
        self.assertEqual((own.continuous_w, own.surge_w, own.surge_s), (3000.0, 6000.0, 2.0))
        self.assertEqual(own.battery_wh, 5000.0)

    def test_moving_to_the_other_leg_moves_the_breaker_where_there_is_one(self) -> None:
        doc = document(7)
        doc["rig"]["circuits"] = [{"id": "c", "breaker_a": 20, "leg": "L1"}]
        doc["rig"]["loads"][0] |= {"circuit": "c"}
        doc["rig"]["loads"][0].pop("leg")
        setup = read_setup(doc)
        move = next(c for c in by_kind(setup)["move-leg"] if "Salon" in c.what)
        changed = move.apply(setup)
        self.assertEqual(changed.rig.circuits[0].leg, "L2")
        self.assertEqual(leg_of(changed, changed.rig.loads[0]), 1)

    def test_a_transformer_where_240_is_missing(self) -> None:
        setup = read_setup(document(6) | {"rig": document(7)["rig"], "wanted": [{"load": "hob"}]})
        transformer = by_kind(setup)["transformer"][0].apply(setup)
        self.assertGreaterEqual(transformer.hookup[-1].va, 1800)
        self.assertEqual(examine(transformer, trials=0).result.service, ())

    def test_a_transformer_is_the_next_size_with_a_tenth_to_spare(self) -> None:
        doc = document(6) | {"rig": document(7)["rig"], "wanted": [{"load": "hob"}]}
        hob = next(load for load in doc["rig"]["loads"] if load["id"] == "hob")
        for watts, va in ((900, 1000), (920, 2000), (1800, 2000), (2700, 3000), (4500, 5000),
                          (6800, 7500), (9000, 10000), (12000, 10000)):  # fmt: skip
            hob["watts"] = watts
            setup = read_setup(doc)
            transformer = by_kind(setup)["transformer"][0].apply(setup).hookup[-1]
            self.assertEqual(transformer.va, va, watts)
            self.assertEqual(transformer.no_load_w, 0.01 * va)


class Legs(unittest.TestCase):
    def test_a_move_is_what_the_check_of_the_moved_setup_says(self) -> None:
        full = checked(7)
        setup = full.case.setup
        for move in leg_moves(full.case):
            loads = tuple(
                replace(x, leg=move.to) if x.id == move.load else x for x in setup.rig.loads
            )
            result = examine(replace(setup, rig=replace(setup.rig, loads=loads)), trials=0).result
            self.assertAlmostEqual(result.legs["L1"].a, move.l1_a, places=6)
            self.assertAlmostEqual(result.legs["N"].a, move.neutral_a, places=6)
        self.assertEqual(
            [m.gained_a for m in leg_moves(full.case)],
            sorted((m.gained_a for m in leg_moves(full.case)), reverse=True),
        )

    def test_one_leg_has_none_to_move_to(self) -> None:
        for number in (2, 5, 11):
            self.assertEqual(leg_moves(checked(number).case), ())


class Curves(unittest.TestCase):
    def test_the_curves_are_the_breakers(self) -> None:
        full = checked(5)
        plot = breaker_plot(full, full.starts[0])
        self.assertEqual((plot.name, plot.rating_a), ("post breaker", 30.0))
        c = curve("UL489", 30.0, NOMINAL, 35.0)
        for amps, seconds in zip(plot.amps, plot.nominal_s, strict=True):
            expected = c.trip_s(amps / 30.0)
            if math.isfinite(expected):
                self.assertAlmostEqual(seconds, min(max(expected, MIN_S), 4 * 3600.0), places=6)
            else:
                self.assertTrue(math.isnan(seconds))

    def test_the_band_lies_in_order_and_warm_trips_sooner(self) -> None:
        for number in (5, 6, 7, 11):
            full = checked(number)
            plot = breaker_plot(full, next(iter(full.starts), None))
            for early, nominal, late, warm in zip(
                plot.early_s, plot.nominal_s, plot.late_s, plot.warm_s, strict=True
            ):
                for less, more in ((early, nominal), (nominal, late), (warm, nominal)):
                    if not math.isnan(less) and not math.isnan(more):
                        self.assertLessEqual(less, more + 1e-9, number)

    def test_points_and_both_schools(self) -> None:
        full = checked(9)
        plot = breaker_plot(full, full.starts[0])
        self.assertAlmostEqual(plot.points[0].amps, full.starts[0].peak_a)
        self.assertEqual(plot.points[-1].seconds, LONG_S)
        self.assertIn("is over the 50 A rating", plot.peak)
        self.assertIn("holds this start", plot.time_current)


class Slots(unittest.TestCase):
    def test_clock_and_slots(self) -> None:
        self.assertEqual((clock(0), clock(450), clock(1440)), ("00:00", "07:30", "24:00"))
        self.assertEqual(slots_of(15, 46), [1, 2, 3])
        tasks = read_tasks(
            {
                "format": "iron-margin/tasks",
                "version": 1,
                "tasks": [{"id": "a", "load": "roof", "minutes": 50}],
            },
            setup_of(5),
        )
        self.assertEqual(slots_long(tasks.tasks[0]), 4)

    def test_what_runs_anyway(self) -> None:
        setup = setup_of(5)
        data = {
            "format": "iron-margin/tasks",
            "version": 1,
            "tasks": [{"id": "a", "load": "micro", "minutes": 15}],
        }
        planner = Planner(setup, read_tasks(data, setup))
        roof = planner.number["roof"]
        self.assertTrue(
            all(roof in loads for loads in planner.anyway)
        )  # wanted, and no task's: it runs all day
        planner = Planner(
            setup,
            read_tasks(
                data | {"running": [{"load": "roof", "from": "12:00", "to": "13:00"}]}, setup
            ),
        )
        self.assertEqual(
            [n for n, loads in enumerate(planner.anyway) if roof in loads], [48, 49, 50, 51]
        )


if __name__ == "__main__":
    unittest.main()
