"""The pitch of a setup from above: what is asked of it, and its drawing."""

from __future__ import annotations

from dataclasses import dataclass, replace
from urllib.parse import urlencode

from django.http import QueryDict

from ironmargin.enduring.found import Lasting
from ironmargin.enduring.noise import SLEEP_DBA, UNIT_DBA, WALL_DB, added
from ironmargin.enduring.pitch import CARBON_MONOXIDE_M, USUAL_CORD_M, Pitch, Place, propose
from ironmargin.setup.hookup import Cord
from ironmargin.setup.loads import AirConditioner
from ironmargin.setup.model import Setup
from web.design.context import Context
from web.design.fields import from_units, in_units
from web.design.typed import typed_figure

LEVELS = range(80, 34, -5)
HALF, MARGIN, FURTHEST_EAR_M, FURTHEST_SET_M = 150.0, 12.0, 500.0, 30.0
WAYS = {
    0: "right, at the neighbor",
    45: "right and back",
    90: "back",
    135: "left and back",
    180: "left",
    225: "left and front",
    270: "front",
    315: "right and front",
}


@dataclass(frozen=True)
class Ring:
    """A line of equal loudness: its level, path data, where its label stands, whether it is over
    the site's limit.
    """

    dba: int
    path: str
    label: Place
    over: bool


@dataclass(frozen=True)
class Plan:
    """A pitch drawn: metres times ``scale`` about the box's middle."""

    pitch: Pitch
    scale: float
    middle: Place

    def at(self, spot: Place) -> Place:
        """Where a spot of the pitch lies in the drawing; back is up."""
        return (
            round((spot[0] - self.middle[0]) * self.scale, 1),
            round(-(spot[1] - self.middle[1]) * self.scale, 1),
        )

    def line(self, spots: list[Place]) -> str:
        """A closed line through spots."""
        return "M" + "L".join(f"{x} {y}" for x, y in map(self.at, spots)) + "Z"


def requested(setup: Setup, found: Lasting, query: QueryDict, units: str) -> Pitch | None:
    """The pitch as the fields say; what cannot be read stays as the setup has it."""
    if found.sound is None:
        return None

    def metres(name: str, usual: float, minimum: float, maximum: float) -> float:
        typed = typed_figure(query.get(name))
        value = usual if typed is None else from_units(typed, "m", units)
        return min(max(value, minimum), maximum)

    turned = typed_figure(query.get("exhaust"))
    return Pitch(
        found.sound,
        (metres("ear", setup.site.neighbour_m, 1.0, FURTHEST_EAR_M), 0.0),
        (
            metres("across", 0.0, -FURTHEST_SET_M, FURTHEST_SET_M),
            metres("back", 0.0, -FURTHEST_SET_M, FURTHEST_SET_M),
        ),
        turned if turned in WAYS else 90.0,
    )


def cord_m(setup: Setup) -> float:
    """How far the set may stand from the rig by the cords of its path [m]."""
    cords = [item.length_m for item in setup.hookup if isinstance(item, Cord)]
    return sum(cords) or USUAL_CORD_M


def drawn(setup: Setup, found: Lasting, query: QueryDict, units: str) -> Context | None:
    """Everything the section shows: rings each 5 dB, the marks, a place that keeps the limit."""
    pitch = requested(setup, found, query, units)
    if pitch is None:
        return None
    limit = setup.site.limit_dba
    plan = _plan(pitch)
    there, at_rig = pitch.at_ear(), pitch.at_rig()
    x, y = pitch.rig.middle
    wide, long = pitch.rig.wide_m / 2, pitch.rig.long_m / 2
    walls = [(x - wide, y - long), (x + wide, y - long), (x + wide, y + long), (x - wide, y + long)]
    better = propose(pitch, limit, cord_m(setup))
    per_m = in_units(1.0, "m", units)[0]
    return {
        "rings": _rings(plan, limit),
        "limit_line": plan.line(pitch.ring(limit)),
        "set": plan.at(pitch.place),
        "exhaust": pitch.exhaust_deg,
        "turn": -pitch.exhaust_deg,
        "rig": plan.line(walls),
        "rig_label": plan.at((x, y - long - 1.5)),
        "ear": plan.at(pitch.ear),
        "there": there,
        "limit": limit,
        "keeps": there <= limit,
        "to_ear_m": pitch.to_ear_m(),
        "from_rig_m": pitch.from_rig_m(),
        "too_near": pitch.from_rig_m() < CARBON_MONOXIDE_M,
        "safe_m": CARBON_MONOXIDE_M,
        "inside": {words: at_rig - takes for words, takes in WALL_DB.items()},
        "sleep": sleep_words(setup, at_rig),
        "loud": [(when, replace(pitch, sound=s).at_ear()) for when, s in found.loud],
        "ways": WAYS.items(),
        "scale": round(plan.scale, 4),
        "per_m": round(per_m, 5),
        "fields": _fields(pitch, per_m),
        "better": _better(pitch, better, limit, cord_m(setup), per_m),
        "cord_m": cord_m(setup),
    }


