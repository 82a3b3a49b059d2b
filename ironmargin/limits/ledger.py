"""What a limit is, how it is judged, and the register of all limits.

A limit says where it acts, what it limits, the present value and the limit here, the early edge of
its band where a standard gives one, what happens beyond it, and where it comes from. The margin is
the same for all: ``1 − value ÷ limit``. Beyond the limit it **fails**; beyond the early edge only,
or closer than the thin line, it is **thin**. Limits that burn something or violate a code fail even
where nothing opens.

Each module of this package holds one limit (or one family of it) and registers it; adding a limit
is adding a module. :mod:`ironmargin.limits.asking` asks them all.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import field
from typing import ClassVar, TypeAlias

import numpy as np

from ironmargin.case import Case
from ironmargin.electrics.network import Figure
from ironmargin.enduring.found import Endurance
from ironmargin.limits.now import Now
from ironmargin.limits.sites import Consequence, Place, Quantity
from ironmargin.loads.demand import Demand
from ironmargin.path.trace import GuardPoint, PathPart
from ironmargin.per_cent import percent
from ironmargin.record import record
from ironmargin.setup.loads import Load
from ironmargin.setup.model import Circuit
from ironmargin.starting.starts import Start
from ironmargin.supplies.source import Breaker

HOLDS, THIN, FAILS = "holds", "thin", "fails"
VIOLATED = -1.0
"""Margin of what is not allowed at all, whatever runs [1]."""


@record
class View:
    """What limits are asked about: a settled state, and what a whole check knows besides.

    Attributes:
        starts, together: every start, and all cycling motors at once; empty where only the settled
            state is asked about.
        warm_a: amps of each source conductor before the largest start [A].
        endurance: how long it lasts, if that was computed.
    """

    now: Now
    starts: tuple[Start, ...] = ()
    together: Start | None = None
    warm_a: tuple[float, ...] = ()
    endurance: Endurance | None = None
    memo: dict[str, object] = field(default_factory=dict)
    """What limits that ask the same share: it is computed once."""

    @property
    def case(self) -> Case:
        """The case asked about."""
        return self.now.case


About: TypeAlias = (
    PathPart | GuardPoint | Breaker | Circuit | Demand | Load | Start | Endurance | None
)


@record
class Row:
    """A limit at one place, judged.

    Attributes:
        limit: which.
        place, name: where, and what a person calls the place.
        value, allowed: the present value and the limit here, in ``unit``.
        base: what the value is a distance from, as nominal volts of a drop.
        early: the limit at the early edge of its band, None without one.
        margin, early_margin: ``1 − value ÷ limit`` at both [1].
        note: which of several rows of one limit it is.
        criterion: the trip criterion it belongs to, empty for both.
        leg: the leg or conductor it is about, −1 for none.
        about: the part, breaker, load or start behind it.
        problem: which of several things is wrong, as a stable word.
    """

    limit: Limit
    place: Place
    name: str
    value: Figure
    allowed: Figure
    margin: Figure
    early: Figure | None = None
    early_margin: Figure | None = None
    unit: str = "A"
    note: str = ""
    criterion: str = ""
    leg: int = -1
    about: About = None
    problem: str = ""
    base: float = 0.0

    @property
    def check(self) -> str:
        """The check of the result format it belongs to."""
        return self.limit.check

    @property
    def where(self) -> str:
        """Its place in the words of the result format."""
        return self.place.where

    def verdict(self, thin_below: float) -> str:
        """``fails``, ``thin`` or ``holds``; for one set of loads.

        Args:
            thin_below: margin under which a limit is thin [1].

        Returns:
            The verdict.
        """
        return self.limit.verdict(self, thin_below)


@record
class SentenceContext:
    """What a sentence is told with: the case, the loads that decide, and what the path loses.

    Attributes:
        now: its settled state.
        names: the loads that decide, as a list in words.
        fails: whether the row fails.
        lost: the sentence about the part of the path that loses most, or empty.
    """

    case: Case
    now: Now
    names: str = ""
    fails: bool = True
    lost: str = ""

    @property
    def mostly(self) -> str:
        """Which loads make the most of it, as a sentence to add to a failing limit."""
        return f" Most of it is {self.names}." if self.names and self.fails else ""


class Limit(ABC):
    """One limit. Subclasses say what it is and find its rows."""

    key: ClassVar[str]
    """Stable word of the open format."""
    check: ClassVar[str] = "sustain"
    quantity: ClassVar[Quantity]
    consequence: ClassVar[Consequence] = Consequence.OPENS
    source: ClassVar[str] = "common practice, no source"
    formula: ClassVar[str] = "margin = 1 − value ÷ limit"
    settled: ClassVar[bool] = False
    """Whether it is read off a settled state alone, of one set of loads or of many."""
    momentary: ClassVar[bool] = True
    rule_alone: ClassVar[bool] = False
    """Going beyond it breaks a rule while everything starts and runs: told apart from what does not
    work.
    """
    """Whether one moment can exceed it; what is averaged over on and off times cannot."""
    in_margin: ClassVar[bool] = True
    """Whether it counts in the iron margin."""
    at_most: ClassVar[str] = FAILS
    """The worst it can make a verdict."""

    @abstractmethod
    def rows(self, view: View) -> Iterator[Row]:
        """The limit wherever it acts in this view.

        Args:
            view: the moment, as the limits see it.

        Yields:
            A row for each place: figure, limit, margin.
        """

    @abstractmethod
    def sentence(self, row: Row, context: SentenceContext) -> str:
        """What a person is told when this limit gives first.

        Args:
            row: of this limit.
            context: the case, what runs beside it, and whether it fails.

        Returns:
            A sentence or two.
        """

    def caution(self, row: Row, context: SentenceContext) -> str:
        """The caution at this place, or nothing.

        Args:
            row: of this limit.
            context: the case, what runs beside it, and whether it fails.

        Returns:
            A line or two, or an empty string.
        """
        return ""

    def reading(self, row: Row) -> str:
        """The value against its limit, as the bar shows it.

        Args:
            row: of this limit.

        Returns:
            Two figures with their unit.
        """
        return f"{float(row.value):.1f} of {float(row.allowed):.1f} {row.unit}"

    def reason(self, row: Row) -> str:
        """One line behind the bar.

        Args:
            row: of this limit.

        Returns:
            The line.
        """
        return (
            f"{row.name}: {float(row.value):.1f} {row.unit} of {float(row.allowed):.1f} {row.unit}"
        )

    def subtitle(self, row: Row) -> str:
        """Which aspect of the place it is, in a word or two.

        Args:
            row: of this limit.

        Returns:
            The words.
        """
        return self.quantity.value

    def verdict(self, row: Row, thin_below: float) -> str:
        """``fails``, ``thin`` or ``holds``, by margin and band.

        Args:
            row: of this limit.
            thin_below: margin under which what holds is thin [1].

        Returns:
            One of the three words.
        """
        if float(row.margin) < 0.0:
            return self.at_most
        early = row.early_margin
        if early is not None and float(early) < 0.0:
            return THIN
        return THIN if float(row.margin) < thin_below and self.in_margin else HOLDS

    def why(self, row: Row) -> str:
        """The rule that makes a verdict fail or be thin, in a few words.

        Args:
            row: of this limit, one that does not hold with room.

        Returns:
            The rule in words.
        """
        if float(row.margin) < 0.0:
            return f"{row.name}: {percent(float(row.margin))} short"
        if row.early_margin is not None and float(row.early_margin) < 0.0:
            return f"{row.name}: does not hold at the early edge of its band"
        return f"{row.name}: {float(row.margin) * 100:.0f} % left, under the thin line"

    def row(
        self,
        place: Place,
        name: str,
        value: Figure,
        allowed: Figure,
        *,
        early: Figure | None = None,
        unit: str = "A",
        note: str = "",
        criterion: str = "",
        leg: int = -1,
        about: About = None,
        problem: str = "",
        base: float = 0.0,
    ) -> Row:
        """A row with its margins, ``1 − value ÷ limit``; that of the early edge only for one set of
        loads, since many are judged by the nominal one alone.

        Args:
            place: where on the bar.
            name: what a person calls it.
            value: what there is, for each set that is asked about.
            allowed: what there may be.
            early: what there may be at the early edge of its band.
            unit: of both.
            note: which of two rules or sides it is.
            criterion: the school it is judged by.
            leg: source conductor; −1 for none.
            about: what the row is of: a breaker, a load, a part.
            problem: key of what is wrong.
            base: what volts are measured against [V].

        Returns:
            The row.
        """
        banded = early is not None and not isinstance(value, np.ndarray)
        return Row(
            self,
            place,
            name,
            value,
            allowed,
            margin_of(value, allowed),
            early,
            margin_of(value, early) if early is not None and banded else None,
            unit,
            note,
            criterion,
            leg,
            about,
            problem,
            base,
        )

    def violated(
        self, place: Place, name: str, problem: str, about: About = None, unit: str = ""
    ) -> Row:
        """A row of something that is not allowed at all.

        Args:
            place: where on the bar.
            name: what a person calls it.
            problem: key of what is wrong.
            about: what the row is of: a breaker, a load, a part.
            unit: of its figures, where it has any.

        Returns:
            A row that fails by its whole.
        """
        return Row(self, place, name, 1.0, 0.0, VIOLATED, unit=unit, about=about, problem=problem)


def margin_of(value: Figure, allowed: Figure) -> Figure:
    """The share of a limit that is left, negative beyond it, never more than all of it [1].

    Args:
        value: what is there.
        allowed: what is allowed, in the same unit.

    Returns:
        Margin [1], of the shape of the value.
    """
    left = 1.0 - value / allowed
    if isinstance(left, float):
        return min(left, 1.0)
    found: Figure = np.minimum(left, 1.0)
    return found


def state_of(margin: float, thin_below: float) -> str:
    """The state of a margin that stands alone, without a band.

    Args:
        margin: the margin [1].
        thin_below: margin under which a limit is thin [1].

    Returns:
        ``fails``, ``thin`` or ``holds``.
    """
    return FAILS if margin < 0.0 else THIN if margin < thin_below else HOLDS


LIMITS: dict[str, Limit] = {}
"""Every limit by its key, in the order of its registration."""


def limit(cls: type[Limit]) -> type[Limit]:
    """Register a limit.

    Args:
        cls: a class of limits with a key of its own.

    Returns:
        The class.
    """
    LIMITS[cls.key] = cls()
    return cls
