"""How a start should sound: the check's own start made audible."""

from __future__ import annotations

import numpy as np

from ironmargin.errors import SetupError
from ironmargin.learning.entries import StartEntry
from ironmargin.learning.observed import observed_start
from ironmargin.sensing.sonify import Scene, motion_of, sound_of
from ironmargin.setup.model import Setup
from ironmargin.sustaining.steady import settled, source_amps
from web.logbook.hearing import as_wav

RATE = 8_000
FIRING_HZ = 30.0
"""A four-stroke cylinder at 3,600 turns a minute; an inverter set's may be anything near it."""
ROOM = 0.004
"""Loudness of the room beside it."""


def wav_of(setup: Setup, load: str) -> bytes | None:
    """Ten seconds of a load's start, beside what else is wanted; None where it has none."""
    try:
        observed = observed_start(setup, StartEntry(load=load))
    except SetupError:
        return None
    if observed is None:
        return None
    case, moment = observed.scenario.case, observed.scenario
    starting = next(s for s in case.starters if case.demands[s.demand].load.id == load)
    beside = np.abs(source_amps(case, settled(case, frozenset({starting.demand}))))
    run = moment.run()
    scene = Scene(
        rate=RATE,
        line_hz=case.source.frequency_hz,
        engine_hz=FIRING_HZ if setup.supply.engines else 0.0,
        engine=0.25,
    )
    heard = sound_of(motion_of(run.trace, observed.row, beside, run.opened_s), scene)
    room = ROOM * np.random.default_rng(1).standard_normal(len(heard))
    return as_wav(heard + room, RATE)
