"""A remedy put into the setup at hand, as a change like any other."""

from __future__ import annotations

from django.http import HttpRequest

from ironmargin.document import Document
from ironmargin.planning.first_fix import first_fix
from ironmargin.setup.reading import write_setup
from web.accounts.access import account_of
from web.setups import judging
from web.storage.views import number_of
from web.verdicts import jobs
from web.verdicts.models import Job

FIRST = "first"


def remedied(request: HttpRequest, document: Document, wanted: str) -> Document | None:
    """The document with the remedy that is wanted: ``first``, or ``JOB:NUMBER`` of a search; None
    where it is not there any more.
    """
    if wanted == FIRST:
        checked = judging.judge(document).checked
        remedy, _ = first_fix(checked) if checked is not None else (None, False)
        changed = None if remedy is None else write_setup(remedy.setup)
    else:
        changed = _of_search(request, *wanted.split(":")[:2])
    return None if changed is None else changed | {"name": document.get("name", "")}


def _of_search(request: HttpRequest, job: str, number: str = "") -> Document | None:
    """The setup a remedy of an account's own search makes."""
    owner, kind = account_of(request), "remedies"
    found = Job.objects.filter(pk=number_of(job), owner=owner, kind=kind, status=jobs.DONE).first()
    rows = found.found["remedies"] if found is not None else []
    at = number_of(number)
    return dict(rows[at]["setup"]) if at < len(rows) else None
