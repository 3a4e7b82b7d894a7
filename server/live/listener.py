"""One LISTEN connection a web process, fanned out to everybody who is looking at a folio."""

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

from .bell import CHANNEL

logger = logging.getLogger(__name__)
_RETRY_SECONDS = 2.0
_BACKLOG = 100


class Listener:
    """Lives on one event loop. Starts with the first who listens, stops with the last."""

    def __init__(self) -> None:
        self._rooms: dict[int, set[asyncio.Queue[dict[str, Any]]]] = defaultdict(set)
        self._task: asyncio.Task[None] | None = None
        self._ready = asyncio.Event()

    @asynccontextmanager
    async def news_of(self, folio_id: int) -> AsyncIterator[asyncio.Queue[dict[str, Any]]]:
        """A queue of what happens to a folio from now on."""
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue(_BACKLOG)
        self._rooms[folio_id].add(queue)
        if self._task is None:
            self._task = asyncio.create_task(self._listen())
        try:
            await asyncio.wait_for(self._ready.wait(), timeout=5)
            yield queue
        finally:
            self._leave(folio_id, queue)

    def _leave(self, folio_id: int, queue: asyncio.Queue[dict[str, Any]]) -> None:
        self._rooms[folio_id].discard(queue)
        if not self._rooms[folio_id]:
            del self._rooms[folio_id]
        if not self._rooms and self._task is not None:
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
                self._everybody_ask_again()
                await asyncio.sleep(_RETRY_SECONDS)

    def _pass_on(self, news: dict[str, Any]) -> None:
        for queue in self._rooms.get(news["folio"], ()):
            if queue.full():
                queue.get_nowait()  # any one item makes the reader ask for the whole state
            queue.put_nowait(news)

    def _everybody_ask_again(self) -> None:
        for folio_id in list(self._rooms):
            self._pass_on({"folio": folio_id, "missed": True})


async def _connect() -> psycopg.AsyncConnection[Any]:
    parameters = connection.get_connection_params()
    wanted = {key: parameters[key] for key in ("dbname", "user", "password", "host", "port") if parameters.get(key)}
    return await psycopg.AsyncConnection.connect(**wanted, autocommit=True)


_listeners: dict[int, Listener] = {}


def listener() -> Listener:
    """The listener of the running event loop."""
    loop = asyncio.get_running_loop()
    return _listeners.setdefault(id(loop), Listener())
