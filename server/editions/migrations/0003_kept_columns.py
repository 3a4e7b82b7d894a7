from django.db import migrations

from plumbing.kept_columns import keep_columns


class Migration(migrations.Migration):
    dependencies = [("editions", "0002_bindings_and_keys"), ("pages", "0002_kept_columns")]
    operations = [
        keep_columns(
            "editions_edition", "folio_id", "number", "handed_in_at", "verdict", "late_seconds", "automatic", "comment",
            "arrangement", "kept_facts", "open_labels", "open_pages", "page_count", once=("record_head",),
        ),
        keep_columns("editions_editionbinding", "edition_id", "number", "sha256", "size", "receipt", "bound_at"),
        keep_columns("editions_signingkey", "key_id", "public_key", "first_used_at"),
    ]
