"""Older versions of the open formats, brought up to date before they are read.

A file says its format and version. Where a format's version is raised, the step from the one before
is added here, a function from a whole document to a whole document; files of any older version are
then read through every step after theirs. All formats stand at version 1 today, so there is none.
"""

from __future__ import annotations

from collections.abc import Callable

from ironmargin.document import Document

Step = Callable[[Document], Document]

STEPS: dict[tuple[str, int], Step] = {}
"""By format and the version a step begins from, as ("iron-margin/setup", 1)."""


def up_to_date(data: object) -> object:
    """A document in the newest version of its format; what is none stays as it is.

    Args:
        data: as it was read.

    Returns:
        The document.
    """
    while isinstance(data, dict):
        fmt, version = data.get("format"), data.get("version")
        if not isinstance(fmt, str) or not isinstance(version, int) or isinstance(version, bool):
            return data
        step = STEPS.get((fmt, version))
        if step is None:
            return data
        data = step(data) | {"format": fmt, "version": version + 1}
    return data
