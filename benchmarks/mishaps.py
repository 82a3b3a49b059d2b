"""What a site goes through: clients that stall, a database that is away or hangs, a full disk, two
writers on one rig, a restart.

    .venv/bin/python -m benchmarks.mishaps [slow | away | hangs | full | writers | restart …]

Each on a site of its own; prints what was seen. The full disk needs the right to mount, the stalled
clients nginx with ``deploy/nginx.conf``, for before a site they are its matter.
"""

from __future__ import annotations

import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from benchmarks.faults import RIG, names
from benchmarks.site import ROOT, Site

PORT, PROXY_PORT = 8078, 8079
STALLED, STALLED_S = 200, 30.0
AWAY_S = 60.0
DISK_MB = 420
ROUNDS = 1000
BALLAST = [{"id": f"l{n}", "name": "x" * 100, "kind": "resistive", "watts": 100} for n in range(80)]
"""Loads that make a rig some ten kilobytes."""


def _proxy(folder: Path) -> subprocess.Popen[bytes]:
    """nginx before the site as it is deployed, but for TLS and for what one address may do."""
    text = (ROOT / "deploy" / "nginx.conf").read_text(encoding="utf-8")
    text = re.sub(r"  server {\n    listen 80;.*?\n  }\n", "", text, flags=re.DOTALL)
    text = re.sub(r" *(ssl_|http2|limit_)[^;]*;\n", "", text)
    text = text.replace("web:8000", f"127.0.0.1:{PORT}").replace("443 ssl http2", str(PROXY_PORT))
    text = text.replace("/dev/stdout", "/dev/null")
    (folder / "nginx.conf").write_text(f"daemon off;\npid {folder}/pid;\n{text}", encoding="utf-8")
    return subprocess.Popen(["nginx", "-p", str(folder), "-c", str(folder / "nginx.conf")])


def slow() -> None:
    """Two hundred clients send a part of a request and no more; what others wait meanwhile."""
    with tempfile.TemporaryDirectory(prefix="im-proxy-") as folder, Site(PORT) as site:
        proxy = _proxy(Path(folder))
        through = Site(PROXY_PORT)
        through.wait_ready()
        quiet = _waits(through, 5.0)
        held = []
        for n in range(STALLED):
            link = socket.create_connection(("127.0.0.1", PROXY_PORT))
            link.sendall(b"POST /account/sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\n")
            if n % 2:  # a body that never comes, instead of a head that never ends
                link.sendall(b"Content-Length: 4000\r\n\r\nusername=")
            held.append(link)
        busy = _waits(through, STALLED_S)
        for link in held:
            link.close()
        proxy.terminate()
        proxy.wait()
        straight = _waits(site, 2.0)
    print(f"slow: before {_said(quiet)}; past the proxy {_said(straight)}")
    print(f"slow: with {STALLED} stalled {_said(busy)}")


def _waits(site: Site, seconds: float) -> list[float]:
    """What requests wait, one after another, for so long [s]; twenty seconds where none answers."""
    waits, until = [], time.monotonic() + seconds
    while time.monotonic() < until:
        began = time.monotonic()
        status, _, _ = site.ask("GET", "/account/sign-in/")
        waits.append(time.monotonic() - began if status == 200 else 20.0)
        time.sleep(0.05)
    return sorted(waits)


def _said(waits: list[float]) -> str:
    ms = [1000 * w for w in waits]
    return f"p50 {ms[len(ms) // 2]:.0f}, p95 {ms[int(0.95 * len(ms))]:.0f}, most {ms[-1]:.0f} ms"


def _seen_while(site: Site, until: float) -> Counter[str]:
    """What pages and programs are answered meanwhile, and whether it says to come back."""
    seen: Counter[str] = Counter()
    while time.monotonic() < until:
        for path in ("/account/sign-in/", "/api/v1/rigs/", "/health", "/ready"):
            status, _, headers = site.ask("GET", path, within_s=40.0)
            again = ", come back" if "Retry-After" in headers else ""
            seen[f"{path} {status}{again}"] += 1
        time.sleep(0.5)
    return seen


def away() -> None:
    """The database's folder is gone for a minute, and the server is killed."""
    with Site(PORT) as site:
        site.ask("POST", "/api/v1/rigs/", {"name": "before", "document": RIG})
        data = Path(site.folder) / "db" / "data"
        data.rename(data.with_name("elsewhere"))
        for process in site.processes("mariadbd"):
            process.kill()
        seen = _seen_while(site, time.monotonic() + AWAY_S)
        data.with_name("elsewhere").rename(data)
        back = site.wait_ready()
        print(f"away for {AWAY_S:.0f} s: {dict(seen)}; ready {back:.1f} s after, has {names(site)}")


