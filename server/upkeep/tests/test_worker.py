"""The real worker, as a process of its own, on the test database."""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase
from django.utils import timezone
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob

from assignments.models import Assignment
from courses.models import Course
from folios.beginning import create_folio
from pages.arrival import receive
from pages.models import Page
from pages.sent import Sent
from people.models import User


def has_grandchild(pid: int) -> bool:
    """Whether a decoder runs: a child of the fork server, which is a child of the worker (proc(5), stat)."""
    stats = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):  # it may end while we look
            stats.append(path.read_text().rsplit(")", 1)[1].split())
    return any(
        int(group) == pid and int(parent) not in (pid, os.getpid()) and state != "Z"
        for state, parent, group, *_ in stats
    )


class Worker(TransactionTestCase):
    def setUp(self) -> None:
        now = timezone.now()
        course = Course.objects.create(code="NAV 231", title="Celestial Navigation")
        work = Assignment.objects.create(course=course, title="Set", opens=now, due=now + timedelta(days=1))
        student = User.objects.create_user("ilse@kestrelpoint.example", "a-long-password")
        self.folio = create_folio(work, student, now)
        self.children: list[subprocess.Popen[bytes]] = []
        self.addCleanup(lambda: [self.kill(child) for child in self.children])

    def start(self) -> subprocess.Popen[bytes]:
        environment = {
            **os.environ,
            "FOLIO_DB_NAME": str(connection.settings_dict["NAME"]),
            "FOLIO_WORKER_SILENCE_SECONDS": "12",  # longer than the worker's own heartbeat of 10
        }
        command = [sys.executable, "manage.py", "work", "pages,editions,upkeep", "--jobs", "1"]
        child = subprocess.Popen(command, cwd=settings.ROOT / "server", env=environment, start_new_session=True)
        self.children.append(child)
        return child

    def kill(self, child: subprocess.Popen[bytes]) -> None:
        if child.poll() is None:
            os.killpg(child.pid, signal.SIGKILL)
            child.wait()

    def until(self, true: Callable[[], bool], seconds: float, every: float = 0.02) -> None:
        deadline = time.monotonic() + seconds
        while not true():
            self.assertLess(time.monotonic(), deadline, "waited too long")
            time.sleep(every)

    def send_a_slow_page(self) -> int:
        out = io.BytesIO()
        Image.effect_noise((4000, 3000), 60).convert("RGB").save(out, "PNG", compress_level=1)
        return receive(self.folio, [out.getvalue()], Sent("slow.png"), timezone.now).page_id

    def test_a_worker_told_to_stop_with_all_its_children_gives_no_page_up(self) -> None:
        page = self.send_a_slow_page()
        first = self.start()
        preparing = ProcrastinateJob.objects.filter(task_name="pages.prepare_page", status="doing")
        ready = Page.objects.filter(pk=page, state=Page.State.READY)
        self.until(lambda: (preparing.exists() and has_grandchild(first.pid)) or ready.exists(), 30)
        os.killpg(first.pid, signal.SIGTERM)  # as Ctrl-C and a service manager do
        first.wait(30)
        self.assertNotEqual(Page.objects.get(pk=page).state, Page.State.FAILED)
        self.start()
        self.until(lambda: Page.objects.get(pk=page).state == Page.State.READY, 60, 0.2)

    def test_the_job_of_a_killed_worker_is_taken_up_by_another(self) -> None:
        page = self.send_a_slow_page()
        first = self.start()
        mine = ProcrastinateJob.objects.exclude(queue_name="upkeep")
        self.until(lambda: mine.filter(status="doing").exists(), 30)
        self.kill(first)
        self.assertEqual(mine.filter(status="doing").count(), 1, "the job died with its worker")
        self.assertEqual(Page.objects.get(pk=page).state, Page.State.WAITING)
        self.start()
        self.until(lambda: Page.objects.get(pk=page).state == Page.State.READY, 60, 0.2)
        self.assertEqual(Page.objects.count(), 1)
