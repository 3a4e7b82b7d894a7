"""Of some jobs at most one waits, and yet none is lost."""

from __future__ import annotations

from django.db import connection
from django.test import TestCase
from procrastinate.contrib.django.models import ProcrastinateJob

from plumbing.queue import enqueue_once


class Once(TestCase):
    def enqueue(self) -> None:
        enqueue_once("proposals.propose", queue="reading", only_one="propose for folio 1", folio_id=1)

    def waiting(self) -> int:
        return ProcrastinateJob.objects.filter(status="todo").count()

    def test_of_two_only_one_waits(self) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            self.enqueue()
            self.enqueue()
        self.assertEqual(self.waiting(), 1)

    def test_what_a_job_that_was_taken_meanwhile_could_not_see_brings_another(self) -> None:
        self.enqueue()
        with self.captureOnCommitCallbacks(execute=True):
            self.enqueue()
            with connection.cursor() as cursor:
                cursor.execute("UPDATE procrastinate_jobs SET status = 'doing', queueing_lock = NULL")
        self.assertEqual(self.waiting(), 1)
