"""Benches: begun, pressed, let run and rewound; the core computes, the row remembers."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from ironmargin.bench.clock import Bench
from ironmargin.bench.script import Act, Begin, act_faults
from ironmargin.bench.state import Event, State
from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.protection.breaker import NOMINAL
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup, write_setup
from ironmargin.setup.records import read_record, write_record
from web.bench.models import MAX_RUNS, BenchRun
from web.setups.models import SavedSetup

SPEEDS = (0, 1, 10, 60, 600)
MAX_TICK_S = 4.0
"""A page that was asleep does not let hours pass at once."""
LONGEST_S = 7 * 86400.0
APART_S = 60.0
"""Between the starts of an order that is played (common practice: let each settle)."""
NEXT_S = 8 * 3600.0
MAX_ACTS = 2000
TAIL = 500
MAX_EVENTS = 400


def begin(
    saved: SavedSetup,
    setup: Setup,
    how: str,
    on: list[str] | None = None,
    breakers: str = NOMINAL,
    room_c: float | None = None,
) -> BenchRun:
    """A new bench: ``off`` for a cold rig, ``as-wanted``, ``now`` with some loads on, or ``order``
    with them started one after another; ``breakers`` is the edge of its band each one trips at,
    ``room_c`` how warm it is inside; as outdoors where nobody says.
    """
    every = "as-wanted" if how == "as-wanted" else "off"
    first = Begin(all=every, breakers=breakers, room_c=room_c)
    bench = Bench(setup, first)
    acts: list[Document] = []
    if on:
        known = {x.id for x in setup.rig.loads}
        apart = APART_S if how == "order" else 0.0
        acts = [{"at_s": 0.0, "do": "set", "on": True}]
        acts += [
            {"at_s": apart * (n + 1), "do": "load", "what": x, "on": True}
            for n, x in enumerate(x for x in on if x in known)
        ]
        for act in acts:
            bench.advance(act["at_s"])
            bench.do(act_of(act))
    bench.advance(bench.state.t_s)
    run = BenchRun(
        owner_id=saved.owner_id,
        setup=saved,
        document=write_setup(setup),
        begin=write_record(first),
        acts=acts,
    )
    _put(run, bench)
    run.save()
    old = BenchRun.objects.filter(owner_id=saved.owner_id).values_list("pk", flat=True)
    BenchRun.objects.filter(pk__in=list(old[MAX_RUNS : MAX_RUNS + 50])).delete()
    return run


def act_of(data: Document) -> Act:
    """An act from its plain form.

    Raises:
        SetupError: it is none.
    """
    faults: list[Any] = []
    act = read_record(Act, data, "act", faults)
    if faults:
        raise SetupError(faults)
    found: Act = act
    return found


def bench_of(run: BenchRun) -> Bench:
    """A bench taken up again as it stood."""
    setup = read_setup(run.document)
    bench = Bench(setup, Begin(breakers=_begin(run).breakers), run.seed)
    bench.state = State.of(run.state)
    bench.events = [Event(**e) for e in run.events]
    bench.rows = [tuple(row) for row in run.tail]
    return bench


def _put(run: BenchRun, bench: Bench) -> None:
    run.state = bench.state.plain()
    run.events = [e.plain() for e in bench.events[-MAX_EVENTS:]]
    run.tail = [[round(x, 3) for x in row] for row in bench.rows[-TAIL:]]


def _wall(run: BenchRun, bench: Bench) -> None:
    """Let the time pass that the clock on the wall has."""
    now = timezone.now()
    seconds = min((now - run.ran_at).total_seconds(), MAX_TICK_S) * run.speed
    run.ran_at = now
    if seconds > 0.0:
        bench.advance(min(bench.state.t_s + seconds, LONGEST_S))


def _full(run: BenchRun) -> Fault:
    """That a bench takes no more, and what to do."""
    return Fault(
        "act",
        "too-many",
        f"a bench remembers {MAX_ACTS:,} presses: go back to an earlier event, or begin another "
        f"(got {len(run.acts):,} and one more)",
    )


def touch(owner: User, pk: int, act: Document | None = None, **ask: object) -> BenchRun:
    """Let a bench's time pass, then do one thing to it.

    Args:
        act: what is done, without its second; ask: ``speed``, or ``next`` to go on to the next
        thing that happens.

    Raises:
        BenchRun.DoesNotExist: it is nobody's of this owner.
        SetupError: the act is none on this rig, or there were too many.
    """
    with transaction.atomic():
        run = BenchRun.objects.select_for_update().get(owner=owner, pk=pk)
        bench = bench_of(run)
        before = (bench.state.t_s, len(bench.events), len(run.acts), run.speed)
        _wall(run, bench)
        if act is not None:
            if len(run.acts) >= MAX_ACTS:
                raise SetupError([_full(run)])
            done = {**act, "at_s": bench.state.t_s}
            found = act_of(done)
            faults = act_faults(found, "act", bench.setup)
            if faults:
                raise SetupError(faults)
            bench.do(found)
            bench.advance(bench.state.t_s)
            run.acts = [*run.acts, done]
        if ask.get("next"):
            bench.advance(min(bench.state.t_s + NEXT_S, LONGEST_S), to_event=True)
        if "speed" in ask and ask["speed"] in SPEEDS:
            run.speed = ask["speed"]
        if before != (bench.state.t_s, len(bench.events), len(run.acts), run.speed):
            run.version += 1
            _put(run, bench)
            run.save()
        return run


def replayed(run: BenchRun, until_s: float | None = None) -> Bench:
    """A run played from its beginning, to its present or an earlier moment."""
    end = run.state["t_s"] if until_s is None else until_s
    bench = Bench(read_setup(run.document), _begin(run), run.seed)
    for data in run.acts:
        if data["at_s"] > end:
            break
        bench.advance(data["at_s"])
        bench.do(act_of(data))
    bench.advance(end)
    return bench


def _begin(run: BenchRun) -> Begin:
    found: Begin = read_record(Begin, run.begin, "begin", [])
    return found


def rewind(run: BenchRun, event: int) -> BenchRun:
    """A branch from just before an event; the run it came from is kept."""
    at = max(run.events[event]["at_s"] - 1.0, 0.0) if 0 <= event < len(run.events) else 0.0
    bench = replayed(run, at)
    branch = BenchRun(
        owner_id=run.owner_id,
        setup_id=run.setup_id,
        parent=run,
        document=run.document,
        begin=run.begin,
        seed=run.seed,
        acts=[a for a in run.acts if a["at_s"] <= at],
    )
    _put(branch, bench)
    branch.save()
    return branch
