"""Older files of the open formats, brought up to date before they are read: older versions, and
fields that had another name.

A file says its format and version. Where a format's version is raised, the step from the one before
is added to ``STEPS``, a function from a whole document to a whole document; files of any older
version are then read through every step after theirs. All formats stand at version 1 today, so
there is none. A field that only gets another name goes into ``RENAMED``: the former one is read for
one release more, with a warning.
"""

from __future__ import annotations

import warnings
from collections.abc import Callable

from ironmargin.document import Document

Step = Callable[[Document], Document]

STEPS: dict[tuple[str, int], Step] = {}
"""By format and the version a step begins from, as ("iron-margin/setup", 1)."""
RENAMED = {
    "breaker_school": "trip_criterion",
    "limit_headroom": "limit_over_surge",
    "most_generator_h": "max_generator_h",
    "least_hours": "min_hours",
}
"""Former name of a field, and its name now. Each was in one format only and is in none any more, so
that it can be renamed wherever it stands.
"""
READ_UNTIL = "0.3.0"
"""The release that reads the former names no more."""


class FormerName(FutureWarning):
    """A file has a field by a name that will not be read much longer."""


def renamed(data: object, seen: dict[str, str] | None = None) -> object:
    """A document with the names its fields have today; what other programs keep under ``x`` stays.

    Args:
        data: parsed JSON.
        seen: the former names found, each with the one it has now; added to.

    Returns:
        The document. Where a field stands under both names both stay, and its reader refuses the
        former one.
    """
    if isinstance(data, list):
        return [renamed(item, seen) for item in data]
    if not isinstance(data, dict):
        return data
    out: Document = {}
    for key, value in data.items():
        now = RENAMED.get(key)
        if now is not None and now not in data:
            if seen is not None:
                seen[key] = now
            key = now
        out[key] = value if key == "x" else renamed(value, seen)
    return out


def notice(seen: dict[str, str]) -> str:
    """What is said of former names in a file.

    Args:
        seen: the former names, each with the one it has now.

    Returns:
        A sentence; empty where there are none.
    """
    each = ", ".join(f"{old} is now called {new}" for old, new in seen.items())
    return each and f"{each}; former names are read until {READ_UNTIL}."


def up_to_date(data: object) -> object:
    """A document in the newest version of its format, in today's names, with a warning
    (:class:`FormerName`) where it has others; what is no document stays as it is.

    Args:
        data: as it was read.

    Returns:
        The document.
    """
    seen: dict[str, str] = {}
    data = renamed(data, seen)
    if seen:
        warnings.warn(notice(seen), FormerName, stacklevel=2)
    while isinstance(data, dict):
        fmt, version = data.get("format"), data.get("version")
        if not isinstance(fmt, str) or not isinstance(version, int) or isinstance(version, bool):
            return data
        step = STEPS.get((fmt, version))
        if step is None:
            return data
        data = step(data) | {"format": fmt, "version": version + 1}
    return data
