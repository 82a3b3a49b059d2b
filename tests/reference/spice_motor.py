"""Starts in a circuit simulator: the textbook's motor of two windings in the time domain, its rotor
and load with it, on a supply whose electronics clip the current. ngspice (Debian's) does the
integration; nothing here is the engine's, neither equations nor steps.

The machine stands in ``test_two_windings.py`` (Krause), here scaled to a plate by its volts and its
locked-rotor amps.
"""

from __future__ import annotations

import math
import subprocess
import tempfile
from pathlib import Path

import numpy as np

from tests.reference.other_motor import (
    AT_SPEED,
    GRID,
    LOADED,
    RELAY_OPENS,
    RUNNING,
    STARTING,
    Day,
    Rig,
    Start,
    ended,
)
from tests.reference.test_two_windings import CAP, POLES, R1, R2, RA, TURNS, WB, X1, X2, XA, XM, V

SECONDS, STEP_S = 3.0, 4e-4
CREST = 0.9
"""Crest of the current that electronics clip at, over that of a sine at their limit."""
STIFFNESS = 100.0
"""How steeply the volts give way beyond the crest, in times of the machine's own impedance."""
# Chosen so that a locked rotor at the limit is held within some per cent, as cycle by cycle control
# does; no set's own figures.
SEES_S, FOLDS_S = 0.003, 0.004
"""Time constants with which the electronics see the amps, and fold the volts back."""
BLOCKS = 30.0
"""What blocked valves let through, as impedance over the standing motor's."""
MEANS_S, REGULATES_S = 0.012, 0.08
"""Time constants with which a starter sees its motor's amps, and moves its angle."""
BEGINS = {"k": 1, "g": 0.8}
"""What begins elsewhere than at nought: volts whole, valves nearly shut."""
HELD_CYCLES = 6
"""An inrush clamp holds the RMS of a tenth of a second."""


