"""What the parts of the engine tell each other: how a start ended, and what opened."""

from __future__ import annotations

NEVER = float("inf")
UNDECIDED = 0
STARTS = 1
STALLS = 2
TRIPS = 3
VOLTS_STAY_LOW = 4
DROPS_OUT = 5
UNSOLVED = 6
PASSES = STARTS
FIXED = 5
"""Columns of a start's log before those of motors and breakers: time, volts and amps of both
legs."""
OUTCOMES = {1: "starts", 2: "stalls", 3: "trips", 4: "volts-stay-low", 5: "lets-go", 6: "unsolved"}
NOTHING, LOCKOUT, UNDERVOLT_LOCKOUT, CUT_OFF, GUARD_LOW, GUARD_OVER = 0, 1, 2, 3, 4, 5
BREAKER, BRANCH = 100, 200
"""What opened first: one of these, or these plus the number of the breaker or branch."""
