"""Specifications of what holds other values: rows, records, kinds, lists, tables; and the reading,
writing and schema of a whole dataclass whose fields carry them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import MISSING, fields
from typing import TypeVar, cast

from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.record import record
from ironmargin.setup.spec import INVALID, Faults, Number, Spec, shown
from ironmargin.setup.versions import up_to_date

T = TypeVar("T")


@record
class Rows(Spec):
    """A list of fixed-length rows of numbers, as ``[[load_w, hours], …]``; kept as a tuple of
    tuples.
    """

    columns: tuple[Number, ...] = ()
    minimum: int = 0
    maximum: int = 20

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, list):
            return self.fail(faults, path, "list", "must be a list", value)
        if not self.minimum <= len(value) <= self.maximum:
            return self.fail(
                faults,
                path,
                "length",
                f"must have {self.minimum} to {self.maximum} rows",
                len(value),
            )
        out = []
        for at, row in enumerate(value):
            here = f"{path}[{at}]"
            if not isinstance(row, list) or len(row) != len(self.columns):
                self.fail(faults, here, "row", f"must be a row of {len(self.columns)} numbers", row)
                continue
            out.append(
                tuple(
                    c.read(v, f"{here}[{i}]", faults)
                    for i, (c, v) in enumerate(zip(self.columns, row, strict=True))
                )
            )
        return tuple(out)

    def write(self, value: object) -> object:
        return [list(row) for row in cast(tuple[tuple[float, ...], ...], value)]

    def schema(self) -> Document:
        row = {
            "type": "array",
            "prefixItems": [c.schema() for c in self.columns],
            "items": False,
            "minItems": len(self.columns),
        }
        return {"type": "array", "items": row, "minItems": self.minimum, "maxItems": self.maximum}


@record
class Record(Spec):
    """A nested object of one dataclass."""

    of: type = object

    def read(self, value: object, path: str, faults: Faults) -> object:
        return read_record(self.of, value, path, faults)

    def write(self, value: object) -> object:
        return write_record(value)

    def schema(self) -> Document:
        return record_schema(self.of)


@record
class Kinds(Spec):
    """A nested object whose dataclass is chosen by its ``kind``; the registry is looked up late."""

    of: Callable[[], Mapping[str, type]] = dict

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, dict):
            return self.fail(faults, path, "object", "must be an object", value)
        kind = value.get("kind")
        known = self.of()
        if not isinstance(kind, str) or kind not in known:
            here = f"{path}.kind" if path else "kind"
            return self.fail(faults, here, "kind", "must be one of " + ", ".join(known), kind)
        return read_record(known[kind], value, path, faults)

    def write(self, value: object) -> object:
        return write_record(value)

    def schema(self) -> Document:
        return {"oneOf": [record_schema(cls) for cls in self.of().values()]}


@record
class Many(Spec):
    """A list of values of one specification; kept as a tuple."""

    of: Spec = Spec()
    minimum: int = 0
    maximum: int = 200

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, list):
            return self.fail(faults, path, "list", "must be a list", value)
        if not self.minimum <= len(value) <= self.maximum:
            return self.fail(
                faults,
                path,
                "length",
                f"must have {self.minimum} to {self.maximum} entries",
                len(value),
            )
        return tuple(self.of.read(item, f"{path}[{at}]", faults) for at, item in enumerate(value))

    def write(self, value: object) -> object:
        return [self.of.write(item) for item in cast(tuple[object, ...], value)]

    def schema(self) -> Document:
        return {
            "type": "array",
            "items": self.of.schema(),
            "minItems": self.minimum,
            "maxItems": self.maximum,
        }


@record
class Table(Spec):
    """An object whose keys come from a fixed set and whose values share one specification."""

    keys: tuple[str, ...] = ()
    of: Spec = Spec()

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, dict):
            return self.fail(faults, path, "object", "must be an object", value)
        out = {}
        for key, item in value.items():
            if key not in self.keys:
                self.fail(
                    faults, f"{path}.{key}", "choice", "must be one of " + ", ".join(self.keys), key
                )
            else:
                out[key] = self.of.read(item, f"{path}.{key}", faults)
        return out

    def write(self, value: object) -> object:
        held = cast(dict[str, object], value)
        return {key: self.of.write(item) for key, item in held.items()}

    def schema(self) -> Document:
        return {
            "type": "object",
            "properties": {key: self.of.schema() for key in self.keys},
            "additionalProperties": False,
        }


KNOWN: dict[type, dict[str, tuple[str, Spec, object]]] = {}


def specs(cls: type) -> dict[str, tuple[str, Spec, object]]:
    """JSON key → (attribute, specification, default or MISSING) of a setup dataclass.

    Args:
        cls: the dataclass.

    Returns:
        By JSON key, in the order of the fields.
    """
    if cls not in KNOWN:
        out = {}
        for item in fields(cls):
            spec: Spec = item.metadata["spec"]
            default = (
                item.default_factory() if item.default_factory is not MISSING else item.default
            )
            out[spec.key or item.name] = (item.name, spec, default)
        KNOWN[cls] = out
    return KNOWN[cls]


def read_record(cls: type[T], value: object, path: str, faults: Faults) -> T:
    """Read a JSON object into ``cls``; faults are collected, and INVALID returned if there was
    any.

    Args:
        cls: the record to make.
        value: what was received.
        path: where it stands in the file, for faults.
        faults: the faults found so far; added to.

    Returns:
        The record, or INVALID.
    """
    if not isinstance(value, dict):
        faults.append(Fault(path, "object", f"must be an object (got {shown(value)})"))
        return cast(T, INVALID)
    document: Document = cast(Document, up_to_date(value)) if not path else value
    before = len(faults)
    known = specs(cls)
    dot = f"{path}." if path else ""
    kind = getattr(cls, "kind", None)
    for key in document:
        if key not in known and not (key == "kind" and kind):
            faults.append(
                Fault(
                    f"{dot}{key}",
                    "unknown-field",
                    f"unknown field, remove it or put it under x (got {shown(document[key])})",
                )
            )
    found = {}
    for key, (name, spec, default) in known.items():
        if key in document and not (document[key] is None and default is None):
            found[name] = spec.read(document[key], f"{dot}{key}", faults)
        elif default is MISSING:
            faults.append(Fault(f"{dot}{key}", "missing", "must be given (got nothing)"))
    return cls(**found) if len(faults) == before else cast(T, INVALID)


def write_record(value: object) -> Document:
    """The JSON object of a setup dataclass, leaving out what stands at its default.

    Args:
        value: a record.

    Returns:
        The JSON object.
    """
    out: Document = {}
    if kind := getattr(value, "kind", None):
        out["kind"] = kind
    for key, (name, spec, default) in specs(type(value)).items():
        held = getattr(value, name)
        if held is None or (default is not MISSING and held == default):
            continue
        out[key] = spec.write(held)
    return out


def file_schema(name: str, cls: type) -> Document:
    """The JSON Schema of a file of the open formats, made from the core's own types.

    Args:
        name: of the format.
        cls: the dataclass such a file holds.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    dialect = "https://json-schema.org/draft/2020-12/schema"
    return {"$schema": dialect, "$id": name} | record_schema(cls)


def record_schema(cls: type) -> Document:
    """The JSON Schema of a setup dataclass.

    Args:
        cls: the dataclass.

    Returns:
        The schema.
    """
    properties: Document = {}
    required = []
    if hasattr(cls, "kind"):
        properties["kind"] = {"const": cls.kind}
        required.append("kind")
    for key, (_, spec, default) in specs(cls).items():
        unit = getattr(spec, "unit", "")
        entry = spec.schema() | {"description": spec.doc + (f" [{unit}]" if unit else "")}
        if default is MISSING:
            required.append(key)
        elif default is not None and isinstance(default, (str, int, float, bool)):
            entry["default"] = default
        properties[key] = entry
    out = {
        "type": "object",
        "title": cls.__name__,
        "properties": properties,
        "additionalProperties": False,
    }
    return out | ({"required": required} if required else {})
