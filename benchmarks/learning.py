"""How well what a log teaches is calibrated: python benchmarks/learning.py [RIGS]. Prints a table;
tests nothing (tests/reference/test_learning.py holds a part of it). `python benchmarks/learning.py
24 circuit` looks at one kind of truth.

Rigs are drawn from what is believed, measured by simulated instruments with their own errors, and
learned back. Truths come from the engine itself, from another physical model of the motor
(tests/reference/other_motor.py), whose curves and whose needs are not the engine's, and from that
motor in a circuit simulator (tests/reference/spice_motor.py), on a supply that clips. An interval
is calibrated where nine of ten truths lie in its nine tenths, and half of them in its half. Then
the same rig is asked about on another supply in other heat: the chance of a start before and after
learning is held against the truth's own. A second log has heaters on beside each start, more after
one that started and less after one that did not, as "what to measure next" says.
"""

from __future__ import annotations

import math
import random
import sys
import time
from abc import ABC, abstractmethod
from collections import defaultdict
from dataclasses import dataclass, replace
from itertools import product
from multiprocessing import Pool
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[0] = str(ROOT)  # not this folder: its queue.py is not the library's

from ironmargin.case import prepare
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.learn import learn
from ironmargin.learning.log import read_log
from ironmargin.learning.looking import Edge, edge_of, needed_of, passes_of, run, unknowns_in
from ironmargin.learning.observed import ObservedStart, observed_start, scenarios_of
from ironmargin.learning.particles import quantiles, weigh
from ironmargin.learning.unknowns import prior_of
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.starting.chance import chance_of
from ironmargin.starting.known import HELD, KEY, LRA, MODEL, ROWS, STIFF, SUPPLY, stored
from ironmargin.starting.plan import Plan
from ironmargin.starting.samples import BREAKAWAY_DAY_SD, shares_below
from ironmargin.starting.scenario import StartScenario, short_time
from tests.reference import other_motor, spice_motor
from tests.reference.other_motor import Day, Rig

UNIT = {"id": "u", "name": "Unit", "kind": "air-conditioner", "fan_high_a": 2.5}
SMALL = {"running_a": 9.0, "lra_a": 42.0, "from": "plate"}
USUAL = {"running_a": 12.0, "lra_a": 60.0, "from": "plate"}
SET = {"kind": "generator", "continuous_w": 2200, "starting_w": 2550, "character": "folds-back"}
KINDS: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
    "30 A post": ({"kind": "shore", "breaker_a": 30, "source_ohm": 0.1}, USUAL),
    "soft post": ({"kind": "shore", "breaker_a": 30, "source_ohm": 0.4}, USUAL),
    "2.5 kW set": (SET, USUAL),
    "1.9 kW set": (SET | {"continuous_w": 1600, "starting_w": 1900}, SMALL),
    "set, soft starter": (
        SET | {"continuous_w": 1400, "starting_w": 1700}, SMALL | {"start": "soft-start"},
    ),
    "set, typical figures": (SET | {"starting_w": 2700}, USUAL | {"from": "typical"}),
    "hard-start kit": (SET | {"starting_w": 2400}, USUAL | {"start": "hard-start"}),
}  # fmt: skip
"""Seven kinds of rig: supply and unit."""
HEATERS_W = (100, 200, 400)
"""At hand beside the unit, to find the edge of its start with: 0 to 700 W in steps of a hundred."""
ELSEWHERE = {
    60.0: SET | {"continuous_w": 2100, "starting_w": 2450},
    42.0: SET | {"continuous_w": 1550, "starting_w": 1850},
}
"""Another set for a unit of so many locked-rotor amps, so that it is a close call there."""
HOT_C = 43.0
COUNTS = (1, 4, 12)
FIGURES = (LRA, SUPPLY, HELD)
"""Those whose intervals are counted."""
HANDS = ("inrush-clamp", "by-sound", "inrush-clamp", "watt-meter")
"""What a start is read with, one after the other."""
BLUNDER = 1.6
INERTIA_S, HEAT_DAY_SD, PATIENCE_DAY_SD = 0.4, 0.015, 0.2
"""Of the other truths: seconds to speed at full-load torque; from one day to the next, what 5 °C
take from a set, and how long its electronics stand at their limit (common practice, no source)."""


