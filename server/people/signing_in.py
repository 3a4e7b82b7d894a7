"""The one door for signing in, staff's too."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse

from live.announcing import announce
from plumbing.errors import Refused

from . import college, second_factor
from .guessing import DEVICE_COOKIE, DEVICE_SECONDS, Device, forget_failures, remember_failure, seconds_to_wait
from .models import User, new_token

# Hashing a password takes much memory and time, on purpose: many at once would stop all else.
_HASHING = threading.BoundedSemaphore(2)
_HASHING_SECONDS = 10


def sign_in(
    request: HttpRequest, email: str, password: str, now: datetime, *, code: str = "", passkey: str = ""
) -> User:
    """Raises Refused: 401 for a wrong password, or where a second factor is missing or wrong; 429 where one must
    wait."""
    account, address = email.strip().lower()[:254], str(request.META.get("REMOTE_ADDR", ""))
    device = device_of(request)
    wait = seconds_to_wait(account, device, address, now)
    if wait:
        raise Refused(
            429, "throttled", f"There were several wrong passwords for this address. Try again in {wait} seconds. "
            "Your instructor can let you in at once.",
        )  # fmt: skip
    with _one_of_few():
        user = authenticate(request, email=account, password=password)
    if not isinstance(user, User):
        remember_failure(account, device, address, now)
        raise Refused(401, "wrong_credentials", "This mail address and password do not belong together. Try again.")
    try:
        second_factor.require(request, user, now, code=code, passkey=passkey)
    except Refused as error:
        if error.code == "wrong_code":
            remember_failure(account, device, address, now)
        raise
    forget_failures(account, device, address)
    login(request, user)
    if user.is_staff:
        request.session.set_expiry(settings.FOLIO_STAFF_SESSION_HOURS * 3600)
    return user


def sign_in_from_college(request: HttpRequest) -> User:
    """Whoever came back from the college's sign-in. Raises Refused (`college.come_back`)."""
    user = college.come_back(request)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return user


def check_password(person: User, password: str) -> bool:
    with _one_of_few():
        return person.check_password(password)


def device_of(request: HttpRequest) -> Device:
    return Device.from_cookie(request.COOKIES.get(DEVICE_COOKIE), new_token())


def remember_device(request: HttpRequest, response: HttpResponse, person: User) -> None:
    """This browser has signed in: strangers' guesses do not hold it up from now on."""
    response.set_cookie(
        DEVICE_COOKIE, device_of(request).cookie_with(person.pk), DEVICE_SECONDS, secure=request.is_secure(),
        httponly=True, samesite="Lax",
    )  # fmt: skip


def sign_out(request: HttpRequest) -> None:
    """Here; streams of news of this session end."""
    key = request.session.session_key
    person = request.user.pk
    logout(request)
    if person is not None:
        announce(person_topic(person), signed_out=key)


def sign_out_everywhere(person: User) -> None:
    """All sessions end, this one too."""
    person.session_number += 1
    person.save(update_fields=["session_number"])
    announce(person_topic(person.pk), signed_out="everywhere")


def person_topic(person: int) -> str:
    return f"person:{person}"


@contextmanager
def _one_of_few() -> Iterator[None]:
    if not _HASHING.acquire(timeout=_HASHING_SECONDS):
        raise Refused(503, "busy", "Very many people are signing in just now. Try again in a moment.")
    try:
        yield
    finally:
        _HASHING.release()
