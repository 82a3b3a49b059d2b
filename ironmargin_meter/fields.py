"""Where an MQTT meter's figures stand in what it publishes: a topic and a map of a person's own.

Small meters publish either one JSON object on one topic, or a number each on topics of its own. A
figure's place is written as a path in that object (``power.active``), or with a leading slash as a
topic below the meter's (``/voltage``); what comes is multiplied by ``times``, 1000 for a meter that
publishes kilowatts.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Mapping
from typing import Any

from ironmargin_meter.registers import MAP, Nonsense, Reading

FIGURES = ("volts_1", "volts_2", "amps_1", "amps_2", "hz", "watts", "wh")
"""What a person may map; held peaks and the beat are kept by whoever listens."""
MAX_PAYLOAD = 8192
"""Longest message that is looked at [bytes]."""
MAX_TOPIC, MAX_PLACE = 120, 80
TOPIC = re.compile(r"[^\s/#+\x00][^\s#+\x00]*")
PLACE = re.compile(r"/?[^\s#+\x00/]+")
MIN_TIMES, MAX_TIMES = 1e-6, 1e6
MAX = {register.name: register.maximum for register in MAP}
Map = Mapping[str, tuple[str, float]]
"""Each figure's place and factor."""


def topic_fault(topic: str) -> str:
    """What is wrong with a topic as typed; empty where nothing is."""
    if len(topic) > MAX_TOPIC or not TOPIC.fullmatch(topic) or topic.endswith("/"):
        return f"the topic must be like shed/meter, without # or + (got {topic[:40]!r})"
    return ""


def map_fault(places: Map) -> str:
    """What is wrong with a map as typed; empty where nothing is."""
    if not {"amps_1", "watts"} & set(places) or "volts_1" not in places:
        return "say where volts and amps stand, or volts and watts"
    for figure, (place, times) in places.items():
        name = figure.replace("_", " ")
        if figure not in FIGURES:
            return f"{name} is no figure of a meter"
        if len(place) > MAX_PLACE or not PLACE.fullmatch(place):
            return f"{name} must be like power or /power (got {place[:40]!r})"
        if not MIN_TIMES <= times <= MAX_TIMES:
            return f"{name} must be multiplied by {MIN_TIMES:g} to {MAX_TIMES:,.0f}"
    return ""


def topics_of(topic: str, places: Map) -> set[str]:
    """Every topic that is listened to."""
    return {topic + p if p.startswith("/") else topic for p, _ in places.values()}


def _number(value: object, place: str) -> float:
    if isinstance(value, str) and len(value) <= 40:
        value = value.strip().replace(",", ".")
    if not isinstance(value, str | int | float):
        raise Nonsense(f"{place} is no number")
    try:
        number = float(value)
    except (TypeError, ValueError, OverflowError):
        raise Nonsense(f"{place} is no number") from None
    if isinstance(value, bool) or not math.isfinite(number):
        raise Nonsense(f"{place} is no number")
    return number


def _within(payload: bytes, place: str) -> float | None:
    """The figure at a path of a JSON message; None where the path is not in it."""
    try:
        found: Any = json.loads(payload)
    except (ValueError, RecursionError):
        raise Nonsense("the message is no JSON") from None
    for key in place.split("."):
        if isinstance(found, list) and key.isascii() and key.isdigit() and int(key) < len(found):
            found = found[int(key)]
        elif isinstance(found, dict) and key in found:
            found = found[key]
        else:
            return None
    return _number(found, place)


def figures_of(topic: str, payload: bytes, base: str, places: Map) -> Reading:
    """The figures one message tells, by the map.

    Args:
        topic: where it came; base: the meter's topic.

    Raises:
        Nonsense: it is too long, not what the map says, or a figure no such service can have.
    """
    if len(payload) > MAX_PAYLOAD:
        raise Nonsense(f"a message of {len(payload):,} bytes; {MAX_PAYLOAD:,} are looked at")
    found: Reading = {}
    for figure, (place, times) in places.items():
        if place.startswith("/"):
            if topic != base + place:
                continue
            value: float | None = _number(payload.decode("ascii", "replace"), place)
        elif topic == base:
            value = _within(payload, place)
        else:
            continue
        if value is None:
            continue
        value = max(value * times, 0.0)
        if value > MAX[figure]:
            name = figure.replace("_", " ")
            raise Nonsense(f"{name}: {value:g} is more than {MAX[figure]:g}")
        found[figure] = value
    return found


class Shown:
    """What a meter has published so far, and its extremes since the last reset, as one reading."""

    def __init__(self) -> None:
        self.figures: Reading = {}
        self.beat = 0
        self.begin()

    def begin(self) -> None:
        """Begin the held figures anew."""
        self.held = {"held_a_1": 0.0, "held_a_2": 0.0, "held_v": math.inf}

    def add(self, figures: Reading) -> None:
        """Take in what one message told; amps follow from watts where only those are told."""
        self.figures |= figures
        self.beat += 1
        now = self.figures
        if "amps_1" not in now and now.get("volts_1", 0.0) > 0.0:
            now = now | {"amps_1": now.get("watts", 0.0) / now["volts_1"]}
        self.now = now
        for leg in ("1", "2"):
            held = self.held[f"held_a_{leg}"]
            self.held[f"held_a_{leg}"] = max(held, now.get(f"amps_{leg}", 0.0))
        if now.get("volts_1", 0.0) > 0.0:
            self.held["held_v"] = min(self.held["held_v"], now["volts_1"])

    def reading(self) -> Reading | None:
        """Everything as one reading; None before the first message."""
        if not self.beat:
            return None
        nothing = dict.fromkeys(FIGURES, 0.0)
        held = {k: v if math.isfinite(v) else 0.0 for k, v in self.held.items()}
        return nothing | self.now | held | {"beat": float(self.beat % 65536)}
