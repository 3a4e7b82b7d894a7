"""The doors that files come in by, each judged by its headers alone: session, folio, phase, room."""

from __future__ import annotations

import base64
import io
import json
import re
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from typing import Any
from urllib.parse import parse_qs

from django.conf import settings
from django.contrib import auth
from django.contrib.auth.base_user import AbstractBaseUser
from django.core.exceptions import DisallowedHost
from django.core.handlers.asgi import ASGIRequest
from django.db import close_old_connections, connection
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import CsrfViewMiddleware
from ninja.errors import AuthenticationError

from assignments.models import Assignment
from folios.models import Folio
from plumbing.body_gate import Door, Message
from plumbing.database_clock import database_clock
from plumbing.errors import STALE_PAGE, Refused, not_yours
from plumbing.requests import moment

from . import camera_links, room
from .arrival import require_may_arrive


@dataclass(frozen=True, slots=True)
class Judged:
    """Who may bring a file, and into which folio. ``camera``: by which link, where it is a phone's."""

    folio_id: int
    student_id: int
    size: int
    camera: int | None = None


def judge_original(scope: Message, address: re.Match[str], size: int | None) -> Judged:
    """The student's own board. Raises AuthenticationError, Refused, SittingClosed."""
    try:
        student = signed_in(ASGIRequest(scope, io.BytesIO()))
        return _judged(_folio_of(int(address[1]), student.pk), _sha256_in(scope), size)
    finally:
        close_old_connections()


def judge_piece(scope: Message, address: re.Match[str], size: int | None) -> Judged:
    """A piece of an announced file, whose room was judged when it was announced. Raises as `judge_original`."""
    try:
        student = signed_in(ASGIRequest(scope, io.BytesIO()))
        return _piece(_folio_of(int(address[1]), student.pk), address[2])
    finally:
        close_old_connections()


def judge_picture(scope: Message, address: re.Match[str], size: int | None) -> Judged:
    """A phone with a camera link. Raises Refused, SittingClosed."""
    try:
        request = ASGIRequest(scope, io.BytesIO())
        link = camera_links.link_of(request.headers.get("Folio-Camera", ""), moment())
        return _judged(camera_links.folio_of(link), _sha256_in(scope), size, link.pk)
    finally:
        close_old_connections()


def judge_picture_piece(scope: Message, address: re.Match[str], size: int | None) -> Judged:
    """A piece of a phone's announced picture. Raises as `judge_picture`."""
    try:
        request = ASGIRequest(scope, io.BytesIO())
        link = camera_links.link_of(request.headers.get("Folio-Camera", ""), moment())
        return _piece(camera_links.folio_of(link), address[1])
    finally:
        close_old_connections()


def judge_staff(scope: Message, address: re.Match[str], size: int | None) -> None:
    """Question papers, and pages taken in for students. Raises AuthenticationError; who may do what there is asked by
    what answers."""
    try:
        signed_in(ASGIRequest(scope, io.BytesIO()), csrf=False)  # a form's token stands in its body
    finally:
        close_old_connections()


def judge_test_picture(scope: Message, address: re.Match[str], size: int | None) -> None:
    """Of a student's own device; what answers asks whether they may. Raises AuthenticationError, Refused."""
    try:
        signed_in(ASGIRequest(scope, io.BytesIO()))
    finally:
        close_old_connections()


def judge_test_picture_of_phone(scope: Message, address: re.Match[str], size: int | None) -> None:
    """A phone with a camera link. Raises Refused."""
    try:
        request = ASGIRequest(scope, io.BytesIO())
        camera_links.link_of(request.headers.get("Folio-Camera", ""), moment())
    finally:
        close_old_connections()


def _done(judged: Judged) -> None:
    room.leave(judged.folio_id, judged.size)


