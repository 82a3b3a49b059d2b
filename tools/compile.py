"""Compile the start engine, its searches, the settled network and a battery's cells ahead of time
(Cython, gcc), where their source has changed since: ``python tools/compile.py``.

A compiled module stands beside its source and is imported instead of it; the hash of the sources
stands beside the engine, so that a stale one is never used unnoticed.
"""

from __future__ import annotations

import compileall
import hashlib
import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "ironmargin"
SOURCES = tuple(
    CORE / f"{part}.py"
    for part in (
        "starting/engine",
        "starting/supply",
        "starting/concurrent",
        "starting/circuit",
        "starting/motors",
        "starting/lines",
        "starting/edge",
        "electrics/columns",
        "enduring/cells",
    )
)
COMPILED = tuple(source.relative_to(CORE).as_posix() for source in SOURCES)
"""The same, as they are named within the core."""
STAMP = SOURCES[0].with_suffix(".built")


def wanted() -> str:
    """What the compiled modules must have been made from: their sources, how they are built, and
    for which Python.
    """
    files = [f for source in SOURCES for f in (source, source.with_suffix(".pxd"))]
    made_from = b"".join(f.read_bytes() for f in (*files, ROOT / "setup.py"))
    return f"{hashlib.sha256(made_from).hexdigest()} {sys.implementation.cache_tag}"


def current() -> bool:
    """Whether compiled modules of the present sources stand there."""
    return (
        STAMP.exists()
        and STAMP.read_text() == wanted()
        and all(any(s.parent.glob(f"{s.stem}.*.so")) for s in SOURCES)
    )


def compile_engine() -> None:
    """Compile, unless it is current; the core's other modules become byte code, so that a command
    begins at once even where Python may not write it.
    """
    compileall.compile_dir(CORE, quiet=1)
    if current():
        return
    done = subprocess.run(
        [
            sys.executable,
            "-W",
            "ignore",
            "setup.py",
            "-q",
            "build_ext",
            "--inplace",
            f"-j{os.cpu_count() or 1}",
        ],
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
