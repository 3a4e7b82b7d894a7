"""The record of a folio: nothing is changed, removed or emptied, and what is left out is seen."""

from __future__ import annotations

import hashlib
import json
from datetime import timedelta

from django.db import DatabaseError, connection, transaction

from editions.models import Edition
from folios.beginning import create_folio
from folios.events import Arranged
from folios.models import Event, record
from testing.desk import NOW, DeskTestCase, picture


class TheRecord(DeskTestCase):
    def test_the_database_refuses_to_change_remove_or_empty_it(self) -> None:
        record(self.folio, Arranged(version=1), NOW)
        with connection.cursor() as cursor:
            cursor.execute(
                "SET CONSTRAINTS ALL IMMEDIATE"
            )  # else a table with writes under way cannot be emptied at all
        for sql in ("UPDATE folios_event SET kind = 'x'", "DELETE FROM folios_event", "TRUNCATE folios_event CASCADE"):
            with (
                self.subTest(sql),
                self.assertRaisesMessage(DatabaseError, "append-only"),
                transaction.atomic(),
                connection.cursor() as cursor,
            ):
                cursor.execute(sql)

    def test_each_event_is_chained_to_the_one_before_of_its_folio(self) -> None:
        """The chain is computed here again, by hashlib, from what the events say."""
        other = create_folio(self.work, self.tobin, NOW)
        for number in range(3):
            record(self.folio, Arranged(version=number), NOW + timedelta(minutes=number, microseconds=5))
            record(other, Arranged(version=9), NOW)
        before = ""
        for event in Event.objects.filter(folio=self.folio).order_by("pk"):
            at = event.at.strftime("%Y-%m-%d %H:%M:%S.%f")
            said = json.dumps(event.detail)
            before = hashlib.sha256("\n".join([before, event.kind, at, said]).encode()).hexdigest()
            self.assertEqual(event.chain, before)

    def test_an_edition_carries_the_head_of_the_record_as_it_was_handed_in(self) -> None:
        self.send(picture())
        self.hand_in()
        handed_in = Event.objects.filter(folio=self.folio, kind="handed_in").get()
        self.assertEqual(Edition.objects.get().record_head, handed_in.chain)
