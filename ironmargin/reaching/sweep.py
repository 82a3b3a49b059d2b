"""Many setups at once: one row each, in this process, in several, or on a cluster that exists.

Rows are appended to a journal beside the output as they come and kept whole there, so that a sweep
killed at any moment and resumed ends with the rows of an undisturbed one, none twice. A file that
is no setup is a row with its fault. A batch that takes its worker down is tried again one setup at
a time, so that a poisonous one costs one row.
"""

from __future__ import annotations

import json
import logging
import os
import time
import zlib
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager
from typing import TYPE_CHECKING

from ironmargin.errors import Fault, SetupError
from ironmargin.reaching.axes import put
from ironmargin.reaching.rows import KINDS, Journal, Row, write
from ironmargin.record import record
from ironmargin.setup.reading import load_setup, parse_setup
from ironmargin.verdict.check import examine_unless_fails

if TYPE_CHECKING:
    from distributed import Client, Future

BATCH = 40
"""Setups of a batch: about a fifth of a second of work, against some milliseconds to send it."""
IN_FLIGHT = 4
"""Batches on the way for each worker; more would only fill memory."""


@record
class Item:
    """One setup to sweep: its name in the rows, and where its text stands if it is a line of a
    file; the text itself is read when it is sent.
    """

    file: str
    lines: str | None = None
    offset: int = 0
    text: str | None = None


def items_of(files: Iterable[str], from_file: str | None) -> list[Item]:
    """What is swept, in order: files, then the lines of a JSON-lines file.

    Args:
        files: setup files.
        from_file: a JSON-lines file, a setup a line.

    Returns:
        The items.

    Raises:
        SetupError: the JSON-lines file cannot be read.
    """
    found = [Item(str(f)) for f in files]
    if from_file is not None:
        try:
            with open(from_file, "rb") as lines:
                offset = 0
                for n, line in enumerate(lines, 1):
                    if line.decode().strip():
                        found.append(Item(f"{from_file}:{n}", from_file, offset))
                    offset += len(line)
        except (OSError, UnicodeDecodeError) as error:
            raise SetupError([Fault(from_file, "file", f"cannot be read: {error}")]) from None
    return found


def read_sets(words: Iterable[str]) -> list[tuple[str, float]]:
    """Figures to be put into every setup, each typed as ``field=value``.

    Args:
        words: each as typed.

    Returns:
        Field and value.

    Raises:
        SetupError: one of them is no such thing.
    """
    found, faults = [], []
    for word in words:
        field, _, value = word.partition("=")
        try:
            found.append((field, float(value)))
        except ValueError:
            faults.append(Fault(field, "number", f"must read field=number (got {word[:60]!r})"))
    if faults:
        raise SetupError(faults)
    return found


def judge(item: Item, figures: list[tuple[str, float]]) -> Row:
    """The row of one setup; a fault is a row, too.

    Args:
        item: a file, or its text.
        figures: fields with values to put in.

    Returns:
        By column.
    """
    begun = time.perf_counter()
    row: Row = {"file": item.file, "name": ""} | dict(figures)
    try:
        setup = load_setup(item.file) if item.text is None else parse_setup(item.text)
        row["name"] = setup.name
        for field, value in figures:
            setup = put(setup, field, value)
        checked = examine_unless_fails(setup)
        result = checked.result
        row |= {
            "verdict": result.verdict,
            "iron_margin": round(result.iron_margin, 6),
            "check": result.weakest.check,
            "where": result.weakest.where,
            "fault": "",
        }
    except SetupError as error:
        row |= {"verdict": "", "iron_margin": None, "check": "", "where": ""}
        row["fault"] = "; ".join(str(f) for f in error.faults)[:500]
    row["seconds"] = round(time.perf_counter() - begun, 4)
    return row


def _read(batch: list[Item]) -> list[Item]:
    """The batch with the texts of its lines."""
    out = []
    for item in batch:
        if item.lines is not None:
            with open(item.lines, "rb") as lines:
                lines.seek(item.offset)
                item = Item(item.file, text=lines.readline().decode("utf-8", "replace"))
        out.append(item)
    return out


