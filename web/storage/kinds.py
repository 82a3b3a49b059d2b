"""Which kinds of things are kept: each layer above registers its own, with how it goes out and in.

The order of registration is the order in which an account is taken in: a setup finds the rig and
the supply it stands on.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from django.contrib.auth.models import User

from ironmargin.document import Document
from web.storage.models import Stored

Number = Callable[[str, int | None], int | None]
Made = dict[str, dict[int, Any]]
"""What was taken in so far, by folder and number; each a kept thing of that folder's kind."""


@dataclass(frozen=True)
class Kind:
    """One kind of kept thing.

    Attributes:
        model: its model; folder: its folder in an account's zip; index, page: names of the
        addresses of its list and page.
        out: what of a thing goes into its JSON besides name and archive mark, given how others are
        numbered.
        beside: further files of a thing: (ending, text).
        take: make a thing of an owner from such JSON, given what was made before it by folder and
        number.
    """

    model: type[Any]
    folder: str
    index: str
    page: str
    out: Callable[[Any, Number], Document]
    take: Callable[[User, Document, Made], Stored]
    beside: Callable[[Any], list[tuple[str, str]]] = field(default=lambda item: [])


KINDS: dict[str, Kind] = {}


@dataclass(frozen=True)
class DependentRecord:
    """Something that hangs on a kept thing, or on the account itself, and goes with it.

    Attributes:
        name: under which it stands in the JSON.
        out: what of an item goes there; None where there is nothing.
        take: put it on an item that was just made. Raises SetupError with the faults of its data.
    """

    name: str
    out: Callable[[Any], Any]
    take: Callable[[Any, Any], None]


DEPENDENTS: dict[str, list[DependentRecord]] = {}
"""By the kind of what they hang on; "account" for the account's own."""


def register_dependent(kind: str, part: DependentRecord) -> None:
    """Make something known that goes with a kind of kept thing."""
    DEPENDENTS.setdefault(kind, []).append(part)


def register(kind: Kind) -> None:
    """Make a kind of kept thing known."""
    KINDS[kind.model.kind] = kind
