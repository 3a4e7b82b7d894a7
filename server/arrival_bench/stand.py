"""What the arrival benchmark stands on: a durable cluster of its own, the real processes, students with folios."""

from __future__ import annotations

import os
import shutil
import signal
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta
from typing import TypeVar

from ops import checkout
from ops.places import STATE, Stop
from ops.postgres import Cluster, cluster_folder, free_port
from ops.running import WORKERS, Processes, migrate, wait_until_answering, web_command, worker_command

COLLEGE = "Kestrel Point"


@dataclass(frozen=True, slots=True)
class Student:
    """A folio and the cookie that opens it."""

    folio_id: int
    cookie: str


@dataclass(slots=True)
class Stand:
    cluster: Cluster
    processes: Processes
    environment: dict[str, str]
    port: int

    def start(self, name: str) -> None:
        """``name``: web, worker-pages or worker-editions."""
        command = web_command(self.port) if name == "web" else worker_command(name.removeprefix("worker-"))
        self.processes.start(name, command)

    @property
    def victims(self) -> tuple[str, ...]:
        """What the kill loops kill, by turns."""
        return "web", "worker-pages", "database"

    @property
    def seconds_between(self) -> tuple[float, float]:
        """The kills: so that some of them meet processes that have only just begun."""
        return 0.3, 2.5

    def start_all(self) -> None:
        self.start("web")
        self.start_workers()
        self.wait_until_answering()

    def start_workers(self) -> None:
        for name in WORKERS:
            self.start(f"worker-{name}")

    def kill(self, victim: str) -> None:
        """As a crash would."""
        if victim == "database":
            postmaster = int((self.cluster.folder / "postmaster.pid").read_text().split()[0])
            os.kill(postmaster, signal.SIGKILL)
            while self.cluster.running:
                time.sleep(0.05)
        else:
            self.processes.kill(victim)

    def revive(self) -> None:
        """Start again whatever has ended, by a kill or by itself."""
        if not self.cluster.running:
            self._start_database()
        for name in self.processes.ended():
            self.start(name)

    def _start_database(self) -> None:
        """After a crash the orphans of the killed server must first have noticed it."""
        deadline = time.monotonic() + 60
        while True:
            try:
                self.cluster.start()
                return
            except Stop:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.3)

    def wait_until_answering(self) -> None:
        wait_until_answering(f"http://127.0.0.1:{self.port}/api/me", self.processes)


S = TypeVar("S", bound=Stand)


@contextmanager
def stand(kind: type[S], **more: str) -> Iterator[S]:
    """A clean stand, with Django set up on it in this process; ``more`` settings. All of it is removed at the end."""
    state = STATE / "bench"
    cluster = Cluster(cluster_folder("postgres-bench"), free_port(), "bench-only")
    cluster.remove()
    shutil.rmtree(state, ignore_errors=True)
    try:
        cluster.start()
        cluster.ensure_database("inkedfolio")
        own = {
            "FOLIO_STATE": str(state), "FOLIO_DB_NAME": "inkedfolio", "FOLIO_LOG_LEVEL": "CRITICAL",
            "FOLIO_WORKER_SILENCE_SECONDS": "10", **more,
        }  # fmt: skip
        environment = checkout.environment(cluster, False, **own)
        migrate(cluster, **own)
        os.environ.update(environment)
        import django

        django.setup()
        with Processes(environment) as processes:
            yield kind(cluster, processes, environment, free_port())
    finally:
        cluster.remove()
        shutil.rmtree(state, ignore_errors=True)


def students(count: int, *, closes_in: timedelta, title: str) -> list[Student]:
    """Accounts with a folio each in an assignment of that closing, signed in."""
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore
    from django.utils import timezone

    from assignments.models import Assignment, Question
    from courses.models import Course, Enrolment
    from folios.beginning import create_folio
    from people.models import User

    now = timezone.now()
    course = Course.objects.create(code=title, title=f"{COLLEGE} {title}")
    work = Assignment.objects.create(
        course=course, title=title, opens=now - timedelta(days=1), due=now + closes_in, placing_minutes=60
    )
    Question.objects.create(assignment=work, label="1", points=4)
    signed_in = []
    for number in range(count):
        user = User(email=f"{title}-{number}@kestrelpoint.example".lower().replace(" ", "-"))
        user.set_unusable_password()
        user.save()
        Enrolment.objects.create(course=course, person=user)
        folio = create_folio(work, user, now)
        session = SessionStore()
        session[SESSION_KEY] = str(user.pk)
        session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
        session[HASH_SESSION_KEY] = user.get_session_auth_hash()
        session.save()
        signed_in.append(Student(folio.pk, str(session.session_key)))
    return signed_in
