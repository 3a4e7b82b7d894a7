"""The two doors a file may come in by: Django's own, and the fast lane before it. Tests of arrival run through both."""

from __future__ import annotations

import asyncio
import json
import queue
from collections.abc import Callable, Coroutine, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any
from unittest import mock

from django.conf import settings
from django.test import Client

from folios.models import Folio
from pages.doors import DOORS
from pages.fast_lane import FastLane
from people.models import User
from plumbing.body_gate import BodyGate, Patience

from .desk import DeskTestCase

_TOKEN = "t" * 32


@dataclass(frozen=True)
class Answer:
    status_code: int
    body: bytes

    def json(self) -> Any:
        return json.loads(self.body)


def by_fast_lane(
    client: Client, path: str, query: str, data: bytes, *, headers: Sequence[tuple[bytes, bytes]] = ()
) -> Answer:
    """One PUT of a file as uvicorn would hand it over, signed in as the client is."""
    client.cookies[settings.CSRF_COOKIE_NAME] = _TOKEN
    cookies = "; ".join(f"{name}={morsel.value}" for name, morsel in client.cookies.items())
    scope = {
        "type": "http", "method": "PUT", "path": path, "root_path": "", "query_string": query.encode(),
        "scheme": "http", "server": ("testserver", 80),
        "headers": [
            (b"cookie", cookies.encode()), (b"x-csrftoken", _TOKEN.encode()), (b"host", b"testserver"),
            (b"content-length", str(len(data)).encode()), *headers,
        ],
    }  # fmt: skip
    pieces = [{"type": "http.request", "body": data, "more_body": False}]
    return through_gate(scope, pieces)


def through_gate(scope: dict[str, Any], pieces: list[Any], *, patience: Patience = Patience()) -> Answer:
    """A request at the gate, with the messages that the network brings; after the last, it is silent."""
    sent: list[Any] = []
    coming = iter(pieces)

    async def receive() -> Any:
        message = next(coming, None)
        if message is None:
            await asyncio.Event().wait()
        return message

    async def send(message: Any) -> None:
        sent.append(message)

    async def inner(*_: Any) -> None:
        raise AssertionError("this should not have come so far")

    gate = BodyGate(FastLane(inner), small=1000, most=10_000_000, doors=DOORS, patience=patience)
    with (
        mock.patch("pages.doors.close_old_connections"),  # the test's own would be closed
        mock.patch("pages.fast_lane.close_old_connections"),
    ):
        _run(gate(scope, receive, send))
    return Answer(sent[0]["status"], sent[1]["body"])


def _run(way: Coroutine[Any, Any, None]) -> None:
    """On an event loop in a thread of its own; what works on the database is done in this one, whose transaction nobody
    else sees into."""
    wanted: queue.Queue[tuple[Callable[[], Any], Future[Any]] | None] = queue.Queue()

    async def in_this_thread(work: Callable[[], Any]) -> Any:
        done: Future[Any] = Future()
        wanted.put((work, done))
        return await asyncio.wrap_future(done)

    def run() -> None:
        try:
            asyncio.run(way)
        finally:
            wanted.put(None)

    with (
        mock.patch("plumbing.body_gate.in_thread", in_this_thread),
        mock.patch("pages.fast_lane.in_thread", in_this_thread),
        ThreadPoolExecutor(1) as loop,
    ):
        running = loop.submit(run)
        while (one := wanted.get()) is not None:
            work, done = one
            try:
                done.set_result(work())
            except Exception as error:
                done.set_exception(error)
        running.result()


class ByTheFastLane(DeskTestCase):
    """Put before a class of tests, it sends their files through the fast lane."""

    def send(self, data: bytes, name: str = "IMG_1.jpg", *, by: User | None = None, folio: Folio | None = None) -> Any:
        path = f"/api/folios/{(folio or self.folio).pk}/originals"
        return by_fast_lane(self.as_(by or self.ilse), path, f"name={name}", data)
