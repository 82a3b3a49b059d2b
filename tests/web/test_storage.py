"""What is kept: history by difference, one copy of everything, what goes for good, what the
database itself refuses, and an account of the landed version after an upgrade.
"""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core.management import call_command
from django.db import IntegrityError, connection, transaction
from django.db.migrations.executor import MigrationExecutor
from django.test import Client, TestCase, TransactionTestCase
from django.urls import reverse
from django.utils import timezone

from ironmargin.errors import SetupError
from ironmargin.setup.parts import read_rig
from ironmargin.setup.reading import read_setup
from tests.shared import document
from web.accounts.models import READER, Invitation, Tally
from web.logbook.models import LogEntry
from web.meter.models import Meter
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import actions, past
from web.storage.account import pack, unpack
from web.storage.merging import merged
from web.storage.models import Change
from web.storage.purging import STORED_DAYS, _purge_one, purge
from web.supplies.models import Supply
from web.verdicts.models import Job


class Stored(TestCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.saved = repository.store(
            self.owner, judging.judge(document(2) | {"rules": {"trials": 0}})
        )
        self.client.force_login(self.owner)


class Rules(Stored):
    """What every kept thing obeys, whatever its kind."""

    def test_what_is_deleted_is_gone_until_it_is_taken_back(self) -> None:
        rig = self.saved.rig
        page, listed = reverse("rig", args=[rig.pk]), reverse("rigs")
        self.assertContains(self.client.get(listed), page)
        self.client.post(reverse("delete", args=["rig", rig.pk]))
        self.assertEqual(self.client.get(page).status_code, 404)
        self.assertNotContains(self.client.get(listed), f'href="{page}"')
        self.assertFalse(Rig.objects.of(self.owner).exists())
        self.client.post(reverse("restore", args=["rig", rig.pk]))
        self.assertEqual(self.client.get(page).status_code, 200)

    def test_there_is_a_most_of_each(self) -> None:
        rig = self.saved.rig
        with mock.patch.object(Rig, "maximum", 1), self.assertRaises(actions.TooMany) as many:
            actions.make(Rig, self.owner, "Another", rig.document)
        self.assertIn("You have 1 rigs", many.exception.advice)
        self.assertEqual(Rig.objects.count(), 1)
        with mock.patch.object(Rig, "maximum", 2):
            actions.make(Rig, self.owner, "Another", rig.document)

    def test_what_is_deleted_is_not_changed(self) -> None:
        rig = self.saved.rig
        actions.delete(rig)
        with self.assertRaises(actions.Conflict):
            actions.change(rig, rig.version, name="Other")
        self.assertEqual(Rig.objects.get(pk=rig.pk).name, rig.name)

    def test_who_listens_is_told_of_a_document_and_of_nothing_else(self) -> None:
        told: list[Any] = []
        with mock.patch.dict(actions.LISTENERS, {"rig": [told.append]}):
            rig = actions.change(self.saved.rig, self.saved.rig.version, name="Other")
            self.assertEqual(told, [])
            rig = actions.change(rig, rig.version, document=rig.document | {"main_a": 20})
        self.assertEqual([x.document["main_a"] for x in told], [20])

    def test_a_history_is_of_one_thing_and_of_its_owner(self) -> None:
        rig = self.saved.rig
        other = actions.make(Rig, self.owner, "Another", rig.document)
        stranger = User.objects.create_user("stranger")
        theirs = actions.make(Rig, stranger, "Theirs", rig.document)
        self.assertEqual({e.item for e in actions.history(other)}, {other.pk})
        foreign = Change.objects.get(kind="rig", item=theirs.pk)
        beside = Change.objects.get(kind="rig", item=other.pk)
        for entry in (foreign, beside):  # neither is a state of this rig's
            url = reverse("go-back", args=["rig", rig.pk, entry.pk])
            self.assertEqual(self.client.post(url, {"version": rig.version}).status_code, 404)
        self.assertEqual(Rig.objects.get(pk=rig.pk).version, rig.version)

    def test_nothing_of_somebody_else_is_offered_to_be_taken_back(self) -> None:
        stranger = User.objects.create_user("stranger")
        theirs = actions.make(Rig, stranger, "Theirs alone", self.saved.rig.document)
        actions.delete(theirs)
        session = self.client.session
        session["undo"] = f"rig:{theirs.pk}"
        session.save()
        self.assertNotContains(self.client.get(reverse("rigs")), "Theirs alone")

    def test_what_was_taken_back_meanwhile_is_not_purged(self) -> None:
        rig = self.saved.rig
        actions.delete(rig)
        long_ago = timezone.now() - timedelta(days=40)
        Rig.objects.filter(pk=rig.pk).update(deleted_at=long_ago)
        seen = Rig.objects.get(pk=rig.pk)
        actions.restore(seen)
        self.assertEqual(_purge_one(seen, timezone.now() - timedelta(days=STORED_DAYS)), 0)
        self.assertTrue(Rig.objects.filter(pk=rig.pk).exists())

    def test_a_session_that_ended_goes_and_one_that_holds_stays(self) -> None:
        held = Session.objects.get()
        ended = timezone.now() - timedelta(hours=1)
        Session.objects.create(session_key="ended", session_data="", expire_date=ended)
        purge()
        self.assertEqual(list(Session.objects.all()), [held])

    def test_a_history_that_leads_nowhere_is_refused(self) -> None:
        rig = self.saved.rig
        rig = actions.change(rig, rig.version, name="Other")
        told = past.out(rig)
        assert told is not None
        past.take(rig, told)
        astray = [told[0], told[1] | {"back": [{"op": "remove", "path": "/nothing"}]}]
        with self.assertRaises(SetupError) as refused:
            past.take(rig, astray)
        self.assertIn("lead back to its beginning", refused.exception.faults[0].message)

    def test_what_only_one_of_two_changed_is_taken_from_them(self) -> None:
        base = {"name": "a", "main_a": 30, "loads": [{"id": "x", "watts": 1}, {"id": "y"}]}
        theirs = base | {"main_a": 20}
        yours = base | {"name": "b", "loads": [{"id": "x", "watts": 2}, {"id": "y"}]}
        both, rows = merged(base, theirs, yours)
        self.assertEqual(both, {"name": "b", "main_a": 20, "loads": yours["loads"]})
        self.assertEqual([r.both for r in rows], [False] * len(rows))
        same, rows = merged(base, base | {"main_a": 20}, base | {"main_a": 15})
        self.assertEqual((same["main_a"], [r.both for r in rows]), (15, [True]))


class History(Stored):
    def test_only_the_newest_has_a_whole_state_and_one_can_go_back_to_any(self) -> None:
        rig = self.saved.rig
        states = [actions._state(rig)]
        for at, amps in enumerate((41.0, 42.0, 43.0)):
            changed = {**rig.document, "loads": [dict(x) for x in rig.document["loads"]]}
            changed["loads"][0]["running_a"] = amps
            rig = actions.change(rig, rig.version, document=changed, name=f"{rig.name} {at}")
            states.append(actions._state(rig))
        entries = list(actions.history(rig))[::-1]
        self.assertEqual([e.state is not None for e in entries], [False] * 3 + [True])
        for entry, state in zip(entries, states, strict=True):
            self.assertEqual(actions.state_after(entry), state)
        small = [len(str(e.back)) for e in entries[:-1]]
        self.assertLess(max(small), len(str(states[0])) / 2)
        rig = actions.go_back(rig, entries[1], rig.version)
        self.assertEqual(actions._state(rig), states[1])
        self.assertEqual(actions.state_after(Change.objects.get(pk=entries[0].pk)), states[0])

    def test_a_thousand_changes_keep_two_hundred(self) -> None:
        rig = self.saved.rig
        for n in range(actions.STORED_CHANGES + 5):
            rig = actions.change(rig, rig.version, name=f"n{n}")
        entries = list(actions.history(rig))
        self.assertEqual(len(entries), actions.STORED_CHANGES)
        self.assertEqual(actions.state_after(entries[-1])["name"], "n5")


class OneCopy(Stored):
    def test_a_setup_keeps_nothing_of_what_it_stands_on(self) -> None:
        self.assertEqual({"rig", "supply"} & set(self.saved.document), set())
        self.assertEqual(repository.compose(self.saved)["rig"], self.saved.rig.document)

    def test_a_variant_keeps_its_own(self) -> None:
        changed = document(2) | {"rules": {"trials": 0}}
        changed["rig"] = {**changed["rig"], "name": "other"}
        variant = repository.store(self.owner, judging.judge(changed), what_if=True)
        self.assertIn("rig", variant.document)
        self.assertNotIn("supply", variant.document)


class Purge(Stored):
    def gone(self, item: Any, days: float) -> None:
        actions.delete(item)
        when = timezone.now() - timedelta(days=days)
        type(item).objects.filter(pk=item.pk).update(deleted_at=when)

    def test_after_thirty_days_it_is_gone_with_its_history_and_not_before(self) -> None:
        self.gone(self.saved, STORED_DAYS - 0.1)
        self.assertEqual(purge(), 0)
        self.gone(self.saved, STORED_DAYS + 0.1)
        self.assertEqual(purge(), 1)
        self.assertFalse(SavedSetup.objects.exists())
        self.assertFalse(Change.objects.filter(kind="setup").exists())
        self.assertTrue(Change.objects.filter(kind="rig").exists())

    def test_a_setup_outlives_the_rig_it_stood_on(self) -> None:
        whole = repository.compose(self.saved)
        self.gone(self.saved.rig, STORED_DAYS + 1)
        self.gone(self.saved.supply, STORED_DAYS + 1)
        self.assertEqual(purge(), 2)
        saved = SavedSetup.objects.select_related("rig", "supply").get()
        self.assertEqual((saved.rig, saved.supply), (None, None))
        self.assertEqual(repository.compose(saved), whole)
        self.assertEqual(self.client.get(reverse("setup", args=[saved.pk])).status_code, 200)

    def test_entries_and_invitations_go_too_and_the_command_says_how_many(self) -> None:
        long_ago = timezone.now() - timedelta(days=STORED_DAYS + 1)
        LogEntry.objects.create(setup=self.saved, kind="run", document={}, deleted_at=long_ago)
        stored = LogEntry.objects.create(setup=self.saved, kind="run", document={})
        Invitation.objects.create(
            account=self.owner, mail="a@example.org", role=READER, token_hash="x", made_at=long_ago
        )
        Tally.objects.create(key="x", began=long_ago)
        Session.objects.create(session_key="over", session_data="", expire_date=long_ago)
        call_command("purge")
        self.assertFalse(Tally.objects.exists())
        self.assertFalse(Session.objects.filter(session_key="over").exists())
        self.assertEqual(list(LogEntry.objects.all()), [stored])
        self.assertFalse(Invitation.objects.exists())


class TheDatabaseRefuses(Stored):
    def refused(self, act: Any) -> None:
        with self.assertRaises(IntegrityError), transaction.atomic():
            act()

    def test_what_the_core_would_refuse(self) -> None:
        saved = SavedSetup.objects.filter(pk=self.saved.pk)
        self.refused(lambda: saved.update(verdict="maybe"))
        self.refused(lambda: saved.update(iron_margin=2e6))
        self.refused(lambda: saved.update(name=""))
        self.refused(lambda: Rig.objects.update(version=0))
        self.refused(lambda: Supply.objects.update(name=""))
        self.refused(lambda: Change.objects.update(state=None, back=None))
        self.refused(lambda: LogEntry.objects.create(setup=self.saved, kind="", document={}))
        self.refused(lambda: Meter.objects.create(setup=self.saved, host="x", port=0))
        self.refused(
            lambda: Job.objects.create(owner=self.owner, kind="x", key="x", document={}, status="?")
        )


class AnUpgrade(TransactionTestCase):
    """An account as the landed version kept it opens unharmed."""

    before = [
        ("keeping", "0001_initial"),
        ("rigs", "0001_initial"),
        ("supplies", "0001_initial"),
        ("setups", "0002_once_and_drafts"),
        ("logbook", "0001_initial"),
    ]

    def tearDown(self) -> None:
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())

    def test_it_opens_unharmed(self) -> None:
        executor = MigrationExecutor(connection)
        executor.migrate(self.before)
        old = executor.loader.project_state(self.before).apps
        rules = {"trials": 0, "trip_criterion": "peak"}
        pair = document(2) | {"rules": rules}
        pair["supply"] = pair["supply"] | {"limit_over_surge": 1.2}
        whole = judging.judge(pair).document
        former = json.loads(
            json.dumps(whole)
            .replace("trip_criterion", "breaker_school")
            .replace("limit_over_surge", "limit_headroom")
        )
        self.assertNotEqual(former, whole)
        owner = old.get_model("auth", "User").objects.create(username="owner")
        stored = {"owner": owner, "name": "x"}
        rig = old.get_model("rigs", "Rig").objects.create(**stored, document=whole["rig"])
        supply = old.get_model("supplies", "Supply").objects.create(
            **stored, document=former["supply"]
        )
        saved = old.get_model("setups", "SavedSetup").objects.create(
            **stored,
            document=former,
            rig=rig,
            supply=supply,
            verdict="thin",
            iron_margin=0.1,
            stale=True,
        )
        for n in (1, 2):
            old.get_model("keeping", "Change").objects.create(
                owner=owner, who="owner", kind="rig", item=rig.pk, version=n, action="changed",
                name="x", state={"name": f"n{n}", "document": whole["rig"], "twelve_volt": []},
            )  # fmt: skip
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())
        now = SavedSetup.objects.select_related("rig", "supply").get(pk=saved.pk)
        self.assertNotIn("rig", now.document)
        self.assertEqual(repository.compose(now), whole)
        client = Client()
        client.force_login(User.objects.get())
        for name, pk in (("setup", saved.pk), ("rig", rig.pk), ("supply", supply.pk)):
            self.assertEqual(client.get(reverse(name, args=[pk])).status_code, 200, name)
        first = Change.objects.filter(item=rig.pk).last()
        self.assertEqual(actions.state_after(first)["name"], "n1")
        self.goes_round(User.objects.get(), rig.pk)
        url = reverse("go-back", args=["rig", rig.pk, first.pk])
        self.assertEqual(client.post(url, {"version": 1}).status_code, 302)
        self.assertEqual(Rig.objects.get().name, "n1")

    def goes_round(self, owner: User, rig: int) -> None:
        """Its zip goes into an empty account with everything, its past too."""
        other = User.objects.create_user("other")
        unpack(other, pack(owner))
        theirs = Rig.objects.get(owner=other)
        mine, copied = (
            [
                (c.version, c.name, c.action, actions.state_after(c))
                for c in Change.objects.filter(kind="rig", item=pk)
            ]
            for pk in (rig, theirs.pk)
        )
        self.assertEqual(len(mine), 2)
        self.assertEqual(copied, mine)
        ours = Rig.objects.get(pk=rig)
        self.assertEqual(read_rig(theirs.document), read_rig(ours.document))
        one, two = (
            read_setup(repository.compose(SavedSetup.objects.get(owner=who)))
            for who in (owner, other)
        )
        self.assertEqual(one, two)
        other.delete()
