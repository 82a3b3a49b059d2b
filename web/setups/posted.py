"""What a setup's form posted, as a document."""

from __future__ import annotations

import json

from django.http import HttpRequest

from ironmargin.document import Document
from ironmargin.setup.reading import LARGEST_FILE_BYTES
from web.accounts.access import account_of
from web.design.context import UNITS, cookie_of
from web.rigs.models import Rig
from web.setups import typical
from web.setups.form import edited
from web.storage.views import one_of
from web.supplies.models import Supply


def units_of(request: HttpRequest) -> str:
    posted = request.POST.get("units", "")
    return posted if posted in UNITS else cookie_of(request, "units", UNITS, "us")


def base_document(request: HttpRequest) -> Document | None:
    """The document a posted form stands on; None if it did not arrive."""
    raw = request.POST.get("document", "")
    try:
        document = json.loads(raw) if len(raw) <= LARGEST_FILE_BYTES else None
        json.dumps(document, ensure_ascii=False).encode()  # half a character breaks every page
    except (ValueError, RecursionError):
        return None
    return document if isinstance(document, dict) else None


def posted_document(request: HttpRequest) -> tuple[Document | None, Rig | None, Supply | None]:
    """The document with the form's inputs put in and then what it asked for, and the rig and supply
    of the inventory it stands on. One that is put back (``undo``) is taken as it was.
    """
    document = base_document(request)
    if document is None:
        return None, None, None
    post = request.POST.dict()
    if not post.get("undo"):
        document = edited(document, post, units_of(request))
        if any(post.get(ask) for ask in typical.ASKS):
            document = typical.put_in(document, post)
    owner = account_of(request)
    rig = one_of(lambda: Rig.objects.of(owner), post.get("kept_rig") or post.get("rig_pk"))
    supply = one_of(
        lambda: Supply.objects.of(owner), post.get("kept_supply") or post.get("supply_pk")
    )
    if rig is not None and post.get("kept_rig"):
        document = typical.on_rig(document, rig.document)
    if supply is not None and post.get("kept_supply"):
        document["supply"] = supply.document
    if post.get("use_supply"):
        supply = None  # a typical one instead of the one kept
    return document, rig, supply
