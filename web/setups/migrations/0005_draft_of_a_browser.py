"""A draft of an account that everybody shares belongs to one browser."""

from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("setups", "0004_one_copy"),
    ]
    operations = [
        migrations.AddField("draft", "holder", models.CharField(default="", max_length=40)),
        migrations.AddConstraint(
            "draft",
            models.UniqueConstraint(
                fields=["owner", "item", "holder"], name="one_draft_of_a_setup_and_holder"
            ),
        ),
        migrations.RemoveConstraint("draft", "one_draft_of_a_setup"),
    ]
