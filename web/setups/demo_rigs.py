"""The rigs and parts of the demo, all of them invented."""

from __future__ import annotations

from ironmargin.document import Document


def _unit(ident: str, name: str, leg: str, high_a: float, soft_a: float | None = None) -> Document:
    out: Document = {
        "id": ident,
        "name": name,
        "kind": "air-conditioner",
        "leg": leg,
        "running_a": round(high_a - 1.9, 1),
        "lra_a": 46,
        "fan_high_a": 2.1,
        "high_cool_a": high_a,
        "start": "start-capacitor",
        "from": "measured",
    }
    return out | (
        {"start": "soft-start", "soft_start": {"peak_a": soft_a, "learned_starts": 5}}
        if soft_a
        else {}
    )


def clay_wagon(soft: bool) -> Document:
    """A pottery teacher's 34 ft workshop trailer."""
    return {
        "name": "Clay wagon" if soft else "Clay wagon before the soft starters",
        "service": "120/240",
        "main_a": 50,
        "loads": [
            _unit("front", "Front unit", "L1", 9.4, 12.4 if soft else None),
            _unit("rear", "Rear unit", "L2", 9.6, 13.2 if soft else None),
            {
                "id": "heater",
                "name": "Water heater",
                "kind": "resistive",
                "watts": 1440,
                "leg": "L1",
                "duty": 0.5,
                "priority": "wait",
                "from": "plate",
            },
            {
                "id": "fridge",
                "name": "Refrigerator",
                "kind": "electronic",
                "watts": 130,
                "leg": "L2",
                "duty": 0.5,
                "always_on": True,
                "from": "measured",
            },
            {
                "id": "charger",
                "name": "Battery charger",
                "kind": "charger",
                "watts": 90,
                "leg": "L1",
                "always_on": True,
                "from": "measured",
            },
            {
                "id": "wheel",
                "name": "Throwing wheel",
                "kind": "electronic",
                "watts": 380,
                "leg": "L2",
                "duty": 0.4,
                "priority": "want",
                "from": "plate",
            },
            {
                "id": "extractor",
                "name": "Extractor",
                "kind": "motor",
                "running_a": 1.1,
                "lra_a": 5.5,
                "leg": "L1",
                "priority": "wait",
                "from": "plate",
            },
            {
                "id": "kiln",
                "name": "Test kiln",
                "kind": "resistive",
                "watts": 2400,
                "voltage_v": 240,
                "duty": 1.0,
                "priority": "wait",
                "from": "plate",
            },
        ],
    }


def alder_creek(soft: bool) -> Document:
    """Backup for a rural clinic nurse's home."""
    condenser: Document = {
        "id": "condenser",
        "name": "Condensing unit",
        "kind": "motor",
        "voltage_v": 240,
        "running_a": 12.8,
        "lra_a": 67,
        "duty": 0.6,
        "start": "run-capacitor",
        "circuit": "ac",
        "priority": "want",
        "from": "plate",
    }
    if soft:
        condenser |= {
            "start": "soft-start",
            "soft_start": {"peak_a": 24, "learned_starts": 5},
            "from": "measured",
        }
    return {
        "name": "Alder Creek house" if soft else "Alder Creek house, unaided",
        "service": "120/240",
        "main_a": 100,
        "circuits": [
            {"id": "ac", "name": "Condensing unit", "breaker_a": 30, "leg": "L1L2"},
            {"id": "well", "name": "Well pump", "breaker_a": 20, "leg": "L1L2"},
            {"id": "k1", "name": "Kitchen", "breaker_a": 20, "leg": "L1"},
            {"id": "b1", "name": "Basement", "breaker_a": 20, "leg": "L2"},
        ],
        "loads": [
            condenser,
            {
                "id": "well",
                "name": "Well pump",
                "kind": "motor",
                "metering": "none",
                "voltage_v": 240,
                "running_a": 8,
                "lra_a": 45,
                "start": "start-capacitor",
                "circuit": "well",
                "duty": 0.15,
                "from": "plate",
            },
            {
                "id": "blower",
                "name": "Furnace blower",
                "kind": "motor",
                "metering": "none",
                "running_a": 5.8,
                "lra_a": 24,
                "duty": 0.5,
                "leg": "L2",
                "from": "plate",
            },
            {
                "id": "freezer",
                "name": "Medicine freezer",
                "kind": "motor",
                "running_a": 1.5,
                "lra_a": 10,
                "duty": 0.4,
                "circuit": "k1",
                "always_on": True,
                "from": "measured",
            },
            {
                "id": "sump",
                "name": "Sump pump",
                "kind": "motor",
                "metering": "none",
                "running_a": 7.2,
                "lra_a": 32,
                "duty": 0.1,
                "circuit": "b1",
                "from": "plate",
            },
            {
                "id": "lights",
                "name": "Lights",
                "kind": "electronic",
                "watts": 160,
                "leg": "L1",
                "from": "typical",
            },
        ],
    }


def comet_van() -> Document:
    """An amateur astronomer's 230 V van."""
    return {
        "name": "Comet van",
        "service": "230",
        "main_a": 16,
        "loads": [
            {
                "id": "hob",
                "name": "Induction hob",
                "kind": "electronic",
                "watts": 1300,
                "voltage_v": 230,
                "duty": 0.6,
                "from": "plate",
            },
            {
                "id": "kettle",
                "name": "Kettle",
                "kind": "resistive",
                "watts": 900,
                "voltage_v": 230,
                "duty": 0.1,
                "priority": "wait",
                "from": "plate",
            },
            {
                "id": "dew",
                "name": "Dew heaters",
                "kind": "resistive",
                "watts": 60,
                "voltage_v": 230,
                "always_on": True,
                "from": "measured",
            },
            {
                "id": "cool",
                "name": "Roof cooler",
                "kind": "air-conditioner",
                "running_a": 2.4,
                "fan_high_a": 0.3,
                "voltage_v": 230,
                "start": "inverter-drive",
                "from": "plate",
            },
            {
                "id": "fridge",
                "name": "Refrigerator",
                "kind": "resistive",
                "watts": 125,
                "voltage_v": 230,
                "duty": 0.6,
                "gas": True,
                "priority": "want",
                "from": "plate",
            },
        ],
    }


TWELVE_VOLT = {
    "Clay wagon": (
        ["LED lights over the wheels 2.5 A 5 h", "Water pump 6 A 0.4 h", "Furnace fan 7 A 3 h"],
        200,
    ),
    "Alder Creek house": (["Alarm and its battery"], None),
    "Comet van": (
        ["Telescope mount and focuser 3 A 6 h", "Diesel heater fan 2 A 8 h", "LED strips, red"],
        230,
    ),
}
REDUCER = {
    "kind": "adapter",
    "name": "50-to-30 reducer",
    "from": "TT-30",
    "to": "14-50",
    "rating_a": 30,
    "feeds": "both-legs",
}
OWN_CORD = {"kind": "cord", "name": "50 A cord", "awg": 6, "length_m": 9, "rating_a": 50}
VEHICLE = {
    "kind": "battery-inverter",
    "type": "vehicle",
    "continuous_w": 7200,
    "surge_w": 7200,
    "voltage_v": 240,
    "output": "120/240",
    "battery_wh": 60000,
    "neutral": "bonded",
}
