"""The log's screens: entries, corrections, photographs kept with them, walks, pairs."""

from __future__ import annotations

import json
import re
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from ironmargin.learning.learn import learn
from ironmargin.learning.log import read_log
from ironmargin.setup.reading import read_setup
from ironmargin.starting.known import ROWS
from tests.kinds import SUPPLIES, question
from tests.shared import document
from tests.web.screens import Screens
from web.bench.models import BenchRun
from web.logbook.demo import LOGGED, entries_for
from web.logbook.models import LogEntry
from web.setups import judging, repository
from web.setups.demo import documents
from web.setups.models import SavedSetup
from web.steps.models import Checklist


class LogScreen(Screens):
    number = 1

    def start(self, **more: Any) -> dict[str, Any]:
        return {
            "kind": "start",
            "entry.load": "roof",
            "entry.peak_a": "40",
            "entry.instrument": "inrush-clamp",
            "entry.on": "supply",
            "units": "si",
        } | more

    def test_an_entry_is_kept_once_and_judged_as_the_core_does(self) -> None:
        for _ in range(2):
            self.post("log-add", self.saved.pk, 302, once="abc", **self.start())
        row = LogEntry.objects.get()
        self.assertEqual(row.document["peak_a"], 40.0)
        text = self.text("log")
        found = learn(self.setup, read_log({"entries": [row.document]}, self.setup))
        for judged in found.entries:
            self.assertIn(judged.sentence.replace("'", "&#x27;"), text)
        for figure in found.figures:
            self.assertIn(figure.label, text)

    def test_what_was_read_before_is_written_down_with_its_time(self) -> None:
        for n, (when, at) in enumerate((
            ("2026-07-04T14:05", "2026-07-04T14:05:00-06:00"),
            ("2026-07-04T14:05:00+02:00", "2026-07-04T14:05:00+02:00"),
        )):  # fmt: skip
            posted = self.start() | {"when": when, "offset": "360", "once": f"w{n}"}
            self.post("log-add", self.saved.pk, 302, **posted)
            self.assertEqual(LogEntry.objects.get(once__endswith=f"w{n}").document["at"], at)
        for bad, words in (("yesterday", "When: must be a date"), ("2999-01-01T00:00", "future")):
            answer = self.client.post(
                reverse("log-add", args=[self.saved.pk]), self.start() | {"when": bad}
            )
            self.assertContains(answer, words, status_code=422)
            self.assertContains(answer, bad, status_code=422)

    def test_a_tripped_evening_replays_on_the_bench(self) -> None:
        tripped = {"kind": "trip", "entry.where": "set", "running": ["roof"], "units": "si"}
        self.post("log-add", self.saved.pk, 302, **tripped)
        text = self.text("log")
        form = text[text.index(reverse("bench-begin", args=[self.saved.pk])) :]
        posted = re.findall(r'name="(how|on|runs)" value="(\w+)"', form[: form.index("</form>")])
        self.assertEqual(posted, [("how", "now"), ("on", "roof"), ("runs", "1")])
        self.post("bench-begin", self.saved.pk, 302, **dict(posted))
        acts = BenchRun.objects.get().acts
        self.assertIn(("load", "roof"), [(a["do"], a.get("what")) for a in acts])

    def test_bad_input_is_named_by_its_field_and_nothing_typed_is_lost(self) -> None:
        text = self.post("log-add", self.saved.pk, 422, **self.start(**{"entry.peak_a": "-4"}))
        self.assertIn("must be at least 0", text)
        self.assertIn('value="-4"', text)
        text = self.post("log-add", self.saved.pk, 422, **self.start(**{"entry.peak_a": "lots"}))
        self.assertIn("must be a number", text)
        self.post("log-add", self.saved.pk, 422, **self.start(**{"entry.load": "nobody"}))
        self.assertEqual(LogEntry.objects.count(), 0)

    def test_a_start_says_what_was_on_beside_it(self) -> None:
        """As wanted, nothing, or the loads that were ticked; never the load itself."""
        others = [x.id for x in self.setup.rig.loads if x.id != "roof"]
        names = [x.name for x in self.setup.rig.loads if x.id != "roof"]
        self.assertGreater(len(others), 0)
        for beside, said, words in (
            ("", None, ""),
            ("alone", [], ", alone<"),
            ("these", others[:1], f"with {names[0]} on"),
        ):
            fields = self.start(beside=beside, running=["roof", others[0]], once=beside)
            self.post("log-add", self.saved.pk, 302, **fields)
            stored = LogEntry.objects.order_by("-pk")[0].document
            self.assertEqual(stored.get("with_running"), said)
            self.assertIn(words, self.text("log"))

    def test_what_was_ticked_stands_there_after_a_fault(self) -> None:
        other = next(x.id for x in self.setup.rig.loads if x.id != "roof")
        for kind, place in (("start", {"beside": "these"}), ("trip", {"entry.after_s": "-4"})):
            fields = {"kind": kind, "entry.load": "roof", "entry.peak_a": "-4", "units": "si"}
            text = self.post("log-add", self.saved.pk, 422, running=[other], **fields | place)
            ticked = re.findall(r'name="running" value="([^"]+)"\s+checked', text)
            self.assertEqual(ticked, [other], kind)

    def test_what_is_wanted_is_ticked_at_first(self) -> None:
        text = self.text("log")
        ticked = re.findall(r'name="running" value="([^"]+)"\s+checked', text)
        wanted = {w.load for w in self.setup.wanted}
        always = {x.id for x in self.setup.rig.loads if x.always_on}
        self.assertEqual(set(ticked), wanted | always)

    def test_every_kind_has_a_form_that_keeps(self) -> None:
        for kind, fields in (
            ("run", {"entry.load": "roof", "entry.amps": "13"}),
            ("supply", {"entry.volts": "121", "entry.amps": "2"}),
            ("noise", {"entry.dba": "66", "entry.at_m": "3"}),
            ("fuel", {"entry.litres": "4", "entry.hours": "5", "entry.mean_w": "900"}),
            ("energy", {"entry.hours": "10", "entry.kwh": "8"}),
            ("trip", {"entry.where": "set", "running": ["roof"]}),
        ):
            self.assertContains(
                self.client.get(reverse("log", args=[self.saved.pk]), {"kind": kind}),
                "Save</button>",
            )
            self.post("log-add", self.saved.pk, 302, kind=kind, units="si", **fields)
            self.assertEqual(LogEntry.objects.filter(kind=kind).count(), 1, kind)

    def test_what_only_an_engine_has_is_asked_for_beside_an_engine(self) -> None:
        for kind in SUPPLIES:
            setup = question(kind)
            saved = repository.store(self.owner, judging.judge(setup))
            text = self.text("log", saved.pk)
            engine = bool(read_setup(setup).supply.engines)
            for of_engine in ("?kind=noise", "?kind=fuel", "entry.lowest_hz"):
                self.assertEqual(of_engine in text, engine, f"{kind}: {of_engine}")
            requested = self.text("log", saved.pk, kind="noise")
            self.assertIn("entry.background_dba", requested)  # who asks for one has it

    def test_corrections_are_taken_declined_and_told_once(self) -> None:
        for peak in ("40", "39"):
            fields = self.start(**{"entry.peak_a": peak})
            self.post("log-add", self.saved.pk, 302, **fields)
        setup = read_setup(repository.compose(self.saved))
        log = read_log({"entries": [x.document for x in LogEntry.objects.all()]}, setup)
        field = learn(setup, log).figures[0]
        self.post("log-correct", self.saved.pk, 302, field=[field.field])
        self.saved.refresh_from_db()
        corrected = repository.compose(SavedSetup.objects.get(pk=self.saved.pk))
        learned = corrected["x"]["learned"]
        self.assertEqual(len(learned["entries"]), 2)
        self.assertEqual(list(learned["figures"]), [field.field])
        draws = (corrected["rig"], corrected["supply"])
        self.assertTrue(all(len(part["x"]["learned"]["rows"]) == ROWS for part in draws))
        text = self.text("log")
        self.assertIn("Nothing to correct", text)
        self.assertIn("Learned from already", text)

    def test_an_open_ground_stops_verdict_and_hook_up_until_a_later_look_clears_it(self) -> None:
        self.saved = repository.store(
            self.saved.owner, judging.judge(document(7) | {"name": "post"})
        )
        self.post(
            "log-add", self.saved.pk, 302, **{"kind": "supply", "entry.tester": "open-ground"}
        )
        self.saved.refresh_from_db()
        self.assertEqual(self.saved.verdict, "fails")
        self.assertIn("The tester shows an open ground", self.text("setup"))
        self.assertIn("Do not plug in", self.text("steps"))
        self.post("log-add", self.saved.pk, 302, **{"kind": "supply", "entry.tester": "correct"})
        self.saved.refresh_from_db()
        self.assertNotEqual(self.saved.verdict, "fails")
        self.assertNotIn("Do not plug in", self.text("steps"))

    def test_a_soft_starter_fitted_later_makes_its_own_before_and_after(self) -> None:
        bare = document(13)
        self.saved = repository.store(self.saved.owner, judging.judge(bare | {"name": "bare"}))
        for place, peak in (("supply", "34"), ("compressor-wire", "31")):
            fields = self.start(**{"entry.peak_a": peak, "entry.on": place})
            self.post("log-add", self.saved.pk, 302, **fields)
        rig = self.saved.rig
        rig.document["loads"][0]["start"] = "soft-start"
        rig.save()
        self.assertIn("Saved", self.text("log"))
        for place, peak in (("supply", "22"), ("compressor-wire", "19")):
            fields = self.start(**{"entry.peak_a": peak, "entry.on": place})
            self.post("log-add", self.saved.pk, 302, **fields)
        text = self.text("log-pairs")
        self.assertIn("34.0 A before, 22.0 A after", text)
        self.assertIn("31.0 A before, 19.0 A after", text)

    def test_what_to_measure_next_follows_the_instruments_one_has(self) -> None:
        self.saved = repository.store(
            self.saved.owner, judging.judge(document(9) | {"name": "pair"})
        )
        self.assertIn("times in 100 as far as is known", self.text("log"))
        answer = self.client.get(reverse("log", args=[self.saved.pk]), {"haves": "1", "have": "x"})
        self.assertNotContains(answer, "Read the peak of")
        self.assertContains(answer, "write down how each start ends")

    def test_an_entry_is_taken_out_and_put_back(self) -> None:
        self.post("log-add", self.saved.pk, 302, **self.start())
        row = LogEntry.objects.get()
        url = reverse("log-drop", args=[self.saved.pk, row.pk])
        self.client.post(url)
        self.assertIn("Nothing yet", self.text("log"))
        self.client.post(url, {"back": "1"})
        self.assertNotIn("Nothing yet", self.text("log"))

    def test_a_log_file_goes_out_and_comes_in_and_bad_entries_are_named(self) -> None:
        self.post("log-add", self.saved.pk, 302, **self.start())
        raw = self.client.get(reverse("log-export", args=[self.saved.pk])).content
        data = json.loads(raw)
        self.assertEqual(data["format"], "iron-margin/log")
        data["entries"].append({"kind": "start", "load": "roof", "peak_a": -3})
        file = SimpleUploadedFile("l.json", json.dumps(data).encode())
        answer = self.client.post(reverse("log-take-in", args=[self.saved.pk]), {"file": file})
        self.assertContains(answer, "Entry 2: highest amps", status_code=422)
        self.assertEqual(LogEntry.objects.count(), 2)
        for bad in (b"{", b"[]", b'{"entries": 4}', b'{"entries": [3]}', b"\xff\xfe"):
            file = SimpleUploadedFile("l.json", bad)
            answer = self.client.post(reverse("log-take-in", args=[self.saved.pk]), {"file": file})
            self.assertEqual(answer.status_code, 422, bad)

    def test_a_capture_is_drawn_before_it_is_kept(self) -> None:
        rows = "\n".join(
            f"{n / 100};{40 if n < 30 else 14};{90 if n < 30 else 119}" for n in range(90)
        )
        url = reverse("log-capture", args=[self.saved.pk])
        answer = self.client.post(
            url, {"file": SimpleUploadedFile("c.csv", f"t;i;u\n{rows}".encode())}
        )
        self.assertContains(answer, "The capture: 40 A at most")
        self.assertEqual(LogEntry.objects.count(), 0)
        trace = re.search(r'name="trace" value="([^"]*)"', answer.content.decode())
        assert trace is not None
        fields = self.start(trace=trace[1]) | {"entry.peak_a": "", "entry.instrument": "trace"}
        self.post("log-add", self.saved.pk, 302, **fields)
        self.assertEqual(len(LogEntry.objects.get().document["trace"]), 90)
        answer = self.client.post(url, {"file": SimpleUploadedFile("c.csv", b"t,i\n0,1\n1,nan")})
        self.assertContains(answer, "line 3, column 2", status_code=422)

    def test_the_demo_logs_have_what_they_promise(self) -> None:
        for doc in documents():
            if doc["name"] not in LOGGED:
                continue
            setup = read_setup(doc)
            entries = entries_for(setup)
            log = read_log({"format": "iron-margin/log", "version": 1, "entries": entries}, setup)
            self.assertGreaterEqual(len(log.entries), 12, doc["name"])
            judged = {j.judged for j in learn(setup, log).entries}
            if any(e["kind"] == "start" for e in entries):
                self.assertLessEqual({"too-slow", "cancelled"}, judged, doc["name"])


