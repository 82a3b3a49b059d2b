"""How often the database is asked: not for what is not there, and not once a row."""

from __future__ import annotations

import json
import re
from typing import Any

from django.db import connection
from django.template import Context, Template
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.shared import document
from tests.web.test_inventory import Base
from web.logbook.models import LogEntry
from web.rigs import service
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.context import at_hand
from web.setups.models import SavedSetup
from web.storage.views import one_of


class Requested(Base):
    def requested(self, path: str, form: dict[str, Any] | None = None, **headers: str) -> list[str]:
        """The queries of one request; sign-in, session and the count of tries left out, which ask
        once more where a new minute begins.
        """
        with CaptureQueriesContext(connection) as seen:
            if form is None:
                answer = self.client.get(path, headers=headers)
            else:
                answer = self.client.post(path, form, headers=headers)
        self.assertEqual(answer.status_code, 200, path)
        found = [q["sql"] for q in seen.captured_queries]
        beside = ("django_session", "auth_user", "accounts_tally", "accounts_signin")
        return [q for q in found if not any(table in q for table in beside)]


class Parts(Requested):
    """A part of a page, asked for at every change of a figure."""

    def form(self, heat: float, **more: Any) -> dict[str, Any]:
        changed = document(4) | {"conditions": {"outdoor_c": heat}}
        return {"document": json.dumps(changed), "units": "si"} | more

    def test_a_question_that_is_not_kept_asks_for_no_rig_supply_or_setup(self) -> None:
        found = self.requested(reverse("setup-preview"), self.form(31.5), **{"HX-Request": "true"})
        for table in ("rigs_rig", "supplies_supply", "setups_savedsetup"):
            self.assertFalse([q for q in found if f"FROM `{table}`" in q], table)
        self.assertEqual(sum("setups_draft" in q for q in found), 1)

    def test_one_computed_before_asks_once_and_writes_no_verdict(self) -> None:
        url = reverse("setup-preview")
        self.requested(url, self.form(32.5))
        again = self.requested(url, self.form(32.5))
        self.assertFalse([q for q in again if q.startswith("INSERT") and "judgement" in q])
        self.assertEqual(sum(q.startswith("SELECT") and "judgement" in q for q in again), 1)

    def test_a_kept_one_is_asked_for_with_its_rig_and_supply(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(4)))
        found = self.requested(reverse("setup-preview"), self.form(33.5, saved=saved.pk))
        self.assertTrue([q for q in found if "FROM `setups_savedsetup`" in q])

    def test_none_is_asked_for_without_a_number(self) -> None:
        def mine() -> Any:
            return Rig.objects.of(self.owner)

        for text in (None, "", "0", "x", "-1", "9" * 30):
            with self.assertNumQueries(0):
                self.assertIsNone(one_of(mine, text))
        with self.assertNumQueries(1):
            self.assertEqual(one_of(mine, str(self.rig.pk)), self.rig)
        with self.assertNumQueries(1):
            self.assertIsNone(one_of(lambda: Rig.objects.of(self.other), str(self.rig.pk)))


class Header(Requested):
    """What stands on every page is asked for where it is drawn."""

    def context(self) -> dict[str, Any]:
        request = self.client.get(reverse("rigs")).wsgi_request
        return at_hand(request)

    def test_nothing_is_asked_for_until_it_is_drawn(self) -> None:
        repository.store(self.owner, judging.judge(document(4)))
        context = self.context()
        with self.assertNumQueries(0):
            Template("{% if access.may_change %}{{ inventory|length }}{% endif %}").render(
                Context(context)
            )

    def test_the_setup_at_hand_is_asked_for_once(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(4)))
        self.client.get(reverse("setup", args=[saved.pk]))
        context = self.context()
        both = Template("{{ at_hand.name }} {{ at_hand.pk }} {{ of_the_setup|length }}")
        with self.assertNumQueries(1):
            words = both.render(Context(context))
        self.assertIn(str(saved.pk), words)
        self.assertTrue(words.endswith(" 8"), words)

    def test_pages_and_stations_have_keys_of_their_own(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(4)))
        page = self.client.get(reverse("setup", args=[saved.pk])).content.decode()
        keys = re.findall(r'data-key="(\w)"', page)
        self.assertEqual(len(keys), len(set(keys)))
        self.assertGreaterEqual(len(keys), 12)

    def test_without_a_setup_there_are_no_stations(self) -> None:
        context = self.context()
        self.assertEqual(context["of_the_setup"](), [])
        self.assertEqual(len(context["thumbs"]()), 4)

    def test_somebody_else_s_is_not_at_hand(self) -> None:
        theirs = repository.store(self.other, judging.judge(document(4)))
        session = self.client.session
        session["setup"] = theirs.pk
        session.save()
        self.assertIsNone(self.context()["at_hand"]())


class Lists(Requested):
    """A list of many things asks as often as one of a few."""

    def many(self, count: int) -> None:
        for n in range(count):
            service.make(self.owner, f"Rig {n}", "120")
        for n in range(count):
            repository.store(self.owner, judging.judge(document(4) | {"name": f"Setup {n}"}))

    def test_lists_of_things(self) -> None:
        self.many(2)
        paths = [reverse(name) for name in ("rigs", "supplies", "setups")]
        few = [len(self.requested(path)) for path in paths]
        self.many(8)
        self.assertEqual([len(self.requested(path)) for path in paths], few)

    def test_side_by_side(self) -> None:
        self.many(6)
        numbers = list(SavedSetup.objects.of(self.owner).values_list("pk", flat=True))
        url = reverse("setup-compare")

        def requested(count: int) -> int:
            return len(self.requested(f"{url}?{'&'.join(f'pk={n}' for n in numbers[:count])}"))

        requested(6)  # everything is computed and kept by then
        self.assertLessEqual(requested(6) - requested(2), 8)  # two for each further one, at most

    def test_a_log_of_many_entries(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(4)))
        load = document(4)["rig"]["loads"][0]["id"]
        url = reverse("log", args=[saved.pk])

        def add(count: int) -> None:
            run = {"kind": "run", "load": load, "amps": 9.0}
            LogEntry.objects.bulk_create(
                LogEntry(setup=saved, kind="run", document=run | {"amps": 9.0 + n / 50})
                for n in range(count)
            )

        add(2)
        self.requested(url)
        few = len(self.requested(url))
        add(30)
        self.requested(url)
        self.assertEqual(len(self.requested(url)), few)
