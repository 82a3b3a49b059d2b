"""Supplies in words, and what their pages show beside the form."""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.electrics.services import HIGH_V
from ironmargin.setup.model import Conditions
from ironmargin.setup.supply import Supply, supply_kinds
from ironmargin.supplies.derate import DerateStep, derating_chain
from web.design.context import Context
from web.design.drawing import Axis

LEGS = {
    "single": "single leg",
    "split": "two legs",
    "same-leg": "two outlets on one leg",
    "network-208": "208 V network",
}
ONE_PERSON_KG = 23.0
"""Most one person should lift: NIOSH recommended weight limit, 51 lb (memory)."""
BAR_LEFT, BAR_RIGHT, STEP = 124.0, 304.0, 26.0

BUILT = {"power-station": "power station", "vehicle": "vehicle outlets"}
"""What a battery inverter that is no inverter built in is called."""


def short_name(document: Document) -> str:
    """A supply in a few words."""
    kind = document["kind"]
    fuel = str(document.get("fuel", "gasoline")).replace("_", " ")
    if kind == "shore":
        volts = " 230 V" if document.get("voltage_v", 120) > HIGH_V else ""
        return f"{document['breaker_a']:g} A{volts} post, {LEGS[document.get('legs', 'single')]}"
    if kind == "parallel":
        own = str(document["units"][0].get("fuel", "gasoline")).replace("_", " ")
        watts = sum(u["continuous_w"] for u in document["units"])
        return f"{len(document['units'])} generators in parallel, {watts / 1000:g} kW, {own}"
    if kind == "generator":
        eco = ", eco on" if document.get("eco") else ""
        return f"{document['continuous_w'] / 1000:g} kW generator, {fuel}{eco}"
    if kind == "battery-inverter":
        kind = BUILT.get(document.get("type", ""), "battery inverter")
        return f"{document['continuous_w'] / 1000:g} kW {kind}"
    if kind != "assist":
        return supply_kinds()[kind].title.lower()
    source = "generator" if document["input"]["kind"] == "generator" else "post"
    return (
        f"{source} held to {document['input_limit_a']:g} A with a "
        f"{document['inverter']['continuous_w'] / 1000:g} kW inverter"
    )


def lift_words(mass_kg: float | None) -> str:
    """Who can lift a set."""
    if mass_kg is None:
        return ""
    if mass_kg <= ONE_PERSON_KG:
        return f"{mass_kg:g} kg: one person can lift it"
    people = 2 if mass_kg <= 2 * ONE_PERSON_KG else 0
    return (
        f"{mass_kg:g} kg: two people, not one"
        if people
        else f"{mass_kg:g} kg: on wheels or with a hoist, not by hand"
    )


def draw_derating(steps: tuple[DerateStep, ...]) -> Context:
    """The derate from plate to here and now as bars: starting power behind, running power
    before.
    """
    if not steps:
        return {}
    axis = Axis(0.0, 1.05 * steps[0].starting_w, BAR_LEFT, BAR_RIGHT)
    rows = []
    for n, s in enumerate(steps):
        rows.append(
            {
                "y": 8 + n * STEP,
                "label": s.label,
                "value": s.value,
                "unit": s.unit,
                "factor": s.factor,
                "source": s.source,
                "starting_x": axis.at(s.starting_w) - BAR_LEFT,
                "running_x": axis.at(s.continuous_w) - BAR_LEFT,
                "starting_w": s.starting_w,
                "continuous_w": s.continuous_w,
                "lost_x": axis.at(steps[n - 1].starting_w) - axis.at(s.starting_w) if n else 0.0,
                "end_x": axis.at(s.starting_w),
            }
        )
    return {"rows": rows, "height": 16 + len(rows) * STEP, "left": BAR_LEFT, "last": steps[-1]}


def derates(supply: Supply, conditions: Conditions) -> list[tuple[str, Context]]:
    """The derating chain of every engine of a supply; of generators that are alike one."""
    chains = [derating_chain(unit, conditions) for unit in supply.engines]
    if len(set(chains)) == 1:
        return [
            ("The generator" if len(chains) == 1 else "Each generator", draw_derating(chains[0]))
        ]
    return [(f"Generator {n}", draw_derating(chain)) for n, chain in enumerate(chains, 1)]
