"""`manage.py preflight`: whether this may be run for real. Prints one line a check; fails where one does not hold."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core import checks
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from editions.signing import require_key_file
from folio_core.page.sandbox import isolation
from people.models import User
from plumbing.database_clock import database_clock

_LEAST_KEY = 50
_DEMO_MAIL = "@kestrelpoint.example"


class Command(BaseCommand):
    help = "Check that nothing of the demo and nothing unsafe is left, before real work is taken in."
    requires_system_checks: tuple[str, ...] = ()  # they are among the lines

    def handle(self, *_: Any, **__: Any) -> None:
        broken = 0
        for name, check in CHECKS.items():
            try:
                check()
            except Exception as error:
                broken += 1
                self.stdout.write(f"broken  {name}: {error}")
            else:
                self.stdout.write(f"ok      {name}")
        if broken:
            raise CommandError(f"{broken} of {len(CHECKS)} checks do not hold. Nothing was started.")


def _require(holds: bool, otherwise: str) -> None:
    if not holds:
        raise CommandError(otherwise)


def no_debugging() -> None:
    _require(not settings.DEBUG, "FOLIO_DEBUG is set. It shows the program's insides to everybody.")


def own_secrets() -> None:
    key = settings.SECRET_KEY
    _require(len(key) >= _LEAST_KEY, f"FOLIO_SECRET_KEY has fewer than {_LEAST_KEY} characters.")
    kept = settings.ROOT / ".folio" / "checkout.json"
    _require(not (kept.exists() and key in kept.read_text()), "FOLIO_SECRET_KEY is the demo's. Make one of your own.")


def no_demo_accounts() -> None:
    count = User.objects.filter(email__endswith=_DEMO_MAIL, is_active=True).count()
    _require(count == 0, f"{count} accounts of the demo are in this database, with a password that everybody knows.")


def addresses() -> None:
    own = set(settings.ALLOWED_HOSTS) - {"127.0.0.1", "localhost", ""}
    _require(bool(own) and "*" not in own, "FOLIO_HOSTS names no address of yours: folio.example.")


def encrypted() -> None:
    _require(settings.HTTPS, "FOLIO_HTTPS is not 1: cookies would travel readable. Put a proxy with TLS in front.")


def djangos_own() -> None:
    # The proxy redirects to HTTPS (W008); subdomains and preloading of HSTS are the college's decision (W005, W021).
    left_out = {"security.W008", "security.W005", "security.W021"}
    found = [one for one in checks.run_checks(include_deployment_checks=True) if one.level >= checks.WARNING]
    found = [one for one in found if one.id not in left_out]
    _require(not found, "; ".join(f"{one.id} {one.msg}" for one in found))


def receipt_key() -> None:
    require_key_file()


def tables() -> None:
    call_command("migrate", check_unapplied=True, verbosity=0)


def database_role() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT rolsuper OR rolcreaterole OR rolbypassrls FROM pg_roles WHERE rolname = current_user")
        _require(not cursor.fetchone()[0], "FOLIO_DB_USER is a superuser. See grant_rights in docs/running.md.")
        cursor.execute("SELECT has_table_privilege('folios_event', 'UPDATE, DELETE, TRUNCATE')")
        _require(not cursor.fetchone()[0], "FOLIO_DB_USER may change the record. Run: manage.py grant_rights ROLE")


def storage() -> None:
    name = default_storage.save(f"preflight/{os.getpid()}", ContentFile(b"written"))
    try:
        with default_storage.open(name) as file:
            _require(file.read() == b"written", "A file that was written reads otherwise.")
    finally:
        default_storage.delete(name)
        folder = Path(settings.MEDIA_ROOT) / "preflight"
        if folder.exists():
            folder.rmdir()


def mail() -> None:
    _require(bool(settings.EMAIL_HOST) or "locmem" in settings.EMAIL_BACKEND, "FOLIO_MAIL_HOST is not set.")


def clock() -> None:
    database_clock.measure_if_due()
    database_clock.require_right()


def sandbox() -> None:
    held = isolation()
    _require(held.holds, f"Decoders are not kept from everything: {', '.join(held.missing)}. Install bubblewrap.")


CHECKS: dict[str, Callable[[], None]] = {
    "no debugging": no_debugging, "own secrets": own_secrets, "no demo accounts": no_demo_accounts,
    "own addresses": addresses, "encrypted": encrypted, "Django's own checks": djangos_own, "receipt key": receipt_key,
    "tables": tables, "database role": database_role, "storage": storage, "mail": mail, "clock": clock,
    "sandbox of the decoders": sandbox,
}  # fmt: skip
