"""The worker's job of sending mail."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from plumbing.requests import moment

from . import notifying, outbox, reminders
from .outbox import QUEUE, SEND_MAIL


@app.task(name=SEND_MAIL, queue=QUEUE, retry=RetryStrategy(max_attempts=8, exponential_wait=3))
def send_mail(*, mail_id: int) -> None:
    outbox.send(mail_id, moment())


@app.periodic(cron="*/10 * * * *")
@app.task(name="notices.enqueue_unsent", queue=QUEUE, queueing_lock="enqueue_unsent")
def enqueue_unsent(timestamp: int) -> None:
    outbox.enqueue_unsent()


@app.periodic(cron="*/10 * * * *")
@app.task(name="notices.remind", queue=QUEUE, queueing_lock="remind")
def remind(timestamp: int) -> None:
    """Work that is given out, opens or is due."""
    reminders.remind(moment())


@app.periodic(cron="0 5 * * *")
@app.task(name="notices.mail_digests", queue=QUEUE, queueing_lock="mail_digests")
def mail_digests(timestamp: int) -> None:
    """Once a day, early."""
    notifying.mail_digests(moment())
