"""Now, Log, Bench, Hours, Steps and Drills: what they say is what the core says, nothing is lost or
doubled, and who may see them.
"""

from __future__ import annotations

import html
import json
import re
from datetime import timedelta
from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from ironmargin.case import prepare
from ironmargin.enduring.endurance import lasting
from ironmargin.learning.learn import learn
from ironmargin.learning.log import read_log
from ironmargin.planning.now_table import key_of
from ironmargin.planning.present import present
from ironmargin.practice.drills import drill
from ironmargin.practice.facts import facts_of
from ironmargin.practice.lists import LISTS
from ironmargin.practice.next_step import after, begins, unmet
from ironmargin.practice.steps import applies, steps_of
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from ironmargin.setup.reading import read_setup
from ironmargin.starting.known import ROWS
from tests.shared import document
from tests.web.pages import PageCase, one_line
from web.bench import service as bench_service
from web.bench.models import BenchRun
from web.drills.models import DrillAnswer, DrillCard
from web.hours.models import AccountPrices
from web.logbook.demo import LOGGED, entries_for
from web.logbook.models import LogEntry
from web.now.models import RigNow
from web.setups import stored
from web.setups.demo import documents
from web.setups.models import SavedSetup
from web.steps.models import Checklist


class Screens(PageCase):
    number = 5

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.client.cookies["units"] = "si"
        doc = document(self.number) | {"rules": {"trials": 0}}
        self.saved = stored.keep(self.owner, stored.judge(doc))
        self.setup = read_setup(stored.compose(self.saved))

    def text(self, name: str, *args: Any, **asked: Any) -> str:
        answer = self.client.get(reverse(name, args=args or [self.saved.pk]), asked)
        self.assertEqual(answer.status_code, 200)
        return re.sub(r"\s+", " ", answer.content.decode())

    def post(self, name: str, pk: int, status: int, **fields: Any) -> str:
        answer = self.client.post(reverse(name, args=[pk]), fields)
        self.assertEqual(answer.status_code, status, answer.content.decode()[:400])
        return answer.content.decode()


