"""What gives first is called by its name, wherever it is said."""

from __future__ import annotations

import unittest

from ironmargin.reaching.reach import limits_of, up_to_words
from ironmargin.reaching.reach_words import limit_words
from ironmargin.reaching.where_words import where_words
from ironmargin.setup.reading import read_setup
from tests.kinds import SUPPLIES, question
from tests.shared import checked
from tests.walking import walk

FAULTY = 12
NAMED = r"then (the|leg L|[A-Z]).* gives first"


class Called(unittest.TestCase):
    def test_every_place_that_may_give_first_has_words(self) -> None:
        for number in (n for n in range(1, 23) if n != FAULTY):
            with self.subTest(number):
                found = checked(number)
                places = where_words(found.case.setup)
                self.assertLessEqual({row.where for row in found.rows}, places.keys())

    def test_a_post_s_breaker_is_called_as_the_verdict_calls_it(self) -> None:
        for kind, words in (("shore", "the post breaker"), ("generator", "the supply's breaker")):
            self.assertEqual(where_words(read_setup(question(kind)))["breaker"], words)

    @walk
    def test_they_stand_in_the_sentences(self) -> None:
        seen = 0
        for kind in SUPPLIES:
            setup = read_setup(question(kind))
            places = where_words(setup)
            said = up_to_words(setup)
            lines = [
                line
                for limit in limits_of(setup, ("outdoor_c",))
                for line in limit_words(limit, places)
            ]
            for words in (said, *lines):
                if "gives first" in words:
                    seen += 1
                    self.assertRegex(words, NAMED, kind)
        self.assertGreater(seen, len(SUPPLIES))


if __name__ == "__main__":
    unittest.main()
