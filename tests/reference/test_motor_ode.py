"""The half-cycle start simulation against ``scipy.integrate.solve_ivp`` and closed forms."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy.integrate import solve_ivp

from ironmargin.case import prepare
from tests.shared import changed, checked


def reference_start(volts_of, plate: dict[str, float], until_s: float) -> tuple[float, float]:
    """Time to speed and lowest volts of a motor on a supply, by adaptive integration.

    Written from the equations alone (docs/model.md, motor): no code of the product is called.
    ``volts_of(admittance)`` gives the volts of the supply loaded with it.
    """
    v, lra, rla, gear, break_, after = (
        plate[k] for k in ("v", "lra", "rla", "gear", "break", "after")
    )
    z1 = v / lra
    x, r2 = z1 * math.sqrt(1 - 0.7**2), 0.2 * z1
    r1 = 0.7 * z1 - r2
    rotor_fl = math.sqrt((v / (0.95 * rla)) ** 2 - x**2) - r1
    slip_fl, unit = r2 / rotor_fl, (0.95 * rla) ** 2 * rotor_fl

    def at(speed: float) -> tuple[float, float]:
        slip = max(1 - speed, 1e-3)
        z = complex(r1 + r2 / slip, x)
        volts = volts_of(1 / z)
        # A start capacitor or a kit is held by its relay to three quarters of speed; a run
        # capacitor fades in to 60 %.
        gain = (
            gear + (1 - gear) * min(max(speed / 0.6, 0), 1)
            if gear < 1
            else gear
            if speed < 0.75
            else 1.0
        )
        return volts, (volts / abs(z)) ** 2 * r2 / slip / unit * gain

    def slope(_: float, state: np.ndarray) -> list[float]:
        speed = float(state[0])
        force = at(speed)[1] - (break_ + (after - break_) * speed**2)
        return [force / (2 * 0.19) if speed > 0 or force > 0 else 0.0]

    def up(_: float, state: np.ndarray) -> float:
        return float(state[0]) - (1 - 2 * slip_fl)

    up.terminal = True  # type: ignore[attr-defined]
    found = solve_ivp(slope, (0, until_s), [0.0], rtol=1e-8, atol=1e-10, events=up, max_step=0.01)
    lowest = min(at(s)[0] for s in found.y[0])
    return (float(found.t_events[0][0]) if len(found.t_events[0]) else math.inf), lowest


def limited(emf: float, ohm: complex, limit_a: float, concurrent: complex):
    """A source that folds back at its current limit, with a fixed load beside the motor."""

    def volts(y: complex) -> float:
        total = y + concurrent
        v = abs(emf / (1 + ohm * total))
        return min(v, v * limit_a / abs(v * total)) if abs(v * total) > limit_a else v

    return volts


class AgainstAdaptiveIntegration(unittest.TestCase):
    """Time to speed within 2 %, lowest volts within 1 %."""

    def compare(self, setup_number: int, change=lambda doc: None) -> None:
        setup = changed(
            setup_number,
            lambda doc: (
                doc["rig"].update(loads=doc["rig"]["loads"][:1]),
                doc.update(wanted=doc["wanted"][:1]),
                change(doc),
            ),
        )
        from ironmargin.verdict.check import examine

        case = prepare(setup)
        (start,) = examine(setup, trials=0).starts
        demand = case.demands[0]
        p = demand.plate
        fan = sum(d.va.conjugate() / d.bus_v**2 for d in demand.single_concurrent)
        gear = {"run-capacitor": 0.35, "start-capacitor": 1.5, "hard-start": 1.7}[p.start]
        plate = {
            "v": p.voltage_v,
            "lra": p.lra_a,
            "rla": p.rla_a,
            "gear": gear,
            "break": p.breakaway,
            "after": p.load_after_start,
        }
        up_s, lowest = reference_start(
            limited(case.source.leg_v, case.feed.upstream.z11, case.source.limit_a, fan), plate, 8.0
        )
        self.assertTrue(math.isfinite(up_s))
        # The simulation names the half cycle in which speed was reached: half a step of resolution
        # is taken off both ways.
        self.assertAlmostEqual(
            start.seconds, up_s, delta=0.02 * up_s + 0.25 / case.source.frequency_hz
        )
        self.assertAlmostEqual(start.lowest_v / lowest, 1.0, delta=0.01)

    def test_pair(self) -> None:
        self.compare(1)

    def test_stiff_post(self) -> None:
        self.compare(1, lambda doc: doc.update(supply={"kind": "shore", "breaker_a": 30}))

    def test_soft_post_and_heavy_breakaway(self) -> None:
        def change(doc: dict) -> None:
            doc.update(supply={"kind": "shore", "breaker_a": 30, "source_ohm": 0.5})
            doc["rig"]["loads"][0]["breakaway"] = 0.3

        self.compare(1, change)

    def test_nearly_stalling_set(self) -> None:
        self.compare(2, lambda doc: doc["supply"].update(continuous_w=2500, starting_w=3000))


class ClosedForms(unittest.TestCase):
    def test_locked_rotor_on_a_current_limited_source(self) -> None:
        """At its limit the source holds I_lim: V = I_lim/|Y|, exactly."""
        setup = changed(2, lambda doc: doc["rig"]["loads"][0].update(breakaway=2.0))
        from ironmargin.verdict.check import examine

        full = examine(setup, trials=0)
        demand = full.case.demands[0]
        p = demand.plate
        z1 = p.voltage_v / p.lra_a
        fan = sum(d.va.conjugate() / d.bus_v**2 for d in demand.single_concurrent)
        y = 1 / complex(0.7 * z1, z1 * math.sqrt(1 - 0.49)) + fan
        self.assertEqual(full.result.starts[0].outcome, "stalls")
        # The base load lets go below 0.45 of nominal, so only the rotor and the fan are left.
        self.assertAlmostEqual(
            full.result.starts[0].lowest_v, full.case.source.limit_a / abs(y), places=2
        )

    def test_the_lockout_opens_when_its_sum_is_full(self) -> None:
        """At constant I: t = k/((I/I_cont)² − 1), to the longest step (four half cycles)."""
        full = checked(2)
        source = full.case.source
        expected = source.lockout_k_s / ((source.limit_a / source.lockout_a) ** 2 - 1)
        self.assertAlmostEqual(full.starts[0].opened_s, expected, delta=2.0 / source.frequency_hz)

    def test_settled_amps_of_a_resistor_behind_a_resistor(self) -> None:
        """Series R-R: I = E/(R_source + R_load)."""

        def bare(doc: dict) -> None:
            doc["supply"] = {"kind": "shore", "breaker_a": 30, "source_ohm": 0.4}
            doc["hookup"] = []
            doc["rig"]["loads"] = [{"id": "h", "name": "h", "kind": "resistive", "watts": 1440}]
            doc["wanted"] = [{"load": "h"}]

        from ironmargin.verdict.check import examine

        self.assertAlmostEqual(examine(changed(2, bare)).result.legs["L1"].a, 120 / 10.4, places=9)


if __name__ == "__main__":
    unittest.main()
