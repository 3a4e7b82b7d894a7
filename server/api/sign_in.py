"""Signing in and out, and who is signed in."""

from __future__ import annotations

from axes.handlers.proxy import AxesProxyHandler
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.utils import check_csrf

from courses.models import Enrolment
from people.models import User
from plumbing.errors import Problem, Refused

from .permissions import person

router = Router(tags=["sign-in"])


class Credentials(Schema):
    email: str
    password: str


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


@router.post("/session", auth=None, response={200: Me, 401: Problem, 403: Problem, 429: Problem})
def sign_in(request: HttpRequest, credentials: Credentials) -> Me:
    # Nobody is signed in yet, so nothing else asks for the token; without it another site could sign a student
    # in as somebody else, and the pages would land there.
    if check_csrf(request) is not None:
        raise Refused(403, "stale_page", "This page is out of date. Reload it and sign in again.")
    named = {"email": credentials.email.strip().lower()}
    if not AxesProxyHandler.is_allowed(request, named):
        raise _throttled()
    user = authenticate(request, email=named["email"], password=credentials.password)
    if user is None:
        if not AxesProxyHandler.is_allowed(request, named):
            raise _throttled()
        raise Refused(401, "wrong_credentials", "This mail address and password do not belong together. Try again.")
    login(request, user)
    get_token(request)  # the token changed with the session
    return _described(person(request))


def _throttled() -> Refused:
    return Refused(429, "throttled", "Too many wrong passwords. Wait a quarter of an hour, or ask your instructor.")


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> tuple[int, None]:
    logout(request)
    return 204, None
