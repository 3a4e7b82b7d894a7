"""Enqueueing the jobs of pages; `jobs` carries them out."""

from __future__ import annotations

from folio_core.clock import Window
from plumbing.queue import enqueue, enqueue_once

QUEUE = "pages"
OPEN_ORIGINAL = "pages.open_original"
PREPARE_PAGE = "pages.prepare_page"
JUDGE_TEST_PICTURE = "pages.judge_test_picture"


def enqueue_opening(original_id: int, window: Window, waiting: int = 0) -> None:
    """``waiting``: how many pages of the same folio wait already."""
    enqueue(OPEN_ORIGINAL, queue=QUEUE, priority=_urgency(window, waiting), original_id=original_id)


def enqueue_preparing(page_id: int, window: Window, waiting: int = 0) -> None:
    """One job waits for a page, however often it is changed meanwhile: it makes the page by the recipe it then has."""
    priority = _urgency(window, waiting)
    enqueue_once(PREPARE_PAGE, queue=QUEUE, priority=priority, only_one=f"prepare page {page_id}", page_id=page_id)


def enqueue_judging(picture_id: int) -> None:
    """After everybody's work: it counts for nothing."""
    enqueue(JUDGE_TEST_PICTURE, queue=QUEUE, priority=_AFTER_ALL, picture_id=picture_id)


_AFTER_ALL = -(2**31) + 1
_RANKS = 100  # of one folio's waiting pages; further ones are alike
_ORIGIN = 28_000_000  # minutes: of 2023, so that the product stays within PostgreSQL's integer until 2060


def _urgency(window: Window, waiting: int) -> int:
    """Of the page jobs waiting, those of the folio that closes first are taken first; of folios that close in the same
    minute, everybody's first page before anybody's second."""
    return -(minutes_until_close(window) * _RANKS + min(waiting, _RANKS - 1))


def minutes_until_close(window: Window) -> int:
    """From a fixed moment on: the fewer, the sooner the folio closes. At most 20 million."""
    return int(window.closes.timestamp() // 60) - _ORIGIN
