"""What ``./test`` runs once everything is installed: the core's tests, the references, what stands
in deploy/ as it is written there, the web's on a throw-away database, the browser's. ``./test core
NAME`` runs a module, a class or a test of a suite, ``./test web --failed`` what failed in its last
run. A suite that passes is one line; of one that fails every failure is printed whole.
"""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import IO

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tools.database import DatabaseError, throwaway  # noqa: E402

ORDER = ("web", "browser", "reference", "walks", "deploy", "core")
"""The suites, the longest first."""
SLOTS = (os.cpu_count() or 1) + 1
"""Processes at once: one more than there are cores, since the browser's and deploy's wait for
answers. Of ten at once on two cores, half of the web took twice as long as of three.
"""
FOLDERS = {"walks": "core"}
"""The folder of a suite where it has another name."""
WALKS = {"core": "none", "walks": "only"}
DJANGO = ("web", "browser")
WHOLE = ("test*.py",)
HALVES = {
    "core": ("test_[a-o]*.py", "test_[p-z]*.py"),
    "walks": ("test_[a-o]*.py", "test_[p-z]*.py"),
    "reference": ("test_l*.py", "test_[!l]*.py"),
    "web": ("test_[a-m]*.py", "test_[n-z]*.py"),
    "browser": ("test_[a-p]*.py", "test_[q-z]*.py"),
}
"""A suite is run in halves: alone one a core, of all of them so that neither core is idle in the
end.
"""


def parts_of(suite: str, wanted: str) -> tuple[str, ...]:
    """Which files of a suite each of its processes runs."""
    return HALVES.get(suite, WHOLE) if wanted in ("all", suite) else WHOLE


DJANGO_ENV = {
    "IRONMARGIN_TESTING": "1",
    "IRONMARGIN_DEMO": "1",
    "IRONMARGIN_DEADLINE_S": "120",  # the deadline has its own tests; a loaded machine is slow
    "DJANGO_SETTINGS_MODULE": "web.project.settings",
    "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
    "PYTHONWARNINGS": "default",
    "PYTHONFAULTHANDLER": "1",
}


@dataclass
class Suite:
    """A suite under way: its process, what it prints, and when it began."""

    label: str
    process: subprocess.Popen[str]
    words: IO[str]
    begun: float


LONGEST_S = 1800
"""How long a suite may take before it is stopped and where it stands is printed [s]; the slowest
machine so far took half of it.
"""
LAST_LINES = 60
"""Lines that are printed of a suite that was stopped."""
MIN_COVERED = 14
"""Lines of the least covered that are printed."""
COVERED = ("core", "walks", "reference", "web")
"""What is run to see what it covers; the browser would take as long again and add little."""
FLOORS = {"ironmargin/*": 95, "web/*": 90}
"""Least coverage of lines and branches, by what is covered [%]."""


def _covered(folder: str) -> int:
    """Print what the suites covered together; how many floors were not reached."""
    env = os.environ | {"COVERAGE_FILE": f"{folder}/.coverage"}
    coverage = [sys.executable, "-m", "coverage"]
    subprocess.run([*coverage, "combine", "-q", folder], cwd=ROOT, env=env, check=False)
    missed = 0
    for what, floor in FLOORS.items():
        print(f"== coverage of {what}, at least {floor} %", flush=True)
        report = ["report", f"--include={what}", f"--fail-under={floor}", "--sort=cover"]
        report += ["--skip-covered", "--format=text"]
        done = subprocess.run(
            [*coverage, *report], cwd=ROOT, env=env, capture_output=True, text=True, check=False
        )
        lines = done.stdout.splitlines()
        print("\n".join(lines[:MIN_COVERED] + lines[-4:]), flush=True)
        missed += done.returncode != 0
    return missed


FAILED = re.compile(r"^(?:FAIL|ERROR): \S+ \(([\w.]+)\)", re.MULTILINE)
"""A failure's heading, with the dotted name of its test."""
STORED = ROOT / "build" / "failed-tests"
"""What failed last, a file for each suite."""


def _all_of(suite: str, part: str = "test*.py") -> list[str]:
    """What finds the tests of a suite without Django."""
    return ["discover", "-v", "-s", f"tests/{FOLDERS.get(suite, suite)}", "-t", ".", "-p", part]


def _labels(suite: str, requested: list[str]) -> list[str]:
    """The dotted names that were asked for of a suite: as they stand, without ``tests.`` and the
    suite before them, or what failed last.
    """
    if requested == ["--failed"]:
        file = STORED / suite
        names = file.read_text(encoding="utf-8").split() if file.exists() else []
        if not names:
            raise SystemExit(f"test: nothing of {suite} failed last")
        return names
    folder = FOLDERS.get(suite, suite)
    return [n if n.startswith("tests.") else f"tests.{folder}.{n}" for n in requested]


def _keep_failed(suite: str, text: str) -> None:
    """Remember what failed, for ``--failed``; two halves of a suite add up."""
    STORED.mkdir(parents=True, exist_ok=True)
    file = STORED / suite
    known = file.read_text(encoding="utf-8").split() if file.exists() else []
    names = dict.fromkeys([*known, *FAILED.findall(text)])
    file.write_text("\n".join(names), encoding="utf-8")


SAYING = Lock()
BEGUN: list[subprocess.Popen[str]] = []


