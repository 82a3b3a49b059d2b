"""Django's test runner, where the tables need not be migrated to be as migrations leave them."""

from __future__ import annotations

from typing import Any

from django.db import connection
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Where a suite's tables are made straight from the models (``TEST["MIGRATE"]``: a fifth of the
    time), every migration counts as applied, as on a site. Models and migrations say the same: CI
    asks ``makemigrations --check``; one suite and ``./start`` do migrate.
    """

    def setup_databases(self, **kwargs: Any) -> Any:
        """Make the test database; note every migration in it, unless they ran."""
        made = super().setup_databases(**kwargs)
        recorder = MigrationRecorder(connection)
        recorder.ensure_schema()
        applied = recorder.applied_migrations()
        for app, name in MigrationLoader(connection).graph.nodes:
            if (app, name) not in applied:
                recorder.record_applied(app, name)
        return made
