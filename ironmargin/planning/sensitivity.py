"""Which uncertain input decides: each is moved by what it may be off, and the iron margin watched.

How far a figure may be off follows from where it comes from (common practice: a clamp meter 3 %, a
plate 7 %, a typical figure 15 %, one rounded up 25 %); a service's impedance nobody measured may be
off by half.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial

from ironmargin.document import Document
from ironmargin.electrics.motor import MotorPlate
from ironmargin.loads.demand import locked_rotor_amps, plate_amps
from ironmargin.per_cent import PLACES
from ironmargin.record import record
from ironmargin.setup.changed import with_engines_scaled, with_load
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.loads import Load, Rotating, SoftStart
from ironmargin.setup.model import Setup
from ironmargin.setup.post import Shore
from ironmargin.setup.rules import check_rules
from ironmargin.verdict.check import Checked, examine

SENSITIVITY_FORMAT = "iron-margin/sensitivity"
OFF_BY = {"measured": 0.03, "plate": 0.07, "typical": 0.15, "rounded-up": 0.25}
SUPPLY_OFF_BY = 0.06
IMPEDANCE_OFF_BY = 0.5
HEAT_OFF_BY_C = 5.0
MIN_AMPS = 0.5
"""Loads that draw less decide nothing."""
MIN_SWING = 0.002
HOW = {
    "lra": "clamp one conductor with a meter that holds the inrush",
    "running": "clamp one conductor while it runs, after a quarter of an hour",
    "draw": "read it with a plug-in watt meter",
    "rating": "load the supply step by step and note where it gives up",
    "impedance": "read the post's volts at two currents",
    "heat": "read a thermometer in the shade of the rig",
    "soft": "clamp a start after five starts",
}
VOLTS_OFF_BY = 0.015
"""Of a post's volts, from one day and hour to another [1] (common practice, no source)."""


@record
class Swing:
    """One input moved both ways.

    Attributes:
        what: the input in words.
        field: its path in the setup.
        provenance: where its figure comes from.
        off_by: how far it was moved [1, or °C].
        low, high: the iron margin with it at its worst and at its best [1].
        how: how to find it out.
        decides: whether the verdict changes between the two.
    """

    what: str
    field: str
    provenance: str
    off_by: float
    low: float
    high: float
    how: str
    decides: bool

    @property
    def swing(self) -> float:
        """How far the iron margin moves [1]."""
        return self.high - self.low


@record
class _Input:
    what: str
    field: str
    provenance: str
    off_by: float
    how: str
    moved: Callable[[float], Setup]


def _of_motor(setup: Setup, path: str, load: Rotating, plate: MotorPlate) -> Iterator[_Input]:
    running = plate_amps(load) or plate.rla_a
    lra, typical = locked_rotor_amps(load, running)
    source = "typical" if typical else load.provenance
    yield _Input(
        f"locked-rotor amps of {load.name}",
        f"{path}.lra_a",
        source,
        OFF_BY[source],
        HOW["lra"],
        lambda k: with_load(setup, load.id, lra_a=lra * k),
    )
    if load.start_gear == "soft-start":
        soft = load.soft_start
        key = "peak_a" if soft is not None and soft.peak_a is not None else "fraction"
        held = getattr(soft, key, None)
        known = load.provenance if held is not None else "typical"

        def softer(k: float) -> Setup:
            old = soft or SoftStart()
            peak: Document = {key: (held or plate.soft_fraction) * k}
            return with_load(setup, load.id, soft_start=replace(old, **peak))

        yield _Input(
            f"soft-start peak of {load.name}",
            f"{path}.soft_start.{key}",
            known,
            OFF_BY[known],
            HOW["soft"],
            softer,
        )


def _scaled(load: Load, k: float) -> dict[str, float]:
    """A load's running figures times ``k``."""
    names = ("watts", "amps", "running_a", "running_w", "low_cool_a", "high_cool_a")
    return {
        name: getattr(load, name) * k for name in names if getattr(load, name, None) is not None
    }


def _with_scaled(setup: Setup, load: Load, k: float) -> Setup:
    """The setup with a load's running figures times ``k``."""
    return with_load(setup, load.id, **_scaled(load, k))