def _begin(label: str, command: list[str], env: dict[str, str]) -> Suite:
    """Start one suite; what it prints goes into a file until it ends."""
    words = tempfile.TemporaryFile("w+", encoding="utf-8", errors="replace")  # noqa: SIM115
    process = subprocess.Popen(
        command, cwd=ROOT, env=env, stdout=words, stderr=subprocess.STDOUT, text=True
    )
    BEGUN.append(process)
    return Suite(label, process, words, time.monotonic())


def _wait(suite: Suite) -> bool:
    """Wait for a suite; whether it had to be stopped. ``PYTHONFAULTHANDLER`` makes one that is
    stopped say where every thread of it stands.
    """
    left = suite.begun + LONGEST_S - time.monotonic()
    try:
        suite.process.wait(max(left, 1))
    except subprocess.TimeoutExpired:
        suite.process.send_signal(signal.SIGABRT)
        try:
            suite.process.wait(30)
        except subprocess.TimeoutExpired:
            suite.process.kill()
            suite.process.wait()
        return True
    return False


def _end(suite: Suite) -> tuple[int, int]:
    """Wait for a suite and print it; returns how many tests passed and failed."""
    stopped = _wait(suite)
    with SAYING:
        return _said(suite, stopped)


def _said(suite: Suite, stopped: bool) -> tuple[int, int]:
    """Print a suite that ended, one at a time; how many tests passed and failed."""
    code = suite.process.returncode
    suite.words.seek(0)
    text = suite.words.read()
    ran = sum(int(n) for n in re.findall(r"^Ran (\d+) tests?", text, re.MULTILINE))
    failed = sum(
        int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text)
    )
    took = time.monotonic() - suite.begun
    if (code and not failed) or ran == 0:
        failed = max(failed, 1)
    if stopped:
        last = "\n".join(text.splitlines()[-LAST_LINES:])
        print(f"== {suite.label}: stopped after {took:.0f} s, here:\n{last}", flush=True)
    elif failed:
        _keep_failed(suite.label, text)
        at = text.find("=" * 70)
        print(f"== {suite.label}\n{text[at:] if at >= 0 else text}", flush=True)
    print(f"== {suite.label}: {ran} tests, {failed} failed, {took:.0f} s", flush=True)
    return max(ran - failed, 0), failed


def _end_all(slots: ThreadPoolExecutor) -> None:
    """Begin no other suite and end those under way: nothing to do but after Ctrl-C."""
    slots.shutdown(wait=False, cancel_futures=True)
    for process in BEGUN:
        if process.poll() is None:
            process.terminate()
    slots.shutdown()


@dataclass
class Part:
    """A suite, or a half of it: its label, its command and what it finds in its environment."""

    label: str
    command: list[str]
    env: dict[str, str]


def _parts(
    suite: str, wanted: str, labels: list[str], python: list[str], env: dict[str, str]
) -> Iterator[Part]:
    """The processes of a suite, each with the environment its folder needs."""
    for n, part in enumerate(parts_of(suite, wanted) if not labels else WHOLE):
        if suite in DJANGO:
            command = ["manage.py", "test", "-v", "2", "--noinput", "-t", "."]
            command += labels or ["-p", part, f"tests/{suite}"]
            own = {"IRONMARGIN_SUITE": f"{suite}_{'named' if labels else n}"}  # a database each
        else:
            command = ["-m", "unittest", *(["-v", *labels] if labels else _all_of(suite, part))]
            own = {} if labels or suite not in WALKS else {"IRONMARGIN_WALKS": WALKS[suite]}
        yield Part(suite, [*python, *command], env | own)


def _run(part: Part) -> tuple[int, int]:
    """One process from its beginning to its last line; how many tests passed and failed."""
    return _end(_begin(part.label, part.command, part.env))


def main() -> int:
    wanted, requested = (sys.argv[1] if len(sys.argv) > 1 else "all"), sys.argv[2:]
    suites = list(COVERED) if wanted == "coverage" else [s for s in ORDER if wanted in ("all", s)]
    env = os.environ | {
        "PYTHONPATH": str(ROOT),
        "PYTHONWARNINGS": "default",
        "PYTHONFAULTHANDLER": "1",
    }
    python = [sys.executable]
    folder = tempfile.mkdtemp(prefix="ironmargin-coverage-") if wanted == "coverage" else ""
    if folder:
        python += ["-m", "coverage", "run"]
        env["COVERAGE_FILE"] = f"{folder}/.coverage"
    labels = _labels(wanted, requested) if requested else []
    for suite in suites:
        (STORED / suite).unlink(missing_ok=True)
    counts: list[tuple[int, int]] = []
    try:
        with ExitStack() as stack:
            served = env
            if any(s in DJANGO for s in suites):
                served = env | stack.enter_context(throwaway(**DJANGO_ENV))
            slots = ThreadPoolExecutor(SLOTS)
            stack.callback(_end_all, slots)
            parts = [
                part
                for suite in suites
                for part in _parts(
                    suite, wanted, labels, python, served if suite in DJANGO else env
                )
            ]
            counts += slots.map(_run, parts)
    except DatabaseError as error:
        print(f"test: {error}", file=sys.stderr)
        counts.append((0, 1))
    missed = _covered(folder) if folder else 0
    shutil.rmtree(folder, ignore_errors=True)
    passed, failed = (sum(c[at] for c in counts) for at in (0, 1))
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or missed else 0


if __name__ == "__main__":
    sys.exit(main())
