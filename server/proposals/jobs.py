"""The worker's jobs on proposals."""

from __future__ import annotations

from procrastinate.contrib.django import app

from pages.jobs import RETRY
from plumbing.requests import moment

from . import proposing, reading
from .queueing import PROPOSE, QUEUE, READ_PAGE


@app.task(name=READ_PAGE, queue=QUEUE, retry=RETRY)
def read_page(*, page_id: int) -> None:
    reading.read_page(page_id, now=moment())


@app.task(name=PROPOSE, queue=QUEUE, retry=RETRY)
def propose(*, folio_id: int) -> None:
    proposing.propose_for(folio_id)
