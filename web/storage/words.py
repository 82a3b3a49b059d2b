"""What changed between two documents, in a line for the history."""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.document import Document

MAX_SAID = 3


def _label(path: str, old: object, new: object) -> str:
    if old is None:
        return f"{path} set to {_short(new)}"
    if new is None:
        return f"{path} taken out"
    return f"{path} from {_short(old)} to {_short(new)}"


def _short(value: object) -> str:
    if isinstance(value, list):
        return f"{len(value)} {'entry' if len(value) == 1 else 'entries'}"
    if isinstance(value, dict):
        named = value.get("name") or value.get("id") or value.get("kind")
        return str(named or ", ".join(f"{k} {v}" for k, v in value.items()))[:40]
    return str(value)[:40]


def _named(item: object, at: int) -> str:
    return (
        str(item.get("name") or item.get("id") or item.get("load") or item.get("kind") or at)
        if isinstance(item, dict)
        else str(at)
    )


def changes(old: object, new: object, path: str = "") -> Iterator[str]:
    """Every difference, in words."""
    if isinstance(old, dict) and isinstance(new, dict):
        for key in [*old, *(k for k in new if k not in old)]:
            if old.get(key) != new.get(key):
                yield from changes(old.get(key), new.get(key), f"{path} {key}".strip())
    elif isinstance(old, list) and isinstance(new, list):
        before, after = (
            {_identity(x, at): x for at, x in enumerate(items)} for items in (old, new)
        )
        for at, (key, item) in enumerate(before.items()):
            if key not in after:
                yield f"{_named(item, at)} taken out"
            elif item != after[key]:
                yield from changes(item, after[key], _named(after[key], at))
        for at, (key, item) in enumerate(after.items()):
            if key not in before:
                yield f"{_named(item, at)} added"
        if list(before) != list(after) and set(before) == set(after):
            yield f"{path} put in another order"
    elif old != new:
        yield _label(path or "value", old, new)


def _identity(item: object, at: int) -> object:
    if isinstance(item, dict):
        return item.get("id") or item.get("load") or (item.get("kind"), at)
    return at


def difference(
    old: Document, new: Document, old_name: str = "", new_name: str | None = None
) -> str:
    """The first differences in one line."""
    said = [f"renamed to {new_name}"] if new_name is not None and new_name != old_name else []
    said += list(
        changes(
            {k: v for k, v in old.items() if k != "name"},
            {k: v for k, v in new.items() if k != "name"},
        )
    )
    rest = len(said) - MAX_SAID
    return "; ".join(said[:MAX_SAID]) + (f" and {rest} more" if rest > 0 else "")
