"""Step lists with a unit open or a meter in the hand: fitting, measuring, surveying.

All of it common practice, no source, unless a line says otherwise. They stay general: they defer to
the maker's diagram of the unit at hand and to licensed practice.
"""

from __future__ import annotations

from ironmargin.practice.facts import SAFE_V
from ironmargin.practice.lines import CAPACITORS, EACH_START, LOCKED, PANEL, ROOF, Line, Requested

ISOLATE = Line(
    "isolate",
    "Turn the unit's breaker off, unplug the supply, and lock or tag both.",
    "Nothing may become live while your hands are in it.",
    caution=LOCKED,
    tools=("lock or tag",),
    makes=("isolated",),
)
ZERO_VOLTS = Line(
    "zero-volts",
    "At the contactor or the terminal block, measure line to line, then each line to ground, "
    "with a meter you have just proved on a live outlet.",
    "A broken meter reads zero on a live wire.",
    tools=("volt meter",),
    gate=Requested(
        "Volts, line to line and to ground",
        "V",
        None,
        SAFE_V,
        if_not="It is live: close it up, find the other feed, and isolate that first.",
        ends=True,
    ),
    given=("isolated",),
    makes=("dead",),
)
DISCHARGE = Line(
    "discharge",
    "Wait five minutes, discharge each capacitor as the manufacturer says, and measure across it.",
    "A run capacitor can hold several hundred volts for a long time.",
    wait_s=300.0,
    caution=CAPACITORS,
    tools=("volt meter", "insulated discharge tool"),
    gate=Requested(
        "Volts across each capacitor",
        "V",
        None,
        SAFE_V,
        if_not="It still holds a charge: discharge it and measure again.",
        must=True,
    ),
    given=("dead",),
    makes=("discharged",),
)
CRIMPS = Line(
    "crimps",
    "Check each crimp and pull on it. Route the leads away from edges, fans and hot lines, with "
    "drip loops. Use no tape outdoors.",
    "A loose crimp burns, water runs along a wire, and tape comes off in the sun.",
    given=("discharged",),
)
PHOTOGRAPH = Line(
    "photograph",
    "Photograph every wire and terminal before you move one.",
    "You need it to put everything back.",
    tools=("camera",),
    given=("discharged",),
)
BEFORE = Line(
    "before",
    "Measure a start before anything is installed: {unit}.",
    "Without it you cannot tell what the starter changed.",
    tools=("inrush clamp meter",),
    expect="the log sets it beside the start afterward",
    caution=PANEL,
)
ROOF_UP = Line(
    "roof",
    "Go up with somebody below and take the cover off.",
    "Most units are serviced from the roof.",
    needs=("rooftop",),
    caution=ROOF,
    tools=("tied ladder", "driver"),
)
SEAL = Line(
    "seal",
    "Seal every opening you made, strain-relieve every wire, keep wires off edges, and close the "
    "cover.",
    "Water and chafing ruin more of these than electricity does.",
    tools=("sealant", "ties"),
)
LICENSED = Line(
    "licensed",
    "If this is not your trade, stop here and hire somebody licensed.",
    "A unit wired wrong burns out or shocks somebody.",
)

FIT_SOFT_STARTER = (
    LICENSED,
    BEFORE,
    ISOLATE,
    ROOF_UP,
    ZERO_VOLTS,
    DISCHARGE,
    PHOTOGRAPH,
    Line(
        "mount",
        "Mount the starter where it stays dry, clear of fans and edges, with its wires "
        "strain-relieved.",
        "It lives in heat and vibration.",
    ),
    Line(
        "wire",
        "Move one wire at a time, by the diagram for your unit that came with the starter. "
        "Without a diagram, stop.",
        "Start and run leads differ from unit to unit. This list does not know yours.",
        tools=("crimp tool", "maker's diagram"),
        given=("discharged",),
    ),
    Line(
        "gear-out",
        "Only if the manufacturer says so: take the old start capacitor and relay out of the "
        "circuit.",
        "Some starters replace them and some need them.",
        given=("discharged",),
    ),
    CRIMPS,
    SEAL,
    Line(
        "learn",
        "Let it learn: five starts, each half a minute on and five minutes off.",
        "It finds the smallest current that turns this compressor. Shore power is steadier for "
        "this.",
        other_way="Learning on the generator it will run on is fine, too. The log notes which.",
        wait_s=300.0,
        expect="a first peak near half the locked-rotor amps, lower with each start",
    ),
    Line(
        "after",
        "Measure the start again, with the same clamp on the same wire.",
        "The two readings show what it was worth.",
        tools=("inrush clamp meter",),
        expect="the log draws before and after in one picture",
    ),
)

