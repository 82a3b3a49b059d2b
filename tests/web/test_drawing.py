"""The drawings agree with the figures they are made from."""

from __future__ import annotations

import json
import re

import numpy as np
from django.template import Context, Template
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from tests.shared import checked
from web.design.drawing import Axis, area, bar, half_thickness, line, nice_ticks
from web.design.templatetags.figures import place
from web.running_order.drawing import draw_stairs
from web.verdicts.drawings.page import draw_legs, draw_plot


def heights(path: str) -> list[float]:
    return [float(y) for _, y in re.findall(r"([-\d.]+) ([-\d.]+)", path)]


class Bars(SimpleTestCase):
    def test_thickness_grows_with_the_margin(self) -> None:
        sizes = [half_thickness(m / 100, 30) for m in range(-20, 100, 5)]
        self.assertEqual(sizes, sorted(sizes))
        self.assertEqual(half_thickness(-1, 30), half_thickness(0, 30))

    def test_a_failing_station_breaks_the_bar(self) -> None:
        sound = bar([("a", 0.4, "holds"), ("b", 0.1, "thin"), ("c", 0.6, "holds")], 300, 60)
        self.assertEqual((len(sound.pieces), [m.state for m in sound.marks]), (1, ["thin"]))
        broken = bar(
            [("a", 0.4, "holds"), ("b", -0.1, "fails"), ("c", 0.6, "holds"), ("d", -0.2, "fails")],
            400,
            60,
        )
        self.assertEqual(len(broken.pieces), 3)
        for piece in broken.pieces:
            self.assertTrue(all(0 <= y <= 60 for y in heights(piece)))

    def test_upright_is_the_same_turned(self) -> None:
        rows = [("a", 0.4, "holds"), ("b", -0.1, "fails")]
        lying, standing = bar(rows, 300, 60), bar(rows, 300, 60, upright=True)
        turned = re.sub(r"([-\d.]+) ([-\d.]+)", r"\2 \1", lying.pieces[0])
        self.assertEqual(turned, standing.pieces[0])
        self.assertEqual((standing.width, standing.height), (60, 300))

    def test_nothing_to_draw(self) -> None:
        self.assertEqual(bar([], 300, 60).pieces, ())


