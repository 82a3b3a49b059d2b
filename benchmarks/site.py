"""A site of its own for the programs that ill-treat one: started as ``./start`` starts it, on a
port and in a folder of its own, spoken to by the interface for programs.
"""

from __future__ import annotations

import http.client
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from types import TracebackType
from typing import Any

import psutil

ROOT = Path(__file__).resolve().parents[1]
READY_S = 120.0
TOKEN = """
from django.contrib.auth.models import User
from web.api.models import make
user, _ = User.objects.get_or_create(username="faults")
print(*(make(user, f"faults {n}", "write", 7)[1] for n in range(TOKENS)))
"""
TOKENS = 12
"""Tokens that take turns: each may ask so often in a minute."""


class Site:
    """A running site; ``folder`` is its own, made and taken away where none is given."""

    def __init__(self, port: int, folder: str | None = None, *, demo: bool = False) -> None:
        self.port, self.given, self.demo = port, folder, demo
        self.tokens: list[str] = []
        self.requested = 0

    def begin(self) -> dict[str, str]:
        """Start it; its environment."""
        self.made = tempfile.TemporaryDirectory(prefix="im-") if self.given is None else None
        self.folder = self.given or (self.made.name if self.made else "")
        env = {k: v for k, v in os.environ.items() if not k.startswith("IRONMARGIN")}
        env |= {
            "PORT": str(self.port),
            "IRONMARGIN_VAR": self.folder,
            "IRONMARGIN_DEMO": str(int(self.demo)),
        }
        self.process = subprocess.Popen(["./start"], cwd=ROOT, env=env)
        return env

    def __enter__(self) -> Site:
        env = self.begin()
        try:
            self.wait_ready()
            shell = [sys.executable, "manage.py", "shell", "-c"]
            done = subprocess.run(
                [*shell, TOKEN.replace("TOKENS", str(TOKENS))],
                cwd=ROOT, env=env, capture_output=True, text=True, check=True,
            )  # fmt: skip
        except BaseException:
            self.__exit__(None, None, None)
            raise
        self.tokens = done.stdout.split()[-TOKENS:]
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.process.send_signal(signal.SIGTERM)
        self.process.wait(90)
        if self.made is not None:
            self.made.cleanup()

    def processes(self, kind: str) -> list[psutil.Process]:
        """The processes of the site with a word in their command."""
        found = []
        for process in psutil.Process(self.process.pid).children(recursive=True):
            try:
                words = process.cmdline()
            except psutil.Error:
                continue
            if any(kind in word for word in words):
                found.append(process)
        return found

    def ask(
        self, method: str, path: str, body: Any = None, *, within_s: float = 20.0, **headers: str
    ) -> tuple[int, Any, dict[str, str]]:
        """One request: status, what was answered, its headers; status 0 where nobody answers."""
        link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=within_s)
        self.requested += 1
        sent = {"Content-Type": "application/json"}
        if self.tokens:
            sent["Authorization"] = f"Bearer {self.tokens[self.requested % TOKENS]}"
        sent |= {name.replace("_", "-"): value for name, value in headers.items()}
        try:
            link.request(method, path, json.dumps(body) if body is not None else None, sent)
            answer = link.getresponse()
            raw = answer.read()
            plain = json.loads(raw) if raw[:1] in (b"{", b"[") else raw.decode(errors="replace")
            return answer.status, plain, dict(answer.getheaders())
        except (OSError, http.client.HTTPException, ValueError):
            return 0, None, {}
        finally:
            link.close()

    def wait_ready(self) -> float:
        """Seconds until the site answers that it is ready."""
        began = time.monotonic()
        while time.monotonic() - began < READY_S:
            if self.ask("GET", "/ready", within_s=5.0)[0] == 200:
                return time.monotonic() - began
            time.sleep(0.05)
        raise SystemExit("the site does not come back")
