"""The leg-and-neutral network against ngspice (Debian's circuit simulator), in AC and transient
analysis.
"""

from __future__ import annotations

import math
import re
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np

from ironmargin.case import prepare
from ironmargin.electrics.motor import circuit_of
from ironmargin.electrics.network import Upstream, phasor
from ironmargin.loads.demand import Draw
from ironmargin.starting.plan import Plan
from ironmargin.starting.scenario import StartScenario
from ironmargin.sustaining.steady import solve_steady
from tests.shared import changed

OMEGA = 2 * math.pi * 60


def spice(lines: list[str]) -> str:
    """Run a netlist in batch mode and return what it prints."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "net.cir"
        file.write_text("\n".join(["* iron margin reference", *lines, ".end", ""]))
        done = subprocess.run(
            ["ngspice", "-b", str(file)], capture_output=True, text=True, check=False, timeout=60
        )
    return done.stdout + done.stderr


def ac(network: list[str], wanted: list[str]) -> list[complex]:
    """Phasors of some vectors at 60 Hz."""
    out = spice([*network, ".control", "ac lin 1 60 60", *(f"print {w}" for w in wanted), ".endc"])
    found = []
    for name in wanted:
        hit = re.search(re.escape(name) + r" = ([-+.\deE]+),([-+.\deE]+)", out)
        if hit is None:
            raise AssertionError(out)
        found.append(complex(float(hit[1]), float(hit[2])))
    return found


def inductive(name: str, plus: str, minus: str, z: complex) -> list[str]:
    """A series R-L between two nodes."""
    return [
        f"RZ{name} {plus} m{name} {z.real:.9g}",
        f"LZ{name} m{name} {minus} {z.imag / OMEGA:.9g}"
        if z.imag
        else f"VZ{name} m{name} {minus} 0",
    ]


class SplitPhase(unittest.TestCase):
    """Unequal legs, a 240 V load, cord resistance in hots and neutral: within 0.5 %."""

    def compare(
        self,
        angle_deg: float,
        hot: float,
        neutral: float,
        loads: list[tuple[int, complex]],
        places: tuple[str, str],
    ) -> None:
        e2 = phasor(120.0, -angle_deg)
        upstream = Upstream(120 + 0j, e2, hot + neutral, neutral, hot + neutral, 2, False)
        samples, net = (
            [],
            [
                "V1 s1 0 AC 120 0",
                f"V2 s2 0 AC 120 {-angle_deg:g}",
                f"RH1 s1 a {hot:g}",
                f"RH2 s2 b {hot:g}",
                f"RN n 0 {neutral:g}",
            ],
        )
        for number, (leg, z) in enumerate(loads):
            v = 240.0 if leg == 2 else 120.0
            samples.append(Draw(leg, v, v * v / z.conjugate(), False))
            net += inductive(str(number), *(("a", "n"), ("b", "n"), ("a", "b"))[leg], z)
        ours = solve_steady(upstream, samples)
        a, b, n = ac(net, ["v(a)", "v(b)", "v(n)"])
        self.assertTrue(ours.converged)
        for got, want in ((ours.v1, a - n), (ours.v2, b - n)):
            self.assertAlmostEqual(abs(got) / abs(want), 1.0, delta=0.005)
            self.assertLess(abs(got - want), 0.005 * 120)
        self.assertAlmostEqual(
            ours.neutral_a, abs(n) / neutral, delta=0.005 * max(ours.neutral_a, 1.0)
        )

    def test_opposite_legs_with_a_240_v_load(self) -> None:
        self.compare(180.0, 0.12, 0.09, [(0, 7 + 3j), (1, 20 + 0j), (2, 30 + 6j)], ("a", "b"))

    def test_same_leg_splitter(self) -> None:
        self.compare(0.0, 0.12, 0.05, [(0, 8 + 2j), (1, 9 + 3j)], ("a", "b"))

    def test_a_208_v_network(self) -> None:
        self.compare(120.0, 0.1, 0.1, [(0, 8 + 2j), (1, 14 + 0j), (2, 40 + 10j)], ("a", "b"))

    def test_a_lost_neutral(self) -> None:
        self.compare(180.0, 0.1, 1e5, [(0, 10 + 0j), (1, 30 + 0j)], ("a", "b"))

    def test_a_reducer_ties_both_legs(self) -> None:
        shared, after, z1, z2 = 0.3, 0.02, 6 + 2j, 9 + 1j
        upstream = Upstream(120 + 0j, 120 + 0j, shared + after, shared, shared + after, 2, True)
        ours = solve_steady(
            upstream,
            [
                Draw(0, 120, 120**2 / z1.conjugate(), False),
                Draw(1, 120, 120**2 / z2.conjugate(), False),
            ],
        )
        net = [
            "V1 s 0 AC 120 0",
            f"RS s t {shared}",
            f"RA t a {after}",
            f"RB t b {after}",
            *inductive("1", "a", "0", z1),
            *inductive("2", "b", "0", z2),
        ]
        a, b, branch = ac(net, ["v(a)", "v(b)", "i(v1)"])
        self.assertAlmostEqual(abs(ours.v1), abs(a), delta=0.005 * 120)
        self.assertAlmostEqual(abs(ours.v2), abs(b), delta=0.005 * 120)
        self.assertAlmostEqual(abs(ours.i1 + ours.i2), abs(branch), delta=0.005 * abs(branch))


class Transients(unittest.TestCase):
    def test_a_locked_rotor_on_a_weak_post(self) -> None:
        """Once the offset has died away, the RMS current of the real waveform is our phasor's."""
        c = circuit_of(120.0, 60.0, 12.5)
        z = complex(c.r1 + c.r2, c.x)
        out = spice(
            [
                f"V1 s 0 SIN(0 {120 * math.sqrt(2):.6f} 60)",
                "RS s a 0.4",
                *inductive("m", "a", "0", z),
                ".control",
                "tran 50u 0.2 0 50u",
                "meas tran irms RMS i(v1) from=0.15 to=0.2",
                "print irms",
                ".endc",
            ]
        )
        irms = float(re.search(r"irms\s*=\s*([-+.\deE]+)", out)[1])  # type: ignore[index]
        ours = solve_steady(
            Upstream(120 + 0j, 0j, 0.4 + 0j, 0j, 1 + 0j, 1, False),
            [Draw(0, 120, 120**2 / z.conjugate(), False)],
        )
        self.assertAlmostEqual(abs(ours.i1) / irms, 1.0, delta=0.005)

    def test_transformer_inrush_is_of_the_order_we_count(self) -> None:
        """A 2 kVA core switched in at a voltage zero: several to some tens of times rated current
        at the first peak.

        The core is a flux integral with a knee at 1.2 of rated flux and a saturated slope of 3 % of
        rated impedance.
        """
        rated_a, peak_v = 2000 / 120, 120 * math.sqrt(2)
        flux = peak_v / OMEGA  # rated peak flux linkage
        saturated_h = 0.10 * 120 / rated_a / OMEGA
        out = spice(
            [
                f"V1 s 0 SIN(0 {peak_v:.6f} 60)",
                "RS s a 0.25",
                "GF 0 flux a 0 1",
                "CF flux 0 1 IC=0",
                "RF flux 0 1e9",
                f"BM a 0 I=(abs(v(flux))>{1.2 * flux:.6g}) ? "
                f"(sgn(v(flux))*(abs(v(flux))-{1.2 * flux:.6g})/{saturated_h:.6g}) : 0",
                ".control",
                "tran 20u 0.05 0 20u uic",
                "meas tran top MAX i(v1)",
                "meas tran low MIN i(v1)",
                "print top low",
                ".endc",
            ]
        )
        peaks = [abs(float(x)) for x in re.findall(r"(?:top|low)\s*=\s*([-+.\deE]+)", out)[:2]]
        times = max(peaks) / (rated_a * math.sqrt(2))
        self.assertTrue(2 <= times <= 30, times)
        from ironmargin.loads.demand import TRANSFORMER_INRUSH

        self.assertTrue(times / 5 <= TRANSFORMER_INRUSH["isolation"] <= times * 5, times)