class Plots(SimpleTestCase):
    def test_ticks_are_round_and_inside(self) -> None:
        for low, high in ((0, 37), (-0.3, 0.83), (0, 140), (0, 1e-3)):
            ticks = nice_ticks(low, high)
            self.assertTrue(2 <= len(ticks) <= 8, ticks)
            self.assertTrue(all(low - 1e-9 <= t <= high + 1e-9 for t in ticks))

    def test_lines_drop_only_what_lies_straight(self) -> None:
        x, y = Axis(0, 4, 0, 400), Axis(0, 10, 100, 0)
        self.assertEqual(line([0, 1, 2, 3, 4], [5, 5, 5, 5, 0], x, y), "M0 50L300 50L400 100")
        self.assertTrue(area([0, 1], [1, 1], [2, 2], x, y).endswith("Z"))

    @given(st.lists(st.tuples(st.floats(0, 4), st.integers(0, 10)), min_size=1, max_size=40))
    def test_every_corner_of_a_line_is_kept(self, points: list[tuple[float, int]]) -> None:
        """What is left out lies on the straight run between what is kept."""
        x, y = Axis(0, 4, 0, 400), Axis(0, 10, 100, 0)
        xs, ys = sorted(a for a, _ in points), [b for _, b in points]
        drawn = [tuple(map(float, p.split())) for p in line(xs, ys, x, y)[1:].split("L")]
        every = [(round(x.at(a), 1), round(y.at(b), 1)) for a, b in zip(xs, ys, strict=True)]
        self.assertEqual((drawn[0], drawn[-1]), (every[0], every[-1]))
        self.assertLessEqual(set(drawn), set(every))
        corners = [
            here
            for before, here, after in zip(every, every[1:], every[2:], strict=False)
            if (here[1] - before[1]) * (after[0] - here[0])
            != (after[1] - here[1]) * (here[0] - before[0])
        ]
        self.assertEqual(drawn, [every[0], *corners, *every[-1:]] if len(every) > 1 else every)

    def test_an_axis_maps_a_figure_and_an_array_alike(self) -> None:
        x = Axis(0.0, 4.0, 44.0, 576.0)
        values = [0.0, 1.3, 4.0, 5.0]
        self.assertEqual(x.at(np.array(values)).tolist(), [x.at(v) for v in values])

    def test_a_name_read_aloud_stands_on_one_line(self) -> None:
        page = Template("{% filter one_line %}{{ name }}\n   draws\n\t{{ amps }} A{% endfilter %}")
        words = page.render(Context({"name": "<b>Kiln</b> & co", "amps": 9.5}))
        self.assertEqual(words, "&lt;b&gt;Kiln&lt;/b&gt; &amp; co draws 9.5 A")

    def test_a_place_has_one_decimal_and_nothing_is_nowhere(self) -> None:
        for value, words in ((1, "1.0"), (12.345, "12.3"), (-0.27, "-0.3"), (None, "")):
            self.assertEqual(place(value), words)

    def test_the_curve_dips_where_the_core_says(self) -> None:
        full = checked(1)
        plot = draw_plot(full, "roof")
        rows = json.loads(plot.series)
        self.assertAlmostEqual(min(r[3] for r in rows), full.result.starts[0].lowest_v, delta=1.5)
        volts = Axis(0.0, 1.12 * 120, 278, 206)
        self.assertAlmostEqual(
            max(heights(plot.volts)), volts.at(full.result.starts[0].lowest_v), delta=0.5
        )
        self.assertIsNone(draw_plot(checked(11), None))

    def test_the_legs_add_up(self) -> None:
        for number in (5, 7, 8):
            full = checked(number)
            legs = draw_legs(full)
            for column in legs.columns:
                ours = [
                    b
                    for b in legs.blocks
                    if legs.single or b.width > 148 or column.x <= b.x < column.x + column.width
                ]
                self.assertAlmostEqual(
                    sum(b.amps for b in ours), column.amps, delta=0.08 * column.amps
                )
            self.assertEqual(len(legs.columns), 1 if number == 5 else 2)
            drawn = re.findall(r"M(\S+) (\S+)h(\S+)v(\S+)h-\S+z", legs.sure + legs.guess)
            self.assertEqual(
                sorted(tuple(float(x) for x in box) for box in drawn),
                sorted(
                    (round(b.x, 1), round(b.y, 1), round(b.width, 1), round(b.height, 1))
                    for b in legs.blocks
                ),
            )
            self.assertEqual(legs.guess.count("M"), sum(not b.sure for b in legs.blocks))
            for b in legs.blocks:
                self.assertIn(f"{b.name} {b.amps:.1f} A, {b.provenance}", legs.label)
            self.assertIn(f"neutral {legs.neutral_a:.1f} A", legs.label)


class OrderStairs(SimpleTestCase):
    def steps(self, *amps: float) -> list[dict[str, object]]:
        return [{"expect_a": a, "state": "holds"} for a in amps]

    def test_words_stay_clear_of_the_limit(self) -> None:
        stairs = draw_stairs(self.steps(4.0, 23.0, 26.0), 24.0)
        assert stairs is not None
        assert stairs.limit_y is not None
        for stair in stairs.steps:
            base = stair.y + stair.words_dy
            crossed = base - 11 < stairs.limit_y < base
            self.assertFalse(crossed, f"{stair.amps} A")
        self.assertGreater(stairs.steps[1].words_dy, 0.0)  # just under the line: inside the stair

    def test_a_narrow_stair_leaves_its_unit_out(self) -> None:
        for steps, unit in ((self.steps(1, 2), " A"), (self.steps(*range(12)), "")):
            stairs = draw_stairs(steps, 24.0)
            assert stairs is not None
            self.assertEqual({s.unit for s in stairs.steps}, {unit})
        self.assertIsNone(draw_stairs([], 24.0))
