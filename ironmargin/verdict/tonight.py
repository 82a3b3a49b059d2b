"""Tonight in one sentence: whether it lasts, what fails to start, who hears it, what mends it."""

from __future__ import annotations

from ironmargin.enduring.found import Endurance
from ironmargin.enduring.fuel import unknown_store
from ironmargin.limits.coincidence import how_often
from ironmargin.limits.ledger import FAILS
from ironmargin.listed import clock, counted
from ironmargin.setup.model import Setup
from ironmargin.verdict.check import Checked

WORTH_SAYING = 0.05
"""Failed starts a night from which on they are spoken of."""
NIGHT_UNTIL_H = 6.0
"""When a night is over where no hours are asked, on the 24 h clock (common practice)."""


def tonight(checked: Checked, remedy: str = "") -> str:
    """The night of a checked setup in one sentence.

    Args:
        checked: a check that keeps what pictures need.
        remedy: what would mend a setup that fails, as an instruction; empty where none is known.

    Returns:
        The sentence.
    """
    setup, result = checked.case.setup, checked.result
    begins = setup.site.starts_at_h
    hours = setup.conditions.target_hours or (NIGHT_UNTIL_H - begins) % 24.0
    if not checked.case.demands:
        return ""
    fails = [row for row in checked.rows if checked.verdict_of(row) == FAILS]
    if result.verdict == FAILS and not all(row.check == "endurance" for row in fails):
        return "Tonight: not as it is set up." + (f" {remedy}" if remedy else "")
    found = result.endurance
    said = [] if found is None else _stores(found, begins, hours)
    held = not said
    nights = [(s.night, s) for s in checked.starts if s.night is not None]
    worst = max(nights, key=lambda n: n[0].fails, default=None)
    if worst is not None and worst[0].fails >= WORTH_SAYING:
        night, start = worst
        name = checked.case.demands[start.starters[0].demand].load.name
        first = 2.0 * (night.starts - 1.0) * (1.0 - night.restart) < night.fails
        said.append(
            f"{name} starts about {night.starts:.0f} times and fails {how_often(night.fails)}"
            + (", mostly the first time of the evening" if first else "")
        )
    if found is not None:
        said += _noise(found, setup)
    store = unknown_store(setup.supply.engines)
    yes = f"yes, if the fuel lasts ({store} not known)" if store else "yes"
    lead = f"Tonight until {clock(begins + hours)}: {yes if held else 'no'}"
    return f"{'; '.join([lead, *said])}."


def _stores(found: Endurance, begins: float, hours: float) -> list[str]:
    """What runs out before the hours are over, and what to do about it."""
    if found.starves_h is not None and found.starves_h < hours:
        return [
            f"the cylinder is too cold to feed the generator at {clock(begins + found.starves_h)}"
        ]
    if found.fuel_h is not None and found.fuel_h < hours:
        again = len(found.refill_at_h or ()) or 1
        said = f"the fuel is gone at {clock(begins + found.fuel_h)}: refill before then"
        return [said + (f", {counted(again, 'time')} in all" if again > 1 else "")]
    if found.battery_h is not None and found.battery_h < hours:
        return [f"the battery is down at {clock(begins + found.battery_h)}"]
    return []


def _noise(found: Endurance, setup: Setup) -> list[str]:
    """Who hears it."""
    said = []
    if found.neighbour_dba is not None:
        said.append(f"{found.neighbour_dba:.0f} dBA next door, {setup.site.limit_dba:g} allowed")
    if found.quiet_h:
        said.append(f"{found.quiet_h:.0f} h of it inside quiet hours")
    return said
