"""The fast lane before Django: a small file goes from the network straight to the disk, hashed as it passes.

It is the operation `api.board.add_original`, which describes it and answers where this does not stand in front. At a
close everybody waits for it, and the framework's usual way takes longer than all the rest (`./folio bench arrival`).
"""

from __future__ import annotations

import io
import logging
import re
from asyncio import get_running_loop
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from functools import partial
from importlib import import_module

from django.conf import settings
from django.contrib import auth
from django.core.exceptions import DisallowedHost
from django.core.handlers.asgi import ASGIRequest
from django.db import close_old_connections
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import CsrfViewMiddleware
from ninja.errors import AuthenticationError
from pydantic import ValidationError

from folio_core.page import PageError
from plumbing.body_limit import Application, Message, Receive, Send
from plumbing.errors import STALE_PAGE, Problem, Refused, error_response
from plumbing.requests import moment

from .arrival import Receiving, take_in
from .sent import AcknowledgedOut, SentIn

logger = logging.getLogger(__name__)
_ADDRESS = re.compile(r"/api/folios/(\d+)/originals")
UPLOAD_THREADS = ThreadPoolExecutor(
    6, thread_name_prefix="arrival"
)  # each with a connection of the pool while it works


def _unnamed(request: HttpRequest) -> HttpResponse:
    """Django's check wants a view to ask whether it is exempt; none is."""
    return HttpResponse()


_csrf = CsrfViewMiddleware(_unnamed)


class FastLane:
    """Takes the requests that bring a whole file, and passes on all others."""

    def __init__(self, inner: Application) -> None:
        self.inner = inner

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        address = _ADDRESS.fullmatch(scope["path"]) if scope["type"] == "http" and scope["method"] == "PUT" else None
        if address is None:
            return await self.inner(scope, receive, send)
        receiving = Receiving()
        try:
            trouble = await _receive_body(receiving, receive)
            if isinstance(trouble, ConnectionLost):
                return
            loop = get_running_loop()
            work = partial(_answer, scope, int(address[1]), receiving, trouble, moment())
            status, body = await loop.run_in_executor(UPLOAD_THREADS, work)
        finally:
            receiving.give_up()
        headers = [
            (b"content-type", b"application/json"),
            (b"content-length", str(len(body)).encode()),
            (b"x-content-type-options", b"nosniff"),
            (b"cache-control", b"no-store"),
        ]
        await send({"type": "http.response.start", "status": status, "headers": headers})
        await send({"type": "http.response.body", "body": body})


class ConnectionLost(Exception):
    """The line broke before the last byte: there is nobody to answer."""


async def _receive_body(receiving: Receiving, receive: Receive) -> Exception | None:
    """What went wrong; the rest of the body is let pass, for nobody hears an answer before the last byte is sent."""
    trouble: Exception | None = None
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            return ConnectionLost()
        try:
            if trouble is None:
                receiving.add(message.get("body", b""))
        except (OSError, PageError) as error:
            trouble = error
        if not message.get("more_body", False):
            return trouble


def _answer(
    scope: Message, folio_id: int, receiving: Receiving, trouble: Exception | None, arrived: datetime
) -> tuple[int, bytes]:
    try:
        student = _signed_in(request := ASGIRequest(scope, io.BytesIO()))
        if trouble is not None:
            raise trouble
        try:
            sent = SentIn.model_validate(request.GET.dict()).sent()
        except ValidationError as error:
            message = "What was said of this file cannot be read. Reload the board."
            raise Refused(422, "bad_request", message) from error
        taken = take_in(folio_id, receiving.finish(), sent, arrived, of=student)
        return 200, AcknowledgedOut.of(taken).model_dump_json().encode()
    except Exception as error:
        status, problem = error_response(error) or (
            500,
            Problem(code="trouble", message="Something went wrong on the server."),
        )
        if status == 500:
            logger.exception("A file for folio %s could not be taken in", folio_id)
        return status, problem.model_dump_json().encode()
    finally:
        close_old_connections()


def _signed_in(request: ASGIRequest) -> int:
    """The person of the session, after Django's own checks of the host and against forged requests."""
    try:
        request.get_host()
    except DisallowedHost as error:
        raise Refused(400, "wrong_host", "This address is not one of this server's. Check FOLIO_HOSTS.") from error
    sessions = import_module(settings.SESSION_ENGINE)
    request.session = sessions.SessionStore(request.COOKIES.get(settings.SESSION_COOKIE_NAME))
    _csrf.process_request(request)
    if _csrf.process_view(request, _unnamed, (), {}) is not None:
        raise Refused(403, "stale_page", STALE_PAGE)
    user = auth.get_user(request)
    if not user.is_authenticated:
        raise AuthenticationError
    return int(user.pk)
