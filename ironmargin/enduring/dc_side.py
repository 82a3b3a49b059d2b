"""The 12 V side of a rig: amp-hours a night from its battery, and what bringing them back takes.

The converter brings back at its rating what was taken, with the losses of charger and battery;
until it has, it draws that beside every start. A battery that is full leaves it a trickle.
"""

from __future__ import annotations

from collections.abc import Iterator

from ironmargin.listed import listed
from ironmargin.record import record
from ironmargin.setup.converter import converter_of
from ironmargin.setup.loads import Charger
from ironmargin.setup.model import DcSide, Setup

CHARGE_EFFICIENCY = 0.8
"""Watt-hours into the battery over those taken from the AC side [1] (common practice, no
source)."""


@record
class DcNight:
    """A night on 12 V.

    Attributes:
        used_ah: taken in a night [Ah].
        lasts_nights: on what may be used of the battery, None where nothing is used or no battery
            is known.
        recharge_h: how long the converter takes to bring a night back [h], recharge_w: what it
            draws meanwhile [W]; None where there is no converter.
    """

    used_ah: float
    lasts_nights: float | None
    recharge_h: float | None
    recharge_w: float | None


def watts_of(charger: Charger) -> float:
    """What a charger draws at most [W].

    Args:
        charger: with its watts, or amps and volts.

    Returns:
        Watts [W].
    """
    if charger.watts is not None:
        return charger.watts
    return (charger.amps or 0.0) * charger.voltage_v * charger.power_factor


def used_ah(side: DcSide) -> float:
    """Amp-hours of a night: amps times hours of everything on the list [Ah].

    Args:
        side: the 12 V side of a rig.

    Returns:
        Amp-hours [Ah].
    """
    return sum(use.amps * use.hours for use in side.uses)


def night_of(setup: Setup) -> DcNight | None:
    """What a night on 12 V takes and how it comes back; None where nothing of it is known.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        Amp-hours [Ah], nights the battery lasts, and what the converter takes to bring one back:
        hours [h] and watts [W].
    """
    side = setup.rig.dc
    if side is None:
        return None
    used, usable = used_ah(side), (side.battery_ah or 0.0) * side.usable_fraction
    charger = converter_of(setup)
    watts = watts_of(charger) if charger is not None else 0.0
    back_h = used * side.volts / (CHARGE_EFFICIENCY * watts) if watts else None
    return DcNight(used, usable / used if used and usable else None, back_h, watts or None)


def dc_words(setup: Setup) -> str:
    """The 12 V side in a few plain sentences; empty where nothing of it is known.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The sentences.
    """
    found, side = night_of(setup), setup.rig.dc
    if found is None or side is None:
        return ""
    return " ".join(_said(setup, found, side))


def _said(setup: Setup, found: DcNight, side: DcSide) -> Iterator[str]:
    maximum = sorted(side.uses, key=lambda u: -u.amps * u.hours)[:2]
    biggest = listed([u.name for u in maximum if u.amps * u.hours > 0.0])
    most_of_it = f", {biggest} most of it" if biggest else ""
    yield f"12 V takes {found.used_ah:.0f} Ah a night{most_of_it}."
    if found.lasts_nights is not None:
        nights = found.lasts_nights
        yield (
            f"Its battery gives {nights:.1f} nights without a charge."
            if nights >= 1.0
            else f"Its battery is down after {100.0 * nights:.0f} % of a night."
        )
    charger = converter_of(setup)
    if charger is None or found.recharge_h is None or not found.used_ah:
        return
    if side.full:
        yield f"With the battery full {charger.name} draws a trickle in a start."
    else:
        yield (
            f"{charger.name} then draws {found.recharge_w:.0f} W for {found.recharge_h:.1f} h "
            "beside every start: charge first, or start first and charge after."
        )
