"""One moment of a case, run on the engine: its outcome and trace, and how strong the supply must be
for it to pass.
"""

from __future__ import annotations

from functools import cached_property
from typing import TypedDict, Unpack

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Figure, Real
from ironmargin.record import record
from ironmargin.starting.codes import FIXED
from ironmargin.starting.edge import STRONGEST, WEAKEST, Edge
from ironmargin.starting.engine import OUTCOMES, PASSES, Engine, Factors
from ironmargin.starting.known import Known, known_of
from ironmargin.starting.model import model_of
from ironmargin.starting.opened import Opening, opening_of
from ironmargin.starting.plan import Plan


@record
class Trace:
    """What a start did: every array over the time axis.

    Attributes:
        t_s: time since the motor was switched on [s].
        v: volts of the legs (2, t) [V].
        a: amps of the source's hot conductors (2, t) [A].
        speed: of each motor row (M, t) [1].
        heat: of each breaker row (B, t) [1].
    """

    t_s: Real
    v: Real
    a: Real
    speed: Real
    heat: Real


@record
class Run:
    """The outcome of one start; ``seconds`` until up and ``opened_s`` until something opened are
    infinite if never [s].

    ``decided_s`` is when the outcome was known [s]. ``off`` are the demands that were off at the
    end or came and went, ``blinked`` those that were off for a moment and stayed on since.
    """

    outcome: str
    peak_a: float
    lowest_v: float
    seconds: float
    opened_s: float
    lockout_share: float
    decided_s: float
    off: tuple[int, ...]
    blinked: tuple[int, ...]
    trace: Trace
    opened: Opening | None = None


@record
class Reserve:
    """How weak a part could be and the start still pass: ``factor``; ``islands`` are strengths past
    it where it changes back.
    """

    factor: float
    islands: tuple[float, ...] = ()


COUNTED_ON = 0.0
"""Share of sets that hold less in the first second than a nominal one is counted on to: it is
counted on for its lasting limit, and what it holds beyond that is part of the chance."""


def short_time(maximum: float, share: Figure) -> Figure:
    """What electronics hold in the first second over their lasting limit [1]: anything between that
    limit and the most there is, each as likely.

    Args:
        maximum: the most there is over the lasting limit [1].
        share: of sets that hold less [1].

    Returns:
        What it holds over its lasting limit, of the shape of the share [1].
    """
    return 1.0 + (maximum - 1.0) * share


IDEAL = 1e6
"""So many times as strong, a supply has no impedance and no limit."""


class Errors(TypedDict, total=False):
    """What a start may be off by, each a factor: open-circuit volts, overload lockout, most amps of
    the first second, locked-rotor amps and breakaway torque of every motor row [1].
    """

    voc_factor: float
    lockout: float
    short: float | None
    lra: Real | None
    breakaway: Real | None


