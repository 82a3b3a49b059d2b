"""Cached figures, searches in the background, reports and shared links."""

from __future__ import annotations

import concurrent.futures
import json
import re
import select
import signal
import subprocess
import sys
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

from django.contrib.auth import get_user_model
from django.db import connection, transaction
from django.test import Client, TransactionTestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_setups import form_of
from web.setups import judging, repository
from web.setups.demo import documents
from web.setups.models import SavedSetup
from web.verdicts import jobs, searches, view_model
from web.verdicts.models import Job, Judgement

User = get_user_model()


class Base(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner", password="a-long-enough-word")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(document(5)))

    def search(self, kind: str = "remedies", number: int = 5) -> str:
        return self.client.post(
            reverse("search", args=[kind]), form_of(document(number))
        ).content.decode()


class Cache(Base):
    def test_nothing_is_computed_twice(self) -> None:
        view_model.view_model(document(5))
        with mock.patch.object(
            view_model, "computed", side_effect=AssertionError("computed again")
        ):
            again, faults = view_model.view_model(
                document(5) | {"name": "Another name", "notes": "and notes"}
            )
        self.assertEqual((again["verdict"], faults), ("fails", ()))
        self.assertEqual(Judgement.objects.count(), 1)

    def test_what_changes_the_verdict_is_computed(self) -> None:
        for change in (
            {},
            {"conditions": {"outdoor_c": 20}},
            {"rules": {"trip_criterion": "peak"}},
        ):
            view_model.view_model(document(5) | change)
        view_model.view_model(document(5), "roof")
        view_model.view_model(document(5), "roof", document(6))
        self.assertEqual(Judgement.objects.count(), 5)

    def test_a_motor_that_gets_going_over_a_limit_is_not_called_starting(self) -> None:
        data, _ = view_model.view_model(documents()[-1])
        self.assertEqual(data["verdict"], "fails")
        over = [s for s in data["stations"] if s["margin"] < 0 and "start" in s["subtitle"]]
        self.assertGreaterEqual(len(over), 2)
        for words in data["chances"].values():
            self.assertIn("not within the limits", words)
        for station in over:
            self.assertFalse(any("starts 100 times" in line for line in station["reasons"]))
        held, _ = view_model.view_model(document(4))
        self.assertIn("starts 100 times in 100", held["chances"]["bed"])

    def test_it_is_bounded(self) -> None:
        with (
            mock.patch.object(view_model, "MAX_STORED", 3),
            mock.patch.object(view_model, "PRUNED_AT_ONCE", 1),
            mock.patch.object(view_model, "PRUNES", ""),
        ):
            for hot in range(6):
                view_model.view_model(document(4) | {"conditions": {"outdoor_c": 20 + hot}})
        self.assertLessEqual(Judgement.objects.count(), 4)

    def test_the_page_from_the_cache_is_the_same(self) -> None:
        url = reverse("setup", args=[self.saved.pk])

        def body() -> str:
            marks = r'[A-Za-z0-9]{64}|name="once" value="\w+"|data-made="\d+"'
            return re.sub(marks, "", self.client.get(url).content.decode())

        self.assertEqual(body(), body())

    def test_figures_are_plain_and_finite(self) -> None:
        for doc in documents():
            data, _ = view_model.view_model(doc)
            json.dumps(data, allow_nan=False)
            result = judging.judge(doc).checked.result
            self.assertAlmostEqual(data["iron_margin"], result.iron_margin, places=6)


class Proofs(Base):
    def test_the_short_try_leads_into_the_log(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(5)))
        page = self.client.get(reverse("setup", args=[saved.pk]))
        self.assertContains(page, "Prove it in half a minute")
        self.assertContains(page, f"{reverse('log', args=[saved.pk])}?kind=run")


class Panels(Base):
    def test_the_diagram_the_schedule_and_their_prints(self) -> None:
        doc = document(9)
        doc["rig"]["loads"][0]["name"] = "Unit <b>&"
        saved = repository.store(self.owner, judging.judge(doc))
        page = self.client.get(reverse("panel", args=[saved.pk]))
        self.assertContains(page, "Unit &lt;b&gt;&amp;")
        self.assertContains(
            page, "NEC 440.33" if doc["rig"]["loads"][0]["kind"] != "motor" else "NEC 430.24"
        )
        svg = self.client.get(reverse("panel-svg", args=[saved.pk]))
        self.assertEqual(svg["Content-Type"], "image/svg+xml")
        ElementTree.fromstring(svg.content)
        pdf = self.client.get(reverse("panel-pdf", args=[saved.pk]))
        self.assertTrue(pdf.content.startswith(b"%PDF"))


