"""Puts a backup into an empty database and brings it up to date."""

from pathlib import Path

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection

from web.storage.backup import BackupError, load


class Command(BaseCommand):
    help = "Put the backup FILE into the database, which must be empty, and migrate it."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--over", action="store_true", help="empty the database first")

    def handle(self, *args: object, file: Path, over: bool, **options: object) -> None:
        tables = connection.introspection.table_names()
        if tables and not over:
            raise CommandError(
                f"the database holds {len(tables)} tables; restore into an empty one, or say "
                "--over to lose what is there"
            )
        try:
            if tables:
                self._empty(tables, file)
            head = load(connection.settings_dict, file)
        except BackupError as error:
            raise CommandError(str(error)) from None
        call_command("migrate", verbosity=0, interactive=False)
        self.stdout.write(f"restored as it was at {head['at']}")

    def _empty(self, tables: list[str], file: Path) -> None:
        """Drop every table, once the backup is known to be whole."""
        from web.storage.backup import verify

        verify(file)
        with connection.cursor() as cursor:
            cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
            for name in tables:
                cursor.execute(f"DROP TABLE {connection.ops.quote_name(name)}")
            cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
