"""The stock file: what there is to live on for some days, and what is to run how long each day."""

from __future__ import annotations

from os import PathLike

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.record import record
from ironmargin.setup.engines import FUELS
from ironmargin.setup.fields import choice, given, number, text
from ironmargin.setup.loads import COOLING_MODES
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import json_of
from ironmargin.setup.records import Many, Record, file_schema, read_record
from ironmargin.setup.spec import INVALID, Anything, Faults

STOCK_FORMAT = "iron-margin/stock"
LONGEST_DAYS = 60


@record(kw_only=True)
class Use:
    """One load, and how many hours a day it is to run."""

    load: str = text("The load", maximum=60, filled=True)
    mode: str | None = choice("Mode of an air conditioner", COOLING_MODES, default=None)
    hours: float = number("h", "Hours a day wanted", minimum=0, maximum=24)
    min_hours: float = number("h", "Hours a day it must have", minimum=0, maximum=24, default=0.0)
    priority: str | None = choice(
        "How badly; the load's own if not said", ("must", "want", "wait"), default=None
    )


@record(kw_only=True)
class Sun:
    """Solar modules as a plain curve: peak watts over hours of full sun; tilt and shade ignored."""

    peak_w: float = number("W", "Peak watts", minimum=0, maximum=1e6)
    sun_h: float = number("h", "Hours of full sun a day", minimum=0, maximum=14, default=4.5)


@record(kw_only=True)
class Stock:
    """What there is."""

    format: str = choice("Always iron-margin/stock", (STOCK_FORMAT,), default=STOCK_FORMAT)
    version: int = number("1", "Version of the format", minimum=1, maximum=1, default=1, whole=True)
    name: str = text("What you call it", default="", maximum=200)
    days: int = number("1", "Days it is to last", minimum=1, maximum=LONGEST_DAYS, whole=True)
    fuel: str | None = choice("Fuel in stock; the generator's own if not said", FUELS, default=None)
    litres: float | None = number("l", "Fuel", minimum=0, maximum=1e5, default=None)
    kg: float | None = number("kg", "Propane by weight", minimum=0, maximum=1e5, default=None)
    generator_hours: float = number(
        "h", "Most hours a day the generator may run", minimum=0, maximum=24, default=24.0
    )
    charge_w: float | None = number(
        "W", "What the charger takes at bulk", above=0, maximum=1e5, default=None
    )
    solar: Sun | None = given(Record("Solar", None, Sun), default=None)
    loads: tuple[Use, ...] | None = given(
        Many(
            "What is to run; else everything wanted, by its duty", None, Record(of=Use), maximum=100
        ),
        default=None,
    )
    x: Document = given(Anything("Kept and ignored"), default={})


def read_stock(data: object, setup: Setup) -> Stock:
    """Turn parsed JSON into a stock for a setup.

    Args:
        data: parsed JSON, from anywhere.
        setup: supply, path, rig and rules of the question.

    Returns:
        The stock.

    Raises:
        SetupError: with every fault found.
    """
    faults: Faults = []
    found = read_record(Stock, data, "", faults)
    if found is not INVALID:
        known = {load.id for load in setup.rig.loads}
        for at, use in enumerate(found.loads or ()):
            if use.load not in known:
                rule = "must be one of the rig's loads"
                faults.append(
                    Fault(f"loads[{at}].load", "no-such-load", f'{rule} (got "{use.load}")')
                )
            if use.min_hours > use.hours:
                rule = f"must be at most the {use.hours:g} h wanted"
                got = f"{use.min_hours:g}"
                faults.append(Fault(f"loads[{at}].min_hours", "most", f"{rule} (got {got})"))
        if found.kg is not None and (found.fuel or "propane") != "propane":
            faults.append(Fault("kg", "fuel", f"only propane goes by weight (got {found.fuel})"))
    if faults:
        raise SetupError(faults)
    stock: Stock = found
    return stock


def load_stock(path: str | PathLike[str], setup: Setup) -> Stock:
    """Read a stock file.

    Args:
        path: of the file.
        setup: supply, path, rig and rules of the question.

    Returns:
        The stock.

    Raises:
        SetupError: the file cannot be opened or is no stock.
    """
    return read_stock(json_of(path, "a stock"), setup)


def stock_schema() -> Document:
    """The JSON Schema of a stock, made from the core's own types.

    Returns:
        A JSON Schema, draft 2020-12.
    """
    return file_schema(STOCK_FORMAT, Stock)
