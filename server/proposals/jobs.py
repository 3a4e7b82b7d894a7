"""The worker's jobs on proposals."""

from __future__ import annotations

from procrastinate.contrib.django import app

from pages.jobs import RETRY
from plumbing.requests import moment

from . import reading
from .queueing import QUEUE, READ_PAGE


@app.task(name=READ_PAGE, queue=QUEUE, retry=RETRY)
def read_page(*, page_id: int) -> None:
    reading.read_page(page_id, now=moment())