FIT_HARD_START = (
    LICENSED,
    BEFORE,
    ISOLATE,
    ROOF_UP,
    ZERO_VOLTS,
    DISCHARGE,
    PHOTOGRAPH,
    Line(
        "fits",
        "Check the kit's range against the unit's nameplate: volts, horsepower, its run capacitor.",
        "A kit that is too large overheats the start winding.",
    ),
    Line(
        "wire",
        "Wire it across the run capacitor, one wire at a time, as the kit's diagram for your "
        "unit shows.",
        "This list does not know your unit.",
        tools=("maker's diagram",),
        given=("discharged",),
    ),
    CRIMPS,
    SEAL,
    Line(
        "after",
        "Measure the start again, with the same clamp on the same wire.",
        "A kit gives more torque and a few percent less current: the start gets quicker, the "
        "peak barely lower.",
        tools=("inrush clamp meter",),
    ),
)

MEASURE = (
    Line(
        "meter",
        "Take a clamp meter with inrush hold and zero it.",
        "A slower meter reads far below the peak.",
        tools=("inrush clamp meter",),
    ),
    Line(
        "one-wire",
        "Clamp ONE conductor, at a line splitter.",
        "Around the whole cord the two conductors cancel and the clamp reads nothing.",
        tools=("line splitter",),
        caution=PANEL,
    ),
    Line(
        "rest",
        "Let the compressor rest for five minutes.",
        "Under pressure it would be a different start.",
        wait_s=300.0,
        needs=("compressor",),
    ),
    Line(
        "volts-too",
        "Hold the lowest volts, if the meter can.",
        "The dip shows how strong the supply is.",
        tools=("volt meter with min hold",),
    ),
    Line(
        "arm",
        "Fan on, let it settle; arm the inrush hold; then cool.",
        "The fan's start must not trigger it.",
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
        "Measure three starts, five minutes apart.",
        "One odd reading should not decide.",
        wait_s=300.0,
        needs=("compressor",),
    ),
    Line(
        "log",
        "Enter each in the log: the instrument, where it was clamped, what was running.",
        "A reading counts for more when you know how it was taken.",
    ),
)

SURVEY = (
    Line(
        "all-off",
        "Turn everything off, at the breakers too. Read amps and volts.",
        "Whatever still draws is on without anybody noticing.",
        tools=("monitor or clamp meter",),
    ),
    Line(
        "one-on",
        "Turn one thing on, read, turn it off. Then the next.",
        "Differences are loads.",
        other_way="If a load cannot run alone, copy its nameplate. That is right for running "
        "amps, but not for a compressor's torque on a hot day.",
        expect="each within about 15 % of its nameplate",
    ),
    Line(
        "modes",
        "Air conditioners: read fan low, fan high, low cool, high cool, each after it has settled.",
        "Each mode draws different amps.",
        needs=("rooftop",),
        wait_s=60.0,
    ),
    Line(
        "charger",
        "Read the charger with the battery low, and again when it is full.",
        "It is 400 to 1,000 W against a trickle.",
        needs=("charger",),
    ),
    Line(
        "together",
        "Turn three things on at once and read once more.",
        "If the sum does not fit, one reading is wrong.",
    ),
    Line(
        "log",
        "Save the steps in the log: they update the rig.",
        "A measured figure beats a nameplate, and a nameplate beats a typical figure.",
    ),
)
