"""The running order of a setup: sets, trades, interlocks and the start sequence with what to expect
at each step.

Common practice, no source: the biggest motor first with least else on; fan, let it settle, low
cool, let it settle, high; three to five minutes before a compressor that has just stopped starts
again; never two compressors in one moment; charger last.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics.motor import rested_s
from ironmargin.limits.asking import settled_margin
from ironmargin.limits.now import largest, now_of, smallest
from ironmargin.loads.demand import TRANSFORMER
from ironmargin.planning.sets import RunSet, interlocks, maximal_sets, trades
from ironmargin.planning.settling import PASSES_BY_AIR, Masks
from ironmargin.planning.together import Together
from ironmargin.record import record
from ironmargin.setup.changed import released
from ironmargin.setup.loads import AirConditioner, Load, Rotating
from ironmargin.setup.model import Setup, Wanted
from ironmargin.sustaining.steady import TOLERANCE_V
from ironmargin.verdict.check import examine
from ironmargin.verdict.sentences import say

SETTLE_COMPRESSOR_S, SETTLE_FAN_S, SETTLE_MOTOR_S, SETTLE_S = 60, 10, 15, 5
REST_S = 300
"""Rest of a compressor that has just stopped: three to five minutes (common practice); the longer
is asked for.
"""


@record
class Step:
    """One switch to throw.

    Attributes:
        load, name, mode: what, and in which mode.
        wait_s: how long to wait before it [s].
        why: what the wait is for.
        expect_a, expect_v: amps of the busiest supply conductor and volts of the weaker leg once it
            has settled [A], [V].
        margin: the smallest margin of this step: its start, and the settled limits after it [1].
    """

    load: str
    name: str
    mode: str | None
    wait_s: int
    why: str
    expect_a: float
    expect_v: float
    margin: float


@record
class Sequence:
    """The start sequence of what is wanted; ``margin`` the smallest of its steps; ``reason`` why
    there is none.
    """

    feasible: bool
    reason: str | None
    steps: tuple[Step, ...]
    margin: float
    proven: bool


@record
class Order:
    """The running order of a setup."""

    together: Together
    sets: tuple[RunSet, ...]
    trades: dict[str, list[list[str]]]
    interlocks: tuple[tuple[str, str], ...]
    sequence: Sequence
    never: tuple[tuple[str, str], ...]
    proven: bool

    def name(self, ident: str) -> str:
        """What a load is called.

        Args:
            ident: id of a load.

        Returns:
            Its name; the id where the rig has none such.
        """
        return next((x.name for x in self.together.setup.rig.loads if x.id == ident), ident)

    def off_words(self, ident: str) -> str:
        """What a load is called in a list of what to turn off.

        Args:
            ident: id of a load of the rig.

        Returns:
            Its name, and how it goes on meanwhile where it runs on gas as well.
        """
        return next(x.off_words for x in self.together.setup.rig.loads if x.id == ident)


def _state(setup: Setup, running: list[tuple[str, str | None]]) -> tuple[float, float, float]:
    """Amps of the busiest conductor, volts of the weaker leg, and the smallest settled margin with
    these running.
    """
    ids = {ident for ident, _ in running}
    loads = tuple(replace(x, always_on=False) if x.id not in ids else x for x in setup.rig.loads)
    case = prepare(
        replace(
            setup,
            rig=replace(setup.rig, loads=loads),
            wanted=tuple(Wanted(load=i, mode=m) for i, m in running),
        )
    )
    now = now_of(case)
    volts = [now.state.volts(leg) for leg in range(case.feed.upstream.legs)]
    return float(max(now.amps)), float(min(volts)), float(settled_margin(now))


def _states(together: Together, masks: Masks) -> list[tuple[float, float, float]]:
    """The same as :func:`_state` of many sets at once, every load in the mode it is wanted in."""
    if not len(masks):
        return []
    now = together.now(masks, TOLERANCE_V)
    legs = range(together.case.feed.upstream.legs)
    amps = np.broadcast_to(largest(now.amps), len(masks))
    volts = np.broadcast_to(smallest(now.state.volts(leg) for leg in legs), len(masks))
    margins = np.broadcast_to(settled_margin(now), len(masks))
    return list(zip(amps.tolist(), volts.tolist(), margins.tolist(), strict=True))


def _modes(load: AirConditioner, mode: str) -> list[str]:
    """The steps of an air conditioner up to its mode: fan, low cool, high cool, as far as it has
    them.
    """
    speed = "fan-low" if load.fan_low_a is not None else "fan-high"
    steps = [speed]
    if mode == "high-cool" and load.low_cool_a is not None:
        steps.append("low-cool")
    return steps if mode.startswith("fan") else [*steps, mode]


class _Writer:
    """Writes the steps one after another, with everything on so far behind each."""

    def __init__(self, together: Together) -> None:
        self.together, self.setup = together, together.setup
        self.running: list[tuple[str, str | None]] = [
            (together.case.demands[at].load.id, None)
            for at in together.always
            if together.case.demands[at].load.id != TRANSFORMER
        ]
        self.steps: list[Step] = []
        self.settle = 0
        self.settle_why = ""

    def add(
        self,
        load: Load,
        mode: str | None,
        start_margin: float,
        after: int,
        why: str,
        rest: int = 0,
        state: tuple[float, float, float] | None = None,
    ) -> None:
        if load.id != TRANSFORMER:
            self.running = [(i, m) for i, m in self.running if i != load.id] + [(load.id, mode)]
        amps, volts, margin = _state(self.setup, self.running) if state is None else state
        wait, reason = max(
            (self.settle, self.settle_why), (rest, f"rest of {load.name} before it starts again")
        )
        self.steps.append(
            Step(
                load.id,
                load.name,
                mode,
                wait,
                reason if wait else "",
                amps,
                volts,
                min(margin, start_margin),
            )
        )
        self.settle, self.settle_why = after, why


def _steps(
    together: Together, motors: tuple[int, ...], margins: dict[int, float], mask: Masks
) -> Iterator[Step]:
    """The steps: the transformer if there is one, motors in their order, then the rest, large and
    needed first, chargers last.
    """
    writer = _Writer(together)
    case = together.case
    for starter in case.starters:
        demand = case.demands[starter.demand]
        if demand.load.id == TRANSFORMER:
            margin = together.start_alone(starter)
            writer.add(demand.load, None, margin, SETTLE_S, "the transformer's inrush dies away")
    modes = {w.load: w.mode for w in together.setup.wanted}
    loads = {x.id: x for x in together.setup.rig.loads}
    for number in motors:
        demand = case.demands[together.motors[number].demand]
        load = loads[demand.load.id]
        waited = load.wait_s if isinstance(load, Rotating) else REST_S
        pressed = isinstance(load, Rotating) and rested_s(load.metering) > 0.0
        rest = max(REST_S - int(waited), 0) if demand.plate and pressed else 0
        if isinstance(load, AirConditioner):
            wanted = _modes(load, modes.get(load.id) or "high-cool")
            for at, mode in enumerate(wanted):
                starts = at == 1
                compressor = mode.endswith("cool")
                writer.add(
                    load,
                    mode,
                    margins[number] if starts else 1.0,
                    SETTLE_COMPRESSOR_S if compressor else SETTLE_FAN_S,
                    f"{load.name} settles" if compressor else "its fan runs up",
                    rest if starts else 0,
                )
        else:
            writer.add(
                load,
                None,
                margins[number],
                SETTLE_MOTOR_S if demand.plate else SETTLE_S,
                f"{load.name} settles",
                rest,
            )
    started = {together.motors[n].demand for n in motors}
    others = sorted(
        (n for n, at in enumerate(together.switchable) if mask[n] and at not in started),
        key=lambda n: (
            case.demands[together.switchable[n]].load.kind == "charger",
            -sum(abs(d.va) for d in case.demands[together.switchable[n]].steady),
        ),
    )
    # What has no start of its own changes no mode: one load more in each set, all solved at once.
    masks = np.repeat(mask[None], len(others), axis=0)
    for n in range(len(others)):
        masks[n, others[n + 1 :]] = False
    for n, state in zip(others, _states(together, masks), strict=True):
        demand = case.demands[together.switchable[n]]
        said = f"{demand.load.name} settles"
        writer.add(demand.load, demand.mode, 1.0, SETTLE_S, said, state=state)
    return iter(writer.steps)


def sequence_of(together: Together) -> Sequence:
    """The order to start what is wanted in: the one with the largest smallest margin, bigger motors
    first among equals.

    Args:
        together: which sets may run.

    Returns:
        The sequence, with the margin of each start.
    """
    setup = together.setup
    wanted = together.chosen
    mask = together.mask_of(wanted)
    missing = [
        load.name for load, _ in together.case.unserved if load.id in wanted or load.always_on
    ]
    margin = float(together.settled_margins(mask[None])[0])
    motors = together.motors_of(mask)
    best, order = together.order_of(motors)
    if missing or margin < -PASSES_BY_AIR or best < -PASSES_BY_AIR or len(order) < len(motors):
        checked = examine(setup, quick=True)
        reason = (
            say(checked, None, looked=False).sentence
            if checked.result.verdict == "fails"
            else "No order of starts succeeds here."
        )
        return Sequence(False, reason, (), min(margin, best), together.proven)
    pairs = [(frozenset(order[:at]), m) for at, m in enumerate(order)]
    margins = dict(zip(order, together.start_margins(pairs), strict=True))
    steps = tuple(_steps(together, order, margins, mask))
    return Sequence(True, None, steps, min((s.margin for s in steps), default=1.0), together.proven)


def fail_alone(setup: Setup) -> list[str]:
    """Loads that this supply cannot run even alone, with everything else off, what is always on
    included.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Their ids.
    """
    together = Together.of(released(setup))
    if not together.switchable:
        return []
    alone = together.may(np.eye(len(together.switchable), dtype=bool))
    return [
        together.case.demands[at].load.id
        for at, fine in zip(together.switchable, alone, strict=True)
        if not fine
    ]


def running_order(setup: Setup) -> Order:
    """The whole running order of a setup.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Sets that hold, sequence, turns, what waits for what.
    """
    together = Together.of(setup)
    sets, proven = maximal_sets(together) if together.switchable else ((), True)
    never = [(load.id, problem) for load, problem in together.case.unserved]
    never += [(ident, "too-much") for ident in fail_alone(setup)]
    return Order(
        together,
        sets,
        trades(together),
        tuple(interlocks(together)),
        sequence_of(together),
        tuple(never),
        proven,
    )
