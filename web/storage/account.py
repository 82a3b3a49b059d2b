"""A whole account as one zip of JSON and CSV, out and in: an empty account that takes it in holds
the same afterwards.
"""

from __future__ import annotations

import io
import json
import struct
import zipfile
import zlib
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.setup.versions import renamed
from web.storage.kinds import DEPENDENTS, KINDS
from web.storage.models import Stored
from web.storage.past import HISTORY

FORMAT = "iron-margin/account"
LARGEST_ZIP, LARGEST_ENTRY, LARGEST_WHOLE, MAX_ENTRIES = 20_000_000, 2_000_000, 200_000_000, 6_000
MAX_DIGITS = 10
NO_ACCOUNT = Fault("file", "zip", "not the zip of an account; choose one that was exported here")
EPOCH = (2026, 1, 1, 0, 0, 0)
"""Every entry has this date, so that the same account gives the same bytes."""


def pack(owner: User) -> bytes:
    """The zip of an account: ``manifest.json``, one JSON a thing, and what else its kind adds."""
    out = io.BytesIO()
    things = {k.folder: list(k.model.objects.of(owner).order_by("id")) for k in KINDS.values()}
    numbers = {(x.kind, x.pk): n for held in things.values() for n, x in enumerate(held, 1)}

    def number(kind: str, pk: int | None) -> int | None:
        return numbers.get((kind, pk))

    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:

        def put(name: str, text: str) -> None:
            file.writestr(zipfile.ZipInfo(name, EPOCH), text, zipfile.ZIP_DEFLATED)

        counts: dict[str, Any] = {folder: len(held) for folder, held in things.items()}
        own = {p.name: p.out(owner) for p in DEPENDENTS.get("account", ())}
        own = {name: part for name, part in own.items() if part is not None}
        put("manifest.json", _json({"format": FORMAT, "version": 1} | counts | {"account": own}))
        for kind in KINDS.values():
            for item in things[kind.folder]:
                stem = f"{kind.folder}/{numbers[item.kind, item.pk]:04d}-{slugify(item.name)[:60]}"
                plain = {"name": item.name, "archived": item.archived_at is not None}
                parts = {p.name: p.out(item) for p in (*DEPENDENTS.get(item.kind, ()), HISTORY)}
                held = {name: part for name, part in parts.items() if part is not None}
                put(f"{stem}.json", _json(plain | kind.out(item, number) | held))
                for ending, text in kind.beside(item):
                    put(f"{stem}.{ending}", text)
    return out.getvalue()


def _json(data: object) -> str:
    return json.dumps(data, ensure_ascii=False) + "\n"  # without indent: ten times as fast


Entries = dict[str, dict[int, str]]
"""The names of a zip's entries by folder and number."""
UNREADABLE = (
    zipfile.BadZipFile,
    KeyError,
    ValueError,
    RecursionError,
    NotImplementedError,
    RuntimeError,
    EOFError,
    zlib.error,
)
"""What a damaged entry raises on its way to JSON."""


END, END_BYTES, MAX_COMMENT = b"PK\x05\x06", 22, 1 << 16
LOCATOR, LOCATOR_BYTES = b"PK\x06\x07", 20
LARGEST_DIRECTORY = MAX_ENTRIES * 128
"""A directory of so many entries with names as long as ours, in bytes."""


def large_directory(raw: bytes) -> bool:
    """Whether a zip's own directory lists more than an account's can, seen before it is opened:
    opening it makes an object of every entry. The end record is looked for as the library does; a
    zip64 one is larger than any of ours.
    """
    end = len(raw) - END_BYTES
    if not (raw[end:].startswith(END) and raw[-2:] == b"\0\0"):
        end = raw.rfind(END, max(len(raw) - END_BYTES - MAX_COMMENT, 0))
    if end < 0 or len(raw) < end + END_BYTES:
        return False  # no zip at all: it is refused as that
    entries, size = struct.unpack("<HI", raw[end + 10 : end + 16])
    is_64 = raw[max(end - LOCATOR_BYTES, 0) : end].startswith(LOCATOR)
    return bool(entries > MAX_ENTRIES or size > LARGEST_DIRECTORY or is_64)


def _opened(raw: bytes) -> zipfile.ZipFile:
    """The zip of an account, within its limits.

    Raises:
        SetupError: it is none, or too large.
    """
    if len(raw) > LARGEST_ZIP:
        raise SetupError(
            [Fault("file", "large", f"must be at most {LARGEST_ZIP:,} bytes (got more)")]
        )
    rule = f"must unpack to at most {LARGEST_WHOLE:,} bytes in {MAX_ENTRIES:,} entries (got more)"
    if large_directory(raw):
        raise SetupError([Fault("file", "large", rule)])
    try:
        file = zipfile.ZipFile(io.BytesIO(raw))
    except UNREADABLE:
        raise SetupError([NO_ACCOUNT]) from None
    if len(file.infolist()) > MAX_ENTRIES or unpacked(file) > LARGEST_WHOLE:
        raise SetupError([Fault("file", "large", rule)])
    return file


