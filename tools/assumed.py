"""Writes docs/assumed.md: every figure of the model that comes from memory, the range it may lie
in, what the ends of that range do to the verdicts, and how to check it: ``python tools/assumed.py``
(ten minutes: each end is put into a copy of the core, compiled where need be). A test refuses a
page whose figures are not the core's.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PAGE = ROOT / "docs" / "assumed.md"
sys.path.insert(0, str(ROOT))

from tools.compile import COMPILED  # noqa: E402

BAD_FILE = "12-"
MIN = -1.0
"""Margins below count as this: how hopeless a failure is does not matter."""
RANDOM = 300
"""Random questions tried; about half of them keep every rule."""
JUDGE = """
import json, sys
from pathlib import Path
from ironmargin.setup.reading import read_setup
from ironmargin.verdict.check import examine
found = {}
for file in sorted(Path(sys.argv[1]).glob("*.json")):
    result = examine(read_setup(json.loads(file.read_text())), quick=True).result
    found[file.name] = [result.verdict, result.iron_margin]
print(json.dumps(found))
"""


@dataclass(frozen=True)
class Assumed:
    """One figure from memory: what it is, where it stands (a module of the core, and the text
    before the number there), the ends of its range, and how it is checked.
    """

    words: str
    module: str
    before: str
    low: float
    high: float
    unit: str
    check: str

    @property
    def pattern(self) -> re.Pattern[str]:
        """What finds the number."""
        return re.compile(rf"(?m)({self.before})(-?\d[\d_.]*(?:e-?\d+)?)")

    def value(self, root: Path = ROOT) -> float:
        """The figure as the core has it."""
        text = (root / "ironmargin" / self.module).read_text(encoding="utf-8")
        found = self.pattern.search(text)
        if found is None:
            raise SystemExit(f"assumed: {self.module} has no {self.before!r}")
        return float(found[2])


METER = "read with a meter that holds its peak"
VARIAC = "lower its volts on a variable transformer until it"
RECORDED = "record volts and amps through a start"
FIGURES = (
    Assumed("Power factor of a standing rotor", "electrics/motor.py", "^LOCKED_POWER_FACTOR = ",
            0.6, 0.85, "1", "watts, volts and amps of a stalled start, " + METER),
    Assumed("Inertia of a compressor that runs", "electrics/motor.py", "^RUNNING_H_S = ",
            0.03, 0.10, "s", "interrupt a running unit for a tenth of a second and see whether it "
            "falls out"),
    Assumed("Volts at which electronics drop out, over nominal", "loads/demand.py", "^DROPOUT = ",
            0.40, 0.75, "1", f"{VARIAC} goes off"),
    Assumed("Volts at which a running motor falls out", "loads/demand.py", "^PULLS_OUT = ",
            0.50, 0.65, "1", f"{VARIAC} stalls"),
    Assumed("Volts at which a relay drops out", "loads/demand.py", "^RELAY_DROPOUT = ",
            0.40, 0.65, "1", f"{VARIAC} clicks"),
    Assumed("Volts below which a condensing unit's contactor is cautioned", "verdict/cautions.py",
            "^CHATTERS_BELOW = ", 0.43, 0.60, "1",
            "a start on a weak supply, with an ear at the contactor"),
    Assumed("How far above it electronics come back", "loads/demand.py", "^HYSTERESIS = ",
            0.02, 0.15, "1", "raise the volts again until it comes on"),
    Assumed("Volts at which a relay pulls in again", "loads/demand.py", "^RELAY_RETURNS = ",
            0.65, 0.85, "1", "raise the volts again until it clicks"),
    Assumed("Power factor above which electronics are corrected", "loads/demand.py",
            "^CORRECTED = ", 0.80, 0.95, "1", "power factor by a plug-in meter"),
    Assumed("Running current for each °F above 95 °F", "loads/demand.py", "^HEAT_PER_C = ",
            0.006, 0.015, "1", "running amps on a mild and on a hot day"),
    Assumed("Inrush of an isolation transformer over rated", "loads/demand.py",
            '"isolation": ', 5.0, 15.0, "1", "peak of twenty switch-ons, " + METER),
    Assumed("Inrush of a cold filament over rated", "loads/reader.py",
            "^FILAMENT_INRUSH = ", 8.0, 15.0, "1",
            "peak of a lamp, " + METER),
    Assumed("Power factor of a transformer's inrush", "loads/demand.py",
            "^MAGNETIZING_POWER_FACTOR = ", 0.1, 0.35, "1", RECORDED),
    Assumed("How long a battery inverter rides through low volts", "supplies/kinds/inverters.py",
            "^UNDERVOLT_S = ", 0.3, 2.0, "s", "its manual; else " + RECORDED),
    Assumed("What a worn contact adds", "path/trace.py", '"worn": ', 0.010, 0.030, "ohm",
            "volts across it at known amps, or its rise over the air"),
    Assumed("What a hot contact adds", "path/trace.py", '"hot": ', 0.030, 0.060, "ohm",
            "volts across it at known amps, or its rise over the air"),
    Assumed("What a plug's contact sheds at the rise its standard allows", "limits/contact.py",
            "^CONTACT_W = ", 4.0, 9.0, "W", "its rise over the air at known watts"),
    Assumed("Rise over the air at which its plastic softens", "limits/contact.py", "^MELTS_K = ",
            80.0, 120.0, "K", "nobody tries this; the plastic's sheet"),
    Assumed("Share of a transformer's impedance that is resistance", "path/trace.py",
            "^RESISTIVE_SHARE = ", 0.20, 0.60, "1", "winding resistance by ohm meter"),
    Assumed("What a battery's volts fall for each C", "supplies/kinds/inverters.py",
            "^SAG_PER_C = ", 0.02, 0.08, "1", "its volts at rest and under a known load"),
    Assumed("Transient reactance of a conventional set", "supplies/kinds/engines.py",
            "^TRANSIENT_REACTANCE = ", 0.15, 0.30, "1", f"{RECORDED}: the lowest volts"),
    Assumed("Time in which its regulator forces the field", "starting/supply.py",
            "^FIELD_TAU_S = ", 0.15, 0.60, "s", f"{RECORDED}: how fast they come back"),
    Assumed("How far it forces the field", "starting/supply.py", "^FIELD_CEILING = ",
            1.3, 2.0, "1", f"{RECORDED}: how far they come back"),
    Assumed("How long a guard looks at low volts", "starting/supply.py", "^GUARD_FILTER_S = ",
            0.2, 2.0, "s", "its manual"),
    Assumed("How long a guard looks at too many amps", "starting/supply.py",
            "^GUARD_OVERLOAD_S = ", 1.0, 15.0, "s", "its manual"),
    Assumed("Time in which a soft starter opens fully", "starting/motors.py", "^BYPASS_S = ",
            0.05, 0.30, "s", f"{RECORDED}: its last step"),
    Assumed("Share of its current at which its ramp begins", "starting/motors.py",
            "^SOFT_BEGINS = ", 0.3, 0.7, "1", f"{RECORDED}: its first cycles"),
    Assumed("Volts down to which it makes up for them", "starting/motors.py",
            "^SOFT_FULL_VOLTS = ", 0.75, 0.95, "1", f"{RECORDED} on a long cord"),
    Assumed("Volts under which it gives up", "starting/motors.py", "^SOFT_MIN_VOLTS = ",
            0.4, 0.6, "1", "its manual, or a start on a weak set"),
    Assumed("Time after which it gives up", "starting/motors.py", "^SOFT_GIVES_UP_S = ",
            0.5, 3.0, "s", "its manual, or a start on a weak set"),
    Assumed("Early edge of a household breaker for hours", "protection/breaker.py",
            "^UL_489_CARRIES = ", 1.0, 1.10, "1", "its maker's curve"),
    Assumed("Opening of its early edge at twice its rating", "protection/breaker.py",
            "^UL_489_SOONEST_S = ", 8.0, 25.0, "s", "its maker's curve"),
    Assumed("Air a household breaker is calibrated in", "protection/breaker.py", '"UL4": ',
            25.0, 40.0, "°C", "its label"),
    Assumed("Rise of a box in the sun over the air", "protection/breaker.py",
            "MAX_EXCESS_K = ", 5.0, 25.0, "K", "a thermometer in the box at noon"),
    Assumed("Charge from which a battery takes less", "enduring/battery.py", "^TAPER_FROM = ",
            0.7, 0.95, "1", "its monitor while it charges"),
    Assumed("What a lithium battery takes an hour", "enduring/battery.py", '"lithium": (?=0)',
            0.3, 1.0, "1", "its sheet"),
    Assumed("Idle fuel in eco over full speed", "enduring/fuel.py", "^ECO_IDLE = ",
            0.3, 0.7, "1", "a tank run dry without load, each way"),
    Assumed("Vapor at a compressor's start over the mean", "enduring/boiloff.py",
            "^AT_A_START = ", 1.2, 2.5, "1", "a gauge behind the regulator"),
    Assumed("Heat through a cylinder's wall", "enduring/boiloff.py", "^U_W_PER_M2K = ",
            12.0, 30.0, "W/m²K", "its weight and its wall's temperature over some hours"),
    Assumed("Tare of a cylinder over what it holds", "enduring/boiloff.py",
            "^TARE_OVER_CAPACITY = ", 0.7, 1.0, "1", "stamped on its collar"),
    Assumed("Height of a cylinder over its diameter", "enduring/boiloff.py",
            "^SLENDER, SMALL_SLENDER, SMALL_KG = ", 1.0, 1.6, "1", "a tape"),
    Assumed("A charger from AC to battery", "enduring/battery.py", "^CHARGING = ", 0.80, 0.95, "1",
            "watts in against volts times amps out"),
    Assumed("Volts on a lost neutral above which electronics burn", "bench/hands.py",
            "^TOO_HIGH = ", 1.10, 1.30, "1", "nobody tries this; makers' limits"),
)  # fmt: skip
HEAD = """# Figures from memory

