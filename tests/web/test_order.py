"""The running order's pages: sets, trades, steps and readings, the day, the card."""

from __future__ import annotations

import io
import re

from django.contrib.auth import get_user_model
from django.urls import reverse
from icalendar import Calendar

from ironmargin.planning.order import running_order
from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.pages import PageCase
from web.running_order.card import card_pdf
from web.running_order.models import DayTasks, StepReading
from web.setups import judging, repository
from web.verdicts.models import Job

User = get_user_model()


class Base(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner", password="a-long-enough-word")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(document(7)))
        self.tripping = repository.store(self.owner, judging.judge(document(5)))

    def day(self, **more: str) -> dict[str, str]:
        """A posted day: breakfast and supper in the microwave, the roof unit in the afternoon."""
        tasks = {
            "task0.name": "Breakfast",
            "task0.load": "micro",
            "task0.minutes": "15",
            "task0.earliest": "07:00",
            "task0.latest": "10:00",
            "task1.name": "Lunch",
            "task1.load": "micro",
            "task1.minutes": "15",
            "task1.earliest": "13:00",
            "task1.latest": "16:00",
            "run0.load": "roof",
            "run0.from": "12:00",
            "run0.to": "20:00",
        }
        held = DayTasks.objects.filter(setup=self.tripping).first()
        return tasks | {"day_version": str(held.version if held else 1)} | more

    def plan(self, **more: str):
        return self.client.post(reverse("order-day", args=[self.tripping.pk]), self.day(**more))


class Order(Base):
    def test_the_page_says_what_the_core_says(self) -> None:
        page = self.client.get(reverse("order", args=[self.saved.pk]))
        order = running_order(read_setup(document(7)))
        self.assertEqual(page.content.count(b'data-step="'), len(order.sequence.steps))
        for step in order.sequence.steps:
            self.assertContains(page, f'data-expect-a="{step.expect_a:.1f}"')
        self.assertContains(page, "Bedroom unit</strong>: Salon unit off")
        self.assertContains(page, "Never run")
        self.assertEqual(self.client.session["setup"], self.saved.pk)

    def test_no_order_and_why(self) -> None:
        page = self.client.get(reverse("order", args=[self.tripping.pk]))
        self.assertContains(page, "is overloaded")
        self.assertNotContains(page, "Walk me through it")

    def test_readings_are_kept_and_a_trip_is_explained(self) -> None:
        url = reverse("order-reading", args=[self.saved.pk])
        self.assertContains(
            self.client.post(
                url, {"load": "r1", "mode": "high-cool", "expect_a": "14.2", "read_a": "15,1"}
            ),
            "15.1 A",
        )
        answer = self.client.post(url, {"load": "r1", "expect_a": "14.2", "tripped": "1"})
        self.assertContains(answer, "It tripped at Salon unit")
        self.assertContains(answer, "three to five minutes")
        for bad in (
            {"load": "r1", "read_a": "x"},
            {"load": "nosuch", "read_a": "5"},
            {"load": "r1", "read_a": "nan"},
            {"load": "r1", "read_a": "1e9"},
        ):
            self.assertEqual(self.client.post(url, bad).status_code, 422, bad)
        self.assertEqual(StepReading.objects.filter(setup=self.saved).count(), 2)
        self.assertContains(self.client.get(reverse("order", args=[self.saved.pk])), "tripped")

    def test_planning_again(self) -> None:
        again = self.client.post(
            reverse("order-again", args=[self.tripping.pk]), {"without": "micro"}
        )
        self.assertContains(again, "Planned again without Microwave oven")
        self.assertContains(again, "Walk me through it")
        self.assertContains(
            self.client.post(reverse("order-again", args=[self.tripping.pk])),
            "Nothing is left to plan",
            status_code=422,
        )
        pair = repository.store(self.owner, judging.judge(document(1)))
        self.assertContains(
            self.client.post(reverse("order-again", args=[pair.pk])), "a tenth weaker"
        )

    def test_a_setup_with_a_fault_says_what_to_mend(self) -> None:
        rig = self.saved.rig
        rig.document = rig.document | {"service": "230"}
        rig.save()
        page = self.client.get(reverse("order", args=[self.saved.pk]))
        self.assertContains(page, "must be corrected first")

    def test_a_deleted_rig_leaves_its_setups_their_figures(self) -> None:
        self.client.post(reverse("delete", args=["rig", self.saved.rig_id]))
        page = self.client.get(reverse("setup", args=[self.saved.pk]))
        self.assertContains(page, "figures entered here")
        self.assertContains(page, "Salon unit")

    def test_an_empty_rig(self) -> None:
        doc = document(2)
        doc["rig"]["loads"] = [doc["rig"]["loads"][1]]
        doc["wanted"] = []
        empty = repository.store(self.owner, judging.judge(doc))
        self.assertContains(
            self.client.get(reverse("order", args=[empty.pk])), "no loads to switch"
        )


class Day(Base):
    def test_plan_lock_and_what_it_breaks(self) -> None:
        page = self.plan()
        self.assertContains(page, "1 of 2 tasks placed, proven best")
        self.assertContains(page, "Rooftop unit on a hot day runs at every time it could")
        self.assertContains(page, 'aria-label="Breakfast, 07:00 to 07:15"')
        moved = self.plan(**{"task0.start": "08:30"})
        self.assertContains(moved, 'aria-label="Breakfast, 08:30 to 08:45, locked"')
        broken = self.plan(**{"task0.start": "08:30", "task1.start": "13:00"})
        self.assertContains(broken, "cannot be together with", status_code=422)
        self.assertContains(broken, "the plan below is the previous one", status_code=422)

    def test_faults_beside_what_was_typed(self) -> None:
        page = self.plan(
            **{
                "task0.minutes": "soon",
                "task0.latest": "25:00",
                "generator_hours": "8-",
                "max_generator_h": "x",
            }
        )
        for words in (
            "Task 1, minutes: must be a number",
            "Task 1, done by: must be a time of the day",
            "Generator may run, to: must be given",
            "Generator may run, at most: must be a number",
        ):
            self.assertContains(page, words, status_code=422)
        self.assertContains(page, 'value="soon"', status_code=422)
        self.assertNotContains(page, "tasks[0]", status_code=422)
        self.assertIsNone(DayTasks.objects.get(setup=self.tripping).plan)
        self.assertContains(
            self.client.post(reverse("order-day", args=[self.tripping.pk]), {}),
            "at least one task",
            status_code=422,
        )

    def test_times_are_typed_as_they_are_said(self) -> None:
        self.plan(
            **{
                "task0.earliest": "7 am",
                "task0.latest": "noon",
                "generator_hours": "8-12, 5-9 pm",
                "quiet": "10 pm to 7",
                "run0.load": "",
                "max_generator_h": "4",
            }
        )
        tasks = DayTasks.objects.get(setup=self.tripping).tasks
        self.assertEqual((tasks["tasks"][0]["earliest"], tasks["tasks"][0]["latest"]),
                         ("07:00", "12:00"))  # fmt: skip
        self.assertEqual(
            tasks["generator_hours"],
            [{"from": "08:00", "to": "12:00"}, {"from": "17:00", "to": "21:00"}],
        )
        self.assertEqual(tasks["quiet"], [{"from": "22:00", "to": "07:00"}])

    def test_of_two_tabs_the_second_is_told_and_loses_nothing(self) -> None:
        self.client.get(reverse("order", args=[self.tripping.pk]))
        first, second = self.day(), self.day(**{"task0.name": "Brunch"})
        url = reverse("order-day", args=[self.tripping.pk])
        self.assertEqual(self.client.post(url, first).status_code, 200)
        late = self.client.post(url, second)
        self.assertContains(late, "planned from another page meanwhile: Breakfast", status_code=409)
        self.assertContains(late, 'value="Brunch"', status_code=409)  # what was typed stays
        held = DayTasks.objects.get(setup=self.tripping)
        self.assertEqual(held.tasks["tasks"][0]["name"], "Breakfast")
        again = second | {"day_version": str(held.version)}
        self.assertEqual(self.client.post(url, again).status_code, 200)
        held.refresh_from_db()
        self.assertEqual(held.tasks["tasks"][0]["name"], "Brunch")

    def test_out_as_calendar_and_csv(self) -> None:
        self.assertEqual(
            self.client.get(reverse("order-day-ics", args=[self.tripping.pk])).status_code, 404
        )
        self.plan()
        raw = self.client.get(
            reverse("order-day-ics", args=[self.tripping.pk]), {"date": "2026-12-01"}
        ).content
        (event,) = Calendar.from_ical(raw).walk("VEVENT")
        self.assertEqual(
            (str(event["summary"]), event["dtstart"].dt.isoformat()),
            ("Breakfast", "2026-12-01T07:00:00"),
        )
        text = self.client.get(reverse("order-day-csv", args=[self.tripping.pk])).content.decode()
        self.assertEqual(len(text.splitlines()), 97)
        self.assertIn("07:00,", text)

    def test_taking_out_and_adding_tasks(self) -> None:
        self.plan(**{"task1.gone": "1", "task2.load": "fridge", "task2.minutes": "30"})
        tasks = DayTasks.objects.get(setup=self.tripping).tasks["tasks"]
        self.assertEqual([(t["id"], t["load"]) for t in tasks], [("t1", "micro"), ("t2", "fridge")])

    def test_the_first_tasks_make_sense(self) -> None:
        page = self.client.get(reverse("order", args=[self.saved.pk]))
        self.assertContains(page, "task0.load")


class Card(Base):
    def test_every_size_is_one_page_and_the_same_bytes(self) -> None:
        self.client.get(reverse("order", args=[self.saved.pk]))
        answer = Job.objects.get(kind="order").answer
        for size in ("a6", "a5", "letter"):
            one, two = (card_pdf("Card", document(7), answer, size) for _ in range(2))
            self.assertEqual(one, two)
            self.assertEqual(len(re.findall(rb"/Type /Page\b", one)) or 1, 1)
            got = self.client.get(reverse("order-card", args=[self.saved.pk, size]))
            self.assertEqual(got["Content-Type"], "application/pdf")
            self.assertTrue(io.BytesIO(got.content).read(4) == b"%PDF")
        self.assertEqual(
            self.client.get(reverse("order-card", args=[self.saved.pk, "a0"])).status_code, 404
        )
