"""Reading and writing setups: every fault at once, and what is written reads back to the same
setup.
"""

from __future__ import annotations

import json
from os import PathLike

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.setup.model import FORMAT, Setup
from ironmargin.setup.records import file_schema, read_record, write_record
from ironmargin.setup.rules import check_rules
from ironmargin.setup.spec import INVALID, Faults

LARGEST_FILE_BYTES = 1_000_000
"""A setup is some kilobytes; more is a mistake or an attack."""


def read_setup(data: object) -> Setup:
    """Turn parsed JSON into a setup.

    Args:
        data: parsed JSON, from anywhere.

    Returns:
        The setup.

    Raises:
        SetupError: with every fault found, each with its path, rule and value.
    """
    faults: Faults = []
    setup = read_record(Setup, data, "", faults)
    if isinstance(data, dict) and setup is INVALID:
        faults += _dangling(data, faults)
    if faults:
        raise SetupError(faults)
    faults = check_rules(setup)
    if faults:
        raise SetupError(faults)
    result: Setup = setup
    return result


def _dangling(data: Document, faults: Faults) -> Faults:
    """Wanted loads that do not exist, found even when other fields keep the setup from being
    built.
    """
    rig, wanted = data.get("rig"), data.get("wanted")
    loads = rig.get("loads") if isinstance(rig, dict) else None
    if not isinstance(loads, list) or not isinstance(wanted, list):
        return []
    known = {
        load.get("id")
        for load in loads
        if isinstance(load, dict) and isinstance(load.get("id"), str)
    }
    found = {fault.path for fault in faults}
    return [
        Fault(
            f"wanted[{at}].load",
            "no-such-load",
            f'must be the id of one of the rig\'s loads (got "{item["load"][:40]}")',
        )
        for at, item in enumerate(wanted)
        if isinstance(item, dict)
        and isinstance(item.get("load"), str)
        and item["load"] not in known
        and f"wanted[{at}].load" not in found
    ]


def _no_duplicates(pairs: list[tuple[str, object]]) -> Document:
    """JSON lets a name stand twice and keeps the last; a setup does not."""
    out = dict(pairs)
    if len(out) < len(pairs):
        names = [key for key, _ in pairs]
        twice = next(key for key in names if names.count(key) > 1)
        raise SetupError(
            [
                Fault(
                    "",
                    "twice",
                    f'not a setup file: the field "{twice[:40]}" stands twice; remove one',
                )
            ]
        )
    return out


def parse_setup(raw: bytes | str) -> Setup:
    """Read a setup from the bytes of a file.

    Args:
        raw: JSON.

    Returns:
        The setup.

    Raises:
        SetupError: not JSON, too large, or any fault of :func:`read_setup`.
    """
    if len(raw) > LARGEST_FILE_BYTES:
        raise SetupError(
            [
                Fault(
                    "",
                    "large",
                    f"a setup file has at most {LARGEST_FILE_BYTES} bytes (got {len(raw)})",
                )
            ]
        )
    try:
        words = raw.decode("utf-8-sig") if isinstance(raw, bytes) else raw
        data = json.loads(words, object_pairs_hook=_no_duplicates)
    except UnicodeDecodeError as error:
        raise SetupError(
            [Fault("", "utf-8", f"not UTF-8 text at byte {error.start}; save the file as UTF-8")]
        ) from None
    except json.JSONDecodeError as error:
        where = f"line {error.lineno}, column {error.colno}"
        raise SetupError(
            [Fault("", "json", f"not JSON at {where}: {error.msg}; correct the file there")]
        ) from None
    except (RecursionError, ValueError):
        raise SetupError(
            [Fault("", "json", "not a setup: nested too deeply or a number too long")]
        ) from None
    return read_setup(data)


def load_setup(path: str | PathLike[str]) -> Setup:
    """Read a ``*.setup.json`` file.

    Args:
        path: of the file.

    Returns:
        The setup.

    Raises:
        SetupError: the file cannot be opened or is not a setup.
    """
    return parse_setup(_bytes_of(path))


def _bytes_of(path: str | PathLike[str], maximum: int = LARGEST_FILE_BYTES) -> bytes:
    """A file, as far as it may be long and one byte more."""
    try:
        with open(path, "rb") as file:
            return file.read(maximum + 1)
    except OSError as error:
        raise SetupError(
            [Fault("", "file", f"cannot open {path}: {error.strerror or error}; check the name")]
        ) from None


def json_of(path: str | PathLike[str], what: str, maximum: int = LARGEST_FILE_BYTES) -> object:
    """The JSON in a file of some other kind, not yet read further.

    Args:
        path: of the file.
        what: the kind, as a fault calls it: "a script".
        maximum: its largest size [bytes].

    Returns:
        Parsed JSON.

    Raises:
        SetupError: the file cannot be opened, is too large or is not JSON.
    """
    raw = _bytes_of(path, maximum)
    if len(raw) > maximum:
        rule = f"{what} has at most {maximum:,} bytes; split it (got more)"
        raise SetupError([Fault("", "large", rule)])
    try:
        return json.loads(raw.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise SetupError(
            [Fault("", "json", f"not {what}: {str(error)[:80]}; correct the file there")]
        ) from None


def write_setup(setup: Setup) -> Document:
    """The JSON object of a setup; fields at their default are left out.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The JSON object.
    """
    return {"format": FORMAT, "version": setup.version} | write_record(setup)


def setup_schema() -> Document:
    """The JSON Schema of a setup, made from the core's own types.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    return file_schema(FORMAT, Setup)
