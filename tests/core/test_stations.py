"""Power stations and what feeds them: charged while they run, alarms, modes that turn off; and an
inverter/charger whose meter reads less than its limit.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any, cast

import numpy as np

from ironmargin.bench.state import State
from ironmargin.bench.stores import from_input_w
from ironmargin.case import prepare
from ironmargin.enduring.battery import Flows, flows_of, min_input_w, refill_hours
from ironmargin.enduring.endurance import Lasting, lasting
from ironmargin.planning.answer import check
from ironmargin.planning.changes.of_rig import running_the_set
from ironmargin.planning.day import plan_day
from ironmargin.planning.tasks import read_tasks
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.supplies.source import source_of
from ironmargin.verdict.lasting import lasting_words
from tests.kinds import question

STATION = {
    "kind": "battery-inverter", "type": "power-station", "continuous_w": 1800, "surge_w": 2700,
    "battery_wh": 2000, "usable_fraction": 1.0, "efficiency": 0.8, "idle_w": 20,
}  # fmt: skip
FRIDGE = {"id": "fridge", "name": "Fridge", "kind": "electronic", "watts": 60, "always_on": True}
KETTLE = {"id": "kettle", "name": "Kettle", "kind": "resistive", "watts": 900}


def on_station(hours: float = 5.0, **station: Any) -> Setup:
    document = question("generator")
    document["supply"] = STATION | station
    document["conditions"]["target_hours"] = hours
    document["rig"]["loads"] = [KETTLE, FRIDGE]
    document["wanted"] = [{"load": "kettle"}, {"load": "fridge"}]
    return read_setup(document)


def only_fridge(**station: Any) -> Setup:
    document = question("generator")
    document["supply"] = STATION | station
    document["rig"]["loads"] = [KETTLE, FRIDGE]
    document["wanted"] = [{"load": "fridge"}]
    return read_setup(document)


def hours_of(setup: Setup) -> float:
    found = lasting(prepare(setup)).endurance.battery_h
    assert found is not None
    return found


class ChargedWhileItRuns(unittest.TestCase):
    def test_hours_by_hand(self) -> None:
        """60 W through an inverter of 80 % and 20 W of its own take 95 W of the battery: 2,000 Wh
        last 21 h. 45 W of solar leave 50 W: 40 h.
        """
        self.assertAlmostEqual(hours_of(only_fridge()), 2000 / 95, delta=0.3)
        self.assertAlmostEqual(hours_of(only_fridge(input_w=45)), 2000 / 50, delta=0.6)

    def test_what_is_left_over_charges_it_straight(self) -> None:
        """195 W of solar against 95 W: 100 W go into the battery, none of it through the inverter:
        from half full 1,000 Wh take ten hours, less what the last tenths take slower.
        """
        found = lasting(prepare(only_fridge(input_w=195, start_soc=0.5))).endurance
        self.assertIsNone(found.battery_h)
        series = lasting(prepare(only_fridge(input_w=195, start_soc=0.5))).battery
        assert series is not None
        gained_w = (series.soc[1] - series.soc[0]) * 2000 * 3600 / series.step_s
        self.assertAlmostEqual(gained_w, 100.0, places=6)
        self.assertLess(series.imbalance(), 1e-3)

    def test_it_is_no_limit_somebody_could_set(self) -> None:
        found = lasting(prepare(on_station(input_w=300))).endurance
        self.assertIsNone(found.input_a)
        self.assertIsNone(found.min_input_a)

    def test_the_bench_draws_the_same(self) -> None:
        setup = only_fridge(input_w=45)
        case = prepare(setup)
        _, battery_w = from_input_w(setup, case, cast(State, _Charged(0.5)), 60.0)
        self.assertAlmostEqual(battery_w, 50.0, delta=1e-6)


class SunBesideAnInput(unittest.TestCase):
    """An inverter/charger whose battery the sun charges, beside a post or a generator."""

    INVERTER = BatteryInverter(
        continuous_w=3000, surge_w=6000, battery_wh=5000, efficiency=0.8, input_w=300
    )

    def flows(self, requested_w: float, limit_w: float, room_w: float = 2500.0) -> Flows:
        return flows_of(self.INVERTER, requested_w, limit_w, 0.9, room_w)

    def test_who_gives_what_by_hand(self) -> None:
        for requested, limit, room, by_hand in (
            # 400 W beyond the input take 500 W of the battery's side: 300 of them by the sun.
            (1400.0, 1000.0, 2500.0, Flows(1000.0, 300.0, 200.0)),
            # 80 W beyond it take 100: 200 W of the sun are left and charge.
            (1080.0, 1000.0, 2500.0, Flows(1000.0, 300.0, -200.0)),
            # 500 W of the input are left: 450 arrive, and the sun.
            (500.0, 1000.0, 2500.0, Flows(1000.0, 300.0, -750.0)),
            # A full battery takes 350 W: the sun's 300, and of the input what gives 50.
            (500.0, 1000.0, 350.0, Flows(500.0 + 50.0 / 0.9, 300.0, -350.0)),
            # It takes 100 W: less sun is used, and nothing beside the load of the input.
            (500.0, 1000.0, 100.0, Flows(500.0, 100.0, -100.0)),
            # And a full one lets the sun carry what is beyond the input, no more.
            (1080.0, 1000.0, 0.0, Flows(1000.0, 100.0, 0.0)),
        ):
            found = self.flows(requested, limit, room)
            for name in ("input_w", "charge_w", "battery_w"):
                self.assertAlmostEqual(getattr(found, name), getattr(by_hand, name), msg=name)

    def test_where_the_sun_is_first_by_hand(self) -> None:
        first = replace(self.INVERTER, sun_first=True)
        for requested, limit, room, by_hand in (
            # 300 W of the sun carry 240; the input gives its 1,000, the battery 160 / 0.8.
            (1400.0, 1000.0, 2500.0, Flows(1000.0, 300.0, 200.0)),
            # A full battery: 260 W are left for the input, which it would else have to give 500.
            (500.0, 1000.0, 0.0, Flows(260.0, 300.0, 0.0)),
            # One that takes 90 W has them of the input, whose 100 arrive as 90.
            (500.0, 1000.0, 90.0, Flows(360.0, 300.0, -90.0)),
            # 160 W take 200 of the sun; 100 are left and charge, and 810 of the input's 900.
            (160.0, 900.0, 2500.0, Flows(900.0, 300.0, -910.0)),
            # And of these no more than the battery takes.
            (160.0, 900.0, 60.0, Flows(0.0, 260.0, -60.0)),
        ):
            found = flows_of(first, requested, limit, 0.9, room)
            for name in ("input_w", "charge_w", "battery_w"):
                self.assertAlmostEqual(getattr(found, name), getattr(by_hand, name), msg=name)

    def test_a_generator_burns_less_where_the_sun_is_first(self) -> None:
        def hours(first: bool) -> Lasting:
            document = question("assist on a generator")
            more = {"input_w": 900, "sun_first": first}
            document["supply"]["inverter"] = document["supply"]["inverter"] | more
            return lasting(prepare(read_setup(document)))

        before, after = hours(False), hours(True)
        assert before.battery is not None
        assert after.battery is not None
        self.assertLess(after.battery.imbalance(), 1e-3)
        self.assertLess(after.battery.input_w.sum(), 0.95 * before.battery.input_w.sum())
        assert before.endurance.fuel_h is not None
        assert after.endurance.fuel_h is not None
        self.assertGreater(after.endurance.fuel_h, before.endurance.fuel_h)

    def setup_with(self, **more: Any) -> Setup:
        document = question("assist")
        inverter = document["supply"]["inverter"] | more
        document["supply"] = document["supply"] | {"inverter": inverter}
        return read_setup(document)

    def test_energy_is_kept_and_the_charge_is_higher(self) -> None:
        sunny, dark = (lasting(prepare(self.setup_with(input_w=w))) for w in (250, 0))
        assert sunny.battery is not None
        assert dark.battery is not None
        self.assertLess(sunny.battery.imbalance(), 1e-3)
        self.assertGreater(sunny.battery.charge_w.sum(), 0.0)
        self.assertEqual(dark.battery.charge_w.sum(), 0.0)
        self.assertGreaterEqual(sunny.battery.soc.min(), dark.battery.soc.min())
        self.assertGreater(sunny.battery.soc.sum(), dark.battery.soc.sum())

    def test_it_is_full_again_sooner_and_the_limit_may_be_lower(self) -> None:
        inverter = replace(self.INVERTER, start_soc=0.5)
        hours = [
            refill_hours(replace(inverter, input_w=w), 0.5, 0.75, 500.0, 0.9, 100.0)
            for w in (140.0, 0.0)
        ]
        # 1,250 Wh by 400 · 0.9 W, and by 140 W more.
        self.assertEqual([round(h or 0.0, 2) for h in hours], [2.5, 3.47])
        load = np.full(600, 900.0)
        minimum = [
            min_input_w(replace(inverter, input_w=w), load, 60.0, 0.9, 1500.0) for w in (300.0, 0.0)
        ]
        assert minimum[0] is not None
        assert minimum[1] is not None
        # The sun's 300 W are 240 W at the output.
        self.assertAlmostEqual(minimum[1] - minimum[0], 240.0, delta=5.0)

    def test_a_day_s_plan_counts_it(self) -> None:
        """An hour of the kettle takes 1,020 Wh of a battery that gives 900: it needs the sun."""
        self.assertEqual(self.placed_with(0.0), ([], []))
        names, charge = self.placed_with(400.0)
        self.assertEqual(names, ["Kettle"])
        self.assertGreater(min(charge), 0.1 - 1e-6)

    def placed_with(self, input_w: float) -> tuple[list[str], list[float]]:
        document = question("battery-inverter")
        document["supply"] = document["supply"] | {"battery_wh": 1000, "input_w": input_w}
        document |= {"wanted": [{"load": "kettle"}]}
        setup = read_setup(document)
        task = {"id": "t", "name": "Kettle", "load": "kettle", "minutes": 60}
        data = {"format": "iron-margin/tasks", "version": 1, "tasks": [task]}
        day = plan_day(setup, read_tasks(data, setup))
        names = [one.task.name for one in day.placed]
        return names, [slot.soc for slot in day.slots if slot.soc is not None] if names else []


class OfTwoLegs(unittest.TestCase):
    """An inverter/charger of 120/240 V takes its limit of each leg."""

    def setup_with(self, limit_a: float = 10.0, **more: Any) -> Setup:
        document = question("assist")
        inverter = document["supply"]["inverter"] | {"output": "120/240", "voltage_v": 240}
        inverter |= {"continuous_w": 6000, "surge_w": 9000, "idle_w": 0}
        set_7000 = {"kind": "generator", "continuous_w": 5500, "starting_w": 7000}
        set_7000 |= {"output": "120/240", "voltage_v": 240, "noise": {"dba": 60, "at_m": 7}}
        document["supply"] = {
            "kind": "assist", "input": set_7000, "input_limit_a": limit_a, "inverter": inverter,
        } | more  # fmt: skip
        heater = {"id": "kettle", "name": "Heater", "kind": "resistive", "watts": 3000}
        document["rig"] = {"name": "House", "service": "120/240", "main_a": 50}
        document["rig"]["loads"] = [heater | {"voltage_v": 240}]
        document |= {"wanted": [{"load": "kettle"}], "hookup": []}
        return read_setup(document)

    def test_watts_of_both_legs_feed_the_load(self) -> None:
        """10 A of two legs of 120 V are 2,400 W: of 3,000 W asked 600 are the battery's."""
        setup = self.setup_with()
        case = prepare(setup)
        volts = case.source.leg_v * 2
        series = lasting(case).battery
        assert series is not None
        self.assertAlmostEqual(float(series.input_w.max()), 10.0 * volts, delta=1.0)
        efficiency = setup.supply.battery.efficiency if setup.supply.battery else 0.0
        beyond = (float(series.load_w[0]) - 10.0 * volts) / efficiency
        self.assertAlmostEqual(float(series.battery_w[0]), beyond, delta=1.0)
        state = cast(State, _Charged(0.5))
        taken_w, battery_w = from_input_w(setup, case, state, float(series.load_w[0]))
        self.assertAlmostEqual(taken_w, 10.0 * volts, delta=1.0)
        self.assertAlmostEqual(battery_w, beyond, delta=1.0)
        self.assertAlmostEqual(lasting(case).endurance.input_a or 0.0, 10.0, delta=0.01)

    def test_what_a_meter_read_is_of_both_legs(self) -> None:
        self.assertAlmostEqual(self.setup_with(input_read_w=1200.0).supply.input_a, 5.0)

    def test_the_input_is_called_what_it_is(self) -> None:
        words = lasting_words(lasting(prepare(self.setup_with())), self.setup_with())
        self.assertIn("generator: never more than 10.0 A", words)

    def test_a_limit_too_near_to_what_the_generator_sustains_is_set_lower(self) -> None:
        """5,500 W are 22.9 A a leg; with 15 % of room 19 A."""
        setup = self.setup_with(21.0)
        changes = list(running_the_set(setup, prepare(setup)))
        change = next(x for x in changes if x.kind == "input-limit")
        self.assertEqual(change.what, "Set the input limit to 19 A")
        changed = change.apply(setup)
        assert changed is not None
        rows = check(changed).sustain
        row = next(x for x in rows if x.where.startswith("input"))
        self.assertGreaterEqual(row.margin, setup.rules.thin_below)
        self.assertNotIn(
            "input-limit", [x.kind for x in running_the_set(changed, prepare(changed))]
        )


