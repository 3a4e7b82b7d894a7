"""While a printed sheet is framed: which page of the paper the viewfinder sees, and which are still to come.

A viewfinder sends small pictures, one after the other, and each answer tells what was seen on those before it. They
are looked at last of all the work there is; where there is too much of it nothing is said, and less is asked.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from django.conf import settings

from folio_core.page import PageError, picture, pixels_of, run_limited
from folios.arrangements import current
from folios.models import Folio
from plumbing.decoding import limits

from .models import LiveFrame
from .printed import missing_pages, page_seen, told_pages
from .queueing import enqueue_looking
from .reading import is_wanted

MOST_BYTES = 300_000
_MOST_WAITING = 3  # of everybody's; with more, the next pictures would be old when they are looked at
_SOON_MS, _LATER_MS = 500, 8000
_MOST_PIXELS = 4_000_000
_KEPT = timedelta(hours=1)


@dataclass(frozen=True, slots=True)
class Sight:
    """``page``: of the paper, from 1; None where it is none, not sure, or not known yet. ``is_here``: the board has it
    already. ``to_come``: pages with answers that the board has not; None while pages of it are still to be read.
    ``next_ms``: when another picture is welcome."""

    page: int | None
    pages: int
    is_here: bool
    to_come: tuple[int, ...] | None
    next_ms: int


def tells(folio: Folio) -> bool:
    """Whether pages of a printed paper are told for this folio at all."""
    return folio.assignment.on_paper and bool(folio.assignment.question_paper) and is_wanted(folio)


def take(folio: Folio, viewer: uuid.UUID, jpeg: bytes, now: datetime) -> Sight:
    """Keep the newest picture to be looked at, and tell what was seen on those before."""
    kept = LiveFrame.objects.filter(folio=folio, viewer=viewer).defer("jpeg").first()
    waiting = LiveFrame.objects.filter(jpeg__isnull=False, came_at__gt=now - 2 * _young())
    others = waiting.exclude(folio=folio, viewer=viewer)
    busy = others.count() >= _MOST_WAITING
    if not busy:
        newest, _ = LiveFrame.objects.update_or_create(
            folio=folio, viewer=viewer, defaults={"jpeg": jpeg, "came_at": now}
        )
        enqueue_looking(newest.pk)
    seen = kept.seen_page if kept and kept.seen_at and kept.seen_at > now - _young() else None
    return _sight(folio, seen, _LATER_MS if busy else _SOON_MS)


def look(frame_id: int, now: datetime) -> None:
    """What is old by now is let be."""
    frame = LiveFrame.objects.select_related("folio__assignment").filter(pk=frame_id, jpeg__isnull=False).first()
    if frame is None:
        return
    seen = _page_on(bytes(frame.jpeg or b""), frame.folio) if frame.came_at > now - _young() else None
    looked_at = LiveFrame.objects.filter(pk=frame_id)
    looked_at.update(seen_page=seen, seen_at=frame.came_at)
    looked_at.filter(came_at=frame.came_at).update(jpeg=None)


def _page_on(jpeg: bytes, folio: Folio) -> int | None:
    try:
        small = run_limited(picture, jpeg, 0, replace(limits(), pixels=_MOST_PIXELS, pages=1), limits=limits())
        return page_seen(pixels_of(small.image), folio.assignment)
    except PageError:
        return None  # no picture, or the paper cannot be opened


def _sight(folio: Folio, seen: int | None, next_ms: int) -> Sight:
    on_board = current(folio).pages
    here = [row for row in told_pages(folio) if row.page_id in on_board]
    pages, to_come = missing_pages(folio.assignment, here)
    is_read = not folio.pages.filter(pk__in=on_board, read=None).exists()
    return Sight(
        page=None if seen is None else seen + 1,
        pages=pages,
        is_here=any(row.kept_sheet["page"] == seen for row in here),
        to_come=to_come if is_read else None,
        next_ms=next_ms,
    )


def _young() -> timedelta:
    """So long a word on what is seen holds."""
    return timedelta(seconds=settings.FOLIO_LIVE_SECONDS)


def forget_old(now: datetime) -> None:
    LiveFrame.objects.filter(came_at__lt=now - _KEPT).delete()
