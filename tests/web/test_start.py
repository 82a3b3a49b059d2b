"""The start command: what it refuses and why, that nothing stays behind, and that a killed database
loses nothing saved.
"""

from __future__ import annotations

import http.cookiejar
import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
import urllib.request
from collections.abc import Callable
from pathlib import Path

from django.test import SimpleTestCase

from tests.shared import document
from tools.database import free_port

ROOT = Path(__file__).resolve().parents[2]
PATIENCE_S = 150


def environment(var: str, **more: str) -> dict[str, str]:
    """A clean environment with a ``var`` of its own."""
    stored = {k: v for k, v in os.environ.items() if not k.startswith(("IRONMARGIN", "DJANGO"))}
    return stored | {"IRONMARGIN_VAR": var} | more


def children(of: int) -> list[int]:
    """Every process that descends from one."""
    rows = [
        line.split()
        for line in subprocess.run(
            ["ps", "-eo", "pid,ppid"], capture_output=True, text=True, check=True
        ).stdout.splitlines()[1:]
    ]
    found, wave = [], [of]
    while wave:
        wave = [int(pid) for pid, parent in rows if int(parent) in wave]
        found += wave
    return found


def alive(pid: int) -> bool:
    """Whether a process is there and no zombie."""
    try:
        return "State:\tZ" not in Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return False


def until(condition: Callable[[], bool], what: str) -> None:
    """Wait for a condition; fail if it does not come."""
    end = time.monotonic() + PATIENCE_S
    pause = threading.Event()
    while not condition():
        if time.monotonic() > end:
            raise AssertionError(f"waited {PATIENCE_S} s for {what}")
        pause.wait(0.05)


class Person:
    """Somebody with a browser's cookies and nothing else."""

    def __init__(self, base: str) -> None:
        self.base, self.jar = base, http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def get(self, path: str) -> str:
        return self.opener.open(self.base + path, timeout=20).read().decode()

    def post(self, path: str, **fields: str) -> str:
        token = next(c.value for c in self.jar if c.name == "csrftoken")
        request = urllib.request.Request(
            self.base + path,
            urllib.parse.urlencode(fields).encode(),
            {"X-CSRFToken": token or "", "Referer": self.base},
        )
        answer = self.opener.open(request, timeout=20)
        return answer.headers.get("HX-Redirect") or answer.geturl().removeprefix(self.base)


class Start(SimpleTestCase):
    def refused(self, *words: str, **more: str) -> str:
        with tempfile.TemporaryDirectory() as var:
            done = subprocess.run(
                [sys.executable, str(ROOT / "tools/serve.py"), *words],
                env=environment(var, **more),
                capture_output=True,
                text=True,
                timeout=PATIENCE_S,
                check=False,
            )
        self.assertNotEqual(done.returncode, 0)
        self.assertEqual(len(done.stderr.strip().splitlines()), 1, done.stderr)
        return done.stderr

    def test_refusals_say_why_in_one_line(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            self.assertIn(
                "choose another: PORT=8001", self.refused(PORT=str(taken.getsockname()[1]))
            )
        self.assertIn("must be a port number", self.refused(PORT="http"))
        self.assertIn("usage", self.refused("--what"))
        self.assertIn("mariadb-server", self.refused(PORT=str(free_port()), PATH="/nonexistent"))

    def test_a_var_that_cannot_be_written(self) -> None:
        with tempfile.NamedTemporaryFile() as file:
            done = subprocess.run(
                [sys.executable, str(ROOT / "tools/serve.py")],
                env=environment(f"{file.name}/x", PORT=str(free_port())),
                capture_output=True,
                text=True,
                timeout=PATIENCE_S,
                check=False,
            )
        self.assertEqual(done.returncode, 1)
        self.assertIn("cannot write", done.stderr)

    def test_a_killed_database_loses_nothing_and_a_stop_leaves_nothing(self) -> None:
        port = str(free_port())
        with tempfile.TemporaryDirectory() as var, (Path(var) / "out").open("w+") as out:
            process = subprocess.Popen(
                [sys.executable, str(ROOT / "tools/serve.py")],
                env=environment(var, PORT=port),
                stdout=out,
                stderr=out,
            )
            self.addCleanup(process.kill)

            def said(words: str) -> bool:
                return words in (Path(var) / "out").read_text()

            until(lambda: said("Iron Margin is at"), "the start")
            self.assertEqual((Path(var) / "db/password").stat().st_mode & 0o777, 0o600)
            self.assertEqual((Path(var) / "secret_key").stat().st_mode & 0o777, 0o600)
            person = Person(f"http://127.0.0.1:{port}")
            self.assertIn("Open the demo", person.get("/"))
            person.post("/account/demo/")
            where = person.post(
                "/setups/save/",
                document=json.dumps(document(1) | {"name": "Saved before the crash"}),
            )
            self.assertRegex(where, r"/setups/\d+/")
            server = next(
                p
                for p in children(process.pid)
                if "mariadbd" in Path(f"/proc/{p}/comm").read_text()
            )
            os.kill(server, signal.SIGKILL)
            until(lambda: said("starting it again"), "the database to be missed")

            def back() -> bool:
                try:
                    return "Saved before the crash" in person.get(where)
                except OSError:
                    return False

            until(back, "the setup to be back")
            family = children(process.pid)
            self.assertGreaterEqual(len(family), 3)
            process.send_signal(signal.SIGTERM)
            self.assertEqual(process.wait(PATIENCE_S), 0)
            self.assertEqual([p for p in family if alive(p)], [])
