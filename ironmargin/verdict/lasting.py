"""An endurance as JSON and as words."""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.enduring.found import Lasting
from ironmargin.enduring.fuel import unknown_store
from ironmargin.per_cent import signed_percent
from ironmargin.setup.model import Setup
from ironmargin.verdict.result import plain

ENDURANCE_FORMAT = "iron-margin/endurance"
DISTANCES_M = (3.0, 7.0, 15.24, 30.0, 60.0, 120.0)


def lasting_json(found: Lasting, setup: Setup) -> Document:
    """The JSON object of an endurance; what does not apply is left out.

    Args:
        found: hours, cost and sound.
        setup: supply, path, rig and rules of the question.

    Returns:
        The JSON object.
    """
    out: Document = {
        "format": ENDURANCE_FORMAT,
        "version": 1,
        "endurance": plain(found.endurance),
        "duty": plain(found.duty),
        "fuels": [plain(f) for f in found.fuels],
    }
    if found.sound is not None:
        out["noise"] = [{"at_m": r, "dba": round(found.sound.at(r), 1)} for r in DISTANCES_M]
        near = setup.site.neighbour_m
        out["noise_at_neighbour"] = [
            {"when": when, "dba": round(sound.at(near), 1)} for when, sound in found.loud
        ]
    for name, run in (
        ("cylinder", found.cylinder),
        ("with_one_more_cylinder", found.with_one_more),
    ):
        if run is not None:
            figures = {
                "starves_h": run.starves_h,
                "empty_h": run.empty_h,
                "left_kg": run.left_kg,
                "coldest_c": float(run.liquid_c.min()),
            }
            out[name] = plain({k: v for k, v in figures.items() if v is not None})
    return out


def lasting_words(found: Lasting, setup: Setup) -> str:
    """An endurance in lines for the terminal.

    Args:
        found: hours, cost and sound.
        setup: supply, path, rig and rules of the question.

    Returns:
        The lines.
    """
    e, target = found.endurance, setup.conditions.target_hours
    lines = [
        setup.name,
        f"mean {e.mean_w:.0f} W, 95 % of the time under {e.p95_w:.0f} W, "
        f"{e.starts_per_h:.1f} starts an hour",
    ]
    if target is not None:
        lines.append(
            f"wanted: {target:g} h"
            + (f", margin {signed_percent(e.margin)}" if e.margin is not None else "")
        )
    if e.fuel_h is not None:
        nominal = (
            f" ({e.fuel_h_nominal:.1f} h on a full tank)" if e.fuel_h_nominal is not None else ""
        )
        again = f", {e.refills} refills for the hours wanted" if e.refills else ""
        lines.append(f"fuel on board: {e.fuel_h:.1f} h{nominal}{again}")
    if (store := unknown_store(setup.supply.engines)) and e.fuel_h is None:
        lines.append(f"fuel on board: {store} not known")
    lines += [
        f"on {f.fuel.replace('_', ' ')}: "
        + (
            f"{f.litres_per_h:.2f} l/h"
            if f.litres_per_h is not None
            else f"{f.heat_w / 1000:.1f} kW of heat"
        )
        + (
            f", {f.cost_per_h:.2f} an hour, {f.cost_per_night:.2f} a night"
            if f.cost_per_h is not None and f.cost_per_night is not None
            else ""
        )
        for f in found.fuels
    ]
    if e.lowest_soc is not None:
        lines.append(
            f"battery: down to {e.lowest_soc * 100:.0f} %"
            + (f", lasts {e.battery_h:.1f} h" if e.battery_h is not None else ", does not run down")
            + (f", back after {e.refill_h:.1f} h" if e.refill_h is not None else "")
        )
    if e.input_a is not None:
        lines.append(
            f"{setup.supply.feeding.words}: never more than {e.input_a:.1f} A"
            + (f"; {e.min_input_a:.1f} A would be enough" if e.min_input_a is not None else "")
        )
    cylinder = found.cylinder
    if cylinder is not None:
        ends = (
            f"starves{' at a compressor start' if cylinder.at_start else ''} after "
            f"{cylinder.starves_h:.1f} h with {cylinder.left_kg:.1f} kg left"
            if cylinder.starves_h is not None
            else "does not starve"
        )
        lines.append(f"cylinder: {ends}, coldest {cylinder.liquid_c.min():.0f} °C")
    if e.cost_per_h is not None:
        lines.append(f"cost: {e.cost_per_h:.2f} an hour")
    if e.neighbour_dba is not None and e.limit_at_m is not None:
        lines.append(
            f"noise: {e.neighbour_dba:.0f} dBA at {setup.site.neighbour_m:g} m; "
            f"{setup.site.limit_dba:g} dBA lies at {e.limit_at_m:.0f} m"
        )
    if e.quiet_h:
        lines.append(f"runs {e.quiet_h:.1f} h inside quiet hours")
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
