"""Large accounts in and out: in line, whole or not at all, and nobody else's."""

from __future__ import annotations

import io
import json
import signal
import zipfile
from datetime import timedelta
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TransactionTestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from tests.shared import document
from tests.web.pages import one_line
from tests.web.test_inventory import Base
from web.accounts.models import EDITOR, READER, Membership
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import purging, subprocesses, transfers
from web.storage.account import pack
from web.storage.models import TransferJob, TransferPart

NOTHING_AT_ONCE = patch.multiple(transfers, AT_ONCE_BYTES=-1)
LATER = patch.object(transfers, "_enqueue")
"""Puts a transfer in line without a worker that carries it."""


class Large(Base):
    """Accounts as if they were too large to wait for."""

    def setUp(self) -> None:
        super().setUp()
        self.enterContext(NOTHING_AT_ONCE)
        repository.store(self.owner, judging.judge(document(2)))
        self.theirs = Client()
        self.theirs.force_login(self.other)

    def take_in(self, raw: bytes, client: Client | None = None) -> Any:
        file = {"file": SimpleUploadedFile("a.zip", raw)}
        return (client or self.theirs).post(reverse("account-import"), file, follow=True)

    def test_out_and_in_by_pages(self) -> None:
        page = self.client.get(reverse("account-export"), follow=True)
        self.assertContains(page, "The account is packed")
        held = TransferJob.objects.get()
        answer = self.client.get(reverse("transfer-zip", args=[held.pk]))
        raw = b"".join(answer.streaming_content)
        self.assertEqual(raw, pack(self.owner))
        self.assertIn("iron-margin-account.zip", answer["Content-Disposition"])
        self.assertContains(self.take_in(raw), "Imported 2 rigs, 1 supply and 1 setup, with")
        self.assertEqual(pack(self.other), raw)
        self.assertFalse(TransferPart.objects.filter(transfer__way="in").exists())

    def test_what_was_packed_is_offered_until_it_is_packed_anew(self) -> None:
        url = reverse("account-export")
        first = self.client.get(url)
        self.assertRedirects(self.client.get(url), first["Location"])
        self.assertContains(self.client.get(reverse("setups")), first["Location"])
        anew = self.client.get(f"{url}?anew=1")
        self.assertNotEqual(anew["Location"], first["Location"])
        self.assertEqual(TransferJob.objects.count(), 1)
        TransferJob.objects.update(asked_at=timezone.now() - 2 * transfers.STORED)
        self.assertNotEqual(self.client.get(url)["Location"], anew["Location"])

    def test_so_many_an_hour(self) -> None:
        url = reverse("account-export") + "?anew=1"
        with override_settings(LIMITS=settings.LIMITS | {"transfer": (2, 3600)}):
            codes = [self.client.get(url).status_code for _ in range(3)]
            self.assertEqual(codes, [302, 302, 429])
            self.assertEqual(self.take_in(pack(self.owner)).status_code, 200)

    def test_a_zip_of_many_parts_is_the_same(self) -> None:
        many = patch.multiple(transfers, PART_BYTES=100, AT_ONCE_BYTES=10**6, AT_ONCE_THINGS=1)
        with many:
            self.client.get(reverse("account-export"))
        held = TransferJob.objects.get()
        self.assertGreater(held.parts.count(), 5)
        answer = self.client.get(reverse("transfer-zip", args=[held.pk]))
        self.assertEqual(b"".join(answer.streaming_content), pack(self.owner))

    def test_faults_are_named_and_nothing_is_stored(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(pack(self.owner))) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                new.writestr(name, old.read(name))
            bad = {"name": "x", "document": {"name": "x", "main_a": -5, "loads": []}}
            new.writestr("rigs/0099-x.json", json.dumps(bad))
        page = one_line(self.take_in(out.getvalue()).content.decode())
        self.assertIn("Nothing was stored", page)
        self.assertIn("rigs/0099-x.json rig.main_a", page)
        self.assertFalse(SavedSetup.objects.of(self.other).exists())
        self.assertFalse(TransferPart.objects.exists())

    def test_an_account_that_is_full_says_so(self) -> None:
        raw = pack(self.owner)
        with patch.object(Rig, "maximum", 0):
            self.assertContains(self.take_in(raw), "the most there may be")

    def test_nobody_else_sees_it(self) -> None:
        self.client.get(reverse("account-export"))
        held = TransferJob.objects.get()
        for address in ("transfer", "transfer-zip"):
            url = reverse(address, args=[held.pk])
            self.assertEqual(self.theirs.get(url).status_code, 404)
            self.assertEqual(Client().get(url).status_code, 302)

    def test_a_zip_that_came_in_is_not_given_out(self) -> None:
        self.take_in(pack(self.owner))
        held = TransferJob.objects.get(way="in")
        url = reverse("transfer-zip", args=[held.pk])
        self.assertEqual(self.theirs.get(url).status_code, 404)

    def test_a_reader_takes_nothing_in(self) -> None:
        reader = User.objects.create_user("reader")
        Membership.objects.create(account=self.owner, member=reader, role=READER)
        client = Client()
        client.force_login(reader)
        client.post(reverse("account-switch"), {"account": self.owner.pk})
        self.assertEqual(self.take_in(pack(self.owner), client).status_code, 403)
        self.assertFalse(TransferJob.objects.exists())

    def test_they_go_after_a_day(self) -> None:
        self.client.get(reverse("account-export"))
        purging.purge(timezone.now() + timedelta(hours=23))
        self.assertTrue(TransferJob.objects.exists())
        purging.purge(timezone.now() + timedelta(hours=25))
        self.assertFalse(TransferPart.objects.exists())


