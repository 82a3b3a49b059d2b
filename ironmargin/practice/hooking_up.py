"""The step list of hooking up, per kind of supply and path: what is dead stays dead until hands are
off it, and nothing is measured where no volts can be.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import (
    ADAPTERS,
    BACKFEED,
    BONDS,
    CHILDREN,
    ENGINE_BY_ITSELF,
    GAS,
    GUARD_WAIT,
    HEAT_OF_BATTERIES,
    LICENSED,
    LICENSED_GAS,
    MONOXIDE,
    PANEL,
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
VOLTS_OPEN = Asked(
    "Volts, nothing on",
    "V",
    "low_v",
    "high_v",
    if_not="Do not plug in: outside these volts motors overheat and electronics fail.",
)


def _leg_volts(which: str) -> Asked:
    """The gate of one leg behind a splitter."""
    unused = "Both breakers off; this outlet is not to be used."
    return Asked(f"Volts of the {which} leg", "V", "low_v", "high_v", if_not=unused)


LOOKED_AT = (
    Line(
        "tester-again",
        "Do not plug in. A tester showed {tester} here; look again with the tester alone.",
        "Open ground, reversed polarity and open neutral kill; nothing but a repair clears them.",
        needs=("miswired",),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
        given=("-plugged",),
        makes=("outlet-live",),
    ),
    Line(
        "look",
        "Look at plug, adapter, cord and inlet: pins bright, nothing brown, loose or bent.",
        "The part no breaker protects melts first.",
        caution=ADAPTERS,
        given=("-plugged",),
    ),
    Line(
        "worn",
        "Put these aside: {worn}.",
        "The setup says they are worn or hot.",
        needs=("worn",),
        gate=Asked(
            "Replaced",
            words="yes",
            if_not="A worn contact adds heat where no breaker sees it: replace it first.",
        ),
        given=("-plugged",),
    ),
    Line(
        "cord-run",
        "Lay the cord out full length, dry, out of doorways and wheel tracks.",
        "A coiled cord cannot shed its heat, and a pinched one fails where nobody looks.",
        needs=("cord",),
        caution=CHILDREN,
        given=("-plugged",),
    ),
    Line(
        "shed",
        "Switch every load off, the charger's breaker too.",
        "Nothing may be plugged in under load, and the first start wants the supply for itself.",
        makes=("loads-off",),
    ),
    Line(
        "shed-charger",
        "Leave {chargers} off until the compressors run.",
        "A charger at full bulk takes what a start needs.",
        needs=("charger", "compressor"),
        given=("loads-off",),
    ),
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
AT_THE_POST = (
    Line(
        "tester",
        "Post's breaker off, outlet tester in alone, breaker on, and read it.",
        "Open ground, reversed polarity and open neutral are found here, not inside.",
        needs=("shore",),
        without=("post-230", "miswired"),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
        given=("-plugged",),
        makes=("outlet-live",),
    ),
    Line(
        "post-live",
        "Post's breaker on, with nothing plugged in but the meter.",
        "Its volts are looked at before the rig is.",
        needs=("post-230",),
        given=("-plugged",),
        makes=("outlet-live",),
    ),
    Line(
        "volts-open",
        "Measure the volts of the {source} with nothing on.",
        "Low or high volts are easier to turn away from now than later.",
        tools=("volt meter",),
        expect="about {open_v:.0f} V",
        gate=VOLTS_OPEN,
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "post-off",
        "Switch the post's {post_a:.0f} A breaker off before you plug in.",
        "A plug pushed in live draws an arc on its pins.",
        needs=("shore",),
        without=("splitter",),
        given=("-plugged",),
        makes=("-outlet-live",),
    ),
    Line(
        "splitter-off",
        "Put both outlets' breakers off before anything is plugged in.",
        "With one of them on, the splitter's other plug can have live blades.",
        needs=("splitter",),
        given=("-plugged",),
        makes=("-outlet-live",),
    ),
)
PLUGGED_IN = (
    Line(
        "plug",
        "Plug in from the rig outward: inlet, cord, adapter, and the outlet last, each lock turned "
        "home.",
        "So no bare blade in your hand is ever live. A half-turned plug is a bad contact.",
        without=("splitter",),
        given=("loads-off", "-inlet-live"),
        makes=("plugged",),
    ),
    Line(
        "splitter-plug",
        "Rig's main off. Cord into the rig first, then into the splitter, then both of its plugs "
        "into their outlets.",
        "Both plugs are home before either outlet is live: no blade in your hand ever is.",
        needs=("splitter",),
        given=("loads-off", "-outlet-live"),
        makes=("plugged", "rig-main-off"),
    ),
    Line(
        "post-on",
        "Put the post's breaker on.",
        "Only now is the rig live.",
        needs=("shore",),
        without=("splitter",),
        given=("plugged", "loads-off"),
        makes=("outlet-live",),
    ),
    Line(
        "splitter-first",
        "First outlet's breaker on alone. Measure its leg, by the guard's display or at an outlet "
        "of that leg, then put it off again.",
        "One leg at a time shows which outlet feeds which, and a dead one.",
        needs=("splitter",),
        tools=("volt meter",),
        caution=PANEL,
        gate=_leg_volts("first"),
        given=("plugged", "loads-off", "rig-main-off"),
    ),
    Line(
        "splitter-both",
        "Both breakers on. Measure the second leg, then between the legs.",
        "Two outlets on the same leg give no 240 V, and the neutral then carries the sum.",
        needs=("splitter",),
        tools=("volt meter",),
        expect="about 240 V on opposite legs, about 0 V on the same one: then no 240 V load runs "
        "and all of it together stays under one outlet's rating",
        gate=_leg_volts("second"),
        given=("plugged", "loads-off", "rig-main-off"),
        makes=("outlet-live",),
    ),
    Line(
        "splitter-main",
        "Rig's main on.",
        "Loads are still off: nothing arcs.",
        needs=("splitter",),
        given=("outlet-live", "loads-off"),
        makes=("-rig-main-off",),
    ),
    Line(
        "guard",
        "Wait for the guard to close.",
        "It looks at volts, ground and polarity first.",
        needs=("guard",),
        wait_s=GUARD_WAIT,
        gate=Asked(
            "The guard has closed", words="yes", if_not="Read its code. Never bypass it.", ends=True
        ),
        given=("plugged", "outlet-live"),
    ),
    Line(
        "input-limit",
        "Set the input limit to {input_a:.0f} A.",
        "Above it the post trips; the battery covers the rest.",
        needs=("assist",),
        given=("plugged",),
    ),
    Line(
        "inlet-live",
        "Close the interlock's other half: the inlet's breaker on, then the branches you need, one "
        "at a time.",
        "Circuit by circuit from here.",
        needs=("house",),
        given=("plugged", "main-off", "outlet-live"),
        makes=("inlet-live",),
    ),
    Line(
        "transformer-live",
        "Transformer on, with nothing behind it on, and wait until its hum settles.",
        "Its inrush is a start of its own.",
        needs=("transformer",),
        wait_s=5.0,
        given=("plugged", "outlet-live", "loads-off"),
        makes=("-transformer-off",),
    ),
    Line(
        "volts-loaded",
        "With the first loads on, measure the volts at an outlet in the rig.",
        "What sags here sags more at a start.",
        tools=("volt meter",),
        expect="about {loaded_v:.0f} V with everything on",
        gate=Asked(
            "Volts in the rig",
            "V",
            "least_v",
            "high_v",
            if_not="Shed loads or leave this supply: a contact, a cord or the post is too weak.",
        ),
        given=("plugged", "outlet-live", "-transformer-off", "-rig-main-off"),
        makes=("-loads-off",),
    ),
    Line(
        "touch",
        "After fifteen minutes feel the bodies of adapter, plug and cord, never the pins.",
        "Warm is worn.",
        wait_s=900.0,
        needs=("cord",),
        given=("plugged", "outlet-live"),
    ),
)
HOOK_UP = (
    *LOOKED_AT,
    *OF_A_HOUSE,
    *OF_A_TRANSFORMER,
    *OF_A_SET,
    *OF_A_BATTERY,
    *OF_A_VEHICLE,
    *AT_THE_POST,
    *PLUGGED_IN,
)
