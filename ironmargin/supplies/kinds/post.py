"""A park's post, a house outlet, a field post."""

from __future__ import annotations

from ironmargin.electrics.services import SERVICE_230, hertz_of, service_of
from ironmargin.setup.model import Conditions
from ironmargin.setup.post import Shore
from ironmargin.supplies.source import Breaker, Source, source_of_kind

DEG_OF_LEGS = {"split": 180.0, "same-leg": 0.0, "network-208": 120.0}


def thevenin(shore: Shore) -> tuple[float, float]:
    """Open-circuit volts and impedance of a post, from two readings where there are two [V],
    [ohm].

    Args:
        shore: the post.

    Returns:
        Volts [V] and impedance [ohm].
    """
    if not shore.readings:
        return shore.voltage_v, shore.source_ohm
    (v0, a0), (v1, a1) = shore.readings
    ohm = (v0 - v1) / (a1 - a0)
    return v0 + ohm * a0, ohm


@source_of_kind("shore")
def shore(supply: Shore, conditions: Conditions) -> Source:
    """A post: a Thevenin source behind its breaker. Half of its impedance is taken to lie in the
    neutral.

    Args:
        supply: as it was stated.
        conditions: of the place.

    Returns:
        The source the start and the hours are solved with.
    """
    volts, ohm = thevenin(supply)
    nominal = supply.service_v
    standard = supply.breaker_standard
    if service_of(nominal) == SERVICE_230 and standard == "UL489":
        standard = "IEC60898-C"
    single = supply.legs == "single"
    return Source(
        "shore",
        volts - supply.also_on_circuit_a * ohm,
        nominal,
        1 if single else 2,
        DEG_OF_LEGS.get(supply.legs, 0.0),
        ohm / 2,
        ohm / 2,
        hertz_of(nominal),
        also_a=supply.also_on_circuit_a,
        same_leg=supply.legs == "same-leg",
        breakers=(
            Breaker("post", "post breaker", supply.breaker_a, standard, supply.breaker_trips),
        ),
        neutral="bonded",
    )
