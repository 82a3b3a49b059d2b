"""Working in one account together, and one's own account: who may what over every address."""

from __future__ import annotations

import re
from datetime import timedelta
from smtplib import SMTPException
from typing import Any
from unittest.mock import patch

from django.contrib.auth.models import User
from django.core import mail
from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from tests.shared import document
from tests.web.test_inventory import OPEN, Base, arguments, every_url, every_view
from web.accounts.access import ACTOR, Access, is_for_readers
from web.accounts.demo import DEMO_USER
from web.accounts.letters import AGAIN, deliver
from web.accounts.models import EDITOR, READER, Invitation, Membership, hash_of
from web.logbook.models import LogEntry
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.models import Change

PASSWORD = "a-long-enough-word"
READERS_MAY = frozenset(
    {
        "sign-in", "sign-out", "sign-up", "enter-demo", "password-change", "password-reset",
        "password-reset-confirm", "two-factor", "sessions-end", "account-switch", "account-leave",
        "invitation", "jobs-left", "job-cancel", "search", "setup-preview", "supply-preview",
        "drills-answer", "drills-begin-exam", "home", "account-delete", "token-make", "token-end",
        "tokens-end", "account-mail", "paper",
    }
)  # fmt: skip
"""What readers may post to: it changes nothing of the account at hand."""


def kept_in(owner: User) -> dict[str, Any]:
    """Everything an account holds, as figures that a change would change."""
    return {
        "rigs": sorted(Rig.objects.filter(owner=owner).values_list("pk", "version")),
        "setups": sorted(SavedSetup.objects.filter(owner=owner).values_list("pk", "version")),
        "changes": Change.objects.filter(owner=owner).count(),
        "log": LogEntry.objects.filter(setup__owner=owner, deleted_at=None).count(),
        "shares": SavedSetup.objects.filter(owner=owner, shares__isnull=False).count(),
    }


