from __future__ import annotations

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("assignments", "0006_personal_terms"),)

    operations = (
        migrations.CreateModel(
            "FileBeside",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=100)),
                ("size", models.PositiveBigIntegerField()),
                ("stored", models.FileField(upload_to="files-beside/")),
                (
                    "assignment",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="files_beside",
                        to="assignments.assignment",
                    ),
                ),
            ],
            options={"ordering": ("name", "pk")},
        ),
    )
