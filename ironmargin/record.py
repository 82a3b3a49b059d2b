"""Frozen records: what ``dataclass(frozen=True)`` gives, made without generating code for each
class.

``dataclasses`` compiles six functions a class; over the hundred records of the core that is a third
of the time a command needs to start (measured: benchmarks/process.py). Here the fields are its own
and the methods are shared. ``fields``, ``replace`` and ``is_dataclass`` work as usual.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import MISSING, FrozenInstanceError, dataclass, field, fields
from typing import Any, TypeVar, cast, dataclass_transform, overload

T = TypeVar("T")


def _init(self: object, *given: object, **named: object) -> None:
    cls: Any = type(self)
    put = self.__dict__
    if not named and len(given) == cls.__complete__:  # most are made so, by the hundred a page
        put.update(zip(cls.__order__, given, strict=False))
        return
    put.update(cls.__defaults__)
    if given:
        if len(given) > len(cls.__positional__):
            raise TypeError(
                f"{cls.__name__} takes {len(cls.__positional__)} positional values (got "
                f"{len(given)})"
            )
        put.update(zip(cls.__positional__, given, strict=False))
    if named:
        put.update(named)
    for name, factory in cls.__factories__:
        if name not in put:
            put[name] = factory()
    if put.keys() != cls.__names__:
        unknown = ", ".join(sorted(put.keys() - cls.__names__))
        if unknown:
            raise TypeError(f"{cls.__name__} has no field {unknown}")
        missing = ", ".join(sorted(cls.__names__ - put.keys()))
        raise TypeError(f"{cls.__name__} needs {missing}")


def _values(self: object) -> tuple[object, ...]:
    cls: Any = type(self)
    return tuple(self.__dict__[name] for name in cls.__order__)


def _eq(self: object, other: object) -> bool:
    return _values(self) == _values(other) if type(self) is type(other) else NotImplemented


def _hash(self: object) -> int:
    return hash((type(self), _values(self)))


def _repr(self: object) -> str:
    cls: Any = type(self)
    shown = ", ".join(f"{name}={self.__dict__[name]!r}" for name in cls.__order__)
    return f"{cls.__name__}({shown})"


def _set(self: object, name: str, value: object = None) -> None:
    raise FrozenInstanceError(f"cannot set {name}: records do not change")


@overload
def record(cls: type[T], /) -> type[T]: ...
@overload
def record(*, kw_only: bool = ...) -> Callable[[type[T]], type[T]]: ...
@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def record(
    cls: type[T] | None = None, /, *, kw_only: bool = False
) -> type[T] | Callable[[type[T]], type[T]]:
    """Make a class a frozen record of its annotated fields.

    Args:
        cls: the class, where it stands without arguments.
        kw_only: fields by name alone.

    Returns:
        The class.

    Raises:
        TypeError: on making one, for a missing or unknown field; FrozenInstanceError on setting
            one.
    """

    def make(cls: type[T]) -> type[T]:
        made: Any = dataclass(init=False, repr=False, eq=False, kw_only=kw_only)(cls)
        found = fields(made)
        made.__order__ = tuple(f.name for f in found)
        made.__names__ = frozenset(made.__order__)
        made.__defaults__ = {f.name: f.default for f in found if f.default is not MISSING}
        made.__factories__ = tuple(
            (f.name, f.default_factory) for f in found if f.default_factory is not MISSING
        )
        made.__positional__ = tuple(f.name for f in found if not f.kw_only)
        made.__complete__ = len(found) if len(made.__positional__) == len(found) else -1
        made.__init__, made.__eq__, made.__hash__, made.__setattr__, made.__delattr__ = (
            _init,
            _eq,
            _hash,
            _set,
            _set,
        )
        if "__repr__" not in cls.__dict__:
            made.__repr__ = _repr
        return cast(type[T], made)

    return make if cls is None else make(cls)
