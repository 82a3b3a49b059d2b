"""Typical loads offered while a rig is filled."""

from __future__ import annotations

from functools import cache
from typing import Any

from ironmargin.tables import rows


@cache
def loads() -> tuple[tuple[str, str], ...]:
    """(key, name) of the typical loads."""
    return tuple((r["key"], r["name"]) for r in rows("typical_loads"))


def load_document(key: str, taken: set[str]) -> dict[str, Any] | None:
    """A typical load as the format has it, under an id that is not taken."""
    for r in rows("typical_loads"):
        if r["key"] != key:
            continue
        ident = next(i for i in (key, *(f"{key}-{n}" for n in range(2, 300))) if i not in taken)
        out: dict[str, Any] = {
            "id": ident,
            "name": r["name"][:1].upper() + r["name"][1:],
            "kind": r["kind"],
            "from": "typical",
        }
        if float(r["voltage_v"]) != 120.0:
            out["voltage_v"] = float(r["voltage_v"])
        for name in ("watts", "running_a", "lra_a", "fan_high_a", "duty"):
            if r[name]:
                out[name] = float(r[name])
        return out | ({"start": r["start"]} if r["start"] else {})
    return None
