"""Typical figures that learn: which accounts let theirs count, the pass that finds the figures, and
the ones in force. Figures of our own accounts go before those of a file.
"""

from __future__ import annotations

import io
from collections.abc import Iterator

from cachetools import TTLCache, cached
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from ironmargin.document import Document
from ironmargin.errors import SetupError
from ironmargin.learning.pool import Typical, Unit, typicals, typicals_json, units_of
from ironmargin.setup.parts import read_rig
from web.rigs.models import PooledFigure, Pooling, Rig

CHUNK = 200
STORED_S = 60
_PUBLISHED: TTLCache[str, dict[str, Typical]] = TTLCache(1, STORED_S)


def pools(account: User) -> bool:
    """Whether an account's measured figures count."""
    return Pooling.objects.filter(owner=account).exists()


def set_pooling(account: User, on: bool) -> None:
    """Let an account's figures count, or not any more: the next pass leaves them out."""
    if on:
        Pooling.objects.get_or_create(owner=account)
    else:
        Pooling.objects.filter(owner=account).delete()


def _units() -> Iterator[Unit]:
    """Every measured unit of the accounts that said so."""
    mine = Rig.objects.filter(deleted_at=None, owner__in=Pooling.objects.values("owner"))
    for rig in mine.only("owner", "document").order_by("pk").iterator(CHUNK):
        if "x" not in rig.document:
            continue
        try:
            yield from units_of(read_rig(rig.document), rig.owner_id)
        except SetupError:
            continue  # a rig that has to be mended first tells nothing


def compute(client: object | None = None) -> int:
    """One pass over everything that counts; how many figures stand on enough."""
    return _store(typicals(_units(), client), taken_in=False)


def take_in(found: tuple[Typical, ...]) -> int:
    """Take the figures of a file in the place of those of the file before."""
    return _store(found, taken_in=True)


def _store(found: tuple[Typical, ...], *, taken_in: bool) -> int:
    rows = [
        PooledFigure(
            key=t.key, figure=t.figure, median=t.median, sd=t.sd, units=t.units,
            accounts=t.accounts, taken_in=taken_in,
        )
        for t in found
    ]  # fmt: skip
    with transaction.atomic():
        PooledFigure.objects.filter(taken_in=taken_in).delete()
        PooledFigure.objects.bulk_create(rows)
    _PUBLISHED.clear()
    return len(rows)


@cached(_PUBLISHED, key=lambda: "")
def published() -> dict[str, Typical]:
    """The figures in force, by the typical load they stand for."""
    found: dict[str, Typical] = {}
    for row in PooledFigure.objects.order_by("-taken_in"):
        found[row.key] = Typical(row.key, row.figure, row.median, row.sd, row.units, row.accounts)
    return found


def words_of(typical: Typical) -> str:
    """A figure as a person would say it: "48 to 62 A locked rotor, from 35 measured units"."""
    behind = f"from {typical.units} measured units" if typical.units else "common practice"
    return f"{typical.low:.0f} to {typical.high:.0f} A locked rotor, {behind}"


def as_json() -> Document:
    """The open file of the figures in force."""
    made_at = timezone.now().isoformat(timespec="seconds")
    return typicals_json(published().values(), made_at)


def as_parquet() -> bytes:
    """The same as a Parquet file."""
    import pyarrow as pa  # type: ignore[import-untyped]
    from pyarrow import parquet

    figures = as_json()["figures"]
    columns = ("key", "figure", "median", "sd", "units", "accounts")
    table = pa.table({name: [row[name] for row in figures] for name in columns})
    out = io.BytesIO()
    parquet.write_table(table, out)
    return out.getvalue()