class NowScreen(Screens):
    def test_every_chip_says_what_the_core_says(self) -> None:
        text = self.text("now")
        found = present(self.setup, {})
        for chip in found.chips:
            self.assertIn(chip.name, text)
        self.assertEqual(text.count("now-chip now-may"), sum(c.say == "may" for c in found.chips))

    def test_a_press_is_kept_shared_and_pressing_twice_is_once(self) -> None:
        ident = self.setup.rig.loads[0].id
        for _ in range(2):
            self.post("now-put", self.saved.pk, 302, set=f"{ident}=on")
        held = RigNow.objects.get()
        self.assertEqual((list(held.on), held.version), ([ident], 2))
        other = Client()
        other.force_login(self.owner)
        look = reverse("now-look", args=[self.saved.pk])
        self.assertEqual(other.get(look, {"version": 2}).status_code, 204)
        self.assertContains(other.get(look, {"version": 1}), 'aria-pressed="true"')
        self.post("now-put", self.saved.pk, 302, set=f"{ident}=off")
        self.assertEqual(RigNow.objects.get().on, {})

    def test_setups_of_one_rig_share_what_is_on(self) -> None:
        again = stored.keep(self.owner, stored.judge(stored.compose(self.saved)), what_if=False)
        if again.rig_id != self.saved.rig_id:
            SavedSetup.objects.filter(pk=again.pk).update(rig=self.saved.rig)
        ident = self.setup.rig.loads[0].id
        self.post("now-put", self.saved.pk, 302, set=f"{ident}=on")
        self.assertContains(self.client.get(reverse("now", args=[again.pk])), 'aria-pressed="true"')

    def test_nonsense_changes_nothing(self) -> None:
        for words in ("nobody=on", "=", "", "roof=loud", "x" * 5000):
            self.post("now-put", self.saved.pk, 302, set=words)
        self.assertEqual(RigNow.objects.get().version, 1)

    def test_the_table_for_a_phone_without_network(self) -> None:
        found = self.client.get(reverse("now-table", args=[self.saved.pk])).json()
        ids = [x.id for x in self.setup.rig.loads]
        self.assertGreaterEqual(len(found["states"]), 2 ** len(ids))
        for some in (set(), {ids[0]}, set(ids)):
            held = {x.id: None for x in self.setup.rig.loads if x.id in some and not x.always_on}
            off = frozenset(x.id for x in self.setup.rig.loads if x.always_on and x.id not in some)
            modes = {c.load: c.mode for c in present(self.setup, {}).chips}
            on = {k: modes[k] for k in held}
            now = present(self.setup, on, off)
            state = found["states"][key_of(on, off)]
            self.assertAlmostEqual(state["margin"], now.margin, places=5)
            says = {c.load: c.say for c in now.chips}
            self.assertEqual({k: c["say"] for k, c in state["chips"].items()}, says)


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

    def test_corrections_are_taken_declined_and_told_once(self) -> None:
        for peak in ("40", "39"):
            fields = self.start(**{"entry.peak_a": peak})
            self.post("log-add", self.saved.pk, 302, **fields)
        setup = read_setup(stored.compose(self.saved))
        log = read_log({"entries": [x.document for x in LogEntry.objects.all()]}, setup)
        field = learn(setup, log).figures[0]
        self.post("log-correct", self.saved.pk, 302, field=[field.field])
        self.saved.refresh_from_db()
        corrected = stored.compose(SavedSetup.objects.get(pk=self.saved.pk))
        learned = corrected["x"]["learned"]
        self.assertEqual(len(learned["entries"]), 2)
        self.assertEqual(list(learned["figures"]), [field.field])
        draws = (corrected["rig"], corrected["supply"])
        self.assertTrue(all(len(part["x"]["learned"]["rows"]) == ROWS for part in draws))
        text = self.text("log")
        self.assertIn("Nothing to correct", text)
        self.assertIn("Learned from already", text)

    def test_an_open_ground_stops_verdict_and_hook_up_until_a_later_look_clears_it(self) -> None:
        self.saved = stored.keep(self.saved.owner, stored.judge(document(7) | {"name": "post"}))
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
        self.saved = stored.keep(self.saved.owner, stored.judge(bare | {"name": "bare"}))
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
        self.saved = stored.keep(self.saved.owner, stored.judge(document(9) | {"name": "pair"}))
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
        kept = self.queued(url, **fields, **{"entry.amps": "9"})
        self.assertEqual((kept.status_code, kept["X-Kept"]), (204, "1"))
        self.assertIn(reverse("log", args=[self.saved.pk]), kept["X-Next"])
        again = self.queued(url, **fields, **{"entry.amps": "9"})  # sent twice, it counts once
        self.assertEqual(again["X-Kept"], "1")
        self.assertEqual(LogEntry.objects.count(), 1)
        wrong = self.queued(url, **fields, **{"entry.amps": "many"})
        self.assertEqual(wrong.status_code, 422)
        self.assertNotIn("X-Kept", wrong)

    def test_a_full_log_holds_nothing_and_keeps_what_was_typed(self) -> None:
        url = reverse("log-add", args=[self.saved.pk])
        fields = {"kind": "run", "once": "b", "units": "si", "entry.amps": "9.25"}
        fields |= {"entry.load": self.setup.rig.loads[0].id}
        with mock.patch("web.logbook.service.MOST_ENTRIES", 0):
            full = self.queued(url, **fields)
        self.assertEqual(full.status_code, 422)
        self.assertNotIn("X-Kept", full)
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
        self.assertNotIn("X-Kept", gone)

    def test_a_step_is_held_whether_its_gate_passes_or_not(self) -> None:
        self.client.post(reverse("steps-begin", args=[self.saved.pk]), {"for": "shut-down"})
        held = Checklist.objects.get()
        url = reverse("steps-go", args=[held.pk])
        self.assertEqual(self.queued(url, place="0")["X-Kept"], "1")

    def test_who_is_signed_in_is_told_without_a_name(self) -> None:
        told = self.client.get(reverse("who")).json()
        page = self.client.get(reverse("setups"))
        self.assertContains(page, f'data-who="{told["who"]}"')
        self.assertNotIn(self.owner.username, told["who"])
        self.assertTrue(told["token"])
        other = Client()
        self.assertEqual(other.get(reverse("who")).json()["who"], "")


