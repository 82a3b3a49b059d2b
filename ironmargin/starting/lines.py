# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""Lines of samples, and on each the strength of supply and path at which its start begins to pass.

A line is one sample of everything uncertain but the strength. Where it begins to pass is looked for
first where a plane over the samples expects it: fitted by ridge regression to what was found so far
(A. Hoerl and R. Kennard, Technometrics 12, 1970). That saves runs and changes no figure by more
than is left in doubt. Compiled like the engine, with the types of ``lines.pxd``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import cython  # type: ignore[import-untyped]
import numpy as np

from ironmargin.electrics.network import Real
from ironmargin.starting.engine import PASSES, Engine, Factors

if TYPE_CHECKING:
    from ironmargin.starting.samples import Samples


class Lines:
    """Lines of samples on one start engine, and what is known of the plane.

    After a look, of every line: ``fails`` and ``passing``, the numbers of two edges: of the last
    one that fails, −1 if none does, and of the first that passes, their count if none does;
    ``needed``, the strength in the middle between them, that of the outermost edge beyond it [1].
    """

    def __init__(self, engine: Engine, plane: Real, doubt: Real) -> None:
        """Begin with a plane [strength, and strength for one of each sample] and how little it is
        believed: the inverse of ridge regression's matrix.
        """
        self.engine, self.plane, self.doubt = engine, plane, doubt
        self.by = Factors()
        self.gain = np.zeros(len(plane))

    def look(self, samples: Samples, edges: Real, above: Real, enough: Real) -> None:
        """Look on each line of other samples (:class:`ironmargin.starting.samples.Samples`) between
        which edges it begins to pass. Other threads need not wait for it.

        Args:
            samples: a sample a line.
            edges: strengths, rising [1].
            above: chance that the strength is at least that of an edge, after a 1 and before a 0
                [1].
            enough: of each line, how likely the strength may be to lie between the two, if they are
                no neighbours [1].
        """
        self.voc_factor, self.lockout, self.short = (
            samples.voc_factor,
            samples.lockout,
            samples.short,
        )
        self.lra, self.breakaway = samples.lra, samples.breakaway
        self.points = np.column_stack([np.ones(len(samples.z)), samples.z])
        self.edges, self.above, self.enough = edges, above, enough
        self.fails = np.empty(len(samples.z), dtype=np.intc)
        self.passing = np.empty(len(samples.z), dtype=np.intc)
        self.needed = np.empty(len(samples.z))
        with cython.nogil:
            self.each()

    def each(self) -> None:
        """Look on one line after another: each learns from those before."""
        for at in range(self.points.shape[0]):
            self.observe(at)

    def expected(self, at: int) -> float:
        """Where a line is expected to begin to pass [1].

        Args:
            at: the line.

        Returns:
            Strength [1].
        """
        found = 0.0
        for draw in range(self.plane.shape[0]):
            found += self.plane[draw] * self.points[at, draw]
        return found

    def learn(self, at: int, off_by: float) -> None:
        """Learn by how much the boundary of a line lay off the plane (recursive least squares).

        Args:
            at: the line.
            off_by: strength found less strength expected [1].
        """
        count = self.plane.shape[0]
        scale = 1.0
        for row in range(count):
            self.gain[row] = 0.0
            for draw in range(count):
                self.gain[row] += self.doubt[row, draw] * self.points[at, draw]
            scale += self.points[at, row] * self.gain[row]
        for row in range(count):
            self.plane[row] += self.gain[row] / scale * off_by
            for draw in range(count):
                self.doubt[row, draw] -= self.gain[row] / scale * self.gain[draw]

    def ok(self, at: int, edge: int) -> bool:
        """Whether the start of a line passes with the strength of an edge.

        Args:
            at: the line.
            edge: its number.

        Returns:
            Whether it passes.
        """
        self.by.source_strength = self.by.path = self.edges[edge]
        self.by.voc_factor, self.by.lockout, self.by.short = (
            self.voc_factor[at],
            self.lockout[at],
            self.short[at],
        )
        outcome = self.engine.follow(self.by, self.lra[at], self.breakaway[at], False)
        return bool(outcome == PASSES)

    def observe(self, at: int) -> None:
        """Look on one line, taking it that all above the first edge that passes pass, too: walked
        to in doubling strides from where it is expected, then bisected.

        Args:
            at: the line.
        """
        last = self.edges.shape[0] - 1
        guess = self.expected(at)
        edge = 0
        while edge < last - 1 and self.edges[edge + 1] <= guess:
            edge += 1
        stride = 1
        fails = -1
        passing = last + 1
        while (
            passing - fails > 1
            and self.above[fails + 1] - self.above[passing + 1] >= self.enough[at]
        ):
            if self.ok(at, edge):
                passing = edge
            else:
                fails = edge
            if fails < 0:
                edge = max(edge - stride, 0)
            elif passing > last:
                edge = min(edge + stride, last)
            else:
                edge = (fails + passing) // 2
            stride *= 2
        self.fails[at] = fails
        self.passing[at] = passing
        self.needed[at] = 0.5 * (self.edges[max(fails, 0)] + self.edges[min(passing, last)])
        # Beyond the edges, and looked for there, it tells nothing of the plane.
        foreseen = guess <= self.edges[0] if fails < 0 else guess >= self.edges[last]
        if passing - fails == 1 and ((fails >= 0 and passing <= last) or not foreseen):
            self.learn(at, self.needed[at] - guess)
