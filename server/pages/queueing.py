"""Enqueueing the jobs of pages; `jobs` carries them out."""

from __future__ import annotations

from folio_core.clock import Window
from plumbing.queue import enqueue, enqueue_once

QUEUE = "pages"
OPEN_ORIGINAL = "pages.open_original"
PREPARE_PAGE = "pages.prepare_page"


def enqueue_opening(original_id: int, window: Window) -> None:
    enqueue(OPEN_ORIGINAL, queue=QUEUE, priority=_urgency(window), original_id=original_id)


def enqueue_preparing(page_id: int, window: Window) -> None:
    """One job waits for a page, however often it is changed meanwhile: it makes the page by the recipe it then has."""
    enqueue_once(
        PREPARE_PAGE, queue=QUEUE, priority=_urgency(window), only_one=f"prepare page {page_id}", page_id=page_id
    )


def _urgency(window: Window) -> int:
    """Of the page jobs waiting, those of the folio that closes first are taken first."""
    return -int(window.closes.timestamp() // 60)
