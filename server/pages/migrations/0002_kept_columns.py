from django.db import migrations

from plumbing.kept_columns import keep_columns


class Migration(migrations.Migration):
    dependencies = [("pages", "0001_initial")]
    operations = [
        keep_columns(
            "pages_original", "folio_id", "sha256", "size", "stored_as", "arrived_at", "verdict", "late_seconds", "promised_at",
        ),
        keep_columns("pages_pledge", "folio_id", "sha256", "size", "promised_at"),
    ]
