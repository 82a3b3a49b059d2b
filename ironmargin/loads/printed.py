"""Figures as nameplates print them: 208/230 V, 9.8/4.9 A, 1/2 hp."""

from __future__ import annotations

import re

from ironmargin.document import Document
from ironmargin.record import record
from ironmargin.setup.spec import INVALID, Faults, Number

PAIR = re.compile(r"\s*(\d+(?:[.,]\d+)?)\s*[/-]\s*(\d+(?:[.,]\d+)?)\s*")
FRACTION = re.compile(r"\s*(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)\s*")
TWO_WAYS = 1.6
"""Volts so far apart are two ways to wire a machine, not two services it runs on [1]."""


@record
class Printed(Number):
    """A figure, or two of them with a stroke between: "208/230"."""

    def read(self, value: object, path: str, faults: Faults) -> object:
        found = PAIR.fullmatch(value) if isinstance(value, str) else None
        if found is None:
            return super().read(value, path, faults)
        both = [super(Printed, self).read(_number(x), path, faults) for x in found.groups()]
        return INVALID if INVALID in both else f"{both[0]:g}/{both[1]:g}"


@record
class Horsepower(Number):
    """A figure, or a fraction as horsepower is printed: "1/2", "1 1/2"."""

    def read(self, value: object, path: str, faults: Faults) -> object:
        fraction = fraction_of(value) if isinstance(value, str) else None
        return super().read(value if fraction is None else fraction, path, faults)


def fraction_of(text: str) -> float | None:
    """A fraction as it is printed.

    Args:
        text: "1/2", "1 1/2".

    Returns:
        Its value; None where it is none, or one of nothing.
    """
    found = FRACTION.fullmatch(text)
    if found is None or not int(found[3]):
        return None
    return float(found[1] or 0) + int(found[2]) / int(found[3])


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def pair_of(value: object) -> tuple[float, float] | None:
    """Both figures of a printed pair.

    Args:
        value: as :class:`Printed` reads it.

    Returns:
        The two, in their order; None where it is one figure or none.
    """
    first, stroke, second = str(value).partition("/")
    return (float(first), float(second)) if isinstance(value, str) and stroke else None


def one_of_each(plate: Document) -> tuple[Document, float | None, list[tuple[str, str]]]:
    """A plate with one of each pair. The others stand in the order of the volts. "115/230 V,
    9.8/4.9 A" are two ways to wire a motor, of which the lower is taken (common practice);
    "208/230" is one machine on two services, and the higher counts. A pair without volts that go
    with it is taken at its larger figure.

    Args:
        plate: fields as their specifications read them.

    Returns:
        The plate; the lowest volts it says it runs on, where it says two [V]; and what was chosen:
        field and why.
    """
    out, chosen = dict(plate), []
    volts, lowest, at = pair_of(plate.get("rated_v")), None, None
    if volts is not None:
        wired = max(volts) >= TWO_WAYS * min(volts)
        value = min(volts) if wired else max(volts)
        at, out["rated_v"] = volts.index(value), value
        lowest = None if wired else min(volts)
        if wired:
            chosen.append(("rated_v", "wired for the lower volts; type the other if it is not"))
    for field in plate:
        pair = pair_of(plate[field])
        if field == "rated_v" or pair is None:
            continue
        out[field] = max(pair) if at is None else pair[at]
        if at is None:
            chosen.append((field, "the larger of two, as no two volts go with them"))
    return out, lowest, chosen
