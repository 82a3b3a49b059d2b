"""The one place that turns stored rows into core setups, and keeps setups with their verdicts."""

from __future__ import annotations

from typing import Any, TypeVar

from django.contrib.auth.models import User
from django.db import OperationalError, transaction

from ironmargin.document import Document
from ironmargin.setup.reading import read_setup, write_setup
from web.rigs.models import Rig
from web.setups.judging import Judged, judge
from web.setups.models import SavedSetup
from web.storage import actions
from web.storage.models import Stored
from web.supplies.models import Supply

K = TypeVar("K", bound=Stored)
UNJUDGED = {"verdict": "thin", "iron_margin": 0.0, "sentence": "", "stale": True}
HELD_ELSEWHERE = (1205, 1213)
"""MariaDB's codes of a lock waited for too long, and of a deadlock."""


def store_unjudged(
    owner: User, document: Document, rig: Rig | None, supply: Supply | None, *, action: str
) -> SavedSetup:
    """Keep a sound setup without checking it: its verdict is computed when it is first looked at.

    Raises:
        SetupError: it has faults.
        TooMany: the owner has too many already.
    """
    sound = write_setup(read_setup(document))
    made: SavedSetup = actions.make(
        SavedSetup,
        owner,
        sound["name"],
        own_part(sound, rig, supply),
        action=action,
        rig=rig,
        supply=supply,
        **UNJUDGED,
    )
    return made


def own_part(document: Document, rig: Rig | None, supply: Supply | None) -> Document:
    """What of a whole question a setup keeps itself: what it stands on is kept there alone, so that
    no two copies can disagree.
    """
    elsewhere = {"rig"} if rig is not None else set()
    elsewhere |= {"supply"} if supply is not None else set()
    return {name: part for name, part in document.items() if name not in elsewhere}


def take_home(held: Rig | Supply) -> None:
    """Give the setups of a rig or supply that goes for good a copy of it as their own part."""
    for saved in SavedSetup.objects.filter(**{held.kind: held}):
        document = saved.document | {held.kind: held.document}
        SavedSetup.objects.filter(pk=saved.pk).update(**{held.kind: None}, document=document)


def compose(saved: SavedSetup) -> Document:
    """The whole question of a saved setup: its own parts, its rig's and its supply's; wishes for
    loads the rig lost are left out.
    """
    document = dict(saved.document)
    if saved.supply is not None:
        document["supply"] = saved.supply.document
    if saved.rig is not None:
        document["rig"] = saved.rig.document
        known = {x["id"] for x in saved.rig.document["loads"]}
        document["wanted"] = [w for w in document.get("wanted", []) if w["load"] in known]
    return document


def as_it_was(saved: SavedSetup, versions: dict[str, int]) -> Document | None:
    """The whole question as it was in some versions of its parts; None where the history does not
    reach back so far.
    """
    found: Document = {}
    for kind, item in (("setup", saved), ("rig", saved.rig), ("supply", saved.supply)):
        if item is None:
            continue
        version = min(versions.get(kind, 0), item.version)
        entry = actions.history(item).filter(version=version).first()
        if entry is None:
            return None
        document = actions.state_after(entry)["document"]
        found |= document if kind == "setup" else {kind: document}
    return found


def judge_saved(saved: SavedSetup, picture: str | None = None, *, remedy: bool = False) -> Judged:
    """Check a saved setup as it stands now, and note its verdict where what it stands on has
    changed.
    """
    judged = judge(compose(saved), picture, remedy=remedy or saved.stale)
    if saved.stale and judged.checked is not None:
        note_verdict(saved, _verdict(judged))
    return judged


def note_verdict(saved: SavedSetup, fresh: Document) -> None:
    """Keep a verdict where it is still one of the setup, rig and supply it was computed from.

    Whoever changes a rig locks its row before it marks its setups; so does this, so that a verdict
    of the figures before is never kept as one of those after. A setup whose rows another request
    holds stays stale: its verdict is shown now and computed again when it is next looked at.
    """
    try:
        with transaction.atomic():
            for held in (saved.rig, saved.supply):
                if held is None:
                    continue
                rows = type(held).objects.select_for_update()
                if not rows.filter(pk=held.pk, version=held.version).exists():
                    return
            noted = SavedSetup.objects.filter(pk=saved.pk, version=saved.version).update(**fresh)
    except OperationalError as error:
        if error.args[0] not in HELD_ELSEWHERE:
            raise
        return
    if noted:
        for name, value in fresh.items():
            setattr(saved, name, value)


