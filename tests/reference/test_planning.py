"""Planning against general-purpose programs: a knapsack by OR-Tools, scipy's optimiser over orders,
closed-form energy of a day.
"""

from __future__ import annotations

import random
import unittest
from typing import Any

import numpy as np
from ortools.sat.python import cp_model
from scipy.optimize import LinearConstraint, milp

from ironmargin.planning.day import plan_day
from ironmargin.planning.sets import maximal_sets
from ironmargin.planning.tasks import read_tasks
from ironmargin.planning.together import Together
from ironmargin.setup.reading import read_setup


def stiff(amps: list[float], limit_a: float) -> dict[str, Any]:
    """A rig of plain resistances behind an outlet on a post without impedance, meant for less
    than three hours: a pure knapsack of the outlet's amps.
    """
    loads = [
        {"id": f"l{n}", "name": f"L{n}", "kind": "resistive", "amps": a} for n, a in enumerate(amps)
    ]
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "knapsack",
        "supply": {"kind": "shore", "breaker_a": limit_a, "source_ohm": 0},
        "hookup": [{"kind": "outlet", "rating_a": limit_a}],
        "conditions": {"target_hours": 1},
        "rig": {"name": "r", "service": "120", "main_a": limit_a, "loads": loads},
        "wanted": [{"load": "l0"}],
    }


class Knapsacks(unittest.TestCase):
    def test_the_fullest_set_is_the_knapsacks(self) -> None:
        """The set that draws most is the optimum of the 0-1 knapsack, by OR-Tools and by scipy's
        branch and bound (HiGHS).
        """
        for seed in range(12):
            draw = random.Random(seed)
            amps = [draw.randrange(10, 120) / 10 for _ in range(12)]
            sets, proven = maximal_sets(Together.of(read_setup(stiff(amps, 30.0))))
            self.assertTrue(proven)
            fullest = max(sum(amps[int(i[1:])] for i in s.loads) for s in sets)
            model = cp_model.CpModel()
            on = [model.new_bool_var(str(n)) for n in range(len(amps))]
            whole = [round(a * 10) for a in amps]
            model.add(sum(w * x for w, x in zip(whole, on, strict=True)) <= 300)
            model.maximize(sum(w * x for w, x in zip(whole, on, strict=True)))
            solver = cp_model.CpSolver()
            self.assertEqual(solver.solve(model), cp_model.OPTIMAL)
            self.assertAlmostEqual(fullest, solver.objective_value / 10, places=6)
            found = milp(
                -np.array(amps),
                constraints=LinearConstraint(np.array([amps]), -np.inf, 30.0),
                integrality=np.ones(len(amps)),
                bounds=(0, 1),
            )
            self.assertAlmostEqual(fullest, -found.fun, places=6)

    def test_the_set_with_most_loads(self) -> None:
        """Filling with the smallest first gives the most loads there may be: a textbook greedy that
        is optimal here.
        """
        for seed in range(12):
            draw = random.Random(100 + seed)
            amps = [draw.randrange(10, 120) / 10 for _ in range(11)]
            sets, _ = maximal_sets(Together.of(read_setup(stiff(amps, 30.0))))
            room, maximum = 30.0, 0
            for a in sorted(amps):
                if a <= room + 1e-9:
                    room, maximum = room - a, maximum + 1
            self.assertEqual(max(len(s.loads) for s in sets), maximum)


class Days(unittest.TestCase):
    def test_makespan_by_hand(self) -> None:
        """Four one-hour tasks of which two fit at once need two hours of generator, five need three
        (a bin packing by hand).
        """
        for count, hours in ((2, 1.0), (4, 2.0), (5, 3.0)):
            doc = stiff([13.0] * 5, 30.0) | {
                "supply": {"kind": "generator", "continuous_w": 3600, "starting_w": 4500}
            }
            setup = read_setup(doc)
            tasks = {
                "format": "iron-margin/tasks",
                "version": 1,
                "running": [],
                "tasks": [{"id": f"t{n}", "load": f"l{n}", "minutes": 60} for n in range(count)],
            }
            day = plan_day(setup, read_tasks(tasks, setup))
            self.assertEqual((len(day.placed), day.generator_h), (count, hours))
            self.assertIn(day.status, ("optimal", "feasible"))

    def test_energy_of_a_battery_day(self) -> None:
        """1,000 W for two hours through an inverter of 0.8 takes 2,500 Wh of 5,000 (closed
        form).
        """
        doc = stiff([1000 / 120], 30.0) | {
            "supply": {
                "kind": "battery-inverter",
                "continuous_w": 2000,
                "surge_w": 4000,
                "battery_wh": 5000,
                "efficiency": 0.8,
                "usable_fraction": 1.0,
            }
        }
        setup = read_setup(doc)
        tasks = {
            "format": "iron-margin/tasks",
            "version": 1,
            "running": [],
            "tasks": [{"id": "t", "load": "l0", "minutes": 120}],
        }
        day = plan_day(setup, read_tasks(tasks, setup))
        self.assertAlmostEqual(day.slots[-1].soc, 0.5, places=6)
        too_long = {**tasks, "tasks": [{"id": "t", "load": "l0", "minutes": 300}]}
        self.assertEqual(len(plan_day(setup, read_tasks(too_long, setup)).unplaced), 1)

    def test_fuel_of_a_day(self) -> None:
        """A Willans line by hand: 0.035 gal/h per rated kW and 0.10 gal/kWh (common practice) of
        3.7854 l each.
        """
        doc = stiff([10.0], 30.0) | {
            "supply": {
                "kind": "generator",
                "continuous_w": 3600,
                "starting_w": 4500,
                "tank_l": 0.80,
            }
        }
        setup = read_setup(doc)
        litres_per_h = (0.035 * 3.6 + 0.10 * 1.2) * 3.7854
        for minutes in (30, 45, 60, 75, 120):
            tasks = {
                "format": "iron-margin/tasks",
                "version": 1,
                "running": [],
                "tasks": [{"id": "t", "load": "l0", "minutes": minutes}],
            }
            day = plan_day(setup, read_tasks(tasks, setup))
            self.assertEqual(bool(day.placed), litres_per_h * minutes / 60 <= 0.80, minutes)


if __name__ == "__main__":
    unittest.main()
