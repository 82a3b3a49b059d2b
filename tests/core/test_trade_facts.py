"""Facts of the trade, statistics and words of the core's parts."""

from __future__ import annotations

import unittest

from ironmargin.loads.demand import transformer_demand
from ironmargin.loads.reader import demand_of
from ironmargin.planning.answer import check_fully
from ironmargin.protection.breaker import EARLY, LATE, NOMINAL, box_share, curve
from ironmargin.setup.engines import Generator
from ironmargin.setup.hookup import Transformer
from ironmargin.setup.model import Conditions
from ironmargin.starting.chance import wilson
from ironmargin.starting.nights import coincidences_per_night
from ironmargin.supplies.derate import derating_chain, vapour_hpa
from ironmargin.supplies.source import source_of
from ironmargin.verdict.picture import picture_csv, picture_of
from ironmargin.verdict.stations import stations
from tests.core.test_parts import HERE
from tests.shared import changed, checked


class FactsOfTheTrade(unittest.TestCase):
    """Figures the model rests on, each against what the trade or a source says, not against
    itself.
    """

    def test_a_rooftop_unit_s_fan_and_its_cycles(self) -> None:
        """Common practice, no source: a fan of two to three amps beside a 12.5 A compressor, and a
        microwave oven runs some nine minutes of an hour.
        """
        demand = demand_of(
            changed(2, lambda doc: doc["rig"]["loads"][0].pop("fan_high_a")), 0, None
        )
        fan = next(value for field, value, _ in demand.assumed if field.endswith("fan_high_a"))
        self.assertTrue(2.0 <= fan <= 3.0, fan)
        oven = demand_of(changed(5, lambda doc: None), 1, None)
        self.assertAlmostEqual(oven.duty * 60, 9, delta=1)

    def test_what_lets_go_and_comes_back_where(self) -> None:
        """From memory: wide-input supplies hold to about 0.45 and restart a tenth above; relays
        drop at 0.5 to 0.6 and pull in at three quarters; running compressors fall out at 0.5 to
        0.6.
        """
        router = demand_of(changed(2, lambda doc: None), 1, None).steady[0]
        self.assertEqual((router.dropout, router.pickup), (0.45, 0.5))
        oven = demand_of(changed(5, lambda doc: None), 1, None).steady[0]
        self.assertEqual((oven.dropout, oven.pickup), (0.55, 0.75))
        for volts, falls in ((0.53, True), (0.58, False)):
            running = demand_of(changed(2, lambda doc: None), 0, None).steady[1]
            self.assertEqual(volts < running.dropout, falls)

    def test_rounding_up_begins_at_600_w(self) -> None:
        def oven(watts: float) -> float:
            def change(doc: dict) -> None:
                doc["rules"] = {"round_up": True}
                doc["rig"]["loads"][1]["watts"] = watts

            return demand_of(changed(5, change), 1, None).steady[0].amps

        self.assertLess(oven(580), 6)
        self.assertAlmostEqual(oven(640), 15, delta=0.01)

    def test_a_set_s_latch_limits_and_impedance(self) -> None:
        """Common practice, no source: 0.1 to 0.2 ohm, 1.25 of starting watts in the first
        second.
        """
        source = source_of(Generator(continuous_w=1800, starting_w=2200), HERE)
        self.assertTrue(0.1 <= source.hot_ohm.real <= 0.2, source.hot_ohm)
        self.assertAlmostEqual(source.limit_a * source.short_factor, 1.25 * 2200 / 120, places=6)
        twice = (2.0**2 - 1.0) / source.lockout_k_s
        self.assertAlmostEqual(1.0 / twice, 0.57, delta=0.02)  # at twice its amps, half a second
        alternator = source_of(Generator(continuous_w=5000, starting_w=6000, inverter=False), HERE)
        rated_ohm = 120 / (5000 / 120)
        self.assertTrue(0.15 <= alternator.transient_ohm.imag / rated_ohm <= 0.3)

    def test_a_breaker_in_a_hot_box(self) -> None:
        """Makers' tables, from memory: a thermal breaker rated at 40 °C carries about 0.9 of its
        rated current in 50 °C and 0.8 in 60 °C; at 30 °C it takes no credit.
        """
        for outdoor, share in ((20, 1.0), (30, 1.0), (40, 0.91), (50, 0.82)):
            hot = curve("UL489", 30, NOMINAL, outdoor).multiple / curve("UL489", 30).multiple
            self.assertAlmostEqual(hot, share, delta=0.01)
        self.assertLess(
            curve("IEC60898-C", 16, NOMINAL, 30).multiple, curve("IEC60898-C", 16).multiple
        )

    def test_no_box_takes_more_than_half_of_a_breaker_s_heat(self) -> None:
        """30 K over its reference is as hot as a box is taken to be."""
        for standard, outdoor_c, share in (
            ("UL489", 30.0, 1.0), ("UL489", 45.0, 0.75), ("UL489", 60.0, 0.5), ("UL489", 90.0, 0.5),
            ("IEC60898-B", 20.0, 1.0), ("IEC60898-B", 50.0, 0.5), ("IEC60898-D", 80.0, 0.5),
        ):  # fmt: skip
            self.assertAlmostEqual(box_share(standard, outdoor_c), share)

    def test_where_breakers_trip_at_once(self) -> None:
        """IEC 60898-1, table 7: B between 3 and 5 times the rating, C 5 and 10, D 10 and 20; UL 489
        leaves it to the maker, 8 to 12 times is common (from memory).
        """
        bands = {"IEC60898-B": (3, 5), "IEC60898-C": (5, 10), "IEC60898-D": (10, 20)}
        for standard, (low, high) in (bands | {"UL489": (8, 12)}).items():
            for edge, at in ((EARLY, low), (LATE, high)):
                band = curve(standard, 20, edge)
                self.assertEqual(band.trip_s(at * 1.01), 0.0, (standard, edge))
                self.assertGreater(band.trip_s(at * 0.99), 0.0, (standard, edge))

    def test_european_breakers_are_rated_in_30_degrees(self) -> None:
        """IEC 60898-1: calibrated at 30 °C; a box 10 K above the air is there at 20 °C."""
        cool, warm = (curve("IEC60898-B", 16, LATE, outdoor).multiple for outdoor in (20, 26))
        self.assertEqual(cool, curve("IEC60898-B", 16, LATE, 0).multiple)
        self.assertAlmostEqual(warm / cool, 0.95, delta=0.01)

    def test_a_transformer_s_rush(self) -> None:
        """From memory: up to some ten times rated for a few cycles, half of it for an
        autotransformer's smaller core.
        """
        rush = {
            kind: transformer_demand(
                Transformer(type=kind, va=2400, no_load_va=60, no_load_w=20), 120
            ).inrush
            for kind in ("isolation", "auto")
        }
        self.assertTrue(8 <= rush["isolation"].times <= 12)
        self.assertTrue(4 <= rush["auto"].times <= 6)
        for kind in rush:
            self.assertTrue(2 / 60 <= rush[kind].tau_s <= 4 / 60)

    def test_damp_hot_air_takes_power(self) -> None:
        """WMO-No. 8 (from memory): saturated air at 35 °C holds 56.2 hPa of vapour."""
        self.assertAlmostEqual(vapour_hpa(35.0, 100.0), 56.2, delta=0.3)
        dry, damp = (
            derating_chain(
                Generator(continuous_w=1000, starting_w=1000),
                Conditions(outdoor_c=38, humidity_pct=h),
            )[-1].continuous_w
            for h in (0.0, 90.0)
        )
        self.assertTrue(0.93 < damp / dry < 0.97, damp / dry)


