"""Step lists with a unit open or a meter in the hand: fitting, measuring, surveying.

All of it common practice, no source, unless a line says otherwise. They stay general: they defer to
the maker's diagram of the unit at hand and to licensed practice.
"""

from __future__ import annotations

from ironmargin.practice.facts import SAFE_V
from ironmargin.practice.lines import CAPACITORS, EACH_START, LOCKED, PANEL, ROOF, Asked, Line

ISOLATE = Line(
    "isolate",
    "Switch the unit off at its breaker, unplug the supply, and keep both from being put back.",
    "Nothing you touch may become live while your hands are in it.",
    caution=LOCKED,
    tools=("lock or tag",),
    makes=("isolated",),
)
ZERO_VOLTS = Line(
    "zero-volts",
    "At the contactor or the terminal block: measure line to line, then each line to ground, with "
    "a meter you have just tried on a live outlet.",
    "A switch that did not open and a meter that is broken look alike.",
    tools=("volt meter",),
    gate=Asked(
        "Volts, line to line and to ground",
        "V",
        None,
        SAFE_V,
        if_not="It is live: close it, find the other feed, and isolate that first.",
        ends=True,
    ),
    given=("isolated",),
    makes=("dead",),
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
        must=True,
    ),
    given=("dead",),
    makes=("discharged",),
)
CRIMPS = Line(
    "crimps",
    "Look at each crimp and pull it; route leads away from edges, fans and hot lines, their loops "
    "hanging down; no tape outdoors.",
    "A crimp that moves burns, water runs along a lead, and tape lets go in the sun.",
    given=("discharged",),
)
PHOTOGRAPH = Line(
    "photograph",
    "Photograph every wire and terminal before you move one.",
    "The photograph is the way back.",
    tools=("camera",),
    given=("discharged",),
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
        "Mount the starter dry, clear of fans and edges, wires relieved of strain.",
        "It lives in heat and shaking.",
    ),
    Line(
        "wire",
        "One wire at a time, by the diagram for your unit that came with it; no diagram, no wire.",
        "Start and run leads differ from unit to unit: this list makes no claim for yours.",
        tools=("crimp tool", "maker's diagram"),
        given=("discharged",),
    ),
    Line(
        "gear-out",
        "Only if its maker says so: take the old start capacitor and relay out of the circuit.",
        "Some starters replace them, some need them.",
        given=("discharged",),
    ),
    CRIMPS,
    SEAL,
    Line(
        "learn",
        "Let it learn: five starts, half a minute on, five minutes off.",
        "It finds the smallest current that turns this compressor. Shore power is steadier.",
        other_way="On the generator it is to run on: fine, too; the log says which.",
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
    ZERO_VOLTS,
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
        given=("discharged",),
    ),
    CRIMPS,
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
        "What is left is on without being noticed.",
        tools=("monitor or clamp meter",),
    ),
    Line(
        "one-on",
        "One thing on, read, off again. Then the next.",
        "Differences are loads.",
        other_way="Where a load cannot be run alone, copy its plate: right for running amps, not "
        "for the torque of a compressor on a hot day.",
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
