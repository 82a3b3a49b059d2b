"""What photographs and sounds are worth: python benchmarks/senses.py [PLATES [DISPLAYS [SOUNDS]]].
Prints figures; tests nothing.

Plates and displays are made (``plates.py``, ``displays.py``); starts are made audible
(``ironmargin.sensing.sonify``), those of motors of many kinds and those of our own model, with
wind, hiss, music and speech beside them. Every third is held out: nothing was tuned on it.
"""

from __future__ import annotations

import resource
import sys
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[0] = str(ROOT)

from benchmarks import displays, plates
from ironmargin.electrics.network import Real
from ironmargin.errors import SetupError
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.observed import observed_start
from ironmargin.sensing.sonify import Motion, Scene, motion_of, sound_of
from ironmargin.sensing.sound import heard
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.reading import load_setup

RATE, LONG = 16_000, 160_000
LEVELS_DB = (20, 10, 0)
T = np.linspace(0.0, 10.0, 4001)


def _coloured(draw: np.random.Generator, power: float, lowest: float) -> Real:
    hz = np.fft.rfftfreq(LONG, 1 / RATE)
    wave = np.fft.rfft(draw.standard_normal(LONG)) / np.maximum(hz, lowest) ** power
    made: Real = np.fft.irfft(wave, LONG)
    return made


def hiss(draw: np.random.Generator) -> Real:
    return _coloured(draw, 0.5, 20.0)


def wind(draw: np.random.Generator) -> Real:
    gusts = 1.0 + 0.6 * np.interp(np.arange(LONG) / RATE, np.arange(12), draw.uniform(-1, 1, 12))
    made: Real = _coloured(draw, 1.0, 10.0) * gusts
    return made


def music(draw: np.random.Generator) -> Real:
    t, out = np.arange(LONG) / RATE, np.zeros(LONG)
    beat = draw.uniform(0.3, 0.6)
    for n in range(int(10.0 / beat) + 1):
        base = 220.0 * 2.0 ** (draw.integers(-12, 12) / 12.0)
        on, since = (t >= n * beat) & (t < (n + 1) * beat), t - n * beat
        fades = np.where(on, np.exp(-2.0 * np.maximum(since, 0.0)), 0.0)
        for chord in (0.5, 1.0, 1.25, 1.5, 2.0):
            for h in range(1, 5):
                phase = draw.uniform(0, 2 * np.pi)
                out += fades * np.sin(2 * np.pi * base * chord * h * t + phase) / h
    return out


def speech(draw: np.random.Generator) -> Real:
    t = np.arange(LONG) / RATE
    pitch = np.interp(t, np.linspace(0, 10, 30), draw.uniform(90, 220, 30))
    phase = 2 * np.pi * np.cumsum(pitch) / RATE
    syllables = np.interp(t, np.linspace(0, 10, 50), np.clip(draw.uniform(-0.5, 1, 50), 0, 1))
    made: Real = syllables * sum(np.sin(h * phase) / h for h in range(1, 20))
    return made


CONCURRENT: dict[str, Callable[[np.random.Generator], Real]] = {
    "hiss": hiss, "wind": wind, "music": music, "speech": speech,
}  # fmt: skip


def _motor(draw: np.random.Generator) -> tuple[str, float, Motion]:
    """A motor of any kind: how it ends, after how many seconds, and what it does."""
    if draw.random() < 0.5:
        seconds = float(draw.uniform(0.15, 1.6))
        speed = 0.97 / (1.0 + np.exp(-(T - 0.93 * seconds) / (0.035 * seconds)))
        return "starts", seconds, Motion(T, 1.0 - 0.8 * speed**3, speed)
    seconds = float(draw.uniform(0.4, 6.0))
    return "stalls", seconds, Motion(T, np.ones_like(T), np.zeros_like(T), seconds)


