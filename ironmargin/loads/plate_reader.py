"""From whatever stands on a rating plate to a load: what was read, derived, assumed, and what does
not fit together.
"""

from __future__ import annotations

import itertools
from fractions import Fraction

from ironmargin.document import Document
from ironmargin.electrics.motor import LOCKED_OVER_RUNNING, RUNNING_POWER_FACTOR
from ironmargin.electrics.services import HIGH_V, SERVICE_120, SERVICE_230, nominal_of
from ironmargin.errors import Fault
from ironmargin.loads.demand import FAN_SHARE, MIN_LOCKED
from ironmargin.loads.printed import Horsepower, Printed, one_of_each
from ironmargin.record import record
from ironmargin.setup.loads import CODE_LETTERS, MOTOR_STARTS, usual_gear
from ironmargin.setup.spec import Choice, Faults, Number, Text
from ironmargin.tables import code_letter_kva_per_hp, rows

USUAL_LOCKED = (3.0, 8.0)
WATTS_FIT = (0.55, 1.02)
"""Watts over volts times amps: a power factor below the one or above the other is beyond reason."""
MCA_SHARE = 1.25
MCA_OFF_BY = 0.08
EER = 9.0
"""Btu/h a watt of a rooftop unit cools (common practice: 8.5 to 10)."""
FAN_ABOUT_A = 2.5
OF_A_MOTOR = ("running_a", "fan_high_a", "lra_a")
"""Amps of a typical motor that go with what the whole of it draws."""

PLATE: Document = {
    "name": Text("What it is", maximum=120),
    "kind": Choice(
        "Kind of load",
        of=("air-conditioner", "motor", "resistive", "electronic", "charger", "microwave"),
    ),
    "rated_v": Printed("Volts", None, "V", minimum=100, maximum=250),
    "hz": Number("Hz", None, "Hz", minimum=45, maximum=65),
    "phase": Number("Phases", None, "1", minimum=1, maximum=3, whole=True),
    "rated_w": Printed("Watts", None, "W", above=0, maximum=1e5),
    "rated_a": Printed("Amps", None, "A", above=0, maximum=1000),
    "rated_va": Printed("Volt-amperes", None, "VA", above=0, maximum=1e5),
    "rla_a": Printed("RLA: compressor running amps", None, "A", above=0, maximum=1000),
    "lra_a": Printed("LRA: locked-rotor amps", None, "A", above=0, maximum=5000),
    "fan_a": Printed("Fan amps (FLA)", None, "A", above=0, maximum=200),
    "code_letter": Choice("Code letter", of=CODE_LETTERS),
    "hp": Horsepower("Horsepower", None, "hp", above=0, maximum=500),
    "mca_a": Printed("MCA: minimum circuit ampacity", None, "A", above=0, maximum=1000),
    "mocp_a": Number("MOCP: largest breaker allowed", None, "A", above=0, maximum=1000),
    "btu_h": Number("Cooling", None, "Btu/h", minimum=1000, maximum=200000),
    "refrigerant": Text("Refrigerant", maximum=60),
    "start": Choice("Start gear", of=MOTOR_STARTS),
}
"""The fields of a plate, with unit and range; every one may be left out but kind."""
MIN_HIGH_V, MAX_LEG_V = 200.0, 130.0
"""A plate of at least the one is for 208, 230 or 240 V; of at most the other for one leg [V]."""


@record
class Line:
    """One figure of the reading: its name, value, unit, and why it is so."""

    name: str
    value: str
    why: str


@record
class PlateReading:
    """A plate read.

    Attributes:
        load: the load as a document of the setup format without id, or None where too little stands
            on the plate.
        read, derived, assumed: the lines behind it.
        conflicts: what does not fit together.
        faults: fields that cannot be used.
    """

    load: Document | None
    read: tuple[Line, ...]
    derived: tuple[Line, ...]
    assumed: tuple[Line, ...]
    conflicts: tuple[str, ...]
    faults: tuple[tuple[str, str], ...]


def _figure(value: float | str, unit: str) -> str:
    return f"{value if isinstance(value, str) else f'{value:g}'} {unit}".replace(" 1", "")


def _amps(value: float) -> str:
    return f"{value:.1f} A"


