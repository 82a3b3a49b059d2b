"""The interface for programs: the pages' own actions, by token and within its scope."""

from __future__ import annotations

import gzip
import json
from datetime import timedelta
from typing import Any
from unittest import mock

import schemathesis
from django.contrib.auth.models import User
from django.core.signals import request_finished, request_started
from django.core.wsgi import get_wsgi_application
from django.db import close_old_connections
from django.test import Client, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings

from benchmarks.costliest import question as costly
from ironmargin.planning.answer import check
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.result import result_json
from tests.shared import document
from web.accounts.demo import DEMO_USER
from web.api import lane
from web.api.models import READ, WRITE, Token, make
from web.api.wire import etag_of
from web.logbook.models import LogEntry
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage.models import Change
from web.verdicts.models import Job

V1 = "/api/v1"


def question() -> dict[str, Any]:
    return document(2) | {"rules": {"trials": 0}}


class WithTokens(TestCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.saved = repository.store(self.owner, judging.judge(question()))
        _, self.write = make(self.owner, "writer", WRITE, 7)
        _, self.read = make(self.owner, "reader", READ, 7)

    def call(self, method: str, path: str, body: Any = None, **more: Any) -> Any:
        headers = {"Authorization": f"Bearer {more.pop('token', self.write)}"}
        headers |= {k.replace("_", "-"): v for k, v in more.items()}
        data = json.dumps(body) if body is not None and not isinstance(body, bytes) else body
        return Client().generic(
            method.upper(), V1 + path, data or b"", "application/json", headers=headers
        )

    def problem(self, answer: Any, status: int) -> dict[str, Any]:
        self.assertEqual(answer.status_code, status, answer.content[:300])
        self.assertEqual(answer["Content-Type"], "application/problem+json")
        found: dict[str, Any] = answer.json()
        self.assertEqual(found["status"], status)
        return found


class Verdicts(WithTokens):
    def test_it_is_the_core_s_own(self) -> None:
        expected = json.loads(json.dumps(result_json(check(read_setup(question())))))
        for answer in (
            self.call("post", "/verdicts", question()),
            self.call("get", f"/setups/{self.saved.pk}/verdict", token=self.read),
        ):
            self.assertEqual(answer.status_code, 200)
            self.assertEqual(answer.json()["verdict"], expected["verdict"])
            self.assertEqual(answer.json()["starts"], expected["starts"])

    def test_a_former_name_is_read_with_a_warning(self) -> None:
        plain = self.call("post", "/verdicts", question() | {"rules": {"trip_criterion": "peak"}})
        self.assertNotIn("Warning", plain)
        former = self.call("post", "/verdicts", question() | {"rules": {"breaker_school": "peak"}})
        self.assertIn("breaker_school is now called trip_criterion", former["Warning"])
        self.assertEqual(former.json(), plain.json())

    def test_faults_have_the_forms_own_codes(self) -> None:
        bad = question()
        bad["rig"]["loads"][0]["running_a"] = -1
        found = self.problem(self.call("post", "/verdicts", bad), 422)
        judged = judging.judge(bad)
        self.assertEqual(
            [(f["path"], f["code"]) for f in found["faults"]],
            [(f.path, f.code) for f in judged.faults],
        )


class DearVerdicts(WithTokens):
    """Those that would stand in a page's way are computed apart, a few at a time."""

    def dear(self) -> dict[str, Any]:
        found = costly(6, 10, 1000)
        self.assertTrue(lane.is_dear(read_setup(found)))
        self.assertFalse(lane.is_dear(read_setup(document(7))))
        return found

    def test_one_from_apart_is_the_same_verdict(self) -> None:
        requested = self.dear()
        # As soon as anybody: what stands behind everybody gets no turn on a machine that tests.
        prompt = lane.Lane(nice=0)
        self.addCleanup(prompt.end)
        with (
            mock.patch.object(repository, "judge", side_effect=AssertionError("computed here")),
            mock.patch.object(lane, "LANE", prompt),
        ):
            answer = self.call("post", "/verdicts", requested)
        self.assertEqual(answer.status_code, 200)
        here = result_json(check(read_setup(requested)))
        for key in ("verdict", "iron_margin", "starts", "limits"):
            self.assertEqual(answer.json()[key], json.loads(json.dumps(here[key])), key)

    def test_so_is_that_of_a_setup_that_was_kept(self) -> None:
        stored = self.call("post", "/setups/", self.dear())
        self.assertEqual(stored.status_code, 201)
        with (
            mock.patch.object(repository, "judge", side_effect=AssertionError("computed here")),
            mock.patch.object(lane.LANE, "verdict", return_value={"verdict": "thin"}) as apart,
        ):
            answer = self.call("get", f"/setups/{stored.json()['id']}/verdict")
        self.assertEqual(answer.json()["verdict"], "thin")
        apart.assert_called_once()

    def test_who_comes_when_it_is_full_is_told_to_come_again(self) -> None:
        requested = self.dear()
        for _ in range(lane.MAX_INSIDE):
            self.assertTrue(lane.LANE.inside.acquire(blocking=False))
        try:
            answer = self.call("post", "/verdicts", requested)
            self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "3"))
            self.assertIn("Ask again in a few seconds", answer.json()["detail"])
            self.assertEqual(self.call("post", "/verdicts", document(7)).status_code, 200)
        finally:
            for _ in range(lane.MAX_INSIDE):
                lane.LANE.inside.release()

    def test_one_that_ends_badly_gives_its_place_back(self) -> None:
        requested = self.dear()
        with mock.patch.object(lane.LANE, "max_wait_s", 0.0):
            self.assertEqual(self.call("post", "/verdicts", requested).status_code, 503)
        self.assertEqual(lane.LANE.inside._value, lane.MAX_INSIDE)
        bad = requested | {"supply": {"kind": "generator"}}
        self.assertEqual(self.call("post", "/verdicts", bad).status_code, 422)


