"""Drills: invented setups to call before they are computed.

Every answer comes from the engine; none is stored by hand. A setup whose chance lies between three
and seven in ten has no right call: it is asked as a probability only.
"""

from __future__ import annotations

import random
from collections.abc import Callable

from ironmargin.document import Document
from ironmargin.limits.ledger import FAILS, HOLDS
from ironmargin.planning.answer import check_fully
from ironmargin.practice.next_step import NextStep, next_step
from ironmargin.record import record
from ironmargin.setup.changed import leave_off
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import Checked, examine

TRIALS = 4000
CALLS = ("holds", "thin", "fails")
BANDS = {"easy": (0.25, 0.75), "medium": (0.10, 0.25), "hard": (0.02, 0.10)}
"""How far from its edge a drill of each difficulty lies: size of the iron margin [1]."""
AMBIGUOUS = (0.3, 0.7)
MAX_TRIES = 400
CLEAR = 0.03
"""What gives first must be weaker than the next by so much to be asked for."""
HOT_WIRE = "measured on the compressor's wire, so that its fan is not in it"

Draw = random.Random


def _unit(draw: Draw, ident: str = "roof", **more: object) -> Document:
    size = draw.choice((9.5, 11.5, 13.5))
    tons = {9.5: "11,000", 11.5: "13,500", 13.5: "15,000"}[size]
    return {
        "id": ident,
        "name": f"Air conditioner, {tons} Btu/h",
        "kind": "air-conditioner",
        "running_a": size,
        "lra_a": round(size * draw.uniform(4.4, 5.6)),
        "fan_high_a": round(draw.uniform(1.6, 2.6), 1),
        "from": "plate",
    } | more


def _small(draw: Draw) -> list[Document]:
    found: list[Document] = [
        {
            "id": "lights",
            "name": "Lights and television",
            "kind": "electronic",
            "watts": draw.choice((80, 120, 180)),
        },
        {
            "id": "charger",
            "name": "Charger",
            "kind": "charger",
            "watts": draw.choice((150, 300, 500, 700)),
        },
        {
            "id": "fridge",
            "name": "Refrigerator",
            "kind": "motor",
            "running_a": 1.4,
            "lra_a": 9,
            "duty": 0.4,
        },
        {
            "id": "heater",
            "name": "Water heater",
            "kind": "resistive",
            "watts": draw.choice((900, 1200, 1440)),
        },
        {
            "id": "micro",
            "name": "Microwave oven",
            "kind": "microwave",
            "watts": draw.choice((1200, 1500)),
        },
    ]
    return draw.sample(found, draw.randint(1, 3))


def _set(draw: Draw, **more: object) -> Document:
    continuous = draw.choice((1600, 1800, 2300, 2800, 3200, 3500))
    return {
        "kind": "generator",
        "continuous_w": continuous,
        "starting_w": round(continuous * draw.choice((1.15, 1.2, 1.25)) / 50) * 50,
    } | more


def _document(supply: Document, loads: list[Document], **more: object) -> Document:
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "Drill",
        "supply": supply,
        "hookup": more.pop("hookup", [{"kind": "cord", "awg": 10, "length_m": 8}]),
        "rig": {
            "name": "Drill rig",
            "service": more.pop("service", "120"),
            "main_a": more.pop("main_a", 30),
            "loads": loads,
        },
        "wanted": [{"load": x["id"]} for x in loads],
        "rules": {"trials": TRIALS},
    } | more


def _starts(draw: Draw) -> Document:
    supply = _set(draw)
    if draw.random() < 0.4:
        supply = {"kind": "parallel", "units": [supply, dict(supply)], "kit_limit_a": 30}
    return _document(
        supply, [_unit(draw), *_small(draw)], conditions={"outdoor_c": draw.choice((22, 30, 38))}
    )


def _path(draw: Draw) -> Document:
    hookup = [
        {"kind": "outlet", "type": "5-20", "rating_a": 20},
        {
            "kind": "adapter",
            "from": "5-15",
            "to": "TT-30",
            "rating_a": draw.choice((15, 15, 20)),
            "condition": draw.choice(("good", "worn")),
        },
        {
            "kind": "cord",
            "awg": draw.choice((16, 14, 12, 10)),
            "length_m": draw.choice((8, 15, 30, 45)),
        },
    ]
    post = {
        "kind": "shore",
        "breaker_a": draw.choice((15, 20)),
        "source_ohm": draw.choice((0.15, 0.3, 0.5)),
    }
    return _document(post, [_unit(draw), *_small(draw)], hookup=hookup)


