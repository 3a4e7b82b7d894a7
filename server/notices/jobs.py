"""The worker's job of sending mail."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from plumbing.requests import moment

from . import outbox
from .outbox import QUEUE, SEND_MAIL


@app.task(name=SEND_MAIL, queue=QUEUE, retry=RetryStrategy(max_attempts=8, exponential_wait=3))
def send_mail(*, mail_id: int) -> None:
    outbox.send(mail_id, moment())


@app.periodic(cron="*/10 * * * *")
@app.task(name="notices.enqueue_unsent", queue=QUEUE, queueing_lock="enqueue_unsent")
def enqueue_unsent(timestamp: int) -> None:
    outbox.enqueue_unsent()
