"""What every kind of supply answers, so that no one has to ask which kind it is."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, ClassVar, Self

if TYPE_CHECKING:
    from ironmargin.document import Document
    from ironmargin.setup.supplies import BatteryInverter, Generator, Shore


class Supply(ABC):
    """What every kind of supply answers.

    Attributes:
        kind: its name in files.
        input_a: most it takes from an input beside its battery [A].
        charging: AC to battery of what it takes there [1]; 0 and 1 where there is no input.
    """

    kind: ClassVar[str]
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
    @abstractmethod
    def service_v(self) -> float:
        """Volts from leg to neutral that it nominally brings [V]."""

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
