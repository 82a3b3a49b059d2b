"""Catching starts in what a meter shows: when one begins, what it peaked at, what it settled to."""

from __future__ import annotations

import statistics
from collections import deque
from dataclasses import dataclass
from datetime import datetime

from ironmargin_meter.registers import Reading

MIN_A, MIN_SHARE = 2.0, 0.25
"""A rise this far above what ran before is something switched on [A, 1]."""
BEFORE_S, AFTER_S = 2.0, 4.0
RUSH = 1.3
"""A peak this much above what it settles to was a start; less is a load switched on."""
DEAD_V = 30.0


@dataclass(frozen=True)
class Caught:
    """Something that was switched on: before, at most, lowest, after."""

    at: str
    what: str
    before_a: float
    peak_a: float
    lowest_v: float
    after_a: float
    after_v: float
    outcome: str


class Catcher:
    """Watches the busier leg; feed it every reading."""

    def __init__(self) -> None:
        self.before: deque[tuple[float, float]] = deque()
        self.begun_s: float | None = None
        self.base = 0.0
        self.old_a: float | None = None
        """What the meter held when it was first read: a start nobody saw."""
        self.since: list[tuple[float, Reading]] = []
        self.at = ""

    def feed(self, t_s: float, now: datetime, reading: Reading) -> Caught | None:
        """What a reading completes, if it does; the meter's holds are then begun anew."""
        amps = max(reading["amps_1"], reading["amps_2"])
        held = max(reading["held_a_1"], reading["held_a_2"], amps)
        if self.old_a is None or held < self.old_a:
            self.old_a = held
        if self.begun_s is None:
            while self.before and self.before[0][0] < t_s - BEFORE_S:
                self.before.popleft()
            if self.before:
                base = statistics.median(a for _, a in self.before)
                if (held if held > self.old_a else amps) > base + max(MIN_A, MIN_SHARE * base):
                    self.begun_s, self.base, self.at = t_s, base, now.isoformat(timespec="seconds")
            self.before.append((t_s, amps))
            if self.begun_s is None:
                return None
        self.since.append((t_s, reading))
        if t_s - self.begun_s < AFTER_S:
            return None
        return self._done()

    def _done(self) -> Caught | None:
        readings = [r for _, r in self.since]
        late = [r for t, r in self.since if t >= self.since[-1][0] - AFTER_S / 4]
        after = statistics.median(max(r["amps_1"], r["amps_2"]) for r in late)
        volts = statistics.median(r["volts_1"] for r in late)
        shown = max(max(r["amps_1"], r["amps_2"]) for r in readings)
        held = max(max(r["held_a_1"], r["held_a_2"]) for r in readings)
        peak = max(shown, held if held > (self.old_a or 0.0) else 0.0)
        lowest = min(r["held_v"] or r["volts_1"] for r in readings)
        self.before.clear()
        self.before.append((self.since[-1][0], after))
        self.begun_s, self.old_a, self.since = None, None, []
        if volts < DEAD_V:
            outcome, what = "trips", "start"
        elif after <= self.base + MIN_A / 2:
            outcome, what = "stalls", "start"
        else:
            outcome, what = "starts", "start" if peak > RUSH * after else "load"
        return Caught(
            self.at,
            what,
            round(self.base, 2),
            round(peak, 2),
            round(lowest, 1),
            round(after, 2),
            round(volts, 1),
            outcome,
        )
