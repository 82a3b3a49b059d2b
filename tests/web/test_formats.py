"""Rigs as CSV, accounts as zip, and the history of every change."""

from __future__ import annotations

import io
import json
import zipfile

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from ironmargin.errors import SetupError
from ironmargin.setup.reading import read_setup, write_setup
from tests.shared import document
from tests.web.test_inventory import Base
from web.hours.models import AccountPrices
from web.logbook.models import LogEntry
from web.rigs import csv_format, service
from web.rigs.models import Rig
from web.running_order.models import DayTasks
from web.running_order.service import tasks_of
from web.setups import judging, repository
from web.setups.demo import DEMO_USER, load_demo
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.account import LARGEST_ZIP, pack, unpack
from web.storage.models import Change
from web.storage.words import difference

User = get_user_model()


class Formats(Base):
    def test_csv_there_and_back(self) -> None:
        raw = csv_format.write(self.rig.document).encode()
        self.assertIn(b"running_a [A]", raw)
        loads, problems = csv_format.read(raw, {"main_a": 50, "loads": [], "service": "120/240"})
        self.assertEqual((loads, problems), (self.rig.document["loads"], []))

    def test_formulas_are_words(self) -> None:
        self.post("rig-edit", load="kettle", column="name", value="=HYPERLINK(1)")
        text = csv_format.write(self.rig.document)
        self.assertIn("'=HYPERLINK(1)", text)
        loads, _ = csv_format.read(text.encode(), {"main_a": 50, "loads": [], "service": "120/240"})
        self.assertEqual(loads[1]["name"], "=HYPERLINK(1)")

    def test_bad_rows_are_named_and_the_good_ones_can_be_taken(self) -> None:
        raw = b"name,kind,watts [W],colour\nToaster,resistive,900,red\nIron,resistive,hot,\n"
        raw += b",resistive,5,\nPump,motor,,\n"
        url = reverse("rig-import", args=[self.rig.pk])
        answer = self.client.post(url, {"file": SimpleUploadedFile("a.csv", raw)})
        for words in (
            "line 1, column 4",
            "line 3, column watts [W]",
            "must be a number",
            "line 5, column running_a",
            "1 row of it is sound: Toaster",
        ):
            self.assertContains(answer, words, status_code=422)
        self.assertEqual(len(Rig.objects.get(pk=self.rig.pk).document["loads"]), 2)
        self.assertRedirects(
            self.client.post(url, {"raw": raw.decode(), "good_rows": "1"}),
            reverse("rig", args=[self.rig.pk]),
        )
        self.assertEqual(Rig.objects.get(pk=self.rig.pk).document["loads"][-1]["name"], "Toaster")
        for bad in (b"", b"\xff\xfe", b"a,b\n1,2\n", b"x" * 1_000_001, b'name,kind\n"open'):
            self.assertEqual(
                self.client.post(url, {"file": SimpleUploadedFile("a.csv", bad)}).status_code, 422
            )

    def test_five_hundred_rows(self) -> None:
        raw = "name,kind,watts [W]\n" + "".join(
            f"Load {n},electronic,{n + 1}\n" for n in range(500)
        )
        rig = service.make(self.owner, "Large", "120")
        answer = self.client.post(
            reverse("rig-import", args=[rig.pk]),
            {"file": SimpleUploadedFile("a.csv", raw.encode())},
        )
        self.assertEqual(answer.status_code, 302)
        self.assertEqual(len(Rig.objects.get(pk=rig.pk).document["loads"]), 500)

    def test_an_account_comes_back_the_same(self) -> None:
        load_demo()
        demo = User.objects.get(username=DEMO_USER)
        raw = pack(demo)
        with zipfile.ZipFile(io.BytesIO(raw)) as file:
            self.assertIn("manifest.json", file.namelist())
            self.assertTrue(any(n.endswith(".csv") for n in file.namelist()))
        counts = unpack(self.other, raw)
        self.assertEqual(counts["setups"], SavedSetup.objects.of(demo).count())
        self.assertEqual(pack(self.other), raw)
        self.assertEqual(pack(demo), raw)
        self.client.force_login(self.other)
        first = SavedSetup.objects.of(self.other).get(name="Clay wagon, school yard 30 A post")
        self.assertContains(self.client.get(reverse("setup-chip", args=[first.pk])), "Fails")
        theirs = SavedSetup.objects.of(self.other).select_related("rig", "supply")
        self.assertEqual({s.rig is None for s in theirs}, {False})

    def test_what_hangs_on_things_comes_along(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(5) | {"rules": {"trials": 0}}))
        load = saved.rig.document["loads"][0]["id"]
        entry = {"kind": "run", "load": load, "amps": 9.5, "at": "2026-07-04T14:05:00+00:00"}
        LogEntry.objects.create(setup=saved, kind="run", document=entry)
        tasks_of(saved, repository.compose(saved))
        AccountPrices.objects.create(owner=self.owner, prices={"gasoline_per_l": 1.1})
        rig = saved.rig
        for n in range(3):
            named = rig.document | {"name": f"n{n}"}
            rig = actions.change(rig, rig.version, name=f"n{n}", document=named)
        raw = pack(self.owner)
        unpack(self.other, raw)
        self.assertEqual(pack(self.other), raw)
        theirs = SavedSetup.objects.of(self.other).get()
        stored = LogEntry.objects.get(setup=theirs)
        self.assertEqual((stored.document["amps"], stored.at.isoformat()), (9.5, entry["at"]))
        self.assertEqual(DayTasks.objects.get(setup=theirs).tasks, saved.day.tasks)
        self.assertEqual(AccountPrices.objects.get(owner=self.other).prices["gasoline_per_l"], 1.1)
        past = list(actions.history(theirs.rig))
        self.assertEqual([c.action for c in past], ["changed"] * 3 + ["made"])
        self.assertEqual(actions.state_after(past[1])["name"], "n1")
        self.assertEqual({c.who for c in past}, {"owner"})

    def test_an_account_at_its_limits_comes_back(self) -> None:
        """As many setups as there may be, each of 150 loads, was refused on the way back once."""
        doc = document(2) | {"rules": {"trials": 0}}
        one = doc["rig"]["loads"][1]
        loads = [one | {"id": f"l{n}", "name": f"Load {n}"} for n in range(150)]
        doc["rig"] = doc["rig"] | {"loads": loads}
        doc["wanted"] = [{"load": "l0"}]
        sound = write_setup(read_setup(doc))
        rig = actions.make(Rig, self.owner, "large", sound["rig"])
        rest = {k: v for k, v in sound.items() if k != "rig"}
        SavedSetup.objects.bulk_create(
            SavedSetup(
                owner=self.owner, name=f"s{n}", document=rest | {"rig": sound["rig"]},
                verdict="thin", iron_margin=0.0, stale=True,
            )
            for n in range(SavedSetup.maximum)
        )  # fmt: skip
        raw = pack(self.owner)
        self.assertLess(len(raw), LARGEST_ZIP)
        counts = unpack(self.other, raw)
        self.assertEqual(
            (counts["setups"], counts["rigs"]),
            (SavedSetup.maximum, Rig.objects.of(self.owner).count()),
        )
        self.assertEqual(rig.owner, self.owner)

    def test_parts_that_are_no_parts_are_named_and_nothing_is_stored(self) -> None:
        saved = repository.store(self.owner, judging.judge(document(5) | {"rules": {"trials": 0}}))
        with zipfile.ZipFile(io.BytesIO(pack(self.owner))) as file:
            held = {name: file.read(name).decode() for name in file.namelist()}
        setup = next(n for n in held if n.startswith("setups/"))
        doc = json.loads(held[setup])
        patch = [{"op": "remove", "path": "/nowhere"}]
        newest = doc["history"][0]
        for bad, words in (
            ({"log": [{"kind": "run", "load": "nobody", "amps": -1}]}, "log[0].amps"),
            ({"log": 1}, "log"),
            ({"day": {"tasks": [{"id": "x"}]}}, "day.tasks[0]"),
            ({"history": []}, "history"),
            ({"history": [newest | {"action": "hacked"}]}, "history"),
            ({"history": [newest | {"state": {"name": 1}}]}, "history"),
            ({"history": [newest, {**newest, "state": None, "back": patch}]}, "history"),
            ({"history": [newest | {"at": "yesterday"}]}, "history"),
        ):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w") as file:
                for name, text in held.items():
                    file.writestr(name, json.dumps(doc | bad) if name == setup else text)
            with self.assertRaises(SetupError) as caught:
                unpack(self.other, out.getvalue())
            self.assertIn(words, str(caught.exception), bad)
        twice = io.BytesIO()
        with zipfile.ZipFile(twice, "w") as file:
            for name, text in held.items():
                file.writestr(name, text)
            file.writestr(setup.replace("0001-", "1-"), held[setup])
        with self.assertRaisesRegex(SetupError, "has the number of"):
            unpack(self.other, twice.getvalue())
        self.assertEqual(SavedSetup.objects.of(self.other).count(), 0)
        self.assertEqual(saved.owner, self.owner)

    def test_bad_accounts_store_nothing(self) -> None:
        def zipped(**files: str) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w") as file:
                for name, text in files.items():
                    file.writestr(name.replace("__", "/").replace("_json", ".json"), text)
            return out.getvalue()

        manifest = json.dumps({"format": "iron-margin/account", "version": 1})
        squeezed = io.BytesIO()
        with zipfile.ZipFile(squeezed, "w", zipfile.ZIP_DEFLATED) as file:
            file.writestr("manifest.json", manifest)
        damaged = bytearray(squeezed.getvalue())
        start = 30 + len(
            "manifest.json"
        )  # the local header is 30 bytes and the name (APPNOTE 4.3.7)
        damaged[start : start + 4] = (
            b"\xff" * 4
        )  # block type 3 is reserved, so the stream cannot be inflated (RFC 1951, 3.2.3)
        rig = json.dumps({"name": "x", "document": {"name": "x", "main_a": -5, "loads": []}})
        cases = [
            (b"no", "not the zip"),
            (zipped(a_json="{}"), "not the zip"),
            (zipped(manifest_json="{}"), "must say"),
            (b"", "not the zip"),
            (bytes(damaged), "not the zip"),
            (zipped(manifest_json=manifest, **{"rigs__1_json": rig}), "must be above 0"),
            (zipped(manifest_json=manifest, **{"rigs__1_json": "[]"}), "must be an object"),
            (zipped(manifest_json=manifest, **{"rigs__1_json": "0" * 2_100_000}), "at most"),
            (b"x" * (LARGEST_ZIP + 1), "at most"),
        ]
        for raw, words in cases:
            file = {"file": SimpleUploadedFile("a.zip", raw)}
            answer = self.client.post(reverse("account-import"), file, follow=True)
            page = answer.content.decode()
            self.assertIn(words, page, words)
            self.assertTrue(answer.status_code == 422 or "Nothing was stored" in page, words)
        self.assertContains(
            self.client.post(reverse("account-import")), "choose the zip", status_code=422
        )
        self.assertEqual(Rig.objects.of(self.owner).count(), 1)


