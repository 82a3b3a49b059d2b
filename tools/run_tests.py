"""What ``./test`` runs once everything is installed: the core's tests, the references, the web's on a throw-away database, the browser's."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tools.database import DatabaseError, throwaway  # noqa: E402

PLAIN = ("core", "reference")
DJANGO = ("web", "browser")


def _run(label: str, command: list[str], env: dict[str, str]) -> tuple[int, int]:
    """Run one suite; returns how many tests passed and failed."""
    print(f"== {label}", flush=True)
    begun = time.monotonic()
    process = subprocess.Popen(command, cwd=ROOT, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    words = []
    for line in process.stdout or ():
        words.append(line)
        print(line, end="", flush=True)
    code = process.wait()
    text = "".join(words)
    ran = sum(int(n) for n in re.findall(r"^Ran (\d+) tests?", text, re.MULTILINE))
    failed = sum(int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text))
    print(f"== {label}: {time.monotonic() - begun:.0f} s", flush=True)
    if code and not failed:
        failed = 1
    if ran == 0:
        failed = max(failed, 1)
    return max(ran - failed, 0), failed


def main() -> int:
    wanted = sys.argv[1] if len(sys.argv) > 1 else "all"
    suites = [s for s in (*PLAIN, *DJANGO) if wanted in ("all", s)]
    env = os.environ | {"PYTHONPATH": str(ROOT), "PYTHONWARNINGS": "default"}
    passed = failed = 0
    for suite in (s for s in suites if s in PLAIN):
        good, bad = _run(suite, [sys.executable, "-m", "unittest", "discover", "-s", f"tests/{suite}", "-t", "."], env)
        passed, failed = passed + good, failed + bad
    if any(s in DJANGO for s in suites):
        try:
            with throwaway(IRONMARGIN_TESTING="1", DJANGO_SETTINGS_MODULE="web.project.settings", DJANGO_ALLOW_ASYNC_UNSAFE="1",
                           PYTHONWARNINGS="default") as beside:
                for suite in (s for s in suites if s in DJANGO):
                    good, bad = _run(suite, [sys.executable, "manage.py", "test", "--noinput", "-t", ".", f"tests/{suite}"], beside)
                    passed, failed = passed + good, failed + bad
        except DatabaseError as error:
            print(f"test: {error}", file=sys.stderr)
            failed += 1
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
