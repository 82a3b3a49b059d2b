"""A plate by photograph: read in a subprocess, asked where it is not sure, kept nowhere."""

from __future__ import annotations

import io
import sys
from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase
from django.urls import reverse
from PIL import Image, ImageDraw

from benchmarks.plates import FACES, font_of, made
from ironmargin.setup.parts import read_supply
from tests.web.pages import PageCase
from web.rigs import plate_photo, service
from web.supplies import plate
from web.supplies.models import Supply


def jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=90)
    return out.getvalue()


class Photographs(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.rig = service.make(self.owner, "Wagon", "120")

    def send(self, raw: bytes) -> Any:
        url = reverse("rig-plate-photo", args=[self.rig.pk])
        return self.client.post(url, {"photo": SimpleUploadedFile("p.jpg", raw, "image/jpeg")})

    def test_a_plate_fills_the_form_each_figure_beside_its_picture(self) -> None:
        plate = made(1, hard=False)
        answer = self.send(plate.raw)
        self.assertEqual(answer.status_code, 200)
        for field in ("rla_a", "lra_a", "fan_a", "btu_h"):
            value = f"{plate.truth[field]:.6g}"
            self.assertContains(answer, f'name="{field}" enterkeyhint="next" value="{value}"')
        figures = answer.context["figures"]
        self.assertGreaterEqual(len(figures), 8)
        self.assertTrue(all(f["picture"].startswith("data:image/jpeg;base64,") for f in figures))
        self.assertContains(answer, "filled in")
        self.assertEqual(service.Rig.objects.get().document["loads"], [])  # nothing is kept
        self.assertNotIn("rapidocr_onnxruntime", sys.modules)  # no web process holds its models

    def test_one_that_lies_on_its_side_or_head_is_read(self) -> None:
        plate = made(2, hard=False)
        for turn in (90, 180):
            with Image.open(io.BytesIO(plate.raw)) as image:
                seen, why = plate_photo.look(jpeg(image.rotate(turn, expand=True)))
            self.assertEqual(why, "")
            words = " ".join(text for text, _, _ in seen)
            self.assertIn(f"{plate.truth['lra_a']:.0f}", words, turn)

    def test_what_is_not_sure_is_asked_and_not_filled_in(self) -> None:
        seen = [("LRA 52", 0.6, b""), ("RLA 9.5", 0.99, b"")]
        with mock.patch.object(plate_photo.READERS, "run", return_value=seen):
            answer = self.send(b"\xff\xd8")
        self.assertContains(answer, 'data-fill="lra_a" data-value="52"')
        self.assertContains(answer, 'name="lra_a" enterkeyhint="next" value=""')
        self.assertContains(answer, 'name="rla_a" enterkeyhint="next" value="9.5"')

    def test_what_is_no_plate_is_said_and_nothing_is_filled_in(self) -> None:
        black = jpeg(Image.new("RGB", (900, 600)))
        noise = jpeg(Image.effect_noise((900, 600), 90).convert("RGB"))
        dog = Image.new("RGB", (900, 600), (90, 140, 60))
        pen = ImageDraw.Draw(dog)
        for x, y, r in ((450, 300, 160), (380, 180, 60), (520, 180, 60), (420, 280, 14)):
            pen.ellipse((x - r, y - r, x + r, y + r), fill=(120, 80, 40), outline=(20, 10, 0))
        for raw, words in (
            (black, "no figures of a plate"),
            (noise, "no figures of a plate"),
            (jpeg(dog), "no figures of a plate"),
            (jpeg(Image.new("RGB", (90, 60))), "too small"),
            (b"<svg><script>1</script></svg>", "must be a photograph"),
            (b"", "choose a photograph"),
        ):
            answer = self.send(raw)
            self.assertContains(answer, words, status_code=422)
            self.assertEqual(answer.context["figures"], [])

    def test_another_s_rig_reads_no_plate(self) -> None:
        self.client.force_login(User.objects.create_user("other"))
        self.assertEqual(self.send(b"x").status_code, 404)


class SuppliesPlates(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        document = {"kind": "generator", "continuous_w": 2000, "starting_w": 2200}
        self.item = Supply.objects.create(owner=self.owner, name="Set", document=document)
        self.url = reverse("supply-plate", args=[self.item.pk])

    def send(self, *lines: tuple[str, float]) -> Any:
        seen = [(text, sure, b"") for text, sure in lines]
        with mock.patch.object(plate_photo.READERS, "run", return_value=seen):
            return self.client.post(self.url, {"photo": SimpleUploadedFile("p.jpg", b"\xff\xd8")})

    def test_sure_figures_stand_in_the_form_and_nothing_is_kept_before_save(self) -> None:
        answer = self.send(("RUNNING 3400 W", 0.98), ("STARTING 4500 W", 0.97), ("120 V", 0.5))
        for name, value in (("continuous_w", "3400"), ("starting_w", "4500")):
            self.assertContains(
                answer,
                f'name="supply.{name}" id="f-supply-{name.replace("_", "-")}" value="{value}"',
            )
        self.assertContains(answer, 'data-fill="supply.voltage_v"')
        self.assertEqual(Supply.objects.get().document["continuous_w"], 2000)

    def test_a_tank_is_asked_in_the_units_of_the_form(self) -> None:
        answer = self.send(("TANK 2.6 GAL", 0.5))
        self.assertContains(answer, "2.6 gal")
        self.assertContains(answer, 'data-fill="supply.tank_l" data-value="2.6"')
        self.client.cookies["units"] = "si"
        answer = self.send(("TANK 2.6 GAL", 0.5))
        self.assertContains(answer, 'data-fill="supply.tank_l" data-value="9.842')

    def test_figures_that_do_not_fit_each_other_are_asked(self) -> None:
        answer = self.send(("RUNNING 4500 W", 0.98), ("STARTING 3400 W", 0.97))
        self.assertContains(answer, 'data-fill="supply.continuous_w" data-value="4500"')
        self.assertNotContains(answer, "filled in</span>")

    def test_a_real_picture_is_read(self) -> None:
        image = Image.new("RGB", (1040, 420), (230, 228, 222))
        pen = ImageDraw.Draw(image)
        for n, line in enumerate(("RUNNING WATTS 3400 W", "STARTING WATTS 4500 W", "120 V  60 HZ")):
            pen.text((60, 50 + 110 * n), line, font=font_of(FACES[0], 52), fill=(30, 30, 34))
        answer = self.client.post(self.url, {"photo": SimpleUploadedFile("p.jpg", jpeg(image))})
        values = {f["field"]: f["value"] for f in answer.context["figures"]}
        self.assertEqual((values["continuous_w"], values["starting_w"]), ("3400", "4500"))

    def test_what_is_no_plate_and_whose_is_not_this(self) -> None:
        answer = self.client.post(self.url, {"photo": SimpleUploadedFile("p.jpg", b"<svg/>")})
        self.assertContains(answer, "must be a photograph", status_code=422)
        self.assertContains(self.client.post(self.url), "choose a photograph", status_code=422)
        post = Supply.objects.create(
            owner=self.owner, name="P", document={"kind": "shore", "breaker_a": 30}
        )
        url = reverse("supply-plate", args=[post.pk])
        answer = self.client.post(url, {"photo": SimpleUploadedFile("p.jpg", b"x")})
        self.assertContains(answer, "only generators and inverters", status_code=422)
        self.assertNotContains(
            self.client.get(reverse("supply", args=[post.pk])), "Photograph its plate"
        )
        self.client.force_login(User.objects.create_user("other"))
        self.assertEqual(self.client.post(self.url).status_code, 404)


class TwoFuels(SimpleTestCase):
    def test_each_fuel_s_ratings_are_filled_in(self) -> None:
        """A dual-fuel generator of two legs: its output goes with its volts, its other fuel's
        ratings to their own fields.
        """
        lines = ("GASOLINE 7500 RUNNING 9375 STARTING", "PROPANE 6750 RUNNING 8438 STARTING",
                 "120/240 V 60 HZ")  # fmt: skip
        seen = [(text, 0.97, b"x") for text in lines]
        small = {"kind": "generator", "continuous_w": 2000, "starting_w": 2500}
        file = SimpleUploadedFile("plate.jpg", b"x")
        with mock.patch.object(plate.READERS, "run", return_value=seen):
            changed, rows = plate.read_plate(small, file, "us")
        self.assertEqual((changed["continuous_w"], changed["output"]), (7500.0, "120/240"))
        self.assertEqual(
            changed["by_fuel"], {"propane": {"continuous_w": 6750.0, "starting_w": 8438.0}}
        )
        read_supply(changed)
        self.assertIn("Starting (surge) power on propane", [row["label"] for row in rows])
        self.assertEqual(small, {"kind": "generator", "continuous_w": 2000, "starting_w": 2500})
