"""Reading and writing: what is written reads back; every fault is named with path, rule and
value.
"""

from __future__ import annotations

import json
import unittest
from typing import Any

import jsonschema

from ironmargin.errors import SetupError
from ironmargin.setup.reading import load_setup, parse_setup, read_setup, setup_schema, write_setup
from tests.kinds import question
from tests.shared import SETUPS, document, path_of


def faults(doc: Any) -> dict[str, str]:
    """path → message of the faults of a document."""
    try:
        read_setup(doc)
    except SetupError as error:
        return {fault.path: fault.message for fault in error.faults}
    return {}


def at(doc: Any, path: list[Any], value: Any) -> dict[str, str]:
    """Faults after putting a value at a path."""
    place = doc
    for step in path[:-1]:
        place = place[step]
    place[path[-1]] = value
    return faults(doc)


class RoundTrip(unittest.TestCase):
    def test_every_sound_setup_reads_back_to_the_same(self) -> None:
        for file in (f for f in sorted(SETUPS.glob("*.json")) if "bad-file" not in f.name):
            setup = load_setup(file)
            written = write_setup(setup)
            self.assertEqual(read_setup(json.loads(json.dumps(written))), setup, file.name)
            self.assertEqual(write_setup(read_setup(written)), written)

    def test_the_schema_takes_what_the_reader_takes(self) -> None:
        validator = jsonschema.Draft202012Validator(setup_schema())
        validator.check_schema(setup_schema())
        for file in (f for f in sorted(SETUPS.glob("*.json")) if "bad-file" not in f.name):
            self.assertEqual(
                list(validator.iter_errors(json.loads(file.read_text()))), [], file.name
            )
        self.assertTrue(list(validator.iter_errors(document(12))))

    def test_foreign_fields_under_x_are_kept(self) -> None:
        doc = document(1) | {"x": {"colour": "red"}}
        self.assertEqual(write_setup(read_setup(doc))["x"], {"colour": "red"})


class Names(unittest.TestCase):
    def test_a_name_is_one_line_and_notes_keep_theirs(self) -> None:
        requested = question("shore") | {"name": "a\r\nb\tc", "notes": "one\ntwo"}
        found = read_setup(requested)
        self.assertEqual(found.name, "a  b c")
        self.assertEqual(found.notes, "one\ntwo")
        with self.assertRaises(SetupError):
            read_setup(requested | {"name": "\r\n"})