class Searches(Base):
    def test_remedies_of_what_the_form_holds(self) -> None:
        page = self.search()
        self.assertIn("Leave Microwave oven off", page)
        job = Job.objects.get()
        self.assertEqual((job.status, job.answer["complete"]), ("done", True))
        with mock.patch.object(jobs, "_line_up", side_effect=AssertionError("searched again")):
            self.assertIn("Leave Microwave oven off", self.search())

    def test_a_remedy_becomes_a_variant(self) -> None:
        self.search()
        job = Job.objects.get()
        number = next(
            n
            for n, r in enumerate(job.answer["remedies"])
            if r["what"] == "Leave Microwave oven off"
        )
        answer = self.client.post(reverse("job-take", args=[job.pk, number]), {"name": "Mine"})
        stored = SavedSetup.objects.get(pk=int(re.search(r"/(\d+)/$", answer["HX-Redirect"])[1]))
        self.assertEqual((stored.name, stored.verdict), ("Mine: leave Microwave oven off", "holds"))
        self.assertEqual(stored.rig, self.saved.rig)
        self.assertEqual(self.client.post(reverse("job-take", args=[job.pk, 99])).status_code, 404)

    def test_what_decides(self) -> None:
        page = self.search("sensitivity", 6)
        self.assertIn("running amps of Rooftop unit on a hot day", page)
        self.assertIn("It decides", page)

    def test_faults_and_strangers(self) -> None:
        self.assertEqual(
            self.client.post(reverse("search", args=["remedies"]), {"document": "{}"}).status_code,
            204,
        )
        self.assertEqual(
            self.client.post(reverse("search", args=["nothing"]), form_of(document(5))).status_code,
            404,
        )
        self.search()
        job = Job.objects.get()
        other = Client()
        other.force_login(User.objects.create_user("other"))
        self.assertEqual(other.get(reverse("job", args=[job.pk])).status_code, 404)
        self.assertEqual(other.post(reverse("job-take", args=[job.pk, 0])).status_code, 404)

    def test_a_search_that_fails_says_why(self) -> None:
        job = Job.objects.create(
            owner=self.owner, kind="remedies", key="x", document={"format": "nothing"}
        )
        jobs.ask(self.owner, "remedies", {"format": "nothing"})
        job = Job.objects.exclude(pk=job.pk).get()
        self.assertEqual(job.status, "failed")
        self.assertIn("format", job.answer["why"] + "format")
        self.assertContains(self.client.get(reverse("job", args=[job.pk])), "failed")

    def test_a_search_for_an_account_that_was_just_deleted_is_no_error(self) -> None:
        gone = User.objects.create_user("gone")
        User.objects.filter(pk=gone.pk).delete()
        with self.assertRaises(jobs.Busy), transaction.atomic():
            jobs.ask(gone, "remedies", document(5))
        self.assertFalse(Job.objects.filter(owner_id=gone.pk).exists())

    def test_who_asks_for_many_waits_for_the_newest(self) -> None:
        with mock.patch.object(jobs, "_line_up"):
            found = [
                jobs.ask(
                    self.owner, "remedies", document(5) | {"conditions": {"outdoor_c": 20 + n}}
                )
                for n in range(9)
            ]
        live = Job.objects.filter(status="waiting")
        self.assertEqual(live.count(), jobs.MAX_LIVE)
        self.assertIn(found[-1].pk, [j.pk for j in live])

    def test_one_that_went_down_is_begun_again_once(self) -> None:
        with mock.patch.object(jobs, "_enqueue"), override_settings(JOBS_INLINE=False):
            job = jobs.ask(self.owner, "sensitivity", document(4))
            self.assertEqual((job.status, job.turn), ("waiting", 1))
            lost = {"status": "running", "beat_at": timezone.now() - timedelta(minutes=5)}
            for status, turn in (("waiting", 2), ("failed", 2)):
                Job.objects.filter(pk=job.pk).update(**lost)
                self.assertEqual((jobs.look(job).status, job.turn), (status, turn))
            self.assertIn("stopped twice", job.answer["why"])
            again = jobs.ask(self.owner, "sensitivity", document(4))
            self.assertEqual((again.status, again.turn), ("waiting", 3))

    def test_one_that_nobody_can_take_up_any_more_is_begun_again(self) -> None:
        with override_settings(JOBS_INLINE=False):
            with self.captureOnCommitCallbacks(execute=True):
                job = jobs.ask(self.owner, "sensitivity", document(4))
            Job.objects.update(beat_at=timezone.now() - timedelta(minutes=5))
            self.assertEqual((jobs.look(job).status, job.turn), ("waiting", 1))
            DBTaskResult.objects.update(status="RUNNING")  # and its worker died there
            self.assertEqual((jobs.look(job).status, job.turn), ("waiting", 2))

    def test_the_line_is_fair_and_bounded(self) -> None:
        second = User.objects.create_user("second")
        with mock.patch.object(jobs, "_enqueue"), override_settings(JOBS_INLINE=False):
            mine = [jobs.ask(self.owner, "sensitivity", document(n)) for n in (2, 4, 5)]
            theirs = jobs.ask(second, "sensitivity", document(2))
            self.assertEqual([jobs.place_of(j) for j in mine], [1, 3, 4])
            self.assertEqual(jobs.place_of(theirs), 2)
            with mock.patch.object(jobs, "MAX_WAITING", 4):
                answer = self.client.post(
                    reverse("search", args=["remedies"]), form_of(document(3))
                )
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "60"))
        self.assertContains(answer, "Busy, still working", status_code=503)

    def test_a_page_that_is_left_gives_its_searches_up(self) -> None:
        with mock.patch.object(jobs, "_enqueue"), override_settings(JOBS_INLINE=False):
            job = jobs.ask(self.owner, "sensitivity", document(4))
            stranger = Client()
            stranger.force_login(User.objects.create_user("stranger"))
            for client, late in ((stranger, False), (self.client, True)):
                client.post(reverse("jobs-left"), {"job": [job.pk, "x"]})
                job.refresh_from_db()
                old = timezone.now() - job.seen_at > jobs.LEFT - 2 * jobs.GRACE
                self.assertEqual(old, late)
            self.assertLess(timezone.now() - jobs.look(job).seen_at, jobs.GRACE)


