"""The step list of hooking up, per kind of supply and path: what is dead stays dead until hands are
off it, and nothing is measured where no volts can be.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.hooking_up_supplies import (
    OF_A_BATTERY,
    OF_A_HOUSE,
    OF_A_SET,
    OF_A_TRANSFORMER,
    OF_A_VEHICLE,
    TESTER_GATE,
)
from ironmargin.practice.lines import ADAPTERS, CHILDREN, GUARD_WAIT, PANEL, TESTER, Asked, Line

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
