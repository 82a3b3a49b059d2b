"""Fields that had another name in stored documents, in their history and in runs of the bench."""

from django.db import migrations

RENAMED = {
    "breaker_school": "trip_criterion",
    "limit_headroom": "limit_over_surge",
    "most_generator_h": "max_generator_h",
    "least_hours": "min_hours",
    "latched": "locked_out",
}
"""Former name and name today; none of the former stands anywhere as a value."""
HELD = (
    ("supplies", "Supply", ("document",)),
    ("setups", "SavedSetup", ("document",)),
    ("setups", "Draft", ("document",)),
    ("keeping", "Change", ("state", "back")),
    ("bench", "BenchRun", ("document", "state")),
    ("running_order", "DayTasks", ("tasks",)),
    ("logbook", "LogEntry", ("document",)),
)
"""By app: model, and the fields that hold documents."""


def rename(apps, schema_editor):
    """In the text of each document: as the key of an object, and as the end of a JSON patch's
    path.
    """
    with schema_editor.connection.cursor() as cursor:
        for app, name, fields in HELD:
            table = apps.get_model(app, name)._meta.db_table
            for field in fields:
                for old, new in RENAMED.items():
                    for before, after in ((f'"{old}":', f'"{new}":'), (f'/{old}"', f'/{new}"')):
                        cursor.execute(
                            f"UPDATE `{table}` SET `{field}` = REPLACE(`{field}`, %s, %s)"
                            f" WHERE LOCATE(%s, `{field}`) > 0",
                            [before, after, before],
                        )


class Migration(migrations.Migration):
    dependencies = [
        ("setups", "0005_draft_of_a_browser"),
        ("supplies", "0002_checked"),
        ("keeping", "0004_once"),
        ("bench", "0001_initial"),
        ("running_order", "0001_initial"),
        ("logbook", "0004_any_kind"),
    ]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
