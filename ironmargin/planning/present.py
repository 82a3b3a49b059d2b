"""What is on now, and what may come on: at once, after something goes off, or never.

What is always on is a preference: it is on unless it was switched off, and it may be asked to go
off for something else. For every load that is off: the settled limits of what is on with it, and
its start with those running. Where that does not do, the fewest loads that have to go off first,
least missed first; never is said only of what fails alone. What the next thermostat cycle will find
is looked at, too: each cycling motor starts again with everything else running.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from itertools import combinations

import numpy as np

from ironmargin.document import Document
from ironmargin.limits.now import Now
from ironmargin.planning.together import Together
from ironmargin.record import record
from ironmargin.setup.changed import released
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from ironmargin.setup.model import Setup, Wanted
from ironmargin.supplies.source import LEG_NAMES

MAY, AFTER, NEVER, ON = "may", "after", "never", "on"
RANK = {"wait": 0, "want": 1, "must": 2}
MAX_OFF = 3
"""So many may be asked to go off for one to come on."""
MAX_TRIED = 120


@record
class Chip:
    """One load of the rig as it stands now.

    Attributes:
        say: ``on``, ``may``, ``after`` or ``never``.
        first_off: what has to go off first.
        margin: of running with it, and of its start [1].
        amps, volts: to be read then [A], [V].
        cycle: names of loads whose next start would fail with it running.
    """

    load: str
    name: str
    mode: str | None
    modes: tuple[str, ...]
    always_on: bool
    say: str
    first_off: tuple[str, ...] = ()
    margin: float | None = None
    amps: float | None = None
    volts: float | None = None
    cycle: tuple[str, ...] = ()


@record
class LegNow:
    """What is read on one leg: amps [A], volts [V]."""

    name: str
    amps: float
    volts: float


@record
class Present:
    """The rig now: what is read, how much is left, and every load.

    Attributes:
        legs: each hot leg by itself.
        amps, volts: of the leg with most, of the one with least.
        watts: of everything that is on, at rated volts [W].
        margin: of the settled limits with what is on [1].
        cycle: names of loads whose next thermostat start would fail.
    """

    legs: tuple[LegNow, ...]
    watts: float
    margin: float
    chips: tuple[Chip, ...]
    cycle: tuple[str, ...]

    @property
    def amps(self) -> float:
        """Of the leg that carries most [A]."""
        return max(leg.amps for leg in self.legs)

    @property
    def volts(self) -> float:
        """Of the leg that has least [V]."""
        return min(leg.volts for leg in self.legs)


def _ready(setup: Setup, on: dict[str, str | None]) -> Together:
    modes = {w.load: w.mode for w in setup.wanted} | {k: m for k, m in on.items() if m}
    wanted = tuple(Wanted(load=x.id, mode=modes.get(x.id)) for x in setup.rig.loads)
    return Together.of(released(replace(setup, wanted=wanted)))


class _Requested:
    """Sets of loads asked for once each."""

    def __init__(self, together: Together) -> None:
        self.together = together
        self.settled: dict[frozenset[str], float] = {}
        self.starts: dict[tuple[frozenset[str], str], float] = {}
        self.motor = {
            together.case.demands[s.demand].load.id: n for n, s in enumerate(together.motors)
        }
        self.demand = {d.load.id: at for at, d in enumerate(together.case.demands)}

    def settle(self, sets: list[frozenset[str]]) -> None:
        """The settled margins of some sets, all in one."""
        new = [s for s in dict.fromkeys(sets) if s not in self.settled]
        if new:
            masks = np.stack([self.together.mask_of(s) for s in new])
            margins = self.together.settled_margins(masks)
            self.settled.update(zip(new, (float(x) for x in margins), strict=True))

    def start(self, running: frozenset[str], ident: str) -> float:
        """The margin of a load's start with others running; 1 where nothing rushes in [1]."""
        if ident not in self.motor:
            return 1.0
        key = running, ident
        if key not in self.starts:
            motors = frozenset(self.motor[x] for x in running if x in self.motor)
            others = frozenset(self.demand[x] for x in running if x in self.demand)
            pairs = [(motors, self.motor[ident])]
            (self.starts[key],) = self.together.start_margins(pairs, others)
        return self.starts[key]

    def fits(self, running: frozenset[str], ident: str) -> float:
        """The margin of a load coming on beside others: negative where it may not [1]."""
        both = running | {ident}
        self.settle([both])
        settled = self.settled[both]
        return min(settled, self.start(running, ident)) if settled >= 0.0 else settled

    def restarts(self, running: frozenset[str]) -> tuple[str, ...]:
        """Loads that cycle and whose next start would fail with all these running."""
        found = []
        for ident in sorted(running):
            at = self.demand.get(ident)
            if at is None or ident not in self.motor:
                continue
            demand = self.together.case.demands[at]
            cycles = demand.cycles_per_h > 0 or isinstance(demand.load, AirConditioner)
            if cycles and self.start(running - {ident}, ident) < 0.0:
                found.append(ident)
        return tuple(found)


State = tuple[dict[str, str | None], frozenset[str]]
"""What is on, by id and mode, and what is always on by preference and was switched off."""


def presents(setup: Setup, states: Iterable[State]) -> Iterator[Present]:
    """The rig in one state after another; what was computed of one serves the next.

    Args:
        setup: supply, path, rig and rules of the question.
        states: what is on and what was switched off, of each.

    Yields:
        What holds, what may come on, and why not.
    """
    known: dict[tuple[tuple[str, str], ...], _Requested] = {}
    for on, off in states:
        modes = tuple(sorted((k, m) for k, m in on.items() if m))
        if modes not in known:
            known[modes] = _Requested(_ready(setup, on))
        yield _present(setup, known[modes], on, off)