def rated_volts(printed_v: float, service: str) -> float:
    """The rated volts of a load in a rig: a plate says 115, 208/230 or 240; the rig's own voltage
    is what counts.

    Args:
        printed_v: what the plate says [V].
        service: of the rig: ``120``, ``120/240``, ``230`` ….

    Returns:
        The volts [V].
    """
    if printed_v >= MIN_HIGH_V:
        return nominal_of(service) * (1.0 if service == SERVICE_230 else 2.0)
    return nominal_of(SERVICE_120) if printed_v <= MAX_LEG_V else printed_v


class _Reader:
    """Works through one plate."""

    def __init__(self, given: Document, service: str) -> None:
        self.plate, self.service = given, service
        self.derived: list[Line] = []
        self.assumed: list[Line] = []
        self.conflicts: list[str] = []
        self.assumed_fan_a: float | None = None

    def volts(self) -> float:
        volts = self.plate.get("rated_v")
        if volts is None:
            usual = nominal_of(self.service)
            self.assumed.append(
                Line("volts", f"{usual:g} V", "no volts on the plate: the rig's own")
            )
            return usual
        return rated_volts(float(volts), self.service)

    def amps_of_va(self, volts: float) -> None:
        """Amps from volt-amperes where a plate gives no amps."""
        va = self.plate.get("rated_va")
        if va is not None and self.plate.get("rated_a") is None:
            self.plate["rated_a"] = va / volts
            self.derived.append(Line("amps", _amps(va / volts), "volt-amperes / volts"))

    def running(self, volts: float) -> float | None:
        """Running amps of the machine that starts: RLA, else from amps, watts, MCA, horsepower or
        cooling. Amps, watts and cooling are the whole unit's: an air conditioner's fan is in them.
        """
        p = self.plate
        if p.get("rla_a") is not None:
            return float(p["rla_a"])
        if p.get("rated_a") is not None:
            return self._less_fan(float(p["rated_a"]), "rated amps")
        if p.get("rated_w") is not None:
            amps = p["rated_w"] / (volts * RUNNING_POWER_FACTOR)
            return self._less_fan(amps, f"watts / (volts × {RUNNING_POWER_FACTOR})", worked=True)
        if p.get("mca_a") is not None:
            if p.get("fan_a") is None and p["kind"] == "air-conditioner":
                amps = p["mca_a"] / (MCA_SHARE + FAN_SHARE)
                self.assumed_fan_a = fan = FAN_SHARE * amps
                why = f"(MCA − a fan of about {fan:.1f} A) / 1.25 (common practice)"
            else:
                amps = (p["mca_a"] - (p.get("fan_a") or 0.0)) / MCA_SHARE
                why = "(MCA − fan) / 1.25"
            self.derived.append(Line("running amps", _amps(amps), why))
            return float(amps)
        if p.get("hp") is not None:
            return self._from_hp(volts)
        if p.get("btu_h") is not None:
            amps = p["btu_h"] / EER / (volts * RUNNING_POWER_FACTOR)
            why = f"cooling / {EER:g} Btu/h a watt, as rooftop units do (common practice)"
            return self._less_fan(amps, why, lines=self.assumed)
        return None

    def _less_fan(
        self, whole: float, why: str, worked: bool = False, lines: list[Line] | None = None
    ) -> float:
        """What is left of the whole unit's amps for the machine that starts, with its line; the
        amps of a plain motor are its own and need a line only where they were ``worked`` out.
        """
        lines = self.derived if lines is None else lines
        fan = self.plate.get("fan_a") or 0.0
        if fan:
            why += " less the fan's"
        elif self.plate["kind"] == "air-conditioner":
            fan = whole * FAN_SHARE / (1.0 + FAN_SHARE)
            self.assumed_fan_a = fan
            why += f" less a fan of about {fan:.1f} A, which is in them (common practice)"
        if fan or worked or lines is self.assumed:
            lines.append(Line("running amps", _amps(whole - fan), why))
        return whole - fan

    def _from_hp(self, volts: float) -> float:
        """NEC Table 430.248, single-phase full-load current, between its rows by straight line."""
        column = "amps_115v" if volts < HIGH_V else "amps_230v"
        table = [(float(Fraction(r["hp"])), float(r[column])) for r in rows("motor_full_load")]
        hp = self.plate["hp"]
        amps: float = next(
            (
                a0 + (a1 - a0) * (hp - h0) / (h1 - h0)
                for (h0, a0), (h1, a1) in itertools.pairwise(table)
                if h0 <= hp <= h1
            ),
            table[0][1] * hp / table[0][0]
            if hp < table[0][0]
            else table[-1][1] * hp / table[-1][0],
        )
        self.derived.append(Line("running amps", _amps(amps), "horsepower by NEC Table 430.248"))
        return amps

    def locked(self, volts: float, running: float) -> float:
        p = self.plate
        if p.get("lra_a") is not None:
            return float(p["lra_a"])
        if p.get("code_letter") is not None and p.get("hp") is not None:
            amps = float(code_letter_kva_per_hp(p["code_letter"]) * p["hp"] * 1000.0 / volts)
            why = (
                f"code letter {p['code_letter']} and horsepower by NEC Table 430.7(B), middle "
                "of the band"
            )
            self.derived.append(Line("locked-rotor amps", _amps(amps), why))
            return amps
        amps = LOCKED_OVER_RUNNING * running
        self.assumed.append(
            Line(
                "locked-rotor amps",
                _amps(amps),
                "five times running amps, as most are (common practice): measure it",
            )
        )
        return amps

    def check(self, volts: float, running: float | None, locked: float | None) -> None:
        """What does not fit together."""
        p = self.plate
        if p.get("phase") is not None and p["phase"] > 1:
            self.conflicts.append(
                f"{p['phase']} phases: this machine does not run on a single-phase supply"
            )
        if p.get("rated_w") and p.get("rated_a"):
            share = p["rated_w"] / (volts * p["rated_a"])
            if not WATTS_FIT[0] <= share <= WATTS_FIT[1]:
                self.conflicts.append(
                    f"{p['rated_w']:g} W is {share:.2f} of {volts:g} V × {p['rated_a']:g} "
                    "A: no such power factor, read both again"
                )
        if running and locked is not None and p.get("lra_a") is not None:
            if locked < MIN_LOCKED * running:
                self.conflicts.append(
                    f"LRA {locked:g} A is not well above running amps {running:.1f} A: "
                    "they may be swapped"
                )
            elif not USUAL_LOCKED[0] <= locked / running <= USUAL_LOCKED[1]:
                self.conflicts.append(
                    f"LRA is {locked / running:.1f} times running amps; four to six times "
                    "is usual, read the plate again"
                )
        if p.get("mca_a") and p.get("rla_a"):
            expected = MCA_SHARE * p["rla_a"] + (
                p.get("fan_a") if p.get("fan_a") is not None else FAN_ABOUT_A
            )
            if abs(p["mca_a"] - expected) > max(
                MCA_OFF_BY * expected, 0.5 if p.get("fan_a") is not None else 2.0
            ):
                fan = (
                    f"{p['fan_a']:g}"
                    if p.get("fan_a") is not None
                    else f"a fan of about {FAN_ABOUT_A:g}"
                )
                self.conflicts.append(
                    f"MCA {p['mca_a']:g} A does not fit 1.25 × RLA {p['rla_a']:g} + {fan} "
                    f"= {expected:.1f} A"
                )
        if p.get("mocp_a") and p.get("mca_a") and p["mocp_a"] < p["mca_a"]:
            self.conflicts.append(
                f"MOCP {p['mocp_a']:g} A is below MCA {p['mca_a']:g} A: they may be swapped"
            )
        if p.get("code_letter") and p.get("hp") is None and p.get("lra_a") is None:
            self.conflicts.append("a code letter alone says nothing: horsepower is needed with it")

    def motor(self, volts: float) -> Document | None:
        p, running = self.plate, self.running(volts)
        if running is None:
            self.conflicts.append(
                "too little to go by: give running amps (RLA), watts, horsepower with "
                "code letter, or the cooling"
            )
            return None
        locked = self.locked(volts, running)
        self.check(volts, running, locked)
        if locked < MIN_LOCKED * running:
            return None
        cooling = p["kind"] == "air-conditioner"
        out: Document = {"running_a": round(running, 2), "lra_a": round(locked, 1)}
        fan = p.get("fan_a") or self.assumed_fan_a
        if cooling and fan is not None:
            out["fan_high_a"] = round(fan, 2)
        gear = p.get("start") or (usual_gear(volts) if cooling else "run-capacitor")
        if p.get("start") is None:
            why = "the plain kind, which starts hardest"
            if cooling:
                why = (
                    "most rooftop units have a start capacitor"
                    if gear == "start-capacitor"
                    else "most units of 200 V and more have a run capacitor alone"
                )
            self.assumed.append(
                Line("start gear", gear.replace("-", " "), f"{why} (common practice)")
            )
        return out | {"start": gear}

    def heater(self, volts: float) -> Document | None:
        p = self.plate
        self.check(volts, None, None)
        if p.get("rated_w") is not None:
            return {"watts": p["rated_w"]}
        if p.get("rated_a") is not None:
            if p["kind"] == "microwave":
                self.derived.append(Line("watts", f"{p['rated_a'] * volts:.0f} W", "volts × amps"))
                return {"watts": round(p["rated_a"] * volts)}
            return {"amps": p["rated_a"]}
        self.conflicts.append("too little to go by: give watts or amps")
        return None


