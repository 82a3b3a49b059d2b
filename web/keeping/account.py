"""A whole account as one zip of JSON and CSV, out and in: an empty account that takes it in holds
the same afterwards.
"""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from ironmargin.errors import Fault, SetupError
from web.accounts.access import account_of
from web.keeping import actions
from web.keeping.kinds import KINDS, PARTS
from web.keeping.past import HISTORY

FORMAT = "iron-margin/account"
LARGEST_ZIP, LARGEST_ENTRY, LARGEST_WHOLE, MOST_ENTRIES = 20_000_000, 2_000_000, 200_000_000, 6_000
EPOCH = (2026, 1, 1, 0, 0, 0)
"""Every entry has this date, so that the same account gives the same bytes."""


def pack(owner: Any) -> bytes:
    """The zip of an account: ``manifest.json``, one JSON a thing, and what else its kind adds."""
    out = io.BytesIO()
    things = {k.folder: list(k.model.objects.of(owner).order_by("id")) for k in KINDS.values()}
    numbers = {(x.kind, x.pk): n for held in things.values() for n, x in enumerate(held, 1)}

    def number(kind: str, pk: Any) -> int | None:
        return numbers.get((kind, pk))

    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:

        def put(name: str, text: str) -> None:
            file.writestr(zipfile.ZipInfo(name, EPOCH), text, zipfile.ZIP_DEFLATED)

        counts: dict[str, Any] = {folder: len(held) for folder, held in things.items()}
        own = {p.name: p.out(owner) for p in PARTS.get("account", ())}
        own = {name: part for name, part in own.items() if part is not None}
        put("manifest.json", _json({"format": FORMAT, "version": 1} | counts | {"account": own}))
        for kind in KINDS.values():
            for item in things[kind.folder]:
                stem = f"{kind.folder}/{numbers[item.kind, item.pk]:04d}-{slugify(item.name)[:60]}"
                plain = {"name": item.name, "archived": item.archived_at is not None}
                parts = {p.name: p.out(item) for p in (*PARTS.get(item.kind, ()), HISTORY)}
                held = {name: part for name, part in parts.items() if part is not None}
                put(f"{stem}.json", _json(plain | kind.out(item, number) | held))
                for ending, text in kind.beside(item):
                    put(f"{stem}.{ending}", text)
    return out.getvalue()


def _json(data: Any) -> str:
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


Entries = dict[str, dict[int, tuple[str, dict[str, Any]]]]


def _entries(raw: bytes) -> tuple[Entries, dict[str, Any]]:
    """The JSON entries of a zip by folder and number, and its manifest.

    Raises:
        SetupError: it is no account, or too large.
    """
    if len(raw) > LARGEST_ZIP:
        raise SetupError(
            [Fault("file", "large", f"must be at most {LARGEST_ZIP:,} bytes (got more)")]
        )
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as file:
            infos = file.infolist()
            if len(infos) > MOST_ENTRIES or sum(i.file_size for i in infos) > LARGEST_WHOLE:
                raise SetupError(
                    [
                        Fault(
                            "file",
                            "large",
                            f"must unpack to at most {LARGEST_WHOLE:,} bytes in "
                            f"{MOST_ENTRIES:,} entries (got more)",
                        )
                    ]
                )
            manifest = json.loads(_read(file, "manifest.json"))
            if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
                raise SetupError(
                    [
                        Fault(
                            "manifest.json",
                            "format",
                            f"must say {FORMAT}; choose a zip that an account was exported to",
                        )
                    ]
                )
            found: dict[str, dict[int, tuple[str, dict[str, Any]]]] = {
                folder: {} for folder in {k.folder for k in KINDS.values()}
            }
            for info in infos:
                folder, _, name = info.filename.partition("/")
                if folder in {k.folder for k in KINDS.values()} and name.endswith(".json"):
                    data = json.loads(_read(file, info.filename))
                    digits = name.split("-")[0].removesuffix(".json")
                    if (
                        not isinstance(data, dict)
                        or not digits.isdigit()
                        or not isinstance(data.get("document"), dict)
                    ):
                        raise SetupError(
                            [
                                Fault(
                                    info.filename,
                                    "object",
                                    "must be an object with a document; export the account again",
                                )
                            ]
                        )
                    if int(digits) in found[folder]:
                        first = found[folder][int(digits)][0]
                        rule = f"has the number of {first}; give one of them another"
                        raise SetupError([Fault(info.filename, "twice", rule)])
                    found[folder][int(digits)] = (info.filename, data)
            return found, manifest
    except (
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        RecursionError,
        NotImplementedError,
        RuntimeError,
        EOFError,
        zlib.error,
    ) as error:
        if isinstance(error, SetupError):
            raise
        raise SetupError(
            [Fault("file", "zip", "not the zip of an account; choose one that was exported here")]
        ) from None


