"""The quick check: a question answered without an account, from a short list of typical figures."""

from __future__ import annotations

from itertools import product

from django.contrib.auth.models import User
from django.test import TestCase
from django.urls import reverse

from ironmargin.planning.answer import check
from ironmargin.setup.reading import read_setup
from ironmargin.supplies.source import source_of
from web.supplies import typical
from web.verdicts import quick_check
from web.verdicts.models import Judgement


class QuickCheck(TestCase):
    def ask(self, **chosen: str) -> str:
        answer = self.client.get(reverse("home"), chosen)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()

    def test_it_answers_nothing_before_it_is_asked(self) -> None:
        self.assertNotIn("answer-title", self.ask())
        self.assertEqual(Judgement.objects.count(), 0)

    def test_it_says_what_the_core_says_with_and_without_a_soft_starter(self) -> None:
        verdicts = []
        for start in ("as-it-is", "soft-start"):
            chosen = {"supply": "inv-2200", "load": "ac-13k", "start": start}
            result = check(read_setup(quick_check.question(**chosen)))
            text = self.ask(**chosen)
            self.assertIn(f"state-{result.verdict}", text)
            self.assertIn(result.weakest.sentence.split(":")[0], text.replace("&#x27;", "'"))
            self.assertIn("Typical figures", text)
            verdicts.append(result.iron_margin)
        self.assertLess(verdicts[0], 0)
        self.assertGreater(verdicts[1], verdicts[0])

    def test_every_choice_is_a_sound_question(self) -> None:
        supplies = (*quick_check.SUPPLIES, *quick_check.EURO_SUPPLIES)
        loads = (*quick_check.LOADS, *quick_check.EURO_LOADS)
        self.assertEqual(len(supplies), len(typical.supplies()))  # every kind, on the front page
        for (supply, _), (load, _), (start, _) in product(supplies, loads, quick_check.STARTS):
            setup = read_setup(quick_check.question(supply, load, start))
            high = "230" in supply
            if high == ("230" in load):
                self.assertEqual(setup.rig.loads[0].id, load)
            self.assertEqual(setup.rig.service == "230", high, supply)
            self.assertEqual(setup.rig.loads[0].voltage_v == 230.0, high, supply)
            if source_of(setup.supply, setup.conditions).conductors == 2:
                self.assertEqual(setup.rig.service, "120/240", supply)

    def test_a_field_post_of_6_a_has_units_of_its_volts(self) -> None:
        text = self.ask(supply="post-230-6", load="ac-13k", start="as-it-is")
        self.assertIn("state-", text)
        self.assertRegex(text, r'value="ac-230-small"\s+selected')
        self.client.force_login(User.objects.create_user("new"))
        first = self.client.get(reverse("first-rig"))
        self.assertRegex(first.content.decode(), r'value="post-230-6"\s+selected')

    def test_what_is_not_on_the_list_is_never_computed(self) -> None:
        for bad in ("no-such", "inv-2200' OR 1", "\x00", "9" * 5000):
            self.ask(supply=bad, load=bad, start=bad)
        self.assertEqual(Judgement.objects.count(), 1)
