"""What the tests of screens begin with: the demo's setups, in an account of their own."""

from __future__ import annotations

import re
from typing import Any

from django.contrib.auth.models import User
from django.urls import reverse

from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.pages import PageCase
from web.setups import judging, repository


class Screens(PageCase):
    number = 5

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.client.cookies["units"] = "si"
        doc = document(self.number) | {"rules": {"trials": 0}}
        self.saved = repository.store(self.owner, judging.judge(doc))
        self.setup = read_setup(repository.compose(self.saved))

    def text(self, name: str, *args: Any, **requested: Any) -> str:
        answer = self.client.get(reverse(name, args=args or [self.saved.pk]), requested)
        self.assertEqual(answer.status_code, 200)
        return re.sub(r"\s+", " ", answer.content.decode())

    def post(self, name: str, pk: int, status: int, **fields: Any) -> str:
        answer = self.client.post(reverse(name, args=[pk]), fields)
        self.assertEqual(answer.status_code, status, answer.content.decode()[:400])
        return answer.content.decode()
