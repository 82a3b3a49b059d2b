"""What is typed of a meter: where it answers, what it speaks, and where its figures stand."""

from __future__ import annotations

from collections.abc import Mapping

from ironmargin.document import Document
from ironmargin_meter.fields import FIGURES, map_fault, topic_fault
from ironmargin_meter.publisher import FIELDS
from web.design.typed import typed_figure
from web.meter import dial
from web.meter.models import LANGUAGES, MODBUS, MQTT, SIMULATED, Meter

TOPIC = "iron-margin/meter"
"""Of the simulated meter."""
PLAIN = ("speaks", "host", "port", "unit", "topic", "user", "password")
LONGEST = 260
TITLES = {
    "volts_1": "Volts of leg 1",
    "volts_2": "Volts of leg 2",
    "amps_1": "Amps of leg 1",
    "amps_2": "Amps of leg 2",
    "hz": "Hertz",
    "watts": "Watts",
    "wh": "Watt-hours",
}
EXAMPLES = {"volts_1": "voltage", "amps_1": "current", "watts": "power", "wh": "energy.total"}


def typed_of(post: Mapping[str, str]) -> dict[str, str]:
    """The fields of the form as they were typed."""
    names = [*PLAIN, *(f"{kind}.{figure}" for figure in FIGURES for kind in ("place", "times"))]
    return {name: post.get(name, "")[:LONGEST].strip() for name in names}


def shown(meter: Meter | None) -> dict[str, str]:
    """The form of a meter; its password is never shown."""
    if meter is None:
        return {}
    out = {"speaks": meter.speaks, "port": str(meter.port), "unit": str(meter.unit)}
    out |= {"host": meter.host, "topic": meter.topic, "user": meter.user}
    for figure, (place, times) in meter.places.items():
        out |= {f"place.{figure}": place, f"times.{figure}": f"{times:g}"}
    return out


def rows(typed: Mapping[str, str]) -> list[dict[str, str]]:
    """A row of the form for each figure an MQTT meter may publish."""
    return [
        {
            "figure": figure,
            "title": TITLES[figure],
            "place": typed.get(f"place.{figure}", ""),
            "times": typed.get(f"times.{figure}", ""),
            "example": EXAMPLES.get(figure, ""),
        }
        for figure in FIGURES
    ]


def read(typed: Mapping[str, str], simulated: bool) -> tuple[Document, str]:
    """The row of a meter as typed, and what is wrong with it; the first is empty where that is not.

    Args:
        simulated: the meter that ships with this, by the language that was chosen.
    """
    speaks = typed["speaks"] or MODBUS
    if speaks not in dict(LANGUAGES):
        return {}, f"it must speak Modbus TCP or MQTT (got {speaks[:20]!r})"
    found: Document = {"speaks": speaks, "topic": "", "places": {}, "unit": 1}
    found |= {"user": "", "password": ""}
    if simulated:
        found |= {"host": SIMULATED, "port": 502}
        return found | ({"topic": TOPIC, "places": FIELDS} if speaks == MQTT else {}), ""
    port = typed_figure(typed["port"])
    whole = int(port) if port is not None and port == int(port) else None
    fault = dial.form_fault(typed["host"], whole)
    if fault:
        return {}, fault
    found |= {"host": typed["host"], "port": whole}
    if speaks == MODBUS:
        unit = typed_figure(typed["unit"])
        if unit is None or not 0 <= unit <= 247:
            return {}, f"the unit must be 0 to 247 (got {typed['unit']})"
        return found | {"unit": int(unit)}, ""
    places, fault = _places(typed)
    fault = fault or topic_fault(typed["topic"]) or map_fault(places)
    if not fault and max(len(typed["user"]), len(typed["password"])) > 60:
        fault = "user and password must be at most 60 letters"
    more = {"topic": typed["topic"], "places": places}
    more |= {"user": typed["user"], "password": typed["password"]}
    return ({}, fault) if fault else (found | more, "")


def _places(typed: Mapping[str, str]) -> tuple[dict[str, tuple[str, float]], str]:
    found = {}
    for figure in FIGURES:
        place, said = typed[f"place.{figure}"], typed[f"times.{figure}"]
        if not place:
            continue
        times = typed_figure(said) if said else 1.0
        if times is None:
            return {}, f"{TITLES[figure]} must be multiplied by a number (got {said[:20]!r})"
        found[figure] = (place, times)
    return found, ""