class Walks(Screens):
    number = 4

    def go(self, status: int = 302, **fields: str) -> str:
        return self.post("log-survey-next", self.saved.pk, status, **fields)

    def test_a_survey_step_by_step_becomes_an_entry(self) -> None:
        self.assertIn("Everything off", self.text("log-survey"))
        self.assertIn("type the amps", self.go(422))
        self.assertIn("must be a number", self.go(422, amps="many"))
        self.assertIn("must be a number", self.go(422, amps="3", volts="1e9"))
        self.go(amps="0.5", volts="121")
        self.go(amps="9")
        self.go(back="1")
        modes = sum(3 for x in self.setup.rig.loads if isinstance(x, AirConditioner))
        self.assertGreater(modes, 0)
        asked = len(self.setup.rig.loads) + modes
        for number in range(asked):
            self.assertIn("Switch on only", self.text("log-survey"))
            self.go(skip="1") if number == asked - 1 else self.go(watts="400")
        self.assertIn("The survey is complete", self.text("log-survey"))
        self.go(amps="3")  # past the end nothing is taken
        self.go(keep="1")
        steps = LogEntry.objects.get(kind="survey").document["steps"]
        self.assertEqual(len(steps), asked)
        self.assertEqual(steps[0], {"on": [], "amps": 0.5, "volts": 121.0})
        self.assertEqual({s["mode"] for s in steps if "mode" in s}, set(COOLING_MODES))
        self.assertIn("Everything off", self.text("log-survey"))

    def test_the_power_sheet_is_printed(self) -> None:
        answer = self.client.get(reverse("log-power", args=[self.saved.pk]))
        self.assertTrue(answer.content.startswith(b"%PDF"))

    def test_five_learning_starts_are_kept_with_how_many_it_had(self) -> None:
        load = next(x for x in self.setup.rig.loads if getattr(x, "start", "") == "soft-start")
        for number, peak in enumerate(("24", "22", "20", "18", "17")):
            self.assertIn(f"Start {number + 1} of 5", self.text("log-learning"))
            self.post("log-learning-next", self.saved.pk, 302, load=load.id, peak_a=peak)
        counts = [x.document["changed"]["learned_starts"] for x in LogEntry.objects.order_by("id")]
        self.assertEqual(counts, [0, 1, 2, 3, 4])
        self.assertIn("It has had its 5 starts", self.text("log-learning"))
        self.assertIn(
            "type the highest", self.post("log-learning-next", self.saved.pk, 422, load=load.id)
        )
        self.post("log-learning-next", self.saved.pk, 404, load="nobody", peak_a="3")


class BenchScreen(Screens):
    number = 1

    def begin(self, how: str = "off") -> BenchRun:
        self.post("bench-begin", self.saved.pk, 302, how=how)
        return BenchRun.objects.first()

    def press(self, run: BenchRun, **fields: Any) -> str:
        answer = self.client.post(
            reverse("bench-press", args=[run.pk]), fields, headers={"HX-Request": "true"}
        )
        self.assertEqual(answer.status_code, 200)
        run.refresh_from_db()
        return answer.content.decode()

    def test_a_start_pressed_is_the_engines(self) -> None:
        run = self.begin()
        self.press(run, do="set//on")
        text = self.press(run, do="load/roof/high-cool", next="1")
        self.assertIn("started", [e["kind"] for e in run.events])
        event = next(e for e in run.events if e["kind"] == "started" and e["where"] == "roof")
        self.assertIn(event["why"], text)
        text = self.press(run, next="1")
        self.assertEqual(run.state["loads"]["roof"]["on"], True)

    def test_time_runs_by_the_wall_and_stands_when_held(self) -> None:
        run = self.begin("as-wanted")
        self.press(run, speed="600")
        BenchRun.objects.filter(pk=run.pk).update(ran_at=timezone.now() - timedelta(seconds=2))
        self.press(run)
        self.assertGreaterEqual(run.state["t_s"], 1200)
        self.press(run, speed="0")
        held = run.state["t_s"]
        answer = self.client.post(
            reverse("bench-press", args=[run.pk]),
            {"version": run.version},
            headers={"HX-Request": "true"},
        )
        self.assertEqual(answer.status_code, 204)
        run.refresh_from_db()
        self.assertEqual(run.state["t_s"], held)

    def test_rewinding_keeps_the_run_it_came_from(self) -> None:
        run = self.begin()
        self.press(run, do="set//on")
        self.press(run, do="load/roof/high-cool")
        self.press(run, next="1")
        at = next(n for n, e in enumerate(run.events) if e["kind"] == "started" and n)
        self.post("bench-rewind", run.pk, 302, event=at)
        branch = BenchRun.objects.exclude(pk=run.pk).get()
        self.assertEqual(branch.parent_id, run.pk)
        self.assertLess(branch.state["t_s"], run.events[at]["at_s"])
        self.assertEqual(BenchRun.objects.count(), 2)

    def test_the_run_as_files_is_the_run_replayed(self) -> None:
        run = self.begin("as-wanted")
        self.press(run, next="1")
        found = self.client.get(reverse("bench-export", args=[run.pk, "json"])).json()
        self.assertEqual(found["ended"]["at_s"], round(run.state["t_s"], 3))
        csv = self.client.get(reverse("bench-export", args=[run.pk, "csv"])).content.decode()
        self.assertTrue(csv.startswith("time_s,"))

    def test_it_begins_from_now_from_an_order_and_ends_on_paper(self) -> None:
        self.post("bench-begin", self.saved.pk, 302, how="order", on=["base", "roof", "nobody"])
        run = BenchRun.objects.first()
        self.assertEqual([a.get("what") for a in run.acts], [None, "base", "roof"])
        self.assertEqual(run.acts[-1]["at_s"], 120.0)
        self.post("bench-begin", self.saved.pk, 302, how="now", on=["roof"])
        self.assertTrue(BenchRun.objects.first().state["loads"]["roof"]["on"])
        answer = self.client.get(reverse("bench-export", args=[run.pk, "pdf"]))
        self.assertTrue(answer.content.startswith(b"%PDF"))
        self.assertEqual(
            self.client.get(reverse("bench-export", args=[run.pk, "exe"])).status_code, 404
        )

    def test_nonsense_is_refused_in_words(self) -> None:
        run = self.begin()
        for fields in (
            {"do": "load/nobody/on"},
            {"do": "dance//on"},
            {"do": "outdoor//", "figure-outdoor": "hot"},
            {"do": "breaker/moon/on"},
            {"do": "load/roof/loud"},
        ):
            answer = self.client.post(reverse("bench-press", args=[run.pk]), fields)
            self.assertEqual(answer.status_code, 422, fields)
        run.refresh_from_db()
        self.assertEqual(run.acts, [])
        self.press(run, speed="7", next="")

    def test_a_bench_that_is_full_says_so_and_goes_on(self) -> None:
        run = self.begin()
        with mock.patch.object(bench_service, "MOST_ACTS", 2):
            for _ in range(2):
                self.press(run, do="set//on")
            answer = self.client.post(reverse("bench-press", args=[run.pk]), {"do": "set//off"})
            self.assertContains(answer, "go back to an earlier event", status_code=422)
            self.press(run, next="1")
        self.assertEqual(len(run.acts), 2)


