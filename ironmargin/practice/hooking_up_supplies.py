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
    MONOXIDE,
    REFUEL,
    TESTER,
    Asked,
    Line,
)

TESTER_GATE = Asked(
    "The tester says",
    words="correct",
    if_not="Anything but correct means this outlet is not to be used.",
    ends=True,
)
OF_A_HOUSE = (
    Line(
        "main-off",
        "Put the house's main off and tag it. Check that the interlock or switch holds it there.",
        "The inlet may only be live with the street shut out.",
        needs=("house",),
        caution=BACKFEED,
        gate=Asked(
            "Main off and held by the interlock",
            words="yes",
            if_not="Never feed a panel that can still feed the street.",
            ends=True,
        ),
        makes=("main-off",),
    ),
    Line(
        "inlet-off",
        "Put the inlet's breaker and every branch breaker off.",
        "The panel comes back circuit by circuit, not all in one moment.",
        needs=("house",),
        given=("main-off",),
        makes=("-inlet-live", "loads-off"),
    ),
    Line(
        "neutral-switched",
        "This transfer switch switches the neutral: the {supply} has to be bonded to ground, once, "
        "at the {supply}.",
        "Without that bond a fault to ground opens no breaker.",
        needs=("house", "switched-neutral", "own-source"),
        caution=LICENSED,
    ),
    Line(
        "neutral-solid",
        "The neutral is not switched here, so the house's own bond serves: the {supply}'s neutral "
        "must float.",
        "A second bond puts neutral current on ground wires and frames.",
        needs=("house", "own-source"),
        without=("switched-neutral",),
        caution=LICENSED,
    ),
)
OF_A_SET = (
    Line(
        "generator-place",
        "Set the generator down outside, level and dry, exhaust away from doors, windows and "
        "neighbors.",
        "Its exhaust is odorless enough to be slept through.",
        needs=("engine",),
        caution=MONOXIDE,
        makes=("placed",),
    ),
    Line(
        "gasoline",
        "Fill the tank while the set is cold and stopped; wipe up what was spilled.",
        "What drips on a hot muffler burns.",
        needs=("fuel-gasoline",),
        caution=REFUEL,
        given=("-set-running",),
    ),
    Line(
        "propane",
        "Stand the cylinder upright, outside, away from the exhaust. Join the hose with the valve "
        "closed, then open it slowly.",
        "Opened fast, the valve's flow check closes and the set starves.",
        needs=("fuel-propane",),
        given=("placed", "-set-running"),
        makes=("valve-open",),
    ),
    Line(
        "natural-gas",
        "Join the hose to its quick connector with both valves closed, then open them slowly.",
        "The connector and its line are a gas fitter's work; the hose is yours.",
        needs=("fuel-natural_gas",),
        caution=LICENSED_GAS,
        given=("placed", "-set-running"),
        makes=("valve-open",),
    ),
    Line(
        "leak-check",
        "Brush soapy water on each joint from the valve to the set.",
        "Propane is heavier than air and gathers where you kneel; natural gas rises.",
        needs=("gas",),
        tools=("soapy water",),
        caution=GAS,
        gate=Asked(
            "Bubbles",
            words="none",
            if_not="Close the valve, undo, clean and join again; a joint that still leaks is not "
            "used.",
        ),
        given=("valve-open", "-set-running"),
        makes=("leak-checked",),
    ),
    Line(
        "fuel-selector",
        "Turn the set's fuel selector to {fuel}.",
        "On the other fuel it starts and dies.",
        needs=("two-fuels",),
        given=("-set-running",),
    ),
    Line(
        "parallel-kit",
        "Join the sets with their kit while both stand still and nothing is plugged in.",
        "Live parallel plugs are bare pins.",
        needs=("pair",),
        given=("-set-running", "-plugged"),
    ),
    Line(
        "selector",
        "Turn the set's selector to 120/240 V.",
        "In the 120 V position there is no 240 V for the pump or the cooktop.",
        needs=("selector", "split-rig"),
        gate=Asked(
            "Selector at", words="120/240", if_not="240 V loads stay dead on the other position."
        ),
        given=("-set-running",),
    ),
    Line(
        "generator-warm",
        "Start the set with nothing plugged in, and let it warm up.",
        "Loads plugged in during start and stop see anything but nominal volts.",
        needs=("engine",),
        wait_s=120.0,
        given=("placed", "-plugged"),
        makes=("set-running", "outlet-live"),
    ),
    Line(
        "eco-off",
        "Switch eco off.",
        "From idle a set gives about half for the first second or two.",
        needs=("may-eco",),
        given=("set-running",),
    ),
    Line(
        "tester-floating",
        "Put an outlet tester in the set's outlet. Open ground is what a floating neutral shows: "
        "no fault of this set.",
        "Reversed or an open neutral is one, on any set.",
        needs=("carries", "floating"),
        without=("230",),
        tools=("outlet tester",),
        gate=Asked(
            "The tester says",
            words="open ground",
            if_not="A floating set shows open ground and nothing else. Correct means it is bonded: "
            "say so in the setup. Anything else is a fault: do not use the set.",
        ),
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "tester-bonded",
        "Put an outlet tester in the set's outlet.",
        "A bonded set must show correct.",
        needs=("carries", "bonded"),
        without=("230",),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "tester-unknown",
        "Put an outlet tester in the set's outlet: correct means its neutral is bonded, open "
        "ground that it floats. Write it into the setup.",
        "The manual says the same; guards and transfer switches ask for it.",
        needs=("carries", "neutral-unknown"),
        without=("230",),
        tools=("outlet tester",),
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "bonding-plug",
        "Put a bonding plug into a free outlet of the set, if its manual allows one.",
        "The guard takes a floating neutral for an open ground and stays open.",
        needs=("carries", "floating", "guard"),
        without=("house", "230"),
        caution=BONDS,
        given=("-plugged",),
    ),
)
OF_A_BATTERY = (
    Line(
        "ventilate",
        "Leave the vents of the inverter free, in the shade, nothing on top of it.",
        "It gives less the hotter it gets, and then shuts off.",
        needs=("battery",),
        without=("vehicle",),
        caution=HEAT_OF_BATTERIES,
    ),
    Line(
        "alarm",
        "Know its alarm: {inverter_w:,.0f} W for hours, and its low-battery alarm is set.",
        "The beep comes before the silence.",
        needs=("battery",),
        without=("vehicle",),
    ),
    Line(
        "inverter-on",
        "Switch the inverter's output on.",
        "It wants to be running before anything hangs on it.",
        needs=("battery",),
        without=("assist", "vehicle"),
        given=("-plugged",),
        makes=("outlet-live",),
    ),
)
OF_A_VEHICLE = (
    Line(
        "vehicle-parked",
        "Park it level and out of doors, in park, brake set, where the cord crosses nobody's way.",
        "Its outlets go dead when it is driven off, and a cord under tension pulls out live.",
        needs=("vehicle",),
        caution=ENGINE_BY_ITSELF,
        given=("-plugged",),
    ),
    Line(
        "vehicle-reserve",
        "Set the charge at which its outlets stop, enough to drive to the next charger.",
        "At that charge everything goes off at once, without a warning in the rig.",
        needs=("vehicle",),
        gate=Asked(
            "Reserve set",
            words="yes",
            if_not="Then watch its charge: it can be drained too far to drive.",
        ),
    ),
    Line(
        "vehicle-bonded",
        "Its outlets are bonded and have ground-fault protection: no bonding plug, and no feeding "
        "of a panel that has its own bond.",
        "With two bonds the ground-fault protection opens as soon as you plug in.",
        needs=("vehicle", "bonded"),
        caution=BONDS,
        given=("-plugged",),
    ),
    Line(
        "vehicle-on",
        "Switch its outlets on at its screen or button: {inverter_w:,.0f} W is what they give, and "
        "above it they shut off.",
        "There is no surge to speak of.",
        needs=("vehicle",),
        without=("assist",),
        given=("-plugged",),
        makes=("outlet-live",),
    ),
)
OF_A_TRANSFORMER = (
    Line(
        "transformer-off",
        "Put the transformer off on both sides, and leave it off.",
        "It is switched on before everything it feeds, and off after it.",
        needs=("transformer",),
        makes=("transformer-off",),
    ),
    Line(
        "transformer-windings",
        "Before first use, unplugged: measure between the input and the output winding.",
        "An isolation transformer has no path between them.",
        needs=("transformer", "isolating"),
        tools=("ohm meter",),
        gate=Asked(
            "Continuity between the windings",
            words="none",
            if_not="It does not isolate: it is not used as an isolation transformer.",
            ends=True,
        ),
        given=("transformer-off", "-plugged"),
    ),
    Line(
        "transformer-derived",
        "Its new neutral is bonded to ground once, at the transformer.",
        "Not at all, or twice, and a fault goes where hands are.",
        needs=("transformer", "derived"),
        caution=LICENSED,
        given=("transformer-off",),
    ),
    Line(
        "transformer-through",
        "The neutral passes through this transformer: no bond is made at it.",
        "The supply's own bond serves; a second one carries current.",
        needs=("transformer",),
        without=("derived",),
        given=("transformer-off",),
    ),
    Line(
        "transformer-box",
        "Cover on, dry, a hand's width of air around it, out of reach of children.",
        "Its terminals are live as soon as the supply is.",
        needs=("transformer",),
        given=("transformer-off",),
    ),
)
