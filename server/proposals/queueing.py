"""Enqueueing the jobs of proposals; `jobs` carries them out."""

from __future__ import annotations

from folio_core.clock import Window
from pages.queueing import minutes_until_close
from plumbing.queue import enqueue_once

QUEUE = "reading"
READ_PAGE = "proposals.read_page"
PROPOSE = "proposals.propose"
LOOK_AT_FRAME = "proposals.look_at_frame"
_LAST_OF_ALL = -(2**31) + 1
_AFTER_THE_PAGES = -2_100_000_000  # never before an arrival, a first view, a preparation or a hand-in


def enqueue_proposing(folio_id: int, window: Window) -> None:
    priority = _AFTER_THE_PAGES - minutes_until_close(window)
    only_one = f"propose for folio {folio_id}"
    enqueue_once(PROPOSE, queue=QUEUE, priority=priority, only_one=only_one, in_turn=True, folio_id=folio_id)


def enqueue_reading(page_id: int, window: Window) -> None:
    """Of the pages to be read, those of the folio that closes first come first."""
    priority = _AFTER_THE_PAGES - minutes_until_close(window)
    enqueue_once(READ_PAGE, queue=QUEUE, priority=priority, only_one=f"read page {page_id}", page_id=page_id)


def enqueue_looking(frame_id: int) -> None:
    enqueue_once(LOOK_AT_FRAME, queue=QUEUE, priority=_LAST_OF_ALL, only_one=f"frame {frame_id}", frame_id=frame_id)
