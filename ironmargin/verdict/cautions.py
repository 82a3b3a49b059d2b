"""The usual cautions, only those that this setup calls for, each once; local code and licensed
practice come first.
"""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.case import Case
from ironmargin.electrics.services import SERVICE_120, service_of
from ironmargin.enduring.pitch import CARBON_MONOXIDE_M
from ironmargin.limits.backfeed import BUILDING, CAUTION, UNKNOWN, feeds_alone, secured, what_it_is
from ironmargin.limits.bonding import BONDED, bonding_of, rejects, source_neutral
from ironmargin.limits.breakers import CONTINUOUS_FROM_H
from ironmargin.limits.ledger import Row, SentenceContext, View
from ironmargin.limits.neutral import neutral_amps
from ironmargin.listed import listed
from ironmargin.loads.demand import TRANSFORMER
from ironmargin.setup.hookup import Inlet, Transfer
from ironmargin.setup.loads import Rotating
from ironmargin.setup.managing import manager_of
from ironmargin.setup.post import Shore
from ironmargin.starting.starts import Start
from ironmargin.tables import FOOT_M

MONOXIDE = (
    "Carbon monoxide kills: run the generator outside, its exhaust pointed away, at least "
    f"{CARBON_MONOXIDE_M / FOOT_M:.0f} ft ({CARBON_MONOXIDE_M:.0f} m) from any door, window or "
    "vent, with a working alarm inside."
)
BARE_START_RATIO = 2.5
"""A start direct on line takes at least so many times a small breaker's rating."""
SMALL_BREAKER_A = 20.0
CHATTERS_BELOW = 0.55
"""Share of rated volts below which the contactor of a condensing unit may drop out, 43 to 56 % in
utility tests of residential units (from memory)."""
CONTACTOR_FROM_V = 200.0
"""Units of these volts are switched by a contactor; smaller ones by their thermostat or a relay on
12 V (common practice, no source)."""
RECEPTACLE_V = 127.0
"""Highest volts of ANSI C84.1 range B on a 120 V service (from memory)."""


def cautions_of(view: View, rows: list[Row]) -> tuple[str, ...]:
    """Cautions for a case, each one or two short lines.

    Args:
        view: the case, as the limits see it.
        rows: of the ledger.

    Returns:
        In the order the danger comes, none twice.
    """
    case = view.case
    context = SentenceContext(case, view.now)
    said = [
        *_of_manager(case),
        *_of_supply(case),
        *_of_station(case),
        *_of_same_leg(view),
        *_of_house(case),
    ]
    said += [words for row in rows if (words := row.limit.caution(row, context))]
    said += [*_of_ground(case), *_of_gear(case), *_of_bare_starts(case, view.starts)]
    said += [*_of_starts(case, view.starts), *_of_contactors(case, view.starts)]
    return tuple(dict.fromkeys(said))


def _of_supply(case: Case) -> Iterator[str]:
    if case.setup.supply.engines:
        yield MONOXIDE
    if case.source.eco:
        yield "Eco (idle) mode is on: every start finds the engine at idle."
    if case.source.leg_v > RECEPTACLE_V and service_of(case.source.nominal_v) == SERVICE_120:
        yield "The supply is above 127 V without load: have it looked at before plugging in."


def _of_station(case: Case) -> Iterator[str]:
    """What a power station does by itself at much and at little load."""
    inverter = case.setup.supply.battery
    if inverter is None:
        return
    everything = sum(d.va.real for x in case.demands for d in x.steady)
    base = sum(d.va.real for x in case.demands if x.load.always_on for d in x.steady)
    if inverter.alarm_w is not None and everything >= inverter.alarm_w:
        yield (
            f"The {inverter.words} sounds its alarm from {inverter.alarm_w:,.0f} W: together "
            f"these draw {everything:,.0f} W."
        )
    if inverter.off_below_w is not None and base < inverter.off_below_w:
        alone = f"only {base:,.0f} W stay on" if base > 1.0 else "nothing stays on"
        yield (
            f"The {inverter.words} turns itself off below {inverter.off_below_w:,.0f} W, and "
            f"{alone} when the rest is off: switch that mode off for the night."
        )


