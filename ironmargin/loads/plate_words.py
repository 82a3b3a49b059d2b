"""What stands on a plate as it was read from a photograph: its figures, and which of them are sure.

A line of words comes with how sure its reader was of it. A figure is sure where its line was, where
it is in its field's range, and where nothing else on the plate says another; all others are asked.
Letters that are taken for digits (O for 0, I for 1) are put right within a figure, and such a
figure is asked, too.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator

from ironmargin.document import Document
from ironmargin.loads.plate_reader import PLATE
from ironmargin.loads.printed import fraction_of
from ironmargin.record import record
from ironmargin.setup.loads import CODE_LETTERS
from ironmargin.setup.spec import INVALID, Faults

SURE = 0.9
"""How sure the reader of a line must be of it [1] (benchmarks/plates.py says what comes of it)."""
N = r"((?=[OIlSBZ]{0,3}[0-9])[0-9OIlSBZ]{1,6}(?:[.,][0-9OIlSBZ]{1,3})?)"
GAP = r"[\s:=.]*"
ONE = N[1:-1]
EACH = rf"({ONE}(?:\s*/\s*{ONE})?)"
"""A figure, or two with a stroke between."""
LETTERS = str.maketrans("OIlSBZ", "011582")
KW, HORSE = 1000.0, r"((?:\d\s+)?\d/\d|\d+(?:[.,]\d+)?)"


@record
class Words:
    """A line of a plate: its words, and how sure its reader was of them [1]."""

    text: str
    sure: float


@record
class Figure:
    """A figure of a plate.

    Attributes:
        field: of :data:`PLATE`.
        value: as its field takes it.
        sure: whether it may be filled in without asking.
        line: number of the line it stands on.
        others: what else the plate says of it.
    """

    field: str
    value: float | str
    sure: bool
    line: int
    others: tuple[float | str, ...] = ()


def patterns(*tried: str) -> tuple[re.Pattern[str], ...]:
    """Regular expressions that heed no case.

    Args:
        *tried: as text, in the order they are tried.

    Returns:
        The same, compiled.
    """
    return tuple(re.compile(one, re.IGNORECASE) for one in tried)


AMPACITY = rf"(?:MCA|MIN(?:IMUM)?{GAP}C(?:IR(?:CUI?T)?|KT){GAP}AMP(?:ACITY|S)?)"
BREAKER = (
    rf"(?:MOCP|MOP|MAX(?:IMUM)?{GAP}(?:OVERCURRENT|FUSE|CKT|CIRCUIT|BKR|BREAKER)"
    rf"(?:{GAP}(?:OR|/|PROTECTION|PROTECTIVE|DEVICE|CIRCUIT|CKT|HACR|BREAKER|BKR|SIZE|TYPE))*)"
)
PATTERNS: dict[str, tuple[re.Pattern[str], ...]] = {
    "mca_a": patterns(rf"{AMPACITY}{GAP}{N}"),
    "mocp_a": patterns(rf"{BREAKER}{GAP}{N}"),
    "rla_a": patterns(rf"R\.?L\.?A\.?{GAP}{N}", rf"{N}{GAP}A?{GAP}R\.?L\.?A\b"),
    "lra_a": patterns(rf"L\.?R\.?A\.?{GAP}{N}", rf"{N}{GAP}A?{GAP}L\.?R\.?A\b"),
    "fan_a": patterns(rf"F\.?L\.?A\.?{GAP}{N}", rf"{N}{GAP}A?{GAP}F\.?L\.?A\b"),
    "rated_va": patterns(rf"{N}\s*VA(?![A-Z])"),
    "rated_v": patterns(
        rf"(?:VOLTS?|VAC|V){GAP}([0-9OIlSBZ]{{3}}(?:\s*[/-]\s*[0-9OIlSBZ]{{3}})?)",
        r"([0-9OIlSBZ]{3}(?:\s*[/-]\s*[0-9OIlSBZ]{3})?)\s*(?:VOLTS?|VAC|V)(?![A-Z])",
    ),
    "hz": patterns(rf"(?:HZ|HERTZ){GAP}([56]0)", r"([56]0)\s*(?:HZ|HERTZ)"),
    "phase": patterns(rf"PH(?:ASE|\b)?{GAP}([13])(?!\d)", r"(?<!\d)([13])\s*PH"),
    "btu_h": patterns(r"([0-9]{1,3}[., ]?[0-9]{3})\s*BTU", r"([0-9]{1,3}[., ]?[0-9]{3}\s*K?CAL)"),
    "hp": patterns(rf"{HORSE}\s*H\.?P\b", rf"\bH\.?P\.?{GAP}{HORSE}"),
    "code_letter": patterns(rf"CODE(?:{GAP}LETTER)?{GAP}([A-V])\b"),
    "refrigerant": patterns(r"(R-?\s?(?:22|32|290|410A|407C|134A|454B|600A))"),
    "rated_w": patterns(
        rf"{EACH}\s*(?:WATTS?|W)(?![A-Z])",
        rf"(?:WATTS?|INPUT|POWER){GAP}{EACH}(?!\s*(?:V|A|HZ|KW)\b)",
    ),
    "rated_a": patterns(rf"(?:AMPS?){GAP}{EACH}", rf"{EACH}\s*(?:AMPS?|A)(?![A-Z/])"),
}
"""What a figure stands beside, the most telling first; what one has taken no later one takes."""
BTU_A_KCAL = 3.968
"""1 kcal is 4.1868 kJ, 1 Btu 1.05506 kJ (ISO 80000-5)."""
KILOWATTS = patterns(rf"{N}\s*KW\b", rf"\bKW{GAP}{N}")
NOT_OF_THE_INPUT = patterns(r"\bOUT\s?PUT\b.*|COOKING POWER.*|[0-9.,]+\s*V\s*DC\b.*|DEFROST.*")[0]
"""What a plate says of the cooking power, of a charger's battery, of a defrosting heater."""
COOLING = patterns(r"COOLING|CAPACITY|BTU")[0]
INPUT = patterns(r"INPUT|CONSUM|DRAW")[0]
OF_THE_INPUT = ("rated_w", "rated_a", "rated_va")
FAN = patterns(r"FAN|BLOWER|EVAP")[0]
PAIRED = ("rated_v", "rated_w", "rated_a")
"""What a plate says twice where it is for two voltages."""
NOT_OF_THE_FAN = ("hp", "rated_w", "rated_a", "rated_va", "code_letter")
"""What a line about the fan says of the fan alone."""


