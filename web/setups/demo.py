"""The demo's invented scenario: three rigs, each with setups that hold, are thin, and fail. No name
here is real.
"""

from __future__ import annotations

import copy
from collections.abc import Callable
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import User
from django.db import transaction

from ironmargin.document import Document
from web.accounts.demo import DEMO_USER
from web.rigs.models import Rig
from web.rigs.service import set_twelve_volt
from web.setups.demo_rigs import (
    OWN_CORD,
    REDUCER,
    TWELVE_VOLT,
    VEHICLE,
    alder_creek,
    clay_wagon,
    comet_van,
)
from web.setups.judging import judge
from web.setups.models import SavedSetup
from web.setups.repository import store
from web.supplies.typical import supply_document

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
STATION: Document = {
    "kind": "battery-inverter",
    "type": "power-station",
    "continuous_w": 1800,
    "surge_w": 3600,
    "surge_s": 1,
    "voltage_v": 230,
    "output": "230",
    "battery_wh": 2000,
    "input_w": 250,
    "alarm_w": 1600,
}
BESIDE_SUN: Document = {
    **(supply_document("assist-sun-7000") or {}),
    "input": SET_7000,
    "input_limit_a": 20,
}
HOUSE_OUTLET: list[Document] = [
    {"kind": "cord", "name": "Extension cord", "awg": 12, "length_m": 15, "rating_a": 15},
    {"kind": "adapter", "name": "15-to-30 adapter", "from": "5-15", "to": "TT-30", "rating_a": 15},
]


def _setup(
    name: str,
    supply: Document,
    hookup: list[Document],
    rig: Document,
    wanted: list[str],
    notes: str = "",
    **more: object,
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
            "Comet van, power station and sun",
            STATION,
            [{"kind": "cord", "mm2": 2.5, "length_m": 5}],
            comet_van(),
            ["dew", "cool"],
            conditions={"outdoor_c": 22, "target_hours": 4},
        ),
        _setup(
            "Alder Creek, generator beside the solar inverter",
            BESIDE_SUN,
            [{"kind": "inlet", "rating_a": 50}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["condenser", "blower", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 8},
        ),
        _setup(
            "Clay wagon, 15 A outlet of the school",
            {"kind": "shore", "breaker_a": 15},
            [*HOUSE_OUTLET, REDUCER, OWN_CORD],
            clay_wagon(True),
            ["front"],
            conditions={"outdoor_c": 27},
        ),
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
            "Alder Creek, 7 kW generator, unaided",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(False),
            ["condenser", "well", "blower", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 5},
        ),
        _setup(
            "Alder Creek, 7 kW generator, soft starter",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["condenser", "blower", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 5},
        ),
        _setup(
            "Alder Creek, 7 kW generator, heat and medicines",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["blower", "freezer", "lights"],
            conditions={"outdoor_c": 5, "target_hours": 8},
        ),
        _setup(
            "Alder Creek, 7 kW generator, water and medicines",
            SET_7000,
            [{"kind": "inlet", "rating_a": 30}, {"kind": "transfer", "type": "interlock"}],
            alder_creek(True),
            ["well", "freezer", "lights"],
            conditions={"outdoor_c": 33, "target_hours": 8},
        ),
        _setup(
            "Clay wagon, 3.4 kW generator at 1,600 m",
            SET_3400,
            [REDUCER, OWN_CORD],
            clay_wagon(False),
            ["front", "wheel"],
            conditions=mountain,
            site={"quiet_from_h": 22, "quiet_to_h": 7, "neighbour_m": 12},
        ),
        _setup(
            "Clay wagon, pair of 2.2 kW generators on propane",
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
            rules={"trip_criterion": "peak"},
        ),
    ]


MORE: list[Callable[[Any], None]] = []
"""What else a demo's owner is given; filled from the layers above."""


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


def _fill(user: User) -> int:
    judged = (judge(document, remedy=True) for document in documents())
    found: list[SavedSetup] = [store(user, one) for one in judged]
    for name, (things, battery_ah) in TWELVE_VOLT.items():
        rig = Rig.objects.of(user).get(name=name)
        typed = {"value": "\n".join(things)}
        if battery_ah is not None:
            typed["battery_ah"] = str(battery_ah)
        set_twelve_volt(rig, rig.version, typed)
    for give in MORE:
        give(user)
    return len(found)
