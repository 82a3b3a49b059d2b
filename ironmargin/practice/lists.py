"""The step lists as data: each line with what a setup must have for it, and what rules it out.

All of it common practice, no source, unless a line says otherwise. Fitting lists stay general: they
defer to the maker's diagram of the unit at hand and to licensed practice.
"""

from __future__ import annotations

from ironmargin.practice.facts import SAFE_V
from ironmargin.record import record

EACH_START = "each-start"
GUARD_WAIT = -1.0
"""Stands for the guard's own delay."""


@record
class Asked:
    """A gate of a line; ``low`` and ``high`` may name a figure of the setup."""

    reading: str
    unit: str = ""
    low: float | str | None = None
    high: float | str | None = None
    words: str = ""
    if_not: str = ""
    ends: bool = False


@record
class Line:
    """One line of a list."""

    id: str
    text: str
    why: str
    needs: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    expect: str = ""
    caution: str = ""
    wait_s: float = 0.0
    tools: tuple[str, ...] = ()
    gate: Asked | None = None


BACKFEED = (
    "Backfeed kills people on the line. Main off before the inlet is live; interlock or transfer "
    "switch only. Licensed work."
)
MONOXIDE = (
    "Carbon monoxide kills: outside, exhaust away, at least 20 ft (6 m) from any opening, alarm "
    "fitted."
)
ADAPTERS = "Brown, loose, bent or warm means out of service. Never rely on the breaker."
CAPACITORS = (
    "Capacitors hold a charge with the power off: isolate, wait, discharge as the unit's maker "
    "says, measure, before touching."
)
ROOF = "Roof: footing, ladder tied, wind, somebody below."
PANEL = "Do not open a live panel to measure unless trained and equipped for it."
TESTER = "Never defeat a ground-fault device, a ground pin or a neutral bond."
REFUEL = "Hot refuelling burns: stop, cool, then fill. Propane outside, upright."

ISOLATE = Line(
    "isolate",
    "Switch the unit off at its breaker, unplug the supply, and keep both from being put back.",
    "Nothing you touch may become live while your hands are in it.",
    caution=CAPACITORS,
    tools=("lock or tag",),
)
DISCHARGE = Line(
    "discharge",
    "Wait five minutes, discharge each capacitor as its maker says, and measure across it.",
    "A run capacitor keeps several hundred volts for a long time.",
    wait_s=300.0,
    caution=CAPACITORS,
    tools=("volt meter", "insulated discharge tool"),
    gate=Asked(
        "Volts across each capacitor",
        "V",
        None,
        SAFE_V,
        if_not="It still holds a charge: discharge again and measure again.",
    ),
)
PHOTOGRAPH = Line(
    "photograph",
    "Photograph every wire and terminal before you move one.",
    "The photograph is the way back.",
    tools=("camera",),
)
BEFORE = Line(
    "before",
    "Measure a start as it is, before anything is fitted: {unit}.",
    "Without a before there is no after.",
    tools=("inrush clamp meter",),
    expect="the log keeps it beside the start afterwards",
    caution=PANEL,
)
ROOF_UP = Line(
    "roof",
    "Go up with somebody below, and take the cover off.",
    "Most units are reached from the roof.",
    needs=("rooftop",),
    caution=ROOF,
    tools=("tied ladder", "driver"),
)
SEAL = Line(
    "seal",
    "Seal every opening you made, relieve every wire of strain, clear every edge, close the cover.",
    "Water and chafing end more of these than electricity does.",
    tools=("sealant", "ties"),
)
LICENSED = Line(
    "licensed",
    "If any of this is not your trade, stop here and give it to somebody licensed.",
    "A unit wired wrongly burns out or shocks.",
)