def unpacked(file: zipfile.ZipFile) -> int:
    """How many bytes a zip says it holds."""
    return sum(info.file_size for info in file.infolist())


def _manifest(file: zipfile.ZipFile) -> Document:
    """What a zip says it is.

    Raises:
        SetupError: no account.
    """
    if "manifest.json" not in file.namelist():
        raise SetupError([NO_ACCOUNT])
    manifest = _read(file, "manifest.json")
    if manifest.get("format") != FORMAT:
        rule = f"must say {FORMAT}; choose a zip that an account was exported to"
        raise SetupError([Fault("manifest.json", "format", rule)])
    return manifest


def _entries(file: zipfile.ZipFile) -> Entries:
    """The entries of a zip.

    Raises:
        SetupError: two have one number, or one has none.
    """
    found: Entries = {kind.folder: {} for kind in KINDS.values()}
    for entry in file.namelist():
        folder, _, name = entry.partition("/")
        if folder not in found or not name.endswith(".json"):
            continue
        digits = name.split("-")[0].removesuffix(".json")
        if not (digits.isascii() and digits.isdigit() and len(digits) < MAX_DIGITS):
            rule = "must begin with its number, as in 0001-name.json"
            raise SetupError([Fault(entry, "number", rule)])
        if int(digits) in found[folder]:
            rule = f"has the number of {found[folder][int(digits)]}; give one of them another"
            raise SetupError([Fault(entry, "twice", rule)])
        found[folder][int(digits)] = entry
    return found


def _read(file: zipfile.ZipFile, name: str) -> Document:
    """An entry of a zip; each is read when it is taken in, so that one at a time is held.

    Raises:
        SetupError: it is damaged, too large, or no object.
    """
    try:
        with file.open(name) as entry:
            raw = entry.read(LARGEST_ENTRY + 1)
        if len(raw) > LARGEST_ENTRY:
            rule = f"must be at most {LARGEST_ENTRY:,} bytes (got more)"
            raise SetupError([Fault(name, "large", rule)])
        data = renamed(json.loads(raw))
    except SetupError:
        raise
    except UNREADABLE:
        raise SetupError([NO_ACCOUNT]) from None
    if not isinstance(data, dict):
        raise SetupError([Fault(name, "object", "must be an object; export the account again")])
    return data


def _thing(file: zipfile.ZipFile, name: str) -> Document:
    """An entry that is a kept thing.

    Raises:
        SetupError: as of any entry; it has no document.
    """
    data = _read(file, name)
    if not isinstance(data.get("document"), dict):
        rule = "must be an object with a document; export the account again"
        raise SetupError([Fault(name, "object", rule)])
    return data


def _take_parts(kind: str, item: object, data: object) -> None:
    """Give an item what hung on it.

    Raises:
        SetupError: with the faults of the first part that has some.
    """
    history = () if kind == "account" else (HISTORY,)
    for part in (*DEPENDENTS.get(kind, ()), *history):
        if isinstance(data, dict) and data.get(part.name) is not None:
            part.take(item, data[part.name])


def unpack(owner: User, raw: bytes) -> dict[str, int]:
    """Take an account's zip in, all of it or nothing; returns how many of each.

    Raises:
        SetupError: with every fault of every entry.
        TooMany: the account cannot hold so many.
    """
    faults: list[Fault] = []
    made: dict[str, dict[int, Any]] = {kind.folder: {} for kind in KINDS.values()}
    with _opened(raw) as file, transaction.atomic():
        manifest, found = _manifest(file), _entries(file)
        for kind in KINDS.values():
            for number, entry in sorted(found[kind.folder].items()):
                data = _thing(file, entry)
                try:
                    item = made[kind.folder][number] = kind.take(owner, data, made)
                    _take_parts(item.kind, item, data)
                    if data.get("archived") is True:
                        _archive(item)
                except SetupError as error:
                    faults += [Fault(f"{entry} {f.path}", f.code, f.message) for f in error.faults]
        try:
            _take_parts("account", owner, manifest.get("account"))
        except SetupError as error:
            faults += [Fault(f"manifest.json {f.path}", f.code, f.message) for f in error.faults]
        if faults:
            raise SetupError(faults)
    return {folder: len(things) for folder, things in made.items()}


def _archive(item: Stored) -> None:
    """Put a thing away without an entry in its history, which has its own already."""
    type(item).objects.filter(pk=item.pk).update(archived_at=timezone.now())
