"""Figures from which on something is said, or is taken to be the same: halved or made half as large
again, somebody would be told another thing.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from ironmargin.case import prepare
from ironmargin.path.trace import conductor_ohm_per_m, cord_ohm_per_m
from ironmargin.planning.answer import check
from ironmargin.setup.hookup import Cord
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.starting import chance
from ironmargin.starting.known import known_table
from ironmargin.starting.plan import Plan
from ironmargin.starting.samples import samples_of
from ironmargin.starting.scenario import StartScenario
from ironmargin.tables import celsius, fahrenheit
from ironmargin.verdict.check import examine
from ironmargin.verdict.sentences import lost_on_the_way, running_list
from ironmargin.verdict.tonight import tonight
from tests.shared import changed


def on_a_post(*concurrent: dict[str, Any], legs: str = "single", **unit: Any) -> Setup:
    """A roof unit and what runs beside it."""
    roof = {"id": "roof", "name": "Roof unit", "kind": "air-conditioner", "running_a": 11.0}
    loads = [roof | {"lra_a": 55.0, "from": "typical"} | unit, *concurrent]
    service = "120" if legs == "single" else "120/240"
    return read_setup(
        {
            "format": "iron-margin/setup",
            "version": 1,
            "name": "x",
            "supply": {"kind": "shore", "breaker_a": 30, "legs": legs, "source_ohm": 0.2},
            "hookup": [{"kind": "cord", "awg": 10, "length_m": 10, "name": "the cord"}],
            "rig": {"name": "r", "service": service, "main_a": 30, "loads": loads},
            "wanted": [{"load": x["id"]} for x in loads],
            "rules": {"trials": 0},
        }
    )


class Copper(unittest.TestCase):
    def test_a_metric_cord_is_as_good_copper_as_one_by_gauge(self) -> None:
        """Areas of AWG sizes: NEC chapter 9 table 8. IEC 60228 (from memory): 12.1 ohm a kilometer
        at 20 °C for 1.5 mm²; at the 65 °C of a loaded cord by copper's 0.393 % a kelvin.
        """
        for awg, area_mm2 in ((14, 2.08), (10, 5.26)):
            metric = cord_ohm_per_m(Cord(mm2=area_mm2, length_m=1))
            self.assertAlmostEqual(metric / conductor_ohm_per_m(awg), 1.0, delta=0.08)
        warm = 12.1e-3 * (1.0 + 0.00393 * 45.0)
        self.assertAlmostEqual(cord_ohm_per_m(Cord(mm2=1.5, length_m=1)) / warm, 1.0, delta=0.03)


class Degrees(unittest.TestCase):
    def test_water_freezes_and_boils_and_forty_below_is_forty_below(self) -> None:
        for degrees, said in ((0.0, 32.0), (100.0, 212.0), (-40.0, -40.0)):
            self.assertAlmostEqual(fahrenheit(degrees), said)
            self.assertAlmostEqual(celsius(said), degrees)


class WorthSaying(unittest.TestCase):
    def test_loads_beside_a_start_are_named_from_three_amps_on(self) -> None:
        small = {"id": "s", "name": "Lamp", "kind": "resistive", "watts": 2.4 * 120}
        large = {"id": "l", "name": "Kettle", "kind": "resistive", "watts": 3.6 * 120}
        checked = examine(on_a_post(small, large))
        self.assertEqual(running_list(checked, checked.starts[0], ()), "Kettle")

    def test_a_part_of_the_path_is_named_from_a_volt_on(self) -> None:
        checked = examine(on_a_post())
        (cord,) = checked.result.path
        stiff = replace(checked.case.source, hot_ohm=0.0, neutral_ohm=0.0)
        checked = replace(checked, case=replace(checked.case, source=stiff))
        for volts, words in ((0.8, ""), (1.2, " the cord alone loses 1 V.")):
            path = (replace(cord, volts_drop=volts),)
            of_it = replace(checked, result=replace(checked.result, path=path))
            self.assertEqual(lost_on_the_way(of_it), words)

    def test_failed_starts_are_spoken_of_from_one_in_twenty_nights_on(self) -> None:
        setup = on_a_post()
        checked = examine(replace(setup, rules=replace(setup.rules, trials=300)))
        night = checked.starts[0].night
        assert night is not None
        for fails, said in ((0.04, False), (0.06, True)):
            start = replace(checked.starts[0], night=replace(night, fails=fails))
            self.assertEqual(" starts about " in tonight(replace(checked, starts=(start,))), said)

    def test_a_figure_to_measure_is_named_where_it_narrows_by_three_in_a_hundred(self) -> None:
        case = prepare(on_a_post())
        scenario = StartScenario(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
        samples = samples_of(scenario, 64, 1)
        lra = [name.kind for name in samples.names].index("lra")
        slopes = np.where(samples.rig, 0.0, 0.1)
        narrowed = []
        for slope in np.linspace(0.0, 0.2, 401):
            slopes[lra] = slope
            found = chance._two_layers(scenario, samples, 0.98, slopes, 0.5, (0.4, 0.6))
            if found.known_low is not None:
                rig, known = found.rig_high - found.rig_low, found.known_high - found.known_low
                narrowed.append(rig - known)
        self.assertAlmostEqual(narrowed[0], 0.03, delta=0.004)


class Counted(unittest.TestCase):
    def test_legs_a_third_of_a_turn_apart_are_in_series_without_their_neutral(self) -> None:
        for legs, in_series in (("split", True), ("network-208", True), ("same-leg", False)):
            found = check(on_a_post(legs=legs)).legs["L1"].lost_neutral_v
            self.assertEqual(found is not None, in_series, legs)

    def test_what_is_not_allowed_at_all_fails_by_its_whole(self) -> None:
        def bare_ground(doc: dict[str, Any]) -> None:
            doc["supply"] |= {"tester": "open-ground"}

        self.assertEqual(check(changed(5, bare_ground)).iron_margin, -1.0)

    def test_a_figure_is_the_one_a_log_told_of_within_a_fifth_of_a_per_cent(self) -> None:
        """Files keep four digits: 60.09 A may be what was written as 60 A; 60.15 is another."""
        rows = [[0.01 * n] for n in range(64)]
        for lra_a, known in ((60.09, True), (60.15, False)):
            setup = on_a_post(lra_a=lra_a)
            learned = {"unknowns": [{"what": "lra", "load": "roof", "value": 60.0}], "rows": rows}
            rig = replace(setup.rig, x={"learned": learned})
            self.assertEqual(("lra", "roof") in known_table(replace(setup, rig=rig)), known)


if __name__ == "__main__":
    unittest.main()
