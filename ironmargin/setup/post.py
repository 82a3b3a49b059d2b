"""What a post, an outlet or a field post says of itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, ClassVar, Self

from ironmargin.document import Document
from ironmargin.electrics.services import nominal_of, service_of
from ironmargin.record import record
from ironmargin.setup.fields import choice, given, learned, number, text
from ironmargin.setup.hookup import BREAKER_TRIPS
from ironmargin.setup.records import Rows
from ironmargin.setup.spec import Number
from ironmargin.setup.supply import Supply, supply_kind

CORRECT = "correct"


TESTER = (CORRECT, "open-ground", "reversed", "open-neutral", "hot-ground-reversed")
"""What the lamps of a three-lamp outlet tester say."""


BREAKER_STANDARDS = ("UL489", "IEC60898-B", "IEC60898-C", "IEC60898-D")


@supply_kind
@record(kw_only=True)
class Shore(Supply):
    """A park pedestal, a house outlet or a field post."""

    kind: ClassVar[str] = "shore"
    place: ClassVar[int] = 3
    title: ClassVar[str] = "Shore post"
    breaker_a: float = number("A", "Rating of the post's breaker", above=0, maximum=400)
    voltage_v: float = number(
        "V", "Open-circuit volts, leg to neutral", minimum=90, maximum=260, default=120.0
    )
    legs: str = choice(
        "Legs it brings", ("single", "split", "same-leg", "network-208"), default="single"
    )
    source_ohm: float = number(
        "ohm",
        "Impedance of the service behind the post, one leg and neutral",
        minimum=0,
        maximum=5,
        default=0.15,
    )
    readings: tuple[Any, ...] = given(
        Rows(
            "Two readings at the post: volts and amps; they replace volts and ohms",
            None,
            (
                Number("Volts", None, "V", above=0, maximum=300),
                Number("Amps", None, "A", minimum=0, maximum=400),
            ),
            maximum=2,
        ),
        default=(),
    )
    also_on_circuit_a: float = number(
        "A", "Another load already on the same breaker", minimum=0, maximum=400, default=0.0
    )
    breaker_standard: str = choice(
        "Standard of the breaker; a 230 V post is IEC unless said",
        BREAKER_STANDARDS,
        default="UL489",
    )
    breaker_trips: str = choice(
        "How its breaker trips against its curve", BREAKER_TRIPS, default="on-curve"
    )
    breaker_at: str = text("Where its breaker is, and who can reset it", default="", maximum=200)
    tester: str | None = choice("What an outlet tester showed here last", TESTER, default=None)
    x: Document = learned()

    @property
    def miswired(self) -> bool:
        """Whether an outlet tester last showed a wiring fault here."""
        return self.tester not in (None, CORRECT)

    @property
    def words(self) -> str:
        return "post"

    @property
    def service_v(self) -> float:
        return nominal_of(service_of(self.voltage_v))

    @property
    def post(self) -> Shore | None:
        return self

    def scaled(self, factor: float) -> Self:
        """Its breaker, and the impedance behind it.

        Args:
            factor: over what it is [1].

        Returns:
            The post.
        """
        ohm = self.source_ohm / factor
        return replace(self, breaker_a=self.breaker_a * factor, source_ohm=ohm)

    def with_post(self, change: Callable[[Shore], Shore]) -> Self:
        return change(self)  # type: ignore[return-value]
