from __future__ import annotations

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = (("pages", "0005_cameras_and_test_pictures"), ("folios", "0001_initial"))

    operations = (
        migrations.CreateModel(
            "ReadPage",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("image", models.CharField(max_length=64, help_text="SHA-256 of what was read.")),
                ("kept_reading", models.JSONField()),
                ("read_at", models.DateTimeField()),
                (
                    "page",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="read", to="pages.page"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            "KeptProposal",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("basis", models.CharField(max_length=64)),
                ("pages", models.JSONField()),
                ("document", models.JSONField()),
                ("in_order", models.JSONField()),
                (
                    "said",
                    models.JSONField(default=list, help_text="What the student was told: question, page, confidence."),
                ),
                (
                    "folio",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="kept_proposal", to="folios.folio"
                    ),
                ),
            ],
        ),
    )
