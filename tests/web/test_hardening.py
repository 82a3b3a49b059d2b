"""What attackers and slips send: an answer in words, at once, at every door."""

from __future__ import annotations

import io
import json
import logging
from typing import Any
from unittest import mock
from unittest.mock import patch

from django.contrib.auth.models import User
from django.db import OperationalError, connection
from django.test import Client, TestCase
from django.urls import reverse

from ironmargin.errors import SetupError
from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_inventory import every_url
from web.design import fields
from web.project.logs import logging_of
from web.setups import judging, repository
from web.setups.form import Form
from web.verdicts.drawings.path import draw_path


class Doors(PageCase):
    coarse_maps = True

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)

    def preview(self, raw: str | dict[str, Any]) -> int:
        text = raw if isinstance(raw, str) else json.dumps(raw)
        fields = {"document": text, "units": "si"}
        return self.client.post(reverse("setup-preview"), fields).status_code

    def test_lists_longer_than_any_may_be_are_never_built(self) -> None:
        doc = document(5)
        for long in (
            doc | {"supply": {"kind": "parallel", "units": [{}] * 100_000}},
            doc | {"rig": doc["rig"] | {"loads": [{}] * 50_000}},
            doc | {"hookup": [{"kind": "cord"}] * 30_000},
            doc | {"wanted": [{}] * 50_000},
        ):
            with mock.patch.object(fields.Fields, "field", autospec=True) as built:
                built.side_effect = fields.Field("a", "a", "", "number", "")  # no more than called
                built.side_effect = lambda *a: fields.Field("a", "a", "", "number", "")
                list(Form(long, "si").load_rows())
                list(Form(long, "si").path_groups())
                list(Form(long, "si").supply_groups())
                self.assertLess(built.call_count, 2000)
            self.assertEqual(self.preview(long), 422)
            self.assertIsNone(draw_path(long, None) if len(long["hookup"]) > 30 else None)

    def test_what_is_no_figure_is_a_message_never_a_traceback(self) -> None:
        doc = document(5)
        first = doc["hookup"][0]
        for bad in (
            doc | {"hookup": [first | {"rating_a": "30 A"}]},
            doc | {"hookup": [{"kind": []}]},
            doc | {"supply": {"kind": []}},
            doc | {"rig": doc["rig"] | {"loads": [{"kind": []}]}},
            doc | {"supply": {"kind": "shore", "breaker_a": 1e-200}},
            doc | {"rig": doc["rig"] | {"main_a": 1e-320}},
            '{"format": "iron-margin/setup", "x": {"a": NaN}}',
            '{"format": "\\ud800"}',
            json.dumps(doc)[:-1] + ', "x": {"a": "\\ud800"}}',
            "[" * 5000 + "]" * 5000,
            "",
            "null",
        ):
            self.assertEqual(self.preview(bad), 422, str(bad)[:80])

    def test_a_figure_that_must_be_above_nought_has_a_real_least(self) -> None:
        doc = document(2)
        for tiny in (1e-7, 1e-200, 5e-324):
            with self.assertRaises(SetupError) as caught:
                read_setup(doc | {"supply": doc["supply"] | {"starting_w": tiny}})
            self.assertIn("tiny", [f.code for f in caught.exception.faults])

    def test_every_page_may_be_asked_for_its_head(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(2)))
        for name in ("setup", "now", "log", "hours", "order", "reach"):
            self.assertEqual(self.client.head(reverse(name, args=[saved.pk])).status_code, 200)


class Running(TestCase):
    def test_health_asks_nobody_and_ready_asks_the_database(self) -> None:
        with self.assertNumQueries(0):
            self.assertEqual(Client().get("/health").json(), {"status": "ok"})
        found = Client().get("/ready")
        self.assertEqual(
            (found.status_code, found.json()), (200, {"database": True, "migrations": True})
        )

    def test_a_database_that_is_away_is_said_with_when_to_come_back(self) -> None:
        client = Client(raise_request_exception=False)
        with (
            mock.patch.object(connection, "cursor", side_effect=OperationalError(2006, "gone")),
            mock.patch.object(
                connection, "ensure_connection", side_effect=OperationalError(2006, "")
            ),
        ):
            answer = client.get(reverse("shared", args=["x" * 20]))
            self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "30"))
            self.assertIn("database", answer.content.decode())
            self.assertEqual(client.get("/ready").status_code, 503)

    def test_no_host_of_tests_is_served(self) -> None:
        import os
        import subprocess
        import sys

        env = {k: v for k, v in os.environ.items() if not k.startswith("IRONMARGIN_")}
        code = "from web.project import settings; print('testserver' in settings.ALLOWED_HOSTS)"
        done = subprocess.run(
            [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
        )
        self.assertEqual(done.stdout.strip(), "False")


class Logs(TestCase):
    def lines(self, url: str, **more: Any) -> str:
        """What is logged of a request, by the handler that the settings make."""
        settings_of = logging_of("plain", testing=False)
        out = io.StringIO()
        handler = logging.StreamHandler(out)
        for name in settings_of["handlers"]["console"]["filters"]:  # type: ignore[index]
            handler.addFilter(settings_of["filters"][name]["()"]())  # type: ignore[index]
        loggers = [logging.getLogger(n) for n in ("django.request", "django.security.csrf")]
        for logger in loggers:
            logger.addHandler(handler)
        try:
            Client(enforce_csrf_checks=True, raise_request_exception=False).generic(
                more.get("method", "GET"), url
            )
        finally:
            for logger in loggers:
                logger.removeHandler(handler)
        return out.getvalue()

    def test_a_refusal_that_was_meant_is_a_warning(self) -> None:
        def level(status: int, failed: bool = False) -> str:
            info = (ValueError, ValueError("no"), None) if failed else None
            record = logging.LogRecord("django.request", logging.ERROR, "", 1, "%s", ("x",), info)
            record.status_code = status
            for make in logging_of("plain", testing=False)["filters"].values():  # type: ignore
                make["()"]().filter(record)
            return record.levelname

        self.assertEqual(level(503), "WARNING")
        self.assertEqual(level(503, failed=True), "ERROR")
        self.assertEqual(level(500), "ERROR")

    def test_no_token_of_an_address_is_logged(self) -> None:
        """Every address with a token in it: wrong, forged, broken and unknown."""
        secret, seen = "sEcret-tOken-0123456789", 0
        for name, args in every_url():
            if not {"token", "uidb64"} & set(args):
                continue
            url = reverse(name, args=[secret for _ in args])
            for method in ("GET", "POST"):
                said = self.lines(url, method=method)
                self.assertNotIn(secret, said, name)
                seen += bool(said)
            with patch("django.views.generic.base.View.dispatch", side_effect=RuntimeError):
                self.assertNotIn(secret, self.lines(url), name)
        self.assertGreater(seen, 3)
        said = self.lines(f"/verdicts/s/{secret}/nothing/of/the/kind")
        self.assertIn("an unknown address", said)
        self.assertNotIn(secret, said)

    def test_other_lines_name_the_route(self) -> None:
        self.assertIn("route", self.lines("/verdicts/s/x/"))
