"""The setup a page is about, whole and sound."""

from __future__ import annotations

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import read_setup
from web.accounts.access import account_of
from web.setups import repository
from web.setups.context import take_to_hand
from web.setups.models import SavedSetup
from web.verdicts.view_model import plain_document


def sound_setup(request: HttpRequest, pk: int) -> tuple[SavedSetup, Setup]:
    """A setup of whoever asks, taken to hand, as stored and as the core reads it.

    Raises:
        Http404: it is not theirs, or has a figure to correct first.
    """
    saved = get_object_or_404(
        SavedSetup.objects.of(account_of(request)).select_related("rig", "supply"), pk=pk
    )
    try:
        setup = read_setup(repository.compose(saved))
    except SetupError as error:
        raise Http404(str(error)) from None
    take_to_hand(request, saved.pk)
    return saved, setup


def sound_document(request: HttpRequest, pk: int) -> tuple[SavedSetup, Document]:
    """A setup of whoever asks, as stored and as the core writes it.

    Raises:
        Http404: it is not theirs, or has a figure to correct first.
    """
    saved = get_object_or_404(
        SavedSetup.objects.of(account_of(request)).select_related("rig", "supply"), pk=pk
    )
    document, _ = plain_document(repository.compose(saved))
    if document is None:
        raise Http404
    return saved, document
