from __future__ import annotations

import json
from typing import Any

from django.test import SimpleTestCase

from plumbing.body_limit import BodyLimit


class Inner:
    """An ASGI application that reads its whole body."""

    def __init__(self) -> None:
        self.body = b""
        self.cut_off = False

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        while True:
            message = await receive()
            if message["type"] == "http.disconnect":
                self.cut_off = True
                return
            self.body += message["body"]
            if not message["more_body"]:
                break
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b""})


class BodyLimits(SimpleTestCase):
    async def send(self, chunks: list[bytes], announced: int | None = None) -> tuple[Inner, list[dict[str, Any]]]:
        inner, answers = Inner(), []
        messages = [{"type": "http.request", "body": one, "more_body": True} for one in chunks]
        messages[-1]["more_body"] = False
        waiting = iter(messages)
        headers = [] if announced is None else [(b"content-length", str(announced).encode())]

        async def receive() -> dict[str, Any]:
            return next(waiting)

        async def answer(message: dict[str, Any]) -> None:
            answers.append(message)

        await BodyLimit(inner, 10)({"type": "http", "headers": headers}, receive, answer)
        return inner, answers

    async def test_a_body_within_the_limit_goes_through(self) -> None:
        inner, answers = await self.send([b"12345", b"67890"], 10)
        self.assertEqual((inner.body, answers[0]["status"]), (b"1234567890", 200))

    async def test_one_announced_too_large_is_refused_in_words_before_it_is_read(self) -> None:
        inner, answers = await self.send([b"x" * 11], 11)
        self.assertEqual((inner.body, answers[0]["status"]), (b"", 413))
        self.assertEqual(json.loads(answers[1]["body"])["code"], "too_large")

    async def test_one_that_grows_too_large_unannounced_is_cut_off(self) -> None:
        inner, _ = await self.send([b"12345", b"67890", b"more"])
        self.assertTrue(inner.cut_off)
        self.assertEqual(inner.body, b"1234567890")

    async def test_what_is_not_http_is_passed_on(self) -> None:
        seen = []

        async def lifespan(scope: Any, receive: Any, send: Any) -> None:
            seen.append(scope["type"])

        await BodyLimit(lifespan, 10)({"type": "lifespan"}, None, None)  # type: ignore[arg-type]
        self.assertEqual(seen, ["lifespan"])
