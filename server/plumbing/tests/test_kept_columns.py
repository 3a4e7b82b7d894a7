"""What the database itself refuses, whoever asks: the record, its times and verdicts."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.db import DatabaseError, connection, transaction
from django.db.models import QuerySet

from editions.models import Edition, EditionBinding, SigningKey
from folios.models import Event
from pages.models import Original, Page, Pledge
from testing.desk import NOW, DeskTestCase, picture


class Kept(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.send(picture())
        Pledge.objects.create(folio=self.folio, sha256="0" * 64, size=1, file_name="a", promised_at=NOW)
        self.hand_in()
        self.work_off_jobs()

    def refused(self, statement: str) -> None:
        with self.assertRaises(DatabaseError, msg=statement), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(statement)

    def test_times_and_verdicts_cannot_be_changed_nor_their_rows_removed(self) -> None:
        kept: list[tuple[QuerySet[Any], dict[str, Any]]] = [
            (Original.objects.all(), {"arrived_at": NOW}),
            (Original.objects.all(), {"verdict": "late"}),
            (Original.objects.all(), {"sha256": "1" * 64}),
            (Pledge.objects.all(), {"promised_at": NOW.replace(year=2025)}),
            (Edition.objects.all(), {"handed_in_at": NOW.replace(year=2025)}),
            (Edition.objects.all(), {"verdict": "late"}),
            (Edition.objects.all(), {"arrangement": {}}),
            (Edition.objects.all(), {"record_head": "0" * 64}),
            (EditionBinding.objects.all(), {"receipt": {}}),
            (SigningKey.objects.all(), {"public_key": "another"}),
        ]
        for rows, change in kept:
            with self.subTest(model=rows.model.__name__, change=change):
                self.assertTrue(rows.exists())
                change = {"arrived_at": NOW.replace(year=2025)} if "arrived_at" in change else change
                with self.assertRaises(DatabaseError), transaction.atomic():
                    rows.update(**change)
                table = rows.model._meta.db_table
                self.refused(f"DELETE FROM {table}")
                self.refused(f"TRUNCATE {table} CASCADE")

    def test_what_is_still_open_can_be_filled(self) -> None:
        Pledge.objects.update(delivered=True)
        Edition.objects.update(state=Edition.State.BOUND)

    def test_the_role_that_runs_the_application_may_do_its_work_and_no_more(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("CREATE ROLE folio_app_of_a_test NOLOGIN")
        call_command("grant_rights", "folio_app_of_a_test")
        with connection.cursor() as cursor:
            cursor.execute("SET ROLE folio_app_of_a_test")
        try:
            Event.objects.create(folio=self.folio, kind="begun", at=NOW)
            Page.objects.update(state=Page.State.WAITING)
            events = Event._meta.db_table
            for statement in (
                f"UPDATE {events} SET kind = 'begun'", f"DELETE FROM {events}", f"TRUNCATE {events}",
                f"ALTER TABLE {events} DISABLE TRIGGER ALL", "DROP TRIGGER folios_event_append_only ON folios_event",
                "SET session_replication_role = replica", "CREATE TABLE mine (a int)", "CREATE ROLE another",
                "COPY (SELECT 1) TO PROGRAM 'id'",
            ):  # fmt: skip
                self.refused(statement)
        finally:
            with connection.cursor() as cursor:
                cursor.execute("RESET ROLE")
