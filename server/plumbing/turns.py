"""Requests take turns: few are worked on at once, and few of them are one browser's: many of one delay no other.

What is worked on needs a thread and a connection to the database; sending the answer needs neither and is not counted.
"""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from http.cookies import CookieError, SimpleCookie

from .body_gate import Application, Message, Receive, Send


class Turns:
    """``at_once`` requests in this process, of them ``each`` by one browser (its session, else its address). What lies
    below ``free`` asks no database and is not counted."""

    def __init__(self, inner: Application, *, at_once: int, each: int, cookie: str, free: str = "\0") -> None:
        self.inner, self.each, self.cookie, self.free = inner, each, cookie, free
        self._all = asyncio.Semaphore(at_once)
        self._own: dict[str, asyncio.Semaphore] = {}
        self._waiting: Counter[str] = Counter()

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].startswith(self.free):
            return await self.inner(scope, receive, send)
        done = asyncio.Event()

        async def noticed(message: Message) -> None:
            if message["type"] == "http.response.start":
                done.set()
            await send(message)

        working = asyncio.ensure_future(self._in_turn(whose(scope, self.cookie), scope, receive, noticed, done))
        try:
            await working
        finally:
            working.cancel()

    async def _in_turn(self, who: str, scope: Message, receive: Receive, send: Send, done: asyncio.Event) -> None:
        answering: asyncio.Future[None] | None = None
        try:
            async with self._turn_of(who):
                answering = asyncio.ensure_future(self.inner(scope, receive, send))
                begun = asyncio.ensure_future(done.wait())
                await asyncio.wait({answering, begun}, return_when=asyncio.FIRST_COMPLETED)
                begun.cancel()
            await answering
        finally:
            if answering is not None and not answering.done():
                answering.cancel()

    @asynccontextmanager
    async def _turn_of(self, who: str) -> AsyncIterator[None]:
        own = self._own.setdefault(who, asyncio.Semaphore(self.each))
        self._waiting[who] += 1
        try:
            async with own, self._all:
                yield
        finally:
            self._waiting[who] -= 1
            if not self._waiting[who]:
                del self._waiting[who], self._own[who]


def whose(scope: Message, cookie: str) -> str:
    """A word for the browser a request comes from."""
    for name, value in scope["headers"]:
        if name == b"cookie":
            try:
                found = SimpleCookie(value.decode("latin-1")).get(cookie)
            except CookieError:
                break
            if found is not None and found.value:
                return f"session {found.value}"
    return f"address {(scope.get('client') or ('',))[0]}"
