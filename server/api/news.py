"""News of a folio as server-sent events (WHATWG HTML, section 9.2)."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.db import close_old_connections
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router

from folios.models import folio_topic
from live.listener import listener

from .permissions import own_folio, person

router = Router(tags=["news"])
_HEARTBEAT_SECONDS = 15


@router.get("/folios/{int:folio_id}/news", response={200: None})
async def news(request: HttpRequest, folio_id: int) -> StreamingHttpResponse:
    """One event for each change; its data says what changed. The board asks for the state itself."""
    await sync_to_async(_may_listen)(request, folio_id)
    response = StreamingHttpResponse(_stream(folio_id), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


def _may_listen(request: HttpRequest, folio_id: int) -> None:
    own_folio(person(request), folio_id)
    close_old_connections()


async def _stream(folio_id: int) -> AsyncIterator[str]:
    async with listener().news_of(folio_topic(folio_id)) as queue:
        yield "retry: 2000\n\n: listening\n\n"
        while True:
            try:
                item = await asyncio.wait_for(queue.get(), _HEARTBEAT_SECONDS)
                yield f"data: {json.dumps(item)}\n\n"
            except TimeoutError:
                yield ": still here\n\n"