def _legs(draw: Draw) -> Document:
    loads = [_unit(draw, "front", leg="L1"), _unit(draw, "rear", leg=draw.choice(("L1", "L2")))]
    loads += [x | {"leg": draw.choice(("L1", "L2"))} for x in _small(draw)]
    supply = {
        "kind": "shore",
        "breaker_a": draw.choice((30, 30, 50)),
        "legs": draw.choice(("split", "same-leg")),
    }
    hookup: list[Document] = [{"kind": "cord", "awg": 6, "length_m": 9}]
    if draw.random() < 0.5:
        supply = {"kind": "shore", "breaker_a": 30}
        hookup.insert(
            0,
            {
                "kind": "adapter",
                "from": "TT-30",
                "to": "14-50",
                "rating_a": 30,
                "feeds": "both-legs",
            },
        )
    return _document(supply, loads, service="120/240", main_a=50, hookup=hookup)


def _sustained(draw: Draw) -> Document:
    loads = [
        {
            "id": f"h{n}",
            "name": name,
            "kind": "resistive",
            "watts": draw.choice((800, 1000, 1200, 1500, 1800)),
        }
        for n, name in enumerate(
            draw.sample(("Space heater", "Kettle", "Water heater", "Fireplace", "Griddle"), 2)
        )
    ]
    loads += [x for x in _small(draw) if x["id"] not in ("heater",)]
    supply = draw.choice((_set(draw), {"kind": "shore", "breaker_a": draw.choice((15, 20, 30))}))
    return _document(supply, loads, conditions={"target_hours": draw.choice((3, 8))})


def _propane(draw: Draw) -> Document:
    supply = _set(draw, fuel="propane", cylinder={"capacity_kg": 9.1, "count": draw.choice((1, 2))})
    conditions = {
        "outdoor_c": draw.choice((15, 25, 35)),
        "altitude_m": draw.choice((0, 900, 1600, 2200)),
    }
    return _document(supply, [_unit(draw), *_small(draw)], conditions=conditions)


def _soft(draw: Draw) -> Document:
    unit = _unit(draw, start="soft-start", soft_start={"learned_starts": draw.choice((0, 2, 5, 5))})
    return _document(_set(draw), [unit, *_small(draw)])


def _order(draw: Draw) -> Document:
    found = _starts(draw)
    pump = {
        "id": "pump",
        "name": "Pump",
        "kind": "motor",
        "running_a": draw.choice((4, 6)),
        "lra_a": draw.choice((22, 30)),
    }
    found["rig"]["loads"].append(pump)
    found["wanted"].append({"load": "pump"})
    return found


THEMES: dict[str, Callable[[Draw], Document]] = {
    "starts": _starts,
    "path": _path,
    "legs": _legs,
    "sustained": _sustained,
    "propane": _propane,
    "soft": _soft,
    "reading": _starts,
    "order": _order,
}
TITLES = {
    "starts": "Starts",
    "path": "Path and adapters",
    "legs": "Legs and neutral",
    "sustained": "Sustained load",
    "propane": "Propane and height",
    "soft": "Soft starters",
    "reading": "Reading a meter",
    "order": "Order of starting",
}


@record
class Choice:
    """One answer to choose from."""

    key: str
    words: str


@record
class Drill:
    """An invented setup with its answers by the engine.

    Attributes:
        asks: ``call`` (holds, thin, fails) or ``chance`` (a probability only).
        call, chance: the verdict, and how often the deciding start passes [1].
        first, first_of: what gives first, and the choices; None where two are too near to tell.
        off, off_of: what turned off makes it hold, and the choices; empty unless it fails.
        estimate: what is to be estimated: label, unit and figure.
        step: which step of hooking it up or shutting it down comes next; None where none is clear.
    """

    seed: int
    theme: str
    difficulty: str
    setup: Setup
    asks: str
    call: str
    chance: float
    margin: float
    sentence: str
    first: str | None
    first_of: tuple[Choice, ...]
    off: tuple[str, ...]
    off_of: tuple[Choice, ...]
    estimate: tuple[str, str, float]
    step: NextStep | None
    checked: Checked