def judge_all(batch: list[Item], figures: list[tuple[str, float]]) -> list[Row]:
    """The rows of a batch.

    Args:
        batch: files, or their texts.
        figures: fields with values to put in.

    Returns:
        In the order of the batch.
    """
    return [judge(item, figures) for item in batch]


def _packed(batch: list[Item]) -> bytes:
    """A batch as it is sent: its texts repeat their keys, so that a tenth of the bytes is enough,
    and the scheduler has little to keep.
    """
    return zlib.compress(json.dumps([[item.file, item.text] for item in _read(batch)]).encode())


def judge_packed(packed: bytes, figures: list[tuple[str, float]]) -> list[Row]:
    """The rows of a batch as it was sent.

    Args:
        packed: names and texts, compressed.
        figures: fields with values to put in.

    Returns:
        In the order of the batch.
    """
    batch = json.loads(zlib.decompress(packed))
    return judge_all([Item(file, text=text) for file, text in batch], figures)


def _batches(items: list[Item], size: int) -> Iterator[list[Item]]:
    for at in range(0, len(items), size):
        yield items[at : at + size]


def in_this_process(items: list[Item], figures: list[tuple[str, float]]) -> Iterator[list[Row]]:
    """The rows batch by batch, here.

    Args:
        items: files.
        figures: fields with values to put in.

    Yields:
        The rows of a batch.
    """
    for batch in _batches(items, BATCH):
        yield judge_all(_read(batch), figures)


def on_workers(
    items: list[Item], figures: list[tuple[str, float]], client: Client
) -> Iterator[list[Row]]:
    """The rows batch by batch as a Dask cluster has them done.

    Args:
        items: files.
        figures: fields with values to put in.
        client: of the cluster.

    Yields:
        The rows of a batch, as batches come back.
    """
    from distributed import as_completed
    from distributed.scheduler import KilledWorker

    waiting = list(_batches(items, BATCH))[::-1]
    cores = max(sum(client.nthreads().values()), 1)  # type: ignore[no-untyped-call]
    sent: dict[object, list[Item]] = {}

    def send(batch: list[Item]) -> Future[list[Row]]:
        future = client.submit(judge_packed, _packed(batch), figures, pure=False, retries=0)
        sent[future.key] = batch
        return future

    running = as_completed(  # type: ignore[no-untyped-call]
        [send(waiting.pop()) for _ in range(min(len(waiting), IN_FLIGHT * cores))]
    )
    for future in running:
        batch = sent.pop(future.key)
        try:
            yield future.result()
        except KilledWorker:
            if len(batch) == 1:
                yield [_taken_down(batch[0], figures)]
            else:
                waiting += [[item] for item in reversed(batch)]
        future.release()
        while waiting and len(sent) < IN_FLIGHT * cores:
            running.add(send(waiting.pop()))  # type: ignore[no-untyped-call]


def _taken_down(item: Item, figures: list[tuple[str, float]]) -> Row:
    empty = {"verdict": "", "iron_margin": None, "check": "", "where": "", "seconds": None}
    told = {"fault": "it took its worker down: too large, or out of memory"}
    return {"file": item.file, "name": ""} | dict(figures) | empty | told


def cluster(workers: int, scheduler: str | None) -> AbstractContextManager[Client]:
    """A Dask client: of a cluster that exists, or of so many processes here.

    Args:
        workers: processes to start here.
        scheduler: address of a cluster that exists, or None.

    Returns:
        The client, to be closed after use.
    """
    import dask
    from distributed import Client, LocalCluster

    # The engine is one compiled loop: sampling its stack a hundred times a second tells nothing.
    dask.config.set({"distributed.worker.profile.enabled": False})
    if scheduler is not None:
        return Client(scheduler, timeout="15s")  # type: ignore[no-untyped-call]
    here = LocalCluster(  # type: ignore[no-untyped-call]
        n_workers=workers,
        threads_per_worker=1,
        dashboard_address=None,
        silence_logs=logging.CRITICAL,
    )
    return Client(here)  # type: ignore[no-untyped-call]