@override_settings(JOBS_INLINE=False)
class InLine(Base):
    """Transfers that wait, and workers that are lost."""

    def setUp(self) -> None:
        super().setUp()
        self.enterContext(NOTHING_AT_ONCE)
        self.enterContext(LATER)

    def requested(self, way: str = TransferJob.IN, raw: bytes | None = None) -> TransferJob:
        if way == TransferJob.OUT:
            self.client.get(reverse("account-export"))
        else:
            file = SimpleUploadedFile("a.zip", raw if raw is not None else pack(self.owner))
            self.client.post(reverse("account-import"), {"file": file})
        return TransferJob.objects.latest("pk")

    def test_one_at_a_time(self) -> None:
        first = self.requested()
        url = reverse("account-import")
        file = {"file": SimpleUploadedFile("a.zip", pack(self.owner))}
        page = self.client.post(url, file, follow=True)
        self.assertContains(page, "One is still running")
        self.assertEqual(self.requested().pk, first.pk)

    def test_its_page_says_how_many_are_before_it_and_asks_again(self) -> None:
        mine = self.requested()
        earlier = timezone.now() - timedelta(minutes=1)
        TransferJob.objects.create(owner=self.other, who=self.other, way="in", asked_at=earlier)
        url = reverse("transfer", args=[mine.pk])
        self.assertContains(self.client.get(url), "1 ahead of it in line")
        part = self.client.get(url, headers={"HX-Request": "true"})
        self.assertContains(part, f'hx-get="{url}"')
        self.assertNotContains(part, "<title>")

    def test_a_lost_worker_s_is_taken_up_again_once(self) -> None:
        mine = self.requested()
        url = reverse("transfer", args=[mine.pk])
        lost = timezone.now() - 2 * transfers.LOST
        for turn, status in ((2, "waiting"), (2, "failed")):
            TransferJob.objects.filter(pk=mine.pk).update(status="running", beat_at=lost)
            page = self.client.get(url)
            mine.refresh_from_db()
            self.assertEqual((mine.turn, mine.status), (turn, status))
        self.assertContains(page, "its worker stopped twice")

    def test_one_whose_worker_died_as_it_took_it_up_is_taken_up_again(self) -> None:
        mine = self.requested()
        url, long_ago = reverse("transfer", args=[mine.pk]), timezone.now() - 2 * transfers.LOST
        TransferJob.objects.filter(pk=mine.pk).update(beat_at=long_ago)
        with self.captureOnCommitCallbacks(execute=True):
            transfers.carry.enqueue(mine.pk, 1)
        self.client.get(url)
        mine.refresh_from_db()
        self.assertEqual((mine.turn, mine.status), (1, "waiting"))  # it only waits its turn
        DBTaskResult.objects.update(status="RUNNING")
        self.client.get(url)
        mine.refresh_from_db()
        self.assertEqual((mine.turn, mine.status), (2, "waiting"))

    def test_an_earlier_turn_stores_nothing(self) -> None:
        """A worker that was only slow finds that another has begun, and takes all of it back."""
        mine = self.requested()
        TransferJob.objects.filter(pk=mine.pk).update(status="running", turn=2)
        status, answer = transfers._carry(mine)
        self.assertEqual((status, answer["why"]), ("failed", "another turn of it has begun"))
        self.assertEqual(Rig.objects.of(self.owner).count(), 1)
        transfers._end(mine, (status, answer))
        self.assertEqual((mine.status, mine.parts.count()), ("running", 1))

    def test_who_left_the_account_takes_nothing_in(self) -> None:
        editor = User.objects.create_user("editor")
        held = Membership.objects.create(account=self.owner, member=editor, role=EDITOR)
        mine = self.requested()
        TransferJob.objects.filter(pk=mine.pk).update(status="running", who=editor)
        mine.refresh_from_db()
        self.assertEqual(transfers._carry(mine)[0], "done")
        for role in (READER, None):
            if role:
                Membership.objects.filter(pk=held.pk).update(role=role)
            else:
                held.delete()
            again = TransferJob.objects.create(
                owner=self.owner, who=editor, way="in", status="running"
            )
            transfers._store(again, pack(self.owner))
            self.assertEqual(transfers._carry(again)[0], "failed", role)
        self.assertEqual(Rig.objects.of(self.owner).count(), 2)


