"""The bench: the rig in time agrees with the check, and keeps its books."""

from __future__ import annotations

import math
import unittest
from typing import Any

from ironmargin.bench.clock import Bench
from ironmargin.bench.play import run_script
from ironmargin.bench.script import Act, Begin, read_script
from ironmargin.bench.words import ended
from ironmargin.case import prepare
from ironmargin.loads import rooms
from ironmargin.protection.breaker import curve
from ironmargin.setup.changed import leave_off
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import examine
from ironmargin_meter.reel import usual_script
from tests.shared import changed, document, path_of

SOUND = [n for n in range(1, 23) if n != 12]


def setup_of(number: int) -> Setup:
    return load_setup(path_of(number))


def played(setup: Setup, *steps: dict[str, Any], hours: float = 1.0, **more: Any) -> Bench:
    script = {"format": "iron-margin/script", "version": 1, "hours": hours, "steps": list(steps)}
    return run_script(setup, read_script(script | more, setup))


def step(at_s: float, do: str, what: str | None = None, **more: Any) -> dict[str, Any]:
    return {"at_s": at_s, "do": do} | ({"what": what} if what else {}) | more


def kinds(bench: Bench, *of: str) -> list[tuple[str, str]]:
    return [(e.kind, e.where) for e in bench.events if not of or e.kind in of]


class AgreesWithTheCheck(unittest.TestCase):
    def test_every_start_from_a_setups_state_is_the_checks_own(self) -> None:
        """Each motor of each check setup: everything else runs as wanted, then it is started."""
        looked = 0
        for number in SOUND:
            setup = setup_of(number)
            result = examine(setup, quick=True)
            for start in result.starts:
                case = result.case
                demand = case.demands[start.starters[0].demand]
                if start.starters[0].row is None or demand.load.count > 1:
                    continue
                if any(math.isfinite(s.opened_s) for s in (start,)):
                    continue  # what was warm decides when it opens; outcomes are compared below
                bench = Bench(setup, Begin(all="as-wanted"))
                one = bench.state.loads[demand.load.id]
                one.running = one.compressor = False
                one.due_s, one.turned_s = 0.0, None
                if demand.mode is not None:
                    one.running = True
                bench._start((demand.load.id,))
                event = next(
                    e for e in bench.events if e.where == demand.load.id and e.kind != "cycled-on"
                )
                self.assertEqual(
                    event.kind,
                    {"starts": "started", "stalls": "stalled"}.get(start.outcome, "started"),
                    f"{number} {demand.load.id}",
                )
                self.assertEqual(event.amps, start.peak_a, f"{number} {demand.load.id}")
                self.assertEqual(event.volts, start.lowest_v, f"{number} {demand.load.id}")
                looked += 1
        self.assertGreater(looked, 12)

    def test_what_the_check_says_locks_out_locks_out(self) -> None:
        bench = played(
            setup_of(2),
            step(0, "set", on=True),
            step(60, "load", "roof", mode="fan-high"),
            step(90, "load", "roof", mode="high-cool"),
        )
        self.assertIn(("latched", "set"), kinds(bench))


class Books(unittest.TestCase):
    def test_energy_given_is_energy_taken_and_lost(self) -> None:
        """Given by E·I, taken by the loads' own draws, lost by I²R: three sums, one balance."""
        for number in (1, 4, 7, 9, 10, 15, 17, 18, 22):
            bench = played(setup_of(number), hours=3, begin={"all": "as-wanted"})
            state = bench.state
            if state.given_wh > 1.0:
                left = state.given_wh - state.loads_wh - state.lost_wh
                self.assertLess(abs(left), 0.001 * state.given_wh, number)

    def test_breaker_heat_is_the_closed_form(self) -> None:
        setup = changed(
            6,
            lambda d: (
                d.update(wanted=[{"load": "heater"}])
                or d["rig"].update(loads=[heater(2400)], circuits=[])
            ),
        )
        bench = played(
            setup, step(0, "set", on=True), step(10, "load", "heater", on=True), hours=0.2
        )
        amps = bench.panel.now(bench.state).amps[0]
        x = amps / 30.0
        tau_s = curve("UL489", 30.0).tau_s
        expected = x * x * (1.0 - math.exp(-(720.0 - 10.0) / tau_s))
        self.assertAlmostEqual(bench.state.heat["post/0"], expected, delta=1e-3 * expected)

    def test_a_breaker_trips_when_the_closed_form_says_and_cools_when_open(self) -> None:
        setup = changed(
            6,
            lambda d: (
                d.update(wanted=[{"load": "heater"}])
                or d["rig"].update(loads=[heater(5400)], circuits=[])
            ),
        )
        bench = played(setup, step(0, "set", on=True), step(5, "load", "heater", on=True))
        (trip,) = (e for e in bench.events if e.kind == "tripped")
        by = curve("UL489", 30.0, outdoor_c=setup.conditions.outdoor_c)
        self.assertAlmostEqual(trip.at_s, 5.0 + by.trip_s(trip.amps / 30.0), delta=0.05)
        self.assertEqual(ended(bench)["running"], [])
        self.assertLess(bench.state.heat["post/0"], 0.01)

    def test_a_lockout_stays_until_it_is_reset(self) -> None:
        setup = setup_of(2)
        acts = [
            step(0, "set", on=True),
            step(60, "load", "roof", mode="high-cool"),
            step(300, "set", on=False),
            step(310, "set", on=True),
        ]
        bench = played(setup, *acts)
        self.assertTrue(bench.state.locked_out)
        self.assertEqual(ended(bench)["running"], [])
        again = played(setup, *acts, step(400, "load", "roof", on=False), step(420, "reset", "set"))
        self.assertFalse(again.state.locked_out)

    def test_fuel_runs_down_by_the_line_and_ends_it(self) -> None:
        setup = setup_of(18)
        bench = played(setup, hours=1, begin={"all": "as-wanted", "fuel": 0.02})
        self.assertEqual(kinds(bench, "empty", "starved")[0][1], "set")
        self.assertFalse(bench.state.set_on)

    def test_a_battery_runs_down_by_what_it_gives(self) -> None:
        setup = setup_of(11)
        bench = played(setup, hours=2, begin={"all": "as-wanted", "soc": 0.8})
        self.assertNotEqual(bench.state.soc, 0.8)
        self.assertGreaterEqual(bench.state.soc, 0.0)
        self.assertLessEqual(bench.state.soc, 1.0)


