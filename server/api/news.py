"""News of a folio as server-sent events."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router

from folios.models import folio_topic

from .permissions import own_folio, person
from .streams import BEGINNING, STILL_HERE, Who, listening, stream_of

router = Router(tags=["news"])


@router.get("/folios/{int:folio_id}/news", response={200: None})
async def news(request: HttpRequest, folio_id: int) -> StreamingHttpResponse:
    """One event for each change; its data says what changed. The board asks for the state itself. Ends with the
    session."""
    who = await sync_to_async(_may_listen)(request, folio_id)
    return stream_of(_stream(folio_id, who))


def _may_listen(request: HttpRequest, folio_id: int) -> Who:
    own_folio(person(request), folio_id)
    return Who.asks(request)


async def _stream(folio_id: int, who: Who) -> AsyncIterator[str]:
    async with listening(who, folio_topic(folio_id)) as heard:
        yield BEGINNING
        while (news := await heard.gathered(0)) is not None:
            yield "".join(f"data: {json.dumps(one)}\n\n" for one in news) or STILL_HERE
