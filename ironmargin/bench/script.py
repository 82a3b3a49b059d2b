"""The script of a bench run: what is done to the rig, and when."""

from __future__ import annotations

from os import PathLike

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.fields import choice, flag, given, number, text
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import json_of
from ironmargin.setup.records import Many, Record, file_schema, read_record, write_record
from ironmargin.setup.spec import INVALID, Anything, Faults

BREAKER_EDGES = ("early", "nominal", "late")
SCRIPT_FORMAT = "iron-margin/script"
LONGEST_H = 24.0 * 7
ACTS = (
    "set",
    "breaker",
    "load",
    "eco",
    "reset",
    "outdoor",
    "volts",
    "neighbour",
    "altitude",
    "neutral",
    "fuel",
    "soc",
    "contact",
)
"""What may be done. The last eight are what the world does: heat, volts at the post, another load
on its feeder, height, a lost neutral, what is left in tank or cylinder and battery, a contact of
the path that has become hot.
"""
RAMPED = ("outdoor", "volts", "neighbour")
"""What may come slowly, over some time: a hot day, an evening's sagging post, a neighbour."""
BREAKERS = ("post", "supply", "main", "set-outlet", "charger")
NEEDS_FIGURE = ("outdoor", "volts", "neighbour", "altitude", "fuel", "soc")
RANGES = {
    "volts": (60.0, 300.0, " V"),
    "outdoor": (-40.0, 60.0, " °C"),
    "neighbour": (0.0, 400.0, " A"),
    "fuel": (0.0, 1.0, ""),
    "soc": (0.0, 1.0, ""),
}
"""What figures may be changed to, with their unit."""


@record(kw_only=True)
class Begin:
    """How the rig stands at the beginning."""

    all: str = choice(
        "Cold, or with everything the setup wants", ("off", "as-wanted"), default="off"
    )
    soc: float | None = number("1", "State of charge", minimum=0, maximum=1, default=None)
    fuel: float = number("1", "Share of the tank or cylinder", minimum=0, maximum=1, default=1.0)
    room_c: float | None = number("°C", "Inside", minimum=-30, maximum=60, default=None)
    breakers: str = choice(
        "Which edge of its band every breaker trips at that is not known to trip early or late",
        BREAKER_EDGES,
        default="nominal",
    )


@record(kw_only=True)
class Act:
    """One thing done."""

    at_s: float = number("s", "When", minimum=0, maximum=LONGEST_H * 3600)
    do: str = choice("What", ACTS)
    what: str | None = text("Which breaker, load or part", default=None, maximum=60)
    on: bool | None = flag("On or off", default=None)
    mode: str | None = choice("Mode of an air conditioner", COOLING_MODES, default=None)
    figure: float | None = number(
        "1",
        "The figure of what the world does [°C, V, A, m, 1]",
        minimum=-430,
        maximum=6000,
        default=None,
    )
    over_s: float = number(
        "s", "Comes slowly, over so long", minimum=0, maximum=LONGEST_H * 3600, default=0.0
    )


@record(kw_only=True)
class Script:
    """What is done to a rig over some hours."""

    format: str = choice("Always iron-margin/script", (SCRIPT_FORMAT,), default=SCRIPT_FORMAT)
    version: int = number("1", "Version of the format", minimum=1, maximum=1, default=1, whole=True)
    name: str = text("What you call it", default="", maximum=200)
    hours: float = number("h", "How long it runs", above=0, maximum=LONGEST_H, default=8.0)
    seed: int = number(
        "1", "Seed of the cycles", minimum=0, maximum=2**31 - 1, default=1, whole=True
    )
    begin: Begin = given(Record("How it stands", None, Begin), default=Begin())
    steps: tuple[Act, ...] = given(
        Many("What is done", None, Record(of=Act), maximum=2000), default=()
    )
    x: Document = given(Anything("Kept and ignored"), default={})


def act_faults(act: Act, path: str, setup: Setup) -> Faults:
    """What keeps an act from being one on this rig.

    Args:
        act: the act.
        path: where it stands in the file, for faults.
        setup: supply, path, rig and rules of the question.

    Returns:
        The faults; empty for a good act.
    """
    faults: Faults = []

    def fault(field: str, code: str, rule: str, got: object) -> None:
        faults.append(Fault(f"{path}.{field}", code, f"{rule} (got {got})"))

    loads = {load.id: load for load in setup.rig.loads}
    breakers = {*BREAKERS, *(c.id for c in setup.rig.circuits)}
    if act.do == "load":
        if act.what not in loads:
            fault("what", "no-such-load", "must be one of the rig's loads", act.what)
        elif act.mode is not None and not isinstance(loads[act.what], AirConditioner):
            fault("mode", "no-mode", "only an air conditioner has modes", act.mode)
        if act.mode is None and act.on is None:
            fault("on", "missing", "must say on or a mode", "nothing")
    elif act.do == "breaker":
        if act.what not in breakers:
            fault("what", "where", f"must be one of {', '.join(sorted(breakers))}", act.what)
        if act.on is None:
            fault("on", "missing", "must be given", "nothing")
    elif act.do == "reset":
        places = {*breakers, "set", "guard", "contact"}
        if act.what not in places:
            fault("what", "where", f"must be one of {', '.join(sorted(places))}", act.what)
    elif act.do == "contact":
        if act.what is None or not act.what.isdigit() or int(act.what) >= len(setup.hookup):
            fault("what", "where", "must be the number of a part of the path", act.what)
    elif act.do in ("set", "eco", "neutral") and act.on is None:
        fault("on", "missing", "must be given", "nothing")
    elif act.do in NEEDS_FIGURE and act.figure is None:
        fault("figure", "missing", "must be given", "nothing")
    elif act.do in RANGES and act.figure is not None:
        low, high, unit = RANGES[act.do]
        if not low <= act.figure <= high:
            fault("figure", "range", f"must be {low:g} to {high:g}{unit}", act.figure)
    return faults


def read_script(data: object, setup: Setup) -> Script:
    """Turn parsed JSON into a script for a setup; acts are put in the order of their time.

    Args:
        data: parsed JSON, from anywhere.
        setup: supply, path, rig and rules of the question.

    Returns:
        The script.

    Raises:
        SetupError: with every fault found.
    """
    faults: Faults = []
    found = read_record(Script, data, "", faults)
    if found is not INVALID:
        for at, act in enumerate(found.steps):
            faults += act_faults(act, f"steps[{at}]", setup)
    if faults:
        raise SetupError(faults)
    script: Script = found
    return script


def load_script(path: str | PathLike[str], setup: Setup) -> Script:
    """Read a script file.

    Args:
        path: of the file.
        setup: supply, path, rig and rules of the question.

    Returns:
        The script.

    Raises:
        SetupError: the file cannot be opened or is no script of this setup.
    """
    return read_script(json_of(path, "a script"), setup)


def write_script(script: Script) -> Document:
    """The JSON object of a script; fields at their default are left out.

    Args:
        script: of a run of the bench.

    Returns:
        The open format's object; reading it gives the same script.
    """
    return {"format": SCRIPT_FORMAT, "version": script.version} | write_record(script)


def script_schema() -> Document:
    """The JSON Schema of a script, made from the core's own types.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    return file_schema(SCRIPT_FORMAT, Script)
