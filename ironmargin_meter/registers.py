"""What a meter's registers mean: one small table, used by the simulated meter and by what reads it.

Input registers (function 4) of 16 bits, the high word first where a figure takes two; a figure is
the register divided by ``per_unit``. Writing 1 to holding register 0 (function 6) begins the holds
anew. The map is this project's own; a meter with another map needs a gateway.

============  =====  ======  ===========  ==========================================
figure        first  words   per unit     meaning
============  =====  ======  ===========  ==========================================
volts_1       0      1       10           volts of leg 1 [V]
volts_2       1      1       10           volts of leg 2, 0 without one [V]
amps_1        2      1       100          amps of leg 1 [A]
amps_2        3      1       100          amps of leg 2 [A]
hz            4      1       100          frequency [Hz]
watts         5      2       1            real power [W]
wh            7      2       1            energy since it was powered [Wh]
held_a_1      9      1       100          highest amps of leg 1 since the last reset [A]
held_a_2      10     1       100          highest amps of leg 2 since the last reset [A]
held_v        11     1       10           lowest volts since the last reset [V]
beat          12     1       1            counts each update; standing still means the meter hangs
============  =====  ======  ===========  ==========================================
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

RESET_REGISTER, RESET_VALUE = 0, 1
WORD = 1 << 16


@dataclass(frozen=True)
class Register:
    """One figure of the map: its first register, its words, and counts a unit."""

    name: str
    first: int
    words: int
    per_unit: float
    maximum: float
    """What a meter on such a service can show at most; above it is no reading."""


MAP = (
    Register("volts_1", 0, 1, 10.0, 320.0),
    Register("volts_2", 1, 1, 10.0, 320.0),
    Register("amps_1", 2, 1, 100.0, 600.0),
    Register("amps_2", 3, 1, 100.0, 600.0),
    Register("hz", 4, 1, 100.0, 75.0),
    Register("watts", 5, 2, 1.0, 200_000.0),
    Register("wh", 7, 2, 1.0, WORD * WORD),
    Register("held_a_1", 9, 1, 100.0, 655.0),
    Register("held_a_2", 10, 1, 100.0, 655.0),
    Register("held_v", 11, 1, 10.0, 320.0),
    Register("beat", 12, 1, 1.0, WORD),
)
COUNT = MAP[-1].first + MAP[-1].words
Reading = dict[str, float]


class Nonsense(Exception):
    """What came over the wire is no reading; the message says why."""


def encode(reading: Reading) -> list[int]:
    """The registers of a reading; figures beyond what they hold stand at their end."""
    found = []
    for register in MAP:
        whole = WORD**register.words - 1
        value = min(max(round(reading[register.name] * register.per_unit), 0), whole)
        found += [value // WORD, value % WORD] if register.words == 2 else [value]
    return found


def decode(words: Sequence[int]) -> Reading:
    """The reading of some registers.

    Raises:
        Nonsense: too few words, or a figure no such service can have.
    """
    if len(words) != COUNT:
        raise Nonsense(f"{len(words)} registers came instead of {COUNT}")
    found = {}
    for register in MAP:
        value = 0
        for word in words[register.first : register.first + register.words]:
            value = value * WORD + word
        found[register.name] = value / register.per_unit
        if found[register.name] > register.maximum:
            said = f"{found[register.name]:g} is more than {register.maximum:g}"
            raise Nonsense(f"{register.name.replace('_', ' ')}: {said}")
    return found
