"""Another air conditioner in place of one: driven by an inverter, or the next smaller."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ironmargin.case import Case
from ironmargin.document import Document
from ironmargin.limits.backfeed import BUILDING, what_it_is
from ironmargin.planning.change import BUY, HARDEST, Change, makes_changes
from ironmargin.setup.changed import with_load
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import running_loads
from ironmargin.tables import rows

SMALLER = 0.93
"""The next smaller unit runs on at most so much of the amps of the one it replaces."""
NO_START: Document = {
    "start": "inverter-drive",
    "soft_start": None,
    "lra_a": None,
    "lra_spread": None,
    "code_letter": None,
    "provenance": "typical",
}
"""What an inverter-driven unit has not, or not from a plate."""


@makes_changes
def other_units(setup: Setup, case: Case) -> Iterator[Change]:
    """Each air conditioner replaced: by one of the same cooling that an inverter drives, which
    ramps up without locked-rotor amps and is taken to run on the same amps at full cooling (common
    practice: hardly less), and by the next smaller of the typical ones.

    Args:
        setup: supply, path, rig and rules of the question.
        case: the same, ready to be solved.

    Yields:
        A change for each.
    """
    for load in running_loads(setup):
        if not isinstance(load, AirConditioner) or load.start_gear == "inverter-drive":
            continue
        yield Change(
            "inverter-unit",
            f"Replace {load.name} with an inverter-driven unit of the same cooling",
            BUY,
            HARDEST,
            load.id,
            partial(with_load, load_id=load.id, **NO_START),
        )
        smaller = _next_smaller(load, setup)
        if smaller is not None:
            yield Change(
                "smaller-unit",
                f"Replace {load.name} with a smaller one: {smaller['name']}",
                BUY,
                4,
                load.id,
                partial(with_load, load_id=load.id, **_figures(smaller)),
                gives_up="some of its cooling",
            )


PORTABLE = "ac-portable-"
"""Units on castors are no replacement: they cool less for the same amps (common practice)."""


def _next_smaller(load: AirConditioner, setup: Setup) -> dict[str, str] | None:
    """The largest typical unit of these volts that runs on clearly fewer amps."""
    amps = load.running_a or (load.high_cool_a or 0.0) * SMALLER
    house = what_it_is(setup) == BUILDING
    found = [
        r
        for r in rows("typical_loads")
        if r["kind"] == AirConditioner.kind
        and float(r["voltage_v"]) == load.voltage_v
        and (r["group"] == "house") == house
        and r["lra_a"]
        and r["start"] != "soft-start"
        and not r["key"].startswith(PORTABLE)
        and float(r["running_a"]) <= SMALLER * amps
    ]
    return max(found, key=lambda r: float(r["running_a"]), default=None)


def _figures(row: dict[str, str]) -> Document:
    """A typical unit's figures, with nothing left of those of the one before."""
    return {
        "running_a": float(row["running_a"]),
        "running_w": None,
        "lra_a": float(row["lra_a"]),
        "lra_spread": None,
        "code_letter": None,
        "hp": None,
        "soft_start": None,
        "start": row["start"],
        "fan_low_a": None,
        "fan_high_a": float(row["fan_high_a"]),
        "low_cool_a": None,
        "high_cool_a": None,
        "provenance": "typical",
    }