class Things(WithTokens):
    def test_a_rig_made_read_changed_and_deleted(self) -> None:
        sound = self.saved.rig.document
        made = self.call("post", "/rigs/", {"name": "Second", "document": sound})
        self.assertEqual(made.status_code, 201)
        one = f"/rigs/{made.json()['id']}"
        same = self.call("get", one, if_none_match=made["ETag"])
        self.assertEqual((same.status_code, same.content), (304, b""))
        body = {"name": "Third", "document": sound}
        self.problem(self.call("put", one, body), 428)
        self.problem(self.call("put", one, body, if_match='"rig-1-99"'), 412)
        put = self.call("put", one, body, if_match=made["ETag"])
        self.assertEqual((put.status_code, put.json()["version"]), (200, 2))
        self.assertEqual(Change.objects.filter(kind="rig").first().what, "renamed to Third")
        self.problem(self.call("delete", one, if_match=made["ETag"]), 412)
        self.assertEqual(self.call("delete", one, if_match=put["ETag"]).status_code, 204)
        self.problem(self.call("get", one), 404)

    def test_a_bad_document_is_never_kept(self) -> None:
        for path, bad in (("/rigs/", {"loads": 1}), ("/supplies/", {"kind": []})):
            found = self.problem(self.call("post", path, {"name": "x", "document": bad}), 422)
            self.assertTrue(found["faults"])
        self.assertEqual(Rig.objects.count(), 1)

    def test_setups_and_their_versions(self) -> None:
        path = f"/setups/{self.saved.pk}"
        got = self.call("get", path)
        changed = got.json()["document"]
        self.assertEqual(changed, repository.compose(self.saved))
        changed["rig"]["loads"][0]["lra_a"] = 47
        put = self.call("put", path, changed, if_match=got["ETag"])
        self.assertEqual(put.status_code, 200)
        self.assertEqual(Rig.objects.get().document["loads"][0]["lra_a"], 47)
        self.problem(self.call("put", path, changed, if_match=got["ETag"]), 412)
        made = self.call("post", "/setups/", question() | {"name": "by a program"})
        self.assertEqual(made.status_code, 201)
        self.assertEqual(self.call("delete", path, if_match=put["ETag"]).status_code, 204)

    def test_a_program_that_asks_for_compression_reads_changes_and_writes(self) -> None:
        """What is compressed on the way comes with a weak tag; it names the same version."""
        path = f"/setups/{self.saved.pk}"
        got = self.call("get", path, accept_encoding="gzip")
        self.assertEqual(got["Content-Encoding"], "gzip")
        self.assertTrue(got["ETag"].startswith("W/"))
        same = self.call("get", path, accept_encoding="gzip", if_none_match=got["ETag"])
        self.assertEqual((same.status_code, same.content), (304, b""))
        changed = json.loads(gzip.decompress(got.content))["document"] | {"name": "Renamed"}
        put = self.call("put", path, changed, accept_encoding="gzip", if_match=got["ETag"])
        self.assertEqual(put.status_code, 200)
        self.problem(self.call("put", path, changed, if_match=got["ETag"]), 412)

    def test_a_stale_setup_never_puts_the_figures_of_its_rig_back(self) -> None:
        path = f"/setups/{self.saved.pk}"
        got = self.call("get", path)
        rig = self.call("get", f"/rigs/{self.saved.rig_id}")
        better = rig.json()["document"]
        better["loads"][0]["lra_a"] = 41
        body = {"name": "Better", "document": better}
        path_of_rig = f"/rigs/{self.saved.rig_id}"
        self.assertEqual(self.call("put", path_of_rig, body, if_match=rig["ETag"]).status_code, 200)
        self.problem(self.call("put", path, got.json()["document"], if_match=got["ETag"]), 412)
        self.assertEqual(Rig.objects.get().document["loads"][0]["lra_a"], 41)
        fresh = self.call("get", path, if_none_match=got["ETag"])
        self.assertEqual(fresh.status_code, 200)

    def test_pages_go_on_where_the_last_one_ended(self) -> None:
        for n in range(54):
            Rig.objects.create(owner=self.owner, name=f"n{n}", document={})
        seen, cursor = [], ""
        while True:
            page = self.call("get", f"/rigs/{cursor}", token=self.read).json()
            seen += [x["id"] for x in page["items"]]
            if page["next"] is None:
                break
            cursor = f"?cursor={page['next']}"
        self.assertEqual(seen, sorted(seen, reverse=True))
        self.assertEqual(len(seen), 55)

    def test_the_log(self) -> None:
        path = f"/setups/{self.saved.pk}/log"
        load = self.saved.rig.document["loads"][0]["id"]
        entry = {"kind": "run", "load": load, "amps": 9.5}
        for _ in range(2):
            stored = self.call("post", f"{path}?once=a1", entry)
            self.assertEqual(stored.status_code, 201)
        self.assertEqual(len(self.call("get", path, token=self.read).json()), 1)
        found = self.problem(
            self.call("post", path, {"kind": "run", "load": load, "amps": -1}), 422
        )
        self.assertIn("amps", found["faults"][0]["path"])
        gone = self.call("delete", f"{path}/{stored.json()['id']}")
        self.assertEqual(gone.status_code, 204)
        self.assertFalse(LogEntry.objects.filter(deleted_at=None).exists())

    def test_a_search_with_its_progress(self) -> None:
        requested = {"kind": "remedies", "document": question()}
        task = self.call("post", "/tasks/", requested, token=self.read)
        self.assertEqual(task.status_code, 202)
        found = self.call("get", f"/tasks/{task.json()['id']}").json()
        self.assertEqual(found["status"], "done")  # tests run searches at once
        self.assertIn("remedies", found["answer"])
        Job.objects.update(status="running")
        self.assertEqual(self.call("delete", f"/tasks/{found['id']}").status_code, 204)
        self.assertEqual(Job.objects.get().status, "cancelled")
        self.problem(self.call("post", "/tasks/", {"kind": "sweep", "document": {}}), 422)


