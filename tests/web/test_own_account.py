"""One's own account: second factor, browsers, passwords, its end."""

from __future__ import annotations

import re
from typing import Any

from django.contrib.auth.models import User
from django.core import mail
from django.test import Client
from django.urls import reverse
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_members import PASSWORD
from web.accounts.models import SignIn
from web.api.models import READ, Token, make
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage.models import Change


class OwnAccount(PageCase):
    def setUp(self) -> None:
        self.user = User.objects.create_user("owner", password=PASSWORD)
        self.sign_in(self.client)

    def sign_in(self, client: Client, **more: str) -> Any:
        posted = {"username": "owner", "password": PASSWORD} | more
        return client.post(reverse("sign-in"), posted, headers={"user-agent": "Firefox Linux"})

    def code(self) -> str:
        device = TOTPDevice.objects.get(user=self.user)
        return f"{totp(device.bin_key):06d}"

    def forget_failures(self) -> None:
        for model in (TOTPDevice, StaticDevice):
            model.objects.update(throttling_failure_count=0)

    def turn_on(self) -> list[str]:
        self.client.post(reverse("two-factor"))
        answer = self.client.post(reverse("two-factor"), {"confirm": "1", "code": self.code()})
        self.assertContains(answer, "They are not shown again")
        TOTPDevice.objects.update(last_t=-1)  # the same half minute serves again below
        return list(StaticToken.objects.values_list("token", flat=True))

    def test_a_second_factor_is_asked_for_after_the_password(self) -> None:
        self.turn_on()
        fresh = Client()
        self.assertContains(self.sign_in(fresh), "Type the six digits")
        self.assertNotIn("_auth_user_id", fresh.session)
        self.assertContains(self.sign_in(fresh, code="000000"), "does not match")
        self.forget_failures()
        self.assertEqual(self.sign_in(fresh, code=self.code()).status_code, 302)
        wrong = Client().post(reverse("sign-in"), {"username": "owner", "password": "x"})
        self.assertNotContains(wrong, "Six digits")  # nothing is told without the password

    def test_a_spare_code_is_good_once(self) -> None:
        spare = self.turn_on()
        self.assertEqual(len(spare), 8)
        self.assertEqual(self.sign_in(Client(), code=spare[0]).status_code, 302)
        self.assertEqual(self.sign_in(Client(), code=spare[0]).status_code, 200)

    def test_guessing_is_slowed(self) -> None:
        self.turn_on()
        self.sign_in(Client(), code="000000")
        self.assertEqual(TOTPDevice.objects.get().throttling_failure_count, 1)
        # The wait doubles with each: as if there had been twelve, however slow this machine is.
        TOTPDevice.objects.update(throttling_failure_count=12)
        answer = self.sign_in(Client(), code="000000")
        self.assertContains(answer, "Too many wrong codes")
        self.assertEqual(self.sign_in(Client(), code=self.code()).status_code, 200)

    def test_it_is_not_on_before_it_is_confirmed_nor_off_without_a_code(self) -> None:
        self.client.post(reverse("two-factor"))
        answer = self.client.post(reverse("two-factor"), {"confirm": "1", "code": "1"})
        self.assertContains(answer, "does not match", status_code=422)
        self.assertEqual(self.sign_in(Client()).status_code, 302)
        self.forget_failures()
        self.turn_on()
        answer = self.client.post(reverse("two-factor"), {"end": "1", "code": "1"})
        self.assertContains(answer, "it stays on", status_code=422)
        self.forget_failures()
        self.client.post(reverse("two-factor"), {"end": "1", "code": self.code()})
        self.assertFalse(TOTPDevice.objects.exists())

    def test_browsers_are_listed_and_ended_from_another(self) -> None:
        second = Client()
        self.sign_in(second)
        page = self.client.get(reverse("account"))
        self.assertContains(page, "Firefox on Linux", count=3)  # two rows, one button's name
        theirs = SignIn.objects.get(session_key=second.session.session_key)
        stranger = Client()
        stranger.force_login(User.objects.create_user("stranger"))
        stranger.post(reverse("sessions-end"), {"one": theirs.pk})
        self.assertEqual(second.get(reverse("account")).status_code, 200)
        self.client.post(reverse("sessions-end"), {"one": theirs.pk})
        self.assertEqual(second.get(reverse("account")).status_code, 302)
        self.assertEqual(self.client.get(reverse("account")).status_code, 200)

    def test_a_second_factor_signs_other_browsers_out_and_offers_to_end_tokens(self) -> None:
        second = Client()
        self.sign_in(second)
        make(self.user, "sheet", READ, 7)
        make(self.user, "script", READ, 7)
        self.client.post(reverse("two-factor"))
        answer = self.client.post(reverse("two-factor"), {"confirm": "1", "code": self.code()})
        self.assertContains(answer, "1 other browser signed out")
        self.assertContains(answer, "2 tokens of programs still work")
        self.assertEqual(second.get(reverse("account")).status_code, 302)
        self.assertEqual(self.client.get(reverse("account")).status_code, 200)
        self.client.post(reverse("tokens-end"))
        self.assertFalse(Token.objects.exists())

    def test_a_new_password_signs_other_browsers_out(self) -> None:
        second = Client()
        self.sign_in(second)
        fresh = "another-long-enough-word"
        posted = {"old_password": PASSWORD, "new_password1": fresh, "new_password2": fresh}
        self.assertEqual(self.client.post(reverse("password-change"), posted).status_code, 302)
        self.assertEqual(second.get(reverse("account")).status_code, 302)
        self.assertEqual(self.client.get(reverse("account")).status_code, 200)
        self.assertEqual(SignIn.objects.filter(user=self.user).count(), 1)

    def test_a_reset_by_letter_signs_every_browser_out_and_says_what_still_works(self) -> None:
        User.objects.filter(pk=self.user.pk).update(email="owner@example.org")
        guest = Client()
        guest.post(reverse("password-reset"), {"email": "owner@example.org"})
        link = re.findall(r"http://testserver(/\S+)", mail.outbox[-1].body)[0]
        form = guest.get(link, follow=True)
        fresh = "another-long-enough-word"
        posted = {"new_password1": fresh, "new_password2": fresh}
        said = guest.post(form.redirect_chain[-1][0], posted, follow=True)
        self.assertContains(said, "Tokens of programs still work")
        self.assertEqual(self.client.get(reverse("account")).status_code, 302)
        self.assertFalse(SignIn.objects.filter(user=self.user).exists())

    def test_the_address_of_an_account_takes_its_password(self) -> None:
        for posted, words in (
            ({"mail": "me@example.org", "password": "wrong"}, "does not match"),
            ({"mail": "me", "password": PASSWORD}, "must be a mail address"),
        ):
            answer = self.client.post(reverse("account-mail"), posted)
            self.assertContains(answer, words, status_code=422)
        self.client.post(reverse("account-mail"), {"mail": "me@example.org", "password": PASSWORD})
        self.assertEqual(User.objects.get(pk=self.user.pk).email, "me@example.org")

    def test_deleting_it_needs_the_second_factor_where_it_is_on(self) -> None:
        self.client.post(reverse("two-factor"))
        self.client.post(reverse("two-factor"), {"confirm": "1", "code": self.code()})
        TOTPDevice.objects.update(last_t=-1)  # the same half minute's code is good once
        posted = {"password": PASSWORD}
        for code in ("", "000000"):
            answer = self.client.post(reverse("account-delete"), posted | {"code": code})
            self.assertContains(answer, "That code does not match", status_code=422)
        self.assertTrue(User.objects.filter(pk=self.user.pk).exists())
        TOTPDevice.objects.update(throttling_failure_count=0)
        self.client.post(reverse("account-delete"), posted | {"code": self.code()})
        self.assertFalse(User.objects.filter(pk=self.user.pk).exists())

    def test_deleting_it_needs_the_password_and_leaves_nothing(self) -> None:
        repository.store(self.user, judging.judge(document(2)))
        second = Client()
        self.sign_in(second)
        answer = self.client.post(reverse("account-delete"), {"password": "wrong"})
        self.assertContains(answer, "nothing was deleted", status_code=422)
        answer = self.client.post(reverse("account-delete"), {"password": PASSWORD})
        self.assertEqual(answer.status_code, 302)
        for model in (User, SavedSetup, Rig, Change, SignIn):
            self.assertEqual(model.objects.count(), 0, model)
        self.assertEqual(second.get(reverse("account")).status_code, 302)
