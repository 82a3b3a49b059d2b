"""Reading meters: a thread for each that a page looks at, in a process of its own.

A page that looks says so in its meter's row; a meter nobody has looked at for a while is hung up
on. What cannot be read is said in the row, in words, and dialled again, each time a little later.
"""

from __future__ import annotations

import contextlib
import logging
import threading
import time
from collections import Counter, deque
from collections.abc import Callable
from dataclasses import asdict
from datetime import timedelta

from django.db import DatabaseError, close_old_connections, connection
from django.db.models import F
from django.utils import timezone

from ironmargin.document import Document
from ironmargin_meter.registers import Nonsense, Reading
from web.meter.catching import Catcher
from web.meter.dial import Refused, address_of
from web.meter.models import Meter
from web.meter.wires import PATIENCE_S, ModbusWire, Wire, wire_to

READ_EVERY_S, WRITE_EVERY_S = 0.1, 0.5
LEFT = timedelta(seconds=20)
SHOWN_S, MAX_CAUGHT, MAX_METERS = 30.0, 8, 16
MAX_OF_ONE = 4
"""Meters of one account that are read at once, so that nobody takes every place."""
FIRST_WAIT_S, LONGEST_WAIT_S = 1.0, 15.0
MAX_BUSY, BUSY_OVER_S = 0.2, 5.0
"""Share of a core one meter may take, over so long; ten readings a second take a fiftieth."""
TOLD_EVERY_S = 60.0
log = logging.getLogger(__name__)
COLUMNS = ("volts_1", "volts_2", "amps_1", "amps_2", "hz", "watts", "wh")