def core_here() -> tuple[str, str]:
    """Version of this core, and the hash of its code and tables.

    Returns:
        Both as text.
    """
    return _looker()()


def _looker() -> Callable[[], tuple[str, str]]:
    """What :func:`core_here` does, as a function that needs nothing of ours to be sent: it is told
    apart from the module, so that a machine without our core can say so.
    """

    def look() -> tuple[str, str]:
        import hashlib
        from pathlib import Path

        try:
            import ironmargin
        except ImportError:
            return "", ""
        found = hashlib.sha256()
        folder = Path(ironmargin.__file__).parent
        for file in sorted(f for f in folder.rglob("*") if f.suffix in (".py", ".csv")):
            found.update(f"{file.relative_to(folder)}\n".encode() + file.read_bytes())
        return ironmargin.__version__, found.hexdigest()

    return look


def demand_core(client: Client) -> None:
    """See that scheduler and workers of a cluster have this very core.

    Args:
        client: of the cluster.

    Raises:
        SetupError: one has none, or another; it says which, and what to do.
    """
    version, digest = core_here()
    install = f"pip install 'ironmargin[scale]=={version}'"
    found = {"the scheduler": client.run_on_scheduler(_looker())}  # type: ignore[no-untyped-call]
    found |= {f"worker {address}": told for address, told in client.run(_looker()).items()}
    for who, (theirs, hashed) in found.items():
        if not theirs:
            why = f"{who} has no ironmargin; there, run: {install}, and start it again"
        elif theirs != version:
            why = f"{who} has ironmargin {theirs}, here is {version}; there, run: {install}"
        elif hashed != digest:
            why = f"{who} has other code or tables of ironmargin {version}; install the same there"
        else:
            continue
        raise SetupError([Fault("scheduler", "core", why)])


def sweep(
    items: list[Item],
    figures: list[tuple[str, float]],
    out: str,
    *,
    workers: int = 1,
    scheduler: str | None = None,
    resume: bool = False,
    progress: Callable[[int, int], None] | None = None,
) -> Counter[str]:
    """Judge every setup and write the rows, in the order asked for; how many came to each verdict,
    ``fault`` for those that are no setup.

    Args:
        items: what is swept.
        figures: field and value put into every setup.
        out: a file ending in .parquet, .csv or .jsonl; its journal stands beside it until it is
            whole.
        workers: processes to judge in.
        scheduler: address of a cluster that exists.
        resume: go on where a journal ends.
        progress: told of rows done and rows in all.

    Returns:
        How many rows of each verdict.

    Raises:
        SetupError: nothing to sweep, or no such kind of file.
    """
    if not out.endswith(KINDS):
        raise SetupError(
            [Fault("out", "kind", f"must end in {', '.join(KINDS)} (got {out[-20:]})")]
        )
    unique = list({item.file: item for item in items}.values())
    if not unique:
        raise SetupError([Fault("files", "none", "must name at least one setup (got none)")])
    journal = Journal(out + ".journal", resume)
    try:
        todo = [item for item in unique if item.file not in journal.at]

        def run(found: Iterator[list[Row]]) -> None:
            for rows in found:
                journal.keep(rows)
                if progress:
                    progress(len(journal.at), len(unique))

        if workers > 1 or scheduler is not None:
            with cluster(workers, scheduler) as client:
                if scheduler is not None:
                    demand_core(client)
                run(on_workers(todo, figures, client))
        else:
            run(in_this_process(todo, figures))
        counts: Counter[str] = Counter()

        def counted() -> Iterator[Row]:
            for row in journal.rows(item.file for item in unique):
                counts[row["verdict"] or "fault"] += 1
                yield row

        write(counted(), [field for field, _ in figures], out)
    finally:
        journal.close()
    os.remove(journal.path)
    return counts
