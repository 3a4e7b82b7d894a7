from django.db import migrations, models
from django.db.models import F


def same_as_bound(apps, schema_editor):
    """Until now nothing was appended: the file is what was signed."""
    apps.get_model("editions", "Edition").objects.update(file_sha256=F("bound_sha256"))
    apps.get_model("editions", "EditionBinding").objects.update(bound_sha256=F("sha256"))


class Migration(migrations.Migration):
    dependencies = [("editions", "0003_kept_columns")]
    operations = [
        migrations.AddField(
            "edition",
            "file_sha256",
            models.CharField(blank=True, default="", help_text="Of the file with the receipt in it.", max_length=64),
            preserve_default=False,
        ),
        migrations.AlterField(
            "edition",
            "bound_sha256",
            models.CharField(blank=True, help_text="As signed: before the receipt is appended.", max_length=64),
        ),
        migrations.AddField(
            "editionbinding",
            "bound_sha256",
            models.CharField(default="", help_text="As signed, without the receipt.", max_length=64),
            preserve_default=False,
        ),
        migrations.AlterField(
            "editionbinding",
            "sha256",
            models.CharField(help_text="Of the file, with the receipt in it.", max_length=64),
        ),
        migrations.RunPython(same_as_bound, migrations.RunPython.noop),
    ]
