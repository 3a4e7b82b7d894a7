"""The folders of the storage that belong in a backup, one a line. `./folio backup` asks."""

from __future__ import annotations

from django.core.management.base import BaseCommand

from plumbing.storage import registered_folders


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_: object) -> None:
        for folder in registered_folders():
            if folder.backed_up:
                self.stdout.write(folder.name)
