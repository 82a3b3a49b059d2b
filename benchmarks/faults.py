"""kill -9 of database, worker and web in turn under acknowledged writes: nothing lost or doubled.

    .venv/bin/python benchmarks/faults.py [KILLS]

Starts the site on a port and a folder of its own. A writer makes rigs by the interface for
programs, each with a name of its own, and notes every one that was acknowledged; in between a
process is killed. At the end every acknowledged rig must be there once, and every unacknowledged
one at most once. Prints how many were written, refused, lost and doubled, and how long the site
was away.
"""

from __future__ import annotations

import http.client
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from typing import Any

import psutil

ROOT = Path(__file__).resolve().parents[1]
PORT = 8077
READY_S, AWAY_S = 120.0, 60.0
VICTIMS = ("mariadbd", "db_worker", "gunicorn")
RIG = {"name": "x", "service": "120", "main_a": 30, "loads": []}
TOKEN = """
from django.contrib.auth.models import User
from web.api.models import make
user, _ = User.objects.get_or_create(username="faults")
print(make(user, "faults", "write", 7)[1])
"""


def children(root: psutil.Process, victim: str) -> list[psutil.Process]:
    """The processes of the site of one kind."""
    found = []
    for process in root.children(recursive=True):
        try:
            words = process.cmdline()
        except psutil.Error:
            continue
        if any(victim in word for word in words):
            found.append(process)
    return found


def call(method: str, path: str, token: str, body: Any = None) -> tuple[int, Any]:
    """One request; 0 where nobody answers."""
    link = http.client.HTTPConnection("127.0.0.1", PORT, timeout=20)
    try:
        headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
        link.request(method, path, json.dumps(body) if body is not None else None, headers)
        answer = link.getresponse()
        raw = answer.read()
        return answer.status, json.loads(raw) if raw[:1] in (b"{", b"[") else None
    except (OSError, http.client.HTTPException, ValueError):
        return 0, None
    finally:
        link.close()


def wait_ready() -> float:
    """Seconds until the site answers that it is ready."""
    began = time.monotonic()
    while time.monotonic() - began < READY_S:
        if call("GET", "/ready", "")[0] == 200:
            return time.monotonic() - began
        time.sleep(0.05)
    raise SystemExit("the site does not come back")


def main() -> int:
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    env = {k: v for k, v in os.environ.items() if not k.startswith("IRONMARGIN")}
    with tempfile.TemporaryDirectory(prefix="im-") as folder:
        env |= {"PORT": str(PORT), "IRONMARGIN_VAR": folder, "IRONMARGIN_DEMO": "0"}
        site = subprocess.Popen(["./start"], cwd=ROOT, env=env)
        try:
            wait_ready()
            shell = [sys.executable, "manage.py", "shell", "-c", TOKEN]
            done = subprocess.run(
                shell, cwd=ROOT, env=env, capture_output=True, text=True, check=True
            )
            return judge(psutil.Process(site.pid), done.stdout.split()[-1], kills)
        finally:
            site.send_signal(signal.SIGTERM)
            site.wait(60)


def judge(root: psutil.Process, token: str, kills: int) -> int:
    """Write, kill, and count what is there."""
    draw = random.Random(1)
    acknowledged: list[str] = []
    refused, written, away = 0, 0, []
    for n in range(kills):
        for _ in range(draw.randint(1, 4)):
            name = f"r{written}"
            written += 1
            status, _ = call("POST", "/api/v1/rigs/", token, {"name": name, "document": RIG})
            acknowledged += [name] if status == 201 else []
            refused += status != 201
            if len(acknowledged) > 400:  # an account holds five hundred
                acknowledged = keep_few(token, acknowledged)
        victims = children(root, VICTIMS[n % len(VICTIMS)])
        if victims:
            draw.choice(victims).kill()
        # The next write falls into the fall, on purpose.
        name = f"r{written}"
        written += 1
        status, _ = call("POST", "/api/v1/rigs/", token, {"name": name, "document": RIG})
        acknowledged += [name] if status == 201 else []
        refused += status != 201
        away.append(wait_ready())
    there = Counter(names(token))
    lost = [name for name in acknowledged if not there[name]]
    doubled = [name for name, times in there.items() if times > 1]
    away.sort()
    print(
        f"{kills} kills, {written} writes, {refused} refused; lost {len(lost)}, doubled "
        f"{len(doubled)}; away p50 {away[len(away) // 2]:.1f} s, longest {away[-1]:.1f} s"
    )
    return 1 if lost or doubled else 0


def read_page(token: str, cursor: str) -> Any:
    """A page of rigs, waited for where the token has asked too often or the site is away."""
    began = time.monotonic()
    while time.monotonic() - began < READY_S:
        status, page = call("GET", f"/api/v1/rigs/{cursor}", token)
        if status == 200:
            return page
        time.sleep(0.5)
    raise SystemExit("the rigs cannot be read")


def names(token: str) -> list[str]:
    """The names of every rig there is."""
    found: list[str] = []
    cursor = ""
    while True:
        page = read_page(token, cursor)
        found += [x["name"] for x in page["items"]]
        if page["next"] is None:
            return found
        cursor = f"?cursor={page['next']}"


def keep_few(token: str, acknowledged: list[str]) -> list[str]:
    """Check what was written so far and make room for more."""
    there = Counter(names(token))
    lost = [name for name in acknowledged if not there[name]]
    if lost or any(times > 1 for times in there.values()):
        raise SystemExit(f"lost {lost[:5]}, or doubled")
    cursor = ""
    while True:
        page = read_page(token, cursor)
        for item in page["items"]:
            tag = f'"rig-{item["id"]}-{item["version"]}"'
            link = http.client.HTTPConnection("127.0.0.1", PORT, timeout=20)
            headers = {"Authorization": f"Bearer {token}", "If-Match": tag}
            link.request("DELETE", f"/api/v1/rigs/{item['id']}", headers=headers)
            link.getresponse().read()
            link.close()
        if page["next"] is None:
            return []
        cursor = f"?cursor={page['next']}"


if __name__ == "__main__":
    sys.exit(main())
