"""A private MariaDB server in a directory of its own, on 127.0.0.1 and a port of its own.

Never the machine's own server: it is started by ``./start`` and the tests, and stopped by them. The
password is made with the directory and readable by its owner only.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

READY_S = 60
PR_SET_PDEATHSIG = 1
STOP_S = 30
ROOT = Path(__file__).resolve().parents[1]
RELAXED = [
    "--innodb-flush-log-at-trx-commit=0",
    "--sync-binlog=0",
    "--innodb-doublewrite=0",
    "--innodb-flush-method=nosync",
]
SERVER = [
    "--character-set-server=utf8mb4",
    "--collation-server=utf8mb4_uca1400_as_ci",
    "--skip-log-bin",
    "--performance-schema=OFF",
    "--innodb-buffer-pool-size=64M",
    "--max-connections=60",
    "--skip-name-resolve",
]


class DatabaseError(Exception):
    """The server could not be made or does not answer; the message says what to do."""


def die_with_parent() -> None:
    """In a child: be told to stop when the parent dies, however it dies (Linux)."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


OWN_PORTS = (20_000, 32_000)
"""Below the ports that a connection may be given as its own: while the server is away, somebody who
dials a port of those may be given that very port, reach themselves, and hold it."""


def free_port() -> int:
    """A port on 127.0.0.1 that nobody listens on."""
    for _ in range(200):
        port = OWN_PORTS[0] + secrets.randbelow(OWN_PORTS[1] - OWN_PORTS[0])
        with socket.socket() as probe:
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise DatabaseError("no port from 20000 to 32000 is free for the database")


def _program(*names: str) -> str:
    for name in names:
        found = shutil.which(name) or shutil.which(name, path="/usr/sbin:/usr/local/sbin")
        if found:
            return found
    raise DatabaseError(f"{names[0]} is not installed; run: apt-get install mariadb-server")


def _as_root() -> list[str]:
    return ["--user=root"] if os.geteuid() == 0 else []


class Database:
    """One server in ``home``; ``durable`` keeps every committed row through a crash."""

    def __init__(self, home: Path, *, durable: bool = True) -> None:
        self.home, self.durable = home, durable
        self.process: subprocess.Popen[bytes] | None = None
        self.run = Path(
            tempfile.mkdtemp(prefix="ironmargin-")
        )  # a socket's path must stay under 108 characters

    @property
    def data(self) -> Path:
        return self.home / "data"

    @property
    def port(self) -> int:
        return int((self.home / "port").read_text())

    def initialise(self) -> None:
        """Make the data directory and its password, all or nothing."""
        if (self.home / "made").exists():
            return
        shutil.rmtree(self.home, ignore_errors=True)
        self.home.mkdir(parents=True, mode=0o700)
        password = secrets.token_urlsafe(24)
        _private(self.home / "password", password)
        made = subprocess.run(
            [
                _program("mariadb-install-db"),
                "--no-defaults",
                f"--datadir={self.data}",
                "--auth-root-authentication-method=normal",
                "--skip-test-db",
                *_as_root(),
            ],
            capture_output=True,
            text=True,
            check=False,
        )
        if made.returncode:
            raise DatabaseError(
                f"the database could not be made in {self.home}: "
                f"{_last(made.stderr or made.stdout)}"
            )
        first = self.home / "first.sql"
        _private(
            first,
            "\n".join(
                [
                    "CREATE DATABASE ironmargin CHARACTER SET utf8mb4 COLLATE "
                    "utf8mb4_uca1400_as_ci;",
                    f"CREATE USER ironmargin@'127.0.0.1' IDENTIFIED BY '{password}';",
                    "GRANT ALL ON ironmargin.* TO ironmargin@'127.0.0.1';",
                    r"GRANT ALL ON `test\_ironmargin%`.* TO ironmargin@'127.0.0.1';",
                    f"ALTER USER root@localhost IDENTIFIED BY '{password}';",
                    "",
                ]
            ),
        )
        self.start(f"--init-file={first}")
        self.stop()
        first.unlink()
        (self.home / "made").touch()

    def start(self, *more: str) -> None:
        """Start the server and wait until it answers.

        Raises:
            DatabaseError: it does not.
        """
        (self.home / "port").write_text(str(self._port()))
        flags = SERVER if self.durable else SERVER + RELAXED
        log = (self.home / "log").open("ab")
        # A session of its own: Ctrl-C at the terminal is for whoever started it, who then stops it
        # in order.
        self.process = subprocess.Popen(
            [
                _program("mariadbd"),
                "--no-defaults",
                f"--datadir={self.data}",
                "--bind-address=127.0.0.1",
                f"--port={self.port}",
                f"--socket={self.run / 's'}",
                f"--pid-file={self.run / 'pid'}",
                *flags,
                *_as_root(),
                *more,
            ],
            stdout=log,
            stderr=log,
            start_new_session=True,
            preexec_fn=die_with_parent,
        )
        log.close()
        until = time.monotonic() + READY_S
        while time.monotonic() < until:
            if self.process.poll() is not None:
                raise DatabaseError(
                    f"the database server stopped: {self.last_error()}; see {self.home / 'log'}"
                )
            if self.answers():
                return
            time.sleep(0.05)
        self.stop()
        raise DatabaseError(
            f"the database does not answer after {READY_S} s; see {self.home / 'log'}, "
            "then run ./start --fresh"
        )

    def _port(self) -> int:
        """The port of last time if it is still free."""
        try:
            last = self.port
            with socket.socket() as probe:
                probe.setsockopt(
                    socket.SOL_SOCKET, socket.SO_REUSEADDR, 1
                )  # old connections may still be closing
                probe.bind(("127.0.0.1", last))
            return last
        except (OSError, ValueError):
            return free_port()

    def answers(self) -> bool:
        """Whether the server answers on its port."""
        ping = [
            _program("mariadb-admin"),
            "--no-defaults",
            "--host=127.0.0.1",
            f"--port={self.port}",
            "--protocol=tcp",
            "--user=nobody",
            "ping",
        ]
        done = subprocess.run(ping, capture_output=True, text=True, check=False)
        return done.returncode == 0 or "Access denied" in done.stderr

    def last_error(self) -> str:
        """The last error of the server's log."""
        try:
            lines = (self.home / "log").read_text(errors="replace").splitlines()
        except OSError:
            return "no log"
        errors = [line for line in lines if "ERROR" in line]
        return _last("\n".join(errors or lines))

    def stop(self) -> None:
        """Stop the server and wait until it is gone."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(STOP_S)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self.process = None

    def close(self) -> None:
        """Stop, and take the socket's directory away."""
        self.stop()
        shutil.rmtree(self.run, ignore_errors=True)


def _private(path: Path, text: str) -> None:
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
        file.write(text)


def _last(text: str) -> str:
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    return lines[-1][:200] if lines else "no message"


def secret_key(var: Path) -> None:
    """Make the web application's secret at the first start."""
    if not (var / "secret_key").exists():
        _private(var / "secret_key", secrets.token_urlsafe(50))


@contextlib.contextmanager
def throwaway(**more: str) -> Iterator[dict[str, str]]:
    """A server that is gone afterwards, and the environment a Django command needs to use it."""
    with tempfile.TemporaryDirectory(prefix="ironmargin-throwaway-") as folder:
        var = Path(folder)
        secret_key(var)
        database = Database(var / "db", durable=False)
        try:
            database.initialise()
            database.start()
            yield os.environ | {"PYTHONPATH": str(ROOT), "IRONMARGIN_VAR": folder} | more
        finally:
            database.close()


if __name__ == "__main__":
    sys.exit("this is a module of ./start and ./test")
