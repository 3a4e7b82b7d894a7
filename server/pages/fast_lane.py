"""The fast lane before Django: a small file goes from the network straight to the disk, hashed as it passes.

It is the operations `api.board.add_original` and `api.camera.add_picture`, which describe it and answer where this does
not stand in front. At a close everybody waits for it, and the framework's usual way takes longer than all the rest
(`./folio bench arrival`). Who may send was judged by the headers (`doors`).
"""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from functools import partial
from urllib.parse import parse_qsl

from django.db import close_old_connections
from django.utils import timezone
from pydantic import ValidationError

from folio_core.page import PageError
from plumbing.body_gate import Application, Message, Receive, Send, in_thread
from plumbing.database_clock import database_clock
from plumbing.errors import Refused, answer_to

from .arrival import Receiving, bring_in
from .doors import Judged
from .sent import AcknowledgedOut, SentIn


class FastLane:
    """Takes the requests that bring a whole file, and passes on all others."""

    def __init__(self, inner: Application) -> None:
        self.inner = inner

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "PUT" or not isinstance(scope.get("judged"), Judged):
            return await self.inner(scope, receive, send)
        receiving = Receiving()
        try:
            trouble = await _receive_body(receiving, receive)
            if isinstance(trouble, ConnectionLost):
                return
            status, body = await in_thread(partial(_answer, scope, receiving, trouble, timezone.now()))
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


def _answer(scope: Message, receiving: Receiving, trouble: Exception | None, arrived: datetime) -> tuple[int, bytes]:
    judged: Judged = scope["judged"]
    try:
        if trouble is not None:
            raise trouble
        database_clock.require_right()
        said = dict(parse_qsl(scope["query_string"].decode("latin-1")))
        try:
            sent = replace(SentIn.model_validate(said).sent(), camera=judged.camera)
        except ValidationError as error:
            message = "What was said of this file cannot be read. Reload the page."
            raise Refused(422, "bad_request", message) from error
        taken = bring_in(
            judged.folio_id, receiving.finish(), sent, arrived + database_clock.offset, of=judged.student_id
        )
        return 200, AcknowledgedOut.of(taken).model_dump_json().encode()
    except Exception as error:
        status, problem = answer_to(error)
        return status, problem.model_dump_json().encode()
    finally:
        close_old_connections()
