"""The reach of a setup: the map, its limits and sizes, a point made a variant, and who may see
them.
"""

from __future__ import annotations

import json

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from ironmargin.reaching.reach import most_telling
from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.pages import PageCase
from web.reach.drawing import SIZES_HIGH, SIZES_WIDE, draw_map, draw_sizes, shown
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.supplies.models import Supply
from web.verdicts.models import Job


def quick(number: int) -> dict:
    """A check setup that is computed without trials."""
    return document(number) | {"rules": {"trials": 0}}


class Reach(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(quick(1)))

    def page(self, **requested: str) -> str:
        answer = self.client.get(reverse("reach", args=[self.saved.pk]), requested)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()

    def test_the_page_says_what_the_core_says(self) -> None:
        text = self.page(x="outdoor_c", y="altitude_m")
        answer = Job.objects.get(kind="reach").answer
        states = [state for line in answer["verdict"] for state in line]
        for state in ("holds", "thin", "fails"):
            self.assertEqual(text.count(f"cell-{state}"), states.count(state), state)
        limit = answer["limits"]["altitude_m"]["holds"]["high"]["value"]
        self.assertIn(f"holds up to {shown('altitude_m', limit, 'us')}", text)
        smallest = Job.objects.get(kind="size").answer["smallest"]
        sizes = text[text.index("size-title") :]
        self.assertEqual(sizes.count(": <strong>"), len(smallest))
        for again in (sizes, self.page(x="outdoor_c", y="altitude_m")):  # and from what is kept
            self.assertIn("Start gear for Rooftop unit", again)

    def test_while_figures_change_sizes_are_asked_for_after_the_answer(self) -> None:
        document = json.dumps(repository.compose(self.saved) | {"conditions": {"outdoor_c": 31}})
        fields = {"document": document, "units": "si", "saved": str(self.saved.pk), "version": "1"}
        answer = self.client.post(reverse("setup-preview"), fields | {"station": "reach"})
        url = reverse("reach-sizes", args=[self.saved.pk])
        self.assertContains(answer, f'hx-get="{url}"')
        self.assertFalse(Job.objects.filter(kind="size").exists())
        self.assertContains(self.client.get(url), "Start gear for Rooftop unit")
        requested = Job.objects.get(kind="size").document
        self.assertEqual(requested["conditions"]["outdoor_c"], 31)  # as it is being changed

    def test_other_axes_and_nonsense(self) -> None:
        self.assertIn("Length of the longest cord across", self.page(x="cord_m", y="base_load_w"))
        self.assertIn("Map of verdicts", self.page(x="nothing", y="outdoor_c"))
        self.assertNotIn('value="shore_v"', self.page())

    def test_the_day_is_drawn_across_the_heat(self) -> None:
        self.assertNotIn("Dashed lines", self.page(x="outdoor_c", y="altitude_m"))
        self.client.cookies["units"] = "us"
        heat = {"x": "outdoor_c", "y": "altitude_m"}
        text = self.page(**heat, cool="59", hot="95")
        self.assertIn("Dashed lines", text)
        self.assertIn('value="95"', text)
        drawn = draw_map(Job.objects.get(kind="reach").answer, {}, {}, "si", (15.0, 35.0)).day
        xs = [float(part.split()[0]) for part in drawn.split("M")[1:]]
        self.assertAlmostEqual(xs[1] - xs[0], 20.0 / 2.5 * 16.0, delta=0.2)  # 2.5 °C a column
        self.assertIn("Dashed lines", self.page(**heat))
        self.assertNotIn("Dashed lines", self.page(**heat, cool="hot", hot=""))

    def test_a_point_becomes_a_variant(self) -> None:
        self.page(x="outdoor_c", y="altitude_m")
        job = Job.objects.get(kind="reach")
        url = reverse("reach-variant", args=[self.saved.pk])
        self.client.post(url, {"job": job.pk, "row": 15, "column": 20})
        made = SavedSetup.objects.get(name__contains="outdoor heat")
        conditions = repository.compose(made)["conditions"]
        self.assertEqual((conditions["outdoor_c"], conditions["altitude_m"]), (50, 3000))
        self.assertEqual(made.verdict, job.answer["verdict"][15][20])
        for row, column, status in ((99, 0, 404), (0, 99, 404)):
            answer = self.client.post(url, {"job": job.pk, "row": row, "column": column})
            self.assertEqual(answer.status_code, status)

    def test_the_map_as_csv(self) -> None:
        self.page(x="outdoor_c", y="altitude_m")
        job = Job.objects.get(kind="reach")
        answer = self.client.get(reverse("reach-csv", args=[self.saved.pk]), {"job": job.pk})
        self.assertEqual(len(answer.content.decode().splitlines()), 1 + 21 * 16)

    def test_its_search_is_none_of_the_verdicts(self) -> None:
        self.page()
        for job in Job.objects.all():
            self.assertEqual(self.client.get(reverse("job", args=[job.pk])).status_code, 404)
            self.assertEqual(
                self.client.post(reverse("job-cancel", args=[job.pk])).status_code, 404
            )

    def test_nobody_else_sees_it(self) -> None:
        self.page()
        job = Job.objects.get(kind="reach")
        other = Client()
        other.force_login(User.objects.create_user("other"))
        theirs = SavedSetup.objects.get(pk=self.saved.pk)
        for name, args, requested in (
            ("reach", [theirs.pk], {}),
            ("reach-job", [theirs.pk, job.pk], {}),
            ("reach-csv", [theirs.pk], {"job": job.pk}),
        ):
            self.assertEqual(other.get(reverse(name, args=args), requested).status_code, 404, name)
        answer = other.post(reverse("reach-variant", args=[theirs.pk]), {"job": job.pk})
        self.assertEqual(answer.status_code, 404)

    def test_the_map_is_of_the_figures_on_which_the_answer_hangs(self) -> None:
        self.page()
        first = Job.objects.get(kind="reach").answer
        states = {state for line in first["verdict"] for state in line}
        self.assertGreater(len(states - {"none"}), 1, "a map of one colour says nothing")
        self.assertEqual(first["fix"], "")

    def test_where_nothing_mends_it_the_map_is_of_its_first_fix(self) -> None:
        crowded = quick(5)
        saved = repository.store(self.owner, judging.judge(crowded))
        spans = {"outdoor_c": (0.0, 50.0), "altitude_m": (0.0, 3000.0)}
        self.assertFalse(any(turns for _, turns in most_telling(read_setup(crowded), spans)))
        text = self.client.get(reverse("reach", args=[saved.pk])).content.decode()
        found = Job.objects.get(kind="reach").answer
        self.assertIn(found["fix"], text)
        self.assertNotEqual(read_setup(found["setup"]).wanted, read_setup(crowded).wanted)

    def test_it_waits_in_line_in_words(self) -> None:
        self.page()
        job = Job.objects.get(kind="size")
        Job.objects.filter(pk=job.pk).update(status="waiting")
        answer = self.client.get(reverse("reach-job", args=[self.saved.pk, job.pk]))
        self.assertContains(answer, "Trying every size with every aid")
        Job.objects.filter(pk=job.pk).update(status="failed", answer={"why": "it broke"})
        answer = self.client.get(reverse("reach-job", args=[self.saved.pk, job.pk]))
        self.assertContains(answer, "it broke")


