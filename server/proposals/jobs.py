"""The worker's jobs on proposals."""

from __future__ import annotations

from procrastinate.contrib.django import app

from pages.jobs import RETRY
from plumbing.requests import moment

from . import live_frames, proposing, reading
from .queueing import LOOK_AT_FRAME, PROPOSE, QUEUE, READ_PAGE


@app.task(name=READ_PAGE, queue=QUEUE, retry=RETRY)
def read_page(*, page_id: int) -> None:
    reading.read_page(page_id, now=moment())


@app.task(name=PROPOSE, queue=QUEUE, retry=RETRY)
def propose(*, folio_id: int) -> None:
    proposing.propose_for(folio_id)


@app.task(name=LOOK_AT_FRAME, queue=QUEUE)
def look_at_frame(*, frame_id: int) -> None:
    live_frames.look(frame_id, now=moment())
