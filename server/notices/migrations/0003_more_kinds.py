from django.db import migrations, models

KINDS = [
    ("receipt", "Receipt"), ("by_itself", "By Itself"), ("time_given", "Time Given"), ("word", "Word"),
    ("asked_again", "Asked Again"), ("talk", "Talk"), ("taken_in", "Taken In"), ("given_out", "Given Out"),
    ("opening", "Opening"), ("closing", "Closing"), ("hand_in", "Hand In"), ("trouble", "Trouble"), ("answer", "Answer"),
]  # fmt: skip


class Migration(migrations.Migration):
    dependencies = [("notices", "0002_notices")]
    operations = [
        migrations.AlterField(model, "kind", models.CharField(choices=KINDS, max_length=16))
        for model in ("notice", "noticechoice")
    ]