Written by `python tools/assumed.py`; change nothing here by hand. Each figure below was written \
down from memory or common practice and decides something. Its range is what we believe it may be; \
the effect is that of either end over {count} setups (the check setups, the demo's and random \
ones): by how much the iron margin moves where it moves most, in points (below −100 % counts as \
−100 %), and how many verdicts change. Checks that open equipment, hold a rotor still or run a \
motor on low volts belong on a bench, in licensed hands, and last two seconds at most; nobody does \
them on a rig that somebody depends on. Zeros say that none of these setups turns on it, not that \
none could. What can hurt is judged on the cautious side where the range is wide.

Published tables (`ironmargin/tables/sources.csv`) were written down from memory too; they are \
checked by opening the publication. How far typical figures of loads scatter is in \
`tables/uncertainty.csv` and is part of every chance; how far each moves *your* verdict is in its \
report (sensitivity).

| figure | taken | may be | effect on the margin, low / high | verdicts changed, low / high | how to check it |
|---|---|---|---|---|---|
"""  # noqa: E501


def judged(tree: Path, setups: Path) -> dict[str, list[str | float]]:
    """Verdict and iron margin of every setup by the core of a tree."""
    done = subprocess.run(
        [sys.executable, "-c", JUDGE, str(setups)],
        cwd=tree, capture_output=True, text=True, check=True,
    )  # fmt: skip
    found: dict[str, list[str | float]] = json.loads(done.stdout)
    return found


def put(tree: Path, one: Assumed, value: float) -> None:
    """Put another value into a tree, and compile it where need be."""
    file = tree / "ironmargin" / one.module
    text = file.read_text(encoding="utf-8")
    file.write_text(one.pattern.sub(rf"\g<1>{value!r}", text, count=1), encoding="utf-8")
    if one.module in COMPILED:
        subprocess.run(
            [sys.executable, "tools/compile.py"], cwd=tree, check=True, capture_output=True
        )


def setups_into(folder: Path) -> None:
    """Write the check setups, the demo's and random ones, one a file."""
    for file in sorted((ROOT / "tests" / "setups").glob("*.json")):
        if not file.name.startswith(BAD_FILE):
            shutil.copy(file, folder)
    os.environ |= {"DJANGO_SETTINGS_MODULE": "web.project.settings", "IRONMARGIN_TESTING": "1"}
    import django

    django.setup()
    from ironmargin.errors import SetupError
    from ironmargin.setup.reading import read_setup
    from tests.core.test_one_answer import random_document
    from web.setups.demo import documents

    found = {f"demo-{n:03d}": document for n, document in enumerate(documents())}
    for seed in range(RANDOM):
        with suppress(SetupError):
            document = random_document(seed)
            read_setup(document)
            found[f"random-{seed:03d}"] = document
    for name, document in found.items():
        (folder / f"{name}.json").write_text(json.dumps(document), encoding="utf-8")


def plain(value: float) -> str:
    """A figure as the page has it."""
    return f"{value:,.6g}"


def _points(share: float) -> str:
    """A change of a margin in whole points."""
    found = f"{round(100 * share):+d}".replace("-", "−")
    return "0" if found == "+0" else found


def row_of(one: Assumed, effects: list[tuple[float, int]]) -> str:
    """A line of the page."""
    moved = " / ".join(_points(x) for x, _ in effects)
    changed = " / ".join(str(n) for _, n in effects)
    unit = "" if one.unit == "1" else f" {one.unit}"
    return (
        f"| {one.words} | {plain(one.value())}{unit} | {plain(one.low)} to {plain(one.high)}{unit} "
        f"| {moved} | {changed} | {one.check} |"
    )


def effect(
    before: dict[str, list[str | float]], after: dict[str, list[str | float]]
) -> tuple[float, int]:
    """The largest move of a margin [1], and how many verdicts change."""
    moves = [
        max(float(after[name][1]), MIN) - max(float(margin), MIN)
        for name, (_, margin) in before.items()
    ]
    changed = sum(after[name][0] != verdict for name, (verdict, _) in before.items())
    return max(moves, key=abs), changed


def main() -> None:
    """Try each end of each range, and write the page."""
    with tempfile.TemporaryDirectory() as folder:
        tree, setups = Path(folder) / "tree", Path(folder) / "setups"
        setups.mkdir()
        setups_into(setups)
        leave = shutil.ignore_patterns(
            ".git", ".venv", "node_modules", "var", "web", "docs", "tests"
        )
        shutil.copytree(ROOT, tree, ignore=leave)
        before = judged(tree, setups)
        lines = []
        for one in FIGURES:
            effects = []
            for value in (one.low, one.high):
                put(tree, one, value)
                effects.append(effect(before, judged(tree, setups)))
            put(tree, one, one.value())
            lines.append(row_of(one, effects))
            print(lines[-1], flush=True)
        if judged(tree, setups) != before:
            raise SystemExit("assumed: the core is not as it was after all ends were tried")
        PAGE.write_text(HEAD.format(count=len(before)) + "\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
