"""The demo's invented scenario: three rigs, each with setups that hold, are thin, and fail. No name
here is real.
"""

from __future__ import annotations

import copy
from collections.abc import Callable
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction

from web.accounts.demo import DEMO_USER
from web.rigs.models import Rig
from web.rigs.service import set_twelve_volt
from web.setups.models import SavedSetup
from web.setups.stored import judge, keep

Document = dict[str, Any]


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
SET_2200 = {
    "kind": "generator",
    "continuous_w": 1800,
    "starting_w": 2200,
    "fuel": "propane",
    "tank_l": 3.6,
    "cylinder": {"count": 1},
    "noise": {"dba": 56, "at_m": 7},
}
SET_3400 = {
    "kind": "generator",
    "continuous_w": 3100,
    "starting_w": 3400,
    "fuel": "propane",
    "cylinder": {"count": 1},
    "noise": {"dba": 60, "at_m": 7},
}
SET_7000 = {
    "kind": "generator",
    "continuous_w": 5500,
    "starting_w": 7000,
    "output": "120/240",
    "voltage_v": 240,
    "leg_limit_a": 30,
    "tank_l": 19.3,
    "fuel_points": [[1375, 16], [5500, 6.5]],
    "noise": {"dba": 64, "at_m": 7},
}
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
MANAGED: list[Document] = [
    {"kind": "inlet", "rating_a": 30},
    {"kind": "transfer", "type": "switch", "switched_neutral": True},
    {"kind": "load-manager", "limit_a": 16, "rating_a": 50},
]
ASSIST: Document = {
    "kind": "assist",
    "input": {"kind": "shore", "breaker_a": 6, "voltage_v": 230},
    "input_limit_a": 4,
    "inverter": {
        "kind": "battery-inverter",
        "continuous_w": 2400,
        "surge_w": 5500,
        "surge_s": 2,
        "voltage_v": 230,
        "output": "230",
        "battery_wh": 5000,
    },
}


def _setup(
    name: str,
    supply: Document,
    hookup: list[Document],
    rig: Document,
    wanted: list[str],
    notes: str = "",
    **more: Any,
) -> Document:
    kinds = {load["id"]: load["kind"] for load in rig["loads"]}
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": name,
        "notes": notes,
        "supply": copy.deepcopy(supply),
        "hookup": hookup,
        "rig": rig,
        "wanted": [
            {"load": w} | ({"mode": "high-cool"} if kinds[w] == "air-conditioner" else {})
            for w in wanted
        ],
        **more,
    }


def documents() -> list[Document]:
    """The demo's setups, the one to open first last."""
    mountain = {"outdoor_c": 34, "altitude_m": 1600}
    return [
        _setup(
            "Alder Creek, vehicle outlets, load manager",
            VEHICLE,
            MANAGED,
            alder_creek(True),
            ["condenser", "blower", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 5},
        ),
        _setup(
            "Comet van, bare 6 A field post",
            ASSIST["input"],
            [{"kind": "cord", "mm2": 2.5, "length_m": 25}],
            comet_van(),
            ["hob", "dew", "cool"],
            conditions={"outdoor_c": 28},
        ),
        _setup(
            "Comet van, 6 A field post, cooler only",
            ASSIST,
            [{"kind": "cord", "mm2": 2.5, "length_m": 25}],
            comet_van(),
            ["cool", "dew"],
            conditions={"outdoor_c": 28, "target_hours": 6},
        ),
        _setup(
            "Comet van, 6 A field post, supper with the cooler",
            ASSIST,
            [{"kind": "cord", "mm2": 2.5, "length_m": 25}],
            comet_van(),
            ["hob", "kettle", "dew", "cool"],
            conditions={"outdoor_c": 24, "target_hours": 2},
        ),
        _setup(
            "Comet van, 6 A field post, supper",
            ASSIST,
            [{"kind": "cord", "mm2": 2.5, "length_m": 25}],
            comet_van(),
            ["hob", "kettle", "dew"],
            conditions={"outdoor_c": 18, "target_hours": 2},
        ),
        _setup(
            "Alder Creek, 7 kW set, unaided",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(False),
            ["condenser", "well", "blower", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 5},
        ),
        _setup(
            "Alder Creek, 7 kW set, soft starter",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["condenser", "blower", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 5},
        ),
        _setup(
            "Alder Creek, 7 kW set, heat and medicines",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["blower", "freezer", "lights"],
            conditions={"outdoor_c": 5, "target_hours": 8},
        ),
        _setup(
            "Alder Creek, 7 kW set, water and medicines",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["well", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 8},
        ),
        _setup(
            "Clay wagon, 3.4 kW set at 1,600 m",
            SET_3400,
            [REDUCER, OWN_CORD],
            clay_wagon(False),
            ["front", "wheel"],
            conditions=mountain,
        ),
        _setup(
            "Clay wagon, pair of 2.2 kW sets on propane",
            {"kind": "parallel", "units": [SET_2200, SET_2200], "kit_limit_a": 30},
            [REDUCER, OWN_CORD],
            clay_wagon(False),
            ["front", "rear", "wheel"],
            conditions=mountain,
        ),
        _setup(
            "Clay wagon, two fairground outlets",
            {"kind": "shore", "breaker_a": 30, "legs": "split"},
            [
                {"kind": "splitter", "from": ["TT-30", "TT-30"], "to": "14-50", "rating_a": 30},
                OWN_CORD,
            ],
            clay_wagon(True),
            ["front", "rear", "kiln", "extractor"],
            conditions={"outdoor_c": 31},
        ),
        _setup(
            "Clay wagon, school yard 30 A post",
            {"kind": "shore", "breaker_a": 30},
            [REDUCER, OWN_CORD],
            clay_wagon(True),
            ["front", "rear", "heater"],
            conditions={"outdoor_c": 35},
            rules={"breaker_school": "peak"},
        ),
    ]


MORE: list[Callable[[Any], None]] = []
"""What else a demo's owner is given; filled from the floors above."""


@transaction.atomic
def load_demo() -> int:
    """Make the demo's account and setups, if they are not there; returns how many setups were
    made.
    """
    user, made = get_user_model().objects.get_or_create(
        username=DEMO_USER, defaults={"first_name": "Demo"}
    )
    if not made:
        return 0
    user.set_unusable_password()
    user.save()
    return _fill(user)


@transaction.atomic
def reset_demo() -> int:
    """Make the demo what it was at first, whatever its visitors did; they stay signed in. Returns
    how many setups there are then; none where there is no demo.
    """
    user = get_user_model().objects.filter(username=DEMO_USER).first()
    if user is None:
        return 0
    for relation in user._meta.related_objects:
        related: Any = relation.related_model
        related._base_manager.filter(**{relation.field.name: user}).delete()
    return _fill(user)


def _fill(user: Any) -> int:
    found: list[SavedSetup] = [keep(user, judge(document, remedy=True)) for document in documents()]
    for name, (things, battery_ah) in TWELVE_VOLT.items():
        rig = Rig.objects.of(user).get(name=name)
        typed = {"value": "\n".join(things)}
        if battery_ah is not None:
            typed["battery_ah"] = str(battery_ah)
        set_twelve_volt(rig, rig.version, typed)
    for give in MORE:
        give(user)
    return len(found)
