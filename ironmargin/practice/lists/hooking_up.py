"""The step list of hooking up, per kind of supply and path: what is dead stays dead until hands are
off it, and nothing is measured where no volts can be.

All of it common practice, no source, unless a line says otherwise.
"""

from __future__ import annotations

from ironmargin.practice.lines import (
    ADAPTERS,
    CHILDREN,
    FLAMES,
    GUARD_WAIT,
    PANEL,
    TESTER,
    Line,
    Requested,
)
from ironmargin.practice.lists.hooking_up_supplies import (
    OF_A_BATTERY,
    OF_A_HOUSE,
    OF_A_SET,
    OF_A_TRANSFORMER,
    OF_A_VEHICLE,
    TESTER_GATE,
)

VOLTS_OPEN = Requested(
    "Volts, nothing on",
    "V",
    "low_v",
    "high_v",
    if_not="Do not plug in: outside these volts motors overheat and electronics fail.",
)


def _leg_volts(which: str) -> Requested:
    """The gate of one leg behind a splitter."""
    unused = "Turn both breakers off and do not use this outlet."
    return Requested(f"Volts of the {which} leg", "V", "low_v", "high_v", if_not=unused)


LOOKED_AT = (
    Line(
        "tester-again",
        "Do not plug in. A tester showed {tester} here. Check again with nothing but the tester "
        "plugged in.",
        "Open ground, reversed polarity and open neutral kill. Only a repair clears them.",
        needs=("miswired",),
        tools=("outlet tester",),
        caution=TESTER,
        gate=TESTER_GATE,
        given=("-plugged",),
        makes=("outlet-live",),
    ),
    Line(
        "look",
        "Check the plug, adapter, cord and inlet: bright pins, nothing brown, loose or bent.",
        "The part that no breaker protects melts first.",
        caution=ADAPTERS,
        given=("-plugged",),
    ),
    Line(
        "worn",
        "Do not use these: {worn}.",
        "The setup says they are worn or have been hot.",
        needs=("worn",),
        gate=Requested(
            "Replaced",
            words="yes",
            if_not="A worn contact makes heat that no breaker sees: replace it first.",
        ),
        given=("-plugged",),
    ),
    Line(
        "cord-run",
        "Uncoil the whole cord. Keep it dry, and out of doorways and wheel tracks.",
        "A coiled cord overheats, and a pinched one fails where nobody looks.",
        needs=("cord",),
        caution=CHILDREN,
        given=("-plugged",),
    ),
    Line(
        "shed",
        "Switch every load off, and the charger's breaker too.",
        "Never plug in under load. The first start also needs the whole supply.",
        makes=("loads-off",),
    ),
    Line(
        "to-gas",
        "Set {on_gas} to gas, not to automatic.",
        "Automatic goes back to AC as soon as there is any, and other loads need those amps.",
        needs=("on-gas",),
        caution=FLAMES,
        given=("loads-off",),
    ),
    Line(
        "shed-charger",
        "Leave {chargers} off until the compressors run.",
        "A charger in bulk takes the amps that a start needs.",
        needs=("charger", "compressor"),
        given=("loads-off",),
    ),
)
AT_THE_POST = (
    Line(
        "tester",
        "Turn the post's breaker off, plug in only the outlet tester, turn the breaker on, and "
        "read it.",
        "It finds an open ground, reversed polarity or an open neutral before the rig is "
        "connected.",
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
        "Turn the post's breaker on, with nothing plugged in but the meter.",
        "Check the volts before you connect the rig.",
        needs=("post-230",),
        given=("-plugged",),
        makes=("outlet-live",),
    ),
    Line(
        "volts-open",
        "Measure the volts of the {source} with nothing on.",
        "With bad volts you can still leave.",
        tools=("volt meter",),
        expect="about {open_v:.0f} V",
        gate=VOLTS_OPEN,
        given=("outlet-live", "-plugged"),
    ),
    Line(
        "post-off",
        "Turn the post's {post_a:.0f} A breaker off before you plug in.",
        "Plugging in live makes an arc that burns the pins.",
        needs=("shore",),
        without=("splitter",),
        given=("-plugged",),
        makes=("-outlet-live",),
    ),
    Line(
        "splitter-off",
        "Turn both outlets' breakers off before you plug anything in.",
        "With one of them on, the bare blades of the splitter's other plug can be live.",
        needs=("splitter",),
        given=("-plugged",),
        makes=("-outlet-live",),
    ),
)
PLUGGED_IN = (
    Line(
        "plug",
        "Plug in from the rig outward: inlet, cord, adapter, and the outlet last. Turn each "
        "locking plug all the way.",
        "Then you never hold a live blade. A plug turned halfway is a bad contact.",
        without=("splitter",),
        given=("loads-off", "-inlet-live"),
        makes=("plugged",),
    ),
    Line(
        "splitter-plug",
        "Turn the rig's main off. Plug the cord into the rig first, then into the splitter, then "
        "both of the splitter's plugs into their outlets.",
        "Both plugs are in before either outlet is live, so you never hold a live blade.",
        needs=("splitter",),
        given=("loads-off", "-outlet-live"),
        makes=("plugged", "rig-main-off"),
    ),
    Line(
        "post-on",
        "Turn the post's breaker on.",
        "Only now is the rig live.",
        needs=("shore",),
        without=("splitter",),
        given=("plugged", "loads-off"),
        makes=("outlet-live",),
    ),
    Line(
        "splitter-first",
        "Turn on only the first outlet's breaker. Measure its leg, on the guard's display or at "
        "an outlet of that leg. Then turn it off again.",
        "One at a time you see which outlet feeds which leg, and whether one is dead.",
        needs=("splitter",),
        tools=("volt meter",),
        caution=PANEL,
        gate=_leg_volts("first"),
        given=("plugged", "loads-off", "rig-main-off"),
    ),
    Line(
        "splitter-both",
        "Turn both breakers on. Measure the second leg, then between the legs.",
        "Two outlets on the same leg give no 240 V, and the neutral then carries the sum.",
        needs=("splitter",),
        tools=("volt meter",),
        expect="about 240 V on opposite legs. About 0 V means both are on the same leg: then no "
        "240 V load runs, and everything together must stay under one outlet's rating",
        gate=_leg_volts("second"),
        given=("plugged", "loads-off", "rig-main-off"),
        makes=("outlet-live",),
    ),
    Line(
        "splitter-main",
        "Rig's main on.",
        "The loads are still off, so nothing arcs.",
        needs=("splitter",),
        given=("outlet-live", "loads-off"),
        makes=("-rig-main-off",),
    ),
    Line(
        "guard",
        "Wait for the guard to close.",
        "It checks volts, ground and polarity first.",
        needs=("guard",),
        wait_s=GUARD_WAIT,
        gate=Requested(
            "The guard has closed", words="yes", if_not="Read its code. Never bypass it.", ends=True
        ),
        given=("plugged", "outlet-live"),
    ),
    Line(
        "input-limit",
        "Set the input limit to {input_a:.0f} A.",
        "Above that the {feeding} is overloaded. The battery covers the rest.",
        needs=("assist",),
        given=("plugged",),
    ),
    Line(
        "inlet-live",
        "Turn the inlet's breaker on at the interlock, then the branch breakers you need, one at "
        "a time.",
        "From here on it is circuit by circuit.",
        needs=("house",),
        given=("plugged", "main-off", "outlet-live"),
        makes=("inlet-live",),
    ),
    Line(
        "transformer-live",
        "Switch the transformer on with nothing after it on, and wait until its hum settles.",
        "Its inrush is a start of its own.",
        needs=("transformer",),
        wait_s=5.0,
        given=("plugged", "outlet-live", "loads-off"),
        makes=("-transformer-off",),
    ),
    Line(
        "volts-loaded",
        "With the first loads on, measure the volts at an outlet in the rig.",
        "If the volts sag now, they sag more at a start.",
        tools=("volt meter",),
        expect="about {loaded_v:.0f} V with everything on",
        gate=Requested(
            "Volts in the rig",
            "V",
            "min_v",
            "high_v",
            if_not="Turn loads off or do not use this supply: a contact, a cord or the {feeding} "
            "is too weak.",
        ),
        given=("plugged", "outlet-live", "-transformer-off", "-rig-main-off"),
        makes=("-loads-off",),
    ),
    Line(
        "touch",
        "After fifteen minutes feel the bodies of the adapter, the plug and the cord. Never "
        "touch the pins.",
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