class Held(Screens):
    """What a device may forget: only what an answer of ours says is held."""

    number = 4

    def queued(self, url: str, **fields: str) -> Any:
        return self.client.post(url, fields, headers={"X-Queued": "1"})

    def test_a_reading_that_is_kept_says_so_and_where_to_go(self) -> None:
        url = reverse("log-add", args=[self.saved.pk])
        load = self.setup.rig.loads[0].id
        fields = {"kind": "run", "once": "a", "units": "si", "entry.load": load}
        stored = self.queued(url, **fields, **{"entry.amps": "9"})
        self.assertEqual((stored.status_code, stored["X-Stored"]), (204, "1"))
        self.assertIn(reverse("log", args=[self.saved.pk]), stored["X-Next"])
        again = self.queued(url, **fields, **{"entry.amps": "9"})  # sent twice, it counts once
        self.assertEqual(again["X-Stored"], "1")
        self.assertEqual(LogEntry.objects.count(), 1)
        wrong = self.queued(url, **fields, **{"entry.amps": "many"})
        self.assertEqual(wrong.status_code, 422)
        self.assertNotIn("X-Stored", wrong)

    def test_a_full_log_holds_nothing_and_keeps_what_was_typed(self) -> None:
        url = reverse("log-add", args=[self.saved.pk])
        fields = {"kind": "run", "once": "b", "units": "si", "entry.amps": "9.25"}
        fields |= {"entry.load": self.setup.rig.loads[0].id}
        with mock.patch("web.logbook.service.MAX_ENTRIES", 0):
            full = self.queued(url, **fields)
        self.assertEqual(full.status_code, 422)
        self.assertNotIn("X-Stored", full)
        self.assertContains(full, "This log is full", status_code=422)
        self.assertContains(full, "9.25", status_code=422)

    def test_a_wrong_figure_costs_none_of_the_others(self) -> None:
        url = reverse("log-add", args=[self.saved.pk])
        fields = {"kind": "run", "units": "si", "entry.amps": "9.25", "entry.volts": "high"}
        said = self.queued(url, **fields, **{"entry.load": self.setup.rig.loads[0].id})
        for typed in ("9.25", "high"):
            self.assertContains(said, f'value="{typed}"', status_code=422)

    def test_nobody_s_answer_holds_anything(self) -> None:
        self.client.logout()
        gone = self.queued(reverse("log-add", args=[self.saved.pk]), kind="run")
        self.assertNotIn("X-Stored", gone)

    def test_a_step_is_held_whether_its_gate_passes_or_not(self) -> None:
        self.client.post(reverse("steps-begin", args=[self.saved.pk]), {"for": "shut-down"})
        held = Checklist.objects.get()
        url = reverse("steps-go", args=[held.pk])
        self.assertEqual(self.queued(url, place="0")["X-Stored"], "1")

    def test_who_is_signed_in_is_told_without_a_name(self) -> None:
        told = self.client.get(reverse("who")).json()
        page = self.client.get(reverse("setups"))
        self.assertContains(page, f'data-who="{told["who"]}"')
        self.assertNotIn(self.owner.username, told["who"])
        self.assertTrue(told["token"])
        other = Client()
        self.assertEqual(other.get(reverse("who")).json()["who"], "")
