"""How far it holds, what size to buy, and many setups at once."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import tempfile
import unittest
from dataclasses import replace
from itertools import product
from pathlib import Path
from typing import Any, ClassVar

from ironmargin.__main__ import main
from ironmargin.errors import SetupError
from ironmargin.planning.answer import check
from ironmargin.planning.remedy import worth_trying
from ironmargin.reaching.axes import NAMED, Axis, put, read_axis, scaled_supply
from ironmargin.reaching.places import (
    at_place,
    grid_json,
    grid_of,
    grid_words,
    places_schema,
    read_places,
)
from ironmargin.reaching.reach import (
    COARSE,
    at,
    limits_of,
    line_between,
    most_telling,
    order_of,
    reach,
)
from ironmargin.reaching.reach_words import reach_csv, reach_json, reach_words
from ironmargin.reaching.size import AIDS, Offer, read_catalogue, shipped, size, size_json, smallest
from ironmargin.reaching.starters import PEAKS, RAMPS_S, starters, starters_words
from ironmargin.setup.changed import with_load
from ironmargin.setup.engines import Generator
from ironmargin.setup.loads import Rotating, SoftStart
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.spreadsheet import safe_cell
from ironmargin.verdict.check import examine
from ironmargin.verdict.report import trace_csv
from tests.shared import changed, document, path_of
from tests.walking import walk


def setup_of(number: int) -> Setup:
    return changed(number, lambda doc: doc.update(rules={"trials": 300}))


def fault_of(words: str, number: int = 1) -> str:
    try:
        read_axis(words, setup_of(number))
    except SetupError as error:
        return error.faults[0].code
    return ""


class Axes(unittest.TestCase):
    def test_what_is_no_axis_is_refused_in_words(self) -> None:
        for words, code in (
            ("outdoor_c=50:0:5", "range"),
            ("outdoor_c=0:50:1000000000", "points"),
            ("outdoor_c", "axis"),
            ("outdoor_c=a:b:3", "axis"),
            ("outdoor_c=0:inf:3", "range"),
            ("name=0:1:3", "number"),
            ("supply.kind=0:1:3", "number"),
            ("rig.loads[9].lra_a=1:2:3", "no-field"),
            ("rig.loads=1:2:3", "number"),
            ("x__y=1:2:3", "no-field"),
        ):
            self.assertEqual(fault_of(words), code, words)
        self.assertEqual(fault_of("shore_v=100:120:3", 1), "no-post")
        self.assertEqual(fault_of("cord_m=1:9:3", 3), "no-cord")

    def test_a_map_of_too_many_points_says_what_it_would_cost(self) -> None:
        wide = Axis("outdoor_c", tuple(float(n) for n in range(30_000)))
        with self.assertRaises(SetupError) as caught:
            reach(setup_of(1), wide, wide)
        self.assertIn(" h (got 900,000,000)", caught.exception.faults[0].message)

    def test_any_numeric_field_may_be_put(self) -> None:
        setup = setup_of(2)
        self.assertEqual(put(setup, "rig.loads[0].lra_a", 44.0).rig.loads[0].lra_a, 44.0)
        self.assertEqual(put(setup, "site.neighbour_m", 30.0).site.neighbour_m, 30.0)
        self.assertEqual(put(setup, "cord_m", 30.0).hookup[0].length_m, 30.0)
        self.assertEqual(put(setup, "base_load_w", 0.0), setup)
        more = put(setup, "base_load_w", 300.0)
        self.assertAlmostEqual(
            examine(more, trials=0).result.legs["L1"].a
            - examine(setup, trials=0).result.legs["L1"].a,
            300 / 120 / 0.95,
            delta=0.2,
        )

    def test_a_supply_twice_as_strong(self) -> None:
        for number in (1, 2, 6, 11):
            setup = setup_of(number)
            was, now = (examine(s, trials=0).case.source for s in (setup, scaled_supply(setup, 2)))
            before, after = (
                x.limit_a if x.limit_a < 1e6 else x.breakers[0].rating_a for x in (was, now)
            )
            self.assertGreater(after, 1.7 * before, number)


class Maps(unittest.TestCase):
    def test_the_map_is_single_checks_bit_for_bit(self) -> None:
        setup = setup_of(13)
        x, y = read_axis("outdoor_c=20:44:4", setup), read_axis("altitude_m=0:2400:3", setup)
        found = reach(setup, x, y, limits=False)
        for row, altitude in zip(found.points, y.values, strict=True):
            for point, heat in zip(row, x.values, strict=True):
                here = put(put(setup, "outdoor_c", heat), "altitude_m", altitude)
                alone = check(here)
                self.assertEqual(
                    (point.verdict, point.margin, point.check, point.where),
                    (alone.verdict, alone.iron_margin, alone.weakest.check, alone.weakest.where),
                )

    def test_the_line_lies_within_a_step_of_where_it_changes(self) -> None:
        setup = setup_of(6)
        x, y = read_axis("outdoor_c=20:60:9", setup), read_axis("base_load_w=0:400:3", setup)
        found = reach(setup, x, y, limits=False)
        crossed = [a for a, b in line_between(found, 0.0) if b == y.values[0]]
        self.assertEqual(len(crossed), 1)
        edge = limits_of(setup, ("outdoor_c",))[0].passes_high
        self.assertAlmostEqual(crossed[0], edge.value, delta=5.0)

    def test_coarse_points_come_first_and_every_point_once(self) -> None:
        places = list(order_of(9, 7, first=(0, 0)))
        self.assertEqual(len(set(places)), 63)
        self.assertEqual(places[0], (0, 0))
        coarse = [p for p in places if p[0] % COARSE == 0 and p[1] % COARSE == 0]
        self.assertEqual(places[: len(coarse)], coarse)

    def test_figures_that_make_no_setup_are_holes_not_faults(self) -> None:
        setup = setup_of(2)
        x = read_axis("supply.starting_w=1000:3000:3", setup)
        found = reach(setup, x, read_axis("outdoor_c=10:40:2", setup), limits=False)
        self.assertEqual(found.points[0][0].verdict, "none")
        self.assertIn(" ", reach_words(found).splitlines()[1])

    def test_no_cell_is_a_formula_to_a_spreadsheet(self) -> None:
        """=, +, −, @, tab and carriage return (OWASP, CSV injection); figures stay figures."""
        for evil in ("=1+1", "+1", "-1", "@sum", "\tx", "\rx"):
            self.assertEqual(safe_cell(evil), f"'{evil}")
        for fine in ("unit, front", "a=b", "", 7, -3.5, None, True):
            self.assertEqual(safe_cell(fine), fine)
        doc = document(2) | {"rules": {"trials": 0}}
        doc["rig"]["loads"][0]["id"] = "=cmd, x"
        doc["wanted"] = [{"load": "=cmd, x"}]
        setup = read_setup(doc)
        x, y = read_axis("outdoor_c=30:40:2", setup), read_axis("supply_strength=0.5:1:2", setup)
        text = reach_csv(reach(setup, x, y))
        rows = list(csv.reader(io.StringIO(text)))
        self.assertEqual({len(row) for row in rows}, {6})
        self.assertIn("'=cmd, x", [row[5] for row in rows])
        self.assertLess(min(float(row[3]) for row in rows[1:]), 0.0)
        trace = trace_csv(examine(read_setup(doc)))
        self.assertIn("'=cmd, x", [row[0] for row in csv.reader(io.StringIO(trace))])

    @walk
    def test_out_as_json_and_csv(self) -> None:
        setup = setup_of(1)
        x, y = read_axis("outdoor_c=20:30:3", setup), read_axis("cord_m=5:200:2", setup)
        found = reach(setup, x, y)
        body = json.loads(json.dumps(reach_json(found), allow_nan=False))
        self.assertEqual(
            (body["format"], len(body["margin"]), len(body["margin"][0])),
            ("iron-margin/reach", 2, 3),
        )
        self.assertEqual(set(body["limits"]), set(NAMED) - {"shore_v"})
        lines = reach_csv(found).splitlines()
        self.assertEqual(
            (len(lines), lines[0].split(",")[:3]), (7, ["outdoor_c", "cord_m", "verdict"])
        )
        self.assertIn("of cord, then", reach_words(found))


class SentenceContext(unittest.TestCase):
    def test_what_turns_the_verdict_comes_first(self) -> None:
        setup = read_setup(document(1) | {"rules": {"trials": 0}})
        spans = {"outdoor_c": (34.0, 36.0), "supply_strength": (0.5, 2.0)}
        ranked = most_telling(setup, spans)
        self.assertEqual(ranked[0], ("supply_strength", True))
        for field, turns in ranked:
            ends = {at(setup, (field, value)).verdict for value in spans[field]}
            self.assertEqual(turns, len(ends - {"none"}) > 1, field)

    def test_of_two_that_turn_nothing_the_one_that_moves_the_margin_more(self) -> None:
        setup = read_setup(document(1) | {"rules": {"trials": 0}})
        spans = {"altitude_m": (0.0, 1.0), "outdoor_c": (20.0, 30.0)}
        ranked = [field for field, _ in most_telling(setup, spans)]
        self.assertEqual(ranked, ["outdoor_c", "altitude_m"])


class Limits(unittest.TestCase):
    def test_each_limit_holds_at_its_edge_and_not_beyond(self) -> None:
        setup = changed(1, lambda doc: doc.update(rules={"trials": 0}))
        for limit in limits_of(setup):
            step = NAMED[limit.field].step
            for edge, verdicts in (
                (limit.holds_high, ("holds",)),
                (limit.passes_high, ("holds", "thin")),
                (limit.holds_low, ("holds",)),
            ):
                if edge is None or edge.check is None:
                    continue
                inside = examine(put(setup, limit.field, edge.value)).result.verdict
                self.assertIn(inside, verdicts, limit.field)
                away = 1 if edge is not limit.holds_low else -1
                beyond = edge.value + away * max(step, 0.012 * abs(edge.value))
                outside = examine(put(setup, limit.field, beyond)).result.verdict
                self.assertNotIn(outside, verdicts, limit.field)

    def test_what_makes_it_thin_is_named_though_it_is_not_the_smallest_margin(self) -> None:
        load = limits_of(setup_of(1), ("base_load_w",))[0]
        self.assertEqual((load.holds_high.check, load.holds_high.where), ("start", "roof"))
        self.assertEqual(load.passes_high.check, "sustain")

    def test_a_posts_volts_are_looked_at_about_its_own_service(self) -> None:
        limit = limits_of(setup_of(11), ("shore_v",))[0]
        self.assertLess(limit.passes_low.value, limit.now)
        self.assertGreater(limit.passes_high.value, limit.now)

    def test_what_fails_has_no_limits(self) -> None:
        heat = limits_of(setup_of(2), ("outdoor_c",))[0]
        self.assertEqual((heat.verdict, heat.passes_high, heat.holds_low), ("fails", None, None))


class Sizes(unittest.TestCase):
    def test_every_row_is_the_check_of_that_supply_with_that_aid(self) -> None:
        setup = setup_of(2)
        offers = shipped()[1:4]
        found = size(setup, offers)
        self.assertEqual({r.aid for r in found}, set(AIDS))
        for row in found[::5]:
            offer = next(o for o in offers if o.key == row.key)
            from dataclasses import replace

            requested = AIDS[row.aid](replace(setup, supply=replace(offer.supply, fuel=row.fuel)))
            alone = check(requested)
            self.assertEqual((row.verdict, row.margin), (alone.verdict, alone.iron_margin))

    @walk
    def test_the_smallest_holds_and_no_smaller_one_does(self) -> None:
        setup = setup_of(2)
        found = size(setup)
        power = {o.key: o.supply.continuous_w for o in shipped()}
        for aid, key in smallest(found).items():
            same = [r for r in found if r.aid == aid and r.fuel == "gasoline"]
            self.assertEqual(next(r for r in same if r.key == key).verdict, "holds")
            self.assertFalse(
                [r for r in same if r.verdict == "holds" and power[r.key] < power[key]]
            )

    @walk
    def test_a_set_whose_character_nobody_says_is_tried_both_ways(self) -> None:
        setup = read_setup(document(2) | {"rules": {"trials": 0}})
        cut = {r.key: r for r in size(setup) if r.if_cuts_off and r.aid == "none"}
        self.assertTrue(cut)
        for row in cut.values():
            self.assertIn((row.verdict, row.if_cuts_off),
                          (("holds", "thin"), ("holds", "fails"), ("thin", "fails")))  # fmt: skip
        self.assertFalse([r for r in size(setup) if r.if_cuts_off and r.verdict == "fails"])

    def test_a_dominated_row_has_a_better_one(self) -> None:
        small = Generator(continuous_w=3000, starting_w=3600, tank_l=5.0, mass_kg=40.0)
        heavy = Generator(continuous_w=3000, starting_w=3600, tank_l=5.0, mass_kg=60.0)
        found = size(setup_of(2), (Offer("a", "a", small, 3), Offer("b", "b", heavy, 3)))
        plain = {r.key: r.dominated for r in found if r.aid == "none" and r.fuel == "gasoline"}
        self.assertEqual(plain, {"a": False, "b": True})

    def test_a_catalogue_s_noise_is_read_at_the_distance_its_column_names(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "sets.csv"
            path.write_text(
                "key,name,continuous_w,starting_w,voltage_v,output,dba_7m\n"
                "a,A,1800,2200,120,120,58\n"
            )
            (offer,) = read_catalogue(str(path))
        self.assertEqual((offer.supply.noise.dba, offer.supply.noise.at_m), (58.0, 7.0))

    def test_a_catalogue_of_one_s_own(self) -> None:
        head = "key,name,continuous_w,starting_w,voltage_v,output,cost_class\n"
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mine.csv"
            path.write_text(head + "mine,My set,2800,3200,120,120,2\n", encoding="utf-8")
            (offer,) = read_catalogue(str(path))
            self.assertEqual((offer.key, offer.cost_class), ("mine", 2))
            body = size_json(setup_of(2), size(setup_of(2), (offer,)), (offer,))
            self.assertTrue(all("mass_kg" not in row for row in body["rows"]))
            path.write_text(head + "a,b,x,3200,120,120,2\nc,,1,1,120,120,\n", encoding="utf-8")
            with self.assertRaises(SetupError) as caught:
                read_catalogue(str(path))
            self.assertEqual([f.path for f in caught.exception.faults], ["line 2", "line 3"])


class StartGear(unittest.TestCase):
    def test_each_row_is_the_check_of_that_gear(self) -> None:
        setup = setup_of(3)
        found = starters(setup)
        self.assertEqual([s.gear for s in found[:2]], ["as it is", "hard-start"])
        soft = found[2:]
        self.assertEqual([(s.fraction, s.ramp_s) for s in soft], list(product(PEAKS, RAMPS_S)))
        for row in (soft[0], soft[-1]):
            gear = SoftStart(fraction=row.fraction, ramp_s=row.ramp_s or 0.0)
            put = with_load(setup, row.load, start="soft-start", soft_start=gear)
            checked = examine(put, quick=True).result
            self.assertEqual((row.verdict, row.margin), (checked.verdict, checked.iron_margin))
            self.assertEqual(row.start_margin, checked.starts[0].margin)

    def test_a_higher_peak_asks_for_more_of_the_supply(self) -> None:
        soft = [s for s in starters(setup_of(1)) if s.ramp_s == 0.6]
        peaks = [s.peak_a for s in soft]
        self.assertEqual(peaks, sorted(peaks))
        self.assertGreater(peaks[-1], 1.2 * peaks[0])

    def test_a_scroll_that_came_without_start_gear_is_offered_no_kit(self) -> None:
        setup = setup_of(3)
        unit = next(x for x in setup.rig.loads if isinstance(x, Rotating))
        for start, offered in (("run-capacitor", False), ("start-capacitor", True)):
            scroll = with_load(setup, unit.id, start=start, compressor="scroll")
            other = with_load(setup, unit.id, start=start, compressor="rotary")
            self.assertEqual("hard-start" in {s.gear for s in starters(scroll)}, offered)
            self.assertIn("hard-start", {s.gear for s in starters(other)})
            kinds = {c.kind for c in worth_trying(examine(scroll, quick=True))}
            self.assertEqual("hard-start" in kinds, offered)
            aids = {r.aid for r in size(scroll, shipped()[:1])}
            self.assertEqual("hard-start" in aids, offered)

    def test_out_as_json_and_in_words(self) -> None:
        body = size_json(setup_of(3), (), ())
        self.assertEqual(body["starters"][0]["gear"], "as-it-is")
        self.assertIn("peak_a", body["starters"][0])
        lines = starters_words(starters(setup_of(3)))
        self.assertTrue(any("locked-rotor amps" in line for line in lines))
        self.assertEqual(starters(read_setup(NO_MOTOR)), ())


NO_MOTOR: dict[str, Any] = {
    "format": "iron-margin/setup",
    "version": 1,
    "name": "Kettle",
    "supply": {"kind": "shore", "breaker_a": 15},
    "rig": {
        "name": "Stall",
        "main_a": 15,
        "loads": [{"id": "kettle", "name": "Kettle", "kind": "resistive", "watts": 900}],
    },
    "wanted": [{"load": "kettle"}],
}


class Pitches(unittest.TestCase):
    ASKED: ClassVar[dict[str, Any]] = {
        "format": "iron-margin/places",
        "version": 1,
        "places": [
            {"name": "House outlet", "supply": {"kind": "shore", "breaker_a": 15}},
            {"name": "Fairground", "supply": {"kind": "shore", "breaker_a": 30}, "outdoor_c": 40},
            {
                "name": "Hill",
                "supply": {"kind": "generator", "continuous_w": 900, "starting_w": 1000},
            },
        ],
        "wants": [
            {"name": "Night", "wanted": [{"load": "roof", "mode": "low-cool"}]},
            {"name": "Fan only", "wanted": [{"load": "roof", "mode": "fan-low"}]},
        ],
    }

    def test_each_cell_is_the_check_of_its_own_setup(self) -> None:
        setup = setup_of(1)
        requested = read_places(self.ASKED, setup)
        found = grid_json(grid_of(setup, requested))
        for row, name in enumerate(found["places"]):
            place = next(p for p in requested.places if p.name == name)
            for column, want in enumerate(requested.wants or ()):
                alone = check(replace(at_place(setup, place), wanted=want.wanted))
                self.assertEqual(found["verdict"][row][column], alone.verdict)
                self.assertEqual(found["margin"][row][column], round(alone.iron_margin, 6))
        self.assertEqual(found["places"][0], "Fairground")
        self.assertEqual(found["places"][-1], "Hill")

    def test_without_wants_the_setups_own_are_asked(self) -> None:
        setup = setup_of(1)
        found = grid_of(
            setup, read_places({k: v for k, v in self.ASKED.items() if k != "wants"}, setup)
        )
        self.assertEqual(found.wants, ("As the setup",))
        self.assertIn("Fairground", grid_words(found))

    def test_bad_places_are_named(self) -> None:
        setup = setup_of(1)
        for change, path in (
            ({"places": []}, "places"),
            ({"wants": [{"name": "x", "wanted": [{"load": "nobody"}]}]}, "wants[0].wanted[0].load"),
            (
                {"places": [{"name": "", "supply": {"kind": "shore", "breaker_a": 5}}]},
                "places[0].name",
            ),
        ):
            with self.assertRaises(SetupError) as caught:
                read_places(self.ASKED | change, setup)
            self.assertEqual(caught.exception.faults[0].path, path)
        self.assertIn("places", places_schema()["properties"])

    def test_the_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "p.json"
            file.write_text(json.dumps(self.ASKED))
            with contextlib.redirect_stdout(io.StringIO()) as out:
                self.assertEqual(
                    main(["places", str(path_of(1)), "--places", str(file), "--json"]), 0
                )
            self.assertEqual(json.loads(out.getvalue())["format"], "iron-margin/places-grid")