class Tally:
    """What went wrong with meters, counted and told to the log in one line a minute, however many
    there are and however often each fails.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self.clock, self.told_s = clock, clock()
        self.lock = threading.Lock()
        self.counts: Counter[str] = Counter()
        self.meters: set[int] = set()

    def add(self, pk: int, state: str) -> None:
        """One more failure of a meter."""
        with self.lock:
            self.counts[state] += 1
            self.meters.add(pk)

    def tell(self) -> None:
        """Say it, where a minute has passed and there is something to say."""
        with self.lock:
            if self.clock() - self.told_s < TOLD_EVERY_S:
                return
            counts, meters = self.counts, self.meters
            self.counts, self.meters, self.told_s = Counter(), set(), self.clock()
        if counts:
            words = ", ".join(f"{count} x {state}" for state, count in sorted(counts.items()))
            log.warning("%d meters could not be read in the last minute: %s", len(meters), words)


TALLY = Tally()


class Reader:
    """Reads one meter until told to stop, or until nobody looks."""

    def __init__(
        self,
        pk: int,
        clock: Callable[[], float] = time.monotonic,
        busy: Callable[[], float] = time.thread_time,
    ) -> None:
        self.pk, self.clock, self.busy = pk, clock, busy
        self.over = threading.Event()
        self.readings: deque[list[float]] = deque(maxlen=round(SHOWN_S / READ_EVERY_S))
        self.caught: list[Document] = []
        self.catcher = Catcher()
        self.wire: Wire | None = None
        self.written_s = -WRITE_EVERY_S
        self.beat, self.beat_s = -1.0, 0.0
        self.wait_s = FIRST_WAIT_S

    def run(self) -> None:
        """Dial, read, write down; again and again."""
        try:
            held = Meter.objects.filter(pk=self.pk).first()
            self.caught = list(held.caught) if held is not None else []
            while not self.over.is_set():
                held = Meter.objects.filter(pk=self.pk).first()
                if held is None or not _wanted(held):
                    return
                self._say("dialling", f"dialling {held.host}")
                try:
                    self._talk(held)
                except Refused as why:
                    self._again("refused", str(why))
                except Nonsense as why:
                    self._again("nonsense", f"what it sends is no reading: {why}")
                except OSError:
                    self._again("silent", f"no answer from {held.host}, port {held.port}")
                finally:
                    self._hang_up()
        finally:
            self._hang_up()

    def _talk(self, held: Meter) -> None:
        host, port = address_of(held.host, held.port, held.speaks)
        self.wire = wire = wire_to(held, host, port)
        wire.connect()
        since_s, busy_s = self.clock(), self.busy()
        while not self.over.is_set():
            began = self.clock()
            reading = wire.read()
            if self.clock() - since_s >= BUSY_OVER_S:
                share = (self.busy() - busy_s) / (self.clock() - since_s)
                if share > MAX_BUSY:
                    self.wait_s = LONGEST_WAIT_S
                    raise Nonsense(f"reading it takes {100 * share:.0f} % of a processor")
                since_s, busy_s = self.clock(), self.busy()
            if reading is not None:
                self._note(began, reading)
            if began - self.written_s >= WRITE_EVERY_S and not self._write(began):
                return
            self.over.wait(max(READ_EVERY_S - (self.clock() - began), 0.0))

    def _note(self, at_s: float, reading: Reading) -> None:
        now = timezone.now()
        if reading["beat"] != self.beat:
            self.beat, self.beat_s = reading["beat"], at_s
        row = [round(now.timestamp(), 2), *(reading[c] for c in COLUMNS)]
        self.readings.append(row)
        found = self.catcher.feed(at_s, now, reading)
        if found is not None:
            self.caught = [asdict(found), *self.caught][:MAX_CAUGHT]
            if self.wire is not None:
                self.wire.reset()

    def _write(self, at_s: float) -> bool:
        """Write down what was read; whether anybody still looks."""
        self.written_s, self.wait_s = at_s, FIRST_WAIT_S
        hangs = at_s - self.beat_s >= (self.wire or ModbusWire).hangs_s
        state = "hangs" if hangs else "live"
        words = "it answers, but its figures stand still" if hangs else ""
        if not self.readings:
            state, words = "waiting", "connected; it has published nothing yet"
        mine = Meter.objects.filter(pk=self.pk)
        mine.update(
            state=state,
            words=words,
            readings=list(self.readings),
            caught=self.caught,
            beat=F("beat") + 1,
            read_at=timezone.now(),
        )
        held = mine.only("wanted_at").first()
        return held is not None and _wanted(held)

    def _say(self, state: str, words: str) -> None:
        """What keeps a meter from being read; what was read last stays."""
        Meter.objects.filter(pk=self.pk).update(state=state, words=words[:300], beat=F("beat") + 1)

    def _again(self, state: str, words: str) -> None:
        TALLY.add(self.pk, state)
        self._say(state, f"{words}; tried again in {self.wait_s:.0f} s")
        self.catcher = Catcher()
        self.over.wait(self.wait_s)
        self.wait_s = min(self.wait_s * 2.0, LONGEST_WAIT_S)

    def _hang_up(self) -> None:
        if self.wire is not None:
            self.wire.close()
            self.wire = None


def _wanted(held: Meter) -> bool:
    return held.wanted_at is not None and held.wanted_at > timezone.now() - LEFT


def _thread(reader: Reader) -> None:
    """Run a reader in a thread of its own; the keeper begins another when the database is back."""
    try:
        with contextlib.suppress(DatabaseError):
            reader.run()
    finally:
        connection.close()


class Keeper:
    """Keeps a thread for every meter a page looks at."""

    def __init__(self) -> None:
        self.threads: dict[int, tuple[threading.Thread, Reader]] = {}

    def turn(self) -> None:
        """Begin what is looked at and not read yet; forget what has ended."""
        TALLY.tell()
        close_old_connections()
        self.threads = {pk: t for pk, t in self.threads.items() if t[0].is_alive()}
        since = timezone.now() - LEFT
        looked = Meter.objects.filter(wanted_at__gt=since).order_by("wanted_at", "pk")
        owners = dict(looked.values_list("pk", "setup__owner_id"))
        held = Counter(owners.get(pk) for pk in self.threads)
        # Who has fewest comes first.
        for pk, owner in sorted(owners.items(), key=lambda item: held[item[1]]):
            if pk in self.threads:
                continue
            full = len(self.threads) >= MAX_METERS
            if full or held[owner] >= MAX_OF_ONE:
                many = f"{MAX_METERS} meters" if full else f"{MAX_OF_ONE} meters of yours"
                says = f"{many} are being read already; this one waits"
                Meter.objects.filter(pk=pk).update(state="waiting", words=says, beat=F("beat") + 1)
                continue
            held[owner] += 1
            reader = Reader(pk)
            thread = threading.Thread(
                target=_thread, args=(reader,), name=f"meter {pk}", daemon=True
            )
            self.threads[pk] = (thread, reader)
            thread.start()

    def stop(self) -> None:
        """Hang up everywhere."""
        for _, reader in self.threads.values():
            reader.over.set()
        for thread, _ in self.threads.values():
            thread.join(PATIENCE_S + 1.0)