def requested(kind: str) -> Setup:
    """The rig as its owner typed it."""
    supply, unit = KINDS[kind]
    heaters = [
        {"id": f"h{w}", "name": f"{w} W", "kind": "resistive", "watts": w} for w in HEATERS_W
    ]
    rig = {"name": "r", "service": "120", "main_a": 30, "loads": [UNIT | unit, *heaters]}
    return read_setup(
        {"format": "iron-margin/setup", "version": 1, "name": kind, "supply": supply, "rig": rig,
         "wanted": [{"load": "u"}], "rules": {"trials": 1000}}
    )  # fmt: skip


@dataclass
class Truth(ABC):
    """A rig as it is: draws of what its owner does not know, and what its starts show."""

    logs: dict[str, float]

    @abstractmethod
    def start(self, draw: random.Random, level: int = 0) -> tuple[float, float, float, str]:
        """Peak [A], lowest volts [V], seconds to speed and outcome of a start on some day, with so
        many hundred watts of heaters on beside it.
        """

    @abstractmethod
    def chance(self, other: Setup) -> float:
        """How often it starts in another situation [1]."""


class OfEngine(Truth):
    """The engine's own model, off by what it says of itself."""

    def __init__(self, setup: Setup, draw: random.Random) -> None:
        observed = observed_start(setup, StartEntry(load="u"))
        assert observed is not None
        self.observed, self.unknowns = observed, unknowns_in(setup, [observed])
        z = np.array([[draw.gauss(0.0, 1.0) for _ in self.unknowns]])
        self.row = prior_of(setup, self.unknowns).draw(z)
        super().__init__(
            {u.what: float(x) for u, x in zip(self.unknowns, self.row[0], strict=True)}
        )
        self.setup = setup
        self.at: dict[int, tuple[ObservedStart, Edge]] = {}

    def with_heaters(self, level: int) -> tuple[ObservedStart, Edge]:
        """The start with so many hundred watts beside it, and its edge."""
        if level not in self.at:
            observed = observed_start(
                self.setup, StartEntry(load="u", with_running=beside_of(level))
            )
            assert observed is not None
            self.at[level] = observed, edge_of(observed, self.unknowns, 5)
        return self.at[level]

    def start(self, draw: random.Random, level: int = 0) -> tuple[float, float, float, str]:
        day = np.array([draw.gauss(0.0, 1.0)])
        observed, edge = self.with_heaters(level)
        found = run(observed, self.unknowns, self.row, day)
        share = passes_of(observed, self.unknowns, self.row, edge, edge.boundary)
        peak = float(found["peak_a"][0]) * math.exp(self.logs["peaks"])
        low = float(found["lowest_v"][0]) + 120.0 * self.logs["dips"]
        seconds = float(found["seconds"][0]) * math.exp(self.logs["times"])
        return peak, low, seconds, "starts" if draw.random() < float(share[0]) else "stalls"

    def chance(self, other: Setup) -> float:
        observed = observed_start(other, StartEntry(load="u"))
        assert observed is not None
        away = replace_supply(observed)
        edge = edge_of(away, self.unknowns, 5)
        return float(passes_of(away, self.unknowns, self.row, edge, edge.boundary)[0])


def replace_supply(observed: ObservedStart) -> ObservedStart:
    """The same start, on a supply of which the truth's draws say nothing."""
    return ObservedStart(observed.setup, observed.scenario, observed.row, observed.entries, True)


