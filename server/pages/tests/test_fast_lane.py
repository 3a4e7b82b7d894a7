"""The fast lane answers as the framework's usual way does."""

from __future__ import annotations

import asyncio
import errno
import json
import shutil
import tempfile
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.test import Client, TransactionTestCase, override_settings
from django.utils import timezone

from assignments.models import Assignment, Question
from courses.models import Course, Enrolment
from folios.beginning import create_folio
from folios.models import Folio
from pages.doors import DOORS
from pages.fast_lane import FastLane
from pages.models import Original
from people.models import User
from plumbing.body_gate import BodyGate
from testing.desk import picture

TOKEN = "t" * 32


class FastLaneDoor(TransactionTestCase):
    def setUp(self) -> None:
        self.media = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.media)
        self.enterContext(override_settings(MEDIA_ROOT=str(self.media)))
        now = timezone.now()
        course = Course.objects.create(code="NAV 231", title="Celestial Navigation")
        self.work = Assignment.objects.create(
            course=course, title="Set", opens=now - timedelta(days=1), due=now + timedelta(days=1)
        )
        Question.objects.create(assignment=self.work, label="1")
        self.ilse, self.tobin = (
            User.objects.create_user(f"{name}@kestrelpoint.example", "a-long-password") for name in ("ilse", "tobin")
        )
        for person in (self.ilse, self.tobin):
            Enrolment.objects.create(course=course, person=person)
        self.folio = create_folio(self.work, self.ilse, now)

    def browser(self, user: User | None) -> Client:
        client = Client(enforce_csrf_checks=True)
        if user is not None:
            client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        client.cookies[settings.CSRF_COOKIE_NAME] = TOKEN
        return client

    def fast(
        self,
        data: bytes,
        user: User | None = None,
        *,
        query: str = "name=a.png",
        token: str = TOKEN,
        breaks: bool = False,
    ) -> tuple[int, Any]:
        """Status and answer; (0, None) where nothing was answered."""
        client = self.browser(user)
        cookies = "; ".join(f"{name}={morsel.value}" for name, morsel in client.cookies.items())
        scope = {
            "type": "http", "method": "PUT", "path": f"/api/folios/{self.folio.pk}/originals", "root_path": "",
            "query_string": query.encode(), "scheme": "http", "server": ("testserver", 80),
            "headers": [(b"cookie", cookies.encode()), (b"x-csrftoken", token.encode()), (b"host", b"testserver")],
        }  # fmt: skip
        halves = [
            {"type": "http.request", "body": data[: len(data) // 2], "more_body": True},
            {"type": "http.disconnect"}
            if breaks
            else {"type": "http.request", "body": data[len(data) // 2 :], "more_body": False},
        ]
        sent: list[Any] = []

        async def receive() -> Any:
            return halves.pop(0)

        async def send(message: Any) -> None:
            sent.append(message)

        asyncio.run(BodyGate(FastLane(_nobody), small=1000, most=10_000_000, doors=DOORS)(scope, receive, send))
        return (sent[0]["status"], json.loads(sent[1]["body"])) if sent else (0, None)

    def usual(self, data: bytes, user: User | None = None, *, query: str = "name=a.png", token: str = TOKEN) -> Any:
        path = f"/api/folios/{self.folio.pk}/originals?{query}"
        response = self.browser(user).put(path, data, "application/octet-stream", headers={"X-CSRFToken": token})
        return response.status_code, response.json()

    def test_both_ways_take_a_file_in_and_know_it_again(self) -> None:
        status, first = self.fast(picture(kind="PNG"), self.ilse)
        self.assertEqual((status, first["already"]), (200, False))
        status, second = self.usual(picture(kind="PNG"), self.ilse)
        known = ("page_id", "original_id", "sha256", "size", "promised")
        self.assertEqual((status, second["already"]), (200, True))
        self.assertEqual([second[name] for name in known], [first[name] for name in known])
        self.assertEqual(Original.objects.get().verdict, "in_time")

    def test_both_refuse_alike(self) -> None:
        page = picture(kind="PNG")
        cases: dict[str, tuple[bytes, dict[str, Any]]] = {
            "signed out": (page, {}),
            "somebody else": (page, {"user": self.tobin}),
            "empty": (b"", {"user": self.ilse}),
            "no picture": (b"<svg xmlns='http://www.w3.org/2000/svg'/>" * 20, {"user": self.ilse}),
        }
        for case, (data, how) in cases.items():
            with self.subTest(case):
                status, problem = self.fast(data, **how)
                self.assertGreaterEqual(status, 400)
                self.assertEqual((status, problem), self.usual(data, **how))
        terms = self.folio.terms
        closed = replace(terms, rules=replace(terms.rules, due=timezone.now() - timedelta(minutes=30)))
        Folio.objects.update(kept_terms=closed.as_document())
        self.assertEqual(self.fast(page, self.ilse), self.usual(page, self.ilse))
        self.assertEqual(self.fast(page, self.ilse)[1]["code"], "closed")
        self.assertEqual(Original.objects.count(), 0)
        self.assertEqual(list((self.media / "arriving").iterdir()), [])

    def test_a_forged_request_is_refused_by_djangos_own_check(self) -> None:
        status, problem = self.fast(picture(), self.ilse, token="x" * 32)
        self.assertEqual((status, problem["code"]), (403, "stale_page"))
        self.assertEqual(self.usual(picture(), self.ilse, token="x" * 32)[0], 403)

    def test_a_full_disk_is_told_after_the_last_byte_and_leaves_nothing(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("pages.arrival.Receiving.add", side_effect=full):
            status, problem = self.fast(picture(), self.ilse)
        self.assertEqual((status, problem["code"]), (507, "no_room"))
        self.assertEqual(self.fast(picture(), self.ilse)[0], 200)  # and once there is room, it is taken

    def test_what_is_too_large_is_said_to_be(self) -> None:
        with override_settings(FOLIO_MAX_FILE_MB=0.0001):
            status, problem = self.fast(picture(), self.ilse)
        self.assertEqual((status, problem["code"]), (422, "too_large"))

    def test_trouble_nobody_foresaw_is_the_servers(self) -> None:
        with mock.patch("pages.fast_lane.bring_in", side_effect=RuntimeError), self.assertLogs("plumbing.errors"):
            self.assertEqual(self.fast(picture(), self.ilse)[0], 500)

    def test_other_requests_are_passed_on(self) -> None:
        with self.assertRaisesRegex(AssertionError, "the fast lane should have taken this"):
            asyncio.run(FastLane(_nobody)({"type": "http", "method": "GET", "path": "/api/me"}, None, None))

    def test_what_is_said_of_a_file_is_checked(self) -> None:
        status, problem = self.fast(picture(), self.ilse, query="name=a.png&number=-3")
        self.assertEqual((status, problem["code"]), (422, "bad_request"))

    def test_a_line_that_breaks_leaves_nothing(self) -> None:
        self.assertEqual(self.fast(picture(), self.ilse, breaks=True), (0, None))
        self.assertEqual(Original.objects.count(), 0)
        self.assertEqual(list((self.media / "arriving").iterdir()), [])

    def test_an_inactive_account_is_signed_out(self) -> None:
        User.objects.filter(pk=self.ilse.pk).update(is_active=False)
        self.assertEqual(self.fast(picture(), self.ilse)[0], 401)


async def _nobody(scope: Any, receive: Any, send: Any) -> None:
    raise AssertionError("the fast lane should have taken this")
