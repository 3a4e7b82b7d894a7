"""Sweep up after a crash. The start command runs it; it is safe at any time."""

from __future__ import annotations

from django.core.management.base import BaseCommand

from plumbing.requests import moment
from upkeep.sweeping import sweep


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_: object) -> None:
        swept = sweep(moment())
        if swept.files_removed or swept.jobs_enqueued:
            self.stdout.write(f"  swept up: {swept.files_removed} files, {swept.jobs_enqueued} jobs begun again")
