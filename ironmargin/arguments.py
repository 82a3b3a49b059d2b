"""What each command takes; ``python -m ironmargin --help`` lists them."""

from __future__ import annotations

import argparse
from functools import partial

from ironmargin import __version__

WIDE = 100
"""Of what ``--help`` prints [letters]."""


def parser() -> argparse.ArgumentParser:
    """Every command and what it takes.

    Returns:
        The parser.
    """
    # Given a width, argparse need not load what asks the terminal.
    shape = partial(argparse.HelpFormatter, width=WIDE)
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

    def of_a_file(
        name: str, words: str, as_json: str = "print it as JSON"
    ) -> argparse.ArgumentParser:
        command: argparse.ArgumentParser = commands.add_parser(name, help=words)
        command.add_argument("file", help="a *.setup.json file")
        command.add_argument("--json", action="store_true", help=as_json)
        return command

    check = of_a_file("check", "check a setup file", "print the result as JSON")
    check.add_argument("--trace", metavar="FILE", help="write the nominal starts as CSV")
    endure = of_a_file("endure", "how long a setup lasts: fuel, battery, cost, noise")
    endure.add_argument("--csv", metavar="FILE", help="write the time series as CSV")
    remedies = of_a_file("remedies", "what would hold, best first", "print them as JSON")
    remedies.add_argument(
        "--progress",
        action="store_true",
        help="say on standard error how far it is, a JSON line a trial",
    )
    of_a_file("sensitivity", "which uncertain input moves the margin most")
    of_a_file("order", "what may run together, the trades, and the start order")
    day = of_a_file("day", "lay the tasks of a day")
    day.add_argument("--tasks", metavar="FILE", required=True, help="the tasks file")
    far = of_a_file("reach", "how far it holds: the map over two figures, and limits")
    far.add_argument("--x", default="outdoor_c=0:50:21", help="field=low:high:count")
    far.add_argument("--y", default="altitude_m=0:3000:16", help="field=low:high:count")
    far.add_argument("--csv", metavar="FILE", help="write the map as CSV")
    sizes = of_a_file("size", "the smallest supply that holds, with and without aid")
    sizes.add_argument("--catalogue", metavar="FILE", help="a CSV of supplies; else generic sizes")
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
    learns = of_a_file("learn", "what a log of readings tells, and what it corrects")
    learns.add_argument("--log", metavar="FILE", required=True, help="the log file")
    benches = of_a_file("bench", "the rig in time: play a script on it", "print the run as JSON")
    benches.add_argument("--script", metavar="FILE", required=True, help="the script file")
    benches.add_argument("--csv", metavar="FILE", help="write the series as CSV")
    hands = of_a_file("steps", "what to do with one's hands, with gates", "print them as JSON")
    hands.add_argument(
        "--for",
        dest="purpose",
        default="hook-up",
        help="hook-up, start, shut-down, tripped, fit-soft-starter, fit-hard-start, "
        "measure-start, survey, storm or upkeep",
    )
    rations = of_a_file("ration", "days on what there is, and what to ration first")
    rations.add_argument("--stock", metavar="FILE", required=True, help="the stock file")
    pitches = of_a_file(
        "places", "which of some places holds what is wanted", "print the grid as JSON"
    )
    pitches.add_argument("--places", metavar="FILE", required=True, help="the places file")
    schema = commands.add_parser("schema", help="print the JSON Schema of a setup")
    schema.add_argument("--tasks", action="store_true", help="of a tasks file instead")
    schema.add_argument("--script", action="store_true", help="of a bench script instead")
    schema.add_argument("--stock", action="store_true", help="of a stock instead")
    schema.add_argument("--places", action="store_true", help="of places instead")
    schema.add_argument("--log", action="store_true", help="of a log instead")
    return found
