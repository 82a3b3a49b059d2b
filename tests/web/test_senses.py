"""Readings by the senses on the web: a start heard, a display photographed, a plug felt, a post
remembered; what was typed stays, nothing is kept unless asked, and what is no reading is said.
"""

from __future__ import annotations

import io
import struct
import wave
from typing import Any
from unittest import mock

import numpy as np
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from benchmarks.displays import made
from ironmargin.sensing.sonify import Scene
from tests.core.test_sensing import coming_up, recorded, standing
from tests.shared import document
from tests.web.pages import PageCase
from web.design.pictures import NotAPicture
from web.logbook import display, evidence, hearing
from web.logbook.models import Evidence, LogEntry
from web.setups import judging, repository
from web.storage.account import pack, unpack


def start_wav(seconds: float = 0.8, rate: int = 16_000) -> bytes:
    scene = Scene(rate=rate)
    return hearing.as_wav(recorded(coming_up(seconds), 20.0, scene), rate)


READ_WELL = "14.2"
"""What one of the made displays shows, in amps."""


class Base(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.saved = repository.store(self.owner, judging.judge(document(5)))
        self.load = next(x["id"] for x in document(5)["rig"]["loads"] if "lra_a" in x)

    def send(self, sense: str, raw: bytes, **typed: str) -> Any:
        url = reverse(f"log-{sense}", args=[self.saved.pk])
        file = SimpleUploadedFile("it", raw)
        return self.client.post(url, {"kind": "start", "units": "us", sense: file} | typed)


class AStartHeard(Base):
    def test_what_is_sure_fills_the_form_and_what_was_typed_stays(self) -> None:
        answer = self.send("sound", start_wav(), **{"entry.peak_a": "61.5", "beside": "alone"})
        self.assertEqual(answer.status_code, 200)
        self.assertContains(answer, "up to speed after")
        fields = {f.path: f.value for f in answer.context["group"].fields}
        self.assertEqual(fields["entry.outcome"], "starts")
        self.assertEqual(fields["entry.instrument"], "by-sound")
        self.assertAlmostEqual(float(fields["entry.seconds"]), 0.8, delta=0.1)
        self.assertEqual(fields["entry.peak_a"], "61.5")
        self.assertContains(answer, '<option value="alone" selected>')
        self.assertContains(answer, "data:image/png;base64,")
        self.assertFalse(LogEntry.objects.exists())
        self.assertFalse(Evidence.objects.exists())

    def test_whether_it_stalled_or_tripped_is_left_to_who_stood_there(self) -> None:
        answer = self.send("sound", hearing.as_wav(recorded(standing(2.0), 20.0), 16_000))
        self.assertContains(answer, "Did not start")
        fields = {f.path: f.value for f in answer.context["group"].fields}
        self.assertEqual(fields["entry.outcome"], "")
        self.assertEqual(fields["entry.seconds"], "")

    def test_what_is_no_start_is_said_and_fills_nothing(self) -> None:
        noise = 0.1 * np.random.default_rng(2).standard_normal(160_000)
        answer = self.send("sound", hearing.as_wav(noise, 16_000))
        self.assertContains(answer, "Cannot tell")
        fields = {f.path: f.value for f in answer.context["group"].fields}
        self.assertEqual(fields["entry.seconds"], "")

    def test_what_is_no_recording_is_refused_in_words(self) -> None:
        bomb = io.BytesIO()
        with wave.open(bomb, "wb") as file:
            file.setnchannels(1)
            file.setsampwidth(2)
            file.setframerate(16_000)
            file.writeframes(b"\0\0" * 16_000)
        lying = bytearray(bomb.getvalue())
        lying[40:44] = struct.pack("<I", 0xFFFFFFF0)  # says that it holds four gigabytes
        for raw, words in (
            (b"", "record the start first"),
            (b"RIFF____WAVE", "recorded as WAV"),
            (b"ID3" + b"\0" * 400, "recorded as WAV"),
            (b"<svg/>", "recorded as WAV"),
            (bytes(lying), "3 to 20 seconds"),
            (hearing.as_wav(np.zeros(160_000), 16_000), "nothing was recorded"),
            (start_wav()[: 16_000 * 2], "3 to 20 seconds"),
            (b"\0" * 2_000_001, "at most 2 MB"),
        ):
            answer = self.send("sound", raw, **{"entry.peak_a": "44"})
            self.assertContains(answer, words, status_code=422)
            self.assertContains(answer, 'value="44"', status_code=422)

    def test_every_width_and_two_ears_sound_the_same(self) -> None:
        samples = recorded(coming_up(0.8), 20.0)
        for width, ears in ((1, 1), (2, 2), (3, 1), (4, 2)):
            out = io.BytesIO()
            whole = np.repeat(np.round(samples * (2 ** (8 * width - 1) - 1)), ears).astype("<i4")
            if width == 1:
                data = (whole + 128).astype(np.uint8).tobytes()
            else:
                data = whole.view(np.uint8).reshape(-1, 4)[:, :width].tobytes()
            with wave.open(out, "wb") as file:
                file.setnchannels(ears)
                file.setsampwidth(width)
                file.setframerate(16_000)
                file.writeframes(data)
            found, rate = hearing.decoded(out.getvalue())
            self.assertEqual(rate, 16_000)
            np.testing.assert_allclose(found, samples, atol=1.5 / 2 ** (8 * width - 1))

    def test_a_conventional_sets_dip_of_hertz_is_filled_in(self) -> None:
        doc = document(5)
        doc["supply"] = {"kind": "generator", "continuous_w": 5500, "starting_w": 7000,
                         "inverter": False}  # fmt: skip
        self.saved = repository.store(self.owner, judging.judge(doc))
        scene = Scene(engine_hz=30.0, engine=0.6, dip=0.08, begins_s=4.0, geared=True)
        answer = self.send("sound", hearing.as_wav(recorded(coming_up(0.8), 25.0, scene), 16_000))
        fields = {f.path: f.value for f in answer.context["group"].fields}
        self.assertAlmostEqual(float(fields["entry.lowest_hz"]), 60.0 * 0.92, delta=1.5)

    def test_how_it_should_sound_comes_from_the_check(self) -> None:
        url = reverse("log-sounding", args=[self.saved.pk])
        answer = self.client.get(url, {"load": self.load})
        self.assertEqual(answer["Content-Type"], "audio/wav")
        samples, rate = hearing.decoded(answer.content)
        self.assertAlmostEqual(len(samples) / rate, 10.0, delta=0.01)
        for load in ("nobody", ""):
            self.assertEqual(self.client.get(url, {"load": load}).status_code, 404)


class ADisplayPhotographed(Base):
    def seen(self, **known: Any) -> display.Seen:
        usual: dict[str, Any] = {"shows": "52.2", "unit": "A", "peak": True, "sure": True}
        return display.Seen(**(usual | {"piece": b"x"} | known))

    def test_a_clean_one_fills_the_field_of_its_unit(self) -> None:
        one = next(d for d in (made(n, hard=False) for n in range(60)) if d.shows == READ_WELL)
        seen = display.read(one.raw)
        self.assertEqual((seen.shows, seen.unit, seen.peak), (one.shows, "A", one.peak))
        answer = self.send("display", one.raw)
        fields = {f.path: f.value for f in answer.context["group"].fields}
        self.assertEqual(fields["entry.peak_a"], one.shows if seen.sure else "")
        self.assertContains(answer, "data:image/jpeg;base64,")

    def test_what_is_not_sure_is_asked(self) -> None:
        with (
            mock.patch.object(display.READERS, "run", return_value=self.seen(sure=False)),
            mock.patch.object(evidence, "packed", return_value="photo:x"),
        ):
            answer = self.send("display", b"\xff\xd8")
        self.assertContains(answer, "Is it so?")
        self.assertContains(answer, 'data-fill="entry.peak_a" data-value="52.2"')
        fields = {f.path: f.value for f in answer.context["group"].fields}
        self.assertEqual(fields["entry.peak_a"], "")

    def test_without_a_unit_it_is_asked_which_figure_it_is(self) -> None:
        with (
            mock.patch.object(display.READERS, "run", return_value=self.seen(unit="")),
            mock.patch.object(evidence, "packed", return_value="photo:x"),
        ):
            answer = self.send("display", b"\xff\xd8")
        for unit in ("A", "V", "Hz"):
            self.assertContains(answer, f"Use 52.2 {unit}")
        self.assertNotContains(answer, "Use 52.2 W")

    def test_each_kind_has_its_field_by_unit(self) -> None:
        for kind, unit, field in (
            ("start", "A", "peak_a"), ("start", "V", "lowest_v"), ("start", "W", ""),
            ("run", "A", "amps"), ("run", "W", "watts"), ("run", "VA", "va"),
            ("supply", "Hz", "hz"), ("noise", "A", ""), ("start", "", ""),
        ):  # fmt: skip
            self.assertEqual(display.field_of(self.seen(unit=unit), kind), field, (kind, unit))

    def test_what_is_no_display_is_said(self) -> None:
        def jpeg(image: Image.Image) -> bytes:
            out = io.BytesIO()
            image.save(out, "JPEG")
            return out.getvalue()

        grey = jpeg(Image.effect_noise((700, 500), 60).convert("RGB"))
        for raw, words in (
            (b"", "choose a photograph first"),
            (grey, "no figure of a display"),
            (jpeg(Image.new("RGB", (700, 500))), "no figure of a display"),
            (jpeg(Image.new("RGB", (60, 60))), "too small"),
            (b"<svg><script>1</script></svg>", "must be a photograph"),
            (b"GIF89a" + b"\0" * 60, "must be a photograph"),
        ):
            self.assertContains(self.send("display", raw), words, status_code=422)


class WhatIsKept(Base):
    def store(self, stored: str, **more: str) -> Any:
        form = {"kind": "start", "entry.load": self.load, "entry.outcome": "starts", "once": "k1",
                "keep": "1", "kept": stored} | more  # fmt: skip
        return self.client.post(reverse("log-add", args=[self.saved.pk]), form, follow=True)

    def test_it_is_kept_only_where_asked_and_gone_with_its_entry(self) -> None:
        packed = evidence.packed("sound", start_wav())
        self.store(packed, keep="")
        self.assertFalse(Evidence.objects.exists())
        answer = self.store(packed, once="k2")
        held = Evidence.objects.get()
        self.assertContains(answer, "<audio")
        self.assertLess(len(bytes(held.raw)), hearing.STORED_BYTES)
        url = reverse("log-evidence", args=[self.saved.pk, held.entry_id])
        answer = self.client.get(url)
        self.assertEqual(answer["Content-Type"], "audio/wav")
        held.entry.delete()
        self.assertFalse(Evidence.objects.exists())

    def test_the_same_form_twice_keeps_one(self) -> None:
        packed = evidence.packed("sound", start_wav())
        self.store(packed)
        self.store(packed)
        self.assertEqual(Evidence.objects.count(), 1)

    def test_nobody_else_sees_or_hears_it(self) -> None:
        self.store(evidence.packed("sound", start_wav()))
        url = reverse("log-evidence", args=[self.saved.pk, Evidence.objects.get().entry_id])
        self.client.force_login(User.objects.create_user("other"))
        self.assertEqual(self.client.get(url).status_code, 404)
        for name in ("log-sound", "log-display"):
            file = {"sound": SimpleUploadedFile("s", b"x")}
            answer = self.client.post(reverse(name, args=[self.saved.pk]), file)
            self.assertEqual(answer.status_code, 404)
        self.assertEqual(
            self.client.get(reverse("log-plug", args=[self.saved.pk])).status_code, 404
        )

    def test_a_made_up_field_keeps_nothing_but_the_reading(self) -> None:
        for n, stored in enumerate(
            ("photo:PHN2Zz4=", "sound:AAAA", "virus:AAAA", "photo:%%%", "x")
        ):
            answer = self.store(stored, once=f"bad{n}")
            self.assertContains(answer, "The reading is saved; not what was seen or heard")
        self.assertEqual(LogEntry.objects.count(), 5)
        self.assertFalse(Evidence.objects.exists())

    def test_a_picture_keeps_only_its_pixels(self) -> None:
        out = io.BytesIO()
        exif = Image.Exif()
        exif[0x010F] = "a maker of telephones"
        Image.new("RGB", (900, 700), (90, 80, 70)).save(out, "JPEG", exif=exif)
        kind, raw = evidence.unpacked(evidence.packed("photo", out.getvalue() + b"<script>"))
        self.assertEqual(kind, "photo")
        self.assertNotIn(b"telephones", raw)
        self.assertNotIn(b"<script>", raw)

    def test_so_many_and_no_more(self) -> None:
        packed = evidence.packed("sound", start_wav())
        for n, maximum in enumerate(("MAX_OF_SETUP", "MAX_OF_ACCOUNT")):
            Evidence.objects.all().delete()
            with mock.patch.object(evidence, maximum, 130_000):
                self.store(packed, once=f"a{n}")
                answer = self.store(packed, once=f"b{n}")
            self.assertContains(answer, "as many photographs and sounds as it may")
            self.assertEqual(Evidence.objects.count(), 1)

    def test_a_zip_on_its_way_in_needs_no_further_process(self) -> None:
        raw = start_wav()
        made = hearing.stored(raw)
        with (
            mock.patch.object(hearing.multiprocessing, "parent_process", return_value=object()),
            mock.patch.object(hearing.LISTENERS, "run", side_effect=AssertionError),
        ):
            self.assertEqual(hearing.stored(raw), made)
            with self.assertRaises(NotAPicture):
                hearing.stored(b"RIFF")

    def test_a_full_log_comes_back_with_its_own_zip(self) -> None:
        """What may be kept fits into the entry of a zip that is taken in again."""
        picture = Image.effect_noise((1280, 960), 120).convert("RGB")
        out = io.BytesIO()
        picture.save(out, "JPEG", quality=95)
        packed = [evidence.packed("photo", out.getvalue()), evidence.packed("sound", start_wav())]
        for n in range(14):
            self.store(packed[n % 2], once=f"n{n}")
        held = Evidence.objects.count()
        self.assertLess(held, 14)
        other = User.objects.create_user("other")
        unpack(other, pack(self.owner))
        self.assertEqual(Evidence.objects.filter(entry__setup__owner=other).count(), held)

    def test_it_goes_and_comes_with_its_account(self) -> None:
        self.store(evidence.packed("sound", start_wav()))
        raw = pack(self.owner)
        other = User.objects.create_user("other")
        unpack(other, raw)
        theirs = Evidence.objects.get(entry__setup__owner=other)
        samples, rate = hearing.decoded(bytes(theirs.raw))
        self.assertEqual(rate, hearing.STORED_RATE)
        self.assertAlmostEqual(len(samples) / rate, 10.0, delta=0.1)

    def test_evidence_of_a_zip_is_looked_at(self) -> None:
        for bad in (
            {"kind": "photo", "data": "AAAA"},
            {"kind": "photo"},
            "x",
            {"kind": [], "data": 1},
        ):
            with self.subTest(bad), self.assertRaises(NotAPicture):
                evidence.taken(bad)
        with self.assertRaises(NotAPicture):
            evidence.unpacked("photo:AAAA")
