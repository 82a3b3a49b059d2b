"""Typical loads offered while a rig is filled, by what they are and then by size."""

from __future__ import annotations

from functools import cache

from ironmargin.document import Document
from ironmargin.tables import rows
from web.rigs.pool import published, words_of

Named = tuple[tuple[str, str], ...]

MOTORS = "Pump or other motor"
KINDS = {
    "air-conditioner": "Air conditioner",
    "resistive": "Heater, kitchen, laundry",
    "microwave": "Microwave oven",
    "charger": "Charger",
    "electronic": "Electronics and fans",
    "incandescent": "Filament lamps",
    "motor": MOTORS,
}
"""What a person says a load is, for each kind."""
COOLING = ("condenser-", "heat-pump-")
HORSEPOWER = ("1/2", "3/4", "1", "1.5", "2", "3")
PUMP_DUTY = 0.2


@cache
def sized_motors() -> dict[str, Document]:
    """Motors nobody knows more of than their horsepower: full-load and locked-rotor amps of NEC
    tables 430.248 and 430.251(A), by key.
    """
    full = {r["hp"]: r for r in rows("motor_full_load")}
    locked = {r["hp"]: r for r in rows("motor_locked_rotor")}
    found = {}
    for volts, column in ((120, "115v"), (240, "230v")):
        for hp in HORSEPOWER:
            key = f"motor-{hp.replace('/', '-').replace('.', '-')}hp-{volts}"
            found[key] = {
                "name": f"Motor or pump, {hp} hp, {volts} V",
                "kind": "motor",
                "from": "typical",
                "running_a": float(full[hp][f"amps_{column}"]),
                "lra_a": float(locked[hp][f"lra_{column}"]),
                "start": "start-capacitor",
                "duty": PUMP_DUTY,
            } | ({"voltage_v": 240.0} if volts == 240 else {})
    return found


def groups() -> tuple[tuple[str, Named], ...]:
    """Typical loads by what they are: (words, (key, name) of each), with what measured units have
    in common where enough stand behind it.
    """
    known = published()
    if not known:
        return printed()
    return tuple(
        (
            words,
            tuple(
                (key, f"{name}: {words_of(known[key])}" if key in known else name)
                for key, name in some
            ),
        )
        for words, some in printed()
    )


@cache
def printed() -> tuple[tuple[str, Named], ...]:
    """The typical loads of the printed table, by what they are."""
    by: dict[str, list[tuple[str, str]]] = {words: [] for words in KINDS.values()}
    for r in rows("typical_loads"):
        cools = r["key"].startswith(COOLING)
        words = KINDS["air-conditioner" if cools else r["kind"]]
        by[words].append((r["key"], r["name"]))
    by[MOTORS] += [(key, one["name"]) for key, one in sized_motors().items()]
    return tuple((words, tuple(some)) for words, some in by.items())


@cache
def loads() -> Named:
    """(key, name) of the typical loads."""
    return tuple(one for _, some in printed() for one in some)


def load_document(key: str, taken: set[str]) -> Document | None:
    """A typical load as the format has it, under an id that is not taken."""
    out = sized_motors().get(key) or _tabled(key)
    if out is None:
        return None
    ident = next(i for i in (key, *(f"{key}-{n}" for n in range(2, 300))) if i not in taken)
    return {"id": ident} | out


def _tabled(key: str) -> Document | None:
    for r in rows("typical_loads"):
        if r["key"] != key:
            continue
        out: Document = {
            "name": r["name"][:1].upper() + r["name"][1:],
            "kind": r["kind"],
            "from": "typical",
        }
        if float(r["voltage_v"]) != 120.0:
            out["voltage_v"] = float(r["voltage_v"])
        for name in ("watts", "running_a", "lra_a", "fan_high_a", "duty"):
            if r[name]:
                out[name] = float(r[name])
        pooled = published().get(key)
        if pooled is not None and r["lra_a"]:
            out |= {"lra_a": pooled.median, "lra_spread": pooled.sd}
        if r["gas"]:
            out["gas"] = True
        return out | {name: r[name] for name in ("start", "metering") if r[name]}
    return None