def read_number(said: str) -> tuple[float | None, bool]:
    """A figure as read, and whether letters in it were put right.

    Args:
        said: digits, and what is often read in their place.

    Returns:
        The figure, or None, and whether it was put right.
    """
    plain = said.translate(LETTERS).replace(",", ".").replace(" ", "")
    try:
        return float(plain), plain != said.replace(",", ".").replace(" ", "")
    except ValueError:
        return None, True


def _value(field: str, said: str) -> tuple[float | str | None, bool]:
    """What a field takes of what was read, and whether it is to be asked for that."""
    if field == "refrigerant":
        return "R-" + re.sub(r"\W|^R", "", said.upper()).removeprefix("R"), False
    if field == "code_letter":
        letter = said.upper()
        return (letter, False) if letter in CODE_LETTERS else (None, True)
    if field in PAIRED and re.search(r"[/-]", said):
        found = [read_number(x) for x in re.split(r"[/-]", said)]
        both = [v for v, _ in found if v is not None]
        mended = any(mended for _, mended in found)
        return (f"{both[0]:g}/{both[1]:g}", mended) if len(both) == 2 else (None, True)
    if field == "btu_h":
        cooling, mended = read_number(re.sub(r"[., A-Z]", "", said, flags=re.IGNORECASE))
        of_it = BTU_A_KCAL if "CAL" in said.upper() else 1.0
        return (None if cooling is None else cooling * of_it), mended
    if field == "hp":
        if "/" not in said:
            return read_number(said.strip().rpartition(" ")[2])
        fraction = fraction_of(said)
        return fraction, fraction is None
    return read_number(said)


