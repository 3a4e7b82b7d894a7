"""The database's connection is given back before an answer is sent, however slowly that is read."""

from __future__ import annotations

from collections.abc import Callable

from django.db import connections
from django.http import HttpRequest, HttpResponseBase

from .database_clock import database_clock


class GiveBackConnection:
    """Middleware, the first of all. Django gives a connection back only when the last byte has been sent.

    The clocks are compared while there is one."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        database_clock.measure_if_due()
        response = self.get_response(request)
        for connection in connections.all(initialized_only=True):
            if not connection.in_atomic_block:  # a test's transaction goes on
                connection.close_if_unusable_or_obsolete()
        return response
