"""Before and after: two starts of the same load, one as it was fitted before, on one picture."""

from __future__ import annotations

from dataclasses import dataclass

from ironmargin.errors import SetupError
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.instruments import BENCH
from ironmargin.learning.observed import with_changes
from ironmargin.learning.snapshot import WEATHER, differs
from ironmargin.setup.model import Setup
from ironmargin.verdict.check import Checked, examine
from ironmargin.verdict.picture import Picture, picture_of
from web.logbook.service import log_of
from web.setups.models import SavedSetup
from web.verdicts.drawings.page import Plot, draw_plot

GEAR_OR_SUPPLY = {"start", "soft_start", "supply", "lra_a", "running_a", "starting_w"}
"""What was fitted or moved between the two; a start on the way to a learned value is no before, and
another day's weather is none.
"""


@dataclass(frozen=True)
class Mark:
    """A peak that was read: its height in the drawing, and whether it is the earlier one."""

    y: float
    amps: float
    before: bool


@dataclass(frozen=True)
class Pair:
    """Two starts of a load: what was read, what it says, and both as the engine has them."""

    name: str
    before: StartEntry
    after: StartEntry
    sentence: str
    plot: Plot | None
    marks: tuple[Mark, ...]


def pairs_of(saved: SavedSetup, setup: Setup) -> list[Pair]:
    """Every load with a start read before something was changed on it, and one after."""
    _, log = log_of(saved, setup)
    starts = [e for e in log.entries if isinstance(e, StartEntry) and _tells(e)]
    found = []
    for load in setup.rig.loads:
        mine = [e for e in starts if e.load == load.id]
        before = [e for e in mine if GEAR_OR_SUPPLY & set(differs(setup, e))]
        after = [e for e in mine if not set(differs(setup, e)) - set(WEATHER)]
        for place in ("supply", "compressor-wire"):
            was = [e for e in before if e.on == place]
            now = [e for e in after if e.on == place]
            if was and now:
                found.append(_pair(setup, load.name, was[-1], now[-1]))
    return found


def _tells(entry: StartEntry) -> bool:
    """Whether a reading is the peak: no slow meter, no whole cord."""
    where = entry.on in ("supply", "compressor-wire")
    return entry.peak_a is not None and where and BENCH[entry.instrument].holds


def _pair(setup: Setup, name: str, before: StartEntry, after: StartEntry) -> Pair:
    was, now = before.peak_a or 0.0, after.peak_a or 0.0
    plot = _drawn(setup, before, after)
    words = f"{name}: {was:.1f} A before, {now:.1f} A after"
    if was > 0.0:
        share = (now - was) / was
        words += f", {abs(share) * 100:.0f} % {'less' if share < 0 else 'more'}"
    if before.lowest_v is not None and after.lowest_v is not None:
        words += f"; {before.lowest_v:.0f} V at the dip before, {after.lowest_v:.0f} V after"
    marks: tuple[Mark, ...] = ()
    if plot is not None:
        marks = (Mark(_height(plot, was), was, True), Mark(_height(plot, now), now, False))
    return Pair(name, before, after, f"{words}.", plot, marks)


def _height(plot: Plot, amps: float) -> float:
    """Where some amps lie on a plot's axis."""
    (low, foot), (high, top) = plot.amp_ticks[0], plot.amp_ticks[-1]
    return round(foot + (amps - low) * (top - foot) / (high - low), 1)


def _drawn(setup: Setup, before: StartEntry, after: StartEntry) -> Plot | None:
    """The start as the engine has it now, and over it as the load was before."""
    try:
        was = examine(with_changes(setup, before), picture=before.load, quick=True)
    except SetupError:
        return None
    now = examine(setup, picture=after.load, quick=True)
    maximum = max(before.peak_a or 0.0, after.peak_a or 0.0)
    if _start_of(now, after.load) is None:
        return None
    return draw_plot(now, after.load, _start_of(was, before.load), reaching_a=maximum)


def _start_of(checked: Checked, load: str) -> Picture | None:
    for start in checked.starts:
        if checked.case.demands[start.starters[0].demand].load.id == load:
            return picture_of(checked, start)
    return None
