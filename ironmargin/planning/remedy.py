"""One remedy: what it takes and leads to; which changes are worth trying; when cords come first."""

from __future__ import annotations

from collections.abc import Sequence

from ironmargin.listed import listed
from ironmargin.per_cent import percent
from ironmargin.planning.change import (
    ASKED,
    COSTS,
    ELECTRICIAN,
    FREE,
    RUNGS,
    TECHNICIAN,
    YOURSELF,
    Change,
    Rank,
    rank_of,
)
from ironmargin.planning.changes import changes_of
from ironmargin.record import record
from ironmargin.setup.changed import leave_off
from ironmargin.setup.model import Setup
from ironmargin.starting.starts import PATH, Start
from ironmargin.verdict.check import Checked

CORD_KINDS = ("thicker-cord", "shorter-cord")
SAID = {"holds": "it holds", "thin": "it just holds", "fails": "it still fails"}
WHO = (YOURSELF, TECHNICIAN, ELECTRICIAN)


@record
class Remedy:
    """One way to make it hold: the changes it takes, and the setup, verdict and margin they lead
    to.
    """

    changes: tuple[Change, ...]
    setup: Setup
    verdict: str
    iron_margin: float
    weakest: str

    @property
    def change(self) -> str:
        """The stable words of its changes, joined by +."""
        return "+".join(c.kind for c in self.changes)

    @property
    def what(self) -> str:
        """What to do, as an instruction."""
        first, *rest = (c.what for c in self.changes)
        return first + "".join(f", and {w[:1].lower()}{w[1:]}" for w in rest)

    @property
    def advice(self) -> str:
        """What to do; where what was asked for is given up by it, that nothing less does."""
        requested = f"Nothing else here is enough: {self.what[:1].lower()}{self.what[1:]}"
        return requested if self.rung == ASKED else self.what

    @property
    def cost(self) -> str:
        """The dearest of its changes."""
        return max((c.cost for c in self.changes), key=COSTS.index)

    @property
    def rank(self) -> Rank:
        """Its place among others, the best smallest."""
        return rank_of(self.changes, self.verdict, self.iron_margin)

    @property
    def effort(self) -> int:
        """Trouble of all its changes."""
        return self.rank[4]

    @property
    def rung(self) -> str:
        """What is given up by it, of :data:`RUNGS`."""
        return RUNGS[self.rank[0]]

    @property
    def of_cords(self) -> bool:
        """Whether it only changes cords."""
        return all(c.kind in CORD_KINDS for c in self.changes)

    @property
    def gives_up(self) -> str:
        """What is missed with it, in words."""
        return listed([c.gives_up for c in self.changes if c.gives_up])

    @property
    def by(self) -> str:
        """Who does it: whoever of its changes asks most of."""
        return max((c.by for c in self.changes), key=WHO.index)

    @property
    def sentence(self) -> str:
        """What to do and what it leads to."""
        return (
            f"{self.what} and {SAID[self.verdict]} with {percent(self.iron_margin)} of iron "
            f"left. {self.weakest}"
        )


def worth_trying(checked: Checked) -> list[Change]:
    """Every single change worth trying of a checked setup.

    Args:
        checked: a verdict with its case.

    Returns:
        In the order they are made.
    """
    return [*_unserved(checked), *changes_of(checked.setup, checked.case)]


def cords_blamed(checked: Checked, changes: Sequence[Change]) -> bool:
    """Whether these changes are of cords alone, and the cords are to blame: then they come before
    all else.

    Args:
        checked: a verdict with its case.
        changes: what is done together.

    Returns:
        Whether they are.
    """
    return all(c.kind in CORD_KINDS for c in changes) and blames_path(checked)


def blames_path(checked: Checked) -> bool:
    """Whether what gives first is the way from the supply to the rig: its cords and contacts, not
    the supply.

    Args:
        checked: a verdict with its case.

    Returns:
        Whether it is.
    """
    first = checked.findings[0] if checked.findings else None
    if first is None:
        return False
    if first.check == "start":
        return isinstance(first.about, Start) and first.about.gives_first == PATH
    dropped = sum(p.volts_drop for p in checked.result.path)
    source = checked.case.source
    behind = abs(source.hot_ohm + source.neutral_ohm)
    return first.check == "voltage" and dropped > behind * max(float(a) for a in checked.now.amps)


def _unserved(checked: Checked) -> list[Change]:
    """Leaving off everything this service cannot feed at all, as one change."""
    loads = [load for load, _ in checked.case.unserved]
    if len(loads) < 2:
        return []

    def without(setup: Setup) -> Setup:
        for load in loads:
            setup = leave_off(setup, load.id)
        return setup

    return [
        Change(
            "leave-off",
            f"Leave {listed([x.name for x in loads])} off",
            FREE,
            0,
            "unserved",
            without,
            ASKED,
            "what this service cannot feed",
        )
    ]