class Drawing(PageCase):
    def test_figures_are_rounded_to_what_can_be_read(self) -> None:
        self.assertEqual(shown("altitude_m", 1524.0, "us"), "5,000 ft")
        self.assertEqual(shown("outdoor_c", 35.0, "us"), "95 °F")
        self.assertEqual(shown("cord_m", 101.3, "si"), "101 m")
        self.assertEqual(shown("supply_strength", 0.776, "si"), "0.78 ×")

    def test_where_the_setup_stands_is_framed_once(self) -> None:
        answer = {
            "x": {"field": "outdoor_c", "values": [0.0, 20.0, 40.0]},
            "y": {"field": "altitude_m", "values": [0.0, 1000.0]},
            "verdict": [["holds", "thin", "none"], ["holds", "fails", "fails"]],
            "margin": [[0.3, 0.1, -1.0], [0.2, -0.1, -0.2]],
            "gives_first": [[{"check": "start", "where": "a"}] * 3] * 2,
        }
        drawn = draw_map(answer, {"a": "Unit"}, {"outdoor_c": 22.0, "altitude_m": 900.0}, "si")
        here = [(c.row, c.column) for c in drawn.cells if c.here]
        self.assertEqual(here, [(1, 1)])
        self.assertEqual((drawn.row, drawn.column), (1, 1))
        self.assertIn(
            "fails, −10 %; Unit gives first", next(c for c in drawn.cells if c.here).words
        )
        self.assertIn("make no setup", drawn.cells[2].words)
        self.assertEqual(drawn.walls.count("M"), 5)


