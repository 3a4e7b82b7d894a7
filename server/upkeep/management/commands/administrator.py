"""`manage.py administrator MAIL`: an administrator's account, and a link to set its password."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.core.validators import validate_email

from people import passwords
from people.models import User


class Command(BaseCommand):
    help = "Make an administrator, or let one set a new password. Prints a link that is good once, for three days."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("mail")

    def handle(self, *_: Any, mail: str, **__: Any) -> None:
        validate_email(mail)
        user = User.objects.filter(email=mail.lower()).first() or User.objects.create_user(mail)
        user.is_staff = user.is_superuser = True
        user.save(update_fields=["is_staff", "is_superuser"])
        base = settings.FOLIO_ADDRESS or f"https://{settings.ALLOWED_HOSTS[0]}"
        self.stdout.write(f"{user.email} administers. Set the password here: {base}{passwords.link_path(user)}")
