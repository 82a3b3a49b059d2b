"""Field specifications: type, unit, default, range and description of each input, said once.

A dataclass field made by :func:`number`, :func:`choice` and so on carries a :class:`Spec` in its
metadata. Reading, validation, writing, the JSON Schema, the documentation table and the web forms
all come from it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import MISSING, field, fields
from typing import Any, TypeAlias, TypeVar, cast

from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.record import record
from ironmargin.setup.versions import up_to_date

T = TypeVar("T")
INVALID: Any = object()
"""Stands for a value of any kind that could not be read; its fault has been recorded."""

Faults = list[Fault]
LEAST_FIGURE = 1e-6
"""Nothing that must be above nought is less than a millionth of its unit: smaller is a slip, and
its square no number any more.
"""


def shown(value: object) -> str:
    """The value received, short enough to print in a message.

    Args:
        value: what was received.

    Returns:
        At most forty characters.
    """
    text = f'"{value}"' if isinstance(value, str) else str(value)
    return text if len(text) <= 40 else text[:37] + "..."


@record
class Spec:
    """Base of the specifications. ``key`` is the JSON name where it differs from the attribute."""

    doc: str = ""
    key: str | None = None

    def read(self, value: object, path: str, faults: Faults) -> object:
        """Turn a JSON value into a core value, or record a fault and return INVALID.

        Args:
            value: what was received.
            path: where it stands in the file, for faults.
            faults: the faults found so far; added to.

        Returns:
            The core value, or INVALID.
        """
        raise TypeError(f"{type(self).__name__} does not read")

    def write(self, value: object) -> object:
        """Turn a core value into its JSON value.

        Args:
            value: the core value.

        Returns:
            The JSON value.
        """
        return value

    def schema(self) -> Document:
        """The JSON Schema of one value."""
        raise TypeError(f"{type(self).__name__} has no schema")

    def fail(self, faults: Faults, path: str, code: str, rule: str, value: object) -> object:
        """Record a fault in place of a value.

        Args:
            faults: the faults found so far; added to.
            path: where it stands in the file, for faults.
            code: name of the rule broken.
            rule: the rule in words.
            value: what was received.

        Returns:
            INVALID.
        """
        faults.append(Fault(path, code, f"{rule} (got {shown(value)})"))
        return INVALID


@record
class Number(Spec):
    """A finite number with its unit and range; ``above`` excludes its bound, ``least`` and ``most``
    do not.
    """

    unit: str = ""
    above: float | None = None
    least: float | None = None
    most: float | None = None
    whole: bool = False

    def read(self, value: object, path: str, faults: Faults) -> object:
        if isinstance(value, bool) or not isinstance(value, (int, float)):
            return self.fail(faults, path, "number", "must be a number", value)
        try:
            finite = math.isfinite(value)
        except OverflowError:
            finite = False
        if not finite:
            return self.fail(faults, path, "finite", "must be a finite number", value)
        if self.whole and value != int(value):
            return self.fail(faults, path, "whole", "must be a whole number", value)
        if self.above is not None and value <= self.above:
            return self.fail(faults, path, "above", f"must be above {self.above:g}", value)
        if self.above == 0 and value < LEAST_FIGURE:
            return self.fail(faults, path, "tiny", f"must be at least {LEAST_FIGURE:g}", value)
        if self.least is not None and value < self.least:
            return self.fail(faults, path, "least", f"must be at least {self.least:g}", value)
        if self.most is not None and value > self.most:
            return self.fail(faults, path, "most", f"must be at most {self.most:g}", value)
        return int(value) if self.whole else float(value)

    def write(self, value: object) -> object:
        figure = cast(float, value)
        return int(figure) if float(figure).is_integer() else figure

    def schema(self) -> Document:
        out: Document = {"type": "integer" if self.whole else "number"}
        for name, bound in (
            ("exclusiveMinimum", self.above),
            ("minimum", self.least),
            ("maximum", self.most),
        ):
            if bound is not None:
                out[name] = bound
        return out


LONGEST_LINE = 400
"""Longest text that is a line: a name, an address; longer ones are notes."""
BLANKS = str.maketrans("\n\r\t", "   ")


@record
class Text(Spec):
    """Text of bounded length; ``filled`` refuses an empty one."""

    most: int = 200
    filled: bool = False

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, str):
            return self.fail(faults, path, "text", "must be text", value)
        if self.filled and not value.strip():
            return self.fail(faults, path, "empty", "must not be empty", value)
        if len(value) > self.most:
            return self.fail(
                faults,
                path,
                "long",
                f"must be at most {self.most} characters",
                f"{len(value)} characters",
            )
        if self.most <= LONGEST_LINE:
            value = value.translate(BLANKS)  # a name is one line
        if any(ord(letter) < 32 and letter not in "\n\t\r" for letter in value):
            return self.fail(
                faults,
                path,
                "control",
                "must not hold control characters",
                value.encode("unicode_escape").decode(),
            )
        try:
            value.encode("utf-8")
        except UnicodeEncodeError:
            return self.fail(
                faults,
                path,
                "unicode",
                "must be valid Unicode text",
                value.encode("unicode_escape").decode(),
            )
        return value

    def schema(self) -> Document:
        out: Document = {"type": "string", "maxLength": self.most}
        return out | ({"minLength": 1} if self.filled else {})


@record
class Choice(Spec):
    """One of a fixed set of words."""

    of: tuple[str, ...] = ()

    def read(self, value: object, path: str, faults: Faults) -> object:
        if value not in self.of or not isinstance(value, str):
            return self.fail(faults, path, "choice", "must be one of " + ", ".join(self.of), value)
        return value

    def schema(self) -> Document:
        return {"enum": list(self.of)}


@record
class Flag(Spec):
    """True or false."""

    def read(self, value: object, path: str, faults: Faults) -> object:
        return (
            value
            if isinstance(value, bool)
            else self.fail(faults, path, "flag", "must be true or false", value)
        )

    def schema(self) -> Document:
        return {"type": "boolean"}


@record
class Rows(Spec):
    """A list of fixed-length rows of numbers, as ``[[load_w, hours], …]``; kept as a tuple of
    tuples.
    """

    columns: tuple[Number, ...] = ()
    least: int = 0
    most: int = 20

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, list):
            return self.fail(faults, path, "list", "must be a list", value)
        if not self.least <= len(value) <= self.most:
            return self.fail(
                faults, path, "length", f"must have {self.least} to {self.most} rows", len(value)
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
        return {"type": "array", "items": row, "minItems": self.least, "maxItems": self.most}


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
    least: int = 0
    most: int = 200

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, list):
            return self.fail(faults, path, "list", "must be a list", value)
        if not self.least <= len(value) <= self.most:
            return self.fail(
                faults, path, "length", f"must have {self.least} to {self.most} entries", len(value)
            )
        return tuple(self.of.read(item, f"{path}[{at}]", faults) for at, item in enumerate(value))

    def write(self, value: object) -> object:
        return [self.of.write(item) for item in cast(tuple[object, ...], value)]

    def schema(self) -> Document:
        return {
            "type": "array",
            "items": self.of.schema(),
            "minItems": self.least,
            "maxItems": self.most,
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


@record
class Anything(Spec):
    """Kept as it came: the ``x`` field of foreign programs."""

    def read(self, value: object, path: str, faults: Faults) -> object:
        return (
            value
            if isinstance(value, dict)
            else self.fail(faults, path, "object", "must be an object", value)
        )

    def schema(self) -> Document:
        return {"type": "object"}


FieldOf: TypeAlias = Any
"""What a dataclass is given for a field: of any type, as ``dataclasses.field`` says of itself."""


def _field(spec: Spec, default: object) -> FieldOf:
    if isinstance(default, (dict, list)):
        return field(default_factory=lambda: type(default)(default), metadata={"spec": spec})
    return field(default=default, metadata={"spec": spec})


def number(
    unit: str,
    doc: str,
    *,
    default: object = MISSING,
    key: str | None = None,
    above: float | None = None,
    least: float | None = None,
    most: float | None = None,
    whole: bool = False,
) -> FieldOf:
    """A dataclass field holding a number in ``unit``; ``default=None`` makes it optional.

    Args:
        unit: of the figure.
        doc: what it is, for forms, schema and documents.
        default: value where the file says nothing; required without one.
        key: name in the file where it differs.
        above: must be more.
        least: must be at least.
        most: must be at most.
        whole: no fractions.

    Returns:
        The field.
    """
    return _field(Number(doc, key, unit, above, least, most, whole), default)


def text(
    doc: str,
    *,
    default: object = MISSING,
    key: str | None = None,
    most: int = 200,
    filled: bool = False,
) -> FieldOf:
    """A dataclass field holding text.

    Args:
        doc: what it is, for forms, schema and documents.
        default: value where the file says nothing; required without one.
        key: name in the file where it differs.
        most: characters.
        filled: must not be empty.

    Returns:
        The field.
    """
    return _field(Text(doc, key, most, filled), default)


def choice(
    doc: str, of: tuple[str, ...], *, default: object = MISSING, key: str | None = None
) -> FieldOf:
    """A dataclass field holding one of some words.

    Args:
        doc: what it is, for forms, schema and documents.
        of: the words.
        default: value where the file says nothing; required without one.
        key: name in the file where it differs.

    Returns:
        The field.
    """
    return _field(Choice(doc, key, of), default)


def flag(doc: str, *, default: object = MISSING) -> FieldOf:
    """A dataclass field holding true or false.

    Args:
        doc: what it is, for forms, schema and documents.
        default: value where the file says nothing; required without one.

    Returns:
        The field.
    """
    return _field(Flag(doc), default)


def learned() -> FieldOf:
    """A dataclass field for what logs have told of a rig or a supply (``starting.known``)."""
    return given(Anything("What logs have told of it, and what other programs keep"), default={})


def given(spec: Spec, *, default: object = MISSING) -> FieldOf:
    """A dataclass field of any other specification.

    Args:
        spec: how it is read and written.
        default: value where the file says nothing; required without one.

    Returns:
        The field.
    """
    return _field(spec, default)


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
    """The JSON Schema of a setup dataclass."""
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
