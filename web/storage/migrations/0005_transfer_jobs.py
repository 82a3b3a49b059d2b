import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("keeping", "0004_once"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RemoveConstraint("parcel", "a_parcel_s_known_status"),
        migrations.RemoveConstraint("parcel", "a_parcel_s_known_way"),
        migrations.RenameModel("Parcel", "TransferJob"),
        migrations.RenameModel("ParcelPart", "TransferPart"),
        migrations.RenameField("transferpart", "parcel", "transfer"),
        # The index goes with its renamed column; the foreign key needs it meanwhile.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RemoveConstraint("transferpart", "one_part_a_number"),
                migrations.AddConstraint(
                    "transferpart",
                    models.UniqueConstraint(
                        fields=["transfer", "number"], name="one_part_a_number"
                    ),
                ),
            ]
        ),
        migrations.AlterField(
            "transferjob",
            "owner",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="transfers",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AddConstraint(
            "transferjob",
            models.CheckConstraint(
                condition=models.Q(status__in=("waiting", "running", "done", "failed")),
                name="a_transfer_s_known_status",
            ),
        ),
        migrations.AddConstraint(
            "transferjob",
            models.CheckConstraint(
                condition=models.Q(way__in=("in", "out")), name="a_transfer_s_known_way"
            ),
        ),
    ]
