"""Two who ask at once, or one who clicks twice."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

from django.db import connection
from django.test import TransactionTestCase
from django.utils import timezone

from assignments.models import Assignment
from assignments.setting_up import BadField, new_assignment
from courses.models import Course


class AtOnce(TransactionTestCase):
    def test_of_two_drafts_of_one_title_one_is_refused(self) -> None:
        course = Course.objects.create(code="NAV 231", title="Celestial Navigation", time_zone="UTC")
        ready = Barrier(4)

        def make(_: int) -> bool:
            try:
                Course.objects.exists()  # the connection is there
                ready.wait(30)
                new_assignment(course, "Quiz", timezone.now())
            except BadField:
                return False
            finally:
                connection.close()
            return True

        with ThreadPoolExecutor(4) as pool:
            made = list(pool.map(make, range(4)))
        self.assertEqual((sum(made), Assignment.objects.count()), (1, 1))
