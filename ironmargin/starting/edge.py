# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""How weak a supply, or a path, could be and a start still pass: the strength at which its outcome
changes, walked to from 1 and bisected. Compiled like the engine, with the types of ``edge.pxd``.
"""

from __future__ import annotations

import cython  # type: ignore[import-untyped]
import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.starting.engine import PASSES, Engine, Factors

STRONGEST, WEAKEST = 6.0, 0.2
STEPS_DOWN = (0.97, 0.92, 0.85, 0.75, 0.62, 0.5, 0.38, 0.28, WEAKEST)
STEPS_UP = (1.03, 1.08, 1.16, 1.3, 1.55, 2.0, 2.8, 4.0, STRONGEST)
"""Strengths walked from 1 until the outcome changes; the boundary lies between the last two, and is
bisected.
"""
TOLERANCE, ROUGH_TOLERANCE = 0.001, 0.004
BEYOND = (0.97, 0.9, 0.75, 0.5)
"""Past the boundary the outcome must not change back; where it does, an island is reported."""


class Edge:
    """The edge of passing of one start, as things are: of its supply, or of its path."""

    def __init__(self, engine: Engine, ones: Real, short: float) -> None:
        """Take the engine, a 1 for each motor, and what the electronics hold in the first second
        over their lasting limit [1].
        """
        self.engine, self.ones, self.by = engine, ones, Factors(short=short)
        self.down, self.up, self.beyond = np.array(STEPS_DOWN), np.array(STEPS_UP), np.array(BEYOND)
        self.back = np.zeros(len(BEYOND), dtype=np.intc)
        self.weakest, self.strongest, self.factor = WEAKEST, STRONGEST, 1.0
        self.by_path = self.at_one = self.found = self.rough = False
        self.tolerance = TOLERANCE

    def find(
        self, by_path: bool, at_one: bool, rough: bool = False
    ) -> tuple[float, tuple[float, ...]]:
        """The strength at which the outcome changes [1], and those past it where it changes back.

        Args:
            by_path: of the path, whose impedance is divided by it, instead of the supply.
            at_one: whether it passes at 1.
            rough: to 0.4 %, with no look past it: half the starts.

        Returns:
            Strengths [1].
        """
        self.by_path, self.at_one, self.rough = by_path, at_one, rough
        self.tolerance = ROUGH_TOLERANCE if rough else TOLERANCE
        with cython.nogil:
            self.walk()
        islands = [self.past(at) for at in range(len(BEYOND)) if self.back[at]]
        return float(self.factor), tuple(islands)

    def changes_within(self, factor: float, at_one: bool) -> bool:
        """Whether a change of the path no larger than to ``factor`` changes the outcome.

        Args:
            factor: how much the path is changed, up or down [1].
            at_one: whether it passes as it is.

        Returns:
            Whether it ends otherwise somewhere on the way.
        """
        self.by_path, self.at_one, self.factor = True, at_one, factor
        with cython.nogil:
            self.step()
        return bool(self.found)

    def ok(self, source_strength: float) -> bool:
        """Whether it passes with a path, or a supply, so many times as strong.

        Args:
            source_strength: over what there is [1].

        Returns:
            Whether it passes.
        """
        self.by.source_strength = 1.0 if self.by_path else source_strength
        self.by.path = source_strength if self.by_path else 1.0
        return bool(self.engine.follow(self.by, self.ones, self.ones, False) == PASSES)

    def past(self, at: int) -> float:
        """A strength past the edge [1].

        Args:
            at: which of the looks past it.

        Returns:
            On the side where the outcome has changed [1].
        """
        return float(
            self.factor * self.beyond[at] if self.at_one else self.factor / self.beyond[at]
        )

    def walk(self) -> None:
        """Walk until the outcome changes, bisect to 0.1 %, and look past it."""
        inside = 1.0
        outside = 1.0
        for at in range(self.back.shape[0]):
            self.back[at] = 0
        for at in range(self.down.shape[0]):
            step = self.down[at] if self.at_one else self.up[at]
            if self.ok(step) != self.at_one:
                outside = step
                break
            inside = step
        self.factor = inside
        if outside == 1.0:
            return
        while abs(outside - inside) > self.tolerance * inside:
            middle = 0.5 * (inside + outside)
            if self.ok(middle) == self.at_one:
                inside = middle
            else:
                outside = middle
        self.factor = inside if self.at_one else outside
        if self.rough:
            return
        for at in range(self.back.shape[0]):
            source_strength = self.past(at)
            if source_strength >= self.weakest and source_strength <= self.strongest:
                self.back[at] = self.ok(source_strength) == self.at_one

    def step(self) -> None:
        """Look at every step nearer to 1 than the factor, and at it."""
        self.found = self.ok(self.factor) != self.at_one
        for at in range(self.down.shape[0]):
            step = self.down[at] if self.at_one else self.up[at]
            nearer = step > self.factor if self.at_one else step < self.factor
            if nearer and not self.found:
                self.found = self.ok(step) != self.at_one