def _of_same_leg(view: View) -> Iterator[str]:
    setup = view.case.setup
    if isinstance(setup.supply, Shore) and setup.supply.legs == "same-leg":
        yield (
            "Both outlets are on the same leg: no 240 V load runs, and the neutral carries the "
            f"amps of both, {float(neutral_amps(view.now)):.0f} A here."
        )


def _of_house(case: Case) -> Iterator[str]:
    setup = case.setup
    kind = what_it_is(setup)
    parts = {type(item) for item in setup.hookup}
    unclear = kind == UNKNOWN and (setup.rig.service == "120/240" or Inlet in parts)
    if feeds_alone(case) and (kind == BUILDING or Transfer in parts):
        yield CAUTION
    elif feeds_alone(case) and unclear and not secured(setup):
        yield (
            "If this feeds a building: never without an inlet and a transfer switch or interlock, "
            "or it back-feeds the street. Licensed work."
        )


def _of_ground(case: Case) -> Iterator[str]:
    bonding, (neutral, stated) = bonding_of(case), source_neutral(case)
    if bonding.bonds == 2:
        yield bonding.sentence
    guard = rejects(case)
    if guard is not None and neutral != BONDED and not stated:
        yield (
            "If the supply's neutral is floating, the guard reads an open ground and stays open: "
            "bond the neutral once at the supply, as its manual says."
        )


def _of_gear(case: Case) -> Iterator[str]:
    if any(
        d.plate is not None and d.plate.start in ("hard-start", "soft-start")
        for d in case.demands
        if d.load.id != TRANSFORMER
    ):
        yield (
            "Capacitors hold a charge with the power off: isolate, wait, discharge as the unit's "
            "manufacturer says, before touching."
        )
    if case.feed.transformer is not None:
        yield (
            "A transformer is wired dead on both sides, in an enclosure; a new neutral is bonded "
            "to ground once. Switch it on before anything it feeds. Licensed work."
        )


def _of_manager(case: Case) -> Iterator[str]:
    """What a load manager keeps off, so that nobody waits for it."""
    manager = manager_of(case.setup)
    if manager is None or not case.shed:
        return
    yield (
        f"The load manager keeps {listed([x.name for x in case.shed])} off while the rest runs: "
        f"together they draw more than its {manager.limit_a:g} A. The verdict is without."
    )


def _of_bare_starts(case: Case, starts: tuple[Start, ...]) -> Iterator[str]:
    """Why a bare start trips a small circuit in practice that a cold breaker holds here."""
    small = [b for b, _ in case.breakers if b.rating_a <= SMALL_BREAKER_A and b.where == "post"]
    for start in starts:
        demand = case.demands[start.starters[0].demand]
        bare = demand.plate is not None and not demand.plate.soft_fraction
        if small and bare and start.wanted_a > BARE_START_RATIO * small[0].rating_a:
            yield (
                f"{demand.load.name} starts bare through a {small[0].rating_a:.0f} A breaker: a "
                "cold one holds it, a warm one, a long thin cord or a restart under pressure may "
                "not. A soft starter helps the start; it does not help the rule for loads of "
                f"{CONTINUOUS_FROM_H:.0f} hours."
            )
            return


def _of_starts(case: Case, starts: tuple[Start, ...]) -> list[str]:
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
                f"{name} switched straight from off to high does not start: fan first, let "
                "it settle, then cool."
            )
        gone = start.blinked
        if start.outcome != "lets-go":  # which says so itself
            gone += tuple(at for at in start.off if case.demands[at].plate is None)
        if gone:
            names = listed(case.demands[at].load.name for at in sorted(gone))
            said.append(f"{names} may reset for a moment while {name} starts.")
    return said


def _of_contactors(case: Case, starts: tuple[Start, ...]) -> Iterator[str]:
    """A unit whose own contactor may chatter at a dip that would turn its compressor."""
    for start in starts:
        load = case.demands[start.starters[0].demand].load
        switched = (
            isinstance(load, Rotating)
            and load.metering != "none"
            and load.voltage_v >= CONTACTOR_FROM_V
        )
        min_v = CHATTERS_BELOW * case.source.nominal_v
        if switched and start.passes and start.lowest_v < min_v:
            yield (
                f"At {start.lowest_v:.0f} V the contactor of {load.name} may drop out and chatter: "
                f"keep the dip above {min_v:.0f} V, with a soft starter or a stronger supply."
            )
