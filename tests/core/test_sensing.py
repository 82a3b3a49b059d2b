"""A start heard and a display's segments seen: made ones are read as what they are, and what is
unclear is said to be.
"""

from __future__ import annotations

import math
import unittest

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.observed import observed_start
from ironmargin.sensing.engine_sound import firing
from ironmargin.sensing.segments import ZONES, read_row
from ironmargin.sensing.sonify import Motion, Scene, motion_of, sound_of
from ironmargin.sensing.sound import RATE, SD_OF_MAD, SE_OF_MEDIAN, Heard, Unclear, heard, prepared
from ironmargin.setup.loads import AirConditioner
from tests.shared import changed
from tests.walking import walk

SOUNDING = (1, 2, 3, 4, 6, 13, 14, 15, 19)
"""Check setups with an air conditioner that starts, or does not."""
T = np.linspace(0.0, 10.0, 4001)


def coming_up(seconds: float) -> Motion:
    """A motor up to speed after some seconds: its current falls to a fifth as its speed rises."""
    speed = 0.97 / (1.0 + np.exp(-(T - 0.93 * seconds) / (0.035 * seconds)))
    return Motion(T, 1.0 - 0.8 * speed**3, speed)


def standing(seconds: float) -> Motion:
    """A rotor that stands until something lets go of it."""
    return Motion(T, np.ones_like(T), np.zeros_like(T), seconds)


