"""The demo's logs: invented readings around what the engine says of each rig, some good, one taken
with too slow a meter, one around the whole cord.
"""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

from django.contrib.auth.models import User

from ironmargin.document import Document
from ironmargin.electrics.services import nominal_of
from ironmargin.learning.entries import OUTCOMES, StartEntry
from ironmargin.learning.observed import with_changes
from ironmargin.learning.running import demand_in
from ironmargin.setup.loads import Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
from web.logbook.models import LogEntry
from web.logbook.service import faults_of
from web.setups import repository
from web.setups.models import SavedSetup

LOGGED = (
    "Clay wagon, school yard 30 A post",
    "Clay wagon, 3.4 kW generator at 1,600 m",
    "Alder Creek, 7 kW generator, soft starter",
    "Comet van, 6 A field post, supper",
)
MIN = 12
# Day of August, local time, open volts, volts under load, amps.
VISITS = (
    (9, "08:20", 121.0, 119.1, 12.4), (10, "07:50", 120.8, 118.9, 12.2),
    (12, "18:40", 118.9, 115.1, 12.6), (13, "19:20", 118.6, 115.0, 12.1),
    (14, "18:05", 119.2, 115.6, 12.5),
)  # fmt: skip
FIRST = datetime(2026, 6, 6, 14, 5, tzinfo=UTC)
Entry = Document


def _starts(setup: Setup, draw: random.Random) -> list[Entry]:
    result = examine(setup, quick=True).result
    motors = {
        x.id for x in setup.rig.loads if getattr(x, "start_gear", "") not in ("", "universal")
    }
    found: list[Entry] = []
    for start in [s for s in result.starts if s.load in motors and s.outcome == "starts"][:2]:
        one: Entry = {"kind": "start", "load": start.load, "outcome": "starts"}
        soft = next(
            (
                x
                for x in setup.rig.loads
                if x.id == start.load and isinstance(x, Rotating) and x.start_gear == "soft-start"
            ),
            None,
        )
        if soft is not None:
            found.append(one | _before(setup, start.load))
            for count in (1, 3):
                higher = round(start.peak_a * (1.25 - 0.06 * count), 1)
                found.append(
                    one
                    | {"peak_a": higher, "changed": {"learned_starts": count}, "notes": "learning"}
                )
        for _ in range(2):
            found.append(
                one
                | {
                    "peak_a": round(start.peak_a * draw.uniform(0.93, 0.99), 1),
                    "lowest_v": round(start.lowest_v * draw.uniform(0.98, 1.01)),
                }
            )
        slow = round(start.settled_a * 0.85, 1)
        found.append(
            one | {"peak_a": slow, "instrument": "monitor", "notes": "read off the monitor"}
        )
    if found:
        cord = {k: v for k, v in found[-1].items() if k in ("kind", "load", "outcome")}
        found.append(cord | {"peak_a": 0.3, "on": "whole-cord", "notes": "around the whole cord"})
    return found


def _before(setup: Setup, load: str) -> Entry:
    """The start before the soft starter was fitted, as the engine has it."""
    gear = {"start": "start-capacitor"}
    was = examine(with_changes(setup, StartEntry(load=load, changed=gear)), quick=True).result
    row = next(s for s in was.starts if s.load == load)
    outcome = row.outcome if row.outcome in OUTCOMES else "trips"
    return {
        "peak_a": round(row.peak_a * 0.98, 1),
        "outcome": outcome,
        "changed": gear,
        "notes": "before the soft starter",
    }


def _runs(setup: Setup, draw: random.Random) -> list[Entry]:
    found: list[Entry] = []
    for load in setup.rig.loads[:6]:
        amps = sum(d.amps for d in demand_in(setup, load.id, None).steady)
        read = round(amps * draw.uniform(0.93, 1.06), 1)
        found.append({"kind": "run", "load": load.id, "amps": read, "instrument": "clamp"})
    base = [x for x in setup.rig.loads if x.kind in ("resistive", "electronic", "charger")][:3]
    steps: list[Entry] = [{"on": [], "amps": 0.4}]
    for load in base:
        amps = sum(d.amps for d in demand_in(setup, load.id, None).steady)
        steps.append({"on": [load.id], "amps": round(0.4 + amps * draw.uniform(0.97, 1.03), 1)})
    found.append({"kind": "survey", "steps": steps, "notes": "one thing at a time"})
    return found


def _others(setup: Setup) -> list[Entry]:
    found: list[Entry] = [{"kind": "energy", "hours": 48, "kwh": 31.4, "park_kwh": 33.0}]
    nominal = nominal_of(setup.rig.service)
    if setup.supply.post is not None:
        found.append({"kind": "supply", "volts": nominal + 1, "amps": 0.4, "tester": "correct"})
    else:
        found += [
            {"kind": "noise", "dba": 74, "at_m": 1, "side": "exhaust", "background_dba": 41},
            {"kind": "noise", "dba": 66, "at_m": 2, "background_dba": 41},
            {"kind": "noise", "dba": 57, "at_m": 7, "background_dba": 41},
            {
                "kind": "fuel",
                "fuel": getattr(setup.supply, "fuel", "gasoline"),
                "litres": 8.4,
                "hours": 7.5,
                "mean_w": 1300,
            },
        ]
    return found


def entries_for(setup: Setup) -> list[Entry]:
    """The invented log of a setup, oldest first."""
    draw = random.Random(setup.name)  # noqa: S311  (invented, not secret)
    found = [*_others(setup)[:1], *_runs(setup, draw), *_starts(setup, draw), *_others(setup)[1:]]
    while len(found) < MIN:
        found[1:1] = _runs(setup, draw)[:-1]
    dated = [
        entry | {"at": (FIRST + timedelta(days=3 * n, hours=n % 5)).isoformat()}
        for n, entry in enumerate(found)
    ]
    return dated + (_visits() if setup.name == LOGGED[0] else [])


def _visits() -> list[Entry]:
    """Visits to one post, each with volts unloaded and loaded, and its reducer felt once."""
    found: list[Entry] = []
    for day, clock, open_v, volts, amps in VISITS:
        at = datetime.fromisoformat(f"2026-08-{day:02d}T{clock}:00-06:00")
        for minutes, read, load in ((0, open_v, 0.4), (4, volts, amps)):
            when = (at + timedelta(minutes=minutes)).isoformat()
            found.append({"kind": "supply", "at": when, "volts": read, "amps": load})
    warm = [
        {"minute": m, "surface_c": c} for m, c in ((0, 30.0), (5, 34.0), (15, 36.5), (30, 37.5))
    ]
    felt = {"kind": "plug", "item": 0, "amps": 24.0, "air_c": 30.0, "by": "infrared"}
    return [*found, felt | {"readings": warm, "at": "2026-08-21T15:40:00-06:00"}]


def load_logs(owner: User) -> None:
    """Give the demo's setups their logs."""
    for saved in SavedSetup.objects.filter(owner=owner, name__in=LOGGED):
        setup = read_setup(repository.compose(saved))
        for entry in entries_for(setup):
            if not faults_of(setup, entry):
                LogEntry.objects.create(
                    setup=saved, kind=entry["kind"], document=entry, at=entry["at"]
                )
