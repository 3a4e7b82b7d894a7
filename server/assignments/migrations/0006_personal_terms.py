from __future__ import annotations

import django.core.validators
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("assignments", "0005_bonus"), migrations.swappable_dependency(settings.AUTH_USER_MODEL))

    operations = (
        migrations.RenameModel("PersonalDue", "PersonalTerms"),
        migrations.AlterModelOptions("personalterms", {"verbose_name_plural": "personal terms"}),
        migrations.RemoveConstraint("personalterms", "one_personal_due_each"),
        migrations.AlterField(
            "personalterms",
            "assignment",
            models.ForeignKey(
                on_delete=models.deletion.CASCADE, related_name="personal_terms", to="assignments.assignment"
            ),
        ),
        migrations.AlterField("personalterms", "due", models.DateTimeField(blank=True, null=True)),
        migrations.AddField(
            "personalterms",
            "extra_factor",
            models.FloatField(
                blank=True,
                null=True,
                validators=[
                    django.core.validators.MinValueValidator(1.0),
                    django.core.validators.MaxValueValidator(4.0),
                ],
            ),
        ),
        migrations.AddField(
            "personalterms",
            "extra_minutes",
            models.PositiveSmallIntegerField(default=0, validators=[django.core.validators.MaxValueValidator(600)]),
        ),
        migrations.AddField("personalterms", "extra_on_handover", models.BooleanField(default=False)),
        migrations.AddField("personalterms", "extra_on_due", models.BooleanField(default=False)),
        migrations.AddField(
            "personalterms",
            "reason",
            models.CharField(blank=True, help_text="Only staff see it.", max_length=200),
        ),
        migrations.AddConstraint(
            "personalterms",
            models.UniqueConstraint(fields=("assignment", "person"), name="personal_terms_once_each"),
        ),
    )
