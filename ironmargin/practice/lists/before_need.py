"""Step lists before the need: getting ready for an outage, and upkeep by date and hours.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import (
    ADAPTERS,
    BACKFEED,
    PANEL,
    REFUEL,
    ROOF,
    TESTER,
    Line,
    Requested,
)
from ironmargin.verdict.cautions import MONOXIDE

STORM = (
    Line(
        "musts",
        "Decide what must run, and what may wait.",
        "If you start to ration early, the fuel lasts.",
    ),
    Line(
        "fuel",
        "Count your fuel: stabilized, with the date on each can. Have the cylinders filled. "
        "Never refuel a hot generator.",
        "Gas stations need power, too.",
        needs=("engine",),
        caution=REFUEL,
    ),
    Line(
        "test-run",
        "Run the generator under load for half an hour.",
        "If it will not start, you want to know today.",
        needs=("engine",),
        wait_s=1800.0,
        caution=MONOXIDE,
    ),
    Line(
        "charge",
        "Charge every battery until it is full.",
        "They carry the first hours.",
        needs=("battery",),
    ),
    Line(
        "alarm",
        "Test the carbon monoxide alarm.",
        "You will sleep near a running generator.",
        needs=("engine",),
        gate=Requested(
            "The alarm sounds",
            words="yes",
            if_not="Put in new batteries, or get a new alarm, before the storm.",
        ),
    ),
    Line(
        "transfer",
        "With the generator off, work the interlock once and label it.",
        "You may have to do it in the dark.",
        needs=("house",),
        caution=BACKFEED,
    ),
    Line(
        "cords",
        "Lay out the cords and adapters and look at each one.",
        "They will carry load for days.",
        caution=ADAPTERS,
    ),
    Line(
        "card",
        "Print the card: what may run together, the order to start it in, the hours of fuel.",
        "Somebody else may have to run things.",
    ),
)

UPKEEP = (
    Line(
        "oil",
        "Change the oil after the first 20 h, then every 100 h or as the manual says.",
        "Small engines hold very little oil.",
        needs=("engine",),
    ),
    Line(
        "filter",
        "Clean the air filter every 50 h, more often in dust.",
        "A clogged filter costs power and fouls the engine.",
        needs=("engine",),
    ),
    Line(
        "plug",
        "Check the spark plug every 100 h.",
        "With a worn plug it starts hard and idles badly.",
        needs=("engine",),
        without=("fuel-diesel",),
    ),
    Line(
        "fuel-old",
        "Fuel older than a month: add stabilizer, or run the carburetor dry.",
        "Stale gasoline is the usual reason a generator will not start.",
        needs=("fuel-gasoline",),
        caution=REFUEL,
    ),
    Line(
        "cylinder",
        "Read the date on the cylinder; check the hose and the regulator.",
        "Nobody will fill a cylinder that is out of date.",
        needs=("fuel-propane",),
        caution=REFUEL,
    ),
    Line(
        "exercise",
        "Run it at half load for half an hour every month.",
        "Idling fouls the engine and proves nothing.",
        needs=("engine",),
        caution=MONOXIDE,
    ),
    Line(
        "contacts",
        "Check plugs, adapters, cords and inlet for anything brown, loose or bent.",
        "Overheating starts at a bad contact.",
        caution=ADAPTERS,
    ),
    Line(
        "screws",
        "Have the terminals of the inlet and the panel checked for tightness, with the power off.",
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
        "Check the batteries: terminals clean and tight, firmware up to date, low-battery cutoff "
        "set where you want it.",
        "What nobody checks fails when you need it.",
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
