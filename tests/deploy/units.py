"""Runs the units of deploy/systemd as they are written, and nginx with deploy/nginx.conf, under a
throw-away prefix: what of systemd they need, and no more.
"""

from __future__ import annotations

import configparser
import os
import re
import signal
import socket
import subprocess
import sys
import threading
from pathlib import Path

from tools.database import die_with_parent, free_port

ROOT = Path(__file__).resolve().parents[2]
UNITS = ROOT / "deploy" / "systemd"
INSTALLED, BACKUPS, TLS = "/srv/ironmargin", "/var/backups/ironmargin", "/etc/nginx/tls"
GIVE = (
    "import os, sys; os.dup2(int(sys.argv[1]), 3); os.environ['LISTEN_PID'] = str(os.getpid()); "
    "os.execv(sys.argv[2], sys.argv[2:])"
)
"""Puts a socket where systemd does (sd_listen_fds), and becomes the command."""


class Multiple(dict[str, str]):
    """A section whose repeated options add up, a line each."""

    def __setitem__(self, key: str, value: object) -> None:
        if key in self and isinstance(value, list):
            value = [*self[key], *value]
        super().__setitem__(key, value)  # type: ignore[assignment]


def read_unit(name: str) -> configparser.RawConfigParser:
    """A unit file."""
    parser = configparser.RawConfigParser(strict=False, dict_type=Multiple)
    parser.optionxform = str  # type: ignore[assignment,method-assign]
    parser.read(UNITS / name, encoding="utf-8")
    return parser


class Unit:
    """A service: its commands, started again when they die where its file says so."""

    def __init__(self, name: str, env: dict[str, str], folder: Path) -> None:
        self.name, self.env, self.folder = name, env, folder
        unit = read_unit(f"ironmargin-{name}.service")["Service"]
        self.again = unit.get("Restart", "no") != "no"
        self.pause_s = _seconds(unit.get("RestartSec", "100ms"))
        self.commands = [self._here(line).split() for line in unit["ExecStart"].split("\n") if line]
        self.held: socket.socket | None = None
        self.process: subprocess.Popen[bytes] | None = None
        self.over = threading.Event()
        self.deaths = 0
        self.keeper: threading.Thread | None = None

    def _here(self, line: str) -> str:
        return line.replace(INSTALLED, str(ROOT)).replace(BACKUPS, str(self.folder))

    def hold(self, port: int) -> None:
        """Listen for the service, as its socket unit says; the socket outlives it."""
        unit = read_unit(f"ironmargin-{self.name}.socket")["Socket"]
        host = unit["ListenStream"].rpartition(":")[0]
        self.held = socket.create_server((host, port), backlog=int(unit["Backlog"]))

    def run(self) -> list[int]:
        """Run a service that ends by itself; the codes of its commands."""
        return [
            subprocess.run(command, env=self.env, cwd=ROOT, check=False).returncode
            for command in self.commands
        ]

    def start(self) -> None:
        """Start it, and again whenever it dies."""
        self.keeper = threading.Thread(target=self._store, daemon=True)
        self.keeper.start()

    def _store(self) -> None:
        while not self.over.is_set():
            self.process = self._begin()
            self.process.wait()
            if self.over.is_set() or not self.again:
                return
            self.deaths += 1
            self.over.wait(self.pause_s)

    def _begin(self) -> subprocess.Popen[bytes]:
        command, env = self.commands[0], self.env
        if self.held is None:
            return subprocess.Popen(command, env=env, cwd=ROOT, preexec_fn=die_with_parent)
        held = self.held.fileno()
        return subprocess.Popen(
            [sys.executable, "-c", GIVE, str(held), *command], env=env | {"LISTEN_FDS": "1"},
            cwd=ROOT, preexec_fn=die_with_parent, pass_fds=(held,), start_new_session=True,
        )  # fmt: skip

    def kill(self) -> None:
        """Kill its main process, as the kernel would when memory runs out."""
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)

    def stop(self) -> None:
        self.over.set()
        process = self.process
        if process is not None and process.poll() is None:
            process.terminate()
            try:
                process.wait(30)
            except subprocess.TimeoutExpired:
                process.kill()
        if self.keeper is not None:
            self.keeper.join()
        if self.held is not None:
            self.held.close()


def _seconds(words: str) -> float:
    found = re.fullmatch(r"(\d+)(ms|s)?", words)
    assert found is not None, words
    return int(found[1]) / (1000.0 if found[2] == "ms" else 1.0)


class Proxy:
    """nginx with the file of deploy/, its ports, its site and its certificate put in; several
    ports are as many hosts of the site.
    """

    def __init__(self, folder: Path, *sites: int) -> None:
        self.plain, self.secure = free_port(), free_port()
        tls = folder / "tls"
        tls.mkdir()
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2",
             "-subj", "/CN=ironmargin.example", "-keyout", tls / "key.pem",
             "-out", tls / "fullchain.pem"],
            check=True, capture_output=True,
        )  # fmt: skip
        words = (ROOT / "deploy" / "nginx.conf").read_text(encoding="utf-8")
        for here, there in (
            (TLS, str(tls)),
            ("server web:8000;", " ".join(f"server 127.0.0.1:{port};" for port in sites)),
            ("listen 80;", f"listen {self.plain};"),
            ("listen 443 ssl", f"listen {self.secure} ssl"),
            ("/dev/stdout", f"{folder}/access.log"),
        ):
            assert here in words, here
            words = words.replace(here, there)
        file = folder / "nginx.conf"
        file.write_text(f"daemon off;\npid {folder}/nginx.pid;\n{words}", encoding="utf-8")
        path = os.environ.get("PATH", "") + ":/usr/sbin"
        self.process = subprocess.Popen(
            ["nginx", "-p", str(folder), "-c", str(file), "-e", f"{folder}/error.log"],
            env=os.environ | {"PATH": path}, preexec_fn=die_with_parent,
        )  # fmt: skip

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait()
