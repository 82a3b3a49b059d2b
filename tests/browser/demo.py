"""The demo in a browser test's database: judged once a process, laid back row by row after that.

A browser's tests share no transaction with the server they ask, so that every one of them begins
with empty tables.
"""

from __future__ import annotations

from django.db import connection

from web.setups.demo import load_demo

FILLED_ANYWAY = {"django_content_type", "auth_permission", "django_migrations", "django_session"}
"""Tables that Django fills by itself, or that are nobody's demo."""
Rows = tuple[list[str], list[tuple[object, ...]]]
HELD: dict[str, Rows] = {}
"""Columns and rows of the demo, by table."""


def lay_demo() -> None:
    """Make the demo as :func:`load_demo` does."""
    if not HELD:
        load_demo()
        HELD.update(_taken())
        return
    quote = connection.ops.quote_name
    with connection.constraint_checks_disabled(), connection.cursor() as cursor:
        for table, (columns, rows) in HELD.items():
            names = ", ".join(map(quote, columns))
            marks = ", ".join(["%s"] * len(columns))
            cursor.executemany(f"INSERT INTO {quote(table)} ({names}) VALUES ({marks})", rows)


def _taken() -> dict[str, Rows]:
    """What every table holds now."""
    taken: dict[str, Rows] = {}
    with connection.cursor() as cursor:
        for table in connection.introspection.django_table_names(only_existing=True):
            if table in FILLED_ANYWAY:
                continue
            cursor.execute(f"SELECT * FROM {connection.ops.quote_name(table)}")
            rows = list(cursor.fetchall())
            if rows:
                taken[table] = [column[0] for column in cursor.description], rows
    return taken
