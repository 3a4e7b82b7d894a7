"""What a view needs of its request, and the server's moment."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from .database_clock import database_clock


def chunks_of(request: HttpRequest) -> Iterator[bytes]:
    """The body in pieces of a megabyte."""
    while chunk := request.read(1024 * 1024):
        yield chunk


def body_of(request: HttpRequest, most: int) -> bytes:
    """The body; of one that has more than ``most`` bytes a little more than that, for whoever refuses it."""
    data = bytearray()
    for chunk in chunks_of(request):
        data += chunk
        if len(data) > most:
            break
    return bytes(data)


def address_of(request: HttpRequest) -> str:
    """The installation's own address, without a slash behind: what links in mails and codes begin with."""
    return str(settings.FOLIO_ADDRESS or request.build_absolute_uri("/").rstrip("/"))


def moment() -> datetime:
    """Now, on the database's clock. The one place that asks, so that tests can move it.

    Raises Refused (503) on a machine whose own clock is wrong.
    """
    database_clock.require_right()
    return timezone.now() + database_clock.offset
