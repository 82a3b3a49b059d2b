"""Writes docs/fields.md, every field of the open formats, from the core's own specification:
``python tools/fields.py``. A test refuses a page that is older than the specification.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from ironmargin.bench.script import script_schema  # noqa: E402
from ironmargin.learning.log import log_schema  # noqa: E402
from ironmargin.planning.stock import stock_schema  # noqa: E402
from ironmargin.planning.tasks import tasks_schema  # noqa: E402
from ironmargin.reaching.places import places_schema  # noqa: E402
from ironmargin.setup.reading import setup_schema  # noqa: E402

PAGE = ROOT / "docs" / "fields.md"
FORMATS = {
    "iron-margin/setup": setup_schema, "iron-margin/log": log_schema,
    "iron-margin/tasks": tasks_schema, "iron-margin/stock": stock_schema,
    "iron-margin/places": places_schema, "iron-margin/script": script_schema,
}  # fmt: skip
HEAD = """# Every field of the open formats

Written by `python tools/fields.py` from the core's own types; change nothing here by hand.
[format.md](format.md) says what the fields mean together.
"""
BOUNDS = (
    ("minimum", "from"), ("exclusiveMinimum", "above"), ("maximum", "to"),
    ("exclusiveMaximum", "below"),
)  # fmt: skip
UNIT = re.compile(r"^(.*?)\s*\[([^\]]*)\]$", re.DOTALL)


def _figure(value: float) -> str:
    return f"{value:,.10g}".replace("-", "−")


def _takes(schema: dict[str, Any]) -> str:
    """What a field takes, in words."""
    if "oneOf" in schema:
        return "one of: " + ", ".join(_name(each) for each in schema["oneOf"])
    if "const" in schema:
        return f"`{schema['const']}`"
    if "enum" in schema:
        return ", ".join(f"`{word}`" for word in schema["enum"])
    kind = schema.get("type", "anything")
    if kind == "object":
        return _name(schema) if "properties" in schema else "an object"
    if kind == "array":
        maximum = f", at most {schema['maxItems']:,}" if "maxItems" in schema else ""
        each = schema["prefixItems"] if "prefixItems" in schema else [schema.get("items", {})]
        return f"a list of {', '.join(_takes(one) for one in each)}{maximum}"
    if kind == "string":
        return f"text, at most {schema['maxLength']:,} letters" if "maxLength" in schema else "text"
    if kind == "boolean":
        return "true or false"
    ends = [f"{word} {_figure(schema[key])}" for key, word in BOUNDS if key in schema]
    return " ".join(["a whole number" if kind == "integer" else "a number", *ends])


def _kind(schema: dict[str, Any]) -> str:
    """The word in an object's ``kind`` that tells it apart, if it has one."""
    kind = schema.get("properties", {}).get("kind", {})
    return str(kind.get("const") or next(iter(kind.get("enum", [])), ""))


def _title(schema: dict[str, Any]) -> str:
    return str(schema.get("title") or _kind(schema) or " and ".join(schema["properties"]))


def _name(schema: dict[str, Any]) -> str:
    """What an object is called, linked to its table."""
    if "properties" not in schema:
        return _takes(schema)
    anchor = re.sub(r"[^a-z0-9_ -]+", "", _title(schema).lower()).replace(" ", "-")
    return f"[{_kind(schema) or _title(schema)}](#{anchor})"


def _objects(schema: Any, found: dict[str, dict[str, Any]]) -> dict[str, dict[str, Any]]:
    """Every object with fields, by its title, in the order in which they are met."""
    if isinstance(schema, dict):
        if "properties" in schema:
            found.setdefault(_title(schema), schema)
        for key, each in schema.items():
            if key not in ("default", "enum"):
                _objects(each, found)
    elif isinstance(schema, list):
        for each in schema:
            _objects(each, found)
    return found


def _rows(schema: dict[str, Any]) -> list[str]:
    """The table of one object."""
    rows = ["| field | takes | unit | unless said | meaning |", "|---|---|---|---|---|"]
    needed = schema.get("required", [])
    for key, field in schema["properties"].items():
        words = str(field.get("description", ""))
        split = UNIT.match(words)
        meaning, unit = (split[1], split[2]) if split else (words, "")
        unless = "must be given" if key in needed else _default(field.get("default"))
        row = (f"`{key}`", _takes(field), "" if unit == "1" else unit, unless, meaning)
        rows.append("| " + " | ".join(cell.replace("|", "\\|") for cell in row) + " |")
    return [*rows, ""]


def _default(value: Any) -> str:
    """What stands where nothing is said."""
    if value is None or value in ("", [], {}):
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return _figure(value)
    return f"`{value}`" if isinstance(value, str) else "as listed"


def page() -> str:
    """The whole page."""
    parts = [HEAD]
    known: dict[str, dict[str, Any]] = {}
    for name, schema_of in FORMATS.items():
        before = set(known)
        _objects(schema_of(), known)
        parts.append(f"## `{name}`\n")
        for title in [title for title in known if title not in before]:
            parts += [f"### {title}\n", *_rows(known[title])]
    return "\n".join(parts)


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