class Statistics(unittest.TestCase):
    def test_wilson_by_hand(self) -> None:
        # Brown, Cai, DasGupta (2001), Statistical Science 16: the Wilson interval; 8 of 10 gives
        # 0.490 to 0.943.
        low, high = wilson(0.8, 10)
        self.assertAlmostEqual(low, 0.490, places=3)
        self.assertAlmostEqual(high, 0.943, places=3)
        self.assertEqual(wilson(0, 0), (0.0, 1.0))

    def test_coincidences_grow_with_the_window(self) -> None:
        case = checked(7).case
        self.assertAlmostEqual(
            coincidences_per_night(case, 2.0) / coincidences_per_night(case, 1.0), 2.0
        )


class Words(unittest.TestCase):
    def test_stations_follow_the_current_and_agree_with_the_result(self) -> None:
        for number in (1, 5, 7, 8, 9, 11):
            full = checked(number)
            found = stations(full)
            inside = [s.margin for s in found if s.check != "coincidence"]
            self.assertAlmostEqual(min(inside), full.result.iron_margin)
            self.assertEqual(len({s.key for s in found}), len(found))
            self.assertTrue(all(s.reasons and s.formula for s in found))

    def test_the_picture_agrees_with_the_row(self) -> None:
        full = check_fully(checked(1).case.setup, picture="roof")
        picture = picture_of(full, full.starts[0])
        row = full.result.starts[0]
        self.assertAlmostEqual(picture.volts.min(), row.lowest_v)
        self.assertAlmostEqual(picture.amps.max(), row.peak_a)
        self.assertTrue((picture.low_v <= picture.high_v + 1e-9).all())
        self.assertEqual(
            [mo.words for mo in picture.moments], ["compressor in", "pulls in", "up to speed"]
        )
        self.assertEqual(len(picture_csv(picture).splitlines()), len(picture.t_s) + 1)

    def test_cautions_stand_where_they_belong(self) -> None:
        self.assertTrue(any("Back-feed" in c for c in checked(9).result.cautions))
        self.assertTrue(any("Carbon monoxide" in c for c in checked(1).result.cautions))
        self.assertFalse(any("Carbon monoxide" in c for c in checked(6).result.cautions))


if __name__ == "__main__":
    unittest.main()
