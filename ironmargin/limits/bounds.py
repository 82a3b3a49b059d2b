"""The least each source conductor is allowed, whatever runs: what a search of many sets looks at
first.
"""

from __future__ import annotations

import math

from ironmargin.case import Case
from ironmargin.limits.asking import settled_rows
from ironmargin.limits.now import now_of
from ironmargin.limits.sites import Site
from ironmargin.path.trace import INPUT, PathPart


def min_allowed_a(case: Case) -> tuple[float, float]:
    """The least amps a source conductor is allowed with everything on, and averaged over on and off
    times [A]; infinite where nothing limits it. What else hangs on a post's circuit is taken off.

    Args:
        case: the prepared setup.

    Returns:
        Amps at once and averaged [A].
    """
    minimum = {False: math.inf, True: math.inf}
    sites = {Site.SUPPLY, Site.SUPPLY_BREAKER}
    if case.turns == 1.0:  # behind a transformer the panel's amps are others
        sites |= {Site.MAIN, Site.PART}
    for row in settled_rows(now_of(case)):
        if row.unit != "A" or row.place.site not in sites or row.problem:
            continue
        if isinstance(row.about, PathPart) and row.about.carries == INPUT:
            continue
        also = case.source.also_a if row.place.site is Site.SUPPLY_BREAKER else 0.0
        averaged = row.note == "continuous"
        minimum[averaged] = min(minimum[averaged], float(row.allowed) - also)
    return minimum[False], minimum[True]
