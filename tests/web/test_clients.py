"""Clients: kept, found, given rigs and visits, carried into a report and an account's zip."""

from __future__ import annotations

import io
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image, ImageFile

from tests.shared import document
from tests.web.pages import PageCase
from web.clients import photos
from web.clients.document import empty
from web.clients.models import Client, Photo
from web.design import pictures
from web.design.pictures import LARGEST_BYTES, STORED_BYTES, STORED_SIDE
from web.rigs.models import Rig
from web.setups import judging, repository
from web.storage import actions
from web.storage.account import pack, unpack

User = get_user_model()


class Clients(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(document(2) | {"name": "Evening"}))
        self.client.post(reverse("clients"), {"name": "  Orchard   House "})
        self.stored = Client.objects.get()

    def post(self, url_name: str, /, **values: Any) -> Any:
        version = Client.objects.get(pk=self.stored.pk).version
        answer = self.client.post(
            reverse(url_name, args=[self.stored.pk]), {"version": version} | values
        )
        self.stored = Client.objects.get(pk=self.stored.pk)
        return answer

    def test_who_where_and_what_was_done(self) -> None:
        self.assertEqual(self.stored.name, "Orchard House")
        self.post("client-save", name="Orchard House", site="Pitch 7", address="12 Mill Lane",
                  contact="555 0100", notes="dog\nbites\x00" + "x" * 9000)  # fmt: skip
        held = self.stored.document
        self.assertEqual((held["site"], held["address"]), ("Pitch 7", "12 Mill Lane"))
        self.assertTrue(held["notes"].startswith("dog\nbitesx"))
        self.assertEqual(len(held["notes"]), 5000)
        self.post("client-visit", on="2026-05-02", told="starter fitted")
        self.post("client-visit", on="2026-06-01", told="measured again")
        self.post("client-visit", on="2026-02-30", told="today")
        days = [v["on"] for v in self.stored.document["visits"]]
        self.assertEqual(days[1:], ["2026-06-01", "2026-05-02"])
        self.post("client-visit", remove="0")
        self.assertEqual(len(self.stored.document["visits"]), 2)

    def test_found_by_any_of_their_words(self) -> None:
        self.post("client-save", site="Pitch 7", notes="Well Pump")
        for query, found in (("orchard", True), ("pitch 7", True), ("well p", True), ("no", False)):
            page = self.client.get(reverse("clients"), {"q": query})
            (self.assertContains if found else self.assertNotContains)(page, "Orchard House")
        self.assertContains(self.client.get(reverse("clients")), "0 rigs")

    def test_a_rig_brings_its_setups_and_the_reports_words(self) -> None:
        self.post("client-save", site="Pitch 7", address="12 Mill Lane")
        self.post("client-rig", rig=self.saved.rig_id)
        page = self.client.get(reverse("client", args=[self.stored.pk]))
        self.assertContains(page, "Evening")
        ask = self.client.get(reverse("report-for", args=[self.saved.pk]))
        self.assertContains(ask, 'value="Orchard House"')
        self.assertContains(ask, 'value="Pitch 7, 12 Mill Lane"')
        self.post("client-rig", remove=self.saved.rig_id)
        self.assertEqual(self.stored.document["rigs"], [])

    def test_nothing_of_anothers(self) -> None:
        other = User.objects.create_user("other")
        doc = document(4) | {"name": "Theirs alone"}
        doc["rig"]["name"] = "Their own rig"
        theirs = repository.store(other, judging.judge(doc))
        self.assertEqual(self.post("client-rig", rig=theirs.rig_id).status_code, 404)
        stolen = self.stored.document | {"rigs": [theirs.rig_id]}
        actions.change(self.stored, self.stored.version, document=stolen)
        page = self.client.get(reverse("client", args=[self.stored.pk]))
        self.assertNotContains(page, theirs.rig.name)
        self.assertNotContains(page, theirs.name)

    def test_two_who_write_at_once_lose_nothing_unseen(self) -> None:
        self.post("client-save", site="first")
        answer = self.client.post(
            reverse("client-save", args=[self.stored.pk]), {"version": "1", "site": "second"}
        )
        page = self.client.get(answer["Location"])
        self.assertContains(page, "changed this client from another page")
        self.assertContains(page, 'value="first"')

    def test_nonsense_is_words_or_refused(self) -> None:
        self.client.post(reverse("clients"), {"name": "  "})
        self.client.post(reverse("clients"), {"name": "<script>" + "y" * 2000})
        self.assertEqual(Client.objects.count(), 2)
        page = self.client.get(reverse("clients"))
        self.assertContains(page, "&lt;script&gt;")
        self.assertNotContains(page, "<script>y")
        self.assertEqual(self.post("client-rig", rig="9" * 30).status_code, 404)

    def test_it_goes_out_with_the_account_and_comes_back(self) -> None:
        self.post("client-save", site="Pitch 7", notes="a note")
        self.post("client-visit", on="2026-05-02", told="fitted")
        self.post("client-rig", rig=self.saved.rig_id)
        other = User.objects.create_user("other")
        unpack(other, pack(self.owner))
        theirs = Client.objects.get(owner=other)
        self.assertEqual(theirs.name, "Orchard House")
        own = Rig.objects.get(owner=other)
        self.assertEqual(theirs.document, self.stored.document | {"rigs": [own.pk]})


