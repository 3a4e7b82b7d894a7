from django.db import migrations, models

import assignments.models


class Migration(migrations.Migration):
    dependencies = [("assignments", "0003_setting_up")]
    operations = [
        migrations.AddField(
            "assignment",
            "paper_rules",
            models.JSONField(
                blank=True, default=assignments.models.usual_paper_rules, help_text="Codes of `PaperRule`."
            ),
        ),
    ]