def wait_for_ever(*given: object) -> None:
    signal.pause()


@override_settings(JOBS_INLINE=False)
class Apart(TransactionTestCase):
    """The search in a worker's child, as it runs for people."""

    def begin(self, kind: str, number: int) -> Job:
        owner, _ = User.objects.get_or_create(username="owner")
        with mock.patch.object(jobs, "_enqueue"):
            return jobs.ask(owner, kind, document(number))

    def test_it_runs_in_a_child_and_shows_progress(self) -> None:
        job = self.begin("remedies", 2)
        jobs.run_search.call(job.pk, job.turn)
        job.refresh_from_db()
        self.assertEqual(job.status, "done")
        self.assertGreater(job.todo, 0)
        self.assertTrue(job.answer["remedies"])

    def test_an_earlier_turn_finds_nothing_to_do(self) -> None:
        job = self.begin("sensitivity", 2)
        jobs.run_search.call(job.pk, job.turn - 1)
        job.refresh_from_db()
        self.assertEqual((job.status, job.answer), ("waiting", None))

    def test_what_is_cancelled_or_left_ends(self) -> None:
        for ends in (jobs.cancel, lambda job: jobs.leave(job.owner, [job.pk])):
            job = self.begin("remedies", 9)
            slow = mock.patch.object(searches, "run", side_effect=wait_for_ever)
            with slow, concurrent.futures.ThreadPoolExecutor() as pool:
                working = pool.submit(self.work, job)
                self.wait(job, lambda j: j.status == "running")
                ends(job)
                working.result(timeout=30)
            job.refresh_from_db()
            self.assertEqual((job.status, job.answer), ("cancelled", None))

    def work(self, job: Job) -> None:
        try:
            jobs.run_search.call(job.pk, job.turn)
        finally:
            connection.close()

    def wait(self, job: Job, done: Callable[[Job], bool]) -> None:
        for _ in range(600):
            job.refresh_from_db()
            if done(job):
                return
            select.select([], [], [], 0.05)  # until the worker has written more
        self.fail("the search never got that far")


class Leash(PageCase):
    def test_a_search_dies_with_its_server(self) -> None:
        code = (
            "import django, os, signal; django.setup();"
            "from web.storage.subprocesses import child_at;"
            "work = lambda told: (told.send(os.getpid()), signal.pause());"
            "child = child_at(work, max_bytes=1 << 30); told = child.__enter__();"
            "print(told.recv(), flush=True); signal.pause()"
        )
        server = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
        child = int(server.stdout.readline())
        server.kill()
        server.wait()
        server.stdout.close()

        def alive() -> bool:
            stat = Path(f"/proc/{child}/stat")
            return stat.exists() and stat.read_text().split()[2] != "Z"

        for _ in range(200):
            if not alive():
                break
            select.select([], [], [], 0.05)
        self.assertFalse(alive())


class Screen(Base):
    def test_the_start_is_compared_on_the_same_axes(self) -> None:
        answer = self.client.post(
            reverse("setup-preview"), form_of(document(3)) | {"against": "gear"}
        )
        self.assertContains(answer, 'class="amps over"')
        other = repository.store(self.owner, judging.judge(document(4)))
        answer = self.client.post(
            reverse("setup-preview"), form_of(document(3)) | {"against": str(other.pk)}
        )
        self.assertContains(answer, 'class="volts over"')
        self.assertNotContains(
            self.client.post(
                reverse("setup-preview"), form_of(document(3)) | {"against": "999999"}
            ),
            "amps over",
        )

    def test_both_schools_stand_by_the_breaker_plot(self) -> None:
        page = self.client.get(reverse("setup", args=[self.saved.pk]))
        self.assertContains(page, "Never over its rating:")
        self.assertContains(page, "over the 30 A rating")

    def test_moving_a_load_to_the_other_leg(self) -> None:
        data, _ = view_model.view_model(document(7))
        case = examine(read_setup(document(7)), trials=0)
        self.assertTrue(data["moves"])
        best = data["moves"][0]
        self.assertAlmostEqual(
            best["l1_a"] + best["l2_a"],
            case.result.legs["L1"].a + case.result.legs["L2"].a,
            delta=1.0,
        )
