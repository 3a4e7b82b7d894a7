from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("courses", "0003_join_requests"),)

    operations = (
        migrations.AddField(
            "course",
            "proposes",
            models.BooleanField(default=True, help_text="Labels on pages are read, if the assignment says so."),
        ),
    )
