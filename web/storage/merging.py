"""Two people's changes of one document: what each changed, and both put together.

Three ways: what only one of them touched is taken from them; where both touched the same figure,
the one who saves later decides, and is told.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, TypeGuard

from ironmargin.document import Document

GONE: Any = object()
"""What stands where a side has nothing."""


@dataclass(frozen=True)
class Row:
    """A figure on which the two differ: where it is, what each has, and who changed it."""

    where: str
    theirs: str
    yours: str
    both: bool


def merged(base: object, theirs: object, yours: object) -> tuple[object, list[Row]]:
    """Both changes put together, and every figure on which the two differ."""
    rows: list[Row] = []
    return _merge(base, theirs, yours, "", rows), rows


def _merge(base: object, theirs: object, yours: object, where: str, rows: list[Row]) -> object:
    if theirs == yours:
        return yours
    if isinstance(theirs, dict) and isinstance(yours, dict):
        before = base if isinstance(base, dict) else {}
        found = {}
        for key in dict.fromkeys([*yours, *theirs]):
            one = _merge(
                before.get(key, GONE), theirs.get(key, GONE), yours.get(key, GONE),
                f"{where} {key.replace('_', ' ')}".strip(), rows,
            )  # fmt: skip
            if one is not GONE:
                found[key] = one
        return found
    if _listed(theirs) and _listed(yours):
        sides = [
            {_key(x): x for x in side} if _listed(side) else {} for side in (base, theirs, yours)
        ]
        was, left, right = sides
        found_list = []
        for key in dict.fromkeys([*right, *left]):
            item = right[key] if key in right else left[key]
            one = _merge(
                was.get(key, GONE), left.get(key, GONE), right.get(key, GONE), _name(item), rows
            )
            if one is not GONE:
                found_list.append(one)
        return found_list
    mine, other = yours != base, theirs != base
    rows.append(Row(where or "all of it", _words(theirs), _words(yours), mine and other))
    return yours if mine else theirs


def _listed(value: object) -> TypeGuard[list[Document]]:
    """Whether a list's items can be told apart by what they are."""
    return (
        isinstance(value, list)
        and all(isinstance(x, dict) and _key(x) is not None for x in value)
        and len({_key(x) for x in value}) == len(value)
    )


def _key(item: Document) -> object:
    return item.get("id") or item.get("load")


def _name(item: Document) -> str:
    return str(item.get("name") or item.get("id") or item.get("load"))


def _words(value: object) -> str:
    if value is GONE:
        return "not there"
    if isinstance(value, dict):
        return str(value.get("name") or value.get("kind") or "changed")
    return f"{len(value)} entries" if isinstance(value, list) else str(value)[:60]
