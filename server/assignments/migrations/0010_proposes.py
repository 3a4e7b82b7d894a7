from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("assignments", "0009_honour_and_page_kinds"),)

    operations = (
        migrations.AddField(
            "assignment",
            "proposes",
            models.BooleanField(
                default=True, help_text="Labels on the pages are read, and places proposed to the students."
            ),
        ),
    )