class History(Base):
    def test_who_when_what_and_back(self) -> None:
        self.post("rig-edit", load="kettle", column="draw", value="1000")
        page = self.client.get(reverse("history", args=["rig", self.rig.pk]))
        self.assertContains(page, "Kettle watts from 1500 to 1000")
        entry = Change.objects.filter(kind="rig", item=self.rig.pk)[1]
        answer = self.client.post(
            reverse("go-back", args=["rig", self.rig.pk, entry.pk]), {"version": self.rig.version}
        )
        self.assertRedirects(answer, reverse("rig", args=[self.rig.pk]))
        self.assertEqual(Rig.objects.get(pk=self.rig.pk).document["loads"][1]["watts"], 1500)
        answer = self.client.post(
            reverse("go-back", args=["rig", self.rig.pk, entry.pk]), {"version": 1}, follow=True
        )
        self.assertContains(answer, "Not restored")

    def test_differences_in_words(self) -> None:
        self.assertEqual(difference({"a": 1}, {"a": 2}), "a from 1 to 2")
        self.assertEqual(
            difference({"loads": [{"id": "a", "name": "A"}]}, {"loads": []}), "A taken out"
        )
        self.assertEqual(difference({}, {"a": {"b": 1}}, "x", "y"), "renamed to y; a set to b 1")
        self.assertIn("and 2 more", difference({}, dict.fromkeys("abcde", 1)))

    def test_only_so_many_changes_are_remembered(self) -> None:
        for n in range(6):
            self.post("rig-edit", load="kettle", column="draw", value=str(1000 + n))
        self.assertLessEqual(
            Change.objects.filter(kind="rig", item=self.rig.pk).count(), actions.STORED_CHANGES
        )

    def test_copies_archives_and_searches(self) -> None:
        self.client.post(reverse("duplicate", args=["rig", self.rig.pk]))
        self.assertEqual(
            set(Rig.objects.of(self.owner).values_list("name", flat=True)), {"Wagon", "Wagon, copy"}
        )
        self.client.post(reverse("archive", args=["rig", self.rig.pk]))
        self.assertNotContains(self.client.get(reverse("rigs")), ">Wagon<")
        self.assertContains(self.client.get(reverse("rigs"), {"archived": "1"}), ">Wagon<")
        self.assertContains(self.client.get(reverse("rigs"), {"q": "nothing"}), "No rig has")
        self.assertEqual(self.client.post(reverse("archive", args=["nothing", 1])).status_code, 404)
