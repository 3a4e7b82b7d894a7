"""All that was handed in for an assignment as one ZIP file, and how far its writing is."""

from __future__ import annotations

import json
import time
from collections.abc import AsyncIterator, Iterator, Sequence
from dataclasses import replace
from functools import partial
from typing import Annotated, Literal

from asgiref.sync import sync_to_async
from django.db import close_old_connections
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Query, Router

from editions import collecting
from live.announcing import announce
from plumbing.downloads import Archive, archive_download, safe_file_name
from plumbing.errors import Problem, Refused

from .permissions import instructor_of, person
from .streams import BEGINNING, STILL_HERE, Who, listening, stream_of

router = Router(tags=["folio archive"])
_SAID_EVERY_SECONDS = 0.5

What = Literal["bound", "questions", "originals"]
Word = Annotated[str, Query(pattern="^[0-9a-f]{32}$")]


@router.get("/assignments/{int:assignment_id}/folios.zip", response={200: None, 404: Problem, 409: Problem})
def folio_archive(request: HttpRequest, assignment_id: int, what: What, watch: Word = "") -> Archive:
    """What was handed in, newest editions only: the bound documents, one PDF a question, or the files as they came.

    ``watch``: a word of the browser's own, by which it hears how far the writing is.
    """
    user = person(request)
    assignment = instructor_of(user, assignment_id)
    entries = _COLLECTED[what](assignment)
    if not entries:
        raise Refused(409, "nothing_yet", "Nothing of this is there yet. Wait until somebody has handed in.")
    if watch:
        entries = _telling(entries, _topic(user.pk, watch))
    name = f"{safe_file_name(assignment.course.code, assignment.title, what)}.zip"
    return archive_download(user.pk, collecting.archive(entries), name)


_COLLECTED = {
    "bound": collecting.bound_documents, "questions": collecting.by_question, "originals": collecting.originals,
}  # fmt: skip


@router.get("/assignments/{int:assignment_id}/folios.zip/news", response={200: None})
async def archive_news(request: HttpRequest, assignment_id: int, watch: Word) -> StreamingHttpResponse:
    """Server-sent events: ``{"listening": true}`` at once, then ``{"written": 7, "of": 22}``, files of the archive that
    is fetched with the same word. Ends with the last of them, and with the session."""
    who = await sync_to_async(_may_listen)(request, assignment_id)
    return stream_of(_stream(who, watch))


def _may_listen(request: HttpRequest, assignment_id: int) -> Who:
    instructor_of(person(request), assignment_id)
    return Who.asks(request)


async def _stream(who: Who, watch: str) -> AsyncIterator[str]:
    async with listening(who, _topic(who.user.pk, watch)) as heard:
        yield f'{BEGINNING}data: {{"listening": true}}\n\n'
        while (news := await heard.gathered(0)) is not None:
            told = [{"written": one["written"], "of": one["of"]} for one in news if "written" in one]
            yield f"data: {json.dumps(told[-1])}\n\n" if told else STILL_HERE
            if told and told[-1]["written"] == told[-1]["of"]:
                return


def _topic(person: int, watch: str) -> str:
    return f"archive:{person}:{watch}"


def _telling(entries: Sequence[collecting.Entry], topic: str) -> list[collecting.Entry]:
    """The same entries; each says when it is written, the last always, the others not too often."""
    said_at = time.monotonic()

    def read(entry: collecting.Entry, number: int) -> Iterator[bytes]:
        nonlocal said_at
        yield from entry.read()
        if number == len(entries) or time.monotonic() - said_at >= _SAID_EVERY_SECONDS:
            announce(topic, written=number, of=len(entries))
            close_old_connections()  # a download keeps no connection
            said_at = time.monotonic()

    return [replace(entry, read=partial(read, entry, number)) for number, entry in enumerate(entries, 1)]