def picture(wide: int = 3000, high: int = 2000, kind: str = "JPEG", **more: Any) -> bytes:
    """A made picture: a slope of colors with noise in it, as photographs have."""
    noise = 60 if wide > 1000 else 4
    image = Image.effect_noise((wide, high), noise).convert("RGB")
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


class Photographs(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.stored = actions.make(Client, self.owner, "Orchard House", empty())

    def send(self, raw: bytes, name: str = "a.jpg", **more: str) -> Any:
        file = SimpleUploadedFile(name, raw, "image/jpeg")
        url = reverse("client-photo", args=[self.stored.pk])
        return self.client.post(url, {"file": file} | more, follow=True)

    def test_one_is_kept_small_upright_and_without_place_or_device(self) -> None:
        exif = Image.Exif()
        exif[0x0110], exif[0x0112] = "a telephone", 6  # model; turned a quarter
        exif.get_ifd(0x8825)[1] = "N"
        self.send(
            picture(exif=exif) + b"PK\x03\x04 a zip behind it", caption="Inlet", on="2026-05-02"
        )
        photo = Photo.objects.get()
        raw = bytes(photo.raw)
        self.assertLessEqual(len(raw), STORED_BYTES)
        self.assertEqual((photo.caption, photo.taken_on.isoformat()), ("Inlet", "2026-05-02"))
        with Image.open(io.BytesIO(raw)) as stored:
            self.assertLess(stored.width, stored.height)  # it was wide, and turned
            self.assertLessEqual(max(stored.size), STORED_SIDE)
            self.assertEqual(dict(stored.getexif()), {})
        self.assertNotIn(b"PK\x03\x04", raw)
        page = self.client.get(reverse("client", args=[self.stored.pk]))
        url = reverse("client-photo-raw", args=[self.stored.pk, photo.pk])
        self.assertContains(page, url)
        answer = self.client.get(url)
        self.assertEqual((answer["Content-Type"], answer.content), ("image/jpeg", raw))
        self.assertIn("private", answer["Cache-Control"])

    def test_what_is_no_photograph_is_refused_in_words(self) -> None:
        bomb = io.BytesIO()
        Image.new("1", (11_900, 11_900)).save(bomb, "PNG")
        script = b'<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>'
        for raw, words in (
            (b"", "choose a photograph"),
            (b"GIF89a" + b"\0" * 50, "JPEG, PNG or WebP"),
            (script, "JPEG, PNG or WebP"),
            (picture()[:5000], "JPEG, PNG or WebP"),
            (bomb.getvalue(), "points, more than"),
            (b"\xff\xd8" + b"\0" * LARGEST_BYTES, "at most 12 MB"),
        ):
            self.assertContains(self.send(raw), words)
        self.assertEqual(Photo.objects.count(), 0)

    def test_half_a_picture_is_none_though_the_printer_came_along(self) -> None:
        """Its library, which a process apart may be forked with, lets half pictures pass."""
        with (
            mock.patch.object(pictures.resource, "setrlimit"),
            mock.patch.object(pictures, "give_back"),
            mock.patch.object(Image, "MAX_IMAGE_PIXELS", Image.MAX_IMAGE_PIXELS),
            mock.patch.object(ImageFile, "LOAD_TRUNCATED_IMAGES", True),
        ):
            pictures.begin(1)
            with self.assertRaises(pictures.NotAPicture):
                pictures.shrunk(picture()[:5000])

    def test_so_many_and_no_more_and_one_can_go(self) -> None:
        small = picture(64, 48, "PNG")
        with mock.patch.object(photos, "MAX_OF_CLIENT", 2):
            for _ in range(3):
                said = self.send(small)
        self.assertContains(said, "a client may have 2")
        with mock.patch.object(photos, "MAX_OF_ACCOUNT", 2):
            self.assertContains(self.send(small), "an account may have 2")
        url = reverse("client-photo", args=[self.stored.pk])
        self.client.post(url, {"remove": Photo.objects.all()[0].pk})
        self.assertEqual(Photo.objects.count(), 1)

    def test_nobody_else_sees_or_removes_one(self) -> None:
        self.send(picture(64, 48))
        photo = Photo.objects.get()
        theirs = User.objects.create_user("other")
        mine = actions.make(Client, theirs, "Mine", empty())
        self.client.force_login(theirs)
        for pk in (self.stored.pk, mine.pk):
            url = reverse("client-photo-raw", args=[pk, photo.pk])
            self.assertEqual(self.client.get(url).status_code, 404)
            url = reverse("client-photo", args=[pk])
            answer = self.client.post(url, {"remove": photo.pk})
            self.assertEqual(answer.status_code, 404)
        self.assertEqual(Photo.objects.count(), 1)

    def test_out_and_in_with_the_account(self) -> None:
        self.send(picture(640, 480), caption="Panel", on="2026-05-02")
        other = User.objects.create_user("other")
        unpack(other, pack(self.owner))
        photo = Photo.objects.get(client__owner=other)
        self.assertEqual((photo.caption, photo.taken_on.isoformat()), ("Panel", "2026-05-02"))
        with Image.open(io.BytesIO(bytes(photo.raw))) as stored:
            self.assertEqual(stored.size, (640, 480))
