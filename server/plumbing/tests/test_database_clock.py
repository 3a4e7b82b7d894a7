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
        behind = time.time() - 3000
        with mock.patch("plumbing.database_clock.time.time", return_value=behind), self.assertLogs(level="CRITICAL"):
            self.measured.measure_if_due()
        self.assertGreater(self.measured.offset.total_seconds(), 2999)
        self.measured.measure_if_due()  # not due again: what was measured stands
        self.assertGreater(self.measured.offset.total_seconds(), 2999)

    def test_what_is_judged_is_judged_by_it(self) -> None:
        self.measured.set_apart(0.5)
        self.assertEqual(moment(), NOW + timedelta(seconds=0.5))

    def test_a_slow_answer_of_the_database_says_nothing_of_the_clock(self) -> None:
        self.measured.set_apart(2.0, within=1.99)
        self.assertEqual(moment(), NOW)

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
