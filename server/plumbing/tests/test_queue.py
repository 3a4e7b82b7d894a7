"""A job exists when the transaction that enqueued it commits; of some at most one waits, and yet none is lost."""

from __future__ import annotations

from django.db import connection, transaction
from django.test import TestCase
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from plumbing.queue import enqueue, enqueue_once


class WithTheTransaction(TestCase):
    def test_of_what_is_rolled_back_no_job_is_left_in_the_web_and_in_the_worker(self) -> None:
        for connector in (app.connector, app.connector.get_worker_connector()):  # type: ignore[attr-defined]
            with app.replace_connector(connector), self.subTest(type(connector).__name__):
                with transaction.atomic():
                    enqueue("proposals.read_page", queue="reading", page_id=1)
                    enqueue_once("proposals.propose", queue="reading", only_one="propose for folio 1", folio_id=1)
                    self.assertEqual(ProcrastinateJob.objects.count(), 2)
                    transaction.set_rollback(True)
                self.assertEqual(ProcrastinateJob.objects.count(), 0)


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
