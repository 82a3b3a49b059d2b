"""Calibration of the log's learning: rigs drawn from what is believed, measured by simulated
instruments, learned back (simulation-based calibration: Talts et al. 2018, arXiv:1804.06788).
"""

from __future__ import annotations

import random
import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from ironmargin.learning import instruments as seen_with
from ironmargin.learning.learn import learn
from ironmargin.learning.log import StartEntry, read_log
from ironmargin.learning.particles import LRA_SD, POST_SD, run, seen_of, unknowns_of
from ironmargin.learning.running import RUNNING_SD
from tests.core.test_learning import on_a_post

DRAWS = 200


class Calibration(unittest.TestCase):
    def test_nine_of_ten_truths_lie_in_the_90_percent_interval(self) -> None:
        setup = on_a_post()
        draw = random.Random(5)
        seen = seen_of(setup, StartEntry(load="roof"))
        assert seen is not None
        unknowns = unknowns_of(setup, [seen])
        inside: dict[str, list[bool]] = {"lra_a": [], "watts": []}
        for _ in range(DRAWS):
            logs = np.array([[draw.gauss(0.0, u.sd) for u in unknowns]])
            days = np.array([draw.gauss(0.0, 1.0)])
            truth = run(seen, unknowns, np.exp(logs), days)
            entries: list[dict[str, Any]] = []
            for instrument in ("inrush-clamp", "trace"):
                error = np.hypot(seen_with.BENCH[instrument].peak, seen_with.MODEL_PEAK)
                peak = float(truth["peak_a"][0]) * (1 + draw.gauss(0.0, error))
                volts = float(truth["lowest_v"][0]) * (
                    1 + draw.gauss(0.0, seen_with.volts_error(instrument, 1.0))
                )
                entries.append(
                    {
                        "kind": "start",
                        "load": "roof",
                        "peak_a": round(peak, 1),
                        "lowest_v": round(volts, 1),
                        "instrument": instrument,
                    }
                )
            watts = 1500 * float(np.exp(draw.gauss(0.0, RUNNING_SD["typical"])))
            for instrument in ("watt-meter", "monitor"):
                error = seen_with.BENCH[instrument].running
                read = watts * (1 + draw.gauss(0.0, error))
                entries.append(
                    {"kind": "run", "load": "heater", "watts": read, "instrument": instrument}
                )
            found = learn(setup, read_log({"format": "iron-margin/log", "entries": entries}, setup))
            at = [u.what for u in unknowns].index("lra")
            true = {"lra_a": 60 * float(np.exp(logs[0, at])), "watts": watts}
            for figure in found.figures:
                name = figure.field.rpartition(".")[2]
                if name in true:
                    inside[name].append(figure.low <= true[name] <= figure.high)
        for name, hits in inside.items():
            share = sum(hits) / len(hits)
            self.assertGreaterEqual(len(hits), 0.8 * DRAWS, name)
            self.assertTrue(0.85 <= share <= 0.97, f"{name}: {share:.3f} of {len(hits)}")

    def test_wrong_beliefs_would_not_be_calibrated(self) -> None:
        """The check above can fail: a belief a third as wide covers far less."""
        setup = on_a_post()
        sure = replace(
            setup, x={"learned": {"figures": {"rig.loads[0].lra_a": {"sd": LRA_SD["plate"] / 8}}}}
        )
        inside = []
        for lra in (48.0, 52.0, 68.0, 74.0):
            rig = on_a_post(lra_a=lra)
            seen = seen_of(rig, StartEntry(load="roof"))
            assert seen is not None
            unknowns = unknowns_of(rig, [seen])
            truth = run(seen, unknowns, np.ones((1, len(unknowns))), np.zeros(1))
            entry = {"kind": "start", "load": "roof", "peak_a": float(truth["peak_a"][0])}
            found = learn(sure, read_log({"format": "iron-margin/log", "entries": [entry]}, sure))
            for figure in found.figures:
                if figure.field.endswith("lra_a"):
                    inside.append(figure.low <= lra <= figure.high)
        self.assertLess(sum(inside), len(inside) or 1)

    def test_a_post_s_impedance_is_told_by_the_dip(self) -> None:
        setup = on_a_post()
        seen = seen_of(setup, StartEntry(load="roof"))
        assert seen is not None
        unknowns = unknowns_of(setup, [seen])
        names = [u.what for u in unknowns]
        factors = np.ones((1, len(unknowns)))
        factors[0, names.index("supply")] = np.exp(-POST_SD)
        truth = run(seen, unknowns, factors, np.zeros(1))
        entries = [
            {
                "kind": "start",
                "load": "roof",
                "peak_a": float(truth["peak_a"][0]),
                "lowest_v": float(truth["lowest_v"][0]),
                "instrument": "trace",
            }
        ] * 4
        found = learn(setup, read_log({"format": "iron-margin/log", "entries": entries}, setup))
        ohms = [f.after for f in found.figures if f.field == "supply.source_ohm"]
        self.assertTrue(all(x >= 0.1 for x in ohms), ohms)
