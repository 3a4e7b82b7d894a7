"""Signing in and out, and who is signed in."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.utils import check_csrf

from courses.models import Enrolment
from people import passkeys, signing_in
from people.models import User
from plumbing.errors import Problem, Refused
from plumbing.requests import moment

from .permissions import person

router = Router(tags=["sign-in"])


class Credentials(Schema):
    """``code``: of the authenticator application, or a spare one; ``passkey``: what the browser signed, as JSON. One of
    them where the account has a second factor."""

    email: str
    password: str
    code: str = ""
    passkey: str = ""


class Me(Schema):
    name: str
    email: str
    number: str
    teaches: bool
    administers: bool


@router.get("/me", auth=None, response=Me | None)
def me(request: HttpRequest) -> Me | None:
    """The signed-in person, or null."""
    return _described(person(request)) if request.user.is_authenticated else None


def _described(user: User) -> Me:
    teaches = Enrolment.objects.filter(person=user, role=Enrolment.Role.INSTRUCTOR).exists()
    return Me(name=user.name, email=user.email, number=user.number, teaches=teaches, administers=user.is_staff)


@router.post("/session", auth=None, response={200: Me, 401: Problem, 403: Problem, 429: Problem, 503: Problem})
def sign_in(request: HttpRequest, response: HttpResponse, credentials: Credentials) -> Me:
    # Nobody is signed in yet, so nothing else asks for the token; without it another site could sign a student
    # in as somebody else, and the pages would land there.
    if check_csrf(request) is not None:
        raise Refused(403, "stale_page", "This page is out of date. Reload it and sign in again.")
    user = signing_in.sign_in(
        request, credentials.email, credentials.password, moment(), code=credentials.code, passkey=credentials.passkey
    )
    get_token(request)  # the token changed with the session
    signing_in.remember_device(request, response, user)
    return _described(user)


@router.get("/session/passkey", auth=None, response=dict[str, Any] | None)
def passkey_asked(request: HttpRequest) -> dict[str, Any] | None:
    """After a right password, what a passkey of this person must sign: the JSON form of the options for
    ``navigator.credentials.get()`` (Web Authentication). Null where no passkey is asked for."""
    return passkeys.asked(request)


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest, response: HttpResponse) -> tuple[int, None]:
    """The browser forgets the answers it kept: pages are pictures of somebody's work."""
    signing_in.sign_out(request)
    response["Clear-Site-Data"] = '"cache"'
    return 204, None
