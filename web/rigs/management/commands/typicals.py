"""Typical figures from measured units: found anew, written to a file, or taken in from one."""

from __future__ import annotations

import json
from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser

from ironmargin.errors import SetupError
from ironmargin.learning.pool import MAX_BYTES, read_typicals
from web.rigs import pool


class Command(BaseCommand):
    help = "Recompute typical figures; --write FILE (json or parquet), --take FILE (json)."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--write", metavar="FILE")
        parser.add_argument("--take", metavar="FILE")
        parser.add_argument("--workers", type=int, default=0, help="Dask processes; 0: none")

    def handle(
        self, *args: object, take: str | None, write: str | None, workers: int, **options: object
    ) -> None:
        if take:
            try:
                with open(take, "rb") as file:
                    found = read_typicals(file.read(MAX_BYTES + 1))
            except OSError as error:
                raise CommandError(f"cannot open {take}: {error.strerror}") from None
            except SetupError as error:
                raise CommandError("; ".join(str(f) for f in error.faults)) from None
            self.stdout.write(f"{pool.take_in(found)} figures taken in")
            return
        if workers:
            from ironmargin.reaching.sweep import cluster

            with cluster(workers, None) as client:
                self.stdout.write(f"{pool.compute(client)} figures from measured units")
        else:
            self.stdout.write(f"{pool.compute()} figures from measured units")
        if write:
            path = Path(write)
            if path.suffix == ".parquet":
                path.write_bytes(pool.as_parquet())
            else:
                path.write_text(json.dumps(pool.as_json(), indent=1), encoding="utf-8")