class HoursScreen(Screens):
    number = 18

    def test_what_it_shows_is_the_cores(self) -> None:
        found = lasting(prepare(self.setup), step_s=60.0).endurance
        text = self.text("hours")
        if found.fuel_h is not None:
            self.assertIn(f"<strong>{found.fuel_h:.1f} h</strong>", text)
        if found.starves_h is not None:
            self.assertIn(f"after {found.starves_h:.1f} h", text)

    def test_what_is_no_finite_number_is_no_figure(self) -> None:
        loud = self.loud()

        def pitch(**asked: str) -> str:
            return (
                self.text("hours", loud.pk, **asked)
                .split('id="noise-title"')[1]
                .split("</section>")[0]
            )

        as_usual = pitch()
        self.assertIn("at the neighbor’s ear", as_usual)
        for typed in ("nan", "inf", "-inf", "1e999"):
            self.assertEqual(pitch(ear=typed, hours=typed), as_usual, typed)

    def test_a_battery_by_mode_is_the_cores_for_each(self) -> None:
        asked = next(d for d in documents() if "supper with the cooler" in d["name"])
        saved = stored.keep(self.owner, stored.judge(asked))
        text = self.client.get(reverse("hours", args=[saved.pk])).content.decode()
        setup = read_setup(asked)
        cool = next(x.id for x in setup.rig.loads if isinstance(x, AirConditioner))
        hours = set()
        for mode in ("fan-low", "high-cool"):
            wanted = [w | ({"mode": mode} if w["load"] == cool else {}) for w in asked["wanted"]]
            case = prepare(read_setup(asked | {"wanted": wanted}))
            battery_h = lasting(case, step_s=60.0).endurance.battery_h
            self.assertIn(f"{battery_h:.1f} h", text)
            hours.add(round(battery_h, 1))
        self.assertEqual(len(hours), 2)
        self.assertIn("as asked", one_line(text))
        self.assertNotIn("by mode of the air", self.text("hours"))  # a set has no battery

    def test_a_slider_asks_the_core_anew_and_nonsense_does_not(self) -> None:
        cold, warm = (self.text("hours", outdoor=x, hours=10) for x in ("5", "35"))
        self.assertNotEqual(cold, warm)
        self.assertEqual(
            re.sub('hours=[^&"]*|outdoor=[^&"]*', "", self.text("hours")).count("figure"),
            re.sub('hours=[^&"]*|outdoor=[^&"]*', "", self.text("hours", outdoor="hot")).count(
                "figure"
            ),
        )

    def test_thermostat_and_cylinders_change_the_night(self) -> None:
        words = [
            re.findall(r"<strong>([\d.]+) h</strong>", self.text("hours", **more))
            for more in ({}, {"cylinders": "2"}, {"thermostat": "28", "outdoor": "30"})
        ]
        self.assertGreater(float(words[1][0]), 1.5 * float(words[0][0]))

    def test_prices_are_the_accounts_in_its_own_units(self) -> None:
        self.client.cookies["units"] = "us"
        self.post("hours-prices", self.saved.pk, 302, propane_per_kg="1.00", gasoline_per_l="x")
        held = AccountPrices.objects.get().prices
        self.assertEqual(list(held), ["propane_per_kg"])
        self.assertAlmostEqual(held["propane_per_kg"], 1.0 / 0.45359237, places=4)
        text = self.text("hours")
        self.assertIn('value="1.00"', text)
        self.assertIn("A night", text)
        self.client.cookies["units"] = "si"
        self.assertIn('value="2.20"', self.text("hours"))

    def test_when_to_look_and_what_the_other_fuel_adds(self) -> None:
        text = one_line(self.text("hours"))
        self.assertRegex(text, r"Look at it at .*\(half left\).* and .*\(a quarter left\)")
        self.assertIn("Frost on the cylinder", text)
        doc = document(18) | {"rules": {"trials": 0}}
        self.assertIn("tank_l", doc["supply"])
        del doc["supply"]["tank_l"]
        one = stored.keep(self.owner, stored.judge(doc))
        self.assertNotIn("turn the selector", self.text("hours", one.pk))
        self.assertRegex(text, r"The gasoline on board adds [\d.]+ h: turn the selector before")

    def test_a_cylinder_exchanged_and_filled_stand_side_by_side(self) -> None:
        self.post("hours-prices", self.saved.pk, 302,
                  propane_per_exchange="23", propane_per_fill="18")  # fmt: skip
        text = one_line(self.text("hours"))
        self.assertIn("propane, exchanged", text)
        self.assertIn("propane, filled", text)

    def loud(self) -> SavedSetup:
        """Two sets of 60 dBA at 7 m each."""
        doc = document(1) | {"rules": {"trials": 0}}
        for unit in doc["supply"]["units"]:
            unit["noise"] = {"dba": 60, "full_dba": 60, "at_m": 7}
        return stored.keep(self.owner, stored.judge(doc))

    def test_the_pitch_says_the_inverse_square(self) -> None:
        loud, found = self.loud(), {}
        for ear, exhaust in ((7, 90), (14, 90), (7, 0), (7, 180)):
            text = self.text("hours", loud.pk, ear=ear, exhaust=exhaust)
            found[ear, exhaust] = float(re.findall(r"> ([\d.]+) dBA</strong>", text)[0])
        self.assertAlmostEqual(found[7, 90], 63, delta=1)  # two equal sets, 3 dB more
        self.assertAlmostEqual(found[7, 90] - found[14, 90], 6, delta=1)
        self.assertGreater(found[7, 0], found[7, 180])

    def test_the_place_proposed_keeps_the_limit_when_the_set_is_put_there(self) -> None:
        loud = self.loud()
        doc = stored.compose(loud) | {"site": {"neighbour_m": 14, "limit_dba": 58}}
        loud = stored.keep(self.owner, stored.judge(doc))
        self.assertNotIn("Carbon monoxide kills", self.text("hours", loud.pk))
        text = self.text("hours", loud.pk, across=-3, exhaust=0)
        self.assertIn("Keeps the limit with the set", text)
        self.assertIn("Carbon monoxide kills", text)  # it stands nearer than 20 ft
        link = html.unescape(re.findall(r'href="(\?ear=[^"]+)#noise-title"', text)[0])
        answer = self.client.get(reverse("hours", args=[loud.pk]) + link)
        there = one_line(answer.content.decode())
        self.assertIn('<strong class="state-holds">', there.split('id="noise-title"')[1])
        self.assertNotIn("Put it there", there)
        self.assertNotIn("Carbon monoxide kills", there)

    def test_an_assisted_battery_says_when_it_is_back(self) -> None:
        asked = next(d for d in documents() if d["supply"]["kind"] == "assist")
        asked["supply"]["input_limit_a"] = 1
        saved = stored.keep(self.owner, stored.judge(asked))
        found = lasting(prepare(read_setup(asked)), step_s=60.0).endurance
        text = " ".join(self.text("hours", saved.pk).split())
        self.assertGreater(found.refill_h, 0.5)
        self.assertRegex(
            text, r"back by <strong>\d\d:\d\d[^<]*</strong>, " + f"{found.refill_h:.1f} h"
        )

    def test_in_other_units_the_same(self) -> None:
        self.client.cookies["units"] = "us"
        self.assertIn("°F", self.text("hours"))
        self.assertIn("gal", self.text("hours"))

    def test_the_series_and_the_ration(self) -> None:
        csv = self.client.get(reverse("hours-series", args=[self.saved.pk])).content.decode()
        self.assertIn("load_w", csv.splitlines()[0])
        text = self.text("hours", days="4", litres="20", allowed="12")
        self.assertIn("without rationing", text)
        self.assertIn("must be a number", self.text("hours", days="4", litres="lots"))
        self.assertIn("must be at least 1", self.text("hours", days="0", litres="3"))