def _read(file: zipfile.ZipFile, name: str) -> bytes:
    with file.open(name) as entry:
        raw = entry.read(LARGEST_ENTRY + 1)
    if len(raw) > LARGEST_ENTRY:
        raise SetupError(
            [Fault(name, "large", f"must be at most {LARGEST_ENTRY:,} bytes (got more)")]
        )
    return raw


def _take_parts(kind: str, item: Any, data: Any) -> None:
    """Give an item what hung on it.

    Raises:
        SetupError: with the faults of the first part that has some.
    """
    history = () if kind == "account" else (HISTORY,)
    for part in (*PARTS.get(kind, ()), *history):
        if isinstance(data, dict) and data.get(part.name) is not None:
            part.take(item, data[part.name])


def unpack(owner: Any, raw: bytes) -> dict[str, int]:
    """Take an account's zip in, all of it or nothing; returns how many of each.

    Raises:
        SetupError: with every fault of every entry.
        TooMany: the account cannot hold so many.
    """
    found, manifest = _entries(raw)
    faults: list[Fault] = []
    made: dict[str, dict[int, Any]] = {kind.folder: {} for kind in KINDS.values()}
    with transaction.atomic():
        for kind in KINDS.values():
            for number, (entry, data) in sorted(found[kind.folder].items()):
                try:
                    item = made[kind.folder][number] = kind.take(owner, data, made)
                    _take_parts(item.kind, item, data)
                except SetupError as error:
                    faults += [Fault(f"{entry} {f.path}", f.code, f.message) for f in error.faults]
        try:
            _take_parts("account", owner, manifest.get("account"))
        except SetupError as error:
            faults += [Fault(f"manifest.json {f.path}", f.code, f.message) for f in error.faults]
        if faults:
            raise SetupError(faults)
        for folder, things in made.items():
            for number, item in things.items():
                if found[folder][number][1].get("archived") is True:
                    _archive(item)
    return {folder: len(things) for folder, things in made.items()}


def _archive(item: Any) -> None:
    """Put a thing away without an entry in its history, which has its own already."""
    type(item).objects.filter(pk=item.pk).update(archived_at=timezone.now())


@login_required
@require_safe
def export(request: HttpRequest) -> HttpResponse:
    """The account as a zip."""
    response = HttpResponse(pack(account_of(request)), content_type="application/zip")
    response["Content-Disposition"] = 'attachment; filename="iron-margin-account.zip"'
    return response


@login_required
@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Take an account's zip in beside what is there."""
    file = request.FILES.get("file")
    faults: list[Fault] = []
    try:
        if file is None:
            raise SetupError([Fault("file", "missing", "choose the zip of an account first")])
        counts = unpack(account_of(request), file.read(LARGEST_ZIP + 1))
    except SetupError as error:
        faults = error.faults
    except actions.TooMany as many:
        faults = [Fault("", "too-many", many.advice)]
    if faults:
        return render(request, "keeping/account.html", {"faults": faults[:40]}, status=422)
    messages.success(
        request,
        f"Took in {counts['rigs']} rigs, {counts['supplies']} supplies and "
        f"{counts['setups']} setups.",
    )
    return redirect("setups")
