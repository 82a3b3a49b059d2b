"""What is installed beside the core for some commands: ``pip install 'ironmargin[plan]'``."""

from __future__ import annotations

EXTRAS = {
    "ortools": "plan",
    "dask": "scale",
    "distributed": "scale",
    "pyarrow": "scale",
    "scipy": "senses",
    "cv2": "senses",
}
"""The extra that brings a package, by the name it is imported under."""


def how_to_get(missing: ModuleNotFoundError) -> str:
    """What to do where a package of an extra is not there.

    Args:
        missing: what its import raised.

    Returns:
        A sentence; empty for a package that no extra brings.
    """
    name = (missing.name or "").partition(".")[0]
    if name not in EXTRAS:
        return ""
    return f"this needs {name}, which is not installed: pip install 'ironmargin[{EXTRAS[name]}]'"