def hangs() -> None:
    """The database server is stopped for a minute and goes on."""
    with Site(PORT) as site:
        stopped = site.processes("mariadbd")
        for process in stopped:
            process.send_signal(signal.SIGSTOP)
        seen = _seen_while(site, time.monotonic() + AWAY_S)
        for process in stopped:
            process.send_signal(signal.SIGCONT)
        print(f"hangs for {AWAY_S:.0f} s: {dict(seen)}; ready {site.wait_ready():.1f} s after")


def full() -> None:
    """The disk fills up under writes, and is emptied again."""
    with tempfile.TemporaryDirectory(prefix="im-full-") as folder:
        mount = ["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m", "tmpfs", folder]
        subprocess.run(mount, check=True)
        try:
            with Site(PORT, folder) as site:
                _fill(site, Path(folder))
        finally:
            subprocess.run(["umount", "-l", folder], check=True)


def _fill(site: Site, folder: Path) -> None:
    stored: list[str] = []
    answers: Counter[int] = Counter()

    def write(name: str) -> None:
        document = RIG | {"name": name, "loads": BALLAST}
        body = {"name": name, "document": document}
        status, _, _ = site.ask("POST", "/api/v1/rigs/", body, within_s=60.0)
        answers[status] += 1
        stored.extend([name] if status == 201 else [])

    write("before")
    with (folder / "ballast").open("wb") as ballast:
        try:
            while True:
                ballast.write(bytes(1 << 20))
                ballast.flush()
        except OSError:
            pass  # it is full
    began = time.monotonic()
    n = 0
    while n < 480 and time.monotonic() - began < AWAY_S:
        write(f"full{n}")
        n += 1
    page = site.ask("GET", "/account/sign-in/", within_s=60.0)[0]
    (folder / "ballast").unlink()
    back = site.wait_ready()
    write("after")
    there = Counter(names(site))
    lost = [name for name in stored if there[name] != 1]
    print(
        f"full: answers to writes {dict(answers)}, a page {page}; ready {back:.1f} s after room "
        f"was made; lost or doubled {len(lost)} of {len(stored)}; writes again {'after' in stored}"
    )


def writers() -> None:
    """Two write over the same version of one rig at once: one wins, the other is told."""
    with Site(PORT) as site, ThreadPoolExecutor(2) as both:
        made = site.ask("POST", "/api/v1/rigs/", {"name": "both", "document": RIG})[1]
        path = f"/api/v1/rigs/{made['id']}"
        outcomes: Counter[str] = Counter()
        version = made["version"]

        def write(name: str, tag: str) -> tuple[int, str]:
            return site.ask("PUT", path, {"name": name, "document": RIG}, If_Match=tag)[0], name

        for n in range(ROUNDS):
            tag = f'"rig-{made["id"]}-{version}"'
            requested = [both.submit(write, f"{who}{n}", tag) for who in ("a", "b")]
            got = [one.result() for one in requested]
            outcomes[" and ".join(sorted(str(status) for status, _ in got))] += 1
            won = [name for status, name in got if status == 200]
            _, now, _ = site.ask("GET", path)
            right = len(won) == 1 and now["name"] == won[0] and now["version"] == version + 1
            outcomes["wrong"] += not right
            version = now["version"]
    print(f"writers: {ROUNDS} rounds, {dict(outcomes)}")


def restart() -> None:
    """The site is stopped as an operator stops it, and started again on what it has."""
    with tempfile.TemporaryDirectory(prefix="im-again-") as folder:
        with Site(PORT, folder):
            pass
        took = []
        for _ in range(5):
            began = time.monotonic()
            site = Site(PORT, folder)
            site.begin()
            while site.ask("GET", "/account/sign-in/", within_s=5.0)[0] != 200:
                time.sleep(0.02)
            took.append(time.monotonic() - began)
            site.__exit__(None, None, None)
    print(f"restart: first page after {', '.join(f'{t:.1f}' for t in took)} s")


ALL = {
    "slow": slow,
    "away": away,
    "hangs": hangs,
    "full": full,
    "writers": writers,
    "restart": restart,
}


def main() -> None:
    for name in sys.argv[1:] or list(ALL):
        ALL[name]()


if __name__ == "__main__":
    main()
