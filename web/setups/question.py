"""The question at hand: a setup as the form holds it, saved or not, with what it stands on."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import HttpRequest

from ironmargin.document import Document
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import write_setup
from web.accounts.access import account_of
from web.rigs.models import Rig
from web.setups import drafts, judging, repository
from web.setups.context import take_to_hand
from web.setups.models import Draft, SavedSetup
from web.setups.posted import posted_document
from web.setups.views import own_setup
from web.storage.views import number_of, one_of
from web.supplies.models import Supply


@dataclass(frozen=True)
class Question:
    """A setup as a page holds it.

    Attributes:
        document: the whole setup in the open format; it may have faults.
        saved: the stored setup it came from, None for one that was never saved.
        rig, supply: what of the inventory it stands on, each as the page had read it.
        version: of ``saved``, as the page had read it.
        changed: it differs from what is saved.
    """

    document: Document
    saved: SavedSetup | None = None
    rig: Rig | None = None
    supply: Supply | None = None
    version: int = 0
    changed: bool = False

    def setup(self) -> Setup:
        """As the core reads it.

        Raises:
            SetupError: it has faults.
        """
        return judging.read(self.document)

    def sound(self) -> Document:
        """The document as the core writes it.

        Raises:
            SetupError: it has faults.
        """
        return write_setup(self.setup())


def opened(request: HttpRequest, pk: int) -> Question:
    """The question of a page that is opened: with the changes that were not saved, where there are
    any; it stays at hand from page to page.
    """
    saved = own_setup(request, pk)
    repository.refresh(saved)
    take_to_hand(request, saved.pk)
    draft = drafts.of(request, saved)
    if draft is not None:
        return resumed(request, draft, saved)
    rig, supply = saved.rig, saved.supply
    rig = rig if rig is not None and rig.deleted_at is None else None
    supply = supply if supply is not None and supply.deleted_at is None else None
    return Question(repository.compose(saved), saved, rig, supply, saved.version)


def resumed(request: HttpRequest, draft: Draft, saved: SavedSetup | None) -> Question:
    """What was typed and not saved, on the versions it was begun from."""
    bases = {name: number_of(value) for name, value in draft.bases.items()}
    account = account_of(request)
    rig = Rig.objects.of(account).filter(pk=bases["rig_pk"]).first()
    supply = Supply.objects.of(account).filter(pk=bases["supply_pk"]).first()
    if rig is not None:
        rig.version = bases["rig_version"]
    if supply is not None:
        supply.version = bases["supply_version"]
    return Question(draft.document, saved, rig, supply, bases["version"], changed=True)


def posted(request: HttpRequest) -> Question | None:
    """The question of a form that was posted, its changes stored; None if it did not arrive."""
    document, rig, supply = posted_document(request)
    if document is None:
        return None
    mine = SavedSetup.objects.select_related("rig", "supply")
    saved = one_of(lambda: mine.of(account_of(request)), request.POST.get("saved"))
    return requested(request, document, saved, rig, supply)


def requested(
    request: HttpRequest,
    document: Document,
    saved: SavedSetup | None,
    rig: Rig | None,
    supply: Supply | None,
) -> Question:
    """A document in the place of what a form held, its changes stored."""
    changed = drafts.note(request, saved, document, request.POST)
    version = number_of(request.POST.get("version"))
    return Question(document, saved, rig, supply, version, changed)
