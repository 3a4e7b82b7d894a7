"""The jobs of the worker. Enqueued in the transaction of the row they are about; each may run twice."""

from __future__ import annotations

import logging

from django.conf import settings
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from folio_core.clock import Window
from inkedfolio.requests import moment

logger = logging.getLogger(__name__)
_RETRY = RetryStrategy(max_attempts=5, exponential_wait=2)
_TRIES_OF_A_PAGE = 3  # then what may have been the machine's trouble is taken for the file's


def urgency(window: Window) -> int:
    """Of the page jobs waiting, those of the folio that closes first are taken first."""
    return -int(window.closes.timestamp() // 60)


@app.task(queue="pages", retry=_RETRY, pass_context=True)
def open_original(context: JobContext, *, original_id: int) -> None:
    from . import preparing

    preparing.open_original(original_id, now=moment(), last_try=_last_try(context))


@app.task(queue="pages", retry=_RETRY, pass_context=True)
def prepare_page(context: JobContext, *, page_id: int) -> None:
    from . import preparing

    preparing.prepare_page(page_id, now=moment(), last_try=_last_try(context))


@app.task(queue="editions", retry=_RETRY, pass_context=True)
def bind_edition(context: JobContext, *, edition_id: int) -> None:
    from . import handing_in

    handing_in.bind_edition(edition_id, now=moment(), last_try=_last_try(context))


def _last_try(context: JobContext) -> bool:
    return context.job.attempts + 1 >= _TRIES_OF_A_PAGE


@app.periodic(cron="* * * * * */5")
@app.task(queue="upkeep", queueing_lock="settle_folios")
def settle_folios(timestamp: int) -> None:
    """At the close, what was not handed in is handed in by itself."""
    from . import closing

    closing.settle_all(moment())


@app.periodic(cron="17 3 * * *")
@app.task(queue="upkeep", queueing_lock="sweep")
def sweep(timestamp: int) -> None:
    from . import sweeping

    sweeping.sweep(moment())


@app.periodic(cron="* * * * * */10")
@app.task(queue="upkeep", queueing_lock="take_up_stalled", pass_context=True)
async def take_up_stalled(context: JobContext, timestamp: int) -> None:
    """Give back the jobs of a worker that died: it has not been heard of for a while."""
    silence = settings.FOLIO_WORKER_SILENCE_SECONDS
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silence):
        logger.warning("Taking up job %s (%s) of a worker that went silent", job.id, job.task_name)
        await context.app.job_manager.retry_job(job)
