from __future__ import annotations

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = (("assignments", "0004_paper_rules"),)

    operations = (
        migrations.RemoveConstraint(model_name="questiongroup", name="groups_ask_for_an_answer"),
    )
