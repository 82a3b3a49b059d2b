"""Makers of dataclass fields that carry a specification: ``running_a: float = number("A", …)``."""

from __future__ import annotations

from dataclasses import MISSING, field
from typing import Any, TypeAlias

from ironmargin.setup.spec import Anything, Choice, Flag, Number, Spec, Text

LONGEST_TEXT = 200
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
    minimum: float | None = None,
    maximum: float | None = None,
    whole: bool = False,
) -> FieldOf:
    """A dataclass field holding a number in ``unit``; ``default=None`` makes it optional.

    Args:
        unit: of the figure.
        doc: what it is, for forms, schema and documents.
        default: value where the file says nothing; required without one.
        key: name in the file where it differs.
        above: must be more.
        minimum: must be at least.
        maximum: must be at most.
        whole: no fractions.

    Returns:
        The field.
    """
    return _field(Number(doc, key, unit, above, minimum, maximum, whole), default)


def text(
    doc: str,
    *,
    default: object = MISSING,
    key: str | None = None,
    maximum: int = LONGEST_TEXT,
    filled: bool = False,
) -> FieldOf:
    """A dataclass field holding text.

    Args:
        doc: what it is, for forms, schema and documents.
        default: value where the file says nothing; required without one.
        key: name in the file where it differs.
        maximum: characters.
        filled: must not be empty.

    Returns:
        The field.
    """
    return _field(Text(doc, key, maximum, filled), default)


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
    """A dataclass field for what logs have told of a rig or a supply (``starting.known``).

    Returns:
        The field.
    """
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
