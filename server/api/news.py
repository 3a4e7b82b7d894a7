"""News of a folio as server-sent events (WHATWG HTML, section 9.2)."""

from __future__ import annotations

import asyncio
import json
from collections import defaultdict
from collections.abc import AsyncIterator, Iterator
from contextlib import contextmanager

from asgiref.sync import sync_to_async
from django.db import close_old_connections
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router

from folios.models import folio_topic
from live.listener import listener
from people.signing_in import person_topic

from .permissions import own_folio, person

router = Router(tags=["news"])
_HEARTBEAT_SECONDS = 15


_MOST_A_PERSON = 6  # tabs and devices at a time, a web process; the oldest ends where there are more
_open: dict[int, list[asyncio.Event]] = defaultdict(list)


@router.get("/folios/{int:folio_id}/news", response={200: None})
async def news(request: HttpRequest, folio_id: int) -> StreamingHttpResponse:
    """One event for each change; its data says what changed. The board asks for the state itself. Ends with the
    session."""
    who, session = await sync_to_async(_may_listen)(request, folio_id)
    response = StreamingHttpResponse(_stream(folio_id, who, session), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


def _may_listen(request: HttpRequest, folio_id: int) -> tuple[int, str | None]:
    own_folio(person(request), folio_id)
    close_old_connections()
    return person(request).pk, request.session.session_key


async def _stream(folio_id: int, who: int, session: str | None) -> AsyncIterator[str]:
    mine = person_topic(who)
    with _one_of_few(who) as ended:
        async with listener().news_of(folio_topic(folio_id), mine) as queue:
            yield "retry: 2000\n\n: listening\n\n"
            while not ended.is_set():
                try:
                    item = await asyncio.wait_for(queue.get(), _HEARTBEAT_SECONDS)
                except TimeoutError:
                    yield ": still here\n\n"
                    continue
                if item["topic"] != mine:
                    yield f"data: {json.dumps(item)}\n\n"
                elif item.get("signed_out") in ("everywhere", session):
                    return


@contextmanager
def _one_of_few(who: int) -> Iterator[asyncio.Event]:
    ended = asyncio.Event()
    streams = _open[who]
    streams.append(ended)
    for oldest in streams[:-_MOST_A_PERSON]:
        oldest.set()
    try:
        yield ended
    finally:
        streams.remove(ended)
        if not streams:
            _open.pop(who, None)
