"""A bench run as JSON, as CSV and in lines for the terminal."""

from __future__ import annotations

from ironmargin.bench.clock import Bench
from ironmargin.document import Document
from ironmargin.enduring.fuel import on_board_wh
from ironmargin.limits.coincidence import how_often
from ironmargin.verdict.check import examine

BENCH_FORMAT = "iron-margin/bench"
COLUMNS = ("time_s", "l1_a", "l2_a", "volts_v", "watts_w", "room_c", "soc", "fuel_wh", "heat")
PLACES = (3, 2, 2, 1, 0, 2, 4, 0, 3)
STORES = (6, 7)
"""Columns of charge and fuel, which not every supply has."""


def fuel_share(bench: Bench) -> float | None:
    """What is left of the tank or cylinder [1].

    Args:
        bench: the bench and all that happened on it.

    Returns:
        The share [1]; None where nothing runs dry.
    """
    boards = [on_board_wh(u, u.fuel) for u in bench.setup.supply.engines]
    full = [b[1] for b in boards if b is not None]
    if bench.state.fuel_wh is None or not full:
        return None
    return bench.state.fuel_wh / min(full)


def ended(bench: Bench) -> Document:
    """How a bench stands now.

    Args:
        bench: the bench and all that happened on it.

    Returns:
        Clock, charge, fuel, what is on.
    """
    state = bench.state
    out: Document = {
        "at_s": round(state.t_s, 3),
        "running": [x for x, one in state.loads.items() if one.running],
        "compressors": [x for x, one in state.loads.items() if one.compressor],
        "held": {x: one.held for x, one in state.loads.items() if one.held},
        "open": sorted(
            [where for where, on in state.open.items() if on]
            + (["set"] if state.locked_out else [])
            + (["guard"] if state.guard_s is not None else [])
        ),
        "set_on": state.set_on,
        "kwh": round(state.given_wh / 1000.0, 4),
        "loads_kwh": round(state.loads_wh / 1000.0, 4),
        "lost_kwh": round(state.lost_wh / 1000.0, 4),
        "room_c": round(state.room_c, 2),
        "outdoor_c": round(state.outdoor_c, 2),
    }
    share = fuel_share(bench)
    if share is not None:
        out["fuel"] = round(share, 4)
    if state.litres:
        out["litres"] = round(state.litres, 3)
    if state.soc is not None:
        out["soc"] = round(state.soc, 4)
    if state.cylinder_kg is not None:
        out["cylinder_c"] = round(state.cylinder_c, 2)
    if state.cost:
        out["cost"] = round(state.cost, 4)
    return out


def _used(bench: Bench) -> list[int]:
    """The columns that say anything on this bench."""
    first = bench.rows[0] if bench.rows else (0.0,) * len(COLUMNS)
    return [n for n in range(len(COLUMNS)) if n not in STORES or first[n] >= 0.0]


def series(bench: Bench) -> dict[str, list[float]]:
    """The series as columns.

    Args:
        bench: a run.

    Returns:
        Figures over time, by column of the open format.
    """
    return {COLUMNS[n]: [round(row[n], PLACES[n]) for row in bench.rows] for n in _used(bench)}


def night_odds(bench: Bench) -> list[Document]:
    """What the check says of a night of each unit that cycles: its starts, and how many of them
    fail on average.

    Args:
        bench: a run.

    Returns:
        Load, starts and failures of each.
    """
    checked = examine(bench.setup)
    found = []
    for start in checked.starts:
        if start.night is not None:
            load = checked.case.demands[start.starters[0].demand].load.id
            night = start.night
            found.append(
                {"load": load, "starts": round(night.starts, 1), "fails": round(night.fails, 3)}
            )
    return found


def bench_json(bench: Bench) -> Document:
    """The JSON object of a bench run.

    Args:
        bench: the bench and all that happened on it.

    Returns:
        The JSON object, with its events and series.
    """
    return {
        "format": BENCH_FORMAT,
        "version": 1,
        "seed": bench.seed,
        "events": [e.plain() for e in bench.events],
        "night": night_odds(bench),
        "series": series(bench),
        "ended": ended(bench),
    }


def bench_csv(bench: Bench) -> str:
    """The series as CSV.

    Args:
        bench: the bench and all that happened on it.

    Returns:
        A row a step, with a heading.
    """
    columns = _used(bench)
    lines = [",".join(COLUMNS[n] for n in columns)]
    lines += [",".join(f"{row[n]:.{PLACES[n]}f}" for n in columns) for row in bench.rows]
    return "\n".join(lines) + "\n"


def clock_words(seconds: float) -> str:
    """A moment of a run as hours, minutes and seconds.

    Args:
        seconds: since the run began [s].

    Returns:
        As h:mm:ss.s.
    """
    whole = int(seconds)
    return f"{whole // 3600}:{whole % 3600 // 60:02d}:{seconds % 60:04.1f}"


def bench_words(bench: Bench) -> str:
    """The events of a run, and how it ended.

    Args:
        bench: the bench and all that happened on it.

    Returns:
        Lines for the terminal.
    """
    lines = [f"{clock_words(e.at_s):>10}  {e.kind:<12} {e.where:<14} {e.why}" for e in bench.events]
    end = ended(bench)
    running = ", ".join(end["running"]) or "nothing"
    open_ = f"; open: {', '.join(end['open'])}" if end["open"] else ""
    for odds in night_odds(bench):
        lines.append(
            f"Over a night {odds['load']} starts about {odds['starts']:.0f} times and fails "
            f"{how_often(odds['fails'])}."
        )
    lines.append(f"At the end {running} runs{open_}; {end['kwh']:.2f} kWh.")
    lines.append("A simulation, not an approval.")
    return "\n".join(lines)
