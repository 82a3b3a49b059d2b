"""An account's zip at its limits, damaged in every place, and with parts of others."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from unittest.mock import patch

from ironmargin.errors import SetupError
from tests.shared import document
from tests.web.test_inventory import Base
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.storage import account, actions
from web.storage.account import pack, unpack
from web.storage.models import Change
from web.storage.transfers import _unpacks_to
from web.supplies.models import Supply

Held = dict[str, bytes]


class Zips(Base):
    def setUp(self) -> None:
        super().setUp()
        self.saved = repository.store(self.owner, judging.judge(document(5)))
        self.raw = pack(self.owner)

    def held(self) -> Held:
        with zipfile.ZipFile(io.BytesIO(self.raw)) as file:
            return {name: file.read(name) for name in file.namelist()}

    def zipped(self, change: Callable[[Held], object] = lambda held: None) -> bytes:
        """The owner's zip after a change of its entries."""
        held = self.held()
        change(held)
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
            for name, raw in held.items():
                file.writestr(name, raw)
        return out.getvalue()

    def refused(self, raw: bytes, words: str) -> None:
        with self.assertRaises(SetupError) as caught:
            unpack(self.other, raw)
        self.assertIn(words, str(caught.exception))
        for model in (Rig, Supply, SavedSetup):
            self.assertFalse(model.objects.of(self.other).exists(), words)

    def entry(self, folder: str) -> str:
        return next(n for n in self.held() if n.startswith(folder) and n.endswith(".json"))


class Limits(Zips):
    def test_entries_bytes_and_one_entry_are_bounded(self) -> None:
        raw = self.zipped()
        whole = account.unpacked(zipfile.ZipFile(io.BytesIO(raw)))
        largest = max(len(x) for x in self.held().values())
        for name, maximum, words in (
            ("LARGEST_ZIP", len(raw) - 1, "must be at most"),
            ("LARGEST_WHOLE", whole - 1, "must unpack to at most"),
            ("MAX_ENTRIES", len(self.held()) - 1, "must unpack to at most"),
            ("LARGEST_ENTRY", largest - 1, "must be at most"),
        ):
            with patch.object(account, name, maximum):
                self.refused(raw, words)
        for name, maximum in (("LARGEST_ZIP", len(raw)), ("LARGEST_WHOLE", whole)):
            with patch.object(account, name, maximum):
                self.assertEqual(unpack(self.other, raw)["setups"], 1)

    def test_a_zip_of_endless_entries_is_refused_before_it_is_opened(self) -> None:
        """Opening it makes an object of each: 420,000 empty ones took 670 MB and five seconds."""
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as file:
            for n in range(20_000):
                file.writestr(f"{n}", b"")
        many = out.getvalue()
        end = len(many) - 22
        told_few = many[: end + 8] + b"\x01\0\x01\0" + many[end + 12 :]  # two lies of the counts
        with_comment = many[:-2] + b"\x03\0" + b"abc"
        locator = b"PK\x06\x07" + b"\0" * 16
        as_64 = self.zipped()[:-22] + locator + self.zipped()[-22:]
        for raw in (many, told_few, with_comment, as_64):
            with (
                patch("zipfile.ZipFile", side_effect=AssertionError("opened")),
                self.assertRaises(SetupError) as caught,
            ):
                unpack(self.other, raw)
            self.assertIn("must unpack to at most", str(caught.exception))
            self.assertEqual(_unpacks_to(raw), 0)
        self.assertFalse(account.large_directory(self.zipped()))
        self.assertFalse(account.large_directory(b""))
        self.assertFalse(account.large_directory(b"PK\x05\x06"))

    def test_an_account_that_fills_up_on_the_way_stores_nothing(self) -> None:
        service_full = patch.object(SavedSetup, "maximum", 0)
        with service_full, self.assertRaises(actions.TooMany):
            unpack(self.other, self.raw)
        self.assertFalse(Rig.objects.of(self.other).exists())


