"""If it trips at two in the morning: what each device does and shows, what to switch off by feel,
what to wait for, what to try next, and when not to. Computed for a setup.

All of it common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.document import Document
from ironmargin.limits.ledger import HOLDS
from ironmargin.listed import listed
from ironmargin.per_cent import signed_percent
from ironmargin.planning.change import FREE
from ironmargin.planning.changes.of_rig import COMES_LATER
from ironmargin.planning.first_fix import first_fix
from ironmargin.practice.facts import Facts
from ironmargin.practice.lines import RED_LAMP, RESETS, Line, Requested
from ironmargin.setup.loads import AirConditioner, Microwave
from ironmargin.verdict.stations import stations

TRIPPED = (
    Line(
        "look-first",
        "Reset nothing yet. With a light and dry feet, find what opened: {devices}.",
        "The tightest limits of this setup: {gives}.",
        makes=("looked",),
    ),
    Line(
        "hot",
        "Smell for burning, and feel the bodies of the plug, the adapter and the cord, and the "
        "panel's cover.",
        "A part that melted once carries less from then on.",
        gate=Requested(
            "Hot, soft or smelling",
            words="nothing",
            if_not="Leave it off and unplugged until daylight.",
            ends=True,
        ),
        given=("looked",),
    ),
    Line(
        "off",
        "Switch these off, in this order: {off}.",
        "When power comes back, nothing starts by itself.",
        makes=("loads-off",),
    ),
    Line(
        "lamp",
        "Generator: is the red overload light on, with no volts? It cut off on overload. Stop "
        "it, or press its reset, and restart it with nothing on.",
        "A red blink under half a second at a start is normal. Steady red is not.",
        needs=("engine", "inverter-set"),
        caution=RED_LAMP,
        given=("loads-off",),
    ),
    Line(
        "engine",
        "Generator: has the engine stopped? Check the fuel, then the oil. Is its breaker open? "
        "Leave it until a later step.",
        "A conventional generator sags and labors before its breaker opens.",
        needs=("engine", "conventional-set"),
        given=("loads-off",),
    ),
    Line(
        "cylinder",
        "Is the cylinder frosted and the generator out of fuel? Shut the valve and switch to the "
        "other cylinder, or let it warm up.",
        "Cold propane boils off too slowly for a start. There is still fuel in the cylinder.",
        needs=("engine", "fuel-propane"),
        given=("loads-off",),
    ),
    Line(
        "inverter-down",
        "Inverter: read its display. On a low battery, recharge before anything else. On an "
        "overload, switch it off, wait a minute, switch it on.",
        "Draining a battery to empty ruins it.",
        needs=("battery",),
        given=("loads-off",),
    ),
    Line(
        "guard-code",
        "Guard: read its code and leave it alone. It closes by itself {delay_s:.0f} s after the "
        "volts are right.",
        "Low volts come from the supply or from what you run. Never bypass an open ground.",
        needs=("guard",),
        given=("loads-off",),
    ),
    Line(
        "wait",
        "Wait five minutes before anything is reset: {waits}.",
        "A warm breaker opens sooner, and a compressor stalls against its own pressure.",
        wait_s=300.0,
        given=("loads-off",),
        makes=("rested",),
    ),
    Line(
        "reset-where",
        "The post's breaker: {breaker_at}.",
        "It may be locked, or somebody else may have to reset it.",
        needs=("breaker-at",),
        given=("loads-off",),
    ),
    Line(
        "reset",
        "Breaker: does it stand between on and off? Push it fully off, then on. Do it once.",
        "A tripped breaker can look on.",
        needs=("breakers",),
        caution=RESETS,
        given=("loads-off", "rested"),
        makes=("outlet-live",),
    ),
    Line(
        "volts",
        "Measure the volts in the rig with nothing on.",
        "What held at noon can trip now: posts sag in the evening, and a hot generator gives less.",
        tools=("volt meter",),
        gate=Requested(
            "Volts in the rig",
            "V",
            "min_v",
            "high_v",
            if_not="Do not run a compressor on these volts. Use only fans and lights until they "
            "are back to normal.",
        ),
        given=("loads-off",),
    ),
    Line(
        "first-on",
        "Start {first} alone: {how}.",
        "The biggest start needs the whole supply.",
        needs=("first",),
        expect="{peak}",
        given=("loads-off", "rested"),
        makes=("-loads-off",),
    ),
    Line(
        "mended",
        "{mend}.",
        "As it was set up it fails. This is the easiest change that makes it hold.",
        needs=("mend",),
    ),
    Line(
        "mend-later",
        "In the morning: {mend}. Until then it stays off.",
        "As it was set up it fails, and no free change makes it hold.",
        needs=("mend-later",),
    ),
    Line(
        "then",
        "After its first cycle, one at a time: {others}. {left} stays off until morning.",
        "The thermostat's next start needs the same amps.",
        needs=("first", "nuisance"),
        given=("-loads-off",),
    ),
    Line(
        "again",
        "If it opens again, {last} stays off tonight. Use fans and windows, and write it in the "
        "log in the morning.",
        "If it opens twice, this supply is too weak for it.",
    ),
)
MAX_NAMED = 3
HOW = "fan first, let it settle, low cool, let it settle, then high"
BY_ITSELF = "nothing else in the same moment"


def _devices(facts: Facts) -> Iterator[str]:
    """What may have opened, in the order the current flows."""
    is_ = facts.is_
    if "engine" in is_:
        yield (
            "the generator's red overload light"
            if "inverter-set" in is_
            else "the generator's breaker"
        )
    if "shore" in is_:
        yield "the post's breaker"
    if "guard" in is_:
        yield "the guard's display"
    if "battery" in is_:
        yield "the inverter's display"
    if "main" in is_:
        yield "the rig's main"
    if any(b.where != "main" and b.where != "post" for b, _ in facts.checked.case.breakers):
        yield "its branch breakers"


def tripped_facts(facts: Facts) -> tuple[frozenset[str], Document]:
    """What the list asks of a setup beyond the facts of every list, and its figures.

    Args:
        facts: of the setup.

    Returns:
        Keys of what is so, and figures by name.
    """
    checked = facts.checked
    setup, case = checked.case.setup, checked.case
    near = sorted(stations(checked), key=lambda s: s.margin)[:MAX_NAMED]
    running = [d.load for d in case.demands if d.load.id in {x.id for x in setup.rig.loads}]
    cooling = [x for x in running if isinstance(x, AirConditioner)]
    nuisance = [x for x in running if isinstance(x, (*COMES_LATER, Microwave))]
    others = [x for x in running if x not in cooling and x not in nuisance]
    off = [f"the thermostat of {x.name}" for x in cooling]
    off += [x.name for x in (*nuisance, *others)]
    is_, first = set(), next(iter(facts.starts), None)
    if any(True for _ in case.breakers):
        is_.add("breakers")
    if first is not None and first.outcome == "starts":
        is_.add("first")
    if nuisance:
        is_.add("nuisance")
    figures: Document = {
        "devices": listed(list(_devices(facts))) or "the supply's own protection",
        "gives": listed([f"{s.title} {signed_percent(s.margin)}" for s in near]) or "no limit near",
        "off": ", ".join(off) or "everything",
        "waits": listed(
            [
                *(["breakers"] if "breakers" in is_ else []),
                *(["generator"] if "engine" in facts.is_ else []),
                *(["compressors"] if "compressor" in facts.is_ else []),
            ]
        )
        or "everything",
        "first": first.name if first else "",
        "how": HOW if first is not None and first.cools else BY_ITSELF,
        "peak": f"a peak near {first.peak_a:.0f} A, {first.lowest_v:.0f} V" if first else "",
        "others": listed([x.name for x in others]) or "lights and small things",
        "left": listed([x.name for x in nuisance]),
        "last": first.name if first else "what you started last",
        "mend": "",
    }
    if checked.result.verdict != HOLDS:
        remedy, _ = first_fix(checked)
        if remedy is not None:
            figures["mend"] = remedy.what
            is_.add("mend" if remedy.cost == FREE else "mend-later")
    return frozenset(is_), figures
