"""A site for tests of the deadline: run by the real web server and with the real database, on
addresses that take for ever.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import django

django.setup()

from django.db import transaction  # noqa: E402
from django.utils import timezone  # noqa: E402

from web.accounts.models import Tally  # noqa: E402
from web.project.deadline import Requested, Watch, end_process, ends_in_time  # noqa: E402

FOLDER = Path(os.environ["LATE_SITE_FOLDER"])


def for_ever() -> None:
    while True:
        try:
            while True:
                pass
        except BaseException:  # as stubborn as code can be
            continue


def site(environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
    path = environ["PATH_INFO"]
    if path == "/late/":
        for_ever()
    if path == "/late/saving/":
        Tally.objects.create(key="before", began=timezone.now())
        with transaction.atomic():
            Tally.objects.create(key="meanwhile", began=timezone.now())
            for_ever()
    if path == "/beside/":  # answers when somebody reads what it writes
        (FOLDER / "begun").write_text("yes")
        (FOLDER / "pipe").write_text("on")
    if path == "/body/":
        environ["wsgi.input"].read()
    start_response("200 OK", [("Content-Type", "text/plain")])
    return Answer([str(os.getpid()).encode()])


class Answer(list[bytes]):
    """An answer that can be closed, as Django's."""


class Patient(Watch):
    """Leaves whoever is beside a late request all the time it needs."""

    def begin(self, environ: dict[str, Any]) -> Requested:
        one = super().begin(environ)
        one.until += 600.0 if one.path == "/beside/" else 0.0
        return one


application = ends_in_time(site, Patient(end_process))
