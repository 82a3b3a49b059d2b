"""What a setup stands on is kept there alone: the copies in the setups go."""

from django.db import migrations


def strip(apps, schema_editor):
    for saved in apps.get_model("setups", "SavedSetup").objects.iterator(chunk_size=200):
        elsewhere = {"rig": saved.rig_id, "supply": saved.supply_id}
        own = {k: v for k, v in saved.document.items() if elsewhere.get(k) is None}
        if own != saved.document:
            saved.document = own
            saved.save(update_fields=["document"])


def give_back(apps, schema_editor):
    for saved in apps.get_model("setups", "SavedSetup").objects.select_related("rig", "supply"):
        for name in ("rig", "supply"):
            held = getattr(saved, name)
            if held is not None:
                saved.document[name] = held.document
        saved.save(update_fields=["document"])


class Migration(migrations.Migration):
    dependencies = [
        ("setups", "0003_checked"),
        ("rigs", "0002_checked"),
        ("supplies", "0002_checked"),
    ]
    operations = [migrations.RunPython(strip, give_back)]
