"""What makes itself known: a new kind is a new file, and nothing else is changed for it."""

from __future__ import annotations

import importlib
import pkgutil
from functools import cache


@cache
def load_all(package: str) -> None:
    """Import every module of a package, so that each registers what it holds.

    Args:
        package: its dotted name.
    """
    path = importlib.import_module(package).__path__
    for name in sorted(m.name for m in pkgutil.iter_modules(path)):
        importlib.import_module(f"{package}.{name}")
