"""Files of version 1 stay readable, whatever comes after."""

from __future__ import annotations

import json
import unittest
import warnings
from pathlib import Path
from typing import Any
from unittest import mock

from ironmargin.bench.script import read_script
from ironmargin.errors import SetupError
from ironmargin.learning.log import read_log
from ironmargin.planning.stock import read_stock
from ironmargin.planning.tasks import read_tasks
from ironmargin.reaching.places import read_places
from ironmargin.setup import versions
from ironmargin.setup.reading import read_setup, write_setup

UNIT = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200, "inverter": True}
VERSION_1 = Path(__file__).resolve().parents[1] / "fixtures" / "version-1"


def fixture(ending: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((VERSION_1 / f"a.{ending}.json").read_text("utf-8"))
    return found


class Version1(unittest.TestCase):
    """The fixtures are never written anew: they are what people have on their disks."""

    def test_every_format_s_file_is_read(self) -> None:
        setup = read_setup(fixture("setup"))
        self.assertEqual(len(setup.rig.loads), len(fixture("setup")["rig"]["loads"]))
        self.assertEqual(len(read_log(fixture("log"), setup).entries), 2)
        self.assertEqual(read_script(fixture("script"), setup).steps[1].what, "front")
        self.assertEqual(read_stock(fixture("stock"), setup).days, 3)
        self.assertEqual(read_tasks(fixture("tasks"), setup).tasks[0].load, "heater")
        self.assertEqual(read_places(fixture("places"), setup).places[0].name, "a")

    def test_a_file_of_before_goes_through_every_step_after_it(self) -> None:
        """Two invented older versions: 0 called the loads devices, -1 had them outside the rig."""
        new = fixture("setup")
        older = {k: v for k, v in new.items() if k != "rig"} | {"version": 0}
        older["rig"] = {k: v for k, v in new["rig"].items() if k != "loads"}
        older["rig"]["devices"] = new["rig"]["loads"]
        oldest = dict(older) | {"version": -1, "devices": older["rig"]["devices"]}
        oldest["rig"] = {k: v for k, v in older["rig"].items() if k != "devices"}

        def inside(data: dict[str, Any]) -> dict[str, Any]:
            rest = {k: v for k, v in data.items() if k != "devices"}
            return rest | {"rig": data["rig"] | {"devices": data["devices"]}}

        def loads(data: dict[str, Any]) -> dict[str, Any]:
            rig = {k: v for k, v in data["rig"].items() if k != "devices"}
            return data | {"rig": rig | {"loads": data["rig"]["devices"]}}

        for document in (older, oldest):
            with self.assertRaises(SetupError):
                read_setup(document)
        steps = {(new["format"], -1): inside, (new["format"], 0): loads}
        with mock.patch.dict(versions.STEPS, steps):
            for document in (older, oldest, new):
                self.assertEqual(write_setup(read_setup(document)), write_setup(read_setup(new)))

    def test_what_is_no_document_stays_as_it_is(self) -> None:
        for data in (None, [], {"format": 1}, {"format": "x", "version": True}, {"version": 1}):
            self.assertEqual(versions.up_to_date(data), data)
        newer = fixture("setup") | {"version": 2}
        with self.assertRaisesRegex(SetupError, "version"):
            read_setup(newer)


class FormerNames(unittest.TestCase):
    """Fields that were renamed: read by either name for a release, written by today's."""

    def test_a_former_name_is_read_with_a_warning_and_written_as_today_s(self) -> None:
        old = fixture("setup")
        self.assertEqual(old["rules"]["breaker_school"], "peak")
        old["supply"] = {"kind": "parallel", "units": [UNIT | {"limit_headroom": 1.2}] * 2}
        with self.assertWarnsRegex(versions.FormerName, "breaker_school is now called trip_"):
            setup = read_setup(old)
        new = write_setup(setup)
        self.assertEqual(new["rules"]["trip_criterion"], "peak")
        self.assertEqual([u["limit_over_surge"] for u in new["supply"]["units"]], [1.2, 1.2])
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            self.assertEqual(read_setup(new), setup)

    def test_a_stock_s_former_names(self) -> None:
        stock = fixture("stock") | {"loads": [{"load": "heater", "hours": 2, "least_hours": 1}]}
        with self.assertWarns(versions.FormerName):
            read = read_stock(stock, read_setup(fixture("setup")))
        self.assertEqual([use.min_hours for use in read.loads or ()], [1.0])

    def test_both_names_at_once_are_a_fault(self) -> None:
        both = fixture("setup") | {"rules": {"breaker_school": "peak", "trip_criterion": "peak"}}
        with self.assertRaisesRegex(SetupError, "breaker_school: unknown field"):
            read_setup(both)

    def test_what_others_keep_under_x_is_left_alone(self) -> None:
        kept = {"x": {"breaker_school": [1]}, "y": [{"least_hours": 2}]}
        self.assertEqual(
            versions.renamed(kept), {"x": {"breaker_school": [1]}, "y": [{"min_hours": 2}]}
        )
        self.assertEqual(versions.notice({}), "")
