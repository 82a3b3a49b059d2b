"""The usual cautions, only those that this setup calls for; local code and licensed practice come
first.
"""

from __future__ import annotations

from ironmargin.case import Case
from ironmargin.setup.supplies import Assist, Generator, Parallel
from ironmargin.starting.starts import Start
from ironmargin.verdict.listed import listed
from ironmargin.verdict.result import PathRow


def cautions_of(case: Case, path: list[PathRow], starts: list[Start]) -> tuple[str, ...]:
    """Cautions for a case, each one or two short lines."""
    setup = case.setup
    supply = setup.supply
    engine = isinstance(supply, Generator | Parallel) or (
        isinstance(supply, Assist) and isinstance(supply.input, Generator)
    )
    said = []
    if engine:
        said.append(
            "Carbon monoxide kills: generator outside, exhaust away, at least 20 ft (6 "
            "m) from any opening, alarm fitted."
        )
    if any(item.kind == "transfer" for item in setup.hookup):
        said.append(
            "Backfeed kills people on the line: interlock or transfer switch, main off "
            "first. Licensed work."
        )
    elif (
        engine
        and any(item.kind == "inlet" for item in setup.hookup)
        and setup.rig.service == "120/240"
    ):
        said.append(
            "If this inlet feeds a house: never without a transfer switch or interlock. "
            "Licensed work."
        )
    for item in setup.hookup:
        if item.condition != "good":
            said.append(
                f"A {item.kind} that is {item.condition}, brown, loose or bent is out of "
                "service. Do not rely on the breaker."
            )
            break
    if case.feed.guard is not None:
        wait = f"{case.feed.guard.delay_s:.0f} s"
        said.append(
            "Never bypass the guard: it opens for bad volts, open ground or reversed "
            f"polarity, and waits {wait} before it closes."
        )
    for row in path:
        if row.unprotected and row.margin < 0.2:
            said.append(f"No breaker protects {row.name}: only your own attention does.")
    if any(
        d.load.kind in ("motor", "air-conditioner")
        and d.plate
        and d.plate.start in ("hard-start", "soft-start")
        for d in case.demands
    ):
        said.append(
            "Capacitors hold a charge with the power off: isolate, wait, discharge as "
            "the unit's maker says, before touching."
        )
    if case.source.eco:
        said.append("Eco (idle) mode is on: every start finds the engine at idle.")
    if case.source.leg_v > 127 and case.source.nominal_v == 120:
        said.append("The supply is above 127 V without load: have it looked at before plugging in.")
    return tuple(said + _of_starts(case, starts))


def _of_starts(case: Case, starts: list[Start]) -> list[str]:
    """What the wrong order would do, each with the order that avoids it."""
    said = []
    for start in starts:
        name = case.demands[start.starters[0].demand].load.name
        if start.passes and start.restart is not None and start.restart != "starts":
            said.append(
                f"{name} does not restart against pressure: wait three to five minutes "
                "after it stops."
            )
        if (
            start.passes
            and start.straight_to_high is not None
            and start.straight_to_high != "starts"
        ):
            said.append(
                f"{name} knocked straight from off to high does not start: fan first, let "
                "it settle, then cool."
            )
        gone = start.blinked
        if start.outcome != "lets-go":  # which says so itself
            gone += tuple(at for at in start.off if case.demands[at].plate is None)
        if gone:
            names = listed(case.demands[at].load.name for at in sorted(gone))
            said.append(f"{names} may reset for a moment while {name} starts.")
    return said
