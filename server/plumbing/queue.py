"""Enqueueing jobs by the name of their task, so that whoever enqueues one need not import it.

A job enqueued in a transaction exists when that commits, and only then: it is a row of the same database.
"""

from __future__ import annotations

from procrastinate.contrib.django import app
from procrastinate.types import JSONValue


def enqueue(task_name: str, *, queue: str, priority: int = 0, **arguments: JSONValue) -> None:
    """Of the jobs that wait in a queue, those of a higher priority are taken first."""
    app.configure_task(task_name, queue=queue, priority=priority).defer(**arguments)
