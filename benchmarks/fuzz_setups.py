"""A hundred thousand setups nobody would type: whether any breaks a command.

    .venv/bin/python -m benchmarks.fuzz_setups [TIMES [SEED]]

A random question gets ids of any characters, figures at the ends of their ranges, or something odd
somewhere. What the reader refuses must be refused by name; what it takes goes through the check,
and one in several through remedies, bench, reach, steps, ration and the order. Prints what became
of them, and every error that is not a refusal. A NaN in an answer counts, too.
"""

from __future__ import annotations

import copy
import json
import random
import sys
import time
import traceback
import warnings
from collections import Counter
from collections.abc import Callable
from typing import Any

from ironmargin.bench.play import run_script
from ironmargin.bench.script import read_script
from ironmargin.bench.words import bench_json
from ironmargin.errors import SetupError
from ironmargin.planning.order import running_order
from ironmargin.planning.order_words import order_json
from ironmargin.planning.ration import ration
from ironmargin.planning.ration_words import ration_json
from ironmargin.planning.remedies import find_remedies, remedies_json
from ironmargin.planning.stock import Stock
from ironmargin.practice.steps import PURPOSES, steps_of
from ironmargin.reaching.axes import read_axis
from ironmargin.reaching.reach import reach
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
from ironmargin.verdict.result import result_json
from tests.core.test_one_answer import random_document

# fmt: off
IDS = ("a/c", "roof #1", "❄️ front", "x" * 200, "lra/x/0", "circuit main", "contact/3", "supply",
       "L1", "a b", "ю", "1", "-", "load", "../x", "<b>", "day", "a,b", "a|b", "a:b", "%s", "{x}")
# fmt: on
ODD: tuple[Any, ...] = (
    0,
    -1,
    1e-9,
    1e-320,
    1e9,
    1e308,
    float("nan"),
    float("inf"),
    "",
    "x",
    "1e3",
    None,
    True,
    False,
    [],
    {},
    [[]],
    "L2",
    "L1L2",
    240,
    230,
    12,
    0.5,
    3.7,
    55,
    2**63,
)  # fmt: skip
SCALES = (0.1, 0.3, 0.5, 0.8, 1.2, 2.0, 5.0, 20.0)


def drawn(seed: int) -> dict[str, Any]:
    """A random question with none to three odd things in it."""
    draw = random.Random(seed)
    document = copy.deepcopy(random_document(seed))
    if draw.random() < 0.3:
        renamed = dict(
            zip([x["id"] for x in document["rig"]["loads"]], draw.sample(IDS, 4), strict=False)
        )
        for one in document["rig"]["loads"]:
            one["id"] = one["name"] = renamed[one["id"]]
        for one in document["wanted"]:
            one["load"] = renamed[one["load"]]
    for _ in range(draw.randint(0, 3)):
        at: Any = document
        while isinstance(at, dict | list) and at:
            key = draw.choice(list(at) if isinstance(at, dict) else range(len(at)))
            if isinstance(at[key], dict | list) and at[key]:
                at = at[key]
                continue
            figure = isinstance(at[key], int | float) and not isinstance(at[key], bool)
            at[key] = (
                at[key] * draw.choice(SCALES)
                if figure and draw.random() < 0.8
                else copy.deepcopy(draw.choice(ODD))
            )
            break
    return document


def requested(setup: Setup, draw: random.Random) -> dict[str, Callable[[], Any]]:
    """The commands this setup goes through: each as its name and a call that gives its JSON."""
    quick = draw.random() < 0.7
    found: dict[str, Callable[[], Any]] = {
        "check": lambda: result_json(examine(setup, quick=quick).result)
    }
    turn = draw.random()
    if turn < 0.1:
        found["remedies"] = lambda: remedies_json(find_remedies(setup))
    elif turn < 0.25:
        script = {
            "format": "iron-margin/script",
            "version": 1,
            "hours": 0.5,
            "begin": {"all": "as-wanted"},
        }
        found["bench"] = lambda: bench_json(run_script(setup, read_script(script, setup)))
    elif turn < 0.3:
        axes = ("outdoor_c=10:45:3", "altitude_m=0:3000:2")
        found["reach"] = lambda: [
            [p.margin for p in row]
            for row in reach(setup, *(read_axis(a, setup) for a in axes), limits=False).points
        ]
    elif turn < 0.6:
        found["steps"] = lambda: [s.text for s in steps_of(setup, draw.choice(PURPOSES))]
    elif turn < 0.7:
        found["ration"] = lambda: ration_json(ration(setup, Stock(days=2)))
    elif turn < 0.8:
        found["order"] = lambda: order_json(running_order(setup))
    return found


def main() -> int:
    """Draws, reads, asks; 0 when nothing broke."""
    wanted = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    warnings.simplefilter("error")
    counted: Counter[str] = Counter()
    broken: Counter[str] = Counter()
    began = time.perf_counter()
    for seed in range(first, first + wanted):
        where = "read"
        try:
            setup = read_setup(drawn(seed))
            counted["taken"] += 1
            for where, ask in requested(setup, random.Random(-seed)).items():
                json.dumps(ask(), allow_nan=False)
                counted[where] += 1
        except SetupError as refused:
            counted[f"refused by {where}"] += 1
            if not all(f.path and f.code and f.message for f in refused.faults):
                broken[f"{where}: refused without a place or words"] += 1
        except Exception as error:  # whatever it is, it is what we look for
            last = traceback.extract_tb(error.__traceback__)[-1]
            what = f"{where}: {type(error).__name__} {str(error)[:60]} in {last.name}:{last.lineno}"
            if not broken[what]:
                print(f"seed {seed}: {what}", flush=True)
            broken[what] += 1
        if (seed - first) % 5000 == 4999:
            print(
                f"{seed - first + 1} after {time.perf_counter() - began:.0f} s {dict(counted)}",
                flush=True,
            )
    print(json.dumps(dict(counted), indent=1))
    for what, times in broken.most_common():
        print(times, what)
    return 1 if broken else 0


if __name__ == "__main__":
    sys.exit(main())
