"""Load the demo data once, and say who can sign in."""

from __future__ import annotations

from argparse import ArgumentParser

from django.core.management.base import BaseCommand

from demo import loading, scenario


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--address", default="http://127.0.0.1:8310/")

    def handle(self, *, address: str, **_: object) -> None:
        if not loading.loaded():
            self.stdout.write("  loading the demo data (about two minutes; only the first time)")
            loading.load(lambda text: self.stdout.write(f"    {text} …"))
        accounts = (
            (scenario.ILSE, "student, with work to do"),
            (scenario.TOBIN, "student, handed in"),
            (scenario.INSTRUCTOR, "instructor"),
            (scenario.ADMINISTRATOR, "administrator, also at /admin/"),
        )
        self.stdout.write(f"\nInked Folio is ready at  {address}\n\nSign in with the password  {scenario.PASSWORD}  as")
        for person, role in accounts:
            self.stdout.write(f"  {person.email:<34} {role}")
        self.stdout.write(f"\nPhotographs to try it with: {loading.photo_folder() / 'on-ilses-phone'}")
