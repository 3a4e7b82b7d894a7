from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("people", "0005_college_accounts"),)

    operations = (
        migrations.AddField(
            "user", "wants_proposals", models.BooleanField(default=True, help_text="Labels on their pages are read.")
        ),
    )