class Together(Base):
    """A reader and an editor in the owner's account."""

    coarse_maps = True

    def setUp(self) -> None:
        super().setUp()
        self.saved = repository.store(self.owner, judging.judge(document(2)))
        self.reader, self.editor = (self.member(role) for role in (READER, EDITOR))

    def member(self, role: str) -> Client:
        user = User.objects.create_user(role, password=PASSWORD)
        Membership.objects.create(account=self.owner, member=user, role=role)
        client = Client()
        client.force_login(user)
        self.assertEqual(
            client.post(reverse("account-switch"), {"account": self.owner.pk}).status_code, 302
        )
        return client

    def addresses(self) -> list[tuple[str, str]]:
        entry = Change.objects.filter(kind="setup", item=self.saved.pk).first()
        supply = self.saved.supply
        found = []
        for name, args in every_url():
            if name in OPEN:
                continue
            start = name.split("-")[0].removesuffix("s")
            item = {"rig": self.rig, "supply": supply, "client": self.stored_client}.get(
                start, self.saved
            )
            values = arguments(name, item, entry)
            found.append((name, reverse(name, args=[values[a] for a in args])))
        return found

    def test_what_readers_may_post_to_is_named_here(self) -> None:
        """A view that says nothing is shut to them."""
        self.assertEqual({n for n, _, view in every_view() if is_for_readers(view)}, READERS_MAY)

    def test_whoever_owned_the_account_is_gone_and_so_are_its_members(self) -> None:
        User.objects.filter(pk=self.owner.pk).update(is_active=False)
        self.assertEqual(self.editor.get(reverse("rig", args=[self.rig.pk])).status_code, 404)
        url = reverse("delete", args=["rig", self.rig.pk])
        self.assertEqual(self.editor.post(url).status_code, 404)
        User.objects.filter(pk=self.owner.pk).update(is_active=True)
        self.assertEqual(self.editor.get(reverse("rig", args=[self.rig.pk])).status_code, 200)

    def test_a_reader_sees_what_the_owner_sees_and_changes_nothing(self) -> None:
        before = kept_in(self.owner)
        alike = 0
        for name, url in self.addresses():
            if name in READERS_MAY:
                continue
            mine, theirs = (c.get(url).status_code for c in (self.client, self.reader))
            if name not in ("invite", "member", "invitation-back"):
                self.assertEqual(theirs, mine, f"get {name}")
                alike += theirs == 200
            self.assertIn(self.reader.post(url).status_code, (403, 405), f"post {name}")
        self.assertGreater(alike, 25)
        after = kept_in(self.owner)
        self.assertEqual(after, before)

    def test_what_readers_may_post_changes_nothing_of_the_account(self) -> None:
        before = kept_in(self.owner)
        names = dict(self.addresses())
        for name in READERS_MAY - {"sign-out", "enter-demo", "account-switch", "account-leave"}:
            if name in names:
                self.assertNotEqual(self.reader.post(names[name]).status_code, 403, name)
        self.assertEqual(kept_in(self.owner), before)

    def test_an_editor_changes_and_the_history_says_who(self) -> None:
        url = reverse("rig-add", args=[self.rig.pk])
        version = Rig.objects.get(pk=self.rig.pk).version
        posted = {"version": version, "name": "Garden pump", "what": "motor-3-4hp-240"}
        self.assertEqual(self.editor.post(url, posted).status_code, 200)
        newest = Change.objects.filter(kind="rig", item=self.rig.pk).first()
        self.assertEqual((newest.who, newest.owner), (EDITOR, self.owner))
        self.assertContains(self.client.get(reverse("history", args=["rig", self.rig.pk])), EDITOR)

    def test_members_are_the_owners_matter(self) -> None:
        held = Membership.objects.get(role=READER)
        for client in (self.editor, self.reader):
            for name, args in (("invite", []), ("member", [held.pk])):
                code = client.post(reverse(name, args=args), {"role": EDITOR}).status_code
                self.assertIn(code, (403, 404), name)
        held.refresh_from_db()
        self.assertEqual(held.role, READER)

    def test_the_owner_of_another_account_touches_none_of_it(self) -> None:
        held = Membership.objects.get(role=READER)
        link = Invitation.objects.create(
            account=self.owner, mail="a@example.org", role=EDITOR, token_hash=hash_of("x")
        )
        other = Client()
        other.force_login(self.other)
        for name, pk, posted in (
            ("member", held.pk, {"remove": "1"}),
            ("member", held.pk, {"role": EDITOR}),
            ("invitation-back", link.pk, {}),
            ("account-leave", held.pk, {}),
        ):
            self.assertEqual(other.post(reverse(name, args=[pk]), posted).status_code, 404, name)
        held.refresh_from_db()
        self.assertEqual(held.role, READER)
        self.assertTrue(Invitation.objects.filter(pk=link.pk).exists())

    def test_who_is_let_go_sees_nothing_any_more(self) -> None:
        held = Membership.objects.get(role=EDITOR)
        self.client.post(reverse("member", args=[held.pk]), {"remove": "1"})
        self.assertEqual(self.editor.get(reverse("rig", args=[self.rig.pk])).status_code, 404)
        self.assertEqual(self.editor.get(reverse("setups")).status_code, 200)  # their own
        code = self.editor.post(reverse("account-switch"), {"account": self.owner.pk}).status_code
        self.assertEqual(code, 404)

    def test_an_editor_made_reader_changes_nothing_from_then_on(self) -> None:
        held = Membership.objects.get(role=EDITOR)
        self.client.post(reverse("member", args=[held.pk]), {"role": READER})
        url = reverse("delete", args=["rig", self.rig.pk])
        self.assertContains(self.editor.post(url), "Read only", status_code=403)

    def test_one_s_own_account_stays_apart(self) -> None:
        self.editor.post(reverse("account-switch"), {"account": "0"})
        user = User.objects.get(username=EDITOR)
        self.editor.post(reverse("account-switch"), {"account": user.pk})
        self.assertEqual(self.editor.get(reverse("rig", args=[self.rig.pk])).status_code, 404)

    def test_the_action_itself_asks_who_acts(self) -> None:
        reader = User.objects.get(username=READER)
        for access in (Access(reader, self.owner, READER), Access(reader, reader, "owner")):
            token = ACTOR.set(access)
            try:
                with self.assertRaises(PermissionDenied):
                    actions.delete(Rig.objects.get(pk=self.rig.pk))
                with self.assertRaises(PermissionDenied):
                    actions.make(Rig, self.owner, "x", {})
                with self.assertRaises(PermissionDenied):
                    actions.change(self.rig, self.rig.version, name="x")
            finally:
                ACTOR.reset(token)

    def test_the_database_refuses_what_no_membership_is(self) -> None:
        other = self.other
        for account, member, role in (
            (self.owner, self.owner, EDITOR), (self.owner, other, "owner"),
            (self.owner, User.objects.get(username=READER), EDITOR),
        ):  # fmt: skip
            with self.assertRaises(IntegrityError), transaction.atomic():
                Membership.objects.create(account=account, member=member, role=role)