class StartScenario:
    """A plan of a case on the start engine. Solving changes nothing in it: the same call gives the
    same figures.
    """

    def __init__(self, case: Case, plan: Plan, warm: Real) -> None:
        self.case, self.plan, self.warm = case, plan, warm
        self.model = model_of(case, plan, warm)
        self.engine = Engine(self.model)
        self.motors = len(case.rows)
        self.ones = np.ones(max(self.motors, 1))
        self.short = float(short_time(case.source.short_factor, COUNTED_ON))
        self.edge = Edge(self.engine, self.ones, self.short)

    @cached_property
    def known(self) -> Known:
        """What a log has told of the rig and the supply."""
        return known_of(self.case.setup)

    def _start(
        self,
        keep: bool,
        source_strength: float = 1.0,
        path: float = 1.0,
        *,
        voc_factor: float = 1.0,
        lockout: float = 1.0,
        short: float | None = None,
        lra: Real | None = None,
        breakaway: Real | None = None,
    ) -> int:
        """One start of the engine, with a supply and a path so many times as strong and these
        errors; its arguments as :meth:`Engine.one_start` has them.
        """
        lra = self.ones if lra is None else lra
        breakaway = self.ones if breakaway is None else breakaway
        short = self.short if short is None else short
        by = Factors(source_strength, path, voc_factor=voc_factor, lockout=lockout, short=short)
        code: int = self.engine.one_start(by, lra, breakaway, keep)
        return code

    def passes(
        self, source_strength: float = 1.0, path: float = 1.0, **errors: Unpack[Errors]
    ) -> bool:
        """Whether it starts, with such a supply, path and errors.

        Args:
            source_strength: how many times as strong the supply is [1].
            path: how many times as good the path is [1].
            **errors: what differs from the figures of the plan.

        Returns:
            Whether it starts.
        """
        return self._start(False, source_strength, path, **errors) == PASSES

    def outcome(self, **errors: Unpack[Errors]) -> str:
        """How it ends, with such errors; nothing is kept of it.

        Args:
            **errors: factors of supply, path and motors.

        Returns:
            The word of an outcome.
        """
        return OUTCOMES[self._start(False, **errors)]

    def traced(
        self, source_strength: float = 1.0, path: float = 1.0, **errors: Unpack[Errors]
    ) -> tuple[str, Trace]:
        """How it ends, and its trace, followed on until something opens or it is over.

        Args:
            source_strength: of the supply over its own [1].
            path: of the path over its own [1].
            **errors: factors of motors, volts and lockout.

        Returns:
            The word of an outcome; time [s], volts [V], amps [A], speeds [1] and breakers' heat
            [1].
        """
        engine, code = self.engine, self._start(True, source_strength, path, **errors)
        assert engine.log is not None
        columns = engine.log[: engine.kept].T.copy()
        end = FIXED + self.motors
        return OUTCOMES[code], Trace(
            columns[0], columns[1:3], columns[3:FIXED], columns[FIXED:end], columns[end:]
        )

    def run(self, source_strength: float = 1.0, path: float = 1.0, **errors: Unpack[Errors]) -> Run:
        """The start with everything it did.

        Args:
            source_strength: how many times as strong the supply is [1].
            path: how many times as good the path is [1].
            **errors: what differs from the figures of the plan.

        Returns:
            The run.
        """
        outcome, trace = self.traced(source_strength, path, **errors)
        engine = self.engine
        off, blinked, out = engine.states()
        whose = self.model.loads.demands
        fallen, dipped = (
            [at for group, yes in zip(whose, which.tolist(), strict=True) if yes for at in group]
            for which in (off, blinked & ~off)
        )
        down = [row for row, fell in zip(self.case.rows, out.tolist(), strict=True) if fell]
        return Run(
            outcome,
            engine.peak_a,
            engine.lowest_v,
            engine.up_s,
            engine.opened_s,
            engine.nearest_lockout,
            engine.decided_s,
            tuple(dict.fromkeys([*sorted(fallen), *down])),
            tuple(dict.fromkeys(sorted(dipped))),
            trace,
            opening_of(engine.opened_by),
        )

    def ideal_peak_a(self) -> float:
        """The most an ideal supply would give, one without impedance or limit [A].

        Returns:
            Amps [A].
        """
        self._start(False, IDEAL, IDEAL)
        return float(self.engine.peak_a)

    def reserve_of_supply(self, passes: bool, *, rough: bool = False) -> Reserve:
        """How weak the supply could be, or how strong it would have to be; ``rough`` to 0.4 %.

        Args:
            passes: whether it passes as it stands.
            rough: to 0.4 % only.

        Returns:
            The factor, with how exact it is [1].
        """
        return Reserve(*self.edge.find(False, passes, rough))

    def reserve_of_path(self, passes: bool, *, rough: bool = False) -> Reserve:
        """The same for the path, whose impedance is divided by the factor; a path without impedance
        has all the reserve there is.

        Args:
            passes: whether it passes as it stands.
            rough: to 0.4 % only.

        Returns:
            The factor, with how exact it is [1].
        """
        if not np.abs(self.model.wiring.path_ohm).any():
            return Reserve(WEAKEST if passes else STRONGEST)
        return Reserve(*self.edge.find(True, passes, rough))

    def path_changes_it_within(self, factor: float, passes: bool) -> bool:
        """Whether less of a change of the path than this factor changes the outcome.

        Args:
            factor: how much the path is changed, up or down [1].
            passes: whether it passes as it is.

        Returns:
            Whether it ends otherwise somewhere on the way.
        """
        if not np.abs(self.model.wiring.path_ohm).any():
            return False
        return bool(self.edge.changes_within(factor, passes))
