"""The 12 V side as it is typed: a thing a line, with its amps or watts and its hours where they are
known.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

from ironmargin.document import Document
from ironmargin.enduring.dc_side import dc_words
from ironmargin.errors import SetupError
from ironmargin.setup.converter import TRICKLE
from ironmargin.setup.parts import alone, read_rig
from ironmargin.starting.nights import NIGHT_H
from web.design.typed import typed_figure, typed_number, typed_share

MAX_LINES, MAX_NAME = 60, 80
FIGURE = r"([0-9]+(?:[.,][0-9]+)?)"
DRAW = re.compile(rf"{FIGURE}\s*(A|W)(?:mps?|atts?)?\b", re.IGNORECASE)
HOURS = re.compile(rf"(?:for\s+)?{FIGURE}\s*(h|min)(?:ours?|rs?|utes?)?\b", re.IGNORECASE)
ALL_NIGHT = re.compile(r"\ball night\b|\bovernight\b", re.IGNORECASE)
"""What runs from dark to morning."""
VOLTS = 12.8
MAX_A = 1000.0


def lines_of(text: str) -> list[str]:
    """The things as typed, one a line."""
    return [line.strip()[:MAX_NAME] for line in text.splitlines() if line.strip()][:MAX_LINES]


def use_of(line: str, volts: float = VOLTS) -> Document | None:
    """A line as something that draws, as ``LED lights 3 A 4 h``; None where it tells no amps or no
    hours.
    """
    draw, hours = DRAW.search(line), HOURS.search(line)
    lasts = NIGHT_H if ALL_NIGHT.search(line) else None
    if hours is not None:
        lasts = (typed_figure(hours[1]) or 0.0) / (60.0 if hours[2].lower() == "min" else 1.0)
    if draw is None or lasts is None:
        return None
    amps = typed_figure(draw[1]) or 0.0
    if draw[2].upper() == "W":
        amps /= volts
    name = ALL_NIGHT.sub("", HOURS.sub("", DRAW.sub("", line))).strip(" ,;:-") or line
    return {
        "name": name[:MAX_NAME],
        "amps": round(min(amps, MAX_A), 2),
        "hours": round(min(lasts, 24.0), 2),
    }


def typed(document: Document, post: Mapping[str, str]) -> Document:
    """The rig's document with its 12 V side as typed; what was not on the form stays."""
    side = dict(document.get("dc") or {})
    if "volts" in post:
        side["volts"] = typed_number(post["volts"]) if post["volts"].strip() else None
    if "usable" in post:
        side["usable_fraction"] = typed_share(post["usable"]) if post["usable"].strip() else None
    if "value" in post:
        volts = side.get("volts")
        at_v = volts if isinstance(volts, float | int) and volts > 0 else VOLTS
        found = (use_of(line, at_v) for line in lines_of(post["value"]))
        side["uses"] = [use for use in found if use is not None]
    if "battery_ah" in post:
        ah = typed_figure(post["battery_ah"])
        side["battery_ah"] = ah if ah is not None or not post["battery_ah"].strip() else "?"
    if "charger" in post:
        side["charger"] = post["charger"] or None
    if "battery_ah" in post:  # an unticked box is not sent
        side["full"] = "full" in post
    stored = {k: v for k, v in side.items() if v is not None and v is not False and v != []}
    rest = {k: v for k, v in document.items() if k != "dc"}
    return rest | ({"dc": stored} if stored else {})


def words(document: Document) -> str:
    """The 12 V side in words; empty where nothing of it is known, or the rig has a fault."""
    try:
        return dc_words(alone(read_rig(document)))
    except SetupError:
        return ""


def chargers(document: Document) -> list[tuple[str, str]]:
    """Id and name of the rig's chargers."""
    return [(x["id"], x["name"]) for x in document["loads"] if x["kind"] == "charger"]


TRICKLES = f"{TRICKLE * 100:.0f}"
"""What a full battery leaves of the charger, for the page [%]."""
