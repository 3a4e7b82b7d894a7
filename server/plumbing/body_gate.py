"""What stands before Django and all else: who may send a large body, how long it may take, and how long an answer may.

A body is judged by its headers, before its first byte is kept anywhere.
"""

from __future__ import annotations

import asyncio
import re
from collections.abc import Awaitable, Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Any

from folio_core.page import too_large_message

from .errors import Problem, answer_to

Message = Any  # an ASGI dictionary; Django and uvicorn type it differently
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Message, Receive, Send], Awaitable[None]]

# Each with a connection of the pool while it works.
THREADS = ThreadPoolExecutor(6, thread_name_prefix="door")
_SLOW = Problem(code="too_slow", message="Nothing came for a while, so this was broken off. It is sent again.")


async def in_thread(work: Callable[[], Any]) -> Any:
    return await asyncio.get_running_loop().run_in_executor(THREADS, work)


@dataclass(frozen=True, slots=True)
class Door:
    """A way in for bodies larger than a form. ``judge`` is given the request's scope, what the address names, and the
    bytes announced (None: unknown); it raises what is answered instead, and its result stands in
    ``scope["judged"]``. ``done`` is called with that result when the request has ended."""

    method: str
    address: re.Pattern[str]
    judge: Callable[[Message, re.Match[str], int | None], Any]
    done: Callable[[Any], None] = lambda _: None


@dataclass(frozen=True, slots=True)
class Patience:
    """Seconds: between two pieces of a body, for a whole body, and for one piece of an answer to be taken."""

    idle: float = 30
    body: float = 900
    answer: float = 60


class BodyGate:
    """``small``: bytes that any request may bring. ``most``: bytes that one through a door may."""

    def __init__(
        self, inner: Application, *, small: int, most: int, doors: Sequence[Door], patience: Patience = Patience()
    ) -> None:
        self.inner, self.small, self.most = inner, small, most
        self.doors, self.patience = doors, patience

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.inner(scope, receive, send)
        announced = _announced(scope)
        door, match = self._door_of(scope)
        most = self.most if door else self.small
        if announced is not None and announced > most:
            return await _answer(send, 413, Problem(code="too_large", message=too_large_message(announced, most)))
        body = _Body(receive, most, self.patience)
        if door is None or match is None:
            await self._pass(scope, body, send)
            return
        try:
            scope["judged"] = await in_thread(partial(door.judge, scope, match, announced))
        except Exception as error:
            status, problem = answer_to(error)
            await body.let_pass()  # a browser hears no answer before its last byte is sent
            return await _answer(send, status, problem)
        try:
            await self._pass(scope, body, send)
        finally:
            door.done(scope["judged"])

    async def _pass(self, scope: Message, body: _Body, send: Send) -> None:
        answer = _Answer(send, self.patience.answer)
        await self.inner(scope, body.receive, answer.send)
        if body.was_slow and not answer.begun:
            await _answer(send, 408, _SLOW)

    def _door_of(self, scope: Message) -> tuple[Door | None, re.Match[str] | None]:
        for door in self.doors:
            if door.method == scope["method"] and (match := door.address.fullmatch(scope["path"])):
                return door, match
        return None, None


class _Body:
    """The request's body, counted and timed. What is too long or too slow looks as if the line had broken."""

    def __init__(self, receive: Receive, most: int, patience: Patience) -> None:
        self._receive, self._left, self._patience = receive, most, patience
        self._until: float | None = None
        self._is_whole = self.was_slow = False

    async def receive(self) -> Message:
        if self._is_whole:
            return await self._receive()  # whether the browser goes away, which may take as long as it likes
        now = asyncio.get_running_loop().time()
        self._until = self._until or now + self._patience.body
        try:
            async with asyncio.timeout(min(self._patience.idle, self._until - now)):
                message = await self._receive()
        except TimeoutError:
            self.was_slow = self._is_whole = True
            return {"type": "http.disconnect"}
        self._left -= len(message.get("body", b""))
        self._is_whole = not message.get("more_body", False)
        return {"type": "http.disconnect"} if self._left < 0 else message

    async def let_pass(self) -> None:
        while not self._is_whole:
            if (await self.receive())["type"] == "http.disconnect":
                return


class _Answer:
    def __init__(self, send: Send, seconds: float) -> None:
        self._send, self._seconds = send, seconds
        self.begun = False

    async def send(self, message: Message) -> None:
        """Raises TimeoutError where nobody takes it; the server then closes the connection."""
        self.begun = True
        async with asyncio.timeout(self._seconds):
            await self._send(message)


def _announced(scope: Message) -> int | None:
    """Bytes, 0 where there is no body; None where it comes in chunks."""
    headers = dict(scope["headers"])
    if b"transfer-encoding" in headers:
        return None
    length = headers.get(b"content-length", b"0")
    return int(length) if length.isdigit() else 0


async def _answer(send: Send, status: int, problem: Problem) -> None:
    body = problem.model_dump_json().encode()
    headers = [
        (b"content-type", b"application/json"),
        (b"content-length", str(len(body)).encode()),
        (b"connection", b"close"),
    ]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