def _own_motors() -> list[tuple[str, float, Motion]]:
    """Starts of our own model: of the air conditioners of the check setups."""
    found = []
    for path in sorted((ROOT / "tests" / "setups").glob("*.setup.json")):
        try:
            setup = load_setup(path)
        except SetupError:
            continue  # one that is to be refused
        if setup.rig.service == "230":
            continue
        for load in [x for x in setup.rig.loads if isinstance(x, AirConditioner)]:
            observed = observed_start(setup, StartEntry(load=load.id))
            if observed is None:
                continue
            run = observed.scenario.run()
            ends = "starts" if np.isfinite(run.seconds) else "stalls"
            seconds = run.seconds if ends == "starts" else run.opened_s
            motion = motion_of(run.trace, observed.row, np.zeros(len(run.trace.a)), run.opened_s)
            found.append((ends, float(seconds), motion))
    return found


def _say(name: str, rows: list[tuple[str | None, str, float | None]]) -> None:
    """One line of the table: of how many what was told, how often right, and the seconds' error."""
    tally = Counter(
        "cannot tell" if told is None else "right" if told == truth else "wrong"
        for told, truth, _ in rows
    )
    errors = np.abs([e for _, _, e in rows if e is not None] or [0.0])
    told = tally["right"] + tally["wrong"]
    print(
        f"{name}: {len(rows)} starts, told {told}, of them right "
        f"{100.0 * tally['right'] / max(told, 1):.1f} %, cannot tell {tally['cannot tell']}; "
        f"seconds off by {np.median(errors):.3f} (median), {np.quantile(errors, 0.95):.3f} (95 %), "
        f"{errors.max():.3f} (most)",
        flush=True,
    )


def sounds(count: int) -> None:
    """Print what is heard of starts beside each sound at each level."""
    own, times = _own_motors(), []
    for engine in (False, True):
        for level in LEVELS_DB:
            for name, concurrent in CONCURRENT.items():
                rows: dict[bool, list[tuple[str | None, str, float | None]]] = {True: [], False: []}
                for seed in range(count):
                    draw = np.random.default_rng([seed, level, engine, len(name)])
                    kind = own[seed % len(own)] if seed % 2 else _motor(draw)
                    truth, seconds, motion = kind
                    scene = Scene(
                        begins_s=float(draw.uniform(1.0, 3.0)),
                        hum_left=float(draw.uniform(0.12, 0.35)),
                        pump=float(draw.uniform(0.15, 0.5)),
                        engine_hz=float(draw.uniform(22, 34)) if engine else 0.0,
                        engine=float(draw.uniform(0.2, 0.6)),
                        dip=float(draw.uniform(0.02, 0.1)) if engine else 0.0,
                        seed=seed,
                    )
                    clean = sound_of(motion, scene)
                    begun = int(scene.begins_s * RATE)
                    hums = clean[begun : begun + int(min(seconds, 2.0) * RATE)]
                    other = concurrent(draw)
                    other *= np.sqrt(np.mean(hums**2) / 10 ** (level / 10) / np.mean(other**2))
                    at = time.perf_counter()
                    found = heard(np.clip(clean + other, -1, 1), RATE, engine=engine)
                    times.append(time.perf_counter() - at)
                    off = (
                        found.seconds - seconds
                        if found.outcome == truth == "starts" and found.seconds is not None
                        else None
                    )
                    rows[seed % plates.HELD_OUT == 0].append((found.outcome, truth, off))
                what = f"{'with an engine, ' if engine else ''}{name} {level} dB under the hum"
                _say(f"{what}, held out", rows[True])
                _say(f"{what}, others", rows[False])
    print(f"p95 {np.quantile(times, 0.95):.2f} s a recording")


def main() -> None:
    counts = [int(x) for x in sys.argv[1:]] + [30, 60, 30][len(sys.argv) - 1 :]
    if counts[2]:
        sounds(counts[2])
    if counts[1]:
        print("displays")
        displays.measure(counts[1])
    if counts[0]:
        print("plates")
        plates.measure(counts[0])
    maximum = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"at most {maximum:.0f} MB")


if __name__ == "__main__":
    main()
