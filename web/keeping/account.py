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
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from ironmargin.errors import Fault, SetupError
from ironmargin.setup.parts import read_supply
from ironmargin.setup.spec import write_record
from web.keeping import actions
from web.rigs import csv_format
from web.rigs.models import Rig
from web.rigs.service import Refused, canonical
from web.setups import stored
from web.setups.models import SavedSetup
from web.supplies.models import Supply

FORMAT = "iron-margin/account"
LARGEST_ZIP, LARGEST_ENTRY, LARGEST_WHOLE, MOST_ENTRIES = 5_000_000, 1_000_000, 30_000_000, 4_000
EPOCH = (2026, 1, 1, 0, 0, 0)
"""Every entry has this date, so that the same account gives the same bytes."""
FOLDERS: dict[str, type[Any]] = {"rigs": Rig, "supplies": Supply, "setups": SavedSetup}


def pack(owner: Any) -> bytes:
    """The zip of an account: ``manifest.json``, one JSON a thing, one CSV a rig."""
    out = io.BytesIO()
    rigs, supplies = (list(m.objects.of(owner).order_by("id")) for m in (Rig, Supply))
    setups = list(SavedSetup.objects.of(owner).select_related("rig", "supply").order_by("id"))
    number = {
        (x.kind, x.pk): n for things in (rigs, supplies, setups) for n, x in enumerate(things, 1)
    }
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:

        def put(name: str, text: str) -> None:
            file.writestr(zipfile.ZipInfo(name, EPOCH), text)

        put(
            "manifest.json",
            _json(
                {
                    "format": FORMAT,
                    "version": 1,
                    "rigs": len(rigs),
                    "supplies": len(supplies),
                    "setups": len(setups),
                }
            ),
        )
        for rig in rigs:
            stem = f"rigs/{number['rig', rig.pk]:04d}-{slugify(rig.name)[:60]}"
            put(f"{stem}.json", _json(_wrapped(rig) | {"twelve_volt": rig.twelve_volt}))
            put(f"{stem}.csv", csv_format.write(rig.document))
        for supply in supplies:
            put(
                f"supplies/{number['supply', supply.pk]:04d}-{slugify(supply.name)[:60]}.json",
                _json(_wrapped(supply)),
            )
        for setup in setups:
            links = {
                kind: number[kind, getattr(setup, f"{kind}_id")]
                for kind in ("rig", "supply")
                if (kind, getattr(setup, f"{kind}_id")) in number
            }
            put(
                f"setups/{number['setup', setup.pk]:04d}-{slugify(setup.name)[:60]}.json",
                _json(_wrapped(setup) | {"document": stored.compose(setup)} | links),
            )
    return out.getvalue()


def _wrapped(item: Any) -> dict[str, Any]:
    return {"name": item.name, "archived": item.archived_at is not None, "document": item.document}


def _json(data: Any) -> str:
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


def _entries(raw: bytes) -> dict[str, dict[int, tuple[str, dict[str, Any]]]]:
    """The JSON entries of a zip by folder and number.

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
                folder: {} for folder in FOLDERS
            }
            for info in infos:
                folder, _, name = info.filename.partition("/")
                if folder in FOLDERS and name.endswith(".json"):
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
                    found[folder][int(digits)] = (info.filename, data)
            return found
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


def unpack(owner: Any, raw: bytes) -> dict[str, int]:
    """Take an account's zip in, all of it or nothing; returns how many of each.

    Raises:
        SetupError: with every fault of every entry.
        TooMany: the account cannot hold so many.
    """
    found = _entries(raw)
    faults: list[Fault] = []
    rigs: dict[int, Any] = {}
    supplies: dict[int, Any] = {}
    counts = {}
    with transaction.atomic():
        for number, (entry, data) in sorted(found["rigs"].items()):
            try:
                lines = (
                    [str(x)[:80] for x in data.get("twelve_volt", []) if isinstance(x, str)][:60]
                    if isinstance(data.get("twelve_volt"), list)
                    else []
                )
                document = canonical(data["document"])
                rigs[number] = actions.make(
                    Rig, owner, document["name"], document, action="took in", twelve_volt=lines
                )
            except Refused as refused:
                faults += [Fault(f"{entry} {f.path}", f.code, f.message) for f in refused.faults]
        for number, (entry, data) in sorted(found["supplies"].items()):
            try:
                document = write_record(read_supply(data["document"]))
                supplies[number] = actions.make(
                    Supply,
                    owner,
                    str(data.get("name") or "Supply")[:200],
                    document,
                    action="took in",
                )
            except SetupError as error:
                faults += [Fault(f"{entry} {f.path}", f.code, f.message) for f in error.faults]
        setups = {}
        for number, (entry, data) in sorted(found["setups"].items()):
            try:
                rig, supply = _link(rigs, data, "rig"), _link(supplies, data, "supply")
                setups[number] = stored.keep_unjudged(
                    owner, data["document"], rig, supply, action="took in"
                )
            except SetupError as error:
                faults += [Fault(f"{entry} {f.path}", f.code, f.message) for f in error.faults]
        if faults:
            raise SetupError(faults)
        for folder, things in (("rigs", rigs), ("supplies", supplies), ("setups", setups)):
            counts[folder] = len(things)
            for number, item in things.items():
                if found[folder][number][1].get("archived") is True:
                    actions.archive(item, True)
    return counts


def _link(things: dict[int, Any], data: dict[str, Any], kind: str) -> Any:
    """The thing a setup stood on, where it came along and is the very same."""
    item = things.get(data[kind]) if isinstance(data.get(kind), int) else None
    return item if item is not None and item.document == data["document"].get(kind) else None


@login_required
@require_GET
def export(request: HttpRequest) -> HttpResponse:
    """The account as a zip."""
    response = HttpResponse(pack(request.user), content_type="application/zip")
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
        counts = unpack(request.user, file.read(LARGEST_ZIP + 1))
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
