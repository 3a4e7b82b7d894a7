"""All tests of arriving files once more, through the fast lane."""

from __future__ import annotations

from typing import Any
from unittest import mock

from django.db import DatabaseError
from django.test import override_settings

from folios.models import Folio
from pages.models import Original, Page
from testing.desk import picture
from testing.doors import ByTheFastLane

from . import test_arrival


class Arrival(ByTheFastLane, test_arrival.Arrival):
    def test_a_row_that_cannot_be_committed_is_not_acknowledged_and_leaves_no_page(self) -> None:
        """Here nobody above answers for it: the fast lane itself says that something went wrong."""
        with (
            mock.patch("pages.arrival.enqueue_opening", side_effect=DatabaseError),
            self.assertLogs("plumbing.errors", "ERROR"),
        ):
            self.assertEqual(self.send(picture()).status_code, 500)
        self.assertFalse(Page.objects.exists())
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).version, 0)

    @override_settings(ALLOWED_HOSTS=["elsewhere.example"])
    def test_a_host_that_is_not_ours_is_refused(self) -> None:
        answer = self.send(picture())
        self.assertEqual((answer.status_code, answer.json()["code"]), (400, "wrong_host"))
        self.assertFalse(Original.objects.exists())

    @override_settings(SESSION_ENGINE="django.contrib.sessions.backends.signed_cookies")
    def test_it_looks_for_the_session_where_the_settings_say(self) -> None:
        self.assertEqual(self.send(picture()).status_code, 200)


class BadFilesFoundLater(ByTheFastLane, test_arrival.BadFilesFoundLater):
    pass


class SeveralPages(ByTheFastLane, test_arrival.SeveralPages):
    pass


def load_tests(loader: Any, tests: Any, pattern: str | None) -> Any:
    """Only the classes of this module: those it takes over run in their own."""
    del tests, pattern
    suite = loader.suiteClass()
    for case in (Arrival, BadFilesFoundLater, SeveralPages):
        suite.addTests(loader.loadTestsFromTestCase(case))
    return suite