class SizesDrawn(PageCase):
    def row(self, mass_kg: float | None, margin: float, verdict: str) -> dict:
        words = {"name": "set", "fuel": "gasoline", "aid_words": "as it is"}
        return words | {"mass_kg": mass_kg, "iron_margin": margin, "verdict": verdict}

    def test_mass_goes_across_and_margin_upwards(self) -> None:
        drawn = draw_sizes(
            [
                self.row(10.0, 0.25, "holds"),
                self.row(20.0, -0.2, "fails"),
                self.row(40.0, 3.0, "holds"),
                self.row(None, 0.1, "thin"),
            ]
        )
        light, weak, heavy = drawn.dots
        self.assertAlmostEqual(light.x / heavy.x, 10 / 40, places=2)
        self.assertLess(heavy.x, SIZES_WIDE)
        self.assertEqual((light.y, heavy.y), (SIZES_HIGH / 2, 0.0))
        self.assertTrue(light.y < drawn.zero < weak.y)
        self.assertEqual(len({light.shape, weak.shape}), 2)
        self.assertIsNone(draw_sizes([self.row(10.0, 0.1, "holds")]))

    def test_the_page_draws_them(self) -> None:
        owner = User.objects.create_user("owner")
        self.client.force_login(owner)
        saved = repository.store(owner, judging.judge(quick(4)))
        text = self.client.get(reverse("reach", args=[saved.pk])).content.decode()
        self.assertIn("size-holds", text)
        self.assertIn("the best are top left", text)
        self.assertIn(" lb</", text)
        self.client.cookies["units"] = "si"
        text = self.client.get(reverse("reach", args=[saved.pk])).content.decode()
        self.assertIn(" kg</", text)
        self.assertNotIn(" lb</", text)


