"""Compile the start engine ahead of time (Cython, gcc), where its source has changed since:
``python tools/compile.py``.

The compiled module stands beside its source and is imported instead of it; the source's hash stands
beside both, so that a stale one is never used unnoticed.
"""

from __future__ import annotations

import hashlib
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "ironmargin" / "starting" / "engine.py"
STAMP = SOURCE.with_suffix(".built")


def wanted() -> str:
    """What the compiled module must have been made from: the engine, how it is built, and for which
    Python.
    """
    made_from = b"".join(
        f.read_bytes() for f in (SOURCE, SOURCE.with_suffix(".pxd"), ROOT / "setup.py")
    )
    return f"{hashlib.sha256(made_from).hexdigest()} {sys.implementation.cache_tag}"


def current() -> bool:
    """Whether a compiled module of the present source stands there."""
    return (
        STAMP.exists() and STAMP.read_text() == wanted() and any(SOURCE.parent.glob("engine.*.so"))
    )


def compile_engine() -> None:
    """Compile, unless it is current."""
    if current():
        return
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "setup.py", "-q", "build_ext", "--inplace"],
        cwd=ROOT,
        check=False,
        capture_output=True,
        text=True,
    )
    if done.returncode:
        sys.exit(f"{done.stdout}{done.stderr}")
    STAMP.write_text(wanted())


if __name__ == "__main__":
    compile_engine()