def _within(field: str, value: float | str) -> bool:
    """Whether a value is in its field's range."""
    faults: Faults = []
    return PLATE[field].read(value, field, faults) is not INVALID and not faults


def _candidates(text: str) -> Iterator[tuple[str, float | str, bool]]:
    """Field, value and whether it is to be asked, of everything a line tells."""
    left = NOT_OF_THE_INPUT.sub(" ", text)
    of_cooling = COOLING.search(left) is not None and INPUT.search(left) is None
    kilowatts = next(filter(None, (one.search(left) for one in KILOWATTS)), None)
    if kilowatts is not None:
        value, mended = read_number(kilowatts[1])
        if value is not None and not of_cooling and _within("rated_w", value * KW):
            yield "rated_w", value * KW, mended
        left = left.replace(kilowatts[0], " ", 1)
    of_fan = FAN.search(text) is not None
    for field, patterns in PATTERNS.items():
        if of_fan and field in NOT_OF_THE_FAN:
            continue
        if of_cooling and field == "rated_w":
            continue
        for pattern in patterns:
            found = pattern.search(left)
            if found is None:
                continue
            value_, mended = _value(field, found[1])
            if value_ is not None and _within(field, value_):
                yield field, value_, mended
                left = f"{left[: found.start()]} | {left[found.end() :]}"
                break


ReadAs = tuple[float | str, bool, int]
"""What a line tells of a figure: its value, whether that is sure, and the line's number."""


def gathered(
    lines: Iterable[Words], candidates: Callable[[str], Iterator[tuple[str, float | str, bool]]]
) -> dict[str, list[ReadAs]]:
    """Everything that is told of each figure.

    Args:
        lines: lines of text as read, with where they stand.
        candidates: field, value and whether it is to be asked, of everything a line tells.

    Returns:
        What is told, by field.
    """
    found: dict[str, list[ReadAs]] = {}
    for at, line in enumerate(lines):
        for field, value, mended in candidates(line.text):
            found.setdefault(field, []).append((value, line.sure >= SURE and not mended, at))
    return found


def figure_of(field: str, read_as: list[ReadAs]) -> Figure:
    """The figure that is surest of all that is told of it; asked where something else is told.

    Args:
        field: of the plate.
        read_as: everything said of it.

    Returns:
        The figure.
    """
    value, sure, at = max(read_as, key=lambda one: one[1])
    others = tuple(dict.fromkeys(v for v, _, _ in read_as if v != value))
    return Figure(field, value, sure and not others, at, others)


def figures_of(lines: Iterable[Words]) -> tuple[Figure, ...]:
    """The figures of a plate, in the order of :data:`PLATE`; each once, with what else is said.

    Args:
        lines: lines of text as read, with where they stand.

    Returns:
        The figures.
    """
    found = gathered(lines, _candidates)
    return tuple(figure_of(field, found[field]) for field in PLATE if field in found)


def filled(figures: Iterable[Figure]) -> Document:
    """What may be filled in without asking, as :func:`read_plate` takes it, with the kind of load
    that such figures are of.

    Args:
        figures: of the plate.

    Returns:
        The fields, with ``kind``.
    """
    sure = {f.field: f.value for f in figures if f.sure}
    if {"btu_h", "refrigerant"} & {f.field for f in figures}:
        sure["kind"] = "air-conditioner"
    elif {"rla_a", "lra_a", "hp", "code_letter"} & set(sure):
        sure["kind"] = "motor"
    elif {"rated_w", "rated_va"} & set(sure):
        sure["kind"] = "resistive"
    return sure
