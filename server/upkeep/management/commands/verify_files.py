"""Whether every file that the database names is there, and byte for byte where its hash is known."""

from __future__ import annotations

import hashlib

from django.core.files.storage import default_storage
from django.core.management.base import BaseCommand, CommandError

from plumbing.storage import registered_folders


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_: object) -> None:
        hashes = {name: sha256 for folder in registered_folders() for name, sha256 in folder.hashes()}
        named = sorted({*hashes, *(name for folder in registered_folders() for name in folder.named_files())})
        bad = [name for name in named if not self._holds(name, hashes.get(name))]
        for name in bad:
            self.stderr.write(f"  missing or changed: {name}")
        if bad:
            raise CommandError(f"{len(bad)} of {len(named)} files are missing or changed.")
        self.stdout.write(
            f"  {len(named)} files are there, {len(hashes)} of them with the SHA-256 that is known of each"
        )

    def _holds(self, name: str, sha256: str | None) -> bool:
        if not default_storage.exists(name):
            return False
        if sha256 is None:
            return True
        digest = hashlib.sha256()
        with default_storage.open(name, "rb") as file:
            for chunk in file.chunks():
                digest.update(chunk)
        return digest.hexdigest() == sha256
