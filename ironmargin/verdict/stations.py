"""The stations of the bar: every check of a setup in the order the current flows, each with its
margin and reasons.
"""

from __future__ import annotations

from collections.abc import Iterable

from ironmargin.loads.demand import Demand
from ironmargin.record import record
from ironmargin.verdict.check import Checked, margin_by
from ironmargin.verdict.result import PathRow, StartRow, Sustained
from ironmargin.verdict.sentences import how_often

MOST_KNOWN = 3
HOLDS, THIN, FAILS = "holds", "thin", "fails"
FORMULA = {
    "sustain": "margin = 1 − amps ÷ limit",
    "start": "margin = 1 − the weakest supply (or path, whichever gives first) that still starts "
    "it, found by bisection between a fifth of this one and six times it",
    "path": "margin = 1 − amps ÷ rating, whether or not a breaker protects the part",
    "voltage": "margin = share of the allowed drop that is left",
    "service": "the service brings what the load needs, or it does not",
    "endurance": "margin = 1 − hours wanted ÷ hours it lasts",
    "coincidence": "as for one start, all motors in the same moment; kept out of the iron margin",
}


@record
class Station:
    """One place on the bar: ``state`` is holds, thin or fails; ``reading`` the figure under it;
    ``reasons`` the lines behind it.
    """

    key: str
    check: str
    title: str
    subtitle: str
    margin: float
    state: str
    reading: str
    reasons: tuple[str, ...]
    formula: str


def state_of(margin: float, thin_below: float, fails: bool = False) -> str:
    """The state of one margin."""
    return FAILS if fails or margin < 0 else THIN if margin < thin_below else HOLDS


def _worst(rows: Iterable[Sustained]) -> Sustained | None:
    return min(rows, key=lambda r: r.margin, default=None)


def stations(checked: Checked) -> tuple[Station, ...]:
    """The stations of a check, in the order the current flows."""
    result, thin = checked.result, checked.case.setup.rules.thin_below
    groups: dict[str, list[Sustained]] = {}
    for row in result.sustain:
        groups.setdefault(row.where, []).append(row)
    found: list[Station] = []

    def settled(where: str, title: str) -> None:
        row = _worst(groups.get(where, []))
        if row is None:
            return
        kind = "continuous" if row.note == "continuous" else "running"
        reasons = tuple(f"{r.name}: {r.amps:.1f} A of {r.limit_a:.1f} A" for r in groups[where])
        if where in ("supply", "breaker", "main"):
            reasons += _known_from(checked)
        if where == "supply":
            reasons += tuple(
                f"{s['label']}: {s['continuous_w']:,.0f} W running, "
                f"{s['starting_w']:,.0f} W starting ({s['source']})"
                for s in result.derate
            )
        found.append(
            Station(
                where,
                "sustain",
                title,
                kind,
                row.margin,
                state_of(row.margin, thin),
                f"{row.amps:.1f} of {row.limit_a:.1f} A",
                reasons,
                FORMULA["sustain"],
            )
        )

    for item in result.service:
        found.append(
            Station(
                f"service-{item.load}",
                "service",
                item.name,
                "service",
                -1.0,
                FAILS,
                item.problem.replace("-", " "),
                ("This path cannot feed it at all.",),
                FORMULA["service"],
            )
        )
    settled("supply", "Supply")
    settled("input", "Input limit")
    settled("breaker", "Post breaker" if checked.case.source.kind == "shore" else "Supply breaker")
    found += [_path_station(p, thin) for p in result.path]
    settled("main", "Main breaker")
    found += _leg_stations(checked, thin)
    for where in groups:
        if where.startswith("circuit "):
            settled(where, groups[where][0].name.removesuffix(", continuous").capitalize())
    settled("N", "Neutral")
    for start, started in zip(checked.starts, result.starts, strict=True):
        margin = margin_by(checked.case, start, checked.case.setup.rules.breaker_school)
        demand = checked.case.demands[start.starters[0].demand]
        known = (
            (
                f"locked-rotor amps {demand.plate.lra_a:.0f} A, running "
                f"{demand.plate.rla_a:.1f} A: " + _source_of(demand),
            )
            if demand.plate
            else ()
        )
        found.append(_start_station(started, margin, thin, "start", known))
    if result.coincidence is not None:
        assert checked.together is not None
        school = checked.case.setup.rules.breaker_school
        found.append(
            _start_station(
                result.coincidence,
                margin_by(checked.case, checked.together, school),
                thin,
                "coincidence",
            )
        )
    for gone in result.let_go:
        found.append(
            Station(
                f"lets-go-{gone.load}",
                "voltage",
                gone.name,
                "lets go",
                gone.margin,
                FAILS,
                f"{gone.v:.0f} V",
                (f"offered {gone.v:.0f} V, it holds on down to {gone.lets_go_v:.0f} V",),
                FORMULA["start"],
            )
        )
    volts = min(result.volts, key=lambda v: v.margin, default=None)
    if volts is not None:
        reasons = tuple(
            f"{v.where}: {v.v:.1f} V, at least {v.low_v:.0f} V (ANSI C84.1 range B or EN 50160)"
            for v in result.volts
        )
        state = state_of(volts.margin, thin)
        found.append(
            Station(
                "volts",
                "voltage",
                "Volts",
                "settled",
                volts.margin,
                state,
                f"{volts.v:.1f} V",
                reasons,
                FORMULA["voltage"],
            )
        )
    end = result.endurance
    if end.margin is not None:
        lasts = min(h for h in (end.fuel_h, end.battery_h) if h is not None)
        found.append(
            Station(
                "hours",
                "endurance",
                "Hours",
                f"{checked.case.setup.conditions.target_hours:g} h wanted",
                end.margin,
                state_of(end.margin, thin),
                f"{lasts:.1f} h",
                (f"mean load {end.mean_w:.0f} W",),
                FORMULA["endurance"],
            )
        )
    return tuple(found)