def read_plate(plate: Document, service: str = "120") -> PlateReading:
    """Read a plate for a rig of a service.

    Args:
        plate: some of the fields of :data:`PLATE`; ``kind`` must be there. Refrigerant and Hz are
            read and change nothing.
        service: ``120``, ``120/240``, ``230`` ….

    Returns:
        The load as the format has it, what was taken from where, what is missing.
    """
    faults: Faults = []
    given: Document = {}
    for key, spec in PLATE.items():
        if plate.get(key) not in (None, ""):
            value = spec.read(plate[key], key, faults)
            given[key] = value
    if "kind" not in given:
        faults.append(Fault("kind", "missing", "must be given (got nothing)"))
    if faults:
        return PlateReading(None, (), (), (), (), tuple((f.path, f.message) for f in faults))
    read = tuple(
        Line(
            spec.doc,
            _figure(given[key], spec.unit) if isinstance(spec, Number) else str(given[key]),
            "ignored: it does not matter here" if key == "refrigerant" else "from the plate",
        )
        for key, spec in PLATE.items()
        if key in given and key not in ("name", "kind")
    )
    given, lowest_v, chosen = one_of_each(given)
    reader = _Reader(given, service)
    reader.assumed += [
        Line(PLATE[key].doc, _figure(given[key], PLATE[key].unit), why) for key, why in chosen
    ]
    volts = reader.volts()
    reader.amps_of_va(volts)
    body = (
        reader.motor(volts)
        if given["kind"] in ("air-conditioner", "motor")
        else reader.heater(volts)
    )
    load = None
    if body is not None:
        sure = not any(x.name in ("running amps", "locked-rotor amps") for x in reader.assumed)
        load = {
            "name": given.get("name") or given["kind"].replace("-", " ").capitalize(),
            "kind": given["kind"],
            "voltage_v": volts,
            "from": "plate" if sure else "typical",
        } | body
        if volts == nominal_of(SERVICE_120):
            load.pop("voltage_v")
        if lowest_v is not None and lowest_v < volts:
            load["voltage_min_v"] = lowest_v
    return PlateReading(
        load, read, tuple(reader.derived), tuple(reader.assumed), tuple(reader.conflicts), ()
    )


