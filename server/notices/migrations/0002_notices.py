import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

KINDS = [
    ("receipt", "Receipt"), ("by_itself", "By Itself"), ("time_given", "Time Given"), ("word", "Word"),
    ("given_out", "Given Out"), ("opening", "Opening"), ("closing", "Closing"), ("hand_in", "Hand In"),
    ("trouble", "Trouble"),
]


class Migration(migrations.Migration):
    dependencies = [("notices", "0001_initial"), migrations.swappable_dependency(settings.AUTH_USER_MODEL)]
    operations = [
        migrations.AddField("mail", "html", models.TextField(blank=True, default=""), preserve_default=False),
        migrations.AddField(
            "mail", "leave_path",
            models.CharField(
                blank=True, default="", max_length=300, help_text="Where one action ends mails of this kind."
            ),
            preserve_default=False,
        ),
        migrations.AddField(
            "mail", "attachment_name", models.CharField(blank=True, default="", max_length=200), preserve_default=False
        ),
        migrations.AddField("mail", "attachment", models.BinaryField(null=True)),
        migrations.AddField(
            "mail", "bounced_at",
            models.DateTimeField(null=True, help_text="Refused for good by the server of the address."),
        ),
        migrations.CreateModel(
            "Notice",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(choices=KINDS, max_length=16)),
                ("once", models.CharField(max_length=80)),
                ("subject", models.CharField(max_length=200)),
                ("text", models.TextField()),
                ("path", models.CharField(max_length=200)),
                ("made_at", models.DateTimeField()),
                ("read_at", models.DateTimeField(null=True)),
                ("awaits_digest", models.BooleanField(default=False)),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="notices",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ("-pk",),
                "indexes": [
                    models.Index(fields=["person", "-id"], name="notices_not_person__f51905_idx"),
                    models.Index(
                        condition=models.Q(("awaits_digest", True)), fields=["person"], name="notices_for_digests"
                    ),
                    models.Index(condition=models.Q(("read_at", None)), fields=["person"], name="notices_unread"),
                ],
                "constraints": [models.UniqueConstraint(fields=("person", "once"), name="notice_told_once")],
            },
        ),
        migrations.CreateModel(
            "NoticeChoice",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(choices=KINDS, max_length=16)),
                (
                    "by_mail",
                    models.CharField(
                        choices=[("at_once", "At Once"), ("daily", "Daily"), ("never", "Never")], max_length=8
                    ),
                ),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="notice_choices",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("person", "kind"), name="notice_chosen_once")],
            },
        ),
    ]