def present(setup: Setup, on: dict[str, str | None], off: frozenset[str] = frozenset()) -> Present:
    """The rig with these loads on, by id and mode.

    Args:
        setup: supply, path, rig and rules of the question.
        on: loads that are on, by id, and their mode.
        off: loads that are always on by preference and were switched off.

    Returns:
        What holds, what may come on, and why not.
    """
    return next(presents(setup, [(on, off)]))


def _present(
    setup: Setup, requested: _Requested, on: dict[str, str | None], off: frozenset[str]
) -> Present:
    together = requested.together
    loads = {x.id: x for x in setup.rig.loads}
    served = set(together.switchable_ids)
    always = {x.id for x in setup.rig.loads if x.always_on} - off
    running = frozenset(x for x in (*on, *always) if x in served)
    idle = [x for x in loads if x not in running and x in served]
    requested.settle([running, *(running | {x} for x in idle), *(frozenset({x}) for x in idle)])
    now = together.now(together.mask_of(running)[None])
    chips = []
    here = requested.restarts(running)
    for ident, load in loads.items():
        at = requested.demand.get(ident)
        cooling = isinstance(load, AirConditioner)
        mode = together.case.demands[at].mode if at is not None and cooling else None
        modes = COOLING_MODES if cooling else ()
        plain: Document = {
            "load": ident,
            "name": load.name,
            "mode": mode,
            "modes": modes,
            "always_on": load.always_on,
        }
        if ident in running:
            chips.append(Chip(**plain, say=ON))
        elif ident not in served:
            chips.append(Chip(**plain, say=NEVER))
        else:
            chips.append(_off_chip(requested, running, ident, plain, loads, here))
    return Present(
        _legs(together, now),
        sum(_watts(requested, ident) for ident in running),
        requested.settled[running],
        tuple(chips),
        tuple(loads[x].name for x in here),
    )


def _legs(together: Together, now: Now) -> tuple[LegNow, ...]:
    """What is read on each leg; both as one where they hang on one hot conductor."""
    up = together.case.feed.upstream
    volts = [float(np.ravel(now.state.volts(leg))[0]) for leg in range(up.legs)]
    amps = [float(np.ravel(a)[0]) for a in now.amps]
    if len(amps) < up.legs:
        return (LegNow(LEG_NAMES[0], max(amps), min(volts)),)
    return tuple(LegNow(LEG_NAMES[n], amps[n], volts[n]) for n in range(up.legs))


def _watts(requested: _Requested, ident: str) -> float:
    at = requested.demand.get(ident)
    return 0.0 if at is None else sum(d.va.real for d in requested.together.case.demands[at].steady)


def _off_chip(
    requested: _Requested,
    running: frozenset[str],
    ident: str,
    plain: Document,
    loads: Document,
    here: tuple[str, ...],
) -> Chip:
    margin = requested.fits(running, ident)
    if margin >= 0.0:
        return _read(requested, running, ident, plain, loads, MAY, (), margin, here)
    gone = _first_off(requested, running, ident, loads)
    if gone is None:
        return Chip(**plain, say=NEVER, margin=requested.fits(frozenset(), ident))
    left = running - set(gone)
    names = tuple(loads[x].off_words for x in gone)
    return _read(
        requested, left, ident, plain, loads, AFTER, names, requested.fits(left, ident), here
    )


def _read(
    requested: _Requested,
    running: frozenset[str],
    ident: str,
    plain: Document,
    loads: Document,
    say: str,
    names: tuple[str, ...],
    margin: float,
    here: tuple[str, ...],
) -> Chip:
    both = running | {ident}
    together = requested.together
    now = together.now(together.mask_of(both)[None])
    legs = range(together.case.feed.upstream.legs)
    cycle = tuple(loads[x].name for x in requested.restarts(both) if x not in here)
    return Chip(
        **plain,
        say=say,
        first_off=names,
        margin=margin,
        amps=max(float(np.ravel(a)[0]) for a in now.amps),
        volts=min(float(np.ravel(now.state.volts(leg))[0]) for leg in legs),
        cycle=cycle,
    )


def _first_off(
    requested: _Requested, running: frozenset[str], ident: str, loads: Document
) -> tuple[str, ...] | None:
    """The fewest loads that have to go off, least missed first; None where nothing helps."""
    if requested.fits(frozenset(), ident) < 0.0:
        return None
    goes_with = loads[ident].goes_with
    order = sorted(
        (x for x in running if x != goes_with),
        key=lambda x: (RANK[loads[x].priority], -_amps(requested, x), x),
    )
    tried = 0
    for count in range(1, min(MAX_OFF, len(order)) + 1):
        ways = list(combinations(order, count))[:MAX_TRIED]
        requested.settle([(running - set(way)) | {ident} for way in ways])
        for way in ways:
            tried += 1
            if tried > MAX_TRIED:
                break
            left = running - set(way)
            if requested.settled[left | {ident}] >= 0.0 and requested.fits(left, ident) >= 0.0:
                return way
    return tuple(order) if requested.fits(running - set(order), ident) >= 0.0 else None


def _amps(requested: _Requested, ident: str) -> float:
    at = requested.demand.get(ident)
    return 0.0 if at is None else sum(d.amps for d in requested.together.case.demands[at].steady)
