"""The database's connection goes back before the first byte of an answer is sent."""

from __future__ import annotations

from unittest import mock

from django.http import HttpResponse
from django.test import RequestFactory, SimpleTestCase

from plumbing import connections


class GivenBack(SimpleTestCase):
    def pass_through(self, *, in_atomic_block: bool) -> mock.Mock:
        connection = mock.Mock(in_atomic_block=in_atomic_block)
        view = mock.Mock(side_effect=lambda request: connection.used() or HttpResponse())
        with (
            mock.patch.object(connections.connections, "all", return_value=[connection]),
            mock.patch.object(connections, "database_clock"),
        ):
            connections.GiveBackConnection(view)(RequestFactory().get("/"))
        return connection

    def test_after_the_view_and_before_the_answer_is_sent(self) -> None:
        calls = self.pass_through(in_atomic_block=False).mock_calls
        self.assertEqual(calls, [mock.call.used(), mock.call.close_if_unusable_or_obsolete()])

    def test_a_transaction_that_goes_on_keeps_its_own(self) -> None:
        self.assertEqual(self.pass_through(in_atomic_block=True).mock_calls, [mock.call.used()])
