"""The ledger's own law: no figure is compared with a limit elsewhere, a new limit is one new file,
and every limit says all that a person is told of it.
"""

from __future__ import annotations

import ast
import unittest
from collections.abc import Iterator
from pathlib import Path

from ironmargin.bench.play import run_script
from ironmargin.bench.script import read_script
from ironmargin.enduring.noise import sound_of
from ironmargin.limits.asking import all_limits
from ironmargin.limits.ledger import FAILS, LIMITS, THIN, Limit, Row, SentenceContext, View, limit
from ironmargin.limits.sites import Consequence, Place, Quantity, Site
from ironmargin.planning.answer import check_fully
from ironmargin.planning.order import running_order
from ironmargin.planning.remedies import find_remedies
from ironmargin.setup.engines import Generator
from ironmargin.verdict.report import report
from ironmargin.verdict.sentences import telling
from ironmargin.verdict.stations import stations
from tests.core.test_engine import question
from tests.shared import checked
from tests.walking import walk

ROOT = Path(__file__).resolve().parents[2]
LIMIT_NAMES = {
    "allowed",
    "breaker_a",
    "continuous_a",
    "continuous_fraction",
    "early_a",
    "high_v",
    "input_limit_a",
    "kit_limit_a",
    "limit_a",
    "limit_w",
    "low_v",
    "main_a",
    "neutral_rating_a",
    "overload_a",
    "rating_a",
    "surge_w",
    "thin_below",
    "trip_heat",
}
"""Names of what is limited. A comparison with one of them, or a share of it, is a limit."""
ELSEWHERE = {
    # where limits are, or the physics that they are made of
    "limits": "the ledger",
    "protection": "breaker curves",
    "starting": "the start engine: what opens in time",
    "setup": "figures of a file against each other",
    "supplies": "the supply's own figures",
    "path": "ratings of parts",
}
ALLOWED = {
    ("bench/settled.py", "trips_s"): "the breaker's curve over time",
    ("bench/settled.py", "heat_after"): "the breaker's curve over time",
    ("bench/clock.py", "_pass"): "the breaker's curve over time",
    ("verdict/rows.py", "breaker_rows"): "hold times of the curve, for the table",
    ("verdict/curves.py", "breaker_plot"): "the axis of a plot",
    ("verdicts/drawings/breaker.py", "draw_breaker"): "the axis of a plot",
    ("verdicts/drawings/breaker.py", "at"): "the axis of a plot",
    ("planning/changes/of_supply.py", "posts"): "which larger posts there are",
    ("verdict/cautions.py", "_of_bare_starts"): "which small breaker a caution names",
}


def modules() -> Iterator[tuple[str, ast.Module]]:
    """Every module of the core outside the ledger and its physics, and every one of the web."""
    for top in ("ironmargin", "web"):
        for file in sorted((ROOT / top).rglob("*.py")):
            inside = file.relative_to(ROOT / top)
            if "migrations" in inside.parts or (inside.parts[0] in ELSEWHERE and top != "web"):
                continue
            yield inside.as_posix(), ast.parse(file.read_text(encoding="utf-8"))


def named(node: ast.expr) -> Iterator[str]:
    """Names of limits an expression reads."""
    for part in ast.walk(node):
        name = part.attr if isinstance(part, ast.Attribute) else getattr(part, "id", "")
        if name in LIMIT_NAMES:
            yield name


def comparisons(tree: ast.Module) -> Iterator[tuple[str, int, str]]:
    """(function, line, name) of every comparison with a limit, or share of one."""

    def walk(node: ast.AST, function: str) -> Iterator[tuple[str, int, str]]:
        if isinstance(node, ast.FunctionDef):
            function = node.name
        if isinstance(node, ast.Compare):
            sides = [node.left, *node.comparators]
            none = any(isinstance(s, ast.Constant) and s.value is None for s in sides)
            if not none:
                for side in sides:
                    for name in named(side):
                        yield function, node.lineno, name
        if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div):
            for name in named(node.right):
                yield function, node.lineno, name
        for child in ast.iter_child_nodes(node):
            yield from walk(child, function)

    yield from walk(tree, "")


class Law(unittest.TestCase):
    maxDiff = None

    @walk
    def test_no_figure_is_compared_with_a_limit_outside_the_ledger(self) -> None:
        found = [
            f"{path}:{line} {function}: {name}"
            for path, tree in modules()
            for function, line, name in comparisons(tree)
            if (path, function) not in ALLOWED
        ]
        self.assertEqual(found, [], "ask ironmargin.limits instead")

    def test_the_check_sees_a_comparison_and_a_share(self) -> None:
        for source in ("x > b.rating_a", "x / c.breaker_a", "min(a, 1) < s.continuous_a"):
            tree = ast.parse(f"def f():\n    return {source}")
            self.assertEqual(len(list(comparisons(tree))), 1, source)
        self.assertEqual(list(comparisons(ast.parse("b.rating_a is None"))), [])


