"""Findings and advice have another form now; what was kept in the old one is dropped and made anew with the page."""

from django.db import migrations


def forget(apps, schema_editor):
    apps.get_model("folios", "Page").objects.update(findings={}, advice=[])


class Migration(migrations.Migration):
    dependencies = [("folios", "0004_editionpage_corners_page_corners_page_likeness_and_more")]
    operations = [migrations.RunPython(forget, migrations.RunPython.noop)]