class Grids(PageCase):
    """Places by wants, and all setups at once."""

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.client.cookies["units"] = "si"
        for number in (1, 2, 4):
            repository.store(self.owner, judging.judge(quick(number)))
        self.saved = SavedSetup.objects.order_by("id")[0]

    def test_the_grid_of_places_is_the_cores(self) -> None:
        answer = self.client.get(reverse("reach-places", args=[self.saved.pk]))
        job = Job.objects.get(kind="places")
        self.assertEqual(job.status, "done", job.answer)
        for name, verdicts in zip(job.answer["places"], job.answer["verdict"], strict=True):
            self.assertContains(answer, name)
            for verdict in verdicts:
                self.assertContains(answer, verdict)

    def test_a_place_is_reached_the_way_a_setup_of_the_rig_reaches_it(self) -> None:
        other = repository.compose(self.saved) | {"name": "The same, on a long cord"}
        other["supply"] = dict(other["supply"], kit_limit_a=29)
        cord = {"kind": "cord", "name": "long cord", "awg": 10, "length_m": 44, "rating_a": 30}
        other["hookup"] = [cord]
        judged = judging.judge(other)
        self.assertFalse(judged.faults)
        far = repository.store(self.owner, judged)
        supply = Supply.objects.create(owner=self.owner, name="Far", document=other["supply"])
        rig = Rig.objects.create(owner=self.owner, name="Shared", document=other["rig"])
        for saved, on in ((far, supply), (self.saved, None)):
            whole = repository.compose(saved)
            own = repository.own_part(whole, rig, on)
            SavedSetup.objects.filter(pk=saved.pk).update(rig=rig, supply=on, document=own)
        self.client.get(reverse("reach-places", args=[self.saved.pk]))
        requested = Job.objects.get(kind="places").tasks
        ways = {place["name"]: place.get("hookup") for place in requested["places"]}
        self.assertEqual(ways["Far"], [cord])

    def test_a_supply_of_another_world_is_no_place_and_a_failed_search_stays_failed(self) -> None:
        supply = {"kind": "shore", "breaker_a": 16, "voltage_v": 230}
        Supply.objects.create(owner=self.owner, name="Field post", document=supply)
        url = reverse("reach-places", args=[self.saved.pk])
        self.assertNotContains(self.client.get(url), "Field post")
        job = Job.objects.get(kind="places")
        Job.objects.filter(pk=job.pk).update(status="failed", answer={"why": "so"})
        turn = job.turn
        for _ in range(3):
            self.assertContains(self.client.get(url, {"job": job.pk}), "failed")
        job.refresh_from_db()
        self.assertEqual(job.turn, turn)

    def test_a_sweep_says_who_turned_and_is_the_checks_of_each(self) -> None:
        pks = [s.pk for s in SavedSetup.objects.all()]
        begin = reverse("reach-begin-clients")
        answer = self.client.post(begin, {"pk": pks, "outdoor_c": "55"})
        job = Job.objects.get(kind="sweep")
        self.assertRedirects(answer, reverse("reach-sweep", args=[job.pk]))
        rows = {r["pk"]: r for r in job.answer["rows"]}
        for saved in SavedSetup.objects.all():
            document = repository.compose(saved)
            was = judging.judge(document).checked.result
            document["conditions"] = dict(document.get("conditions", {})) | {"outdoor_c": 55}
            now = judging.judge(document).checked.result
            row = rows[saved.pk]
            self.assertEqual((row["before"], row["after"]), (was.verdict, now.verdict))
            self.assertAlmostEqual(row["after_margin"], now.iron_margin, places=3)
        page = self.client.get(answer.url)
        self.assertContains(page, "turn thin or")
        csv = self.client.get(reverse("reach-sweep-csv", args=[job.pk])).content.decode()
        self.assertEqual(len(csv.splitlines()), 1 + len(pks))

    def test_nothing_ticked_or_nonsense_is_said(self) -> None:
        begin = reverse("reach-begin-clients")
        for posted in (
            {},
            {"pk": "x", "outdoor_c": "40"},
            {"pk": self.saved.pk, "outdoor_c": "hot"},
        ):
            self.assertContains(
                self.client.post(begin, posted), "Check at least one", status_code=422
            )

    def test_a_sweep_is_its_owners_and_can_be_stopped(self) -> None:
        self.client.post(reverse("reach-begin-clients"), {"pk": self.saved.pk, "outdoor_c": "40"})
        job = Job.objects.get(kind="sweep")
        other = Client()
        other.force_login(User.objects.create_user("other"))
        for name in ("reach-sweep", "reach-sweep-csv"):
            self.assertEqual(other.get(reverse(name, args=[job.pk])).status_code, 404)
        self.assertEqual(other.post(reverse("reach-sweep-cancel", args=[job.pk])).status_code, 404)
        self.assertEqual(
            self.client.post(reverse("reach-sweep-cancel", args=[job.pk])).status_code, 302
        )

    def test_the_report_says_how_far_it_holds(self) -> None:
        from web.verdicts.report import up_to

        words = up_to(repository.compose(self.saved))
        self.assertRegex(words, r"olds up to [\d,]+ °F \([\d,]+ °C\)")
        failing = repository.compose(SavedSetup.objects.get(verdict="fails"))
        self.assertEqual(up_to(failing), "")
