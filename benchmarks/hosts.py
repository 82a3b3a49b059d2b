"""How much more two hosts of the site answer than one, behind one nginx and before one database:

    .venv/bin/python -m benchmarks.hosts [SHARE [SECONDS]]

The units of deploy/ and nginx run as they are installed. A host is the processes of one web unit,
held to so much of a core (cgroups, as root; a quarter unless said), so that two of them are twice
the computer though the machine is one. Eight people, each of an account of their own, change a
setup of twenty loads without a pause; what is counted is answers a second.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import ExitStack
from pathlib import Path

import psutil

from benchmarks import check
from tests.deploy.test_deploy import PASSWORD, Browser
from tests.deploy.units import ROOT, Proxy, Unit
from tools.database import free_port, throwaway

GROUPS = Path("/sys/fs/cgroup/cpu")
PERIOD_US = 100_000
SHARE, SECONDS, PEOPLE, WARM_S = 0.25, 40.0, 8, 8.0
USERS = (
    "from django.contrib.auth.models import User; "
    f"[User.objects.create_user(f'person{{n}}', password={PASSWORD!r}) for n in range({PEOPLE})]"
)


def hold_to(share: float, name: str, process: psutil.Process) -> None:
    """Hold a process and its children to a share of a core."""
    group = GROUPS / f"ironmargin-{name}"
    group.mkdir(exist_ok=True)
    (group / "cpu.cfs_period_us").write_text(str(PERIOD_US))
    (group / "cpu.cfs_quota_us").write_text(str(round(share * PERIOD_US)))
    for each in (process, *process.children(recursive=True)):
        (group / "cgroup.procs").write_text(str(each.pid))


def ready(port: int) -> None:
    """Wait until a page comes through a proxy."""
    while True:
        try:
            if Browser(port).ask("GET", "/ready")[0] == 200:
                return
        except OSError:
            time.sleep(0.2)


class Person(threading.Thread):
    """Somebody who changes one figure after another."""

    def __init__(self, number: int, port: int, until: float) -> None:
        super().__init__()
        self.browser, self.number, self.until = Browser(port), number, until
        self.waits: list[tuple[float, float]] = []

    def run(self) -> None:
        self.browser.ask("GET", "/account/sign-in/")
        self.browser.post("/account/sign-in/", username=f"person{self.number}", password=PASSWORD)
        document = check.document(2, 18) | {
            "supply": {"kind": "shore", "breaker_a": 50, "legs": "split"}
        }
        turn = 0
        while time.monotonic() < self.until:
            turn += 1
            # Never the same question twice: what is kept would be given.
            heat = 20.0 + self.number + turn / 50.0 + time.time() % 1 / 1000.0
            requested = document | {"conditions": {"outdoor_c": heat}}
            begun = time.monotonic()
            status, _, _ = self.browser.post(
                "/setups/preview/", document=json.dumps(requested), units="si"
            )
            if status == 200:
                self.waits.append((begun, time.monotonic() - begun))


def answers_a_second(port: int, seconds: float) -> tuple[float, float]:
    """Answers a second, and the 95th percentile of the wait [s]."""
    begun = time.monotonic()
    people = [Person(n, port, begun + WARM_S + seconds) for n in range(PEOPLE)]
    for person in people:
        person.start()
    for person in people:
        person.join()
    waits = sorted(w for p in people for at, w in p.waits if at >= begun + WARM_S)
    return len(waits) / seconds, waits[int(0.95 * len(waits))] if waits else float("inf")


def main() -> None:
    """One host, then two, twice in turn."""
    share = float(sys.argv[1]) if len(sys.argv) > 1 else SHARE
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else SECONDS
    with ExitStack() as stack:
        env = stack.enter_context(
            throwaway(
                IRONMARGIN_TLS="1", IRONMARGIN_DEMO="0", IRONMARGIN_PROXIES="1",
                IRONMARGIN_HOSTS="ironmargin.example", IRONMARGIN_DEADLINE_S="60",
            )
        )  # fmt: skip
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="im-hosts-")))
        ports = []
        for name in ("one", "two"):
            unit, port = Unit("web", env, folder), free_port()
            unit.hold(port)
            unit.start()
            stack.callback(unit.stop)
            ports.append(port)
            alone = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="im-host-")))
            proxy = Proxy(alone, port)
            ready(proxy.secure)
            proxy.stop()
            assert unit.process is not None
            hold_to(share, name, psutil.Process(unit.process.pid))
        shell = [sys.executable, "manage.py", "shell", "-c", USERS]
        subprocess.run(shell, cwd=ROOT, env=env, check=True, capture_output=True)
        for _ in range(2):
            found = []
            for count in (1, 2):
                with tempfile.TemporaryDirectory(prefix="im-proxy-") as own:
                    proxy = Proxy(Path(own), *ports[:count])
                    ready(proxy.secure)
                    rate, wait_s = answers_a_second(proxy.secure, seconds)
                    proxy.stop()
                found.append(rate)
                print(
                    f"{count} host(s) of {share:g} core: {rate:.1f} answers a second, p95 "
                    f"{1000 * wait_s:.0f} ms",
                    flush=True,
                )
            print(f"two hosts answer {found[1] / found[0]:.2f} times as much as one", flush=True)


if __name__ == "__main__":
    main()