class OfAnother(Truth):
    """A motor of two windings, scaled to the plate; how much torque it has is drawn so that it
    needs what the engine believes, within what two good models differ by.
    """

    def __init__(self, setup: Setup, draw: random.Random) -> None:
        own = OfEngine(setup, draw)
        super().__init__(own.logs)
        self.held = 0.0
        soft = own.observed.scenario.model.motors.soft_a
        if soft[0] > 0.0:
            self.held = float(soft[0]) * math.exp(self.logs["held"] + self.logs["lra"])
        self.inertia_s = INERTIA_S * math.exp(0.2 * draw.gauss(0.0, 1.0))
        # Its torque: so that on a set it needs what the engine says of this very rig.
        of_set = setup if setup.supply.engines else read_setup(away(setup))
        observed = observed_start(of_set, StartEntry(load="u"))
        assert observed is not None
        edge = edge_of(observed, own.unknowns, 5)
        needed = needed_of(observed, own.unknowns, own.row, edge, edge.boundary)[0]
        weaker = self.rig(of_set)
        nominal_a = weaker.limit_a / math.exp(self.logs.get("supply", 0.0))
        weaker = replace(weaker, limit_a=nominal_a * float(needed[0]))
        self.torque = self.min_torque(weaker) * math.exp(2.0 * self.logs["model"])
        if self.held:  # it has learned its motor: enough for all but one day in forty
            ideal = replace(self.rig(of_set), limit_a=math.inf, ohm=0.0)
            stiff = replace(ideal, stiff=ideal.stiff * math.exp(2.0 * BREAKAWAY_DAY_SD))
            self.torque = max(self.torque, self.min_torque(stiff))

    def min_torque(self, rig: Rig) -> float:
        """With how much torque it just starts on a usual day."""
        low, high = 0.05, 6.0
        for _ in range(10):
            middle = math.sqrt(low * high)
            passes = self.begins(replace(rig, torque=middle), Day()).outcome == "starts"
            low, high = (low, middle) if passes else (middle, high)
        return high

    def rig(self, setup: Setup, torque: float = 1.0) -> Rig:
        case = prepare(setup)
        source, up = case.source, case.feed.upstream
        plate = case.demands[0].plate
        assert plate is not None
        share = float(shares_below(np.array([self.logs.get("short", 0.0)]))[0])
        ohm, own = up.z11, source.hot_ohm + source.neutral_ohm
        if source.kind == "shore":
            ohm += own / math.exp(self.logs["supply"]) - own
        return Rig(
            plate.lra_a * math.exp(self.logs["lra"]), plate.voltage_v,
            plate.breakaway * math.exp(self.logs.get("stiff", 0.0)), self.inertia_s, 2.5,
            abs(up.e1_v), ohm, source.limit_a * math.exp(self.logs.get("supply", 0.0)),
            float(short_time(source.short_factor, share)), False, self.held, torque,
        )  # fmt: skip

    def start(self, draw: random.Random, level: int = 0) -> tuple[float, float, float, str]:
        rig = self.rig(self.setup, self.torque)
        return self.on(replace(rig, fan_a=rig.fan_a + 100.0 * level / rig.volts), draw)

    setup: Setup
    begins = staticmethod(other_motor.start)

    def on(self, rig: Rig, draw: random.Random) -> tuple[float, float, float, str]:
        """A start on a day of its own: friction, the heat a set is derated by, patience."""
        off = [draw.gauss(0.0, 1.0) for _ in range(3)]
        sds = (BREAKAWAY_DAY_SD, HEAT_DAY_SD, PATIENCE_DAY_SD)
        found = self.begins(rig, Day(*(math.exp(sd * z) for sd, z in zip(sds, off, strict=True))))
        return found.peak_a, found.lowest_v, found.seconds, found.outcome

    def chance(self, other: Setup) -> float:
        rig = replace(self.rig(other, self.torque))
        rig = replace(rig, limit_a=rig.limit_a / math.exp(self.logs.get("supply", 0.0)))
        draw = random.Random(3)
        return sum(self.on(rig, draw)[3] == "starts" for _ in range(24)) / 24


class OfCircuit(OfAnother):
    """The same in a circuit simulator."""

    begins = staticmethod(spice_motor.start)


