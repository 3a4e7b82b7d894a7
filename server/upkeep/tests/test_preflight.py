"""What must hold before real work is taken in, and that each check fails where it does not."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TestCase, override_settings

from folio_core.page.sandbox import Isolation
from people import passwords
from people.models import User
from upkeep.management.commands import preflight

_GOOD = {
    "DEBUG": False, "SECRET_KEY": "a" * 25 + "B7c9!" * 6, "ALLOWED_HOSTS": ["folio.example"], "HTTPS": True,
    "EMAIL_HOST": "mail.example", "SESSION_COOKIE_SECURE": True, "CSRF_COOKIE_SECURE": True,
    "SECURE_HSTS_SECONDS": 3600,
}  # fmt: skip


@override_settings(**_GOOD)
class Preflight(TestCase):
    def setUp(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("CREATE ROLE app_of_preflight NOLOGIN")
        call_command("grant_rights", "app_of_preflight")

    def run_it(self, *, as_app: bool = True) -> str:
        out = io.StringIO()
        with connection.cursor() as cursor:
            cursor.execute("SET ROLE app_of_preflight" if as_app else "RESET ROLE")
        try:
            call_command("preflight", stdout=out)
        except CommandError as error:
            out.write(str(error))
        finally:
            with connection.cursor() as cursor:
                cursor.execute("RESET ROLE")
        return out.getvalue()

    def test_with_all_of_it_right_every_check_holds(self) -> None:
        with tempfile.TemporaryDirectory() as media, override_settings(MEDIA_ROOT=media):
            self.assertNotIn("broken", self.run_it())
            self.assertEqual(list(Path(media).iterdir()), [])

    def test_each_check_fails_where_it_does_not_hold(self) -> None:
        leaky = Isolation(True, False, True, True, True, True, limited_calls=True)
        cases: dict[str, Callable[[], object]] = {
            "no debugging": lambda: override_settings(DEBUG=True),
            "own secrets": lambda: override_settings(SECRET_KEY="short"),
            "own addresses": lambda: override_settings(ALLOWED_HOSTS=["localhost", "*"]),
            "encrypted": lambda: override_settings(HTTPS=False),
            "Django's own checks": lambda: override_settings(SESSION_COOKIE_SECURE=False),
            "receipt key": lambda: override_settings(RECEIPT_KEY_FILE="/nowhere"),
            "mail": lambda: override_settings(EMAIL_HOST="", EMAIL_BACKEND="smtp"),
            "sandbox of the decoders": lambda: mock.patch.object(preflight, "isolation", return_value=leaky),
            "storage": lambda: override_settings(MEDIA_ROOT="/proc/nowhere"),
        }
        for name, wrong in cases.items():
            with self.subTest(name), wrong():  # type: ignore[attr-defined]
                broken = [line for line in self.run_it().splitlines() if line.startswith("broken")]
                self.assertTrue(any(line.startswith(f"broken  {name}:") for line in broken), broken)
        self.assertIn("broken  database role", self.run_it(as_app=False))

    def test_nothing_of_the_demo_may_be_left(self) -> None:
        User.objects.create_user("imarrow@kestrelpoint.example", "by-dead-reckoning")
        self.assertIn("broken  no demo accounts: 1 accounts", self.run_it())

    def test_the_first_administrator_sets_a_password_by_a_link(self) -> None:
        out = io.StringIO()
        call_command("administrator", "head@college.example", stdout=out)
        person, token = out.getvalue().strip().rsplit("/", 2)[1:]
        user = passwords.set_by_link(person, token, "a long enough password")
        self.assertTrue(user.is_superuser and user.check_password("a long enough password"))