def _source_of(demand: Demand) -> str:
    """Where a motor's locked-rotor amps come from, as words."""
    if demand.plate is not None and demand.plate.lra_typical:
        return "typical"
    return demand.load.provenance.replace("-", " ")


def chance_words(row: StartRow, margin: float = 0.0) -> str:
    """How often a start succeeds, in both layers, as a person would say it.

    Args:
        margin: of the start by the school in force; below nought a motor that gets going breaks a
        rule by it, which is not called starting.
    """
    said = ""
    if row.chance is not None:
        times = f"{row.chance * 100:.0f} times in 100"
        over = margin < 0.0 and row.outcome == "starts"
        said = f"gets going {times}, but not within the limits" if over else f"starts {times}"
    low, high = row.chance_rig_low, row.chance_rig_high
    if low is None or high is None or high - low < 0.05:
        return said
    said += f"; this one rig between {low * 100:.0f} and {high * 100:.0f} in 100"
    return said + (
        ", depending most on its locked-rotor amps: measure them" if row.chance_decided_by else ""
    )


def _leg_stations(checked: Checked, thin: float) -> list[Station]:
    """A station for each leg of two, against the smallest limit it has for hours."""
    rows = checked.result.legs
    if "L2" not in rows:
        return []
    out = []
    for name in ("L1", "L2"):
        row = rows[name]
        if row.limit_a is None or checked.case.feed.upstream.tied:
            continue
        mean_a = abs(getattr(checked.now.mean, {"L1": "i1", "L2": "i2"}[name]))
        margin = 1.0 - mean_a / row.limit_a
        reasons = [
            f"{row.a:.1f} A with everything on, {mean_a:.1f} A over the duty cycles, "
            f"against {row.limit_a:.1f} A for hours"
        ]
        if row.lost_neutral_v is not None:
            reasons.append(f"if the neutral opened this leg would see {row.lost_neutral_v:.0f} V")
        out.append(
            Station(
                f"leg-{name}",
                "leg",
                f"Leg {name}",
                "settled",
                margin,
                state_of(margin, thin),
                f"{mean_a:.1f} of {row.limit_a:.1f} A",
                (*reasons, *_known_from(checked, {"L1": 0, "L2": 1}[name])),
                FORMULA["sustain"],
            )
        )
    return out


def _known_from(checked: Checked, leg: int | None = None) -> tuple[str, ...]:
    """Where the larger draws come from, largest first."""
    on = [d for d in checked.case.demands if leg is None or d.leg in (leg, 2)]
    largest = sorted(on, key=lambda d: -sum(x.amps for x in d.steady))[:MOST_KNOWN]
    return tuple(
        f"{d.load.name} {sum(x.amps for x in d.steady):.1f} A: "
        f"{d.load.provenance.replace('-', ' ')}"
        for d in largest
    )


def _path_station(part: PathRow, thin: float) -> Station:
    reasons = [
        f"{part.amps:.1f} A on a rating of {part.rating_a:.0f} A",
        f"drops {part.volts_drop:.1f} V",
    ]
    if part.unprotected:
        reasons.append("no breaker before it protects it: only your own attention does")
    if part.contact_w:
        reasons.append(f"{part.contact_w:.0f} W of heat in a bad contact")
    return Station(
        f"path-{part.item}",
        "path",
        part.name[:1].upper() + part.name[1:],
        "no breaker" if part.unprotected else "path",
        part.margin,
        state_of(part.margin, thin),
        f"{part.amps:.1f} of {part.rating_a:.0f} A",
        tuple(reasons),
        FORMULA["path"],
    )


def _start_station(
    row: StartRow, margin: float, thin: float, check: str, known: tuple[str, ...] = ()
) -> Station:
    fails = row.outcome != "starts"
    reading = (
        f"{row.lowest_v:.0f} V, {row.seconds:.1f} s"
        if row.seconds is not None and not fails
        else f"{row.outcome}, {row.lowest_v:.0f} V"
    )
    reasons = [
        f"a stiff supply would see {row.wanted_a:.1f} A; this one gives at most "
        f"{row.peak_a:.1f} A and dips to {row.lowest_v:.1f} V"
    ]
    reasons += known
    if row.chance is not None and row.chance_low is not None and row.chance_high is not None:
        reasons.append(chance_words(row, margin))
    if row.gives_first == "path":
        reasons.append("the cords and contacts on the way give first, not the supply")
    if row.islands:
        reasons.append(
            "near its edge the outcome changes back and forth: do not count on the last "
            "few per cent"
        )
    if row.restart_within_3_min is not None:
        reasons.append(
            f"restarted at once, before pressures equalise: {row.restart_within_3_min}; "
            "wait three to five minutes"
        )
    if row.straight_to_high is not None:
        reasons.append(f"knocked straight from off to high: {row.straight_to_high}")
    if row.per_night:
        reasons.append(f"{how_often(row.per_night)} of ten hours; order and waits avoid it")
    title, subtitle = (row.name, "start") if check == "start" else ("All at once", "same moment")
    return Station(
        f"{check}-{row.load}",
        check,
        title,
        subtitle,
        margin,
        state_of(margin, thin, fails),
        reading,
        tuple(reasons),
        FORMULA[check],
    )