class Vectors(unittest.TestCase):
    def test_scalar_equals_vector(self) -> None:
        from ironmargin.electrics.network import solve_two_legs

        rng = np.random.default_rng(5)
        many = [rng.uniform(0.01, 1, 40) + 1j * rng.uniform(-0.2, 0.2, 40) for _ in range(6)]
        e = (np.full(40, 120 + 0j), np.full(40, -120 + 0j))
        whole = solve_two_legs(e, tuple(many[:3]), tuple(many[3:]))
        for at in range(40):
            one = solve_two_legs(
                (e[0][at : at + 1], e[1][at : at + 1]),
                tuple(x[at : at + 1] for x in many[:3]),
                tuple(x[at : at + 1] for x in many[3:]),
            )
            for a, b in zip(whole, one, strict=True):
                self.assertAlmostEqual(a[at], b[0], places=12)


class CurrentLimited(unittest.TestCase):
    """A source whose electronics hold the RMS current: amplitude falls back by a loop of 30 ms, as
    in a real inverter set.
    """

    def test_a_locked_rotor_folds_the_volts_back(self) -> None:
        z1, heater, limit_a, ohm = 120 / 52 * complex(0.7, math.sqrt(1 - 0.49)), 40.0, 20.25, 0.16
        root2 = math.sqrt(2)
        # The loop: mean square of the current through a 30 ms filter; what it is over the limit
        # pulls the amplitude down.
        out = spice(
            [
                f"Bsrc s 0 V={120 * root2}*V(amp)*sin({OMEGA}*time)",
                f"Rs s p {ohm}",
                "Vsense p a 0",
                *inductive("m", "a", "0", z1),
                f"Rh a 0 {heater}",
                "Bsq sq 0 V=I(Vsense)*I(Vsense)",
                "Rf sq ms 1k",
                "Cf ms 0 30u",
                f"Bint 0 amp I=(min(1,V(amp)*{limit_a}/sqrt(max(V(ms),1)))-V(amp))/0.03*1m",
                "Camp amp 0 1m",
                ".ic V(amp)=1 V(ms)=0",
                ".control",
                "tran 0.1m 1.2 uic",
                "meas tran vrms rms v(a) from=1.1 to=1.2",
                "meas tran irms rms i(vsense) from=1.1 to=1.2",
                "print vrms irms",
                ".endc",
            ]
        )
        volts, amps = (
            float(re.search(rf"{name}\s*=\s*([-+.\deE]+)", out)[1]) for name in ("vrms", "irms")
        )
        y = 1 / z1 + 1 / heater
        setup = changed(
            13,
            lambda doc: (
                doc.update(hookup=[]),
                doc["rig"]["loads"][0].update(breakaway=2.0, fan_high_a=3.0),
            ),
        )
        case = prepare(setup)
        scenario = StartScenario(
            case,
            Plan((case.starters[0],), concurrent=(Draw(0, 120, complex(120**2 / heater), False),)),
            np.zeros(len(case.breakers)),
        )
        ours = scenario.run()
        self.assertAlmostEqual(amps, limit_a, delta=0.03 * limit_a)
        self.assertAlmostEqual(volts, amps / abs(y), delta=0.02 * volts)
        self.assertAlmostEqual(ours.trace.v[0][-1], volts, delta=0.04 * volts)


if __name__ == "__main__":
    unittest.main()
