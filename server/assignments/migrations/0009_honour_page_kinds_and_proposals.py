from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("assignments", "0008_asks_rehearsal"),)

    operations = (
        migrations.AddField(
            "assignment",
            "page_kinds",
            models.CharField(
                choices=[("any", "Any"), ("pictures", "Pictures"), ("pdf", "Pdf")], default="any", max_length=8
            ),
        ),
        migrations.AddField(
            "assignment",
            "honour",
            models.TextField(
                blank=True, max_length=2000, help_text="Words of honour: who hands in confirms them by it. Empty: none."
            ),
        ),
        migrations.AddField(
            "assignment",
            "proposes",
            models.BooleanField(
                default=True, help_text="Labels on the pages are read, and places proposed to the students."
            ),
        ),
    )