def waits_for_ever(*given: object) -> None:
    signal.pause()


@override_settings(JOBS_INLINE=False)
class Carried(TransactionTestCase):
    """In a worker's child, as it runs for people."""

    def begin(self) -> TransferJob:
        owner = User.objects.create_user("owner")
        repository.store(owner, judging.judge(document(2)))
        held: TransferJob = TransferJob.objects.create(owner=owner, who=owner, way="in", turn=1)
        transfers._store(held, pack(owner))
        return held

    def test_it_is_taken_in_once(self) -> None:
        held = self.begin()
        for _ in range(2):  # a task that comes twice finds nothing to do
            transfers.carry.call(held.pk, held.turn)
        held.refresh_from_db()
        self.assertEqual(held.status, "done")
        self.assertEqual(SavedSetup.objects.of(held.owner).count(), 2)

    def test_what_needs_too_much_memory_says_so(self) -> None:
        held = self.begin()
        with patch.object(transfers, "unpack", side_effect=MemoryError):
            transfers.carry.call(held.pk, held.turn)
        held.refresh_from_db()
        self.assertEqual((held.status, held.answer), ("failed", subprocesses.TOO_LARGE))

    def test_a_child_that_dies_or_is_slow_leaves_nothing(self) -> None:
        for worse, words in (
            (patch.object(transfers, "unpack", side_effect=SystemExit), "without an answer"),
            (patch.multiple(transfers, PATIENCE_S=0.0, unpack=waits_for_ever), "took too long"),
        ):
            User.objects.all().delete()
            held = self.begin()
            with worse:
                transfers.carry.call(held.pk, held.turn)
            held.refresh_from_db()
            self.assertEqual(held.status, "failed")
            self.assertIn(words, held.answer["why"])
            self.assertEqual(SavedSetup.objects.of(held.owner).count(), 1)