def _inputs(checked: Checked) -> Iterator[_Input]:
    setup, case = checked.case.setup, checked.case
    number = {load.id: at for at, load in enumerate(setup.rig.loads)}
    for demand in case.demands:
        load = demand.load
        if (
            load.id not in number
            or abs(sum(d.va for d in demand.steady)) / demand.steady[0].bus_v < MIN_AMPS
        ):
            continue
        path = f"rig.loads[{number[load.id]}]"
        if demand.plate is not None and isinstance(load, Rotating):
            yield from _of_motor(setup, path, load, demand.plate)
        name, how = ("running amps", "running") if isinstance(load, Rotating) else ("draw", "draw")
        field = next(iter(_scaled(load, 1.0)), "watts")
        yield _Input(
            f"{name} of {load.name}",
            f"{path}.{field}",
            load.provenance,
            OFF_BY[load.provenance],
            HOW[how],
            partial(_with_scaled, setup, load),
        )
    supply = setup.supply
    if supply.carrying:
        yield _Input(
            "what the generator really gives",
            "supply.starting_w",
            "plate",
            SUPPLY_OFF_BY,
            HOW["rating"],
            lambda k: with_engines_scaled(setup, k),
        )
    if isinstance(supply, BatteryInverter):
        yield _Input(
            "what the inverter really gives",
            "supply.surge_w",
            "plate",
            SUPPLY_OFF_BY,
            HOW["rating"],
            lambda k: replace(setup, supply=supply.scaled(k)),
        )
    if isinstance(supply, Shore):
        if not supply.readings:
            yield _Input(
                "the post's impedance",
                "supply.source_ohm",
                "typical",
                IMPEDANCE_OFF_BY,
                HOW["impedance"],
                lambda k: replace(setup, supply=replace(supply, source_ohm=supply.source_ohm * k)),
            )
        yield _Input(
            "the post's volts",
            "supply.voltage_v",
            "typical",
            VOLTS_OFF_BY,
            HOW["impedance"],
            lambda k: replace(setup, supply=replace(supply, voltage_v=supply.voltage_v * k)),
        )
    heat = setup.conditions.outdoor_c
    yield _Input(
        "the day's heat",
        "conditions.outdoor_c",
        "typical",
        HEAT_OFF_BY_C,
        HOW["heat"],
        lambda k: replace(
            setup, conditions=replace(setup.conditions, outdoor_c=min(heat + (k - 1.0), 60.0))
        ),
    )


def sensitivity(checked: Checked) -> tuple[Swing, ...]:
    """Every uncertain input that moves the iron margin, the one that moves it most first.

    Args:
        checked: a check that keeps what pictures need.

    Returns:
        One an input, with both ends of its band.
    """
    found = []
    thin = checked.case.setup.rules.thin_below
    for item in _inputs(checked):
        seen = []
        for way in (-1.0, 1.0):
            setup = item.moved(1.0 + way * item.off_by)
            if not check_rules(setup):
                result = examine(setup, quick=True).result
                seen.append((result.iron_margin, result.verdict))
        if not seen:
            continue
        low, high = min(m for m, _ in seen), max(m for m, _ in seen)
        if high - low >= MIN_SWING:
            states = {m < 0 for m, _ in seen} | {("thin", m < thin) for m, _ in seen}
            found.append(
                Swing(
                    item.what,
                    item.field,
                    item.provenance,
                    item.off_by,
                    low,
                    high,
                    item.how,
                    len(states) > 2,
                )
            )
    return tuple(sorted(found, key=lambda s: -s.swing))


def sensitivity_json(checked: Checked, found: tuple[Swing, ...]) -> Document:
    """The JSON object of a sensitivity.

    Args:
        checked: a check that keeps what pictures need.
        found: its swings.

    Returns:
        The JSON object.
    """
    return {
        "format": SENSITIVITY_FORMAT,
        "version": 1,
        "iron_margin": round(checked.result.iron_margin, PLACES),
        "inputs": [
            {
                "what": s.what,
                "field": s.field,
                "from": s.provenance,
                "off_by": s.off_by,
                "low": round(s.low, 4),
                "high": round(s.high, 4),
                "how": s.how,
                "decides": s.decides,
            }
            for s in found
        ],
    }


def sensitivity_words(checked: Checked, found: tuple[Swing, ...]) -> str:
    """A sensitivity in lines for the terminal.

    Args:
        checked: a check that keeps what pictures need.
        found: its swings.

    Returns:
        The lines.
    """
    lines = [f"{checked.case.setup.name}: iron margin {checked.result.iron_margin * 100:+.0f} %"]
    lines += [
        f"{s.low * 100:+5.0f} to {s.high * 100:+4.0f} %  {s.what} "
        f"({s.provenance}){': it decides; ' + s.how if s.decides else ''}"
        for s in found
    ]
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
