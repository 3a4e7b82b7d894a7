from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("assignments", "0007_files_beside"),)

    operations = (
        migrations.AddField(
            "assignment",
            "asks_rehearsal",
            models.BooleanField(default=False, help_text="Everybody is asked to rehearse once."),
        ),
    )
