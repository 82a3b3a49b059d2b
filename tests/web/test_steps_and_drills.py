"""The steps' and the drills' screens."""

from __future__ import annotations

import json
import re
from typing import Any

from django.urls import reverse
from django.utils import timezone

from ironmargin.practice.drills import drill
from ironmargin.practice.facts import facts_of
from ironmargin.practice.lists import LISTS
from ironmargin.practice.next_step import after, begins, unmet
from ironmargin.practice.steps import applies, steps_of
from ironmargin.setup.reading import read_setup
from tests.web.screens import Screens
from web.drills.models import DrillAnswer, DrillCard
from web.setups.demo import documents
from web.steps.models import Checklist


class StepsScreen(Screens):
    number = 6

    def begin(self, purpose: str) -> Checklist:
        self.post("steps-begin", self.saved.pk, 302, **{"for": purpose})
        return Checklist.objects.first()

    def go(self, held: Checklist, status: int, **fields: Any) -> str:
        text = self.post("steps-go", held.pk, status, place=held.place, **fields)
        held.refresh_from_db()
        return text

    def test_a_whole_hook_up_gate_by_gate(self) -> None:
        held = self.begin("hook-up")
        self.assertEqual(len(held.steps), len(steps_of(self.setup, "hook-up")))
        passed = 0
        while not held.ended:
            gate = held.steps[held.place].get("gate")
            reading = (gate or {}).get("words") or str((gate or {}).get("low", ""))
            if gate and not gate.get("words"):
                place = held.place
                self.go(held, 422, reading="3")
                self.go(held, 422, reading="a lot")
                self.assertEqual(held.place, place)
                passed += 1
            self.go(held, 302, reading=reading)
        self.assertEqual((held.ended, held.who), ("done", "owner"))
        self.assertGreater(passed, 0)
        answer = self.client.get(reverse("steps-print", args=[held.pk]))
        self.assertTrue(answer.content.startswith(b"%PDF"))

    def test_a_wrong_tester_ends_the_list(self) -> None:
        held = self.begin("hook-up")
        while held.steps[held.place]["id"] != "tester":
            self.go(held, 302)
        text = self.go(held, 422, reading="reversed")
        self.assertEqual(held.ended, "stopped")
        self.assertIn("licensed help", text)
        self.go(held, 302, reading="correct")
        self.assertEqual(held.ended, "stopped")

    def test_a_gate_that_ends_nothing_is_passed_unmeasured_and_one_that_does_is_not(self) -> None:
        held, passed = self.begin("hook-up"), 0
        while not held.ended and held.steps[held.place]["id"] != "volts-loaded":
            gate = held.steps[held.place].get("gate") or {}
            page = self.client.get(reverse("steps-list", args=[held.pk]))
            (self.assertNotContains if gate.get("ends") or not gate else self.assertContains)(
                page, 'value="not measured"'
            )
            reading = gate.get("words", "") if gate.get("ends") else "not measured"
            passed += bool(gate) and not gate.get("ends")
            self.go(held, 302, reading=reading)
        self.assertGreater(passed, 0)
        again = self.begin("tripped")
        while not (again.steps[again.place].get("gate") or {}).get("ends"):
            self.go(again, 302)
        self.go(again, 422, reading="not measured")
        self.assertEqual(again.ended, "stopped")

    def test_the_lists_of_every_demo_setup_can_be_done(self) -> None:
        for doc in documents():
            setup = read_setup(doc)
            facts = facts_of(setup)
            for purpose in ("hook-up", "shut-down"):
                state = begins(purpose, facts)
                for line in (x for x in LISTS[purpose] if applies(x, facts)):
                    self.assertEqual(unmet(state, line), [], f"{setup.name} {purpose} {line.id}")
                    state = after(state, line)

    def test_a_list_is_printed_before_it_is_begun(self) -> None:
        url = reverse("steps-blank", args=[self.saved.pk, "tripped"])
        self.assertTrue(self.client.get(url).content.startswith(b"%PDF"))
        nothing = reverse("steps-blank", args=[self.saved.pk, "dance"])
        self.assertEqual(self.client.get(nothing).status_code, 404)
        self.client.logout()
        self.assertEqual(self.client.get(url).status_code, 302)

    def test_no_gate_is_skipped_by_address(self) -> None:
        held = self.begin("hook-up")
        self.post("steps-go", held.pk, 302, place=held.place + 5)
        held.refresh_from_db()
        self.assertEqual(held.place, 0)

    def test_it_is_taken_up_again_and_one_step_back(self) -> None:
        held = self.begin("shut-down")
        self.go(held, 302)
        self.assertEqual(self.begin("shut-down").pk, held.pk)
        self.go(held, 302, back="1")
        self.assertEqual(held.place, 0)
        self.post("steps-begin", self.saved.pk, 404, **{"for": "dance"})

    def test_reminders_are_a_calendar(self) -> None:
        raw = self.client.get(reverse("steps-calendar", args=[self.saved.pk])).content.decode()
        self.assertTrue(raw.startswith("BEGIN:VCALENDAR"))
        self.assertIn("RRULE:FREQ=DAILY", raw)