class StepsScreen(Screens):
    number = 6

    def begin(self, purpose: str) -> Checklist:
        self.post("steps-begin", self.saved.pk, 302, **{"for": purpose})
        return Checklist.objects.first()

    def go(self, held: Checklist, status: int, **fields: Any) -> str:
        text = self.post("steps-go", held.pk, status, place=held.place, **fields)
        held.refresh_from_db()
        return text

    def test_a_whole_hook_up_gate_by_gate(self) -> None:
        held = self.begin("hook-up")
        self.assertEqual(len(held.steps), len(steps_of(self.setup, "hook-up")))
        passed = 0
        while not held.ended:
            gate = held.steps[held.place].get("gate")
            reading = (gate or {}).get("words") or str((gate or {}).get("low", ""))
            if gate and not gate.get("words"):
                place = held.place
                self.go(held, 422, reading="3")
                self.go(held, 422, reading="a lot")
                self.assertEqual(held.place, place)
                passed += 1
            self.go(held, 302, reading=reading)
        self.assertEqual((held.ended, held.who), ("done", "owner"))
        self.assertGreater(passed, 0)
        answer = self.client.get(reverse("steps-print", args=[held.pk]))
        self.assertTrue(answer.content.startswith(b"%PDF"))

    def test_a_wrong_tester_ends_the_list(self) -> None:
        held = self.begin("hook-up")
        while held.steps[held.place]["id"] != "tester":
            self.go(held, 302)
        text = self.go(held, 422, reading="reversed")
        self.assertEqual(held.ended, "stopped")
        self.assertIn("licensed help", text)
        self.go(held, 302, reading="correct")
        self.assertEqual(held.ended, "stopped")

    def test_a_gate_that_ends_nothing_is_passed_unmeasured_and_one_that_does_is_not(self) -> None:
        held, passed = self.begin("hook-up"), 0
        while not held.ended and held.steps[held.place]["id"] != "volts-loaded":
            gate = held.steps[held.place].get("gate") or {}
            page = self.client.get(reverse("steps-list", args=[held.pk]))
            (self.assertNotContains if gate.get("ends") or not gate else self.assertContains)(
                page, 'value="not measured"'
            )
            reading = gate.get("words", "") if gate.get("ends") else "not measured"
            passed += bool(gate) and not gate.get("ends")
            self.go(held, 302, reading=reading)
        self.assertGreater(passed, 0)
        again = self.begin("tripped")
        while not (again.steps[again.place].get("gate") or {}).get("ends"):
            self.go(again, 302)
        self.go(again, 422, reading="not measured")
        self.assertEqual(again.ended, "stopped")

    def test_the_lists_of_every_demo_setup_can_be_done(self) -> None:
        for doc in documents():
            setup = read_setup(doc)
            facts = facts_of(setup)
            for purpose in ("hook-up", "shut-down"):
                state = begins(purpose, facts)
                for line in (x for x in LISTS[purpose] if applies(x, facts)):
                    self.assertEqual(unmet(state, line), [], f"{setup.name} {purpose} {line.id}")
                    state = after(state, line)

    def test_a_list_is_printed_before_it_is_begun(self) -> None:
        url = reverse("steps-blank", args=[self.saved.pk, "tripped"])
        self.assertTrue(self.client.get(url).content.startswith(b"%PDF"))
        nothing = reverse("steps-blank", args=[self.saved.pk, "dance"])
        self.assertEqual(self.client.get(nothing).status_code, 404)
        self.client.logout()
        self.assertEqual(self.client.get(url).status_code, 302)

    def test_no_gate_is_skipped_by_address(self) -> None:
        held = self.begin("hook-up")
        self.post("steps-go", held.pk, 302, place=held.place + 5)
        held.refresh_from_db()
        self.assertEqual(held.place, 0)

    def test_it_is_taken_up_again_and_one_step_back(self) -> None:
        held = self.begin("shut-down")
        self.go(held, 302)
        self.assertEqual(self.begin("shut-down").pk, held.pk)
        self.go(held, 302, back="1")
        self.assertEqual(held.place, 0)
        self.post("steps-begin", self.saved.pk, 404, **{"for": "dance"})

    def test_reminders_are_a_calendar(self) -> None:
        raw = self.client.get(reverse("steps-calendar", args=[self.saved.pk])).content.decode()
        self.assertTrue(raw.startswith("BEGIN:VCALENDAR"))
        self.assertIn("RRULE:FREQ=DAILY", raw)


