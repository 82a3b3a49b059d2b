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
    states = ("m", "a", "d", "q")
    lines = [
        f"B{'ie' + s} i{s} 0 V=" + "+".join(
            f"({inverse[n][k]:.9g})*V(f{t})" for k, t in enumerate(states) if inverse[n][k]
        )
        for n, s in enumerate(states)
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
    eased = "1"
    if rig.held_a:  # a starter that has learned its motor: what it lets pass at each speed
        at = np.linspace(0.0, AT_SPEED - 1e-3, 12)
        drawn = np.interp(at, GRID, abs(STARTING[0])) * V
        shares = [min(rig.held_a / amps / each, 1.0) for each in drawn]
        points = [*zip(at.tolist(), shares, strict=True), (AT_SPEED, 1.0), (1.0, 1.0)]
        eased = "pwl(V(s)," + ",".join(f"{x:.6g},{y:.6g}" for x, y in points) + ")"
    slopes = {
        "fm": f"V(u)*V(h)-{R1}*V(im)",
        "fa": f"V(u)*V(h)-({RA}+({closed} ? {CAP.real} : {CAP.real * runs}))*V(ia)-V(c)",
        "fd": f"-{R2}*V(id)+V(s)*{WB:.9g}*V(fq)",
        "fq": f"-{R2}*V(iq)-V(s)*{WB:.9g}*V(fd)",
        "c": f"V(ia)*({closed} ? {1 / farad:.9g} : {1 / (farad / runs):.9g})",
        "r": f"({total}*{total}-V(r))/{SEES_S}",
        "k": f"({folds})/{FOLDS_S}",
        "s": f"(V(s)>1e-4 || {torque}>{load}) ? ({torque}-{load})/{rig.inertia_s:.9g} : 0",
    }
    for name, slope in slopes.items():
        lines += [
            f"B{name} 0 {name} I={slope}",
            f"C{name} {name} 0 1 ic={int(name == 'k')}",
            f"R{name} {name} 0 1e9",
        ]
    lines += [
        f"Bu u 0 V={source}",
        f"Bh h 0 V={eased}",
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
