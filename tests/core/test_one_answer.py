"""One question, one answer: check, bench, order, Now and steps over random setups and over every
check setup.
"""

from __future__ import annotations

import random
import unittest
from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np

from ironmargin.bench.play import run_script
from ironmargin.bench.script import read_script
from ironmargin.errors import SetupError
from ironmargin.limits.asking import settled_margin
from ironmargin.planning.order import fail_alone, sequence_of
from ironmargin.planning.present import present
from ironmargin.planning.together import Together
from ironmargin.practice.steps import steps_of
from ironmargin.setup.changed import leave_off
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import load_setup, read_setup
from ironmargin.verdict.check import Checked, examine
from tests.shared import path_of
from tests.walking import walk

GONE_WRONG = ("tripped", "latched", "guard-opened", "melted", "over-limit", "stalled")
SETUPS = tuple(n for n in range(1, 23) if n != 12)
RANDOM = 100


def random_document(seed: int) -> dict[str, Any]:
    """A small question of any kind; what breaks a rule is left to the reader."""
    draw = random.Random(seed)
    volts = draw.choice((120, 120, 120, 230))
    split = volts == 120 and draw.random() < 0.3
    service = "230" if volts == 230 else "120/240" if split else "120"
    post = {
        "kind": "shore",
        "breaker_a": draw.choice((6, 10, 15, 20, 30, 50)),
        "voltage_v": volts + draw.choice((-6, 0, 2)),
        "source_ohm": draw.choice((0.05, 0.15, 0.4)),
        "also_on_circuit_a": draw.choice((0, 0, 0, 5)),
        "breaker_trips": draw.choice(("on-curve", "on-curve", "early", "late")),
    } | ({"legs": draw.choice(("split", "same-leg", "network-208"))} if split else {})
    watts = draw.choice((1000, 1800, 2500, 3500, 5500))
    output = {"output": "230", "voltage_v": 230} if volts == 230 else {}
    output = {"output": "120/240", "voltage_v": 240} if split else output
    engine = {"kind": "generator", "continuous_w": watts, "starting_w": watts * 1.25} | output
    engine |= {"character": draw.choice(("folds-back", "cuts-off"))} if draw.random() < 0.3 else {}
    inverter = {"kind": "battery-inverter", "continuous_w": watts, "surge_w": 2 * watts} | output
    supplies = [post, post, engine, engine, inverter]
    if not split:
        supplies.append({"kind": "parallel", "units": [engine, engine]})
        outlet = {k: v for k, v in post.items() if k != "legs"}
        assist = {"kind": "assist", "input": outlet, "input_limit_a": 4, "inverter": inverter}
        supplies.append(assist)
    parts = [
        {"kind": "cord", "awg": draw.choice((14, 12, 10, 6)), "length_m": draw.choice((5, 15, 30))},
        {"kind": "guard", "low_v": 0.86 * volts, "high_v": 1.15 * volts, "overload_a": 32},
        {"kind": "outlet", "rating_a": draw.choice((15, 20, 30)), "type": "5-15"},
        {"kind": "adapter", "rating_a": 30, "condition": draw.choice(("good", "worn", "hot"))},
    ]
    hookup = [p for p in parts if draw.random() < 0.3]
    legs = ("L1", "L2") if split else ("L1",)
    loads: list[dict[str, Any]] = []
    for number in range(draw.randint(1, 4)):
        common = {"id": f"l{number}", "name": f"Load {number}", "voltage_v": volts}
        common |= {"leg": draw.choice(legs), "priority": draw.choice(("must", "want", "wait"))}
        scale = 120 / volts
        kind = draw.choice(("heater", "unit", "unit", "tv", "charger", "pump"))
        if kind == "heater":
            loads.append(common | {"kind": "resistive", "watts": draw.choice((300, 900, 1500))})
        elif kind == "unit":
            running = round(draw.choice((6, 9.5, 12.5)) * scale, 1)
            unit = common | {"kind": "air-conditioner", "running_a": running}
            unit |= {"lra_a": 5 * running, "fan_high_a": round(0.2 * running, 1)}
            loads.append(unit | {"start": draw.choice(("start-capacitor", "soft-start"))})
        elif kind == "pump":
            pump = common | {"kind": "motor", "running_a": 4 * scale, "lra_a": 24 * scale}
            loads.append(pump | {"duty": draw.choice((0.2, 0.5))})
        else:
            factor = draw.choice((0.65, 0.98))
            kind = "charger" if kind == "charger" else "electronic"
            loads.append(common | {"kind": kind, "watts": 400, "power_factor": factor})
            loads[-1]["always_on"] = draw.random() < 0.5
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": f"random {seed}",
        "conditions": {
            "outdoor_c": draw.choice((15, 27, 35, 43)),
            "target_hours": draw.choice((1, 2, 5)),
        },
        "supply": draw.choice(supplies),
        "hookup": hookup,
        "rig": {"name": "rig", "service": service, "main_a": 50, "loads": loads},
        "wanted": [{"load": x["id"]} for x in loads if draw.random() < 0.8],
        "rules": {"trials": 0},
    }