def drill(seed: int, theme: str, difficulty: str) -> Drill:
    """A drill; the same for the same seed, theme and difficulty.

    Args:
        seed: same seed, same answer.
        theme: one of the themes.
        difficulty: one of the difficulties.

    Returns:
        The drill, with its setup, its question and its answer.

    Raises:
        KeyError: no such theme or difficulty.
        ValueError: no such setup was found (never seen).
    """
    low, high = BANDS[difficulty]
    make = THEMES[theme]
    draw = random.Random(f"{seed}/{theme}/{difficulty}")  # noqa: S311  (games, not secrets)
    wanted = (
        draw.choice((HOLDS, FAILS))
        if difficulty != "medium"
        else draw.choice((HOLDS, "thin", FAILS))
    )
    for tries in range(MAX_TRIES):
        setup = read_setup(make(draw))
        quick = examine(setup, quick=True)
        margin = quick.result.iron_margin
        if not low <= abs(margin) < high or quick.result.service:
            continue
        if tries < MAX_TRIES // 2 and (margin < 0) != (wanted == FAILS):
            continue
        return _requested(seed, theme, difficulty, setup)
    raise ValueError(f"no drill of theme {theme}, {difficulty}, for seed {seed}")


def _requested(seed: int, theme: str, difficulty: str, setup: Setup) -> Drill:
    checked = check_fully(setup, remedy=False)
    result = checked.result
    chances = [s.chance for s in result.starts if s.chance is not None]
    chance = min(chances, default=1.0 if result.iron_margin >= 0 else 0.0)
    if result.iron_margin < 0 and checked.findings[0].check != "start":
        chance = 0.0
    ambiguous = AMBIGUOUS[0] <= chance <= AMBIGUOUS[1]
    first, first_of = _first(checked)
    off, off_of = _off(setup, checked) if result.verdict == FAILS else ((), ())
    return Drill(
        seed,
        theme,
        difficulty,
        setup,
        "chance" if ambiguous else "call",
        result.verdict,
        chance,
        result.iron_margin,
        result.weakest.sentence,
        None if ambiguous else first,
        first_of,
        off,
        off_of,
        _estimate(theme, checked),
        next_step(setup, random.Random(seed)),  # noqa: S311  (games, not secrets)
        checked,
    )


def _label(check: str, name: str) -> str:
    return f"{name}: its start" if check == "start" else name


def _first(checked: Checked) -> tuple[str | None, tuple[Choice, ...]]:
    """What gives first, and others to choose from; nothing where two are too near to tell."""
    seen: dict[str, tuple[str, float]] = {}
    for f in checked.findings:
        seen.setdefault(f"{f.check}/{f.where}", (_label(f.check, f.name), float(f.margin)))
    names = list(seen.items())[:4]
    clear = len(names) > 1 and names[1][1][1] - names[0][1][1] >= CLEAR
    order = sorted(names, key=lambda n: n[1][0])
    return (names[0][0] if clear else None), tuple(Choice(k, w[0]) for k, w in order)


def _off(setup: Setup, checked: Checked) -> tuple[tuple[str, ...], tuple[Choice, ...]]:
    """Loads whose going alone makes it hold."""
    loads = {x.id: x.name for x in setup.rig.loads}
    wanted = [w.load for w in setup.wanted]
    found = []
    if len(wanted) > 1:
        for ident in wanted:
            less = examine(leave_off(setup, ident), quick=True)
            if less.result.verdict != FAILS:
                found.append(ident)
    return tuple(found), tuple(Choice(x, loads[x]) for x in wanted)


def _estimate(theme: str, checked: Checked) -> tuple[str, str, float]:
    starts = [s for s in checked.result.starts if s.name]
    if starts and theme in ("starts", "soft", "order", "propane"):
        start = max(starts, key=lambda s: s.wanted_a)
        return f"Lowest volts while {start.name} starts", "V", start.lowest_v
    if starts and theme == "reading":
        start = max(starts, key=lambda s: s.wanted_a)
        return f"Peak an inrush clamp reads while {start.name} starts", "A", start.peak_a
    amps = max(checked.now.amps)
    return "Amps of the busiest conductor with everything on", "A", float(amps)
