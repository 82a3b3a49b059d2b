"""The recipes of CONTRIBUTING.md, put into a copy of the tree as they stand there."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
LEFT_OUT = (".git", ".venv", "node_modules", "var", "build", "manual", "__pycache__", ".mypy_cache")
NAMED, EMPTY = re.compile(r"`([\w/]+\.\w+)`:"), re.compile(r"`([\w/]+\.\w+)` is empty")
BLOCK = re.compile(r"^```(\w+)\n(.*?)^```$", re.MULTILINE | re.DOTALL)
LINE = re.compile(r"one line, `(.*?)`, in `(\w+)` \(`(.*?)`\), behind `(.*?)`")


def recipes() -> dict[str, str]:
    """What is said under each heading."""
    text = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8")
    _, *parts = text[text.index("## Recipes") :].split("\n### ")
    return {head: body for head, _, body in (part.partition("\n") for part in parts)}


def put(body: str, tree: Path) -> list[str]:
    """Put a recipe into a tree; the files it made or changed."""
    touched = []
    for line, _, path, behind in LINE.findall(body):
        file = tree / path
        held = file.read_text(encoding="utf-8")
        assert held.count(behind) == 1, behind
        file.write_text(held.replace(behind, f"{behind}\n    {line}"), encoding="utf-8")
        touched.append(path)
    for path in EMPTY.findall(body):
        (tree / path).parent.mkdir(parents=True, exist_ok=True)
        (tree / path).touch()
        touched.append(path)
    at = 0
    for block in BLOCK.finditer(body):
        path = NAMED.findall(body[at : block.start()])[-1]
        at = block.end()
        file = tree / path
        file.parent.mkdir(parents=True, exist_ok=True)
        if block[1] == "diff":
            lines = block[2].splitlines(keepends=True)
            before = "".join(x[1:] for x in lines if x[0] != "+")
            held = file.read_text(encoding="utf-8")
            assert held.count(before) == 1, before
            after = "".join(x[1:] for x in lines)
            file.write_text(held.replace(before, after), encoding="utf-8")
        else:
            assert not file.exists(), f"{path} is there already"
            file.write_text(block[2], encoding="utf-8")
        touched.append(path)
    return touched


def copied(to: Path) -> None:
    """A copy of what the site and the core are made of."""
    shutil.copytree(ROOT, to, ignore=shutil.ignore_patterns(*LEFT_OUT))