class Damaged(Zips):
    def test_an_entry_that_cannot_be_read_takes_the_others_back(self) -> None:
        """The last one is damaged: what was taken in before it goes again."""
        last = self.entry("setups/")
        for bad in (b"{", b"\xff\xfe", b"[" * 200_000, b"nan"):
            self.refused(self.zipped(lambda held, bad=bad: held.update({last: bad})), "not the zip")

    def test_an_entry_that_is_no_thing_is_named(self) -> None:
        last = self.entry("setups/")
        for bad in ([], "words", 7, {}, {"document": None}, {"document": [1]}):
            raw = json.dumps(bad).encode()
            self.refused(self.zipped(lambda held, raw=raw: held.update({last: raw})), last)

    def test_numbers_are_numbers_and_each_its_own(self) -> None:
        name = self.entry("rigs/")
        for other in ("rigs/x.json", "rigs/-1.json", "rigs/٣-x.json", f"rigs/{'9' * 400}.json"):
            self.refused(
                self.zipped(lambda held, other=other: held.update({other: held[name]})),
                "must begin with its number",
            )
        twice = name.replace("rigs/0001", "rigs/1")
        self.refused(
            self.zipped(lambda held: held.update({twice: held[name]})), f"has the number of {name}"
        )

    def test_the_manifest_must_say_what_it_is(self) -> None:
        for raw, words in (
            (b"{}", "must say iron-margin/account"),
            (b'{"format": "iron-margin/setup"}', "must say iron-margin/account"),
            (b"[]", "must be an object"),
            (b"", "not the zip"),
        ):
            self.refused(
                self.zipped(lambda held, raw=raw: held.update({"manifest.json": raw})), words
            )
        self.refused(self.zipped(lambda held: held.pop("manifest.json")), "not the zip")

    def test_what_is_in_no_folder_of_ours_is_left_alone(self) -> None:
        more = {"notes.txt": b"hello", "rigs/readme.md": b"x", "elsewhere/0001.json": b"{"}
        self.assertEqual(unpack(self.other, self.zipped(lambda h: h.update(more)))["rigs"], 2)

    def test_faults_of_many_entries_are_told_together(self) -> None:
        bad = json.dumps({"name": "x", "document": {"name": "x", "main_a": -5, "loads": []}})
        names = [f"rigs/00{n}-x.json" for n in range(50, 53)]
        raw = self.zipped(lambda held: held.update(dict.fromkeys(names, bad.encode())))
        with self.assertRaises(SetupError) as caught:
            unpack(self.other, raw)
        for name in names:
            self.assertIn(name, str(caught.exception))


class Belonging(Zips):
    def test_a_setup_stands_on_the_rig_that_came_along(self) -> None:
        unpack(self.other, self.raw)
        taken = SavedSetup.objects.of(self.other).get()
        self.assertEqual(taken.supply.owner, self.other)
        self.assertEqual(repository.compose(taken), repository.compose(self.saved))

    def test_a_number_of_a_rig_that_is_not_there_or_another_leaves_its_own(self) -> None:
        name = self.entry("setups/")
        for number in (99, "1", None, -1):

            def change(held: Held, number: object = number) -> None:
                held[name] = json.dumps(json.loads(held[name]) | {"rig": number}).encode()

            unpack(self.other, self.zipped(change))
            taken = SavedSetup.objects.of(self.other).first()
            self.assertIsNone(taken.rig)
            self.assertEqual(
                repository.compose(taken)["rig"], repository.compose(self.saved)["rig"]
            )

    def test_its_versions_go_on_and_a_stale_edit_merges_with_what_it_was_made_from(self) -> None:
        for watts in (1600, 1700):
            rig = Rig.objects.get(pk=self.rig.pk)
            loads = [dict(x, watts=watts) if x["id"] == "kettle" else x for x in
                     rig.document["loads"]]  # fmt: skip
            actions.change(rig, rig.version, document=rig.document | {"loads": loads})
        mine = Rig.objects.get(pk=self.rig.pk)
        unpack(self.other, pack(self.owner))
        theirs = Rig.objects.get(owner=self.other, name=mine.name)
        self.assertEqual(theirs.version, mine.version)
        before = theirs.version - 1  # a page that shows the version before
        entry = Change.objects.get(kind="rig", item=theirs.pk, version=before)
        held = actions.state_after(entry)
        self.assertEqual(held["document"]["loads"][1]["watts"], 1600)

    def test_archived_comes_back_archived(self) -> None:
        actions.archive(self.rig, True)
        self.raw = pack(self.owner)
        unpack(self.other, self.raw)
        put_away = Rig.objects.of(self.other).exclude(archived_at=None)
        self.assertEqual([rig.name for rig in put_away], [self.rig.name])
        self.assertEqual(pack(self.other), self.raw)
