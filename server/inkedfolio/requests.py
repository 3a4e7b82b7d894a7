"""What a view needs of its request: the signed-in person, and the server's moment."""

from __future__ import annotations

from datetime import datetime
from typing import cast

from django.http import HttpRequest
from django.utils import timezone

from people.models import User


def person(request: HttpRequest) -> User:
    return cast(User, request.user)


def moment() -> datetime:
    """Now, on the server's clock. The one place that asks, so that tests can move it."""
    return timezone.now()
