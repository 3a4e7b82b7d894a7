from django.db import migrations, models


class Migration(migrations.Migration):
    """Apart from the one before: an index is not made in the transaction that fills its column."""

    dependencies = [("editions", "0004_file_hash")]
    operations = [
        migrations.AlterField(
            "editionbinding",
            "bound_sha256",
            models.CharField(db_index=True, help_text="As signed, without the receipt.", max_length=64),
        ),
    ]
