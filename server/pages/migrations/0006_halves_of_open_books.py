from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("pages", "0005_cameras_and_test_pictures")]
    operations = [
        migrations.AddField(
            "page",
            "half",
            models.PositiveSmallIntegerField(
                db_default=0, default=0, help_text="1: the right page of an open book; the left one is 0."
            ),
        ),
        migrations.RemoveConstraint("page", "each_page_once"),
        migrations.AddConstraint(
            "page", models.UniqueConstraint(fields=["original", "index", "half"], name="each_page_once")
        ),
    ]
