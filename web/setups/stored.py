"""The one place that turns stored rows and posted forms into core setups, and keeps them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from ironmargin.errors import Fault, SetupError
from ironmargin.setup.loads import Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import parse_setup, read_setup, write_setup
from ironmargin.verdict.check import Checked, check_fully
from web.setups.models import SavedSetup

MOST_SETUPS = 500
"""Saved setups an owner may have."""


@dataclass(frozen=True)
class Judged:
    """A document judged: the check, or the faults that keep it from being checked."""

    document: dict[str, Any]
    checked: Checked | None
    faults: tuple[Fault, ...]
    picture: str | None = None

    @property
    def fault_by_path(self) -> dict[str, str]:
        """The first fault of each field."""
        out: dict[str, str] = {}
        for fault in self.faults:
            out.setdefault(fault.path, fault.message)
        return out


class Conflict(Exception):
    """Somebody saved the same setup in the meantime; ``newer`` is what they saved."""

    def __init__(self, newer: SavedSetup) -> None:
        self.newer = newer
        super().__init__(f"{newer.name} was saved at {newer.updated_at:%H:%M:%S} by another page")


class TooMany(Exception):
    """The owner has all the setups they may have."""


def default_picture(setup: Setup) -> str | None:
    """The load whose start is drawn when none was chosen: the wanted motor with the most locked-rotor amps, the last of equals."""
    wanted = {w.load for w in setup.wanted if w.mode is None or w.mode.endswith("cool")}
    motors = [load for load in setup.rig.loads if load.id in wanted and isinstance(load, Rotating) and load.start not in ("inverter-drive", "universal")]
    largest = max(reversed(motors), key=lambda load: (load.lra_a or 0.0) * load.voltage_v, default=None)
    return largest.id if largest else None


def judge(document: dict[str, Any], picture: str | None = None, *, remedy: bool = False) -> Judged:
    """Check a document; bad input comes back as faults, never as an exception."""
    try:
        setup = read_setup(document)
    except SetupError as error:
        return Judged(document, None, tuple(error.faults))
    known = {load.id for load in setup.rig.loads}
    drawn = picture if picture in known else default_picture(setup)
    return Judged(document, check_fully(setup, picture=drawn, remedy=remedy), (), drawn)


def parse_document(raw: bytes) -> dict[str, Any]:
    """The document in an uploaded file.

    Raises:
        SetupError: with every fault of the file.
    """
    return write_setup(parse_setup(raw))


def keep(owner: Any, judged: Judged) -> SavedSetup:
    """Save a new setup that passed its checks.

    Raises:
        TooMany: the owner has too many already.
    """
    checked = judged.checked
    assert checked is not None
    with transaction.atomic():
        get_user_model().objects.select_for_update().get(pk=owner.pk)  # two requests at once must not both be the last
        if SavedSetup.objects.of(owner).count() >= MOST_SETUPS:
            raise TooMany
        return SavedSetup.objects.create(owner=owner, **_columns(checked))


def _columns(checked: Checked) -> dict[str, Any]:
    setup, result = checked.case.setup, checked.result
    return {"name": setup.name, "document": write_setup(setup), "verdict": result.verdict, "iron_margin": result.iron_margin,
            "sentence": result.weakest.sentence}


def keep_again(saved: SavedSetup, judged: Judged, version: int) -> SavedSetup:
    """Save over a setup, if nobody else has since ``version`` was read.

    Raises:
        Conflict: somebody has.
    """
    assert judged.checked is not None
    columns = _columns(judged.checked)
    changed = SavedSetup.objects.filter(pk=saved.pk, version=version, deleted_at=None).update(
        **columns, version=F("version") + 1, updated_at=timezone.now())
    fresh = SavedSetup.objects.get(pk=saved.pk)
    if not changed:
        raise Conflict(fresh)
    return fresh


def delete(saved: SavedSetup) -> None:
    """Delete a setup so that it can be taken back."""
    SavedSetup.objects.filter(pk=saved.pk).update(deleted_at=timezone.now())


def restore(saved: SavedSetup) -> None:
    """Take a deletion back."""
    SavedSetup.objects.filter(pk=saved.pk).update(deleted_at=None)
