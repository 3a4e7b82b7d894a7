"""The gate before Django: how much, from whom and how long."""

from __future__ import annotations

import asyncio
import json
import re
from typing import Any
from unittest import mock

from django.test import SimpleTestCase

from plumbing.body_gate import BodyGate, Door, Patience
from plumbing.errors import Refused


class Inner:
    """An ASGI application that reads its whole body."""

    def __init__(self) -> None:
        self.body = b""
        self.cut_off = False
        self.judged: Any = None

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        self.judged = scope.get("judged")
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


def judge(scope: Any, address: re.Match[str], size: int | None) -> str:
    if address[1] == "closed":
        raise Refused(403, "closed", "It is closed.")
    return f"{address[1]}, {size}"


class Gate(SimpleTestCase):
    def setUp(self) -> None:
        self.left: list[Any] = []
        self.read = 0

    async def send(
        self, chunks: list[bytes], announced: int | None = None, path: str = "/form", *, silent: bool = False,
        patience: Patience = Patience(),
    ) -> tuple[Inner, list[dict[str, Any]]]:  # fmt: skip
        inner, answers = Inner(), []
        messages = [{"type": "http.request", "body": one, "more_body": True} for one in chunks]
        if not silent:
            messages[-1]["more_body"] = False
        waiting = iter(messages)
        headers = [(b"transfer-encoding", b"chunked")] if announced is None else []
        headers += [] if announced is None else [(b"content-length", str(announced).encode())]

        async def receive() -> dict[str, Any]:
            message = next(waiting, None)
            if message is None:
                await asyncio.Event().wait()  # the line is silent for ever
                raise AssertionError
            self.read += len(message["body"])
            return message

        async def answer(message: dict[str, Any]) -> None:
            answers.append(message)

        door = Door("PUT", re.compile("/files/(.*)"), judge, self.left.append)
        scope = {"type": "http", "method": "PUT", "path": path, "headers": headers}
        gate = BodyGate(inner, small=10, most=20, doors=[door], patience=patience)
        await gate(scope, receive, answer)
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

    async def test_through_a_door_more_may_come_from_whom_it_is_judged_to(self) -> None:
        inner, answers = await self.send([b"x" * 15], 15, "/files/open")
        self.assertEqual((len(inner.body), answers[0]["status"], inner.judged), (15, 200, "open, 15"))
        self.assertEqual(self.left, ["open, 15"])
        self.assertEqual((await self.send([b"x" * 21], 21, "/files/open"))[1][0]["status"], 413)

    async def test_who_is_judged_not_to_send_is_told_so_and_nothing_is_kept(self) -> None:
        """The body is let pass, since a browser hears nothing before; it reaches nobody."""
        inner, answers = await self.send([b"x" * 5, b"x" * 5], 10, "/files/closed")
        self.assertEqual((answers[0]["status"], json.loads(answers[1]["body"])["code"]), (403, "closed"))
        self.assertEqual((inner.body, inner.judged, self.read), (b"", None, 10))

    async def test_a_body_that_stops_coming_is_broken_off(self) -> None:
        for path in ("/form", "/files/open", "/files/closed"):
            with self.subTest(path):
                inner, answers = await self.send([b"123"], 10, path, silent=True, patience=Patience(idle=0.01))
                self.assertEqual(answers[0]["status"], 403 if "closed" in path else 408)
                self.assertEqual(inner.cut_off, "closed" not in path)

    async def test_a_body_that_comes_too_slowly_as_a_whole_is_broken_off(self) -> None:
        _, answers = await self.send([b"1"], 10, silent=True, patience=Patience(idle=1000, body=0.01))
        self.assertEqual((answers[0]["status"], json.loads(answers[1]["body"])["code"]), (408, "too_slow"))

    async def test_an_answer_that_nobody_takes_is_given_up(self) -> None:
        async def nobody_reads(message: Any) -> None:
            await asyncio.Event().wait()

        async def nothing() -> Any:
            return {"type": "http.request", "body": b"", "more_body": False}

        gate = BodyGate(Inner(), small=10, most=20, doors=[], patience=Patience(answer=0.01))
        with self.assertRaises(TimeoutError):
            await gate({"type": "http", "method": "GET", "path": "/", "headers": []}, nothing, nobody_reads)

    async def test_after_the_whole_body_the_browser_may_be_silent_as_long_as_it_likes(self) -> None:
        """A stream of news waits for it to go away."""
        gone = asyncio.Event()

        async def receive() -> Any:
            if not gone.is_set():
                gone.set()
                return {"type": "http.request", "body": b"", "more_body": False}
            for _ in range(10):  # its patience with a body would have ended at the first
                await asyncio.sleep(0)
            return {"type": "http.disconnect"}

        async def inner(scope: Any, receive: Any, send: Any) -> None:
            self.assertEqual((await receive())["type"], "http.request")
            self.assertEqual((await receive())["type"], "http.disconnect")
            await send({"type": "http.response.start", "status": 200, "headers": []})

        send = mock.AsyncMock()
        gate = BodyGate(inner, small=10, most=20, doors=[], patience=Patience(idle=0, body=0))
        await gate({"type": "http", "method": "GET", "path": "/", "headers": []}, receive, send)
        self.assertEqual(send.call_args.args[0]["status"], 200)

    async def test_what_is_not_http_is_passed_on(self) -> None:
        seen = []

        async def lifespan(scope: Any, receive: Any, send: Any) -> None:
            seen.append(scope["type"])

        await BodyGate(lifespan, small=10, most=10, doors=[])({"type": "lifespan"}, None, None)  # type: ignore[arg-type]
        self.assertEqual(seen, ["lifespan"])