TRUTHS: dict[str, type[Truth]] = {
    "engine": OfEngine, "another model": OfAnother, "circuit": OfCircuit,
}  # fmt: skip


def away(setup: Setup) -> dict[str, Any]:
    """The same rig on another set in other heat."""
    unit = setup.rig.loads[0]
    assert isinstance(unit, AirConditioner)
    supply = ELSEWHERE[42.0 if unit.running_a == 9.0 else 60.0]
    return write_setup(setup) | {"supply": supply, "conditions": {"outdoor_c": HOT_C}}


def beside_of(level: int) -> tuple[str, ...]:
    """The heaters that are so many hundred watts together."""
    return tuple(f"h{w}" for at, w in enumerate(HEATERS_W) if level >> at & 1)


def entries_closing_in(truth: Truth, count: int, draw: random.Random) -> list[dict[str, Any]]:
    """A log of starts with a hundred watts more beside each that follows one that started, and a
    hundred less after one that did not; every other one with the clamp on.
    """
    found: list[dict[str, Any]] = []
    level = 0
    for n in range(count):
        entries = entries_of(truth, 1, False, draw, level)
        entry = entries[0] if n % 2 == 0 else {
            "kind": "start", "load": "u", "outcome": entries[0]["outcome"], "instrument": "by-ear",
        }  # fmt: skip
        found.append(entry | {"notes": f"{n}", "with_running": list(beside_of(level))})
        up = entry["outcome"] == "starts"
        level = min(level + 1, 2 ** len(HEATERS_W) - 1) if up else max(level - 1, 0)
    return found


def known_exactly(document: dict[str, Any], truth: Truth) -> dict[str, Any]:
    """The same setup as if a log had told all of its rig: what no log can better."""
    names = [
        (what, "" if what == MODEL else "u")
        for what in (LRA, STIFF, HELD, MODEL)
        if what in truth.logs
    ]
    rows = np.tile([truth.logs[what] for what, _ in names], (ROWS, 1))
    learned, _ = stored(read_setup(document), names, rows, "truth")
    return document | {"rig": document["rig"] | {"x": {KEY: learned}}}


def entries_of(
    truth: Truth, count: int, blunder: bool, draw: random.Random, level: int = 0
) -> list[dict[str, Any]]:
    """A log as its owner would write it, with what was at hand: an inrush clamp good to 2 % and
    three digits that misses a peak in one of ten, volts to 1 V; a slow display that shows what is
    left of the peak; a recording that tells seconds; and how each start ended.
    """
    found = []
    wrong = draw.randrange(count) if blunder else -1
    for n in range(count):
        peak, low, seconds, outcome = truth.start(draw, level)
        entry: dict[str, Any] = {"kind": "start", "load": "u", "outcome": outcome, "notes": f"{n}"}
        tool = HANDS[n % len(HANDS)]
        read = peak * (1.0 + 0.02 * draw.gauss(0.0, 1.0)) + draw.choice((-0.3, 0.0, 0.3))
        read *= draw.uniform(0.88, 0.98) if draw.random() < 0.1 else 1.0
        if tool == "watt-meter":
            read *= draw.uniform(0.5, 0.9)
        if n == wrong:
            read *= BLUNDER if draw.random() < 0.5 else 1.0 / BLUNDER
        if tool != "by-sound":
            volts = round(low + draw.gauss(0.0, 1.0), 0)
            entry |= {"peak_a": round(read, 1), "lowest_v": max(volts, 1.0)}
        elif math.isfinite(seconds) and outcome == "starts":
            entry |= {"seconds": round(max(seconds + 0.04 * draw.gauss(0.0, 1.0), 0.05), 2)}
        found.append(entry | {"instrument": tool})
    return found


def chance_elsewhere(other: Setup) -> float:
    """What is said of the start elsewhere."""
    case = prepare(other)
    scenario = StartScenario(case, Plan((case.starters[0],)), np.zeros(len(case.breakers)))
    return chance_of(scenario, 400, 7).chance


@dataclass(frozen=True)
class Job:
    """One rig of one kind, of one kind of truth."""

    truth: str
    kind: str
    number: int