class DrillScreen(Screens):
    def test_an_answer_counts_once_and_its_theme_comes_back(self) -> None:
        one = drill(0, "path", "easy")
        said = {
            "theme": "path",
            "difficulty": "easy",
            "seed": "0",
            "call": one.call,
            "sure": "90",
            "estimate": "20",
        }
        assert one.step is not None
        answer = self.client.post(reverse("drills-answer"), said | {"step": one.step.right})
        self.assertContains(answer, "The next safe step: right.")
        self.assertContains(answer, one.sentence.replace("'", "&#x27;"))
        self.client.post(reverse("drills-answer"), said | {"call": "thin"})
        row = DrillAnswer.objects.get()
        self.assertTrue(row.right and row.step_right)
        self.assertAlmostEqual(row.brier, 0.01)
        self.assertGreater(DrillCard.objects.get(theme="path").due_at, timezone.now())
        self.assertIn("1 of 1 right", self.text_of("drills"))

    def text_of(self, name: str, *args: Any) -> str:
        answer = self.client.get(reverse(name, args=args))
        self.assertEqual(answer.status_code, 200)
        return re.sub(r"\s+", " ", answer.content.decode())

    def test_nonsense_is_an_answer_like_another_or_not_found(self) -> None:
        said = {"theme": "path", "difficulty": "easy", "seed": "0", "sure": "lots", "call": "maybe"}
        self.assertEqual(self.client.post(reverse("drills-answer"), said).status_code, 200)
        self.assertFalse(DrillAnswer.objects.get().right)
        for wrong in ({"theme": "x"}, {"difficulty": "x"}, {"exam": "../../etc"}):
            answer = self.client.post(reverse("drills-answer"), said | wrong)
            self.assertEqual(answer.status_code, 404)
        self.assertEqual(self.client.get(reverse("drills-exam", args=["zz"])).status_code, 404)

    def test_when_a_theme_comes_back_survives_being_kept(self) -> None:
        from fsrs import Card

        said = {"theme": "path", "difficulty": "easy", "seed": "0", "call": "thin", "sure": "90"}
        self.client.post(reverse("drills-answer"), said)
        held = DrillCard.objects.get()
        card = Card.from_json(json.dumps(held.card))
        self.assertEqual(json.loads(card.to_json()), held.card)
        self.assertEqual(card.due, held.due_at)

    def test_an_examination_ends_with_a_certificate(self) -> None:
        answer = self.client.post(reverse("drills-begin-exam"))
        exam = answer.url.rstrip("/").split("/")[-1]
        self.assertIn("question 1 of 20", self.text_of("drills-exam", exam))
        easy = {"theme": "path", "difficulty": "easy", "seed": "0", "call": "holds", "exam": exam}
        self.client.post(reverse("drills-answer"), easy)
        row = DrillAnswer.objects.get(exam=exam)
        self.assertNotEqual((row.theme, row.seed), ("path", 0))  # its own question, not the posted
        row.delete()
        rows = [
            DrillAnswer(
                owner=self.owner,
                theme="path",
                difficulty="easy",
                seed=n + 1,
                exam=exam,
                call="holds",
                sure=0.8,
                right=n % 2 == 0,
                brier=0.1,
            )
            for n in range(20)
        ]
        certificate = reverse("drills-certificate", args=[exam])
        self.assertEqual(self.client.get(certificate).status_code, 404)
        DrillAnswer.objects.bulk_create(rows)
        self.assertIn("10 of 20 right", self.text_of("drills-exam", exam))
        self.assertTrue(self.client.get(certificate).content.startswith(b"%PDF"))