class Invitations(Base):
    def setUp(self) -> None:
        super().setUp()
        User.objects.filter(pk=self.other.pk).update(email="A@example.org")

    def invite(self, **fields: str) -> Any:
        return self.client.post(
            reverse("invite"), {"mail": "a@example.org", "role": READER} | fields
        )

    def link(self) -> str:
        return re.findall(r"http://testserver(/\S+)", mail.outbox[-1].body)[0]

    def test_a_letter_s_link_makes_a_member_once(self) -> None:
        self.assertEqual(self.invite().status_code, 302)
        link = self.link()
        self.assertNotIn(link.split("/")[-2], str(list(Invitation.objects.values())))
        guest = Client()
        self.assertEqual(guest.get(link).status_code, 302)  # sign in first
        guest.force_login(self.other)
        self.assertContains(guest.get(link), "see everything and change nothing")
        self.assertFalse(Membership.objects.exists())  # looking alone joins nobody
        self.assertEqual(guest.post(link).status_code, 302)
        self.assertEqual(Membership.objects.get().role, READER)
        self.assertEqual(guest.get(reverse("rig", args=[self.rig.pk])).status_code, 200)
        third = Client()
        third.force_login(User.objects.create_user("third"))
        self.assertEqual(third.post(link).status_code, 404)

    def test_a_forwarded_letter_makes_nobody_else_a_member(self) -> None:
        self.invite()
        link = self.link()
        for address in ("", "other@example.org"):
            User.objects.filter(pk=self.other.pk).update(email=address)
            guest = Client()
            guest.force_login(User.objects.get(pk=self.other.pk))
            said = guest.get(link)
            self.assertContains(said, "for another address", status_code=403)
            self.assertNotContains(said, "a@example.org", status_code=403)
            self.assertEqual(guest.post(link).status_code, 403)
        self.assertFalse(Membership.objects.exists())

    def test_a_letter_that_cannot_be_sent_is_said_and_leaves_no_link(self) -> None:
        with patch("web.accounts.letters.send_mail", side_effect=OSError) as tried:
            self.assertEqual(self.invite().status_code, 302)
        held = Invitation.objects.get()
        self.assertEqual(held.letter, "waits")
        link = re.findall(r"http://testserver(/\S+)", tried.call_args.args[1])[0]
        guest = Client()
        guest.force_login(self.other)
        self.assertEqual(guest.post(link).status_code, 404)
        page = self.client.get(reverse("members"))
        self.assertContains(page, "its letter is on its way")
        with patch("web.accounts.letters.send_mail", side_effect=SMTPException):
            deliver.call(held.pk, "http://testserver", len(AGAIN))
        self.assertContains(self.client.get(reverse("members")), "could not be sent")
        deliver.call(held.pk, "http://testserver", 0)
        self.assertEqual(Invitation.objects.get().letter, "sent")
        self.assertEqual(guest.post(self.link()).status_code, 302)

    def test_a_letter_is_tried_again_later_without_its_token_in_the_queue(self) -> None:
        self.invite()
        held = Invitation.objects.get()
        with (
            patch("web.accounts.letters.send_mail", side_effect=OSError),
            self.settings(JOBS_INLINE=False),
        ):
            deliver.call(held.pk, "http://testserver", 1)
        (queued,) = DBTaskResult.objects.all()
        self.assertEqual(queued.args_kwargs["args"], [held.pk, "http://testserver", 2])
        self.assertGreater(queued.run_after, timezone.now() + timedelta(minutes=4))
        Invitation.objects.all().delete()
        deliver.call(held.pk, "http://testserver", 2)  # taken back: nothing is sent
        self.assertEqual(len(mail.outbox), 1)

    def test_a_link_that_is_old_or_taken_back_or_one_s_own(self) -> None:
        self.invite()
        link = self.link()
        self.assertEqual(self.client.post(link).status_code, 404)
        guest = Client()
        guest.force_login(self.other)
        Invitation.objects.update(made_at=timezone.now() - timedelta(days=8))
        self.assertEqual(guest.post(link).status_code, 404)
        self.invite()
        self.client.post(reverse("invitation-back", args=[Invitation.objects.first().pk]))
        self.assertEqual(guest.post(self.link()).status_code, 404)
        self.assertFalse(Membership.objects.exists())

    def test_bad_words_and_bounds(self) -> None:
        self.assertContains(self.invite(mail="nobody"), "must be a mail address", status_code=422)
        self.assertContains(self.invite(role="owner"), "choose editor or reader", status_code=422)
        for n in range(20):
            Invitation.objects.create(
                account=self.owner, mail=f"{n}@example.org", role=READER, token_hash=hash_of(str(n))
            )
        self.assertContains(self.invite(), "at most 30 members", status_code=422)
        self.assertEqual(mail.outbox, [])

    def test_the_demo_has_no_members(self) -> None:
        self.client.force_login(User.objects.create_user(DEMO_USER))
        self.assertEqual(self.invite().status_code, 404)
        for name in ("account-delete", "two-factor", "sessions-end"):
            self.assertEqual(self.client.post(reverse(name)).status_code, 404, name)
