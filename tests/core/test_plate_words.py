"""What stands on plates, as lines of words: figures, which of them are sure, and none invented."""

from __future__ import annotations

import unittest

from ironmargin.loads.plate_reader import read_plate
from ironmargin.loads.plate_words import SURE, Words, figures_of, filled


def told(*lines: str, sure: float = 0.97) -> dict[str, float | str]:
    return {f.field: f.value for f in figures_of(Words(text, sure) for text in lines)}


class OnPlates(unittest.TestCase):
    def test_a_rooftop_units_plate_word_by_word(self) -> None:
        found = told(
            "ROOFTOPUNITMODEL4812-9R",
            "VOLTS208/230HZ 60PH 1",
            "COMPR RLA12.4 LRA 63.0",
            "FAN MOTOR FLA 2.1 HP1/3",
            "MINCIRCUITAMPACITY17.6",
            "MAXFUSEORBREAKER25A",
            "COOLING15000BTU/HR-410A21OZ",
        )
        self.assertEqual(
            found,
            {
                "rated_v": "208/230", "hz": 60.0, "phase": 1.0, "rla_a": 12.4, "lra_a": 63.0,
                "fan_a": 2.1, "mca_a": 17.6, "mocp_a": 25.0, "btu_h": 15000.0,
                "refrigerant": "R-410A",
            },
        )  # fmt: skip

    def test_the_same_figure_in_the_words_of_many_plates(self) -> None:
        for field, value, lines in (
            ("rla_a", 9.5, ("R.L.A. 9.5", "9.5 RLA", "RLA: 9,5", "RLA=9.5A")),
            ("lra_a", 52.0, ("L.R.A. 52", "52 A LRA", "LRA 52A")),
            ("mocp_a", 20.0, ("MOP 20", "MOCP 20 A", "MAX OVERCURRENT PROTECTIVE DEVICE 20 A",
                              "MAX. FUSE OR CKT BKR 20", "MAX CIRCUIT BREAKER 20")),
            ("mca_a", 14.4, ("MCA 14.4", "MIN. CIRCUIT AMPACITY 14.4", "MIN CIRCUIT AMPS 14.4",
                             "MIN CKT AMPACITY 14.4")),
            ("rated_v", 230.0, ("230 V", "230VAC")),
            ("rated_v", "208/230", ("208-230 VOLTS", "VAC 208 / 230", "208/230V")),
            ("rated_v", 115.0, ("115V 60HZ", "VOLTS 115")),
            ("phase", 1.0, ("1 PH", "PHASE 1", "PH1")),
            ("btu_h", 13500.0, ("13,500 BTU/H", "13 500 BTU", "13500BTU/HR")),
            ("btu_h", 3000 * 3.968, ("3,000 kcal/h", "3000 KCAL", "COOLING 3.000 Kcal/h")),
            ("hp", 0.5, ("1/2 HP", "HP 1/2", "0.5 HP")),
            ("hp", 1.5, ("1 1/2 HP", "1.5HP")),
            ("code_letter", "K", ("CODE K", "CODE LETTER K")),
            ("rated_w", 1370.0, ("1370 W", "RATED INPUT 1370W", "POWER 1370")),
            ("rated_w", 1500.0, ("1.5 KW", "KW 1.5")),
            ("rated_va", 1800.0, ("1800 VA", "INPUT 120V 1800VA")),
            ("rated_a", 7.2, ("7.2 A", "AMPS 7.2", "7.2 AMPS")),
            ("refrigerant", "R-32", ("R32", "R-32", "R 32")),
        ):  # fmt: skip
            for line in lines:
                self.assertEqual(told(line).get(field), value, line)

    def test_pairs_stay_as_they_are_printed(self) -> None:
        found = told("HP 1/2", "VOLTS 115/230", "AMPS 9.8/4.9", "RPM 1725 CODE K")
        self.assertEqual(
            found, {"rated_v": "115/230", "rated_a": "9.8/4.9", "code_letter": "K", "hp": 0.5}
        )
        for lines, pairs in (
            (("240/208 VAC", "4500/3380 W"), {"rated_v": "240/208", "rated_w": "4500/3380"}),
            (("208/230 V 7.4/6.8 A",), {"rated_v": "208/230", "rated_a": "7.4/6.8"}),
        ):
            self.assertEqual(told(*lines), pairs, lines)

    def test_what_is_not_the_input_s_is_not_taken_for_it(self) -> None:
        for lines, watts in (
            (("INPUT 1050W", "OUTPUT 700W"), 1050.0),
            (("INPUT 1050 W OUTPUT 700 W",), 1050.0),
            (("1000 W", "OUTPUT: 13.6VDC 60A 816 W"), 1000.0),
            (("COOLING 9000 BTU/H 2.64 KW", "POWER INPUT 820 W"), 820.0),
            (("DEFROST 420 W",), None),
        ):
            found = told(*lines)
            self.assertEqual((found.get("rated_w"), found.get("rated_a")), (watts, None), lines)

    def test_a_fan_s_figures_are_not_the_compressor_s(self) -> None:
        self.assertEqual(told("FAN MOTOR 1/3 HP 115 W FLA 2.1"), {"fan_a": 2.1})

    def test_letters_that_are_digits_are_put_right_and_asked(self) -> None:
        (figure,) = figures_of([Words("LRA 6O", 0.99)])
        self.assertEqual((figure.value, figure.sure), (60.0, False))

    def test_what_its_reader_was_not_sure_of_is_asked(self) -> None:
        for sure, fills in ((SURE + 0.01, True), (SURE - 0.01, False)):
            figures = figures_of([Words("LRA 52", sure)])
            self.assertEqual(figures[0].sure, fills)
            self.assertEqual("lra_a" in filled(figures), fills)

    def test_two_plates_that_differ_are_asked(self) -> None:
        (figure,) = figures_of([Words("LRA 52", 0.99), Words("LRA 48", 0.98)])
        self.assertEqual((figure.value, figure.sure, figure.others), (52.0, False, (48.0,)))
        (same,) = figures_of([Words("LRA 52", 0.99), Words("52 LRA", 0.98)])
        self.assertTrue(same.sure)

    def test_what_no_plate_can_say_is_left_out(self) -> None:
        self.assertEqual(told("RLA 0", "LRA 99999", "VOLTS 12", "HZ 440", "PH 7", "0/0 HP"), {})

    def test_a_page_of_text_fills_in_nothing(self) -> None:
        page = (
            "Chapter 4. The amplifier hums at night, and nobody knows why.",
            "In 1989 the orchard had 230 trees; 48 fell in the storm.",
            "Call 555 0100, room 12A, before nine.",
        )
        figures = figures_of(Words(text, 0.99) for text in page)
        self.assertLess(len(figures), 2, figures)

    def test_what_is_filled_in_is_what_the_plate_reader_takes(self) -> None:
        figures = figures_of(
            Words(text, 0.97)
            for text in ("115 V 60 HZ 1 PH", "RLA 11.2 LRA 57", "FLA 2.0", "13500 BTU/H R-410A")
        )
        reading = read_plate(filled(figures), "120")
        assert reading.load is not None
        self.assertEqual(reading.faults, ())
        self.assertEqual((reading.load["kind"], reading.load["lra_a"]), ("air-conditioner", 57.0))
        motor = filled(figures_of([Words("1/2 HP CODE K 115 V", 0.97)]))
        self.assertEqual(motor["kind"], "motor")
        self.assertEqual(filled(figures_of([Words("1500 W 120 V", 0.97)]))["kind"], "resistive")


if __name__ == "__main__":
    unittest.main()
