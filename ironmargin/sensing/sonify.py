"""What a start sounds like: the stand-in for a microphone, for tests, benchmarks and the demo.

A single-phase motor hums at twice the line frequency and its multiples. The pull of its magnets
follows the square of the current; what is left at full speed follows the square of the volts. A
running pump adds the multiples of its shaft's speed, a set the multiples of its firing frequency.
How loud each is beside the others is common practice, no source: it is a choice of the caller.
"""

from __future__ import annotations

import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.record import record
from ironmargin.starting.scenario import Trace

HUM_PARTS = (1.0, 0.6, 0.35)
"""Loudness of twice the line frequency and of its multiples, to the first [1]."""
PUMP_PARTS = (0.5, 1.0, 0.6, 0.45, 0.4, 0.3, 0.25, 0.2)
ENGINE_PARTS = (1.0, 0.8, 0.5, 0.5, 0.3, 0.25, 0.2, 0.15)
SYNCHRONOUS_HZ = 0.967
"""Shaft speed of a loaded two-pole motor over the line frequency [1]."""
CLICK_S, CLICK = 0.004, 0.8
"""How long a relay's click lasts [s], and its loudness over a locked rotor's hum [1]."""
SLOWEST = 0.05
"""A shaft sounds no lower than at this speed [1]."""
LOUDNESS = 0.2
"""Of it all: nothing is cut off."""


@record(kw_only=True)
class Scene:
    """How a start is heard.

    Attributes:
        rate: samples a second [Hz].
        seconds: length of the recording.
        begins_s: when the motor is switched on.
        line_hz: line frequency.
        hum_left: loudness of the hum at full speed over that of a locked rotor [1].
        pump: of the pump at full speed, likewise.
        engine_hz: firing frequency of a set, 0 without one.
        engine: its loudness [1].
        dip: by which share it slows at the start [1].
        recovers_s: time constant of its governor.
        geared: whether the line frequency follows the engine.
        seed: of the phases.
    """

    rate: int = 16_000
    seconds: float = 10.0
    begins_s: float = 2.0
    line_hz: float = 60.0
    hum_left: float = 0.2
    pump: float = 0.3
    engine_hz: float = 0.0
    engine: float = 0.5
    dip: float = 0.0
    recovers_s: float = 0.6
    geared: bool = False
    seed: int = 1


@record
class Motion:
    """What a motor did after it was switched on: arrays over the time axis ``t_s`` [s].

    Attributes:
        amps: its current [A].
        speed: of its rotor [1].
        ends_s: when it went off, infinite if never.
    """

    t_s: Real
    amps: Real
    speed: Real
    ends_s: float = np.inf


def motion_of(trace: Trace, row: int, beside_a: Real, ends_s: float = np.inf) -> Motion:
    """What one motor did in a start on the engine.

    Args:
        trace: of the start.
        row: the motor's.
        beside_a: what the source gave to everything else by leg (2,) [A].
        ends_s: when it went off, infinite if never.

    Returns:
        Its speed and its share of the amps over time.
    """
    own = np.max(np.abs(trace.a) - np.asarray(beside_a)[:, None], axis=0)
    return Motion(trace.t_s, np.maximum(own, 0.0), trace.speed[row], ends_s)


def _parts(phase: Real, parts: tuple[float, ...], draw: np.random.Generator) -> Real:
    """A tone and its multiples, each with a phase of its own."""
    out = np.zeros_like(phase)
    for n, loud in enumerate(parts, start=1):
        out += loud * np.sin(n * phase + draw.uniform(0, 2 * np.pi))
    return out / float(np.sqrt(np.sum(np.square(parts)) / 2.0))


def _dip(t_s: Real, scene: Scene) -> Real:
    """The engine's speed over its own: it sags as the motor takes hold, and its governor brings it
    back.
    """
    after = np.maximum(t_s - scene.begins_s, 0.0) / scene.recovers_s
    return 1.0 - scene.dip * after * np.exp(1.0 - after)


def sound_of(motion: Motion, scene: Scene) -> Real:
    """A start as it is heard, without anything else.

    Args:
        motion: what the motor does.
        scene: how it is heard.

    Returns:
        Samples between −1 and 1, ``scene.rate · scene.seconds`` of them; a locked rotor's hum has a
        mean square of about 0.04.
    """
    draw = np.random.default_rng(scene.seed)
    t = np.arange(int(scene.rate * scene.seconds)) / scene.rate
    since = t - scene.begins_s
    on = (since >= 0.0) & (since < motion.ends_s)
    amps = np.interp(since, motion.t_s, motion.amps) * on
    speed = np.interp(since, motion.t_s, motion.speed) * on
    pull = np.square(amps / max(float(np.max(motion.amps)), 1e-9))
    lasting = scene.hum_left * on
    slowed = _dip(t, scene)
    line = scene.line_hz * (slowed if scene.geared else np.ones_like(t))
    turn = 2 * np.pi / scene.rate
    sound = (
        (pull + lasting)
        / (1.0 + scene.hum_left)
        * _parts(turn * np.cumsum(2.0 * line), HUM_PARTS, draw)
    )
    shaft = turn * np.cumsum(line * SYNCHRONOUS_HZ * np.maximum(speed, SLOWEST))
    sound += scene.pump * np.square(speed) * _parts(shaft, PUMP_PARTS, draw)
    if scene.engine_hz > 0.0:
        firing = turn * np.cumsum(scene.engine_hz * slowed)
        sound += scene.engine * _parts(firing, ENGINE_PARTS, draw)
    for at in (scene.begins_s, scene.begins_s + motion.ends_s):
        if at < scene.seconds:
            struck = np.exp(-np.maximum(t - at, 0.0) / CLICK_S) * (t >= at)
            sound += CLICK * struck * draw.standard_normal(len(t))
    found: Real = np.clip(LOUDNESS * sound, -1.0, 1.0)
    return found
