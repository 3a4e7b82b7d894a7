"""Enqueueing jobs by the name of their task, so that whoever enqueues one need not import it.

A job enqueued in a transaction exists when that commits, and only then: it is a row of the same database, written over
Django's connection. That holds in the worker too, whose own connection (for fetching jobs) commits each statement.
"""

from __future__ import annotations

from contextlib import suppress

from django.db import transaction
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.manager import JobManager
from procrastinate.tasks import configure_task
from procrastinate.types import JSONValue

_JOBS = JobManager(DjangoConnector())


def enqueue(task_name: str, *, queue: str, priority: int = 0, **arguments: JSONValue) -> None:
    """Of the jobs that wait in a queue, those of a higher priority are taken first."""
    configure_task(name=task_name, job_manager=_JOBS, queue=queue, priority=priority).defer(**arguments)


def enqueue_once(
    task_name: str, *, queue: str, only_one: str, in_turn: bool = False, priority: int = 0, **arguments: JSONValue
) -> None:
    """The same, but of those with that word (``only_one``) at most one waits; ``in_turn``: and it begins only when
    the one before it has ended, so that what an older one made never lies over what a newer one made.

    Where one waits already it may be taken before this transaction commits, and would not see what it changes: it is
    tried once more afterwards.
    """
    lock = only_one if in_turn else None
    task = configure_task(
        name=task_name, job_manager=_JOBS, queue=queue, priority=priority, queueing_lock=only_one, lock=lock
    )

    def once_more() -> None:
        with suppress(AlreadyEnqueued), transaction.atomic():
            task.defer(**arguments)

    try:
        with transaction.atomic():
            task.defer(**arguments)
    except AlreadyEnqueued:
        transaction.on_commit(once_more)