def note_shown(saved: SavedSetup, document: Document, data: Document) -> None:
    """Note the verdict that a page shows of a setup, where it is of the setup as it stands."""
    if document == compose(saved):
        told = {name: data[name] for name in ("verdict", "iron_margin", "sentence")}
        note_verdict(saved, told | {"stale": False})


def refresh(saved: SavedSetup) -> None:
    """Compute a stored verdict anew where what it stands on has changed."""
    if saved.stale:
        judge_saved(saved)


def _verdict(judged: Judged) -> Document:
    """What is kept of a check beside its setup; of one left to the queue, that it is to be made."""
    if judged.checked is None:
        return UNJUDGED
    result = judged.checked.result
    return {
        "verdict": result.verdict,
        "iron_margin": result.iron_margin,
        "sentence": result.weakest.sentence,
        "stale": False,
    }


def stale_setups(**of: object) -> None:
    """Note that what setups stand on has changed: their verdicts are computed anew when next looked
    at.
    """
    SavedSetup.objects.filter(deleted_at=None, **of).update(stale=True)


def _same(model: type[K], owner: User, document: Document) -> K | None:
    """The owner's thing with just this document, or None."""
    return next(
        (
            x
            for x in model.objects.current(owner).only("document", "name", "version")
            if x.document == document
        ),
        None,
    )


def supply_name(document: Document) -> str:
    """What to call a supply nobody named."""
    from web.supplies.words import short_name

    return short_name(document)


def store(
    owner: User, judged: Judged, *, what_if: bool = False, action: str = "made", once: str = ""
) -> SavedSetup:
    """Save a new setup that passed its checks; its rig and supply come into the inventory where
    they are not yet in it.

    Args:
        what_if: a variant whose changed rig or supply stays with it alone.
        once: the page it is saved from; the same figures from the same page are kept once.

    Raises:
        TooMany: the owner has too many already.
    """
    assert judged.setup is not None
    document = write_setup(judged.setup)
    with transaction.atomic():
        actions.one_at_a_time(owner)
        same: Any = SavedSetup.objects.of(owner).filter(once=once)
        twin: SavedSetup | None = same.last() if once else None
        if twin is not None and compose(twin) == document:
            return twin
        rig, supply = _same(Rig, owner, document["rig"]), _same(Supply, owner, document["supply"])
        if rig is None and not what_if:
            rig = actions.make(Rig, owner, document["rig"]["name"], document["rig"], action=action)
        if supply is None and not what_if:
            supply = actions.make(
                Supply, owner, supply_name(document["supply"]), document["supply"], action=action
            )
        return keep_linked(owner, judged, rig, supply, action=action, once=once)


def keep_linked(
    owner: User,
    judged: Judged,
    rig: Rig | None,
    supply: Supply | None,
    *,
    action: str = "made",
    once: str = "",
) -> SavedSetup:
    """Save a new setup on a rig and a supply of the inventory.

    Raises:
        TooMany: the owner has too many already.
    """
    assert judged.setup is not None
    document = write_setup(judged.setup)
    made: SavedSetup = actions.make(
        SavedSetup,
        owner,
        document["name"],
        own_part(document, rig, supply),
        action=action,
        rig=rig,
        supply=supply,
        once=once,
        **_verdict(judged),
    )
    return made


def versions_of(saved: SavedSetup) -> dict[str, int]:
    """The versions of a setup, its rig and its supply, 0 of those it has not."""
    return {
        "setup": saved.version,
        "rig": saved.rig.version if saved.rig else 0,
        "supply": saved.supply.version if saved.supply else 0,
    }


def store_again(
    saved: SavedSetup,
    judged: Judged,
    versions: dict[str, int],
    rig: Rig | None,
    supply: Supply | None,
) -> SavedSetup:
    """Save over a setup, and over the rig and supply it stands on where their figures were changed;
    all of it or nothing.

    Args:
        versions: of setup, rig and supply, as the page had read them; rig, supply: what it is to
        stand on, None for figures of its own.

    Raises:
        Conflict: somebody changed one of them in the meantime.
    """
    assert judged.setup is not None
    document = write_setup(judged.setup)
    with transaction.atomic():
        for part, held in (("rig", rig), ("supply", supply)):
            if held is not None and held.document != document[part]:
                name = document["rig"]["name"] if part == "rig" else None
                actions.change(held, versions.get(part, 0), document=document[part], name=name)
                stale_setups(**{part: held})
        changed: SavedSetup = actions.change(
            saved,
            versions.get("setup", 0),
            name=document["name"],
            document=own_part(document, rig, supply),
            rig=rig,
            supply=supply,
            **_verdict(judged),
        )
        return changed
