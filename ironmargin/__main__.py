"""The command line: ``check``, ``endure``, ``remedies``, ``sensitivity``, ``order``, ``day`` and
``schema``; ``python -m ironmargin --help`` lists them.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import warnings
from collections.abc import Callable
from contextlib import suppress
from typing import NoReturn

from ironmargin.arguments import parser
from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.extras import how_to_get

BAD_INPUT = 2


def _written(path: str, words: str) -> bool:
    """Whether a file could be written; if not, it is said with what to do."""
    try:
        _write(path, words)
    except OSError as error:
        print(f"cannot write {path}: {error.strerror}; name another file", file=sys.stderr)
        return False
    return True


def _print(answer: Document | str) -> None:
    words = isinstance(answer, str)
    print(answer if words else json.dumps(answer, indent=1, ensure_ascii=False))


def _write(path: str, words: str) -> None:
    with open(path, "w", encoding="utf-8") as file:
        file.write(words)


def _check(args: argparse.Namespace) -> int:
    from ironmargin.planning.answer import check_fully
    from ironmargin.setup.reading import load_setup
    from ironmargin.verdict.report import report, trace_csv
    from ironmargin.verdict.result import result_json

    checked = check_fully(load_setup(args.file))
    if args.trace and not _written(args.trace, trace_csv(checked)):
        return BAD_INPUT
    _print(result_json(checked.result) if args.json else report(checked))
    return 0


def _endure(args: argparse.Namespace) -> int:
    from ironmargin.case import prepare
    from ironmargin.enduring.endurance import lasting, series_csv
    from ironmargin.setup.reading import load_setup
    from ironmargin.verdict.lasting import lasting_json, lasting_words

    setup = load_setup(args.file)
    found = lasting(prepare(setup))
    if args.csv and not _written(args.csv, series_csv(found)):
        return BAD_INPUT
    _print(lasting_json(found, setup) if args.json else lasting_words(found, setup))
    return 0


def _remedies(args: argparse.Namespace) -> int:
    from ironmargin.planning.remedies import find_remedies, remedies_json, remedies_words
    from ironmargin.setup.reading import load_setup

    def shout(done: int, todo: int) -> None:
        print(json.dumps({"tried": done, "of": todo}), file=sys.stderr, flush=True)

    found = find_remedies(load_setup(args.file), progress=shout if args.progress else None)
    _print(remedies_json(found) if args.json else remedies_words(found))
    return 0


def _sensitivity(args: argparse.Namespace) -> int:
    from ironmargin.planning.sensitivity import sensitivity, sensitivity_json, sensitivity_words
    from ironmargin.setup.reading import load_setup
    from ironmargin.verdict.check import examine

    checked = examine(load_setup(args.file), quick=True)
    found = sensitivity(checked)
    _print(sensitivity_json(checked, found) if args.json else sensitivity_words(checked, found))
    return 0


def _order(args: argparse.Namespace) -> int:
    from ironmargin.planning.order import running_order
    from ironmargin.planning.order_words import order_json, order_words
    from ironmargin.setup.reading import load_setup

    found = running_order(load_setup(args.file))
    _print(order_json(found) if args.json else order_words(found))
    return 0


def _day(args: argparse.Namespace) -> int:
    from ironmargin.planning.day import day_json, day_words, plan_day
    from ironmargin.planning.tasks import load_tasks
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = plan_day(setup, load_tasks(args.tasks, setup))
    _print(day_json(found) if args.json else day_words(found))
    return 0


def _reach(args: argparse.Namespace) -> int:
    from ironmargin.reaching.axes import read_axis
    from ironmargin.reaching.reach import reach
    from ironmargin.reaching.reach_words import reach_csv, reach_json, reach_words
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = reach(setup, read_axis(args.x, setup), read_axis(args.y, setup))
    if args.csv and not _written(args.csv, reach_csv(found)):
        return BAD_INPUT
    _print(reach_json(found) if args.json else reach_words(found))
    return 0


def _size(args: argparse.Namespace) -> int:
    from ironmargin.reaching.size import read_catalogue, size, size_json, size_words
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    offers = read_catalogue(args.catalogue) if args.catalogue else None
    found = size(setup, offers)
    _print(size_json(setup, found, offers) if args.json else size_words(setup, found, offers))
    return 0


def _sweep(args: argparse.Namespace) -> int:
    from ironmargin.reaching.sweep import items_of, read_sets, sweep

    def shout(done: int, todo: int) -> None:
        print(json.dumps({"tried": done, "of": todo}), file=sys.stderr, flush=True)

    counts = sweep(
        items_of(args.files, args.from_file),
        read_sets(args.set),
        args.out,
        workers=args.workers,
        scheduler=args.scheduler,
        resume=args.resume,
        progress=shout,
    )
    said = ", ".join(f"{counts[v]} {v}" for v in ("holds", "thin", "fails"))
    print(f"{counts.total()} setups: {said}, {counts['fault']} with a fault")
    return 0


def _learn(args: argparse.Namespace) -> int:
    from ironmargin.learning.learn import learn
    from ironmargin.learning.log import load_log
    from ironmargin.learning.words import learned_json, learned_words
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = learn(setup, load_log(args.log, setup))
    _print(learned_json(found) if args.json else learned_words(found))
    return 0


def _bench(args: argparse.Namespace) -> int:
    from ironmargin.bench.play import run_script
    from ironmargin.bench.script import load_script
    from ironmargin.bench.words import bench_csv, bench_json, bench_words
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    bench = run_script(setup, load_script(args.script, setup))
    if args.csv and not _written(args.csv, bench_csv(bench)):
        return BAD_INPUT
    _print(bench_json(bench) if args.json else bench_words(bench))
    return 0


def _steps(args: argparse.Namespace) -> int:
    from ironmargin.practice.steps import steps_json, steps_of, steps_words
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = steps_of(setup, args.purpose)
    show = steps_json if args.json else steps_words
    _print(show(setup, args.purpose, found))
    return 0


def _ration(args: argparse.Namespace) -> int:
    from ironmargin.planning.ration import ration
    from ironmargin.planning.ration_words import ration_json, ration_words
    from ironmargin.planning.stock import load_stock
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = ration(setup, load_stock(args.stock, setup))
    _print(ration_json(found) if args.json else ration_words(found))
    return 0


def _places(args: argparse.Namespace) -> int:
    from ironmargin.reaching.places import grid_json, grid_of, grid_words, load_places
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = grid_of(setup, load_places(args.places, setup))
    _print(grid_json(found) if args.json else grid_words(found))
    return 0


def _schema(args: argparse.Namespace) -> int:
    if args.tasks:
        from ironmargin.planning.tasks import tasks_schema

        found = tasks_schema()
    elif args.stock:
        from ironmargin.planning.stock import stock_schema

        found = stock_schema()
    elif args.places:
        from ironmargin.reaching.places import places_schema

        found = places_schema()
    elif args.script:
        from ironmargin.bench.script import script_schema

        found = script_schema()
    elif args.log:
        from ironmargin.learning.log import log_schema

        found = log_schema()
    else:
        from ironmargin.setup.reading import setup_schema

        found = setup_schema()
    _print(found)
    return 0


COMMANDS: dict[str, Callable[[argparse.Namespace], int]] = {
    "check": _check,
    "endure": _endure,
    "remedies": _remedies,
    "sensitivity": _sensitivity,
    "order": _order,
    "day": _day,
    "reach": _reach,
    "size": _size,
    "sweep": _sweep,
    "learn": _learn,
    "bench": _bench,
    "steps": _steps,
    "ration": _ration,
    "places": _places,
    "schema": _schema,
}


def main(argv: list[str] | None = None) -> int:
    """Run a command; 0 whatever the verdict, 2 for a bad file.

    Args:
        argv: the words after the command's name; those of the process where None.

    Returns:
        What the process ends with.

    Raises:
        ModuleNotFoundError: of a package that no extra brings.
    """
    args = parser().parse_args(argv)
    try:
        return COMMANDS[args.command](args)
    except SetupError as error:
        print(error, file=sys.stderr)
        return BAD_INPUT
    except ModuleNotFoundError as missing:
        if not (advice := how_to_get(missing)):
            raise
        print(advice, file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        return 0


def run() -> NoReturn:
    """Run a command as a process of its own.

    It ends without taking apart what it has loaded: that costs a check a tenth of its time
    (measured: benchmarks/process.py).
    """
    warnings.formatwarning = lambda message, *_: f"{message}\n"
    code = main()
    with suppress(BrokenPipeError):
        sys.stdout.flush()
        sys.stderr.flush()
    os._exit(code)


if __name__ == "__main__":
    run()