class DrillScreen(Screens):
    def test_an_answer_counts_once_and_its_theme_comes_back(self) -> None:
        one = drill(0, "path", "easy")
        said = {
            "theme": "path",
            "difficulty": "easy",
            "seed": "0",
            "call": one.call,
            "sure": "90",
            "estimate": "20",
        }
        assert one.step is not None
        answer = self.client.post(reverse("drills-answer"), said | {"step": one.step.right})
        self.assertContains(answer, "The next safe step: right.")
        self.assertContains(answer, one.sentence.replace("'", "&#x27;"))
        self.client.post(reverse("drills-answer"), said | {"call": "thin"})
        row = DrillAnswer.objects.get()
        self.assertTrue(row.right and row.step_right)
        self.assertAlmostEqual(row.brier, 0.01)
        self.assertGreater(DrillCard.objects.get(theme="path").due_at, timezone.now())
        self.assertIn("1 of 1 right", self.text_of("drills"))

    def text_of(self, name: str, *args: Any) -> str:
        answer = self.client.get(reverse(name, args=args))
        self.assertEqual(answer.status_code, 200)
        return re.sub(r"\s+", " ", answer.content.decode())

    def test_nonsense_is_an_answer_like_another_or_not_found(self) -> None:
        said = {"theme": "path", "difficulty": "easy", "seed": "0", "sure": "lots", "call": "maybe"}
        self.assertEqual(self.client.post(reverse("drills-answer"), said).status_code, 200)
        self.assertFalse(DrillAnswer.objects.get().right)
        for wrong in ({"theme": "x"}, {"difficulty": "x"}, {"exam": "../../etc"}):
            answer = self.client.post(reverse("drills-answer"), said | wrong)
            self.assertEqual(answer.status_code, 404)
        self.assertEqual(self.client.get(reverse("drills-exam", args=["zz"])).status_code, 404)

    def test_when_a_theme_comes_back_survives_being_kept(self) -> None:
        from fsrs import Card

        said = {"theme": "path", "difficulty": "easy", "seed": "0", "call": "thin", "sure": "90"}
        self.client.post(reverse("drills-answer"), said)
        held = DrillCard.objects.get()
        card = Card.from_json(json.dumps(held.card))
        self.assertEqual(json.loads(card.to_json()), held.card)
        self.assertEqual(card.due, held.due_at)

    def test_an_examination_ends_with_a_certificate(self) -> None:
        answer = self.client.post(reverse("drills-begin-exam"))
        exam = answer.url.rstrip("/").split("/")[-1]
        self.assertIn("question 1 of 20", self.text_of("drills-exam", exam))
        easy = {"theme": "path", "difficulty": "easy", "seed": "0", "call": "holds", "exam": exam}
        self.client.post(reverse("drills-answer"), easy)
        row = DrillAnswer.objects.get(exam=exam)
        self.assertNotEqual((row.theme, row.seed), ("path", 0))  # its own question, not the posted
        row.delete()
        rows = [
            DrillAnswer(
                owner=self.owner,
                theme="path",
                difficulty="easy",
                seed=n + 1,
                exam=exam,
                call="holds",
                sure=0.8,
                right=n % 2 == 0,
                brier=0.1,
            )
            for n in range(20)
        ]
        certificate = reverse("drills-certificate", args=[exam])
        self.assertEqual(self.client.get(certificate).status_code, 404)
        DrillAnswer.objects.bulk_create(rows)
        self.assertIn("10 of 20 right", self.text_of("drills-exam", exam))
        self.assertTrue(self.client.get(certificate).content.startswith(b"%PDF"))
