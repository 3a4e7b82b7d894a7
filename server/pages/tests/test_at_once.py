"""Two requests at the same moment, on real PostgreSQL with real transactions."""

from __future__ import annotations

import shutil
import tempfile
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any
from unittest import mock

from django.db import connection
from django.test import TransactionTestCase, override_settings
from django.utils import timezone

from assignments.models import Assignment, Question
from courses.models import Course, Enrolment
from editions.binding import bind_edition
from editions.handing_in import hand_in
from editions.models import Edition
from editions.taking_back import take_back
from folio_core.placing import Arrangement, read_arrangement
from folios.beginning import create_folio
from folios.models import record
from pages import preparing
from pages.arranging import Stale, arrange
from pages.arrival import receive
from pages.models import Original, Page
from pages.sent import Sent
from people.models import User
from testing.desk import picture


class AtOnce(TransactionTestCase):
    def setUp(self) -> None:
        media = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, media)
        self.enterContext(override_settings(MEDIA_ROOT=media))
        now = timezone.now()
        course = Course.objects.create(code="NAV 231", title="Celestial Navigation")
        work = Assignment.objects.create(course=course, title="Set", opens=now, due=now + timedelta(days=1))
        Question.objects.create(assignment=work, label="1")
        student = User.objects.create_user("ilse@kestrelpoint.example", "a-long-password")
        Enrolment.objects.create(course=course, person=student)
        self.folio = create_folio(work, student, now)

    def together(self, *tasks: Callable[[], Any]) -> list[Any]:
        """Run each in a thread of its own, all let go at once; results or exceptions, in order."""
        gate = threading.Barrier(len(tasks))
        results: list[Any] = [None] * len(tasks)

        def run(number: int, task: Callable[[], Any]) -> None:
            try:
                gate.wait()
                results[number] = task()
            except Exception as error:
                results[number] = error
            finally:
                connection.close()

        threads = [threading.Thread(target=run, args=pair) for pair in enumerate(tasks)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(120)
        return results

    def test_the_same_bytes_sent_twice_at_once_are_one_page(self) -> None:
        results = self.together(
            *[lambda: receive(self.folio, [picture()], Sent("a.jpg"), timezone.now) for _ in range(4)]
        )
        self.assertEqual(sorted(result.already for result in results), [False, True, True, True])
        self.assertEqual((Original.objects.count(), Page.objects.count()), (1, 1))

    def test_files_arriving_at_once_all_find_their_place(self) -> None:
        tasks = [
            lambda shade=shade: receive(self.folio, [picture(shade)], Sent(f"{shade}.jpg"), timezone.now)
            for shade in range(1, 7)
        ]
        results = self.together(*tasks)
        self.folio.refresh_from_db()
        self.assertEqual(sorted(self.folio.arrangement["order"]), sorted(result.page_id for result in results))
        self.assertEqual(self.folio.version, 6)

    def test_of_two_changes_made_on_the_same_version_one_is_refused(self) -> None:
        page = receive(self.folio, [picture()], Sent("a.jpg"), timezone.now).page_id

        def change(**fields: Any) -> Callable[[], Any]:
            arrangement = Arrangement(order=(page,), **fields)
            return lambda: arrange(self.folio.pk, seen=1, arrangement=arrangement, now=timezone.now())

        question = str(self.folio.assignment.questions.get().pk)
        results = self.together(change(left_blank=frozenset({question})), change(loose=frozenset({page})))
        self.assertEqual(sum(isinstance(result, Stale) for result in results), 1)
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.version, 2)
        stored = read_arrangement(self.folio.arrangement)
        self.assertNotEqual(bool(stored.left_blank), bool(stored.loose))

    def test_handing_in_twice_at_once_is_one_edition(self) -> None:
        receive(self.folio, [picture()], Sent("a.jpg"), timezone.now)
        results = self.together(*[lambda: hand_in(self.folio, seen_edition=0, now=timezone.now()) for _ in range(3)])
        self.assertEqual({result.number for result in results}, {1})
        self.assertEqual(Edition.objects.count(), 1)

    def test_taking_back_while_the_edition_is_bound_waits_and_neither_is_refused(self) -> None:
        """Both lock the folio first. The binding stands still, with all its locks, until the other waits for one."""
        receive(self.folio, [picture()], Sent("a.jpg"), timezone.now)
        edition = hand_in(self.folio, seen_edition=0, now=timezone.now())
        preparing.prepare_page(Page.objects.get().pk, now=timezone.now())
        holding = threading.Event()

        def record_later(*said: Any) -> Any:
            holding.set()
            with connection.cursor() as cursor:
                waiting, latest = 0, time.monotonic() + 60
                while not waiting and time.monotonic() < latest:
                    cursor.execute("SELECT count(*) FROM pg_locks WHERE NOT granted")
                    waiting = cursor.fetchone()[0]
            return record(*said)

        def take() -> None:
            holding.wait(60)
            take_back(self.folio, number=1, now=timezone.now())

        with mock.patch("editions.binding.record", record_later):
            bound, taken = self.together(lambda: bind_edition(edition.pk, now=timezone.now()), take)
        self.assertEqual((bound, taken), (None, None))
        edition.refresh_from_db()
        self.assertEqual(edition.state, Edition.State.BOUND)
        self.assertIsNotNone(edition.taken_back_at)