def heater(watts: float) -> dict[str, Any]:
    return {"id": "heater", "name": "Heater", "kind": "resistive", "watts": watts}


class CommonPractice(unittest.TestCase):
    """Facts of the trade (common practice, no source), as ranges."""

    def test_a_compressor_switched_back_on_at_once_stalls_or_trips(self) -> None:
        steps = [step(0, "load", "roof", on=False), step(10, "load", "roof", mode="high-cool")]
        bench = played(setup_of(1), *steps, begin={"all": "as-wanted"}, hours=0.1)
        first = next(e for e in bench.events if e.at_s >= 10)
        self.assertIn(first.kind, ("stalled", "latched", "tripped"))
        rested = played(
            setup_of(1),
            step(0, "load", "roof", on=False),
            step(400, "load", "roof", mode="high-cool"),
            begin={"all": "as-wanted"},
            hours=0.2,
        )
        self.assertIn("started", [e.kind for e in rested.events if e.at_s >= 400])

    def test_straight_from_off_to_high_is_harder_than_stepwise(self) -> None:
        """A unit whose compressor follows its fan at once."""
        for watts in range(1500, 2600, 50):

            def small(doc: dict[str, Any], watts: int = watts) -> None:
                doc["supply"] = {
                    "kind": "battery-inverter",
                    "continuous_w": 1800,
                    "surge_w": watts * 2,
                    "surge_s": 3,
                    "battery_wh": 2000,
                }
                doc["rig"]["loads"][0]["compressor_delay_s"] = 0.5

            setup = changed(1, small)
            on = step(0, "set", on=True)
            straight = played(setup, on, step(10, "load", "roof", mode="high-cool"), hours=0.05)
            stepwise = played(
                setup,
                on,
                step(10, "load", "roof", mode="fan-high"),
                step(60, "load", "roof", mode="high-cool"),
                hours=0.05,
            )
            a, b = ("latched" in [e.kind for e in x.events] for x in (straight, stepwise))
            self.assertGreaterEqual(a, b, watts)
            if a and not b:
                return
        self.fail("no small power station tells the two apart")

    def test_near_the_end_of_a_cylinder_a_compressor_start_starves_the_set(self) -> None:
        def cold(doc: dict[str, Any]) -> None:
            doc["conditions"] = {"outdoor_c": 5}
            doc["rig"]["loads"][0].update(duty=0.6)

        setup = changed(18, cold)
        bench = played(setup, hours=24, begin={"all": "as-wanted", "fuel": 0.6})
        self.assertEqual(kinds(bench, "starved", "empty")[0][0], "starved")

    def test_a_full_charger_trips_the_start_that_is_fine_without_it(self) -> None:
        setup = setup_of(14)
        charger = next(x.id for x in setup.rig.loads if x.kind == "charger")
        roof = next(x.id for x in setup.rig.loads if x.kind == "air-conditioner")

        def start(setup: Setup) -> list[str]:
            steps = [step(0, "set", on=True)]
            if any(w.load == charger for w in setup.wanted):
                steps.append(step(5, "load", charger, on=True))
            steps.append(step(60, "load", roof, mode="low-cool"))
            return [e.kind for e in played(setup, *steps, hours=0.05).events]

        with_it, without = start(setup), start(leave_off(setup, charger))
        self.assertGreaterEqual("started" in without[1:], "started" in with_it[1:])

    def test_eco_dips_deeper(self) -> None:
        steps = [step(0, "set", on=True), step(60, "load", "roof", mode="low-cool")]
        plain = played(setup_of(1), *steps, hours=0.05)
        eco = played(setup_of(1), step(1, "eco", on=True), *steps, hours=0.05)
        dips = [
            min((e.volts for e in b.events if e.kind == "started" and e.volts), default=0.0)
            for b in (plain, eco)
        ]
        self.assertLess(dips[1], dips[0])

    def test_a_lost_neutral_is_said_with_both_volts(self) -> None:
        bench = played(
            setup_of(7), step(60, "neutral", on=False), begin={"all": "as-wanted"}, hours=0.1
        )
        (event,) = (e for e in bench.events if e.where == "neutral")
        self.assertIn("L1 sees", event.why)
        self.assertEqual(ended(bench)["running"], [])

    def test_a_guard_waits_before_it_closes_and_opens_on_low_volts(self) -> None:
        def guarded(doc: dict[str, Any]) -> None:
            doc["hookup"].insert(0, {"kind": "guard", "delay_s": 150})

        setup = changed(6, guarded)
        roof = next(x.id for x in setup.rig.loads if x.kind == "air-conditioner")
        bench = played(
            setup,
            step(0, "set", on=True),
            step(1, "load", roof, mode="low-cool"),
            step(900, "volts", figure=100),
            hours=0.5,
        )
        started = next(e for e in bench.events if e.where == roof)
        self.assertGreaterEqual(started.at_s, 150)
        opened = next(e for e in bench.events if e.kind == "guard-opened")
        self.assertAlmostEqual(opened.at_s, 901, delta=2)

    def test_a_day_gets_hot_slowly_and_an_evening_s_post_sags(self) -> None:
        bench = Bench(setup_of(6), Begin(all="as-wanted"))
        bench.do(Act(at_s=0, do="outdoor", figure=45.0, over_s=7200))
        bench.do(Act(at_s=0, do="volts", figure=104.0, over_s=3600))
        bench.advance(1800.0)
        self.assertAlmostEqual(bench.state.outdoor_c, 35 + 0.25 * 10, delta=0.2)
        self.assertAlmostEqual(bench.state.world["volts"], 112.0, delta=0.3)
        bench.advance(7200.0)
        self.assertEqual((bench.state.outdoor_c, bench.state.world["volts"]), (45.0, 104.0))
        self.assertEqual(bench.state.ramps, {})
        amps = [row[1] for row in bench.rows if row[0] > 0]
        self.assertGreater(max(amps[-50:]), max(amps[:50]))

    def test_a_hot_contact_lowers_the_volts(self) -> None:
        cool = played(setup_of(5), hours=0.01, begin={"all": "as-wanted"})
        part = next(n for n, x in enumerate(cool.setup.hookup) if x.kind in ("adapter", "cord"))
        hot = played(
            setup_of(5), step(0, "contact", str(part)), hours=0.01, begin={"all": "as-wanted"}
        )
        self.assertLess(hot.rows[-1][3], cool.rows[-1][3])

    def test_the_room_cycles_by_the_day(self) -> None:
        hot = played(setup_of(1), hours=4, begin={"all": "as-wanted"})
        mild = played(
            setup_of(1), step(0, "outdoor", figure=21), hours=4, begin={"all": "as-wanted"}
        )
        self.assertGreater(hot.state.given_wh, mild.state.given_wh)
        self.assertAlmostEqual(rooms.room_after(30.0, 20.0, rooms.TAU_S), 20 + 10 / math.e)
        at = rooms.crosses_s(30.0, 20.0, 24.0)
        self.assertAlmostEqual(rooms.room_after(30.0, 20.0, at), 24.0)
        self.assertEqual(rooms.crosses_s(30.0, 20.0, 18.0), math.inf)


class RowsOfAStartTests(unittest.TestCase):
    """The series of a start joins what is settled before and after it."""

    def test_a_supply_of_one_conductor_has_no_second(self) -> None:
        setup = read_setup(document(5))  # a 30 A post: both legs hang on one conductor
        bench = run_script(setup, usual_script(setup))
        self.assertTrue(prepare(setup).feed.upstream.tied)
        self.assertGreater(max(row[1] for row in bench.rows), 15.0)
        for row in bench.rows:
            self.assertEqual(row[2], 0.0)
            self.assertLessEqual(row[4], row[1] * 121.0 + 1e-6)  # no more than volts by amps

    def test_what_is_settled_follows_a_start_at_its_end(self) -> None:
        setup = read_setup(document(5))
        bench = run_script(setup, usual_script(setup))
        ends = [e.at_s for e in bench.events if e.kind == "started" and e.where != "set"]
        self.assertTrue(ends)
        for end in ends:
            after = [row for row in bench.rows if end - 1e-6 <= row[0] < end + 0.2]
            self.assertIn(len(after), (1, 2))  # what is settled, and no more of the start
