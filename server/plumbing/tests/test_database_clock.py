"""One clock, and a machine that is wrong about it does not judge."""

from __future__ import annotations

import time
from datetime import timedelta
from unittest import mock

from plumbing.database_clock import DatabaseClock
from plumbing.errors import Refused
from plumbing.requests import moment
from testing.desk import NOW, DeskTestCase, picture


class OneClock(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.measured = DatabaseClock()
        self.enterContext(mock.patch("plumbing.requests.database_clock", self.measured))
        self.enterContext(mock.patch("plumbing.connections.database_clock", mock.Mock()))

    def test_it_is_measured_against_the_databases(self) -> None:
        behind = time.time() - 0.5
        with mock.patch("plumbing.database_clock.time.time", return_value=behind):
            self.measured.measure_if_due()
        self.assertAlmostEqual(self.measured.offset.total_seconds(), 0.5, delta=0.4)
        self.assertEqual(moment(), NOW + self.measured.offset)
        self.measured.measure_if_due()  # not due again: what was measured stands
        self.assertNotEqual(self.measured.offset, timedelta(0))

    def test_what_asking_takes_is_no_difference(self) -> None:
        self.measured.set_apart(0.03)
        self.assertEqual(moment(), NOW)

    def test_a_machine_that_is_off_by_more_than_a_second_says_so_and_takes_nothing(self) -> None:
        with self.assertLogs("plumbing.database_clock", "CRITICAL"):
            self.measured.set_apart(-1.2)
        with self.assertRaises(Refused):
            moment()
        answer = self.send(picture())
        self.assertEqual((answer.status_code, answer.json()["code"]), (503, "wrong_clock"))
        self.assertFalse(self.folio.originals.exists())
        self.measured.set_apart(0.2)
        self.assertEqual(self.send(picture()).status_code, 200)