class WhoMay(WithTokens):
    def changes(self) -> list[tuple[str, str, Any]]:
        rig = {"name": "x", "document": self.saved.rig.document}
        pk = self.saved.pk
        return [
            ("post", "/rigs/", rig),
            ("put", f"/rigs/{self.saved.rig_id}", rig),
            ("delete", f"/rigs/{self.saved.rig_id}", None),
            ("post", "/supplies/", {"name": "x", "document": self.saved.supply.document}),
            ("delete", f"/supplies/{self.saved.supply_id}", None),
            ("post", "/setups/", question()),
            ("put", f"/setups/{pk}", question()),
            ("delete", f"/setups/{pk}", None),
            ("post", f"/setups/{pk}/log", {"kind": "run", "load": "roof", "amps": 9}),
        ]

    def test_a_reading_token_changes_nothing(self) -> None:
        items = {"rigs": self.saved.rig, "supplies": self.saved.supply, "setups": self.saved}
        before = (Change.objects.count(), LogEntry.objects.count())
        for method, path, body in self.changes():
            item = items[path.split("/")[1]]
            answer = self.call(method, path, body, token=self.read, if_match=etag_of(item))
            self.problem(answer, 403)
        self.assertEqual((Change.objects.count(), LogEntry.objects.count()), before)

    def test_another_account_s_token_finds_nothing(self) -> None:
        _, theirs = make(User.objects.create_user("other"), "x", WRITE, 7)
        for method, path, body in self.changes():
            if path.count("/") > 1 and path[-1] != "/":
                self.problem(self.call(method, path, body, token=theirs, if_match='"x"'), 404)
        for path in ("/rigs/", "/supplies/", "/setups/"):
            self.assertEqual(self.call("get", path, token=theirs).json()["items"], [])

    def test_no_token_a_wrong_one_an_old_one_a_gone_one(self) -> None:
        Token.objects.filter(name="reader").update(expires_at=timezone.now() - timedelta(seconds=1))
        for token in ("", "im_x", self.read):
            found = self.call("get", "/rigs/", token=token)
            self.problem(found, 401)
            self.assertEqual(found["WWW-Authenticate"], "Bearer")
        self.owner.is_active = False
        self.owner.save()
        self.problem(self.call("get", "/rigs/"), 401)
        signed_in = Client()
        signed_in.force_login(User.objects.create_user("signed"))
        self.assertEqual(signed_in.get(f"{V1}/rigs/").status_code, 401)  # a cookie is no token

    @override_settings(LIMITS={"api": (3, 3600)})
    def test_too_often(self) -> None:
        codes = [self.call("get", "/rigs/").status_code for _ in range(5)]
        self.assertEqual(codes, [200, 200, 200, 429, 429])
        self.assertEqual(self.call("get", "/rigs/", token=self.read).status_code, 200)

    def test_the_secret_is_kept_nowhere(self) -> None:
        self.assertNotIn(self.write[3:], str(list(Token.objects.values())))