class _Charged:
    """A run's state as far as its battery goes."""

    def __init__(self, soc: float) -> None:
        self.soc = soc


class AlarmsAndModes(unittest.TestCase):
    def said(self, setup: Setup) -> str:
        return " ".join(check(setup).cautions)

    def test_it_beeps_from_its_alarm_on(self) -> None:
        self.assertIn(
            "alarm from 950 W: together these draw 960 W", self.said(on_station(alarm_w=950))
        )
        self.assertNotIn("alarm from", self.said(on_station(alarm_w=970)))
        self.assertNotIn("alarm from", self.said(on_station()))

    def test_it_sleeps_under_a_small_load(self) -> None:
        words = self.said(on_station(off_below_w=80))
        self.assertIn("turns itself off below 80 W, and only 60 W stay on", words)
        self.assertNotIn("turns itself off", self.said(on_station(off_below_w=50)))

    def test_nothing_that_stays_on(self) -> None:
        document = question("generator")
        document["supply"] = STATION | {"off_below_w": 30}
        self.assertIn("nothing stays on", self.said(read_setup(document)))


class ReadAtTheInput(unittest.TestCase):
    """A limit of 4 A at 230 V that reads 650 W takes 2.8 A."""

    def assisted(self, **more: Any) -> Setup:
        document = question("assist")
        document["supply"] = document["supply"] | {"input_limit_a": 8} | more
        return read_setup(document)

    def test_what_is_read_is_what_is_taken(self) -> None:
        by_limit, read = self.assisted(), self.assisted(input_read_w=600)
        self.assertAlmostEqual(by_limit.supply.input_a, 8.0)
        self.assertAlmostEqual(read.supply.input_a, 5.0)
        source = source_of(read.supply, read.conditions)
        assert source.input is not None
        self.assertAlmostEqual(source.input.limit_a, 5.0)
        self.assertLess(source.limit_a, source_of(by_limit.supply, by_limit.conditions).limit_a)

    def test_the_battery_gives_the_rest(self) -> None:
        lasts = [
            lasting(prepare(s)).endurance
            for s in (self.assisted(), self.assisted(input_read_w=600))
        ]
        self.assertLess(lasts[1].soc_after, lasts[0].soc_after)

    def test_another_limit_has_not_been_read(self) -> None:
        document = question("assist")
        document["supply"] = document["supply"] | {
            "input": {"kind": "shore", "breaker_a": 15, "also_on_circuit_a": 6},
            "input_limit_a": 8, "input_read_w": 600,
        }  # fmt: skip
        setup = read_setup(document)
        change = next(c for c in running_the_set(setup, prepare(setup)) if c.kind == "input-limit")
        made = change.apply(setup)
        assert made is not None
        self.assertAlmostEqual(made.supply.input_a, 6.0)


class Stays(unittest.TestCase):
    def test_solar_helps_no_start(self) -> None:
        with_solar, without = (on_station(input_w=w) for w in (300, 0))
        sources = [source_of(s.supply, s.conditions) for s in (with_solar, without)]
        self.assertEqual(sources[0], sources[1])
