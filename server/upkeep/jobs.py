"""The worker's jobs of upkeep: sweeping, and taking up the jobs of workers that died."""

from __future__ import annotations

import logging

from django.conf import settings
from procrastinate import JobContext
from procrastinate.contrib.django import app

from plumbing.requests import moment

from . import sweeping

logger = logging.getLogger(__name__)
_QUEUE = "upkeep"


@app.periodic(cron="17 3 * * *")
@app.task(name="upkeep.sweep", queue=_QUEUE, queueing_lock="sweep")
def sweep(timestamp: int) -> None:
    sweeping.sweep(moment())


@app.periodic(cron="* * * * *")
@app.task(name="upkeep.enqueue_what_was_left", queue=_QUEUE, queueing_lock="enqueue_what_was_left")
def enqueue_what_was_left(timestamp: int) -> None:
    sweeping.enqueue_what_was_left()


@app.periodic(cron="* * * * * */10")
@app.task(name="upkeep.take_up_stalled", queue=_QUEUE, queueing_lock="take_up_stalled", pass_context=True)
async def take_up_stalled(context: JobContext, timestamp: int) -> None:
    """Give back the jobs of a worker that died: it has not been heard of for a while."""
    silence = settings.FOLIO_WORKER_SILENCE_SECONDS
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silence):
        logger.warning("Taking up job %s (%s) of a worker that went silent", job.id, job.task_name)
        await context.app.job_manager.retry_job(job)
