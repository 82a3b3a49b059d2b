"""One question, one answer, over the demo's setups; the core's own and random ones stand in
``tests/core/test_one_answer.py``.
"""

from __future__ import annotations

import numpy as np
from django.test import SimpleTestCase

from ironmargin.case import prepare
from ironmargin.limits.asking import settled_margin
from ironmargin.limits.now import now_of
from ironmargin.planning.order import fail_alone
from ironmargin.planning.present import present
from ironmargin.planning.together import Together
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
from tests.core.test_one_answer import played
from web.setups.demo import documents


class TheDemo(SimpleTestCase):
    def test_check_bench_order_and_now_say_the_same(self) -> None:
        for document in documents():
            setup = read_setup(document)
            checked = examine(setup, quick=True)
            with self.subTest(setup.name):
                if checked.result.verdict == "holds":
                    self.assertEqual(played(setup, 2.0), [])
                together = Together.of(setup)
                mask = together.mask_of(together.chosen)  # without what a load manager sheds
                order = float(together.settled_margins(mask[None])[0])
                check = float(np.min(settled_margin(now_of(prepare(setup)))))
                self.assertAlmostEqual(order, check, delta=0.002)
                nothing = frozenset(x.id for x in setup.rig.loads if x.always_on)
                chips = present(setup, {}, nothing).chips
                served = {c.load for c in chips if c.margin is not None}
                never = {c.load for c in chips if c.say == "never"}
                self.assertEqual(set(fail_alone(setup)) & served, never & served)
