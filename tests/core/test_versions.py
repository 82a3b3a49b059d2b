"""Files of version 1 stay readable, whatever comes after."""

from __future__ import annotations

import json
import unittest
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
            self.assertIs(versions.up_to_date(data), data)
        newer = fixture("setup") | {"version": 2}
        with self.assertRaisesRegex(SetupError, "version"):
            read_setup(newer)