@dataclass
class Told:
    """What was learned of it: whether each truth lies in its nine tenths and in its half; how far
    the chance elsewhere is off before, after either log, and with all known; seconds a weighing
    took.
    """

    where: str
    inside: list[tuple[tuple[str, str, int, bool], tuple[bool, bool]]]
    off: list[float]
    seconds: list[float]


def told_of(job: Job) -> Told:
    """Learn one rig from logs of each length."""
    setup = requested(job.kind)
    draw = random.Random(f"{job.kind}{job.number}")
    truth = make(TRUTHS[job.truth], setup, draw)
    on_post = "post" in job.kind
    told = Told(f"{job.truth}, learned on a {'post' if on_post else 'set'}", [], [], [])
    for count, blunder in product(COUNTS, (False, True)):
        log = read_log({"entries": entries_of(truth, count, blunder, draw)}, setup)
        starts = {at: e for at, e in enumerate(log.entries) if isinstance(e, StartEntry)}
        observed, _, _ = scenarios_of(setup, list(starts.items()))
        begun = time.perf_counter()
        found = weigh(setup, starts, observed, set())
        told.seconds.append(time.perf_counter() - begun)
        for n, unknown in enumerate(found.unknowns):
            if unknown.what not in FIGURES:
                continue
            edges = quantiles(found.logs[:, n], found.weights, (0.05, 0.25, 0.75, 0.95))
            true = truth.logs[unknown.what]
            what = ("ohm" if on_post else "limit") if unknown.what == SUPPLY else unknown.what
            held = edges[0] <= true <= edges[3], edges[1] <= true <= edges[2]
            told.inside.append(((job.truth, what, count, blunder), held))
        if count == COUNTS[-1] and not blunder:
            before = away(setup)
            real = truth.chance(read_setup(before))
            closing = read_log({"entries": entries_closing_in(truth, count, draw)}, setup)
            learned = (away(learn(setup, one).setup) for one in (log, closing))
            cases = (before, *learned, known_exactly(before, truth))
            told.off = [chance_elsewhere(read_setup(case)) - real for case in cases]
    return told


def main() -> None:
    rigs = int(sys.argv[1]) if len(sys.argv) > 1 else 6
    jobs = [
        Job(truth, kind, number)
        for truth in (sys.argv[2:] or TRUTHS)
        for kind in KINDS
        for number in range(rigs)
    ]
    with Pool() as pool:
        told = pool.map(told_of, jobs, chunksize=2)
    inside: dict[tuple[str, str, int, bool], list[tuple[bool, bool]]] = defaultdict(list)
    off: dict[str, list[list[float]]] = defaultdict(list)
    for one in told:
        off[one.where].append(one.off)
        for key, held in one.inside:
            inside[key].append(held)
    print("truth          figure  readings  blunder   90 %   50 %      n")
    for (truth, what, count, blunder), cases in sorted(inside.items()):
        whole, half = np.mean(cases, axis=0)
        print(
            f"{truth:14} {what:7} {count:8} {'one' if blunder else 'none':>8} {whole:6.2f} "
            f"{half:6.2f} {len(cases):6}"
        )
    for where, errors in off.items():
        before, after, closer, known = np.sqrt(np.mean(np.square(errors), axis=0))
        print(
            f"{where}: chance elsewhere off by {before:.3f} before, {after:.3f} after, "
            f"{closer:.3f} after starts with heaters beside, "
            f"{known:.3f} were the rig known exactly (rms)"
        )
    seconds = [x for one in told for x in one.seconds]
    print(f"weighed in {np.median(seconds):.2f} s, {max(seconds):.2f} s at most")


def make(kind_of: type[Truth], setup: Setup, draw: random.Random) -> Truth:
    """A truth for a setup."""
    if issubclass(kind_of, OfAnother):
        kind_of.setup = setup
    return kind_of(setup, draw)  # type: ignore[call-arg, arg-type]


if __name__ == "__main__":
    main()
