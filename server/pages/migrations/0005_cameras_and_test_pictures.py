from django.conf import settings
from django.db import migrations, models

# Links that were made before lose nothing; nobody can type them, for nobody knows their figures.
_FILL = """
UPDATE pages_cameralink link SET student_id = folio.student_id, assignment_id = folio.assignment_id,
    letters = 'OLD' || to_hex(link.id), figures = ''
FROM folios_folio folio WHERE folio.id = link.folio_id
"""


class Migration(migrations.Migration):
    dependencies = [
        ("pages", "0004_pieces"),
        ("assignments", "0004_paper_rules"),
        ("folios", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    operations = [
        migrations.AddField("cameralink", "student", models.ForeignKey(settings.AUTH_USER_MODEL, models.deletion.PROTECT, null=True, related_name="+")),
        migrations.AddField("cameralink", "assignment", models.ForeignKey("assignments.assignment", models.deletion.PROTECT, null=True, related_name="camera_links")),
        migrations.AddField("cameralink", "letters", models.CharField(max_length=8, null=True, unique=True)),
        migrations.AddField("cameralink", "figures", models.CharField(default="", help_text="A keyed hash of them.", max_length=64)),
        migrations.AddField("cameralink", "wrong_figures", models.PositiveSmallIntegerField(default=0)),
        migrations.AddField("cameralink", "typed_sha256", models.CharField(max_length=64, null=True, unique=True)),
        migrations.AlterField("cameralink", "folio", models.ForeignKey("folios.folio", models.deletion.PROTECT, null=True, related_name="camera_links")),
        migrations.RunSQL(_FILL, migrations.RunSQL.noop),
        # What the rows still await is checked before the columns are changed (a pending constraint refuses that).
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", migrations.RunSQL.noop),
        migrations.AlterField("cameralink", "student", models.ForeignKey(settings.AUTH_USER_MODEL, models.deletion.PROTECT, related_name="+")),
        migrations.AlterField("cameralink", "assignment", models.ForeignKey("assignments.assignment", models.deletion.PROTECT, related_name="camera_links")),
        migrations.AlterField("cameralink", "letters", models.CharField(max_length=8, unique=True)),
        migrations.AlterField("cameralink", "figures", models.CharField(help_text="A keyed hash of them.", max_length=64)),
        migrations.CreateModel(
            "TestPicture",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("stored_as", models.CharField(max_length=255)),
                ("made_at", models.DateTimeField()),
                ("state", models.CharField(choices=[("waiting", "Waiting"), ("judged", "Judged"), ("failed", "Failed")], default="waiting", max_length=16)),
                ("message", models.TextField(blank=True)),
                ("advice", models.JSONField(default=list, help_text="Codes.")),
                ("preview", models.BinaryField(default=bytes)),
                ("width", models.PositiveIntegerField(default=0)),
                ("height", models.PositiveIntegerField(default=0)),
                ("assignment", models.ForeignKey("assignments.assignment", models.deletion.CASCADE, related_name="+")),
                ("camera", models.ForeignKey("pages.cameralink", models.deletion.CASCADE, null=True, related_name="test_pictures")),
                ("student", models.ForeignKey(settings.AUTH_USER_MODEL, models.deletion.CASCADE, related_name="+")),
            ],
            options={"ordering": ("pk",)},
        ),
    ]
