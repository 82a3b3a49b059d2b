"""Step lists of a rig that is hooked up: starting, shutting down.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import ADAPTERS, BACKFEED, EACH_START, REFUEL, Line, Requested

START = (
    Line(
        "least-on",
        "Turn off all you can. Everything you want draws {running_a:.0f} A together.",
        "The biggest start needs the whole supply.",
    ),
    Line(
        "transformer-on",
        "Switch the transformer on first and wait until its hum settles.",
        "It has an inrush of its own, so nothing it feeds may be on yet.",
        needs=("transformer",),
        wait_s=5.0,
    ),
    Line(
        "heater-off",
        "Leave {heaters} off until every compressor runs.",
        "A heater alone takes a third of a small post.",
        needs=("heater", "compressor"),
    ),
    Line(
        "charger-off",
        "Turn the charger's breaker off: {chargers}.",
        "After a night on the battery it charges at full current.",
        needs=("charger",),
    ),
    Line(
        "eco-off",
        "Eco off.",
        "A generator at idle gives about half its power for the first second or two.",
        needs=("may-eco",),
    ),
    Line(
        "rested",
        "If a compressor stopped less than five minutes ago, wait until it has rested.",
        "Under pressure it draws locked-rotor amps and does not turn.",
        other_way="Wait two or three minutes: most units restart then. If one hums and does not "
        "turn, switch it off at once and give it five.",
        needs=("compressor",),
        wait_s=300.0,
    ),
    Line(
        EACH_START,
        "Start {load}: {how}.",
        "Start the biggest first. Never go straight from off to high, and never start two "
        "compressors at once.",
        expect="a peak near {peak}, {dip} at the dip",
        tools=("clamp meter on one conductor",),
        given=("plugged", "outlet-live"),
        gate=Requested(
            "Amps of the supply, settled",
            "A",
            None,
            "settled_high",
            if_not="It draws more than computed: switch it off, measure it alone, and correct "
            "the rig.",
        ),
    ),
    Line(
        "others-on",
        "Then switch on, one at a time: {others}.",
        "Everything else waits until the compressors run.",
        needs=("others",),
    ),
    Line(
        "charger-on",
        "Turn the charger's breaker back on and watch the amps.",
        "It can make the next thermostat cycle fail.",
        needs=("charger-wanted",),
    ),
    Line(
        "eco-on",
        "Leave eco off as long as a compressor cycles.",
        "With eco on, every later cycle is a start from idle. The bench shows yours.",
        other_way="Turn eco back on to save fuel and noise, if a start from idle passes too.",
        needs=("may-eco", "compressor"),
    ),
    Line(
        "watch",
        "Watch for fifteen minutes, through one thermostat cycle: amps on each leg, volts, the "
        "overload light.",
        "Running amps creep up 10 to 15 % as head pressure builds.",
        other_way="For hours, stay under 80 % of the breaker. Most owners run just under its "
        "rating instead, and adapters turn brown: then feel the plug and the adapter "
        "every half hour.",
        wait_s=900.0,
        expect="{running_a:.0f} A, {loaded_v:.0f} V",
        gate=Requested(
            "Volts in the rig",
            "V",
            "min_v",
            "high_v",
            if_not="Turn something off before something trips.",
        ),
    ),
)

SHUT_DOWN = (
    Line(
        "units-off",
        "Switch each air conditioner to fan, then off.",
        "A compressor that lost its power restarts under pressure.",
        needs=("cooling",),
    ),
    Line(
        "loads-off",
        "Switch every other load off.",
        "Never plug or unplug anything under load.",
        makes=("loads-off",),
    ),
    Line(
        "transformer-off",
        "Switch the transformer off after everything it feeds.",
        "Then it is off when power comes back.",
        needs=("transformer",),
        given=("loads-off",),
        makes=("transformer-off",),
    ),
    Line(
        "branches-off",
        "Turn the branch breakers off, then the inlet's breaker.",
        "Utility power then comes back to a panel with nothing on.",
        needs=("house",),
        given=("loads-off",),
        makes=("-inlet-live",),
    ),
    Line(
        "unloaded",
        "Let the generator run without load until it has cooled down.",
        "Its fan cools the hot parts only while it runs.",
        needs=("engine",),
        wait_s=120.0,
        given=("loads-off", "-inlet-live"),
    ),
    Line(
        "stop",
        "Stop the generator, then unplug.",
        "A load still plugged in while it slows down gets low voltage.",
        needs=("engine",),
        given=("loads-off",),
        makes=("-outlet-live", "-set-running", "-plugged"),
    ),
    Line(
        "fuel-off",
        "Close the cylinder's valve.",
        "A hose left under pressure can leak.",
        needs=("fuel-propane",),
        caution=REFUEL,
        given=("-set-running",),
        makes=("-valve-open",),
    ),
    Line(
        "post-off",
        "Turn the post's breaker off, then unplug at the post first.",
        "Then nothing in your hands is live.",
        needs=("shore",),
        without=("splitter",),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "splitter-off",
        "Turn both outlets' breakers off, then pull both plugs.",
        "With one plug still in, the blades of the other can be live.",
        needs=("splitter",),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "inverter-off",
        "Switch the inverter's output off, then unplug.",
        "Left on, it drains its own battery.",
        needs=("battery",),
        without=("assist", "vehicle"),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "vehicle-off",
        "Switch the vehicle's outlets off at its screen or button, then unplug.",
        "Left on, they drain the vehicle's battery.",
        needs=("vehicle",),
        without=("assist",),
        given=("loads-off",),
        makes=("-outlet-live", "-plugged"),
    ),
    Line(
        "main-on",
        "Unplug the inlet, release the interlock, turn the main back on.",
        "Only while the inlet is dead.",
        needs=("house",),
        caution=BACKFEED,
        gate=Requested(
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
        "Check the plugs and the adapter: anything brown or soft goes out of service.",
        "Overheating leaves marks.",
        caution=ADAPTERS,
        given=("-plugged",),
    ),
)
