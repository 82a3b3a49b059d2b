"""What pages take while the queue of searches is full, against what they take when it is idle.

    ./start (in another shell), then   .venv/bin/python benchmarks/queue.py [PAGES]

Makes an account, keeps a setup, asks a page so many times idle; then fills the queue by the
interface for programs and asks the same page again while it works; then gives the searches up, and
says how long it takes until none runs any more.
"""

from __future__ import annotations

import json
import re
import statistics
import sys
import time
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import psutil

BASE = "http://127.0.0.1:8000"
SETUP = Path(__file__).resolve().parents[1] / "ironmargin_meter" / "demo.setup.json"
FILL = 30
WAIT_S = 60.0


class Visitor:
    """A browser of sorts: cookies and the token of forms."""

    def __init__(self) -> None:
        jar = urllib.request.HTTPCookieProcessor(CookieJar())
        self.opener = urllib.request.build_opener(jar)

    def get(self, path: str) -> str:
        return str(self.opener.open(BASE + path, timeout=60).read().decode())

    def post(self, path: str, form: str, **fields: str) -> str:
        token = re.findall(r'csrfmiddlewaretoken" value="([^"]+)', self.get(form))[0]
        data = urllib.parse.urlencode({"csrfmiddlewaretoken": token} | fields).encode()
        return str(self.opener.open(BASE + path, data, timeout=60).read().decode())


def call(method: str, path: str, token: str, body: Any = None) -> Any:
    """One request of a program."""
    data = json.dumps(body).encode() if body is not None else None
    headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
    request = urllib.request.Request(BASE + path, data, headers, method=method)
    raw = urllib.request.urlopen(request, timeout=60).read()
    return json.loads(raw) if raw else None


def times(visitor: Visitor, path: str, count: int) -> list[float]:
    """Milliseconds of each of some requests, sorted."""
    found = []
    for _ in range(count):
        began = time.perf_counter()
        visitor.get(path)
        found.append((time.perf_counter() - began) * 1000)
    return sorted(found)


def searching() -> int:
    """Processes that search: children of the worker."""
    return sum(
        len(p.children())
        for p in psutil.process_iter(["cmdline"])
        if "db_worker" in " ".join(p.info["cmdline"] or ())
    )


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    visitor = Visitor()
    name = f"queue{int(time.time())}"
    words = {"username": name, "password1": "wet-clay-and-iron", "password2": "wet-clay-and-iron"}
    visitor.post("/account/sign-up/", "/account/sign-up/", **words)
    page = visitor.post("/api/tokens/", "/api/", name="queue", scope="write", days="7")
    token = re.findall(r"im_[\w-]+", page)[0]
    document = json.loads(SETUP.read_text(encoding="utf-8"))
    stored = call("POST", "/api/v1/setups/", token, document)
    path = f"/now/{stored['id']}/"
    times(visitor, path, 10)
    idle = times(visitor, path, count)
    tasks = []
    for n in range(FILL):
        question = document | {"conditions": {"outdoor_c": 20 + n / 2}}
        for kind in ("remedies", "order", "size"):
            tasks.append(
                call("POST", "/api/v1/tasks/", token, {"kind": kind, "document": question})
            )
    full = times(visitor, path, count)
    left = time.perf_counter()
    for task in tasks:
        call("DELETE", f"/api/v1/tasks/{task['id']}", token)
    while searching() and time.perf_counter() - left < WAIT_S:
        time.sleep(0.05)
    ended = time.perf_counter() - left

    def said(found: list[float]) -> str:
        return f"p50 {statistics.median(found):.0f} ms, p95 {found[int(0.95 * count)]:.0f} ms"

    ratio = full[int(0.95 * count)] / idle[int(0.95 * count)]
    print(f"idle {said(idle)}; full {said(full)}: p95 {ratio:.2f} times; ended {ended:.1f} s after")
    return 0


if __name__ == "__main__":
    sys.exit(main())
