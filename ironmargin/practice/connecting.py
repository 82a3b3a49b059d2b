"""Step lists of connecting: hooking up, starting, shutting down.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import (
    ADAPTERS,
    BACKFEED,
    EACH_START,
    GUARD_WAIT,
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
HOOK_UP = (
    Line(
        "tester-again",
        "Do not plug in. A tester showed {tester} here; look again with the tester alone.",
        "Open ground, reversed polarity and open neutral kill; nothing but a repair clears them.",
        needs=("miswired",),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
    ),
    Line(
        "look",
        "Look at plug, adapter, cord and inlet: pins bright, nothing brown, loose or bent.",
        "The part no breaker protects melts first.",
        caution=ADAPTERS,
    ),
    Line(
        "worn",
        "Put these aside: {worn}.",
        "The setup says they are worn or hot.",
        needs=("worn",),
        caution=ADAPTERS,
        gate=Asked(
            "Replaced",
            words="yes",
            if_not="A worn contact adds heat where no breaker sees it: replace it first.",
        ),
    ),
    Line(
        "shed",
        "Switch every load off, the charger's breaker too.",
        "Nothing may be plugged in under load, and the first start wants the supply for itself.",
    ),
    Line(
        "shed-charger",
        "Leave {chargers} off until the compressors run.",
        "A charger at full bulk takes what a start needs.",
        needs=("charger", "compressor"),
    ),
    Line(
        "main-off",
        "Put the house's main off, and check that the interlock or switch holds it there.",
        "The inlet may only be live with the street shut out.",
        needs=("house",),
        caution=BACKFEED,
        gate=Asked(
            "Main off and held by the interlock",
            words="yes",
            if_not="Never feed a panel that can still feed the street.",
            ends=True,
        ),
    ),
    Line(
        "generator-place",
        "Set the generator down outside, level, exhaust away from doors, windows and neighbours.",
        "Its exhaust is odourless enough to be slept through.",
        needs=("engine",),
        caution=MONOXIDE,
    ),
    Line(
        "parallel-kit",
        "Join the sets with their kit while both stand still and nothing is plugged in.",
        "Live parallel plugs are bare pins.",
        needs=("pair",),
    ),
    Line(
        "selector",
        "Turn the set's selector to 120/240 V.",
        "In the 120 V position there is no 240 V for the pump or the cooktop.",
        needs=("selector", "split-rig"),
        gate=Asked(
            "Selector at", words="120/240", if_not="240 V loads stay dead on the other position."
        ),
    ),
    Line(
        "generator-warm",
        "Start the set with nothing plugged in, and let it warm up.",
        "Loads plugged in during start and stop see anything but nominal volts.",
        needs=("engine",),
        wait_s=120.0,
        caution=REFUEL,
    ),
    Line(
        "eco-off",
        "Switch eco off.",
        "From idle a set gives about half for the first second or two.",
        needs=("may-eco",),
    ),
    Line(
        "tester",
        "Put an outlet tester in before the rig.",
        "Open ground, reversed polarity and open neutral are found here, not inside.",
        needs=("shore",),
        without=("post-230",),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
    ),
    Line(
        "post-off",
        "Switch the post's {post_a:.0f} A breaker off before you plug in.",
        "A plug pushed in live draws an arc on its pins.",
        needs=("shore",),
    ),
    Line(
        "volts-open",
        "Measure the volts of the {supply} with nothing on.",
        "Low or high volts are easier to turn away from now than later.",
        tools=("volt meter",),
        expect="about {open_v:.0f} V",
        gate=Asked(
            "Volts, nothing on",
            "V",
            "low_v",
            "high_v",
            if_not="Do not plug in: outside these volts motors overheat and electronics fail.",
        ),
    ),
    Line(
        "splitter",
        "Measure between the two hot pins of the splitter.",
        "Two outlets on the same leg give no 240 V, and the neutral then carries the sum.",
        needs=("splitter",),
        tools=("volt meter",),
        expect="about 240 V on opposite legs, about 0 V on the same one",
    ),
    Line(
        "plug",
        "Plug in, outlet to adapter to cord to inlet, each lock turned home.",
        "A half-turned plug is a bad contact.",
        caution=ADAPTERS,
    ),
    Line("post-on", "Put the post's breaker on.", "Only now is the rig live.", needs=("shore",)),
    Line(
        "guard",
        "Wait for the guard to close.",
        "It looks at volts, ground and polarity first.",
        needs=("guard",),
        wait_s=GUARD_WAIT,
        gate=Asked(
            "The guard has closed", words="yes", if_not="Read its code. Never bypass it.", ends=True
        ),
    ),
    Line(
        "input-limit",
        "Set the input limit to {input_a:.0f} A.",
        "Above it the post trips; the battery covers the rest.",
        needs=("assist",),
    ),
    Line(
        "inlet-live",
        "Close the interlock's other half: the inlet's breaker on.",
        "Circuit by circuit from here.",
        needs=("house",),
        caution=BACKFEED,
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
    ),
    Line(
        "touch",
        "After fifteen minutes feel adapter, plug and cord.",
        "Warm is worn.",
        wait_s=900.0,
        needs=("cord",),
        caution=ADAPTERS,
    ),
)

START = (
    Line(
        "least-on",
        "Have least on: {running_a:.0f} A is what everything wanted draws together.",
        "The biggest start wants the supply to itself.",
    ),
    Line(
        "transformer-on",
        "Switch the transformer on first, and wait until its hum settles.",
        "Its inrush is a start, too; nothing behind it may run yet.",
        needs=("transformer",),
        wait_s=5.0,
    ),
    Line(
        "heater-off",
        "Leave {heaters} off until every compressor runs.",
        "A heater takes a third of a small post all by itself.",
        needs=("heater", "compressor"),
    ),
    Line(
        "charger-off",
        "Charger's breaker off: {chargers}.",
        "After a night on the battery it takes all it can.",
        needs=("charger",),
    ),
    Line(
        "eco-off",
        "Eco off.",
        "From idle a set gives about half for the first second or two.",
        needs=("may-eco",),
    ),
    Line(
        "rested",
        "Has any compressor stopped within five minutes? Wait until it has rested.",
        "Against pressure it draws locked-rotor amps and does not turn.",
        needs=("compressor",),
        wait_s=300.0,
    ),
    Line(
        EACH_START,
        "Start {load}: {how}.",
        "Biggest first. Never straight from off to high, never two compressors in one moment.",
        expect="a peak near {peak}, {dip} at the dip",
        tools=("clamp meter on one conductor",),
        gate=Asked(
            "Amps of the supply, settled",
            "A",
            None,
            "settled_high",
            if_not="It draws more than computed: switch it off, measure it alone, correct the rig.",
        ),
    ),
    Line(
        "others-on",
        "Then switch on, one at a time: {others}.",
        "Whatever has no compressor comes after the compressors.",
        needs=("others",),
    ),
    Line(
        "charger-on",
        "Charger's breaker back on, and watch the amps.",
        "It may be what makes the next thermostat cycle fail.",
        needs=("charger-wanted",),
    ),
    Line(
        "eco-on",
        "Eco: off as long as a compressor cycles, or back on if each start is made from idle.",
        "Two schools: each later cycle is a start from idle; the bench shows yours.",
        needs=("may-eco", "compressor"),
    ),
    Line(
        "watch",
        "Watch fifteen minutes, through one thermostat cycle: amps of each leg, volts, the lamp.",
        "Running amps creep up 10 to 15 % as head pressure builds.",
        wait_s=900.0,
        expect="{running_a:.0f} A, {loaded_v:.0f} V",
        gate=Asked(
            "Volts in the rig",
            "V",
            "least_v",
            "high_v",
            if_not="Shed something before it sheds itself.",
        ),
    ),
)

SHUT_DOWN = (
    Line(
        "units-off",
        "Air conditioners to fan, then off.",
        "A compressor stopped by a cut feed restarts against pressure.",
        needs=("cooling",),
    ),
    Line("loads-off", "Every other load off.", "Nothing may be cut or joined under load."),
    Line(
        "branches-off",
        "Circuits off, then the inlet's breaker.",
        "The street comes back to a quiet panel.",
        needs=("house",),
    ),
    Line(
        "unloaded",
        "Let the set run unloaded, to cool down.",
        "Hot parts last longer cooled by their own fan.",
        needs=("engine",),
        wait_s=120.0,
    ),
    Line(
        "stop",
        "Stop the set, then unplug.",
        "Loads plugged in while it runs down see failing volts.",
        needs=("engine",),
    ),
    Line(
        "fuel-off",
        "Close the cylinder's valve.",
        "A hose under pressure leaks by itself.",
        needs=("fuel-propane",),
        caution=REFUEL,
    ),
    Line(
        "post-off",
        "Put the post's breaker off, then unplug at the post first.",
        "Then nothing in your hands is live.",
        needs=("shore",),
    ),
    Line(
        "main-on",
        "Unplug the inlet, release the interlock, main back on.",
        "Only with the inlet dead.",
        needs=("house",),
        caution=BACKFEED,
        gate=Asked(
            "Inlet unplugged",
            words="yes",
            if_not="Never put the main on while the inlet is live.",
            ends=True,
        ),
    ),
    Line(
        "look-after",
        "Look at plugs and adapter: brown or soft goes out of service.",
        "Heat leaves its mark.",
        caution=ADAPTERS,
    ),
)
