"""Load the demo data once, and say who can sign in."""

from __future__ import annotations

import time
from argparse import ArgumentParser

from django.core.management.base import BaseCommand

from demo import loading, sample_people, scenario

_MOST_SECONDS = 180


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--address", default="http://127.0.0.1:8310/")

    def handle(self, *, address: str, **_: object) -> None:
        if not loading.loaded():
            self.stdout.write("  loading the demo data (about two minutes; only the first time)")
            loading.load(lambda text: self.stdout.write(f"    {text} …"))
            self._wait_for_the_worker()
        accounts = (
            (sample_people.ILSE, "student, with work to do"),
            (sample_people.TOBIN, "student, handed in"),
            (sample_people.INSTRUCTOR, "instructor"),
            (sample_people.MARKER, "marker"),
            (sample_people.ADMINISTRATOR, "administrator, also at /admin/"),
        )
        self.stdout.write(f"\nInked Folio is ready at  {address}\n\nSign in with the password  {scenario.PASSWORD}  as")
        for person, role in accounts:
            self.stdout.write(f"  {person.email:<34} {role}")
        self.stdout.write(f"\nPhotographs to try it with: {loading.photo_folder() / 'on-ilses-phone'}")

    def _wait_for_the_worker(self) -> None:
        """So that the first pages somebody adds by hand do not queue up behind the sample ones."""
        self.stdout.write(f"    preparing {loading.not_yet_made()} pages and documents …")
        deadline = time.monotonic() + _MOST_SECONDS
        while loading.not_yet_made() and time.monotonic() < deadline:
            time.sleep(0.5)