@cache
def setups() -> tuple[tuple[str, Setup, Checked], ...]:
    """Every check setup and the random ones that keep every rule, each with its check."""
    found = [(str(n), load_setup(path_of(n))) for n in SETUPS]
    for seed in range(RANDOM):
        try:
            found.append((f"random {seed}", read_setup(random_document(seed))))
        except SetupError:
            continue
    return tuple((name, setup, examine(setup, quick=True)) for name, setup in found)


def played(setup: Setup, hours: float) -> list[str]:
    """What goes wrong on the bench with everything wanted on for some hours."""
    script = {"format": "iron-margin/script", "version": 1, "hours": hours}
    script |= {"begin": {"all": "as-wanted"}}
    bench = run_script(setup, read_script(script, setup))
    return [f"{e.kind} {e.where}: {e.why}" for e in bench.events if e.kind in GONE_WRONG]


class CheckAndBench(unittest.TestCase):
    @walk
    def test_what_the_check_allows_the_bench_runs_and_what_it_opens_the_check_reports(self) -> None:
        quiet = 0
        for name, setup, checked in setups():
            hours = min(setup.conditions.target_hours or 2.0, 2.0)
            wrong = played(setup, hours)
            if wrong:
                self.assertNotEqual(checked.result.verdict, "holds", f"{name}: {wrong[:2]}")
            if checked.result.verdict == "holds":
                self.assertEqual(wrong, [], name)
                quiet += 1
        self.assertGreater(quiet, 15)


class CheckAndOrder(unittest.TestCase):
    def test_the_order_with_everything_on_is_the_check(self) -> None:
        for name, setup, checked in setups():
            if checked.case.unserved or not checked.result.solver.converged:
                continue
            together = Together.of(setup)
            mask = together.mask_of({w.load for w in setup.wanted})
            order = float(together.settled_margins(mask[None])[0])
            check = float(np.min(settled_margin(checked.now)))
            self.assertAlmostEqual(order, check, delta=0.002, msg=name)

    def test_what_the_check_fails_for_settled_limits_has_no_order(self) -> None:
        for name, setup, checked in setups():
            if float(np.min(settled_margin(checked.now))) < -0.01:
                sequence = sequence_of(Together.of(setup))
                self.assertFalse(sequence.feasible, name)
                self.assertTrue(sequence.reason, name)


class CheckAndNow(unittest.TestCase):
    @walk
    def test_never_is_said_only_of_a_load_that_fails_alone(self) -> None:
        said = 0
        for name, setup, _ in setups():
            nothing = frozenset(x.id for x in setup.rig.loads if x.always_on)
            for chip in present(setup, {}, nothing).chips:
                if chip.say != "never":
                    continue
                alone = setup
                for load in setup.rig.loads:
                    if load.id != chip.load:
                        alone = leave_off(alone, load.id)
                wanted = tuple(w for w in setup.wanted if w.load == chip.load)
                if not wanted:
                    continue
                found = examine(replace(alone, wanted=wanted), quick=True)
                self.assertEqual(found.result.verdict, "fails", f"{name}: {chip.load}")
                said += 1
        self.assertGreater(said, 10)

    @walk
    def test_the_order_says_never_of_the_same_loads(self) -> None:
        for name, setup, _ in setups():
            nothing = frozenset(x.id for x in setup.rig.loads if x.always_on)
            chips = present(setup, {}, nothing).chips
            never = {c.load for c in chips if c.say == "never"}
            served = {c.load for c in chips if c.margin is not None}
            self.assertEqual(set(fail_alone(setup)) & served, never & served, name)

    @walk
    def test_what_is_always_on_can_be_switched_off_for_something_else(self) -> None:
        for name, setup, _ in setups():
            always = frozenset(x.id for x in setup.rig.loads if x.always_on)
            for chip in present(setup, {}).chips:
                if chip.say == "after" and chip.first_off:
                    names = {x.id for x in setup.rig.loads if x.name in chip.first_off}
                    after = present(setup, {}, always & names).chips
                    now = next(c for c in after if c.load == chip.load)
                    self.assertEqual(now.say, "may", f"{name}: {chip}")


class CheckAndSteps(unittest.TestCase):
    def test_steps_switch_on_nothing_that_is_not_wanted(self) -> None:
        for name, setup, checked in setups()[::2]:
            if checked.result.verdict == "fails":
                continue
            wanted = {w.load for w in setup.wanted} | {x.id for x in setup.rig.loads if x.always_on}
            unwanted = [x.name for x in setup.rig.loads if x.id not in wanted]
            for step in steps_of(setup, "start"):
                if step.id in ("others-on", "charger-on") or step.id.startswith("each-start"):
                    self.assertFalse([x for x in unwanted if x in step.text], f"{name} {step.text}")


if __name__ == "__main__":
    unittest.main()