def sleep_words(setup: Setup, at_rig_dba: float) -> str:
    """Whether one can sleep: the set through the wall and the units in the room, together."""
    wanted = {w.load for w in setup.wanted}
    units = [x for x in setup.rig.loads if isinstance(x, AirConditioner) and x.id in wanted]
    loudest = max((x.inside_dba or UNIT_DBA for x in units), default=0.0)
    through = at_rig_dba - WALL_DB["shut"]
    whole = added([through, loudest]) if units else through
    heard = f"the generator {through:.0f} dBA through the wall"
    if units:
        kind = "measured" if any(x.inside_dba for x in units) else "typical"
        heard += f", an air conditioner {loudest:.0f} ({kind})"
    if whole <= SLEEP_DBA:
        return f"In bed, windows shut: {whole:.0f} dBA ({heard}). Most people sleep at that."
    louder = "the air conditioner" if loudest > through else "the set"
    return (
        f"In bed, windows shut: {whole:.0f} dBA ({heard}). Many sleep badly above "
        f"{SLEEP_DBA:.0f}; it is {louder} you hear."
    )


def _plan(pitch: Pitch) -> Plan:
    """Rig, set and ear in the box, and some of the rings around the set."""
    spots = (pitch.ear, pitch.place, pitch.rig.middle, (pitch.rig.middle[0] - 4.0, 0.0))
    low = [min(s[n] for s in spots) for n in (0, 1)]
    high = [max(s[n] for s in spots) for n in (0, 1)]
    room = max(high[0] - low[0], high[1] - low[1], 12.0)
    middle = ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
    return Plan(pitch, 2 * (HALF - 2 * MARGIN) / room, middle)


def _rings(plan: Plan, limit: float) -> list[Ring]:
    found = []
    for dba in LEVELS:
        spots = plan.pitch.ring(dba)
        label = plan.at(max(spots, key=lambda s: s[1]))
        widest = max(abs(v) for s in spots for v in plan.at(s))
        clear = plan.at(plan.pitch.place)[1] - label[1] > 24.0  # of the set's own mark
        if clear and abs(label[1]) < HALF - 4 and widest < 4 * HALF:
            found.append(Ring(dba, plan.line(spots), label, dba > limit))
    # Labels of small rings would lie on one another.
    stored: list[Ring] = []
    for ring in reversed(found):
        if not stored or abs(stored[-1].label[1] - ring.label[1]) >= 11:
            stored.append(ring)
    return stored


def _fields(pitch: Pitch, per_m: float) -> dict[str, str]:
    return {
        "ear": f"{pitch.ear[0] * per_m:.0f}",
        "across": f"{pitch.place[0] * per_m:.0f}",
        "back": f"{pitch.place[1] * per_m:.0f}",
    }


def _moves(place: Place) -> list[tuple[float, str]]:
    """A place as a person says it: so far to the left, so far back."""
    ways = (("to the right", "to the left"), ("back", "to the front"))
    return [(abs(v), ways[n][v < 0]) for n, v in enumerate(place) if abs(v) > 0.1]


def _better(pitch: Pitch, better: Pitch, limit: float, cord: float, per_m: float) -> Context | None:
    """The place proposed and how to say it; None where the set already stands well."""
    # What the fields can say: whole metres or feet.
    rounded = replace(
        better,
        place=(round(better.place[0] * per_m) / per_m, round(better.place[1] * per_m) / per_m),
    )
    if pitch.at_ear() <= limit and pitch.from_rig_m() >= min(CARBON_MONOXIDE_M, cord - 1.0):
        return None
    if rounded.place == pitch.place and rounded.exhaust_deg == pitch.exhaust_deg:
        return None
    return {
        "query": urlencode(_fields(rounded, per_m) | {"exhaust": int(rounded.exhaust_deg)}),
        "moves": _moves(rounded.place),
        "way": WAYS[int(rounded.exhaust_deg)],
        "there": rounded.at_ear(),
        "keeps": rounded.at_ear() <= limit,
    }