CHARGER_W_PER_A = 15.5
"""What a charger of a 12 V battery draws for each of its amps, which are those it gives: 14 V at an
efficiency of 0.9 (common practice, no source).
"""


def drawing(load: Document, draw: float, unit: str) -> Document:
    """A typical load on what stands on it. Of a motor that is all of it, a unit's fan too; its
    locked-rotor amps go along, since a larger machine of a kind starts as much harder (common
    practice, no source). A charger is called by the amps it gives its battery.

    Args:
        load: as the setup format has it.
        draw: what it draws, in ``unit``.
        unit: ``W`` or ``A``.

    Returns:
        The load with these figures.
    """
    volts = load.get("voltage_v", nominal_of(SERVICE_120))
    if load.get("running_a") is not None:
        amps = draw if unit == "A" else draw / (volts * RUNNING_POWER_FACTOR)
        whole = load["running_a"] + load.get("fan_high_a", 0.0)
        return load | {k: round(load[k] * amps / whole, 2) for k in OF_A_MOTOR if k in load}
    load = {k: v for k, v in load.items() if k not in ("watts", "amps")}
    if unit == "A" and load["kind"] == "microwave":  # it knows watts only
        draw, unit = round(draw * volts), "W"
    if unit == "A" and load["kind"] == "charger":
        draw, unit = round(draw * CHARGER_W_PER_A, -1), "W"
    return load | {"watts" if unit == "W" else "amps": draw, "from": "plate"}
