"""Whether every original and every bound document that the database names is there, byte for byte."""

from __future__ import annotations

import hashlib

from django.core.files.storage import default_storage
from django.core.management.base import BaseCommand, CommandError

from folios.models import Edition, Original


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_: object) -> None:
        originals = Original.objects.values_list("stored_as", "sha256")
        bound = Edition.objects.filter(state=Edition.State.BOUND).values_list("stored_as", "bound_sha256")
        named = [*originals, *bound]
        bad = [name for name, sha256 in named if not self._holds(name, sha256)]
        for name in bad:
            self.stderr.write(f"  missing or changed: {name}")
        if bad:
            raise CommandError(f"{len(bad)} of {len(named)} files are missing or changed.")
        self.stdout.write(f"  {len(named)} files are there, each with the SHA-256 it came with")

    def _holds(self, name: str, sha256: str) -> bool:
        if not default_storage.exists(name):
            return False
        digest = hashlib.sha256()
        with default_storage.open(name, "rb") as file:
            for chunk in file.chunks():
                digest.update(chunk)
        return digest.hexdigest() == sha256