class Faults(unittest.TestCase):
    def test_numbers_that_are_none(self) -> None:
        for value, words in (
            ("60", "must be a number"),
            (True, "must be a number"),
            (float("nan"), "finite"),
            (float("inf"), "finite"),
            (1e308, "at most"),
            (0, "above 0"),
            (-3, "above 0"),
            (10**400, "finite"),
            ([], "must be a number"),
            ({}, "must be a number"),
        ):
            found = at(document(1), ["supply", "units", 0, "continuous_w"], value)
            self.assertIn(words, found["supply.units[0].continuous_w"])

    def test_relations_between_fields(self) -> None:
        cases: list[tuple[int, list[Any], Any, str, str]] = [
            (
                2,
                ["supply", "starting_w"],
                900,
                "supply.starting_w",
                "at least continuous_w 1800 (got 900)",
            ),
            (2, ["supply", "voltage_v"], 230, "supply.voltage_v", "must fit output 120 (got 230)"),
            (
                2,
                ["rig", "loads", 0, "lra_a"],
                9,
                "rig.loads[0].lra_a",
                "at least twice the running amps 12.5",
            ),
            (
                2,
                ["rig", "loads", 0, "high_cool_a"],
                2,
                "rig.loads[0].high_cool_a",
                "must be above fan_high_a 2.4",
            ),
            (
                2,
                ["rig", "service"],
                "230",
                "rig.service",
                "must be fed 230 V a leg but the path brings 120 V",
            ),
            (2, ["rig", "loads", 1, "leg"], "L2", "rig.loads[1].leg", "a 120 rig has one leg"),
            (2, ["rig", "loads", 1, "circuit"], "c9", "rig.loads[1].circuit", 'got "c9"'),
            (2, ["rig", "loads", 1, "id"], "roof", "rig.loads[1].id", "must be unique"),
            (2, ["hookup", 0, "length_m"], 0, "hookup[0].length_m", "must be above 0 (got 0)"),
            (
                2,
                ["hookup", 0, "awg"],
                11,
                "hookup[0].awg",
                "must be one of 4, 6, 8, 10, 12, 14, 16 (got 11)",
            ),
            (2, ["hookup", 0, "mm2"], 4, "hookup[0].awg", "one of them"),
            (
                2,
                ["wanted", 1, "mode"],
                "high-cool",
                "wanted[1].mode",
                "only an air conditioner has modes",
            ),
            (2, ["wanted"], [], "", ""),
            (
                5,
                ["supply", "readings"],
                [[120, 1], [121, 9]],
                "supply.readings",
                "must sag as amps rise",
            ),
            (
                5,
                ["supply", "readings"],
                [[120, 1], [119, 1.2]],
                "supply.readings",
                "differ by at least 0.5 A",
            ),
            (
                11,
                ["supply", "input"],
                {"kind": "assist"},
                "supply.input.kind",
                "must be one of shore, generator",
            ),
            (
                11,
                ["supply", "input", "voltage_v"],
                120,
                "supply.inverter.voltage_v",
                "must match its input's 120 V",
            ),
            (11, ["rig", "loads", 0, "voltage_v"], 120, "rig.loads[0].voltage_v", "about 230 V"),
            (11, ["rig", "loads", 0, "duty"], 1.5, "rig.loads[0].duty", "at most 1 (got 1.5)"),
        ]
        for number, path, value, where, words in cases:
            found = at(document(number), path, value)
            if where:
                self.assertIn(words, found.get(where, str(found)), path)

    def test_nothing_to_run(self) -> None:
        doc = document(2) | {"wanted": []}
        doc["rig"]["loads"][1]["always_on"] = False
        self.assertIn("at least one load", faults(doc)["wanted"])

    def test_there_is_a_most_work(self) -> None:
        doc = document(2)
        motor = doc["rig"]["loads"][0] | {"count": 50}
        doc["rig"]["loads"] = [motor | {"id": f"m{n}"} for n in range(6)]
        doc["wanted"] = [{"load": f"m{n}"} for n in range(6)]
        doc["rules"] = {"trials": 20000}
        self.assertIn("fewer motors and loads wanted at once", faults(doc)["rules.trials"])

    def test_a_code_letter_needs_its_horsepower(self) -> None:
        doc = document(2)
        load = doc["rig"]["loads"][0]
        del load["lra_a"]
        load["code_letter"] = "G"
        self.assertIn("code letter and hp together", faults(doc)["rig.loads[0].hp"])

    def test_a_transformer_must_fit(self) -> None:
        doc = document(2)
        doc["hookup"].append({"kind": "transformer", "va": 2000, "from_v": 230, "to_v": 240})
        self.assertIn("supply's 120 V", faults(doc)["hookup[1].from_v"])

    def test_files_that_are_no_setups(self) -> None:
        cases = [
            (b"{", "not JSON at line 1"),
            (b"\xff\xfe", "not UTF-8"),
            (b"[]", "must be an object"),
            (b"{}", "supply: must be given"),
            (b"x" * 1_000_001, "at most"),
            (b"[" * 100_000, "nested too deeply"),
            (b'{"name": "a", "name": "b"}', "stands twice"),
            (b'{"name": ' + b"9" * 5000 + b"}", "number too long"),
            (b'{"name": "\\ud800"}', "valid Unicode"),
            (b"null", "must be an object"),
        ]
        for raw, words in cases:
            with self.assertRaises(SetupError) as caught:
                parse_setup(raw)
            self.assertIn(words, str(caught.exception), raw[:30])

    def test_a_file_that_is_not_there(self) -> None:
        with self.assertRaises(SetupError) as caught:
            load_setup(path_of(1).with_name("nothing.setup.json"))
        self.assertIn("cannot open", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