def _netlist(rig: Rig, day: Day, out: Path) -> str:
    """The start as a netlist, in the textbook machine's volts and amps."""
    amps = rig.lra_a / (abs(STARTING[0][0]) * V)
    volts = rig.volts / V
    ohm = abs(rig.ohm) * amps / volts
    fan = rig.volts / rig.fan_a * amps / volts
    holds = rig.limit_a * day.limit / amps
    lm, l1, l2, la = XM / WB, (X1 + XM) / WB, (X2 + XM) / WB, (XA + TURNS**2 * XM) / WB
    inverse = np.linalg.inv(
        np.array([[l1, 0, lm, 0], [0, la, 0, TURNS * lm], [lm, 0, l2, 0], [0, TURNS * lm, 0, l2]])
    )
    farad, runs = 1.0 / (WB * -CAP.imag), 12.0
    full_load = float(np.interp(0.95, GRID, RUNNING[1])) * V**2
    stiff = day.stiffness * rig.stiff
    wave = f"V(k)*{math.sqrt(2.0) * rig.open_v / volts:.9g}*cos({WB:.9g}*time)"
    flows = ("m", "a", "d", "q")
    lines = [
        f"B{'ie' + s} i{s} 0 V=" + "+".join(
            f"({inverse[n][k]:.9g})*V(f{t})" for k, t in enumerate(flows) if inverse[n][k]
        )
        for n, s in enumerate(flows)
    ]  # fmt: skip
    total = f"(V(im)+V(ia)+V(u)/{fan:.9g})"
    folds = "1-V(k)"
    source = f"{wave}-{ohm:.9g}*(V(im)+V(ia))"
    if math.isfinite(rig.limit_a):
        limit = f"({holds:.9g}*(time<1 ? {rig.short:.9g} : 1))"
        bound = f"({CREST * math.sqrt(2.0):.9g}*{limit})"
        folds = f"min(1, V(k)*{limit}/sqrt(max(V(r),1e-6)))-V(k)"
        over = f"((V(im)+V(ia))-min(max(V(im)+V(ia),-{bound}),{bound}))"
        source += f"-{STIFFNESS / abs(STARTING[0][0]):.9g}*{over}"
    torque = f"({POLES / 2 * rig.torque / full_load:.9g}*(V(fd)*V(iq)-V(fq)*V(id)))"
    load = f"({stiff:.9g}+{0.6 - stiff:.9g}*V(s)*V(s))"
    closed = f"(V(s)<{RELAY_OPENS})"
    terminals, states = "V(u)", {}
    if rig.held_a:
        # Valves: each half cycle they block until their angle and then pass until the amps are
        # through nought; a regulator moves the angle until the amps are those to be held.
        whole, square = "(V(im)+V(ia))", (rig.held_a / amps) ** 2
        turn = f"{WB / math.pi:.9g}*time+0.5"
        passes = f"(({turn}-floor({turn})>V(g)) || V(u)*{whole}<0 || V(s)>{AT_SPEED - 1e-3})"
        terminals = f"V(u)-({passes} ? 0 : {BLOCKS / abs(STARTING[0][0]):.9g}*{whole})"
        states = {
            "q2": f"({whole}*{whole}-V(q2))/{MEANS_S}",
            "g": f"min(max((V(q2)-{square:.9g})/{square:.9g},-1),1)/{REGULATES_S}",
        }
    slopes = {
        "fm": f"V(h)-{R1}*V(im)",
        "fa": f"V(h)-({RA}+({closed} ? {CAP.real} : {CAP.real * runs}))*V(ia)-V(c)",
        "fd": f"-{R2}*V(id)+V(s)*{WB:.9g}*V(fq)",
        "fq": f"-{R2}*V(iq)-V(s)*{WB:.9g}*V(fd)",
        "c": f"V(ia)*({closed} ? {1 / farad:.9g} : {1 / (farad / runs):.9g})",
        "r": f"({total}*{total}-V(r))/{SEES_S}",
        "k": f"({folds})/{FOLDS_S}",
        "s": f"(V(s)>1e-4 || {torque}>{load}) ? ({torque}-{load})/{rig.inertia_s:.9g} : 0",
    } | states
    for name, slope in slopes.items():
        lines += [
            f"B{name} 0 {name} I={slope}",
            f"C{name} {name} 0 1 ic={BEGINS.get(name, 0)}",
            f"R{name} {name} 0 1e9",
        ]
    lines += [
        f"Bu u 0 V={source}",
        f"Bh h 0 V={terminals}",
        f"Btotal total 0 V={total}",
        ".options reltol=2e-3 abstol=1e-6 vntol=1e-6 method=trap",
        ".control",
        f"tran {STEP_S} {SECONDS} 0 {STEP_S} uic",
        "set wr_singlescale",
        f"wrdata {out} V(total) V(u) V(s)",
        ".endc",
        ".end",
    ]
    return "\n".join(["* a start", *lines, ""])


def start(rig: Rig, day: Day = Day()) -> Start:  # noqa: B008
    """One start, as :func:`tests.reference.other_motor.start` tells it."""
    with tempfile.TemporaryDirectory() as folder:
        net, out = Path(folder) / "start.cir", Path(folder) / "start.txt"
        net.write_text(_netlist(rig, day, out))
        done = subprocess.run(
            ["ngspice", "-b", str(net)], capture_output=True, text=True, check=False, timeout=120
        )
        if not out.exists():
            raise AssertionError(done.stdout + done.stderr)
        table = np.loadtxt(out)
    amps = rig.lra_a / (abs(STARTING[0][0]) * V)
    volts = rig.volts / V
    each = 1.0 / 1200.0
    times = np.arange(0.0, table[-1, 0], each)
    long = 20 * HELD_CYCLES

    def rms(column: int, scale: float) -> np.ndarray:
        """Over the last tenth of a second, from its end on."""
        wave = np.interp(times, table[:, 0], table[:, column]) * scale
        return np.sqrt(np.convolve(wave**2, np.ones(long) / long, "valid"))

    current, low = rms(1, amps), rms(2, volts)
    speed = np.interp(times[long - 1 :], table[:, 0], table[:, 3])
    up = np.nonzero(speed >= AT_SPEED)[0]
    last = max(int(up[0]), 1) if len(up) else len(speed)
    limit = rig.limit_a * day.limit
    at_limit = float(np.sum(current[:last] > LOADED * limit)) * each
    seconds = float(times[long + last - 2]) if len(up) else math.inf
    return ended(rig, day, float(current[:last].max()), float(low[:last].min()), seconds, at_limit)
