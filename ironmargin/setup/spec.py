"""Specifications of one value: type, unit, default, range and description of each input, said once.

A dataclass field made by :mod:`ironmargin.setup.fields` carries a :class:`Spec` in its metadata.
Reading, validation, writing, the JSON Schema, the documentation table and the web forms all come
from it; what holds other values stands in :mod:`ironmargin.setup.records`.
"""

from __future__ import annotations

import math
from typing import Any, cast

from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.record import record

INVALID: Any = object()
"""Stands for a value of any kind that could not be read; its fault has been recorded."""
Faults = list[Fault]
MIN_FIGURE = 1e-6
SHOWN = 40
"""Letters of a value that a fault repeats."""
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
    return text if len(text) <= SHOWN else f"{text[: SHOWN - 3]}..."


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

        Raises:
            TypeError: a kind of field that says nothing of its own.
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
        """The JSON Schema of one value.

        Returns:
            The schema.

        Raises:
            TypeError: a kind of field that says nothing of its own.
        """
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
    """A finite number with its unit and range; ``above`` excludes its bound, ``minimum`` and
    ``maximum`` do not.
    """

    unit: str = ""
    above: float | None = None
    minimum: float | None = None
    maximum: float | None = None
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
        if self.above == 0 and value < MIN_FIGURE:
            return self.fail(faults, path, "tiny", f"must be at least {MIN_FIGURE:g}", value)
        if self.minimum is not None and value < self.minimum:
            return self.fail(faults, path, "least", f"must be at least {self.minimum:g}", value)
        if self.maximum is not None and value > self.maximum:
            return self.fail(faults, path, "most", f"must be at most {self.maximum:g}", value)
        return int(value) if self.whole else float(value)

    def write(self, value: object) -> object:
        figure = cast(float, value)
        return int(figure) if float(figure).is_integer() else figure

    def schema(self) -> Document:
        out: Document = {"type": "integer" if self.whole else "number"}
        for name, bound in (
            ("exclusiveMinimum", self.above),
            ("minimum", self.minimum),
            ("maximum", self.maximum),
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

    maximum: int = 200
    filled: bool = False

    def read(self, value: object, path: str, faults: Faults) -> object:
        if not isinstance(value, str):
            return self.fail(faults, path, "text", "must be text", value)
        if self.filled and not value.strip():
            return self.fail(faults, path, "empty", "must not be empty", value)
        if len(value) > self.maximum:
            return self.fail(
                faults,
                path,
                "long",
                f"must be at most {self.maximum} characters",
                f"{len(value)} characters",
            )
        if self.maximum <= LONGEST_LINE:
            value = value.translate(BLANKS)  # a name is one line
        if any(letter < " " and letter not in "\n\t\r" for letter in value):
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
        out: Document = {"type": "string", "maxLength": self.maximum}
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
