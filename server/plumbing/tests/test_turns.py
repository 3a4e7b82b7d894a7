"""Many requests of one browser delay no other."""

from __future__ import annotations

import asyncio
from typing import Any

from django.test import SimpleTestCase

from plumbing.turns import Turns

_LONG = 30


class Inner:
    """Answers begin when they may; those of streams then go on for ever."""

    def __init__(self) -> None:
        self.working: list[str] = []
        self.may_answer: dict[str, asyncio.Event] = {}
        self.changed = asyncio.Event()
        self.cancelled: list[str] = []

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        name = scope["path"]
        self.working.append(name)
        self.changed.set()
        try:
            await self.may_answer.setdefault(name, asyncio.Event()).wait()
            await send({"type": "http.response.start", "status": 200, "headers": []})
            if "stream" in name:
                await asyncio.Event().wait()
        except asyncio.CancelledError:
            self.cancelled.append(name)
            raise


class OneAfterAnother(SimpleTestCase):
    def begin(self, turns: Turns, name: str, session: str) -> asyncio.Task[None]:
        headers = [(b"cookie", f"a=b; sid={session}".encode())] if session else []
        scope = {"type": "http", "path": name, "headers": headers, "client": ("10.0.0.1", 1)}

        async def send(message: Any) -> None:
            pass

        return asyncio.create_task(turns(scope, None, send))  # type: ignore[arg-type]

    async def until_working(self, inner: Inner, *names: str) -> None:
        async with asyncio.timeout(_LONG):
            while sorted(inner.working) != sorted(names):
                inner.changed.clear()
                await inner.changed.wait()

    async def test_one_browser_has_few_turns_and_another_does_not_wait_for_it(self) -> None:
        inner = Inner()
        turns = Turns(inner, at_once=3, each=2, cookie="sid")
        tasks = [self.begin(turns, f"a{number}", "attacker") for number in range(5)]
        tasks.append(self.begin(turns, "b", "victim"))
        await self.until_working(inner, "a0", "a1", "b")
        inner.may_answer["a0"].set()
        await asyncio.wait_for(tasks[0], _LONG)
        await self.until_working(inner, "a0", "a1", "a2", "b")
        for task in tasks:
            task.cancel()
        await asyncio.gather(*tasks, return_exceptions=True)
        self.assertEqual(sorted(inner.cancelled), ["a1", "a2", "b"])
        self.assertEqual((turns._own, sum(turns._waiting.values())), ({}, 0))

    async def test_an_answer_that_has_begun_takes_no_turn_however_long_it_lasts(self) -> None:
        inner = Inner()
        turns = Turns(inner, at_once=1, each=1, cookie="sid")
        stream = self.begin(turns, "stream", "one")
        await self.until_working(inner, "stream")
        inner.may_answer["stream"].set()
        other = self.begin(turns, "other", "")
        await self.until_working(inner, "stream", "other")
        inner.may_answer["other"].set()
        await asyncio.wait_for(other, _LONG)
        stream.cancel()
        await asyncio.gather(stream, return_exceptions=True)
        self.assertEqual(inner.cancelled, ["stream"])

    async def test_what_asks_no_database_waits_for_nobody(self) -> None:
        inner = Inner()
        turns = Turns(inner, at_once=1, each=1, cookie="sid", free="/static/")
        tasks = [self.begin(turns, name, "one") for name in ("a", "/static/b.js", "/static/c.js")]
        await self.until_working(inner, "a", "/static/b.js", "/static/c.js")
        for task in tasks:
            task.cancel()
        await asyncio.gather(*tasks, return_exceptions=True)

    async def test_what_goes_wrong_inside_comes_out(self) -> None:
        async def broken(scope: Any, receive: Any, send: Any) -> None:
            raise ValueError

        with self.assertRaises(ValueError):
            await self.begin(Turns(broken, at_once=1, each=1, cookie="sid"), "x", "")
