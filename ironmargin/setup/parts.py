"""A rig or a supply read by itself, outside a setup: the same fields, the same rules, the same
faults.
"""

from __future__ import annotations

from typing import cast

from ironmargin.electrics.services import HIGH_V, nominal_of
from ironmargin.errors import SetupError
from ironmargin.setup.inverters import BatteryInverter
from ironmargin.setup.loads import Resistive
from ironmargin.setup.model import Rig, Setup
from ironmargin.setup.post import Shore
from ironmargin.setup.records import Kinds, read_record
from ironmargin.setup.rules import check_rules
from ironmargin.setup.spec import INVALID, Faults
from ironmargin.setup.supply import Supply, supply_kinds

IDEAL_A, IDEAL_OHM = 400.0, 1e-4
"""A breaker no rig opens [A], an impedance no rig feels [ohm]."""
LARGEST_MAIN_A = 50.0
"""The largest main of a rig there is [A]."""


def ideal_post(service: str) -> Shore:
    """A post that any rig of a service can stand on: its breaker never opens, its volts hardly sag.

    Args:
        service: of the rig: ``120``, ``120/240`` or ``230``.

    Returns:
        The post.
    """
    if service == "230":
        return Shore(
            breaker_a=IDEAL_A,
            voltage_v=nominal_of(service),
            source_ohm=IDEAL_OHM,
            breaker_standard="IEC60898-C",
        )
    return Shore(
        breaker_a=IDEAL_A, source_ohm=IDEAL_OHM, legs="split" if service == "120/240" else "single"
    )


def alone(rig: Rig) -> Setup:
    """A rig on a stiff post, with nothing said to be wanted.

    Args:
        rig: the rig: legs, circuits, loads.

    Returns:
        A setup.
    """
    return Setup(name="rig", supply=ideal_post(rig.service), rig=rig)


def read_rig(data: object) -> Rig:
    """Turn the JSON object of a rig into a rig; the paths of its faults begin with ``rig``.

    Args:
        data: parsed JSON, from anywhere.

    Returns:
        The rig.

    Raises:
        SetupError: with every fault found.
    """
    faults: Faults = []
    rig = read_record(Rig, data, "rig", faults)
    if rig is not INVALID:
        faults = [f for f in check_rules(alone(rig)) if f.path.startswith("rig")]
    if faults:
        raise SetupError(faults)
    found: Rig = rig
    return found


def read_supply(data: object) -> Supply:
    """Turn the JSON object of a supply into a supply; the paths of its faults begin with
    ``supply``.

    Args:
        data: parsed JSON, from anywhere.

    Returns:
        The supply.

    Raises:
        SetupError: with every fault found.
    """
    faults: Faults = []
    supply = cast(Supply, Kinds("", None, supply_kinds).read(data, "supply", faults))
    if supply is not INVALID:
        volts = supply.service_v
        split = getattr(supply, "output", "") == "120/240" or (
            isinstance(supply, BatteryInverter) and supply.output == "120/240"
        )
        service = "230" if volts > HIGH_V else "120/240" if split else "120"
        lamp = Resistive(id="lamp", name="lamp", watts=10.0, voltage_v=volts)
        setup = Setup(
            name="supply",
            supply=supply,
            rig=Rig(name="rig", service=service, main_a=LARGEST_MAIN_A, loads=(lamp,)),
        )
        faults = [f for f in check_rules(setup) if f.path.startswith("supply")]
    if faults:
        raise SetupError(faults)
    return supply
