"""Step lists before the need: getting ready for an outage, and upkeep by date and hours.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import (
    ADAPTERS,
    BACKFEED,
    MONOXIDE,
    PANEL,
    REFUEL,
    ROOF,
    TESTER,
    Asked,
    Line,
)

STORM = (
    Line(
        "musts",
        "Decide what must run, and what may wait.",
        "Rationing begins before the fuel is low.",
    ),
    Line(
        "fuel",
        "Count fuel, stabilised and dated; fill cylinders; no hot refuelling.",
        "Stations need power, too.",
        needs=("engine",),
        caution=REFUEL,
    ),
    Line(
        "test-run",
        "Run the set under load for half an hour.",
        "The one that will not start tells you today.",
        needs=("engine",),
        wait_s=1800.0,
        caution=MONOXIDE,
    ),
    Line("charge", "Charge every battery full.", "The first hours are theirs.", needs=("battery",)),
    Line(
        "alarm",
        "Test the carbon monoxide alarm.",
        "It is for the night you sleep beside a running set.",
        needs=("engine",),
        gate=Asked(
            "The alarm sounds",
            words="yes",
            if_not="New batteries, or a new alarm, before the storm.",
        ),
    ),
    Line(
        "transfer",
        "Work the interlock once, with the set off, and label it.",
        "In the dark it is worked from memory.",
        needs=("house",),
        caution=BACKFEED,
    ),
    Line(
        "cords",
        "Lay cords and adapters out and look at each.",
        "They are used for days.",
        caution=ADAPTERS,
    ),
    Line(
        "card",
        "Print the card: what may run together, start order, hours of fuel.",
        "Somebody else may have to do it.",
    ),
)

UPKEEP = (
    Line(
        "oil",
        "Change oil: after the first 20 h, then each 100 h or by the maker's book.",
        "Small engines carry little of it.",
        needs=("engine",),
    ),
    Line(
        "filter",
        "Clean the air filter each 50 h, sooner in dust.",
        "Starved of air it gives less and soots.",
        needs=("engine",),
    ),
    Line(
        "plug",
        "Look at the spark plug each 100 h.",
        "A worn one starts hard and idles badly.",
        needs=("engine",),
        without=("fuel-diesel",),
    ),
    Line(
        "fuel-old",
        "Fuel older than a month: stabiliser, or run the bowl dry.",
        "Stale gasoline is why sets do not start.",
        needs=("fuel-gasoline",),
        caution=REFUEL,
    ),
    Line(
        "cylinder",
        "Read the cylinder's date; look at hose and regulator.",
        "Out of date it is not filled.",
        needs=("fuel-propane",),
        caution=REFUEL,
    ),
    Line(
        "exercise",
        "Run it under half load for half an hour each month.",
        "Idle running soots it and proves nothing.",
        needs=("engine",),
        caution=MONOXIDE,
    ),
    Line(
        "contacts",
        "Look at plugs, adapters, cords and inlet for brown, loose or bent.",
        "Heat begins at a contact.",
        caution=ADAPTERS,
    ),
    Line(
        "screws",
        "Have the terminals of inlet and panel checked for tightness, power off.",
        "Shaking loosens them.",
        caution=PANEL,
    ),
    Line(
        "gfci",
        "Press the test button of each ground-fault device.",
        "They fail silently.",
        caution=TESTER,
    ),
    Line(
        "battery",
        "Battery terminals bright, firmware and low-battery stop as you want them.",
        "What is not looked at fails in use.",
        needs=("battery",),
    ),
    Line(
        "coil",
        "Clean the air conditioner's coils and filter.",
        "A dirty coil raises running amps and head pressure.",
        needs=("rooftop",),
        caution=ROOF,
    ),
)


UPKEEP_DAYS = {
    "oil": 180,
    "filter": 90,
    "plug": 180,
    "fuel-old": 30,
    "cylinder": 365,
    "exercise": 30,
    "contacts": 90,
    "screws": 365,
    "gfci": 30,
    "battery": 90,
    "coil": 180,
}
"""Days between reminders (common practice)."""
