"""What the logs of all setups on a post remember of it, by the hour, and putting an hour's figures
into the supply.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.apps import apps

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.learning.log import read_log
from ironmargin.learning.post import Hours, Memory, post_memory
from web.supplies.models import Supply

KINDS = ("supply", "run")
MAX = 800
WIDE, HIGH = 340.0, 110.0
MIN_OHM = 0.1


def memories_of(items: Iterable[Supply]) -> dict[int, Memory]:
    """What is remembered of each post, by its key; not of other supplies, nor where nobody read."""
    posts = [item.pk for item in items if item.document.get("kind") == "shore"]
    if not posts:
        return {}
    rows = apps.get_model("logbook", "LogEntry").objects.filter(
        setup__supply__in=posts, setup__deleted_at=None, deleted_at=None, kind__in=KINDS
    )
    entries: dict[int, list[Any]] = {}
    for post, document in rows.order_by("-at").values_list("setup__supply", "document")[:MAX]:
        try:
            read = read_log({"entries": [document]}).entries
        except SetupError:
            continue  # kept under other rules
        entries.setdefault(post, []).extend(read)
    found = {post: post_memory(those) for post, those in entries.items()}
    return {post: memory for post, memory in found.items() if memory is not None}


def memory_of(item: Supply) -> Memory | None:
    """What is remembered of a post; None of another supply, or where nobody read it."""
    return memories_of([item]).get(item.pk)


def with_hours(document: Document, hours: Hours) -> Document:
    """A post's document with the figures of some hours."""
    changed = {k: v for k, v in document.items() if k != "readings"}
    return changed | {"voltage_v": round(hours.open_v, 1), "source_ohm": round(hours.ohm, 3)}


@dataclass(frozen=True)
class Drawn:
    """The impedance by hours: bars from low to high with their middle, and ticks [ohm]."""

    bars: tuple[tuple[float, float, float, float, Hours], ...]
    ticks: tuple[tuple[float, float], ...]


def draw_memory(memory: Memory) -> Drawn:
    """Each time of the day as a bar over the scale of a day."""
    top = max([MIN_OHM, *(h.high_ohm for h in memory.by_hours)]) * 1.1
    rows = len(memory.by_hours)
    step = HIGH / max(rows, 1)

    def along(ohm: float) -> float:
        return round(WIDE * ohm / top, 1)

    bars = tuple(
        (along(h.low_ohm), along(h.high_ohm), along(h.ohm), round(step * (n + 0.5), 1), h)
        for n, h in enumerate(memory.by_hours)
    )
    each = 0.1 if top < 0.6 else 0.2 if top < 1.2 else 0.5
    ticks = tuple((along(each * n), round(each * n, 1)) for n in range(int(top / each) + 1))
    return Drawn(bars, ticks)
