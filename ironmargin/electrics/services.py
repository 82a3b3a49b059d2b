"""The services a rig is wired for, and what follows from each: nominal volts and hertz."""

from __future__ import annotations

from typing import Final

SERVICE_120: Final = "120"
SERVICE_SPLIT: Final = "120/240"
SERVICE_230: Final = "230"
NOMINAL_V: Final = {SERVICE_120: 120.0, SERVICE_SPLIT: 120.0, SERVICE_230: 230.0}
"""Leg to neutral [V]: ANSI C84.1, IEC 60038 (both from memory)."""
NOMINAL_HZ: Final = {SERVICE_120: 60.0, SERVICE_SPLIT: 60.0, SERVICE_230: 50.0}
"""Of the grids that have them [Hz]."""
HIGH_V: Final = 180.0
"""Above this a voltage is one of 200 to 250 V; below, one of a leg of 120 V [V]."""


def nominal_of(service: str) -> float:
    """Nominal volts from a leg to the neutral.

    Args:
        service: ``120``, ``120/240`` or ``230``; any other counts as 120 V.

    Returns:
        Volts [V].
    """
    return NOMINAL_V.get(service, NOMINAL_V[SERVICE_120])


def service_of(volts: float) -> str:
    """The service some volts from leg to neutral belong to.

    Args:
        volts: read or rated [V].

    Returns:
        ``230`` or ``120``.
    """
    return SERVICE_230 if volts > HIGH_V else SERVICE_120


def hertz_of(nominal_v: float) -> float:
    """Nominal frequency where these are the nominal volts.

    Args:
        nominal_v: leg to neutral [V].

    Returns:
        Frequency [Hz].
    """
    return NOMINAL_HZ[service_of(nominal_v)]
