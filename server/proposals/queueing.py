"""Enqueueing the jobs of proposals; `jobs` carries them out."""

from __future__ import annotations

from plumbing.queue import enqueue_once

QUEUE = "reading"
READ_PAGE = "proposals.read_page"
_AFTER_THE_PAGES = -(2**31) + 2  # never before an arrival, a first view, a preparation or a hand-in


def enqueue_reading(page_id: int) -> None:
    enqueue_once(READ_PAGE, queue=QUEUE, priority=_AFTER_THE_PAGES, only_one=f"read page {page_id}", page_id=page_id)