class TokensOnThePage(WithTokens):
    def test_made_shown_once_and_ended(self) -> None:
        self.client.force_login(self.owner)
        posted = {"name": "office", "scope": READ, "days": "30"}
        answer = self.client.post(reverse("token-make"), posted)
        secret = answer.content.decode().split("im_")[1].split("<")[0].strip()
        self.assertEqual(answer["Cache-Control"], "private, no-store")
        self.assertEqual(self.call("get", "/rigs/", token=f"im_{secret}").status_code, 200)
        page = self.client.get(reverse("programs"))
        self.assertNotContains(page, secret)
        self.assertContains(page, "GET /api/v1/setups/{pk}/verdict")
        held = Token.objects.get(name="office")
        other = Client()
        other.force_login(User.objects.create_user("other"))
        self.assertEqual(other.post(reverse("token-end", args=[held.pk])).status_code, 404)
        self.client.post(reverse("token-end", args=[held.pk]))
        self.problem(self.call("get", "/rigs/", token=f"im_{secret}"), 401)

    def test_bad_words_and_the_demo(self) -> None:
        self.client.force_login(self.owner)
        for posted in ({"name": ""}, {"name": "x", "scope": "all"}, {"name": "x", "days": "9999"}):
            answer = self.client.post(reverse("token-make"), {"scope": READ, "days": "7"} | posted)
            self.assertEqual(answer.status_code, 422)
        self.client.force_login(User.objects.create_user(DEMO_USER))
        self.assertEqual(self.client.post(reverse("token-make")).status_code, 404)


class Hostile(WithTokens):
    def test_bodies_that_are_worse_than_wrong(self) -> None:
        for raw in (
            b"{", b"[1]", b"\xff\xfe", b'{"a": NaN}', b'{"a": 1e999}', b'{"a":1,"a":2}',
            b"[" * 100_000, b'{"format": "\\ud800"}', b'{"y":' * 5000 + b"1" + b"}" * 5000,
        ):  # fmt: skip
            code = self.call("post", "/verdicts", raw).status_code
            self.assertIn(code, (400, 422), raw[:30])

    def test_every_operation_against_its_own_description(self) -> None:
        """Requests made from the OpenAPI document by schemathesis, valid and not: no 5xx, and every
        answer as described.
        """
        # As Django's own test client: a request must not hang up on the test's transaction.
        for signal in (request_started, request_finished):
            signal.disconnect(close_old_connections)
            self.addCleanup(signal.connect, close_old_connections)
        schema = schemathesis.openapi.from_wsgi(f"{V1}/openapi.json", get_wsgi_application())
        seen = 0
        for found in schema.get_all_operations():
            operation = found.ok()

            @settings(
                max_examples=8,
                deadline=None,
                database=None,
                phases=[Phase.generate],
                suppress_health_check=list(HealthCheck),
                derandomize=True,
            )
            @given(case=operation.as_strategy())
            def probe(case: Any) -> None:
                headers = {"Authorization": f"Bearer {self.write}", "Host": "testserver"}
                answer = case.call(headers=headers)
                case.validate_response(
                    answer,
                    checks=(
                        schemathesis.checks.not_a_server_error,
                        schemathesis.specs.openapi.checks.status_code_conformance,
                    ),
                )

            probe()
            seen += 1
        self.assertGreater(seen, 18)
        self.assertTrue(SavedSetup.objects.filter(pk=self.saved.pk).exists())
