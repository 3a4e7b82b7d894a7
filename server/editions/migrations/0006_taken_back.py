from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("editions", "0005_bound_by_hash")]
    operations = [
        migrations.AddField(
            "edition",
            "taken_back_at",
            models.DateTimeField(null=True, help_text="By its student; it does not count any more."),
        ),
    ]
