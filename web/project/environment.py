"""What an installation may be told by its environment: one table, each row read and checked here.

A value that cannot be is refused with one line that names it, before anything is served.
"""

from __future__ import annotations

import ipaddress
import os
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from ipaddress import IPv4Network, IPv6Network
from pathlib import Path
from typing import Any


class Wrong(Exception):
    """A value of the environment that cannot be; the message is one line with what to do."""


Values = dict[str, Any]
"""What was read, by its name; each of the type its row reads."""


@dataclass(frozen=True)
class Row:
    """One setting: its name, what is taken where it is missing, how it is read, what it means."""

    name: str
    default: str
    read: Callable[[str], Any]
    means: str


def _flag(text: str) -> bool:
    if text not in ("0", "1"):
        raise ValueError("must be 0 or 1")
    return text == "1"


def _whole(minimum: int, maximum: int) -> Callable[[str], int]:
    def read(text: str) -> int:
        if not (text.isascii() and text.isdigit() and minimum <= int(text) <= maximum):
            raise ValueError(f"must be a whole number from {minimum} to {maximum}")
        return int(text)

    return read


def _several(text: str) -> list[str]:
    return [part.strip() for part in text.split(",") if part.strip()]


def _networks(text: str) -> tuple[IPv4Network | IPv6Network, ...]:
    try:
        return tuple(ipaddress.ip_network(part) for part in _several(text))
    except ValueError:
        raise ValueError("must be networks as 192.168.0.0/16, with commas between") from None


def _one_of(*words: str) -> Callable[[str], str]:
    def read(text: str) -> str:
        if text not in words:
            raise ValueError(f"must be one of: {', '.join(w or 'nothing' for w in words)}")
        return text

    return read


def _secret(text: str) -> str:
    """What stands in a file of that name; empty where none is named."""
    if not text:
        return ""
    try:
        return Path(text).read_text(encoding="utf-8").strip()
    except OSError as error:
        raise ValueError(f"must name a file that can be read: {error.strerror}") from None


TABLE = (
    Row(
        "IRONMARGIN_VAR",
        "var",
        str,
        "folder for everything the site writes: database, keys, static files",
    ),
    Row(
        "IRONMARGIN_DB",
        "",
        str,
        "folder of the private database; if empty, `db` in the folder above",
    ),
    Row("IRONMARGIN_DB_HOST", "", str, "your own database server; if empty, the private one"),
    Row("IRONMARGIN_DB_PORT", "3306", _whole(1, 65535), "its port"),
    Row("IRONMARGIN_DB_NAME", "ironmargin", str, "its database"),
    Row("IRONMARGIN_DB_USER", "ironmargin", str, "its user"),
    Row("IRONMARGIN_DB_PASSWORD_FILE", "", _secret, "file with the password"),
    Row(
        "IRONMARGIN_SECRET_KEY_FILE",
        "",
        _secret,
        "file with a long random key; if empty, one is made",
    ),
    Row("IRONMARGIN_HOSTS", "", _several, "host names of the site, separated by commas"),
    Row("IRONMARGIN_TLS", "0", _flag, "1: behind TLS; plain HTTP requests are redirected"),
    Row(
        "IRONMARGIN_HSTS",
        "",
        _one_of("", "whole-domain"),
        "`whole-domain`: HSTS for subdomains as well",
    ),
    Row("IRONMARGIN_PROXIES", "0", _whole(0, 5), "number of proxies that add to X-Forwarded-For"),
    Row(
        "IRONMARGIN_DEADLINE_S",
        "20",
        _whole(1, 600),
        "seconds after which a request is answered 503; if it goes on, its process is replaced",
    ),
    Row("IRONMARGIN_DEMO", "0", _flag, "1: the demo is open (`./start` sets it)"),
    Row("IRONMARGIN_MAIL_HOST", "", str, "SMTP server; if empty, e-mails go to the log"),
    Row("IRONMARGIN_MAIL_PORT", "587", _whole(1, 65535), "its port"),
    Row("IRONMARGIN_MAIL_USER", "", str, "its user"),
    Row("IRONMARGIN_MAIL_PASSWORD_FILE", "", _secret, "file with the password"),
    Row("IRONMARGIN_MAIL_TLS", "1", _flag, "1: STARTTLS"),
    Row("IRONMARGIN_MAIL_FROM", "ironmargin@localhost", str, "sender of the e-mails"),
    Row("IRONMARGIN_LOG", "plain", _one_of("plain", "json"), "`json`: one JSON line per event"),
    Row(
        "IRONMARGIN_METRICS_DIR",
        "",
        str,
        "folder for the counters of the processes; if empty, nothing is counted",
    ),
    Row("IRONMARGIN_METRICS_PORT", "9109", _whole(1, 65535), "port of the metrics command"),
    Row("IRONMARGIN_METER_SIMULATED", "", str, "address of the simulated meter"),
    Row("IRONMARGIN_METER_BROKER", "", str, "address of the simulated meter's MQTT broker"),
    Row("IRONMARGIN_METER_NETS", "", _networks, "private networks in which meters may be reached"),
)


def read(environ: Mapping[str, str] = os.environ) -> Values:
    """Every setting by its name, read and checked.

    Raises:
        Wrong: one cannot be.
    """
    found = {}
    for row in TABLE:
        text = environ.get(row.name, row.default)
        try:
            found[row.name] = row.read(text)
        except ValueError as error:
            raise Wrong(f"{row.name} {error} (got {text!r})") from None
    return found


def as_markdown() -> str:
    """The table as the documentation has it."""
    rows = [f"| `{r.name}` | {f'`{r.default}`' if r.default else ''} | {r.means} |" for r in TABLE]
    return "\n".join(["| name | default | meaning |", "|---|---|---|", *rows]) + "\n"