class Strangers(Screens):
    """Benches and lists have keys of their own: nobody else's account opens them."""

    def test_nobody_else_sees_or_changes_a_bench_or_a_list(self) -> None:
        self.post("bench-begin", self.saved.pk, 302, how="off")
        self.post("steps-begin", self.saved.pk, 302, **{"for": "start"})
        run, held = BenchRun.objects.get(), Checklist.objects.get()
        stranger, other = Client(), Client()
        other.force_login(User.objects.create_user("other"))
        for name, args in (
            ("bench-run", [run.pk]),
            ("bench-press", [run.pk]),
            ("bench-rewind", [run.pk]),
            ("bench-export", [run.pk, "csv"]),
            ("steps-list", [held.pk]),
            ("steps-go", [held.pk]),
            ("steps-print", [held.pk]),
        ):
            url = reverse(name, args=args)
            for verb in ("get", "post"):
                self.assertIn(getattr(stranger, verb)(url).status_code, (302, 401, 405), name)
                self.assertIn(getattr(other, verb)(url).status_code, (404, 405), name)
        held.refresh_from_db()
        self.assertEqual(held.place, 0)


class WalkAndFuel(Screens):
    """The noise walk as a plan, the fuel with what an hour costs."""

    number = 1

    def test_the_walk_is_drawn_where_it_was_read(self) -> None:
        for metres, dba in ((1, 74.0), (2, 68.0), (4, 62.0), (8, 56.0)):
            entry = {"kind": "noise", "at_m": metres, "dba": dba, "side": "exhaust"}
            LogEntry.objects.create(setup=self.saved, kind="noise", document=entry)
        text = self.text("log")
        self.assertIn("The noise walk from above", text)
        plan = text.split("The noise walk from above")[1].split("</svg>")[0]
        found = re.findall(r'r="([\d.]+)" class="ring"/>.*?>(\d+)<', plan)
        rings = {int(dba): float(radius) for radius, dba in found}
        # Six decibels for each doubling (a free field): ten more is 3.2 times as near.
        self.assertAlmostEqual(rings[60] / rings[70], 10**0.5, delta=0.1)
        dots = [float(x) for x in re.findall(r'cx="([-\d.]+)" cy="[-\d.]+" r="4"', plan)]
        self.assertEqual(len(dots), 4)
        self.assertAlmostEqual(max(dots) / sorted(dots)[0], 8.0, delta=1.5)

    def test_an_hour_of_each_fuel_says_what_it_costs(self) -> None:
        for hours, litres in ((5, 4.0), (6, 5.4), (4, 3.0)):
            entry = {"kind": "fuel", "fuel": "gasoline", "litres": litres, "hours": hours,
                     "mean_w": 250 * hours, "cost": 1.5 * litres}  # fmt: skip
            LogEntry.objects.create(setup=self.saved, kind="fuel", document=entry)
        found = learn(self.setup, read_log({"entries": [
            e.document for e in LogEntry.objects.all()]}, self.setup))  # fmt: skip
        cost = found.fuel[0].cost_per_h
        self.assertIn(f'it cost <span class="figure">{cost:.2f}</span> an hour', self.text("log"))


