"""The two doors a file may come in by: Django's own, and the fast lane before it. Tests of arrival run through both."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from unittest import mock

from django.conf import settings
from django.test import Client

from folios.models import Folio
from pages.fast_lane import FastLane
from people.models import User

from .desk import DeskTestCase

_TOKEN = "t" * 32


@dataclass(frozen=True)
class Answer:
    status_code: int
    body: bytes

    def json(self) -> Any:
        return json.loads(self.body)


class _NoLoop:
    """Stands for the event loop: the work is done at once, in the test's own thread, whose transaction nobody else sees
    into."""

    async def run_in_executor(self, executor: object, work: Callable[[], Any]) -> Any:
        del executor
        return work()


def by_fast_lane(client: Client, path: str, query: str, data: bytes) -> Answer:
    """One PUT of a file as uvicorn would hand it over, signed in as the client is."""
    client.cookies[settings.CSRF_COOKIE_NAME] = _TOKEN
    cookies = "; ".join(f"{name}={morsel.value}" for name, morsel in client.cookies.items())
    scope = {
        "type": "http", "method": "PUT", "path": path, "root_path": "", "query_string": query.encode(),
        "scheme": "http", "server": ("testserver", 80),
        "headers": [(b"cookie", cookies.encode()), (b"x-csrftoken", _TOKEN.encode()), (b"host", b"testserver")],
    }  # fmt: skip
    sent: list[Any] = []

    async def receive() -> Any:
        return {"type": "http.request", "body": data, "more_body": False}

    async def send(message: Any) -> None:
        sent.append(message)

    async def inner(*_: Any) -> None:
        raise AssertionError("the fast lane should have taken this")

    with (
        mock.patch("pages.fast_lane.get_running_loop", return_value=_NoLoop()),
        mock.patch("pages.fast_lane.close_old_connections"),  # the test's own would be closed
    ):
        way = FastLane(inner)(scope, receive, send)
        try:
            way.send(None)
        except StopIteration:
            pass
        else:
            raise AssertionError("the fast lane waits for something that is not there")
    return Answer(sent[0]["status"], sent[1]["body"])


class ByTheFastLane(DeskTestCase):
    """Put before a class of tests, it sends their files through the fast lane."""

    def send(self, data: bytes, name: str = "IMG_1.jpg", *, by: User | None = None, folio: Folio | None = None) -> Any:
        path = f"/api/folios/{(folio or self.folio).pk}/originals"
        return by_fast_lane(self.as_(by or self.ilse), path, f"name={name}", data)
