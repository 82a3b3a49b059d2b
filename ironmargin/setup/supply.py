"""What every kind of supply answers, so that no one has to ask which kind it is.

The kinds are in ``engines.py``, ``post.py`` and ``inverters.py``. A new one is one module of
``ironmargin/supplies/kinds/`` with its class, as these, and its model (CONTRIBUTING.md shows one);
``tests/kinds.py`` walks it through every command and every page.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Any, ClassVar, Self, TypeVar, cast

from ironmargin.registry import load_all

if TYPE_CHECKING:
    from ironmargin.document import Document
    from ironmargin.setup.engines import Generator
    from ironmargin.setup.inverters import BatteryInverter
    from ironmargin.setup.post import Shore

NEUTRALS = ("floating", "bonded")


class Supply(ABC):
    """What every kind of supply answers.

    Attributes:
        kind: its name in files.
        title: what a form calls it; place: where it stands in a list of kinds.
        typical: a document of one to begin from, where it is to be offered; a kind that has rows in
            the table of typical supplies needs none.
        input_a: most it takes from an input beside its battery, of each leg [A].
        charging: AC to battery of what it takes there [1]; 0 and 1 where there is no input.
    """

    kind: ClassVar[str]
    title: ClassVar[str]
    place: ClassVar[int] = 9
    typical: ClassVar[Document | None] = None
    input_a: float = 0.0
    charging: float = 1.0
    x: Document

    @property
    @abstractmethod
    def words(self) -> str:
        """What people call it."""

    @property
    def subject(self) -> str:
        """What it is called in a sentence: the supply as it is built, one or several."""
        return f"the {self.words}"

    @property
    def noun(self) -> str:
        """What of it has a neutral, in one word."""
        return self.words

    @property
    @abstractmethod
    def service_v(self) -> float:
        """Volts from leg to neutral that it nominally brings [V]."""

    @property
    def feeding(self) -> Supply:
        """What the watts come from in the end: of an inverter/charger its input, else itself."""
        return self

    @property
    def post(self) -> Shore | None:
        """The post it takes from, if any."""
        return None

    @property
    def carrying(self) -> tuple[Generator, ...]:
        """The engine sets that carry the load themselves."""
        return ()

    @property
    def engines(self) -> tuple[Generator, ...]:
        """Its engine sets, one behind an inverter/charger, too."""
        return self.carrying

    @property
    def limit_set_a(self) -> float | None:
        """The input limit that is set on it, where it has one [A]."""
        return None

    @property
    def battery(self) -> BatteryInverter | None:
        """Its battery inverter, if any."""
        return None

    def inner(self) -> Iterator[tuple[str, Supply]]:
        """The supplies inside it, with their paths.

        Returns:
            Path and supply of each.
        """
        return iter(())

    @abstractmethod
    def scaled(self, factor: float) -> Self:
        """The same kind ``factor`` times as strong.

        Args:
            factor: over what it is [1].

        Returns:
            The supply.
        """

    def remembering(self, x: Document) -> Self:
        """The same with what was learned of it.

        Args:
            x: what is kept in its file beside its figures.

        Returns:
            The supply.
        """
        return cast(Self, replace(cast(Any, self), x=x))

    def with_post(self, change: Callable[[Shore], Shore]) -> Self:
        """The same with its post changed, where it has one.

        Args:
            change: what is done to the post.

        Returns:
            The supply.
        """
        return self

    def with_carrying(self, change: Callable[[Generator], Generator]) -> Self:
        """The same with each engine set changed that carries the load itself.

        Args:
            change: what is done to each set.

        Returns:
            The supply.
        """
        return self


SUPPLY_KINDS: dict[str, type[Supply]] = {}
"""Those that have registered themselves so far, by name."""
SomeSupply = TypeVar("SomeSupply", bound=Supply)


def supply_kinds() -> dict[str, type[Supply]]:
    """Every kind of supply there is; each is a module that registers itself.

    Returns:
        The classes by their names in files.
    """
    load_all("ironmargin.supplies.kinds")
    return dict(sorted(SUPPLY_KINDS.items(), key=lambda item: (item[1].place, item[0])))


def supply_kind(cls: type[SomeSupply]) -> type[SomeSupply]:
    """Register a kind of supply.

    Args:
        cls: its class, with a ``kind`` of its own.

    Returns:
        The class.
    """
    SUPPLY_KINDS[cls.kind] = cls
    return cls