class PairsAndRig(Screens):
    """Before and after on one picture, and the log of a whole rig."""

    def setUp(self) -> None:
        super().setUp()
        loads = self.setup.rig.loads
        self.motor = next(x for x in loads if isinstance(x, AirConditioner))
        start = {"kind": "start", "load": self.motor.id, "outcome": "starts"}
        gear = {"start": "hard-start"}
        for n, more in enumerate(
            (
                {"peak_a": 61.0, "changed": gear, "notes": "as it came"},
                {"peak_a": 19.0, "instrument": "monitor"},
                {"peak_a": 40.5, "notes": "fitted"},
                {"peak_a": 0.3, "on": "whole-cord"},
            )
        ):
            entry = start | more | {"at": f"2026-07-0{n + 1}T10:00:00+00:00"}
            LogEntry.objects.create(setup=self.saved, kind="start", document=entry, at=entry["at"])

    def test_a_pair_is_the_changed_start_and_the_one_that_tells(self) -> None:
        text = self.text("log-pairs")
        said = f"{self.motor.name}: 61.0 A before, 40.5 A after, 34 % less."
        self.assertIn(said, text)
        self.assertIn("before, read 61.0 A", text)
        self.assertIn('class="amps over"', text)  # both starts, on one picture
        heights = [float(y) for y in re.findall(r'class="day-line" d="M44 ([\d.]+)H', text)]
        self.assertLess(heights[0], heights[1])  # more amps, higher up

    def test_without_a_pair_it_says_what_makes_one(self) -> None:
        LogEntry.objects.filter(document__peak_a=61.0).delete()
        self.assertIn("No pair yet", self.text("log-pairs"))

    def test_a_rigs_log_has_each_setups_entries(self) -> None:
        again = stored.judge(document(5) | {"rules": {"trials": 0}})
        second = stored.keep(self.owner, again)
        self.assertEqual(second.rig, self.saved.rig)
        entry = {"kind": "run", "load": self.motor.id, "amps": 9.0}
        LogEntry.objects.create(setup=second, kind="run", document=entry)
        text = self.text("log-rig", self.saved.rig_id)
        self.assertIn("4 entries", text)
        self.assertIn("1 entry", text)
        other = User.objects.create_user("other")
        self.client.force_login(other)
        answer = self.client.get(reverse("log-rig", args=[self.saved.rig_id]))
        self.assertEqual(answer.status_code, 404)
