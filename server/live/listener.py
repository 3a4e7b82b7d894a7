"""One LISTEN connection a web process, fanned out to everybody who listens to a topic."""

from __future__ import annotations

import asyncio
import json
import logging
from collections import defaultdict
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

import psycopg
from django.db import connection

from .announcing import CHANNEL

logger = logging.getLogger(__name__)
_RETRY_SECONDS = 2.0
_BACKLOG = 100


class Listener:
    """Lives on one event loop. Starts with the first who listens, stops with the last."""

    def __init__(self) -> None:
        self._queues: dict[str, set[asyncio.Queue[dict[str, Any]]]] = defaultdict(set)
        self._task: asyncio.Task[None] | None = None
        self._ready = asyncio.Event()

    @asynccontextmanager
    async def news_of(self, *topics: str, backlog: int = _BACKLOG) -> AsyncIterator[asyncio.Queue[dict[str, Any]]]:
        """A queue of what is announced to these topics from now on. Where it overflows, what it held is gone, and an
        item with ``missed`` says so."""
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue(backlog)
        for topic in topics:
            self.hear_too(queue, topic)
        if self._task is None:
            self._task = asyncio.create_task(self._listen())
        try:
            await asyncio.wait_for(self._ready.wait(), timeout=5)
            yield queue
        finally:
            for topic in [topic for topic, queues in self._queues.items() if queue in queues]:
                self._leave(topic, queue)
            self._rest()

    def hear_too(self, queue: asyncio.Queue[dict[str, Any]], topic: str) -> None:
        """A further topic for a queue that is listened to."""
        self._queues[topic].add(queue)

    def _leave(self, topic: str, queue: asyncio.Queue[dict[str, Any]]) -> None:
        self._queues[topic].discard(queue)
        if not self._queues[topic]:
            del self._queues[topic]

    def _rest(self) -> None:
        if not self._queues and self._task is not None:
            self._task.cancel()
            self._task = None
            self._ready = asyncio.Event()

    async def _listen(self) -> None:
        while True:
            try:
                async with await _connect() as listening:
                    await listening.execute(f"LISTEN {CHANNEL}")
                    self._ready.set()
                    async for notice in listening.notifies():
                        self._pass_on(json.loads(notice.payload))
            except psycopg.OperationalError:
                logger.warning("Lost the connection that listens for news; trying again", exc_info=True)
                self._tell_all_to_ask_again()
                await asyncio.sleep(_RETRY_SECONDS)

    def _pass_on(self, news: dict[str, Any]) -> None:
        for queue in self._queues.get(news["topic"], ()):
            if queue.full():
                while not queue.empty():
                    queue.get_nowait()
                news = {**news, "missed": True}
            queue.put_nowait(news)

    def _tell_all_to_ask_again(self) -> None:
        for topic in list(self._queues):
            self._pass_on({"topic": topic, "missed": True})


async def _connect() -> psycopg.AsyncConnection[Any]:
    parameters = connection.get_connection_params()
    wanted = {key: parameters[key] for key in ("dbname", "user", "password", "host", "port") if parameters.get(key)}
    return await psycopg.AsyncConnection.connect(**wanted, autocommit=True)


_listeners: dict[int, Listener] = {}


def listener() -> Listener:
    """The listener of the running event loop."""
    loop = asyncio.get_running_loop()
    return _listeners.setdefault(id(loop), Listener())
