"""The worker's jobs on editions: binding them, and what happens by itself at the close."""

from __future__ import annotations

from procrastinate import JobContext
from procrastinate.contrib.django import app

from pages.jobs import RETRY, is_last_try
from plumbing.requests import moment

from . import binding, closing
from .queueing import BIND_EDITION, QUEUE


@app.task(name=BIND_EDITION, queue=QUEUE, retry=RETRY, pass_context=True)
def bind_edition(context: JobContext, *, edition_id: int) -> None:
    binding.bind_edition(edition_id, now=moment(), last_try=is_last_try(context))


@app.periodic(cron="* * * * * */5")
@app.task(name="editions.close_folios", queue="upkeep", queueing_lock="close_folios")
def close_folios(timestamp: int) -> None:
    """At the close, what was not handed in is handed in by itself."""
    closing.close_all(moment())
