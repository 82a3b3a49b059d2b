"""A plug felt and a post remembered: known truths are found again, and their spread holds them."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from ironmargin.errors import SetupError
from ironmargin.learning.entries import PlugEntry, Warmth
from ironmargin.learning.learn import learn
from ironmargin.learning.log import read_log
from ironmargin.learning.plug import FELT_C, STOP_C, SURE, felt
from ironmargin.learning.post import Memory, post_memory
from ironmargin.limits.contact import KELVIN_PER_WATT, RISE_K, ContactHeat
from ironmargin.setup.hookup import CONDITIONS_OF_PARTS
from ironmargin.setup.reading import read_setup, write_setup
from tests.shared import document
from tests.walking import walk

MINUTES = (0.0, 5.0, 15.0, 30.0)


def warmed(
    ohm: float, amps: float, *, air_c: float = 28.0, tau_s: float = 300.0, by: str = "infrared",
    off: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0),
) -> PlugEntry:  # fmt: skip
    """A plug of a known contact, read at the usual minutes."""
    goal = KELVIN_PER_WATT * amps**2 * ohm
    readings = tuple(
        Warmth(minute=m, surface_c=air_c + goal * (1.0 - math.exp(-60.0 * m / tau_s)) + slip)
        for m, slip in zip(MINUTES, off, strict=True)
    )
    return PlugEntry(item=0, amps=amps, air_c=air_c, by=by, readings=readings)


class APlugFelt(unittest.TestCase):
    def test_its_watts_ohms_and_time_constant_are_found_again(self) -> None:
        for ohm, tau_s in ((0.004, 300.0), (0.012, 240.0), (0.03, 420.0)):
            found = felt(warmed(ohm, 20.0, tau_s=tau_s), 30.0)
            assert found is not None
            with self.subTest(ohm):
                self.assertAlmostEqual(found.ohm[1] / ohm, 1.0, delta=0.15)
                self.assertTrue(found.ohm[0] <= ohm <= found.ohm[2])
                self.assertTrue(found.tau_s[0] <= tau_s <= found.tau_s[2])
                self.assertAlmostEqual(found.watts[1], 400.0 * found.ohm[1], delta=0.3)

    def test_it_warms_as_the_ledgers_contact_does(self) -> None:
        """The same heat balance as the limit on worn contacts."""
        found = felt(warmed(0.01, 20.0), 20.0)
        assert found is not None
        contact = ContactHeat(found.watts[1])
        for minute, low, _, high in found.curve:
            expected = 28.0 + contact.rise_after(0.0, 60.0 * minute)
            self.assertTrue(low - 1.5 <= expected <= high + 1.5, minute)

    def test_its_condition_follows_the_rise_at_its_full_amps(self) -> None:
        """UL 498: a contact may rise 30 K at its rated current."""
        good = (0.6 * RISE_K) / KELVIN_PER_WATT / 900.0
        for ohm, condition in ((good, "good"), (2.4 * good, "worn"), (8.0 * good, "hot")):
            found = felt(warmed(ohm, 15.0), 30.0)
            assert found is not None
            with self.subTest(condition):
                self.assertEqual(found.condition, condition)
                self.assertGreater(found.sure, SURE)
        self.assertLessEqual({"good", "worn", "hot"}, set(CONDITIONS_OF_PARTS))

    def test_what_a_hand_feels_is_so_warm(self) -> None:
        """Skin is at about 33 °C, plastic is let go of near 55 to 60 (common practice); in the sun
        of a hot day, 38 °C, a dark plug is 15 K warmer.
        """
        for name, surface_c, within, wide in (
            ("lukewarm", 33.0, 1.5, 6.0), ("warm", 39.0, 2.0, 6.0), ("hot", 48.0, 2.5, 6.0),
            ("cannot-hold", 60.0, 5.0, 14.0),
        ):  # fmt: skip
            settled = tuple(Warmth(minute=m, felt=name) for m in (40.0, 50.0, 60.0))
            found = felt(PlugEntry(item=0, amps=20, air_c=20, by="hand", readings=settled), 20.0)
            assert found is not None
            low, middle, high = found.rise_k
            self.assertAlmostEqual(middle, surface_c - 20.0, delta=within, msg=name)
            self.assertAlmostEqual(high - low, wide, delta=0.3 * wide, msg=name)
            self.assertAlmostEqual(found.settles_c[1], 38.0 + 15.0 + middle, delta=0.5)

    def test_above_sixty_degrees_it_says_stop(self) -> None:
        found = felt(warmed(0.02, 24.0, air_c=35.0), 30.0)
        assert found is not None
        self.assertTrue(found.stop)
        self.assertEqual(found.condition, "hot")
        self.assertTrue(found.sentence.startswith(f"Stop: above {STOP_C:.0f} °C (140 °F)"))

    @walk
    def test_nine_intervals_of_ten_hold_the_truth(self) -> None:
        draw, held = np.random.default_rng(4), 0
        for _ in range(120):
            ohm = float(0.008 * np.exp(0.6 * draw.standard_normal()))
            slips = tuple(2.06 * draw.standard_normal(4))
            tau_s = float(300.0 * np.exp(0.25 * draw.standard_normal()))
            found = felt(warmed(ohm, 20.0, tau_s=tau_s, off=slips), 30.0)
            assert found is not None
            held += found.ohm[0] <= ohm <= found.ohm[2]
        self.assertTrue(0.85 <= held / 120 <= 0.99, held)

    def test_the_back_of_a_hand_tells_coarsely(self) -> None:
        classes = [
            PlugEntry(
                item=0, amps=20.0, air_c=25.0, by="hand",
                readings=(Warmth(minute=0, felt="as-the-air"), Warmth(minute=30, felt=name)),
            )
            for name in FELT_C
        ]  # fmt: skip
        found = [felt(entry, 20.0) for entry in classes]
        rises = [f.rise_k[1] for f in found if f is not None]
        self.assertEqual(rises, sorted(rises))
        widths = [f.rise_k[2] - f.rise_k[0] for f in found[1:] if f is not None]
        sharp = felt(warmed(0.01, 20.0), 20.0)
        assert sharp is not None
        self.assertGreater(min(widths), sharp.rise_k[2] - sharp.rise_k[0])

    def test_a_reading_at_the_very_start_may_be_missing_and_their_order_is_no_matter(self) -> None:
        whole = warmed(0.012, 20.0)
        late = PlugEntry(item=0, amps=20.0, air_c=28.0, readings=whole.readings[:0:-1])
        found = felt(late, 30.0)
        assert found is not None
        self.assertTrue(found.ohm[0] <= 0.012 <= found.ohm[2])
        self.assertTrue(found.tau_s[0] <= 300.0 <= found.tau_s[2])
        self.assertLess(found.curve[0][1], 28.0 + 3.0)  # it may have begun as cool as the air

    def test_one_reading_or_hardly_any_amps_tell_nothing(self) -> None:
        whole = warmed(0.01, 20.0)
        one = PlugEntry(item=0, amps=20.0, air_c=28.0, readings=whole.readings[:1])
        self.assertIsNone(felt(one, 30.0))
        self.assertIsNone(felt(warmed(0.01, 2.0), 30.0))
        self.assertIsNotNone(felt(warmed(0.01, 3.0), 30.0))

    def test_a_log_puts_it_down_at_the_part(self) -> None:
        setup = read_setup(document(22))
        entry: dict[str, Any] = {
            "kind": "plug", "item": 0, "amps": 20.0, "air_c": 28.0,
            "readings": [
                {"minute": r.minute, "surface_c": r.surface_c}
                for r in warmed(0.012, 20.0).readings
            ],
        }  # fmt: skip
        log = read_log({"entries": [entry]}, setup)
        found = learn(setup, log)
        self.assertEqual([c.field for c in found.choices], ["hookup[0].condition"])
        self.assertEqual(found.setup.hookup[0].condition, found.choices[0].after)
        self.assertNotEqual(found.choices[0].after, "good")
        self.assertIn("mΩ", found.entries[0].sentence)
        again = learn(found.setup, log)
        self.assertEqual(again.choices, ())
        kept = write_setup(found.setup)
        self.assertEqual(read_setup(kept), found.setup)

    def test_a_part_that_is_not_there_is_said(self) -> None:
        setup = read_setup(document(22))
        entry = {"kind": "plug", "item": 90, "amps": 20, "air_c": 20,
                 "readings": [{"minute": 0, "surface_c": 20}]}  # fmt: skip
        found = learn(setup, read_log({"entries": [entry]}, setup))
        self.assertEqual(found.choices, ())
        self.assertIn("must be in the hook-up", found.entries[0].sentence)
        with self.assertRaises(SetupError):
            read_log({"entries": [entry | {"readings": []}]}, setup)


def visits(*rows: tuple[str, float, float, float]) -> Memory | None:
    """The memory of visits: when, open volts, volts under load, amps."""
    entries = []
    for at, open_v, volts, amps in rows:
        entries.append({"kind": "supply", "at": at, "volts": open_v})
        entries.append(
            {"kind": "supply", "at": f"{at[:14]}40{at[16:]}", "volts": volts, "amps": amps}
        )
    return post_memory(read_log({"entries": entries}).entries)


MORNING = ("2026-08-09T08:20:00-06:00", 121.0, 119.2, 12.0)
EVENING = ("2026-08-10T18:20:00-06:00", 119.0, 115.4, 12.0)


class APostRemembered(unittest.TestCase):
    def test_two_readings_a_visit_make_its_impedance(self) -> None:
        found = visits(MORNING)
        assert found is not None
        self.assertAlmostEqual(found.whole.ohm, 1.8 / 12.0, places=6)
        self.assertAlmostEqual(found.whole.open_v, 121.0)
        self.assertTrue(found.whole.low_ohm < 0.15 < found.whole.high_ohm)
        self.assertIsNone(found.soft)

    def test_more_visits_make_it_surer(self) -> None:
        one = visits(MORNING)
        many = visits(
            *[(f"2026-08-{day:02d}{MORNING[0][10:]}", *MORNING[1:]) for day in range(1, 9)]
        )
        assert one is not None
        assert many is not None
        width = one.whole.high_ohm - one.whole.low_ohm
        self.assertAlmostEqual(
            (many.whole.high_ohm - many.whole.low_ohm) / width, 8.0**-0.5, delta=0.02
        )

    def test_an_hour_that_is_surely_softer_is_said(self) -> None:
        found = visits(
            MORNING, ("2026-08-11T07:20:00-06:00", 120.8, 119.0, 12.0),
            EVENING, ("2026-08-12T19:20:00-06:00", 118.8, 115.0, 12.0),
        )  # fmt: skip
        assert found is not None
        assert found.soft is not None
        self.assertEqual(found.soft.first, 17)
        self.assertTrue(found.sentence.startswith("Soft after 17:00: 0.3"), found.sentence)
        self.assertEqual([h.name for h in found.by_hours], ["mornings", "evenings"])

    def test_other_hours_than_evenings_are_said_by_both_ends(self) -> None:
        noon = ("2026-08-10T13:20:00-06:00", *EVENING[1:])
        found = visits(MORNING, noon, noon)
        assert found is not None
        assert found.soft is not None
        self.assertEqual(found.soft.when, "from 12:00 to 17:00")

    def test_the_hours_are_the_places_own(self) -> None:
        """18:20 at UTC−6 is past midnight at Greenwich."""
        found = visits(EVENING)
        assert found is not None
        self.assertEqual([h.name for h in found.by_hours], ["evenings"])
        night = visits(("2026-08-10T23:05:00-06:00", 121.0, 119.2, 12.0))
        early = visits(("2026-08-10T03:05:00-06:00", 121.0, 119.2, 12.0))
        assert night is not None
        assert early is not None
        self.assertEqual(night.by_hours[0].name, early.by_hours[0].name)

    def test_hardly_softer_is_not_said(self) -> None:
        found = visits(MORNING, (EVENING[0], 120.0, 118.1, 12.0))
        assert found is not None
        self.assertIsNone(found.soft)

    def test_readings_of_different_visits_make_no_pair(self) -> None:
        entries = [
            {"kind": "supply", "at": "2026-08-09T08:20:00Z", "volts": 121.0},
            {"kind": "supply", "at": "2026-08-09T12:20:00Z", "volts": 118.0, "amps": 12.0},
        ]
        self.assertIsNone(post_memory(read_log({"entries": entries}).entries))
        small = [entries[0], entries[1] | {"at": "2026-08-09T08:24:00Z", "amps": 2.0}]
        self.assertIsNone(post_memory(read_log({"entries": small}).entries))

    def test_a_load_switched_on_is_a_visit_by_itself(self) -> None:
        entry = {"kind": "run", "load": "x", "at": "2026-08-09T08:20:00Z", "amps": 12.5,
                 "volts_off": 121.0, "volts": 118.5}  # fmt: skip
        found = post_memory(read_log({"entries": [entry]}).entries)
        assert found is not None
        self.assertAlmostEqual(found.whole.ohm, 0.2)

    def test_nine_intervals_of_ten_hold_the_truth(self) -> None:
        draw, held = np.random.default_rng(9), 0
        for _ in range(150):
            rows = []
            for day in range(1, 5):
                ohm = 0.25 * (1.0 + 0.15 * draw.standard_normal())
                slips = 0.35 * draw.standard_normal(2)
                rows.append((f"2026-08-{day:02d}T18:20:00-06:00", 120.0 + slips[0],
                             120.0 - 12.0 * ohm + slips[1], 12.0))  # fmt: skip
            found = visits(*rows)
            assert found is not None
            held += found.whole.low_ohm <= 0.25 <= found.whole.high_ohm
        self.assertTrue(0.84 <= held / 150 <= 0.97, held)

    def test_a_log_corrects_the_post_by_pairs_of_one_visit(self) -> None:
        """Mornings and evenings mixed in one line would make an impedance of neither."""
        setup = read_setup(document(6))
        entries = []
        for at, open_v, volts, amps in (MORNING, EVENING):
            entries.append({"kind": "supply", "at": at, "volts": open_v})
            entries.append(
                {"kind": "supply", "at": f"{at[:14]}40{at[16:]}", "volts": volts, "amps": amps}
            )
        found = learn(setup, read_log({"entries": entries}, setup))
        ohm = next((f for f in found.figures if f.field == "supply.source_ohm"), None)
        assert ohm is not None
        self.assertAlmostEqual(ohm.after, 0.21, delta=0.03)
