"""A hundred thousand requests nobody would send: whether any is answered by an error of ours.

    IRONMARGIN_TESTING=1 .venv/bin/python tools/with_database.py -m benchmarks.fuzz [TIMES [SEED]]

Every address of the table with every method, as whoever owns the demo and as nobody: numbers that
are none, huge, tiny or in other letters, paths into nowhere, documents with something odd put
somewhere, halves of files. Prints the answers by status, and every request answered by 500 or more
that does not say to come back.
"""

from __future__ import annotations

import contextlib
import copy
import json
import os
import random
import sys
import time
from collections import Counter
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "web.project.settings")

NASTY: tuple[Any, ...] = (
    "", " ", "nan", "inf", "-inf", "1e400", "-1", "0", "1e-320", "1e308", "9" * 400, "12,5", "٣٤",
    "\x00", "\ud800", "𝕏" * 50, "null", "[]", "{}", "'\"><script>", "../../etc/passwd", "%s%n",
    "on", "rig.loads[0].lra_a", "rig.loads[9999].x.y", "supply", "load", "high-cool", "start",
    "L1L2", "2026-13-40", "25:99", "a" * 5000, "None", "true", "1", "2", "7", "50", "-0", "0x10",
)  # fmt: skip
VALUES: tuple[Any, ...] = (
    *NASTY, None, True, False, 0, -1, 1e308, 1e-320, 2**63, -(2**70), [], {}, [[]], [None],
    {"": ""}, float("nan"), float("inf"), ["x"] * 300, {"kind": []}, {"kind": "generator"},
)  # fmt: skip
NAMES = (
    "document", "saved", "version", "units", "units_changed", "name", "kind", "load", "column",
    "value", "mode", "on", "once", "picture", "against", "start", "x", "y", "x.from", "x.to", "row",
    "outdoor", "at_m", "across", "back", "hour", "press", "at", "amps", "volts", "reading", "place",
    "task0.start", "task0.minutes", "day", "tasks", "pk", "note", "add_load", "path_op",
    "use_supply", "kept_rig", "remove", "what", "lines", "entry.peak_a",
    "entry.outcome", "entry.notes", "sure",
    "call", "theme", "difficulty", "seed", "client", "place", "date", "email", "role", "token",
    "cursor", "after", "job", "size", "field", "figure", "rig.main_a", "supply.continuous_w",
    "rig.loads[0].lra_a", "trace", "text", "plate", "prices.gasoline_per_l", "q", "trials",
)  # fmt: skip
METHODS = ("get", "get", "get", "post", "post", "post", "post", "head", "put", "delete", "options")
LEFT_OUT = ("account-delete", "sign-out", "enter-demo", "meter-stream")
"""What ends the game, or does not end."""


class Draw:
    """Odd things, the same for the same seed."""

    def __init__(self, seed: int, documents: list[dict[str, Any]]) -> None:
        self.random, self.documents = random.Random(seed), documents

    def one(self, of: tuple[Any, ...]) -> Any:
        """One of several."""
        return of[self.random.randrange(len(of))]

    def word(self) -> str:
        """A value as a form sends it."""
        if self.random.random() < 0.25:
            return self.document()
        if self.random.random() < 0.2:
            return str(
                self.random.choice((self.random.uniform(-1e3, 1e4), self.random.getrandbits(20)))
            )
        return str(self.one(NASTY))

    def document(self) -> str:
        """A question with something odd put somewhere, or cut short."""
        found = copy.deepcopy(self.random.choice(self.documents))
        for _ in range(self.random.randint(0, 3)):
            at: Any = found
            for _ in range(self.random.randint(1, 5)):
                keys = (
                    list(at)
                    if isinstance(at, dict)
                    else range(len(at))
                    if isinstance(at, list)
                    else ()
                )
                if not keys:
                    break
                key = self.random.choice(list(keys))
                if self.random.random() < 0.4 or not isinstance(at[key], dict | list):
                    at[key] = copy.deepcopy(self.one(VALUES))
                    break
                at = at[key]
        text = json.dumps(found)
        return text if self.random.random() < 0.9 else text[: self.random.randrange(len(text))]

    def fields(self) -> dict[str, Any]:
        """A form."""
        names = self.random.sample(NAMES, self.random.randint(0, 6))
        found = {name: self.word() for name in names}
        if self.random.random() < 0.5:
            found["document"] = self.document()
        return found

    def file(self) -> Any:
        """An upload, whole or damaged, as what its name says or not."""
        from django.core.files.uploadedfile import SimpleUploadedFile

        raw = self.random.choice((
            self.document().encode("utf-8", "replace"), self.random.randbytes(300), b"",
            "name;kind;running_a\nf\xfcr;resistive;3,5".encode("cp1252"),
            "t_s,a\n0,1\n0.1,60\n".encode("utf-16"), b"PK\x03\x04" + self.random.randbytes(80),
        ))  # fmt: skip
        return SimpleUploadedFile(self.random.choice(("a.json", "a.csv", "a.zip", "ü.txt")), raw)


