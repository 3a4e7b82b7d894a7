from __future__ import annotations

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("courses", "0002_setting_up"), migrations.swappable_dependency(settings.AUTH_USER_MODEL))

    operations = (
        migrations.AddField(
            "course",
            "join_asks",
            models.BooleanField(default=False, editable=False, help_text="An instructor lets in who joins."),
        ),
        migrations.CreateModel(
            "JoinRequest",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("asked_at", models.DateTimeField()),
                (
                    "course",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="join_requests",
                        to="courses.course",
                    ),
                ),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={"ordering": ("asked_at", "pk")},
        ),
        migrations.AddConstraint(
            "joinrequest", models.UniqueConstraint(fields=("course", "person"), name="one_join_request_each")
        ),
    )
