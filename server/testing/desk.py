"""What the server's tests stand on: a small course, accounts, and photographs as bytes."""

from __future__ import annotations

import io
import json
import shutil
import tempfile
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import mock

from django.core.cache import cache
from django.test import Client, TestCase, override_settings
from PIL import Image

from assignments.models import Assignment, Question
from courses.models import Course, Enrolment
from editions import binding
from editions.models import Edition
from folios.beginning import create_folio
from folios.models import Folio
from pages import get_ready, preparing
from pages.models import Original, Page, TestPicture
from people.models import User
from plumbing.database_clock import database_clock

NOW = datetime(2026, 11, 24, 15, 0, tzinfo=UTC)
PASSWORD = "a-long-password"


def picture(shade: int = 240, kind: str = "JPEG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (60, 84), (shade, shade, shade)).save(out, kind)
    return out.getvalue()


class DeskTestCase(TestCase):
    """A course with a timed and an untimed assignment; the server's clock stands at NOW and can be moved."""

    def setUp(self) -> None:
        media = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, media)
        self.enterContext(
            override_settings(MEDIA_ROOT=media, PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"])
        )
        cache.clear()
        self.enterContext(mock.patch.object(database_clock, "measure_if_due"))  # now and then a query more: not counted
        self._clients: dict[int, Client] = {}
        self.clock = self.enterContext(mock.patch("django.utils.timezone.now", return_value=NOW))
        self.course = Course.objects.create(code="NAV 231", title="Celestial Navigation", time_zone="America/Halifax")
        self.ilse = self.person("ilse@kestrelpoint.example", "Ilse", "30417")
        self.tobin = self.person("tobin@kestrelpoint.example", "Tobin", "30402")
        self.corin = self.person("corin@kestrelpoint.example", "Corin", role=Enrolment.Role.INSTRUCTOR)
        self.stranger = User.objects.create_user("stranger@kestrelpoint.example", PASSWORD)
        self.work = self.assignment("Great circles")
        self.sitting = self.assignment("Midterm", writing_minutes=95)
        self.folio = create_folio(self.work, self.ilse, NOW - timedelta(hours=1))

    def person(self, email: str, name: str, number: str = "", role: str = Enrolment.Role.STUDENT) -> User:
        user = User.objects.create_user(email, PASSWORD, first_name=name, number=number)
        Enrolment.objects.create(course=self.course, person=user, role=role)
        return user

    def assignment(self, title: str, **rules: Any) -> Assignment:
        assignment = Assignment.objects.create(
            course=self.course, title=title, opens=NOW - timedelta(days=1), due=NOW + timedelta(days=1), **rules
        )
        for position, label in enumerate(("1a", "1b", "2")):
            Question.objects.create(assignment=assignment, position=position, label=label, points=4)
        return assignment

    def at(self, **later: float) -> None:
        self.clock.return_value = NOW + timedelta(**later)
        self._clients = {}  # a sign-in of before may have expired

    def as_(self, user: User | None) -> Client:
        """Signed in once for the test: a sign-in for each request is an eighth of all the tests' time."""
        if user is None:
            return Client()
        if user.pk not in self._clients:
            self._clients[user.pk] = Client()
            self._clients[user.pk].force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        return self._clients[user.pk]

    def ask(self, method: str, path: str, body: Any = None, by: User | None = None) -> Any:
        client = self.as_(by or self.corin)
        data = "" if body is None else json.dumps(body)
        return getattr(client, method)(f"/api/{path}", data, content_type="application/json")

    def send(self, data: bytes, name: str = "IMG_1.jpg", *, by: User | None = None, folio: Folio | None = None) -> Any:
        path = f"/api/folios/{(folio or self.folio).pk}/originals?name={name}"
        return self.as_(by or self.ilse).put(path, data, content_type="application/octet-stream")

    def id_of(self, label: str, assignment: Assignment | None = None) -> str:
        """The id of a question, as arrangements name it; of a label that is on no map, the label."""
        found = (assignment or self.folio.assignment).questions.filter(label=label, removed_at=None).first()
        return str(found.pk) if found else label

    def arrange(self, version: int, by: User | None = None, **fields: Any) -> Any:
        """``placements`` and ``left_blank`` are given by label."""
        arrangement = {"order": [], "removed": [], "loose": [], "placements": {}, "left_blank": [], **fields}
        arrangement["placements"] = {self.id_of(label): row for label, row in arrangement["placements"].items()}
        arrangement["left_blank"] = [self.id_of(label) for label in arrangement["left_blank"]]
        path = f"/api/folios/{self.folio.pk}/arrangement"
        body = json.dumps({"version": version, "arrangement": arrangement})
        return self.as_(by or self.ilse).put(path, body, content_type="application/json")

    def hand_in(self, by: User | None = None, **body: Any) -> Any:
        path = f"/api/folios/{self.folio.pk}/hand-in"
        return self.as_(by or self.ilse).post(path, json.dumps(body), content_type="application/json")

    def work_off_jobs(self) -> None:
        """What the worker would do, in this process; the worker itself is tested in test_worker."""
        for original in Original.objects.all():
            preparing.open_original(original.pk, now=NOW)
        for page in Page.objects.filter(state=Page.State.WAITING):
            preparing.prepare_page(page.pk, now=NOW)
        for picture_id in TestPicture.objects.values_list("pk", flat=True):
            get_ready.judge(picture_id, last_try=True)
        for edition in Edition.objects.filter(state=Edition.State.BINDING):
            binding.bind_edition(edition.pk, now=NOW)