def recorded(motion: Motion, snr_db: float, scene: Scene | None = None, seed: int = 3) -> Real:
    """A start with other sound beside it, so many decibels under it while it hums."""
    scene = scene or Scene(seed=seed)
    clean = sound_of(motion, scene)
    begun = int(scene.begins_s * scene.rate)
    loud = float(np.mean(np.square(clean[begun : begun + scene.rate // 4])))
    noise = np.random.default_rng(seed).standard_normal(len(clean))
    made: Real = np.clip(clean + noise * math.sqrt(loud / 10.0 ** (snr_db / 10.0)), -1.0, 1.0)
    return made


class AStartHeard(unittest.TestCase):
    def hear(self, motion: Motion, snr_db: float = 10.0, **scene: float) -> Heard:
        made = Scene(**scene)  # type: ignore[arg-type]
        return heard(recorded(motion, snr_db, made), made.rate, line_hz=made.line_hz)

    @walk
    def test_its_seconds_are_right_to_a_tenth(self) -> None:
        for seconds in (0.2, 0.5, 1.1, 2.4):
            for begins in (1.2, 2.6):
                found = self.hear(coming_up(seconds), begins_s=begins)
                self.assertEqual(found.outcome, "starts", found.why)
                assert found.seconds is not None
                self.assertAlmostEqual(found.seconds, seconds, delta=0.1)
                self.assertAlmostEqual(found.attempts[0].at_s, begins, delta=0.1)

    def test_a_stall_is_told_from_a_start(self) -> None:
        for seconds in (0.6, 2.0, 4.5):
            found = self.hear(standing(seconds), snr_db=20.0)
            self.assertEqual(found.outcome, "stalls", found.why)
            self.assertIsNone(found.seconds)
            self.assertAlmostEqual(found.attempts[-1].hums_s, seconds, delta=0.1)
            self.assertIn("went off", found.why)

    def test_a_rotor_that_never_turns_hums_to_the_end(self) -> None:
        found = self.hear(standing(math.inf))
        self.assertEqual(found.outcome, "stalls", found.why)
        self.assertIn("hums on", found.why)

    def test_a_start_too_near_an_edge_is_not_judged(self) -> None:
        for begins, words in ((0.1, "before the recording"), (9.4, "end")):
            found = self.hear(coming_up(1.0), begins_s=begins)
            self.assertIsNone(found.outcome)
            self.assertIn(words, found.why)

    def test_a_starter_that_tries_twice_shows_two_attempts(self) -> None:
        speed = coming_up(0.8)
        amps = np.where(T < 0.7, 1.0, np.where(T < 3.7, 0.0, np.interp(T - 3.7, T, speed.amps)))
        turns = np.interp(T - 3.7, T, speed.speed, left=0.0)
        on = (amps > 0.0).astype(float)
        made = Scene(begins_s=1.5, hum_left=0.0)
        found = heard(recorded(Motion(T, amps * on, turns), 20.0, made), made.rate)
        self.assertEqual([round(a.at_s, 0) for a in found.attempts], [2.0, 5.0])
        self.assertEqual(found.outcome, "starts", found.why)
        assert found.seconds is not None
        self.assertAlmostEqual(found.seconds, 0.8, delta=0.1)

    def test_fifty_hertz_hums_at_a_hundred(self) -> None:
        made = Scene(line_hz=50.0)
        sound = recorded(coming_up(0.9), 15.0, made)
        self.assertEqual(heard(sound, made.rate, line_hz=50.0).outcome, "starts")
        self.assertIsNone(heard(sound, made.rate, line_hz=60.0).outcome)

    def test_what_is_no_start_is_no_start(self) -> None:
        draw = np.random.default_rng(5)
        t = np.arange(160_000) / 16_000
        song = sum(
            0.1 * np.sin(2 * np.pi * f * t) * (np.floor(t * 2) % 4 == n)
            for n, f in enumerate((131.0, 165.0, 196.0, 262.0))
        )
        for name, sound in (
            ("noise", 0.1 * draw.standard_normal(160_000)),
            ("song", song + 0.01 * draw.standard_normal(160_000)),
            ("one tone all along", 0.1 * np.sin(2 * np.pi * 120.0 * t)),
        ):
            with self.subTest(name):
                self.assertIsNone(heard(sound, 16_000).outcome)

    def test_what_cannot_be_heard_at_all_is_refused_in_words(self) -> None:
        fine = sound_of(coming_up(1.0), Scene())
        for name, sound, rate, words in (
            ("silence", np.zeros(160_000), 16_000, "nothing was recorded"),
            ("too short", fine[:16_000], 16_000, "3 to 20 seconds"),
            ("too long", np.tile(fine, 3), 16_000, "3 to 20 seconds"),
            ("too slow", fine[::4], 4_000, "8,000 to 48,000"),
            ("too fast", fine, 96_000, "8,000 to 48,000"),
            ("cut off", np.sign(fine), 16_000, "loudness"),
            ("broken", np.full(160_000, np.nan), 16_000, "damaged"),
        ):
            with self.subTest(name), self.assertRaisesRegex(Unclear, words):
                heard(sound, rate)

    def test_each_rate_hears_the_same(self) -> None:
        found = [
            self.hear(coming_up(0.7), rate=rate).seconds for rate in (8_000, 22_050, 44_100, 48_000)
        ]
        for seconds in found:
            assert seconds is not None
            self.assertAlmostEqual(seconds, 0.7, delta=0.1)

    @walk
    def test_starts_of_the_engine_itself_sound_as_long_as_they_take(self) -> None:
        """Our own model's motors, made audible and heard again."""
        told = 0
        for number in SOUNDING:
            setup = changed(number, lambda _: None)
            for load in [x for x in setup.rig.loads if isinstance(x, AirConditioner)][:1]:
                observed = observed_start(setup, StartEntry(load=load.id))
                if observed is None or observed.scenario.case.source.frequency_hz != 60.0:
                    continue
                run = observed.scenario.run()
                motion = motion_of(run.trace, observed.row, run.trace.a[:, 0] * 0.0, run.opened_s)
                found = heard(recorded(motion, 20.0), 16_000)
                with self.subTest(number):
                    if found.outcome == "starts":
                        told += 1
                        assert found.seconds is not None
                        self.assertAlmostEqual(found.seconds, run.seconds, delta=0.12)
                    elif found.outcome == "stalls":
                        self.assertFalse(math.isfinite(run.seconds))
        self.assertGreater(told, 4)


class AnEngineHeard(unittest.TestCase):
    def test_it_sags_by_what_it_sags_and_comes_back(self) -> None:
        scene = Scene(engine_hz=29.0, engine=0.8, dip=0.06, recovers_s=0.5, begins_s=4.0)
        sound = recorded(coming_up(0.8), 20.0, scene)
        found = firing(prepared(sound, scene.rate), RATE, 4.0)
        assert found is not None
        self.assertAlmostEqual(found.before_hz, 29.0, delta=0.3)
        self.assertAlmostEqual(found.dip, 0.06, delta=0.02)
        self.assertAlmostEqual(found.lowest_hz, found.before_hz * (1.0 - found.dip), delta=0.01)
        assert found.back_s is not None
        self.assertTrue(0.5 < found.back_s < 4.0)

    def test_where_there_is_none_it_says_so(self) -> None:
        sound = recorded(coming_up(0.8), 20.0, Scene(begins_s=4.0))
        self.assertIsNone(firing(prepared(sound, 16_000), RATE, 4.0))


LIT = {
    "1": "bc",
    "2": "abged",
    "4": "fgbc",
    "6": "afgedc",
    "7": "abc",
    "8": "abcdefg",
    "9": "abcdfg",
}


def drawn(text: str, *, dark: bool = True, slant: float = 0.0, lean: float = 0.0) -> Real:
    """A row of seven segments on a plain ground, 60 high."""
    high, wide, thick = 60, 32, 7
    picture = np.full((130, 90 + 46 * len(text)), 30.0 if not dark else 200.0)
    ink = 230.0 if not dark else 40.0
    boxes = {
        "a": (5, 27, 0, thick), "g": (5, 27, 27, 34), "d": (5, 27, high - thick, high),
        "f": (0, thick, 4, 29), "b": (wide - thick, wide, 4, 29),
        "e": (0, thick, 32, 57), "c": (wide - thick, wide, 32, 57),
    }  # fmt: skip
    x = 40
    for mark in text:
        if mark == ".":
            picture[34 + high - 8 : 34 + high, x - 11 : x - 4] = ink
            continue
        for name in LIT[mark]:
            left, right, top, bottom = boxes[name]
            for y in range(top, bottom):
                shift = round(slant * (high - y) + 0.0)
                down = round(lean * x)
                picture[34 + y + down, x + left + shift : x + right + shift] = ink
        x += 46
    return picture


class ADisplaySeen(unittest.TestCase):
    def read(self, picture: Real) -> tuple[str, bool]:
        high, wide = picture.shape
        row = read_row(picture, (slice(20, high - 20), slice(30, wide - 40)))
        assert row is not None
        return row.shows, row.clear

    def test_its_digits_are_read_dark_and_bright(self) -> None:
        for text in ("1264", "78.9", "6.8", "49", "11"):
            for dark in (True, False):
                with self.subTest(text, dark=dark):
                    self.assertEqual(self.read(drawn(text, dark=dark)), (text, True))

    def test_slanted_and_leaning_rows_too(self) -> None:
        self.assertEqual(self.read(drawn("24.7", slant=0.14))[0], "24.7")
        self.assertEqual(self.read(drawn("2487", lean=0.05))[0], "2487")

    def test_a_place_half_lit_is_not_clear(self) -> None:
        picture = drawn("88")
        picture[61:68, 45:67] = 115.0  # the middle of the first
        row = read_row(picture, (slice(20, 110), slice(30, 140)))
        self.assertTrue(row is None or not row.clear)

    def test_what_is_no_digit_is_none(self) -> None:
        for name, picture in (
            ("blank", np.full((130, 300), 128.0)),
            ("noise", np.random.default_rng(1).uniform(0, 255, (130, 300))),
            ("a bar", np.pad(np.full((10, 200), 20.0), ((60, 60), (50, 50)), constant_values=200)),
        ):
            with self.subTest(name):
                row = read_row(picture, (slice(20, 110), slice(30, 260)))
                self.assertTrue(row is None or not row.clear)

    def test_every_place_has_its_zone_inside_the_digit(self) -> None:
        for left, right, top, bottom in ZONES.values():
            self.assertTrue(0.0 <= left < right <= 1.0 and 0.0 <= top < bottom <= 1.0)


class Robust(unittest.TestCase):
    def test_spreads_by_medians_are_those_of_a_normal(self) -> None:
        """1/Φ⁻¹(3/4), and √(π/2): any text on robust statistics."""
        draws = np.random.default_rng(7).standard_normal((4000, 101))
        middles = np.median(draws, axis=1)
        off = np.median(np.abs(draws - middles[:, None]), axis=1)
        self.assertAlmostEqual(SD_OF_MAD * float(np.mean(off)), 1.0, delta=0.03)
        by_mean = float(np.std(draws.mean(axis=1)))
        self.assertAlmostEqual(float(np.std(middles)) / by_mean, SE_OF_MEDIAN, delta=0.05)
