"""What a view needs of its request, and the server's moment."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

from django.http import HttpRequest
from django.utils import timezone


def chunks_of(request: HttpRequest) -> Iterator[bytes]:
    """The body in pieces of a megabyte."""
    while chunk := request.read(1024 * 1024):
        yield chunk


def moment() -> datetime:
    """Now, on the server's clock. The one place that asks, so that tests can move it."""
    return timezone.now()
