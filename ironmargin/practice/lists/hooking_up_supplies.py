"""The lines of hooking up that are a kind of supply's own: house, set, battery, vehicle and so on.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import (
    BACKFEED,
    BONDS,
    ENGINE_BY_ITSELF,
    GAS,
    HEAT_OF_BATTERIES,
    LICENSED,
    LICENSED_GAS,
    REFUEL,
    TESTER,
    Line,
    Requested,
)
from ironmargin.verdict.cautions import MONOXIDE

TESTER_GATE = Requested(
    "The tester says",
    words="correct",
    if_not="Unless it shows correct, do not use this outlet.",
    ends=True,
)
OF_A_HOUSE = (
    Line(
        "main-off",
        "Turn the house's main off and tag it. Check that the interlock or the transfer switch "
        "holds it off.",
        "The inlet may be live only while the utility is disconnected.",
        needs=("house",),
        caution=BACKFEED,
        gate=Requested(
            "The main is off and the interlock holds it",
            words="yes",
            if_not="Never feed a panel that is still connected to the utility.",
            ends=True,
        ),
        makes=("main-off",),
    ),
    Line(
        "inlet-off",
        "Turn the inlet's breaker and every branch breaker off.",
        "Then circuits come back one at a time, not all at once.",
        needs=("house",),
        given=("main-off",),
        makes=("-inlet-live", "loads-off"),
    ),
    Line(
        "neutral-switched",
        "This transfer switch switches the neutral, so the neutral must be bonded to ground "
        "once, at the {supply}.",
        "Without that bond no breaker opens on a fault to ground.",
        needs=("house", "switched-neutral", "own-source"),
        caution=LICENSED,
    ),
    Line(
        "neutral-solid",
        "The neutral is not switched here, so the house's bond is the one bond: the {supply}'s "
        "neutral must float.",
        "A second bond puts neutral current on ground wires and metal frames.",
        needs=("house", "own-source"),
        without=("switched-neutral",),
        caution=LICENSED,
    ),
)
OF_A_SET = (
    Line(
        "generator-place",
        "Put the generator outside, level and dry, with its exhaust away from doors, windows and "
        "neighbors.",
        "Nobody smells carbon monoxide, and nobody wakes up from it.",
        needs=("engine",),
        caution=MONOXIDE,
        makes=("placed",),
    ),
    Line(
        "gasoline",
        "Fill the tank while the generator is cold and stopped. Wipe up spills.",
        "Fuel on a hot muffler catches fire.",
        needs=("fuel-gasoline",),
        caution=REFUEL,
        given=("-set-running",),
    ),
    Line(
        "propane",
        "Stand the cylinder upright, outside, away from the exhaust. Connect the hose with the "
        "valve closed, then open the valve slowly.",
        "If you open it fast, the flow check closes and the generator gets no fuel.",
        needs=("fuel-propane",),
        given=("placed", "-set-running"),
        makes=("valve-open",),
    ),
    Line(
        "natural-gas",
        "Connect the hose to its quick connector with both valves closed, then open them slowly.",
        "The connector and its line are a gas fitter's work. Only the hose is yours.",
        needs=("fuel-natural_gas",),
        caution=LICENSED_GAS,
        given=("placed", "-set-running"),
        makes=("valve-open",),
    ),
    Line(
        "leak-check",
        "Leak check: brush soapy water on each joint from the valve to the generator.",
        "Bubbles mean a leak. Propane is heavier than air and collects near the ground; natural "
        "gas rises.",
        needs=("gas",),
        tools=("soapy water",),
        caution=GAS,
        gate=Requested(
            "Bubbles",
            words="none",
            if_not="Close the valve, undo the joint, clean it and connect it again. Do not use a "
            "joint that still leaks.",
        ),
        given=("valve-open", "-set-running"),
        makes=("leak-checked",),
    ),
    Line(
        "fuel-selector",
        "Turn the generator's fuel selector to {fuel}.",
        "In the other position it starts and dies.",
        needs=("two-fuels",),
        given=("-set-running",),
    ),
    Line(
        "parallel-kit",
        "Connect the generators with their parallel cable set while both are stopped and "
        "nothing is plugged in.",
        "The pins of a parallel plug are bare, and live when a generator runs.",
        needs=("pair",),
        given=("-set-running", "-plugged"),
    ),
    Line(
        "selector",
        "Turn the generator's voltage selector to 120/240 V.",
        "In the 120 V position there is no 240 V for a pump or a cooktop.",
        needs=("selector", "split-rig"),
        gate=Requested(
            "Selector at", words="120/240", if_not="In the other position 240 V loads stay dead."
        ),
        given=("-set-running",),
    ),
    Line(
        "generator-warm",
        "Start the generator with nothing plugged in and let it warm up.",
        "While it starts and stops its volts are far off.",
        needs=("engine",),
        wait_s=120.0,
        given=("placed", "-plugged"),
        makes=("set-running", "outlet-live"),
    ),
    Line(
        "eco-off",
        "Switch eco off.",
        "A generator at idle gives about half its power for the first second or two.",
        needs=("may-eco",),
        given=("set-running",),
    ),
    Line(
        "tester-floating",
        "Put an outlet tester in the generator's outlet. It shows open ground because the "
        "neutral floats. That is no fault here.",
        "Reversed polarity or an open neutral is a fault on any generator.",
        needs=("carries", "floating"),
        without=("230",),
        tools=("outlet tester",),
        gate=Requested(
            "The tester says",
            words="open ground",
            if_not="A generator with a floating neutral shows open ground and nothing else. "
            "Correct means it is bonded: enter that in the setup. Anything else is a "
            "fault: do not use it.",
        ),
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "tester-bonded",
        "Put an outlet tester in the generator's outlet.",
        "A bonded generator must show correct.",
        needs=("carries", "bonded"),
        without=("230",),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "tester-unknown",
        "Put an outlet tester in the generator's outlet. Correct means its neutral is bonded; "
        "open ground means it floats. Enter it in the setup.",
        "Guards and transfer switches depend on it. The manual says it, too.",
        needs=("carries", "neutral-unknown"),
        without=("230",),
        tools=("outlet tester",),
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "bonding-plug",
        "Put a bonding plug into a free outlet of the generator, if its manual allows one.",
        "The guard reads a floating neutral as an open ground and stays open.",
        needs=("carries", "floating", "guard"),
        without=("house", "230"),
        caution=BONDS,
        given=("-plugged",),
    ),
)
OF_A_BATTERY = (
    Line(
        "ventilate",
        "Keep the inverter in the shade, its vents clear, with nothing on top of it.",
        "The hotter it gets the less it gives, and then it shuts off.",
        needs=("battery",),
        without=("vehicle",),
        caution=HEAT_OF_BATTERIES,
    ),
    Line(
        "alarm",
        "Set the low-battery alarm. It gives {inverter_w:,.0f} W for hours and beeps above that.",
        "The alarm sounds before it shuts off.",
        needs=("battery",),
        without=("vehicle",),
    ),
    Line(
        "inverter-on",
        "Switch the inverter's output on.",
        "It must be running before you plug anything in.",
        needs=("battery",),
        without=("assist", "vehicle"),
        given=("-plugged",),
        makes=("outlet-live",),
    ),
)
OF_A_VEHICLE = (
    Line(
        "vehicle-parked",
        "Park it outdoors and level, in park, brake set, where nobody trips over the cord.",
        "A cord under tension can pull out live.",
        needs=("vehicle",),
        caution=ENGINE_BY_ITSELF,
        given=("-plugged",),
    ),
    Line(
        "vehicle-reserve",
        "Set the charge level at which its outlets stop: enough to drive to the next charger.",
        "At that level everything goes off at once, and nothing in the rig warns you.",
        needs=("vehicle",),
        gate=Requested(
            "Reserve set",
            words="yes",
            if_not="Then watch its charge yourself, or it may be too low to drive.",
        ),
    ),
    Line(
        "vehicle-bonded",
        "Its outlets are bonded and have ground-fault protection. Use no bonding plug, and do "
        "not feed a panel that has its own bond.",
        "With two bonds the ground-fault protection trips as soon as you plug in.",
        needs=("vehicle", "bonded"),
        caution=BONDS,
        given=("-plugged",),
    ),
    Line(
        "vehicle-on",
        "Switch its outlets on at its screen or button. They give {inverter_w:,.0f} W and shut "
        "off above that.",
        "They have almost no surge.",
        needs=("vehicle",),
        without=("assist",),
        given=("-plugged",),
        makes=("outlet-live",),
    ),
)
OF_A_TRANSFORMER = (
    Line(
        "transformer-off",
        "Turn the transformer off on both sides and leave it off.",
        "It goes on before everything it feeds, and off after it.",
        needs=("transformer",),
        makes=("transformer-off",),
    ),
    Line(
        "transformer-windings",
        "Before first use, with it unplugged, measure between the input and the output winding.",
        "An isolation transformer has no connection between them.",
        needs=("transformer", "isolating"),
        tools=("ohm meter",),
        gate=Requested(
            "Continuity between the windings",
            words="none",
            if_not="It does not isolate: do not use it as an isolation transformer.",
            ends=True,
        ),
        given=("transformer-off", "-plugged"),
    ),
    Line(
        "transformer-derived",
        "Its new neutral must be bonded to ground once, at the transformer.",
        "With no bond, or with two, metal you touch can be live.",
        needs=("transformer", "derived"),
        caution=LICENSED,
        given=("transformer-off",),
    ),
    Line(
        "transformer-through",
        "The neutral passes through this transformer, so do not bond it here.",
        "The one bond is at the supply. A second one carries current.",
        needs=("transformer",),
        without=("derived",),
        given=("transformer-off",),
    ),
    Line(
        "transformer-box",
        "Keep its cover on. Keep it dry, with 4 in (10 cm) of air around it, out of reach of "
        "children.",
        "Its terminals are live as soon as the supply is.",
        needs=("transformer",),
        given=("transformer-off",),
    ),
)