class NoiseAtNight(Limit):
    """A limit as one new file would hold it: the level at the nearest ear in quiet hours."""

    key = "noise-at-night"
    check = "code"
    quantity = Quantity.SOUND
    consequence = Consequence.DISTURBS
    source = "the site's own rule"
    settled = True

    def rows(self, view: View) -> Iterator[Row]:
        setup = view.case.setup
        site, supply = setup.site, setup.supply
        if site.quiet_from_h is None or not isinstance(supply, Generator) or supply.noise is None:
            return
        heard = sound_of(supply.noise.dba, supply.noise.at_m, eco=supply.eco)
        yield self.row(
            Place(Site.RULE, "noise"),
            "noise at night",
            heard.at(site.neighbour_m),
            site.limit_dba,
            unit="dBA",
        )

    def sentence(self, row: Row, context: SentenceContext) -> str:
        return f"The neighbors hear {float(row.value):.0f} dBA in quiet hours."


class ANewLimit(unittest.TestCase):
    """One new limit, registered and nothing else touched, shows everywhere."""

    def setUp(self) -> None:
        all_limits()
        limit(NoiseAtNight)
        self.addCleanup(LIMITS.pop, NoiseAtNight.key)
        loud = {"kind": "generator", "continuous_w": 3000, "starting_w": 4000}
        loud |= {"noise": {"dba": 80, "at_m": 7}}
        lamp = {"id": "lamp", "name": "Lamp", "kind": "resistive", "watts": 100}
        self.setup = question(loud, [lamp], site={"quiet_from_h": 22, "quiet_to_h": 7})

    def test_in_verdict_sentence_bar_and_report(self) -> None:
        full = check_fully(self.setup)
        self.assertEqual((full.result.verdict, full.result.weakest.where), ("fails", "noise"))
        self.assertIn("The neighbors hear 73 dBA", full.result.weakest.sentence)
        station = next(s for s in stations(full) if s.title == "Noise at night")
        self.assertEqual((station.state, station.reading), ("fails", "73.2 of 60.0 dBA"))
        self.assertEqual(station, min(stations(full), key=lambda s: s.margin))
        self.assertIn("noise at night: 73.2 dBA of 60.0 dBA", report(full))
        row = next(r for r in full.result.limits if r.limit == NoiseAtNight.key)
        self.assertEqual((row.consequence, row.source), ("disturbs", "the site's own rule"))

    def test_in_remedies_order_and_on_the_bench(self) -> None:
        found = find_remedies(self.setup)
        self.assertTrue(found.complete)
        self.assertTrue(all(r.iron_margin >= 0.0 for r in found.found))
        order = running_order(self.setup)
        self.assertFalse(order.sequence.feasible)
        self.assertIn("The neighbors hear", order.sequence.reason or "")
        script = {"format": "iron-margin/script", "version": 1, "hours": 0.1}
        script |= {"begin": {"all": "as-wanted"}}
        events = run_script(self.setup, read_script(script, self.setup)).events
        self.assertIn(("over-limit", "noise"), [(e.kind, e.where) for e in events])

    def test_without_it_nothing_is_left_of_it(self) -> None:
        LIMITS.pop(NoiseAtNight.key)
        self.assertEqual(check_fully(self.setup).result.verdict, "holds")
        limit(NoiseAtNight)


class EveryLimit(unittest.TestCase):
    def test_each_says_all_that_a_person_is_told_of_it(self) -> None:
        for one in all_limits():
            for words in (one.key, one.formula, one.source, one.consequence.words):
                self.assertTrue(words.strip(), type(one).__name__)
            self.assertIn(one.at_most, (FAILS, THIN))

    def test_each_stands_in_a_module_of_its_own_package(self) -> None:
        modules = {type(one).__module__ for one in all_limits()}
        self.assertTrue(all(m.startswith("ironmargin.limits.") for m in modules))
        self.assertGreaterEqual(len(modules), 18)

    def test_every_row_of_every_check_setup_can_be_told(self) -> None:
        """Sentence, reading, reason and subtitle of each row, failing or not, without an error."""
        seen = set()
        for number in (n for n in range(1, 23) if n != 12):
            full = checked(number)
            for row in full.rows:
                words = (
                    row.limit.sentence(row, telling(full, row)),
                    row.limit.reading(row),
                    row.limit.reason(row),
                    row.limit.subtitle(row),
                    row.limit.why(row),
                )
                self.assertTrue(all(words), row.limit.key)
                self.assertEqual(words[0][-1], ".", words[0])
                seen.add(row.limit.key)
        self.assertGreaterEqual(len(seen), 14)


if __name__ == "__main__":
    unittest.main()
