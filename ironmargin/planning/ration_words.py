"""A rationing in one sentence, as JSON and in lines for the terminal."""

from __future__ import annotations

import math

from ironmargin.document import Document
from ironmargin.enduring.fuel import WH_PER_L
from ironmargin.listed import listed
from ironmargin.planning.ration import RATIONED_H, Ration
from ironmargin.planning.stores import Day

MIN_DAYS_SAID = 0.1
"""Fewer days than this are said as none."""
RATION_FORMAT = "iron-margin/ration"


def rationed_first(found: Ration) -> Day | None:
    """The load that gets fewer hours first as the days grow.

    Args:
        found: the days and their plans.

    Returns:
        The load, or None.
    """
    for days, plan in found.curve:
        if days <= found.full_days:
            continue
        for day, hours in zip(found.days, plan.hours, strict=True):
            if hours < day.wanted_h - RATIONED_H:
                return day
    return None


def ration_sentence(found: Ration) -> str:
    """The answer in one sentence, with what this supply cannot run at all and where a cylinder gets
    too cold.

    Args:
        found: a rationing.

    Returns:
        The sentence.
    """
    return " ".join([_days_words(found), *_limits_words(found)])


def _limits_words(found: Ration) -> list[str]:
    said = []
    if found.cannot:
        said.append(f"This supply cannot run {listed(found.cannot)} at all.")
    if found.starves_h is not None:
        said.append(f"The cylinder gets too cold for the generator after {found.starves_h:.1f} h.")
    return said


def _days_words(found: Ration) -> str:
    full = found.full_days
    days = found.stock.days
    if math.isinf(full):
        return "It lasts as long as it has to: nothing in stock is used up."
    short = [
        f"{d.name} {h:.1f} h a day" if h > RATIONED_H else f"no {d.name}"
        for d, h in zip(found.days, found.plan.hours, strict=True)
        if h < d.wanted_h - RATIONED_H
    ]
    if not found.plan.feasible:
        return f"It does not last {days} days. {' '.join(found.relax)}"
    without = (
        f"{full:.1f} days without rationing"
        if full >= MIN_DAYS_SAID
        else "not a day without rationing"
    )
    if not short:
        return f"It lasts {days} days with everything as wanted ({without})."
    return f"{days} days with {', '.join(short)}; {without}."


def ration_json(found: Ration) -> Document:
    """The JSON object of a rationing.

    Args:
        found: a rationing.

    Returns:
        The JSON object.
    """
    first = rationed_first(found)
    fuel = found.stock.fuel or "gasoline"

    def days(value: float) -> float | None:
        return None if math.isinf(value) else round(value, 2)

    out: Document = {
        "format": RATION_FORMAT,
        "version": 1,
        "days": found.stock.days,
        "feasible": found.plan.feasible,
        "sentence": ration_sentence(found),
        "generator_h": round(found.plan.set_h, 2),
        "litres_per_day": round(found.plan.fuel_wh / WH_PER_L.get(fuel, 1e4), 2),
        "loads": [
            {
                "load": d.load,
                "name": d.name,
                "watts": round(d.watts, 1),
                "priority": d.rank,
                "wanted_h": round(d.wanted_h, 2),
                "hours": round(h, 2),
            }
            for d, h in zip(found.days, found.plan.hours, strict=True)
        ],
        "curve": [
            {
                "days": n,
                "feasible": plan.feasible,
                "generator_h": round(plan.set_h, 2),
                "hours": {d.load: round(h, 2) for d, h in zip(found.days, plan.hours, strict=True)},
            }
            for n, plan in found.curve
        ],
        "relax": list(found.relax),
    }
    for name, value in (("full_days", found.full_days), ("must_days", found.must_days)):
        if days(value) is not None:
            out[name] = days(value)
    if first is not None:
        out["ration_first"] = first.load
    if found.cannot:
        out["cannot"] = list(found.cannot)
    if found.starves_h is not None:
        out["starves_h"] = round(found.starves_h, 2)
    if found.bulk_h is not None:
        out["bulk_h"] = round(found.bulk_h, 2)
    return out


def ration_words(found: Ration) -> str:
    """A rationing in lines for the terminal.

    Args:
        found: a rationing.

    Returns:
        The lines.
    """
    lines = [ration_sentence(found), ""]
    lines += [
        f"{h:5.1f} h of {d.wanted_h:4.1f}  {d.watts:6.0f} W  {d.rank:<4} {d.name}"
        for d, h in zip(found.days, found.plan.hours, strict=True)
    ]
    if found.plan.set_h > 0.0:
        lines.append(f"The generator runs {found.plan.set_h:.1f} h a day.")
    if found.bulk_h is not None:
        lines.append(f"{found.bulk_h:.1f} h of charging a day keep the battery up.")
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
