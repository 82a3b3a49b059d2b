"""The whole database as one file and back: consistent while others write, checked to its end.

The file is a gzip of the server's own dump, made in one transaction, with what it was made by in
its first line and its own end mark in its last.
"""

from __future__ import annotations

import contextlib
import gzip
import json
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from ironmargin.document import Document

Settings = dict[str, str]
"""Of a database: host, port, user, password and name, as Django has them."""
FORMAT, VERSION = "iron-margin/backup", 1
HEAD, END = b"-- ironmargin ", b"-- Dump completed"
PIECE = 1 << 20


class BackupError(Exception):
    """A backup that could not be made or taken back; the message says why and what to do."""


def _program(*names: str) -> str:
    for name in names:
        found = shutil.which(name)
        if found:
            return found
    raise BackupError(f"{names[0]} is not installed; apt-get install mariadb-client")


@contextlib.contextmanager
def _credentials(database: Settings) -> Iterator[str]:
    """A file for the client's programs, so that the password is in no list of processes."""
    with tempfile.NamedTemporaryFile("w", suffix=".cnf", encoding="utf-8") as file:
        os.chmod(file.name, 0o600)
        file.write(
            f"[client]\nhost={database['HOST']}\nport={database['PORT']}\n"
            f'user={database["USER"]}\npassword="{database["PASSWORD"]}"\nprotocol=tcp\n'
        )
        file.flush()
        yield f"--defaults-extra-file={file.name}"


def dump(database: Settings, to: Path, migrations: dict[str, str]) -> int:
    """Write a database into a file; the file is there only once it is whole. Returns its bytes.

    Raises:
        BackupError: it could not be.
    """
    head = {
        "format": FORMAT,
        "version": VERSION,
        "at": datetime.now(UTC).isoformat(timespec="seconds"),
        "migrations": migrations,
    }
    beside = to.with_name(to.name + ".part")
    try:
        with _credentials(database) as credentials, gzip.open(beside, "wb") as file:
            file.write(HEAD + json.dumps(head).encode() + b"\n")
            command = [
                _program("mariadb-dump", "mysqldump"), credentials, "--single-transaction",
                "--quick", "--skip-lock-tables", "--hex-blob", "--default-character-set=utf8mb4",
                database["NAME"],
            ]  # fmt: skip
            with tempfile.TemporaryFile() as said:
                dump = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=said)  # noqa: S603
                with dump as process:
                    if process.stdout is not None:
                        shutil.copyfileobj(process.stdout, file, PIECE)
                if process.returncode:
                    said.seek(0)
                    raise BackupError(said.read(500).decode(errors="replace").strip())
        verify(beside)
        os.chmod(beside, 0o600)
        beside.replace(to)
    except OSError as error:
        raise BackupError(f"cannot write {to}: {error.strerror or error}") from None
    finally:
        beside.unlink(missing_ok=True)
    return to.stat().st_size


def verify(file: Path) -> Document:
    """What a backup says of itself, once it was read to its very end.

    Raises:
        BackupError: it is none, or not whole.
    """
    try:
        with gzip.open(file, "rb") as whole:
            first = whole.readline(100_000)
            last = b""
            while piece := whole.read(PIECE):
                last = (last + piece)[-4096:]
    except (OSError, EOFError) as error:
        raise BackupError(f"{file} is no whole backup: {error}; take another") from None
    try:
        if not first.startswith(HEAD):
            raise ValueError
        head: Document = json.loads(first[len(HEAD) :])
        if head["format"] != FORMAT or head["version"] != VERSION:
            raise ValueError
    except (ValueError, KeyError, TypeError):
        raise BackupError(f"{file} is no backup of this site") from None
    if END not in last:
        raise BackupError(f"{file} ends before its end; take another")
    return head


def load(database: Settings, file: Path) -> Document:
    """Put a backup into an empty database; returns what it says of itself.

    Raises:
        BackupError: it is no whole backup, or could not be taken in.
    """
    head = verify(file)
    with _credentials(database) as credentials, gzip.open(file, "rb") as whole:
        command = [_program("mariadb", "mysql"), credentials, "--binary-mode", database["NAME"]]
        with tempfile.TemporaryFile() as said:
            loading = subprocess.Popen(command, stdin=subprocess.PIPE, stderr=said)  # noqa: S603
            with loading as process:
                if process.stdin is not None:
                    with contextlib.suppress(BrokenPipeError), process.stdin:
                        shutil.copyfileobj(whole, process.stdin, PIECE)
            if process.returncode:
                said.seek(0)
                raise BackupError(said.read(500).decode(errors="replace").strip())
    return head