_UUID = r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}"
DOORS = (
    Door("PUT", re.compile(r"/api/folios/(\d+)/originals"), judge_original, _done),
    Door("POST", re.compile(r"/api/folios/(\d+)/uploads"), judge_original, _done),
    Door("PATCH", re.compile(rf"/api/folios/(\d+)/uploads/({_UUID})"), judge_piece, _done),
    Door("PUT", re.compile(r"/api/camera/originals"), judge_picture, _done),
    Door("POST", re.compile(r"/api/camera/uploads"), judge_picture, _done),
    Door("PATCH", re.compile(rf"/api/camera/uploads/({_UUID})"), judge_picture_piece, _done),
    Door("PUT", re.compile(r"/api/camera/test-picture"), judge_test_picture_of_phone),
    Door("PUT", re.compile(r"/api/assignments/(\d+)/test-picture"), judge_test_picture),
    Door("PUT", re.compile(r"/api/assignments/(\d+)/paper"), judge_staff),
    Door("PUT", re.compile(r"/api/taking-in/(\d+)/originals"), judge_staff),
    Door("POST", re.compile(r"/admin/.*"), judge_staff),
)


def _piece(folio: Folio, key: str) -> Judged:
    upload = folio.uploads.filter(pk=key).first()
    if upload is None:
        raise not_yours()
    return _judged(folio, upload.about["sha256"], 0)


def _judged(folio: Folio, sha256: str, size: int | None, camera: int | None = None) -> Judged:
    database_clock.measure_if_due()
    require_may_arrive(folio, sha256, moment())
    expected = settings.FOLIO_MAX_FILE_MB * 1_000_000 if size is None else size
    room.enter(folio, expected)
    return Judged(folio.pk, folio.student_id, expected, camera)


def _folio_of(folio_id: int, student_id: int) -> Folio:
    """Only with what is judged by: every file asks, and Django's own way takes four times as long."""
    with connection.cursor() as cursor:
        cursor.execute(_finding(), [folio_id, student_id])
        found = cursor.fetchone()
    if found is None:
        raise not_yours()
    assignment_id, begun_at, kept_terms, rehearsal_of = found
    folio = Folio(
        pk=folio_id,
        student_id=student_id,
        assignment_id=assignment_id,
        begun_at=begun_at,
        kept_terms=json.loads(kept_terms),
    )
    folio.assignment = Assignment(pk=assignment_id, rehearsal_of_id=rehearsal_of)
    return folio


@cache
def _finding() -> str:
    folios, assignments = Folio._meta.db_table, Assignment._meta.db_table
    return (
        "SELECT f.assignment_id, f.begun_at, f.kept_terms::text, a.rehearsal_of_id"
        f" FROM {folios} f JOIN {assignments} a ON a.id = f.assignment_id WHERE f.id = %s AND f.student_id = %s"
    )


def _sha256_in(scope: Message) -> str:
    """Of the file, where the device has said it: a promised one may come after the close. An announced file says it
    among its metadata (tus 1.0, Upload-Metadata)."""
    said = parse_qs(scope["query_string"].decode("latin-1")).get("sha256", [""])[0]
    metadata = dict(scope["headers"]).get(b"upload-metadata", b"").decode("latin-1")
    for pair in metadata.split(","):
        key, _, value = pair.strip().partition(" ")
        if key == "sha256":
            with suppress(ValueError):
                return base64.b64decode(value).decode()
    return said


def _unnamed(request: HttpRequest) -> HttpResponse:
    """Django's check wants a view to ask whether it is exempt; none is."""
    return HttpResponse()


_csrf = CsrfViewMiddleware(_unnamed)


def signed_in(request: ASGIRequest, *, csrf: bool = True) -> AbstractBaseUser:
    """The person of the session, after Django's own checks of the host and against forged requests.

    Raises AuthenticationError, and Refused for another host or a page out of date.
    """
    try:
        request.get_host()
    except DisallowedHost as error:
        raise Refused(400, "wrong_host", "This address is not one of this server's. Check FOLIO_HOSTS.") from error
    sessions = import_module(settings.SESSION_ENGINE)
    request.session = sessions.SessionStore(request.COOKIES.get(settings.SESSION_COOKIE_NAME))
    if csrf:
        _csrf.process_request(request)
        if _csrf.process_view(request, _unnamed, (), {}) is not None:
            raise Refused(403, "stale_page", STALE_PAGE)
    user: Any = auth.get_user(request)
    if not user.is_authenticated:
        raise AuthenticationError
    return user  # type: ignore[no-any-return]
