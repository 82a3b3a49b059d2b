"""Writes the whole database into a file, consistent while others write."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder

from web.storage.backup import BackupError, dump


def newest() -> dict[str, str]:
    """The newest migration of each app, as they stand."""
    return dict(sorted(MigrationRecorder(connection).applied_migrations()))


class Command(BaseCommand):
    help = "Write the whole database into FILE (a .sql.gz)."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, file: Path, **options: object) -> None:
        try:
            size = dump(connection.settings_dict, file, newest())
        except BackupError as error:
            raise CommandError(str(error)) from None
        self.stdout.write(f"{file}: {size:,} bytes, checked to its end")
