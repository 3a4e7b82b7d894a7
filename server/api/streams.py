"""Server-sent events (WHATWG HTML, section 9.2): what every stream of news keeps to.

A person has few streams at a time, and each ends with its session.
"""

from __future__ import annotations

import asyncio
from collections import defaultdict
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager
from dataclasses import dataclass
from typing import Any

from django.db import close_old_connections
from django.http import HttpRequest, StreamingHttpResponse

from live.listener import listener
from people.models import User
from people.signing_in import person_topic

from .permissions import person

BEGINNING = "retry: 2000\n\n: listening\n\n"
STILL_HERE = ": still here\n\n"
MOST_A_PERSON = 6  # tabs and devices at a time, a web process; the oldest ends where there are more
_HEARTBEAT_SECONDS = 15
_open: dict[int, list[asyncio.Event]] = defaultdict(list)

News = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Who:
    """Who listens, and in which session."""

    user: User
    session: str | None

    @classmethod
    def asks(cls, request: HttpRequest) -> Who:
        """To be called when all else is asked of the database: its connection is given back."""
        who = cls(person(request), request.session.session_key)
        close_old_connections()
        return who


def stream_of(lines: AsyncIterator[str]) -> StreamingHttpResponse:
    response = StreamingHttpResponse(lines, content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


@dataclass(frozen=True, slots=True)
class Listening:
    """What is announced to some topics, for one person."""

    queue: asyncio.Queue[News]
    ended: asyncio.Event
    mine: str
    session: str | None

    def hear_too(self, topic: str) -> None:
        listener().hear_too(self.queue, topic)

    async def gathered(self, seconds: float) -> list[News] | None:
        """All that is announced within so many seconds, from the first on; nothing after a while, for a heartbeat.

        None where the stream is at its end: the session is, or the person has opened too many streams since.
        """
        try:
            news = [await asyncio.wait_for(self.queue.get(), _HEARTBEAT_SECONDS)]
        except TimeoutError:
            return None if self.ended.is_set() else []
        await asyncio.sleep(seconds)
        while not self.queue.empty():
            news.append(self.queue.get_nowait())
        own = [one for one in news if one["topic"] == self.mine]
        if self.ended.is_set() or any(one.get("signed_out") in ("everywhere", self.session) for one in own):
            return None
        return [one for one in news if one["topic"] != self.mine]


@asynccontextmanager
async def listening(who: Who, *topics: str, backlog: int = 100) -> AsyncIterator[Listening]:
    mine = person_topic(who.user.pk)
    with _one_of_few(who.user.pk) as ended:
        async with listener().news_of(mine, *topics, backlog=backlog) as queue:
            yield Listening(queue, ended, mine, who.session)


@contextmanager
def _one_of_few(person: int) -> Iterator[asyncio.Event]:
    ended = asyncio.Event()
    streams = _open[person]
    streams.append(ended)
    for oldest in streams[:-MOST_A_PERSON]:
        oldest.set()
    try:
        yield ended
    finally:
        streams.remove(ended)
        if not streams:
            _open.pop(person, None)
