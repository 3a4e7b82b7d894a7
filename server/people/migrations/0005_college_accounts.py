from __future__ import annotations

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("people", "0004_passkeys"),)

    operations = (
        migrations.CreateModel(
            "CollegeAccount",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("issuer", models.CharField(max_length=255)),
                ("subject", models.CharField(max_length=255)),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="college_accounts",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("issuer", "subject"), name="college_subject_of_one_person"),
                    models.UniqueConstraint(fields=("issuer", "person"), name="one_college_subject_each"),
                ]
            },
        ),
    )