def addresses() -> list[tuple[str, Any]]:
    """Name and pattern of every address."""
    from django.urls import get_resolver

    found: list[tuple[str, Any]] = []

    def walk(resolver: Any, before: str) -> None:
        for one in resolver.url_patterns:
            path = before + str(one.pattern)
            if hasattr(one, "url_patterns"):
                walk(one, path)
            else:
                found.append((one.name or path, path))

    walk(get_resolver(), "/")
    return [(name, path) for name, path in found if name not in LEFT_OUT]


def main() -> int:
    import django

    django.setup()
    from django.conf import settings
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.test import Client

    from web.api.models import make
    from web.setups import repository
    from web.setups.demo import load_demo
    from web.setups.models import SavedSetup

    wanted = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    settings.JOBS_INLINE = False
    call_command("migrate", verbosity=0)
    load_demo()
    user = User.objects.order_by("pk")[0]
    draw = Draw(seed, [repository.compose(s) for s in SavedSetup.objects.all()])
    token = make(user, "fuzz", "write", 7)[1]
    table = addresses()
    client, nobody = (Client(raise_request_exception=False, HTTP_HOST="127.0.0.1") for _ in "ab")
    seen: Counter[int] = Counter()
    refused: set[tuple[str, str]] = set()
    bad = 0
    began = time.monotonic()
    with contextlib.suppress(KeyboardInterrupt):  # ended early, it tells what it has seen
        for n in range(wanted):
            if n % 500 == 0:
                client.force_login(user)
            _, pattern = table[draw.random.randrange(len(table))]
            path, parts = "", pattern.split("<")
            for at, part in enumerate(parts):
                kind, _, rest = part.partition(">") if at else ("", "", part)
                number = str(draw.random.choice((1, 2, 3, 5, 8, 12, 99_999, 2**31, 0)))
                words = draw.random.choice(
                    ("setup", "rig", "supply", "csv", "json", "a6", "x", "0", "é")
                )
                path += (number if kind.startswith("int") else words if at else "") + rest
            method = draw.one(METHODS)
            while (pattern, method) in refused and draw.random.random() < 0.95:
                method = draw.one(METHODS)
            body: Any = draw.fields()
            more: dict[str, Any] = {}
            if draw.random.random() < 0.3:
                more["headers"] = {
                    "HX-Request": "true",
                    "HX-Target": draw.one(("hours", "verdict", "x")),
                }
            if path.startswith("/api/v1") and method in ("post", "put", "delete"):
                body = draw.document().encode("utf-8", "replace")
                more = {"content_type": "application/json"}
                more["headers"] = {
                    "Authorization": f"Bearer {token}",
                    "If-Match": draw.one(('"x"', "*")),
                }
            elif method == "post" and draw.random.random() < 0.15:
                body["file"] = draw.file()
            elif method in ("put", "delete", "options"):
                body = json.dumps(body).encode("utf-8", "replace")
                more |= {"content_type": draw.one(("application/json", "text/plain"))}
            who = nobody if draw.random.random() < 0.1 else client
            try:
                answer = getattr(who, method)(path, body, secure=True, **more)
            except (UnicodeEncodeError, ValueError):
                continue  # the test's own client cannot send it
            seen[answer.status_code] += 1
            if answer.status_code == 405:
                refused.add((pattern, method))
            if answer.status_code >= 500 and "Retry-After" not in answer.headers:
                bad += 1
                print(
                    f"{answer.status_code} {method} {path} {str(body)[:600]!r} {more}", flush=True
                )
    took = time.monotonic() - began
    print(
        f"{sum(seen.values())} requests in {took:.0f} s: {dict(sorted(seen.items()))}; {bad} errors"
    )
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
