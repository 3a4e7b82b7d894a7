"""Enqueueing the jobs of editions; `jobs` carries them out."""

from __future__ import annotations

from plumbing.queue import enqueue

QUEUE = "editions"
BIND_EDITION = "editions.bind_edition"


def enqueue_binding(edition_id: int) -> None:
    enqueue(BIND_EDITION, queue=QUEUE, edition_id=edition_id)
