"""What a request may cost: checks left to the queue, searches bounded."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any
from unittest.mock import patch

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from ironmargin.setup.reading import read_setup
from ironmargin.setup.work import work_of
from tests.shared import document as check_setup
from tests.web.pages import PageCase, press_save
from web.logbook import service as logbook
from web.logbook.models import LogEntry
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.verdicts import jobs
from web.verdicts.models import Job, Share


def crowd(motors: int = 20, others: int = 20) -> dict[str, Any]:
    """A sound setup that is too large to be checked while a page waits."""
    loads: list[dict[str, Any]] = [
        {"id": f"a{n}", "name": f"Unit {n}", "kind": "air-conditioner", "running_a": 4, "lra_a": 20}
        for n in range(motors)
    ]
    loads += [
        {"id": f"l{n}", "name": f"Load {n}", "kind": "electronic", "watts": 10}
        for n in range(others)
    ]
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": "A field of units",
        "supply": {"kind": "generator", "continuous_w": 40_000, "starting_w": 50_000},
        "hookup": [],
        "rig": {"name": "field", "service": "120", "main_a": 400, "loads": loads},
        "wanted": [{"load": x["id"]} for x in loads],
    }


class Large(PageCase):
    def setUp(self) -> None:
        self.user = User.objects.create_user("a", password="x")
        self.client.force_login(self.user)
        self.large = crowd()

    def store(self) -> SavedSetup:
        return repository.store(self.user, judging.judge(self.large))

    def test_it_is_more_than_a_page_does_and_no_more_than_a_check_may(self) -> None:
        self.assertGreater(work_of(read_setup(self.large)), judging.MAX_AT_ONCE)
        usual = (check_setup(n) for n in (1, 5, 9))
        self.assertLess(max(work_of(read_setup(x)) for x in usual), judging.MAX_AT_ONCE / 10)

    def test_it_is_left_to_the_queue_and_kept_without_a_verdict(self) -> None:
        judged = judging.judge(self.large)
        self.assertIsNone(judged.checked)
        self.assertEqual([f.code for f in judged.faults], [judging.TOO_MUCH])
        self.assertTrue(self.store().stale)

    def test_its_page_waits_in_line_and_then_shows_it(self) -> None:
        saved = self.store()
        page = reverse("setup", args=[saved.pk])
        with self.settings(JOBS_INLINE=False):
            self.assertContains(self.client.get(page), "Being computed")
            job = Job.objects.get(kind="large")
            self.assertEqual(job.status, "waiting")
            job.delete()
        answer = self.client.get(page)
        self.assertContains(answer, "verdict-word")
        saved.refresh_from_db()
        self.assertFalse(saved.stale)
        polled = self.client.get(reverse("job", args=[Job.objects.get(kind="large").pk]))
        self.assertEqual(polled["HX-Trigger"], "redraw")

    def test_one_that_failed_can_be_asked_again(self) -> None:
        page = reverse("setup", args=[self.store().pk])
        with self.settings(JOBS_INLINE=False):
            self.client.get(page)
            Job.objects.update(status="failed", answer={"why": "it took too long"})
            polled = self.client.get(reverse("job", args=[Job.objects.get().pk]))
            self.assertContains(polled, "it took too long")
            self.assertContains(polled, "Compute it again")
            self.assertContains(self.client.get(page), "Being computed")

    def test_a_page_that_was_reloaded_still_waits(self) -> None:
        page = reverse("setup", args=[self.store().pk])
        with self.settings(JOBS_INLINE=False):
            self.client.get(page)
            job = Job.objects.get()
            jobs.cancel(job)  # as when the page before says last that it was left
            self.assertContains(self.client.get(reverse("job", args=[job.pk])), "Being computed")
        self.assertEqual(Job.objects.get().status, "waiting")

    def test_who_has_its_link_waits_too(self) -> None:
        link = Share.objects.create(
            setup=self.store(), expires_at=timezone.now() + timedelta(days=1)
        )
        page, stranger = reverse("shared", args=[link.token]), Client()
        with self.settings(JOBS_INLINE=False):
            waiting = stranger.get(page)
            self.assertContains(waiting, "being computed", status_code=202)
            self.assertEqual(waiting["Refresh"], "4")
            self.assertEqual(waiting["Referrer-Policy"], "no-referrer")
            stranger.get(page)
            self.assertEqual(Job.objects.get().turn, 1)
            # One that failed is begun again by its owner alone.
            Job.objects.update(status="failed", answer={"why": "it took too long"})
            failed = stranger.get(page)
            self.assertContains(failed, "Ask who shared it", status_code=202)
            self.assertNotIn("Refresh", failed)
            self.assertEqual(Job.objects.get().turn, 1)
            Job.objects.all().delete()
        self.assertContains(stranger.get(page), "verdict-word")

    def test_until_then_it_has_no_verdict_anywhere(self) -> None:
        saved = self.store()
        chip = reverse("setup-chip", args=[saved.pk])
        self.assertContains(self.client.get(chip), "open it to compute")
        form = {"document": json.dumps(repository.compose(saved)), "saved": saved.pk, "units": "si"}
        htmx = {"HX-Request": "true"}
        with self.settings(JOBS_INLINE=False):
            waiting = self.client.post(reverse("setup-preview"), form, headers=htmx)
            self.assertContains(waiting, "Being computed")
            Job.objects.all().delete()
        self.client.post(reverse("setup-preview"), form, headers=htmx)
        self.assertContains(self.client.get(chip), "iron", status_code=200)
        saved.refresh_from_db()
        self.assertFalse(saved.stale)

    def test_one_like_it_that_was_computed_tells_its_verdict(self) -> None:
        self.client.get(reverse("setup", args=[self.store().pk]))
        twin = repository.store(self.user, judging.judge(self.large | {"name": "Its twin"}))
        self.assertTrue(twin.stale)
        self.client.get(reverse("setup", args=[twin.pk]))
        twin.refresh_from_db()
        self.assertFalse(twin.stale)
        self.assertEqual(Job.objects.count(), 1)

    def test_saving_it_computes_nothing(self) -> None:
        form = {"document": json.dumps(self.large), "name": "A field", "units": "si"}
        with patch("web.setups.judging.check_fully", side_effect=AssertionError):
            self.assertEqual(press_save(self.client, form).status_code, 204)
        self.assertTrue(SavedSetup.objects.get().stale)

    def test_elsewhere_it_is_said_what_to_do(self) -> None:
        saved = self.store()
        answer = self.client.get(reverse("setup-result", args=[saved.pk]))
        self.assertEqual(answer.status_code, 422)
        self.assertIn("computed in line", answer.json()["faults"][0])
        other = repository.store(self.user, judging.judge(check_setup(1)))
        both = f"{reverse('setup-compare')}?pk={saved.pk}&pk={other.pk}"
        self.assertContains(self.client.get(both), "too large to compute with others")

    def test_what_was_checked_is_not_checked_again(self) -> None:
        document = check_setup(2) | {"name": "asked twice"}
        first = judging.judge(document, remedy=True)
        with patch("web.setups.judging.check_fully", side_effect=AssertionError):
            again = judging.judge(json.loads(json.dumps(document)), remedy=True)
        self.assertIs(again.checked, first.checked)
        with (
            self.assertRaises(AssertionError),
            patch("web.setups.judging.check_fully", side_effect=AssertionError),
        ):
            judging.judge(document | {"notes": "another question"}, remedy=True)


class Logs(PageCase):
    def test_a_log_is_weighed_once(self) -> None:
        user = User.objects.create_user("a", password="x")
        saved = repository.store(user, judging.judge(check_setup(3)))
        setup = read_setup(repository.compose(saved))
        entry = {"kind": "start", "load": "bed", "outcome": "starts"}
        row = LogEntry.objects.create(setup=saved, kind="start", document=entry)
        found, _ = logbook.told(saved, setup)
        with patch("web.logbook.service.learn", side_effect=AssertionError):
            again, lines = logbook.told(saved, setup)
            self.assertIs(again, found)
            self.assertEqual(len(lines), 1)
            LogEntry.objects.filter(pk=row.pk).update(document=entry | {"peak_a": 51.0})
            with self.assertRaises(AssertionError):
                logbook.told(saved, setup)