HOOK_UP = (
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
        gate=Asked(
            "The tester says",
            words="correct",
            if_not="Anything but correct means this outlet is not to be used.",
            ends=True,
        ),
    ),
    Line(
        "post-off",
        "Put the post's breaker off before you plug in, {post_a:.0f} A handle.",
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
            "Amps of the supply with everything wanted on, settled",
            "A",
            None,
            "settled_high",
            if_not="It draws more than computed: switch it off, measure it alone, correct the rig.",
        ),
    ),
    Line(
        "charger-on",
        "Charger's breaker back on, and watch the amps.",
        "It may be what makes the next thermostat cycle fail.",
        needs=("charger",),
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

FIT_SOFT_STARTER = (
    LICENSED,
    BEFORE,
    ISOLATE,
    ROOF_UP,
    DISCHARGE,
    PHOTOGRAPH,
    Line(
        "mount",
        "Mount the starter dry, clear of fans and edges, wires relieved of strain.",
        "It lives in heat and shaking.",
    ),
    Line(
        "wire",
        "One wire at a time, by the diagram for your unit that came with it; no diagram, no wire.",
        "Start and run leads differ from unit to unit: this list makes no claim for yours.",
        tools=("crimp tool", "maker's diagram"),
    ),
    Line(
        "gear-out",
        "Only if its maker says so: take the old start capacitor and relay out of the circuit.",
        "Some starters replace them, some need them.",
    ),
    SEAL,
    Line(
        "learn",
        "Let it learn: five starts, half a minute on, five minutes off.",
        "It finds the smallest current that turns this compressor. On shore is steadier; the "
        "generator is fine, and the log says which.",
        wait_s=300.0,
        expect="a first peak near half of locked-rotor amps, falling start by start",
    ),
    Line(
        "after",
        "Measure the start again, the same clamp on the same wire.",
        "The pair says what it was worth.",
        tools=("inrush clamp meter",),
        expect="the log draws before and after on one picture",
    ),
)

FIT_HARD_START = (
    LICENSED,
    BEFORE,
    ISOLATE,
    ROOF_UP,
    DISCHARGE,
    PHOTOGRAPH,
    Line(
        "fits",
        "Check the kit's range against the unit's plate: volts, horsepower, its own capacitor.",
        "One that is too large overheats the start winding.",
    ),
    Line(
        "wire",
        "Across the run capacitor as the kit's diagram for your unit shows; one wire at a time.",
        "This list makes no claim for a particular unit.",
        tools=("maker's diagram",),
    ),
    SEAL,
    Line(
        "after",
        "Measure the start again, the same clamp on the same wire.",
        "More torque and a few per cent less current: expect it quicker, not much lower.",
        tools=("inrush clamp meter",),
    ),
)

MEASURE = (
    Line(
        "meter",
        "Take a clamp meter with inrush hold, and zero it.",
        "Anything slower reads far below the peak.",
        tools=("inrush clamp meter",),
    ),
    Line(
        "one-wire",
        "Clamp ONE conductor, in a line splitter.",
        "Around the whole cord both conductors cancel: it reads nothing.",
        tools=("line splitter",),
        caution=PANEL,
    ),
    Line(
        "rest",
        "Let the compressor rest five minutes.",
        "Against pressure you would measure another start.",
        wait_s=300.0,
        needs=("compressor",),
    ),
    Line(
        "volts-too",
        "Have the volts held at their lowest, if the meter can.",
        "The dip tells of the supply what the peak does not.",
        tools=("volt meter with min hold",),
    ),
    Line(
        "arm",
        "Fan on, let it settle; arm the inrush hold; then cool.",
        "The fan's own start must not trigger it.",
        needs=("cooling",),
    ),
    Line(
        EACH_START,
        "Read the peak of {load}.",
        "Write down what else was on.",
        expect="a peak near {peak}, {dip} at the dip, {settled_a:.0f} A settled",
    ),
    Line(
        "three",
        "Three starts, five minutes apart.",
        "One odd reading must not decide.",
        wait_s=300.0,
        needs=("compressor",),
    ),
    Line(
        "log",
        "Put each into the log: instrument, where it was clamped, what ran.",
        "A reading is worth what is known of it.",
    ),
)

SURVEY = (
    Line(
        "all-off",
        "Everything off, at the breakers too. Read amps and volts.",
        "What is left runs though nobody thinks of it.",
        tools=("monitor or clamp meter",),
    ),
    Line(
        "one-on",
        "One thing on, read, off again. Then the next.",
        "Differences are loads.",
        expect="each within a sixth of its plate",
    ),
    Line(
        "modes",
        "Air conditioners: fan low, fan high, low cool, high cool, each after it has settled.",
        "Each mode draws its own.",
        needs=("rooftop",),
        wait_s=60.0,
    ),
    Line(
        "charger",
        "Battery low, charger on: read it; again when it is full.",
        "400 to 1,000 W against a trickle.",
        needs=("charger",),
    ),
    Line(
        "together",
        "Three things on at once, read once more.",
        "If the sum does not fit, a reading slipped.",
    ),
    Line(
        "log",
        "Put the steps into the log: they become the rig.",
        "Measured beats plate beats typical.",
    ),
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

LISTS: dict[str, tuple[Line, ...]] = {
    "hook-up": HOOK_UP,
    "start": START,
    "shut-down": SHUT_DOWN,
    "fit-soft-starter": FIT_SOFT_STARTER,
    "fit-hard-start": FIT_HARD_START,
    "measure-start": MEASURE,
    "survey": SURVEY,
    "storm": STORM,
    "upkeep": UPKEEP,
}
TITLES = {
    "hook-up": "Hook up",
    "start": "Start",
    "shut-down": "Shut down",
    "fit-soft-starter": "Fit a soft starter",
    "fit-hard-start": "Fit a hard-start kit",
    "measure-start": "Measure a start",
    "survey": "Survey the rig",
    "storm": "Before a storm",
    "upkeep": "Upkeep",
}
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
