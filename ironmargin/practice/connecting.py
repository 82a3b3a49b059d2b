"""Step lists of a rig that is hooked up: starting, shutting down.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import ADAPTERS, BACKFEED, EACH_START, REFUEL, Asked, Line

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
        other_way="Wait two or three minutes: most units restart then. One that hums and does not "
        "turn is switched off at once and gets the five.",
        needs=("compressor",),
        wait_s=300.0,
    ),
    Line(
        EACH_START,
        "Start {load}: {how}.",
        "Biggest first. Never straight from off to high, never two compressors in one moment.",
        expect="a peak near {peak}, {dip} at the dip",
        tools=("clamp meter on one conductor",),
        given=("plugged", "outlet-live"),
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
        "Leave eco off as long as a compressor cycles.",
        "Each later cycle is a start from idle; the bench shows yours.",
        other_way="Eco back on to save fuel and noise, where the start from idle passes too.",
        needs=("may-eco", "compressor"),
    ),
    Line(
        "watch",
        "Watch fifteen minutes, through one thermostat cycle: amps of each leg, volts, the lamp.",
        "Running amps creep up 10 to 15 % as head pressure builds.",
        other_way="For hours stay under 80 % of the breaker, or just under its rating and feel "
        "plug and adapter every half hour: most owners do the second, and adapters brown.",
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
    Line(
        "loads-off",
        "Every other load off.",
        "Nothing may be cut or joined under load.",
        makes=("loads-off",),
    ),
    Line(
        "transformer-off",
        "Transformer off, after everything it feeds.",
        "So it is off when the supply comes back.",
        needs=("transformer",),
        given=("loads-off",),
        makes=("transformer-off",),
    ),
    Line(
        "branches-off",
        "Circuits off, then the inlet's breaker.",
        "The street comes back to a quiet panel.",
        needs=("house",),
        given=("loads-off",),
        makes=("-inlet-live",),
    ),
    Line(
        "unloaded",
        "Let the set run unloaded, to cool down.",
        "Hot parts last longer cooled by their own fan.",
        needs=("engine",),
        wait_s=120.0,
        given=("loads-off", "-inlet-live"),
    ),
    Line(
        "stop",
        "Stop the set, then unplug.",
        "Loads plugged in while it runs down see failing volts.",
        needs=("engine",),
        given=("loads-off",),
        makes=("-outlet-live", "-set-running", "-plugged"),
    ),
    Line(
        "fuel-off",
        "Close the cylinder's valve.",
        "A hose under pressure leaks by itself.",
        needs=("fuel-propane",),
        caution=REFUEL,
        given=("-set-running",),
        makes=("-valve-open",),
    ),
    Line(
        "post-off",
        "Put the post's breaker off, then unplug at the post first.",
        "Then nothing in your hands is live.",
        needs=("shore",),
        without=("splitter",),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "splitter-off",
        "Both outlets' breakers off, then both plugs out.",
        "A plug pulled alone can have live blades.",
        needs=("splitter",),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "inverter-off",
        "Switch the inverter's output off, then unplug.",
        "Left on, it drains its battery by itself.",
        needs=("battery",),
        without=("assist", "vehicle"),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "vehicle-off",
        "Switch the vehicle's outlets off at its screen or button, then unplug.",
        "Left on, they keep the vehicle awake and its battery draining.",
        needs=("vehicle",),
        without=("assist",),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
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
        given=("-inlet-live", "-outlet-live"),
        makes=("-main-off",),
    ),
    Line(
        "look-after",
        "Look at plugs and adapter: brown or soft goes out of service.",
        "Heat leaves its mark.",
        caution=ADAPTERS,
        given=("-plugged",),
    ),
)
