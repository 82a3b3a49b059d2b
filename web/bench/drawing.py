"""What the bench's page draws: the strip of the last minutes, and how full everything is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ironmargin.bench.clock import Bench
from ironmargin.bench.settled import Dead, Now, part_shares, watches
from ironmargin.bench.words import ended, fuel_share
from ironmargin.electrics.services import hertz_of, nominal_of
from ironmargin.setup.loads import COOLING_MODES, AirConditioner
from web.design.context import Context
from web.design.drawing import bar

WIDTH, HEIGHT = 600.0, 120.0
STRIP_S = 180.0


@dataclass(frozen=True)
class Strip:
    """Amps and volts of the last minutes as path data, with the ends of their axes."""

    amps: str
    volts: str
    max_a: float
    max_v: float
    seconds: float


@dataclass(frozen=True)
class Fill:
    """How full something is: heat of a breaker, amps of a path part, fuel, charge."""

    key: str
    name: str
    share: float
    words: str
    open: bool = False

    @property
    def width(self) -> float:
        """Length of the drawn fill, of a hundred."""
        return round(100.0 * min(max(self.share, 0.0), 1.0), 1)

    @property
    def state(self) -> str:
        """Its state in one of the three words."""
        return "fails" if self.share >= 1.0 else "thin" if self.share >= 0.85 else "holds"


def strip(bench: Bench) -> Strip:
    """The strip of the last minutes; quiet spans are steps, starts as they were."""
    end = bench.state.t_s
    start = max(end - STRIP_S, 0.0)
    rows = [r for r in bench.rows if r[0] >= start] or [(end, *([0.0] * 8))]
    max_a = max(max(max(r[1], r[2]) for r in rows) * 1.1, 10.0)
    max_v = 150.0 if max(r[3] for r in rows) < 160 else 280.0
    span = max(end - start, 1.0)

    def path(value: Callable[[tuple[float, ...]], float], maximum: float) -> str:
        points: list[str] = []
        last = 0.0
        for r in rows:
            x, y = WIDTH * (r[0] - start) / span, HEIGHT * (1.0 - value(r) / maximum)
            if points and r[0] - last > 1.0:
                points.append(f"{x:.1f} {points[-1].split()[1]}")
            points.append(f"{x:.1f} {y:.1f}")
            last = r[0]
        return "M" + "L".join(points)

    return Strip(
        path(lambda r: max(r[1], r[2]), max_a), path(lambda r: r[3], max_v), max_a, max_v, span
    )


def fills(bench: Bench, now: Now | Dead) -> dict[str, list[Fill]]:
    """Breakers by heat, path parts by amps, stores by what is left."""
    state = bench.state
    found: dict[str, list[Fill]] = {"breakers": [], "path": [], "stores": []}
    case = now.case if isinstance(now, Now) else bench.panel.case(state)
    for watch in watches(case, now.amps, now.circuits):
        heat = state.heat.get(watch.key, 0.0) / watch.full
        is_open = bool(state.open.get(watch.where))
        name = watch.where if "/" not in watch.key else f"{watch.where}, L{int(watch.key[-1]) + 1}"
        words = f"{watch.amps:.1f} A of {watch.rating_a:g} A"
        found["breakers"].append(Fill(watch.where, name, heat, words, is_open))
    carried = part_shares(now) if isinstance(now, Now) else {}
    for part in case.feed.parts:
        amps, share = carried.get(part.item, (0.0, 0.0))
        words = f"{amps:.1f} A of {part.rating_a:g} A"
        found["path"].append(Fill(str(part.item), part.name, share, words))
    fuel = fuel_share(bench)
    if fuel is not None:
        found["stores"].append(Fill("fuel", "Fuel", fuel, f"{fuel * 100:.0f} %"))
    if state.soc is not None:
        found["stores"].append(Fill("soc", "Charge", state.soc, f"{state.soc * 100:.0f} %"))
    return found


def panel(bench: Bench) -> Context:
    """Everything the page shows of a bench."""
    state = bench.state
    now = bench.now()
    loads = []
    for load in bench.setup.rig.loads:
        one = state.loads[load.id]
        says = (
            {"let-go": "dropped out", "stalled": "stalled, tries again"}.get(one.held, one.held)
            if one.held
            else "running"
            if one.compressor or (one.running and not isinstance(load, AirConditioner))
            else "fan only"
            if one.running
            else "waits for power"
            if one.on
            else "off"
        )
        loads.append(
            {
                "id": load.id,
                "name": load.name,
                "on": one.on,
                "mode": one.mode,
                "modes": COOLING_MODES if isinstance(load, AirConditioner) else (),
                "says": says,
            }
        )
    full = fills(bench, now)
    line = [
        (f.key, -1.0 if f.open else 1.0 - f.share, "fails" if f.open else f.state)
        for f in (*full["breakers"], *full["path"])
    ]
    amps = (*now.amps, 0.0)[:2] if len(now.amps) > 1 else now.amps
    return {
        "state": state,
        "amps": amps,
        "volts": now.volts,
        "watts": now.given_w,
        "hertz": hertz_of(nominal_of(bench.setup.rig.service)),
        "loads": loads,
        "line": bar(line, 900.0, 44.0),
        "line_names": [f.name for f in (*full["breakers"], *full["path"])],
        "strip": strip(bench),
        "ended": ended(bench),
        "engine": bool(bench.setup.supply.carrying),
        "shore": bench.setup.supply.post is bench.setup.supply,
        **full,
    }
