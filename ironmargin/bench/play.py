"""A bench that plays a script from beginning to end."""

from __future__ import annotations

from ironmargin.bench.clock import Bench
from ironmargin.bench.script import Script
from ironmargin.setup.model import Setup


def run_script(setup: Setup, script: Script) -> Bench:
    """Run a script from beginning to end.

    Args:
        setup: supply, path, rig and rules of the question.
        script: acts in the order of their time.

    Returns:
        The bench as it stands at the end, with everything that happened.
    """
    bench = Bench(setup, script.begin, script.seed)
    end = script.hours * 3600.0
    for act in sorted(script.steps, key=lambda a: a.at_s):
        if act.at_s > end:
            break
        bench.advance(act.at_s)
        bench.do(act)
    bench.advance(end)
    return bench
