"""The command line: ``check``, ``endure``, ``remedies``, ``sensitivity``, ``order``, ``day`` and
``schema``; ``python -m ironmargin --help`` lists them.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import warnings
from contextlib import suppress
from functools import partial
from typing import NoReturn

from ironmargin import __version__
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
    if args.trace:
        try:
            _write(args.trace, trace_csv(checked))
        except OSError as error:
            print(
                f"cannot write {args.trace}: {error.strerror}; name another file", file=sys.stderr
            )
            return BAD_INPUT
    print(
        json.dumps(result_json(checked.result), indent=1, ensure_ascii=False)
        if args.json
        else report(checked)
    )
    return 0


def _endure(args: argparse.Namespace) -> int:
    from ironmargin.case import prepare
    from ironmargin.enduring.endurance import lasting, series_csv
    from ironmargin.setup.reading import load_setup
    from ironmargin.verdict.lasting import lasting_json, lasting_words

    setup = load_setup(args.file)
    found = lasting(prepare(setup))
    if args.csv:
        try:
            _write(args.csv, series_csv(found))
        except OSError as error:
            print(f"cannot write {args.csv}: {error.strerror}; name another file", file=sys.stderr)
            return BAD_INPUT
    print(
        json.dumps(lasting_json(found, setup), indent=1, ensure_ascii=False)
        if args.json
        else lasting_words(found, setup)
    )
    return 0


def _remedies(args: argparse.Namespace) -> int:
    from ironmargin.planning.remedies import find_remedies, remedies_json, remedies_words
    from ironmargin.setup.reading import load_setup

    def shout(done: int, todo: int) -> None:
        print(json.dumps({"tried": done, "of": todo}), file=sys.stderr, flush=True)

    found = find_remedies(load_setup(args.file), progress=shout if args.progress else None)
    print(
        json.dumps(remedies_json(found), indent=1, ensure_ascii=False)
        if args.json
        else remedies_words(found)
    )
    return 0


def _sensitivity(args: argparse.Namespace) -> int:
    from ironmargin.planning.sensitivity import sensitivity, sensitivity_json, sensitivity_words
    from ironmargin.setup.reading import load_setup
    from ironmargin.verdict.check import examine

    checked = examine(load_setup(args.file), quick=True)
    found = sensitivity(checked)
    print(
        json.dumps(sensitivity_json(checked, found), indent=1, ensure_ascii=False)
        if args.json
        else sensitivity_words(checked, found)
    )
    return 0


def _order(args: argparse.Namespace) -> int:
    from ironmargin.planning.order import running_order
    from ironmargin.planning.order_words import order_json, order_words
    from ironmargin.setup.reading import load_setup

    found = running_order(load_setup(args.file))
    print(
        json.dumps(order_json(found), indent=1, ensure_ascii=False)
        if args.json
        else order_words(found)
    )
    return 0


def _day(args: argparse.Namespace) -> int:
    from ironmargin.planning.day import day_json, day_words, plan_day
    from ironmargin.planning.tasks import load_tasks
    from ironmargin.setup.reading import load_setup

    setup = load_setup(args.file)
    found = plan_day(setup, load_tasks(args.tasks, setup))
    print(
        json.dumps(day_json(found), indent=1, ensure_ascii=False) if args.json else day_words(found)
    )
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
    from ironmargin.bench.clock import run_script
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
    print(json.dumps(found, indent=1, ensure_ascii=False))
    return 0


def parser() -> argparse.ArgumentParser:
    """Every command and what it takes.

    Returns:
        The parser.
    """
    shape = partial(
        argparse.HelpFormatter, width=100
    )  # given a width, argparse need not load what asks the terminal
    found = argparse.ArgumentParser(
        prog="ironmargin",
        formatter_class=shape,
        description="Will this supply start and sustain these loads, and what gives first?",
    )
    found.add_argument("--version", action="version", version=f"ironmargin {__version__}")
    commands = found.add_subparsers(
        dest="command",
        required=True,
        parser_class=partial(argparse.ArgumentParser, formatter_class=shape),
    )  # type: ignore[call-overload]
    check = commands.add_parser("check", help="check a setup file")
    check.add_argument("file", help="a *.setup.json file")
    check.add_argument("--json", action="store_true", help="print the result as JSON")
    check.add_argument("--trace", metavar="FILE", help="write the nominal starts as CSV")
    check.set_defaults(run=_check)
    endure = commands.add_parser(
        "endure", help="how long a setup lasts: fuel, battery, cost, noise"
    )
    endure.add_argument("file", help="a *.setup.json file")
    endure.add_argument("--json", action="store_true", help="print it as JSON")
    endure.add_argument("--csv", metavar="FILE", help="write the time series as CSV")
    endure.set_defaults(run=_endure)
    remedies = commands.add_parser("remedies", help="what would hold, best first")
    remedies.add_argument("file", help="a *.setup.json file")
    remedies.add_argument("--json", action="store_true", help="print them as JSON")
    remedies.add_argument(
        "--progress",
        action="store_true",
        help="say on standard error how far it is, a JSON line a trial",
    )
    remedies.set_defaults(run=_remedies)
    decides = commands.add_parser("sensitivity", help="which uncertain input moves the margin most")
    decides.add_argument("file", help="a *.setup.json file")
    decides.add_argument("--json", action="store_true", help="print it as JSON")
    decides.set_defaults(run=_sensitivity)
    order = commands.add_parser(
        "order", help="what may run together, the trades, and the start order"
    )
    order.add_argument("file", help="a *.setup.json file")
    order.add_argument("--json", action="store_true", help="print it as JSON")
    order.set_defaults(run=_order)
    day = commands.add_parser("day", help="lay the tasks of a day")
    day.add_argument("file", help="a *.setup.json file")
    day.add_argument("--tasks", metavar="FILE", required=True, help="the tasks file")
    day.add_argument("--json", action="store_true", help="print it as JSON")
    day.set_defaults(run=_day)
    far = commands.add_parser(
        "reach", help="how far it holds: the map over two figures, and limits"
    )
    far.add_argument("file", help="a *.setup.json file")
    far.add_argument("--x", default="outdoor_c=0:50:21", help="field=low:high:count")
    far.add_argument("--y", default="altitude_m=0:3000:16", help="field=low:high:count")
    far.add_argument("--json", action="store_true", help="print it as JSON")
    far.add_argument("--csv", metavar="FILE", help="write the map as CSV")
    far.set_defaults(run=_reach)
    sizes = commands.add_parser("size", help="the smallest supply that holds, with and without aid")
    sizes.add_argument("file", help="a *.setup.json file")
    sizes.add_argument("--catalogue", metavar="FILE", help="a CSV of supplies; else generic sizes")
    sizes.add_argument("--json", action="store_true", help="print it as JSON")
    sizes.set_defaults(run=_size)
    many = commands.add_parser("sweep", help="check many setups, one row each")
    many.add_argument("files", nargs="*", help="*.setup.json files")
    many.add_argument(
        "--from", dest="from_file", metavar="FILE", help="a setup a line (JSON lines)"
    )
    many.add_argument(
        "--set", action="append", default=[], help="field=number put into every setup"
    )
    many.add_argument("--out", required=True, help="a .parquet, .csv or .jsonl file")
    many.add_argument("--workers", type=int, default=1, help="processes on this machine")
    many.add_argument("--scheduler", metavar="tcp://HOST:PORT", help="a Dask cluster that exists")
    many.add_argument("--resume", action="store_true", help="go on where a killed sweep stopped")
    many.set_defaults(run=_sweep)
    learns = commands.add_parser("learn", help="what a log of readings tells, and what it corrects")
    learns.add_argument("file", help="a *.setup.json file")
    learns.add_argument("--log", metavar="FILE", required=True, help="the log file")
    learns.add_argument("--json", action="store_true", help="print it as JSON")
    learns.set_defaults(run=_learn)
    benches = commands.add_parser("bench", help="the rig in time: play a script on it")
    benches.add_argument("file", help="a *.setup.json file")
    benches.add_argument("--script", metavar="FILE", required=True, help="the script file")
    benches.add_argument("--json", action="store_true", help="print the run as JSON")
    benches.add_argument("--csv", metavar="FILE", help="write the series as CSV")
    benches.set_defaults(run=_bench)
    hands = commands.add_parser("steps", help="what to do with one's hands, with gates")
    hands.add_argument("file", help="a *.setup.json file")
    hands.add_argument(
        "--for",
        dest="purpose",
        default="hook-up",
        help="hook-up, start, shut-down, tripped, fit-soft-starter, fit-hard-start, "
        "measure-start, survey, storm or upkeep",
    )
    hands.add_argument("--json", action="store_true", help="print them as JSON")
    hands.set_defaults(run=_steps)
    rations = commands.add_parser("ration", help="days on what there is, and what to ration first")
    rations.add_argument("file", help="a *.setup.json file")
    rations.add_argument("--stock", metavar="FILE", required=True, help="the stock file")
    rations.add_argument("--json", action="store_true", help="print it as JSON")
    rations.set_defaults(run=_ration)
    pitches = commands.add_parser("places", help="which of some places holds what is wanted")
    pitches.add_argument("file", help="a *.setup.json file")
    pitches.add_argument("--places", metavar="FILE", required=True, help="the places file")
    pitches.add_argument("--json", action="store_true", help="print the grid as JSON")
    pitches.set_defaults(run=_places)
    schema = commands.add_parser("schema", help="print the JSON Schema of a setup")
    schema.add_argument("--tasks", action="store_true", help="of a tasks file instead")
    schema.add_argument("--script", action="store_true", help="of a bench script instead")
    schema.add_argument("--stock", action="store_true", help="of a stock instead")
    schema.add_argument("--places", action="store_true", help="of places instead")
    schema.add_argument("--log", action="store_true", help="of a log instead")
    schema.set_defaults(run=_schema)
    return found


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
        return int(args.run(args))
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
