"""The real thing under test: uvicorn and a worker as processes of their own on the test database, and Chromium."""

from __future__ import annotations

import json
import os
import random
import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any, ClassVar

from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.core.exceptions import ObjectDoesNotExist
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase
from django.utils import timezone
from playwright.sync_api import Browser, BrowserContext, Locator, Page, Playwright, expect, sync_playwright
from procrastinate.contrib.django.models import ProcrastinateJob

from assignments.models import Assignment
from demo import loading, photographs, scenario
from demo.sample_people import Person
from folios.models import Folio
from pages.models import Page as FolioPage
from people.models import User
from testing.runner import at_the_end

_HEADLESS = Path("/usr/bin/chromium-headless-shell")
CHROMIUM = str(_HEADLESS) if _HEADLESS.exists() else "/usr/bin/chromium"
# --no-sandbox: CI runs as root in a container; only our own pages are opened. The others keep it off the network.
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
AXE = settings.ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
_MOST_FLUSHES = 6
_LONG_MS = 120_000  # nothing here depends on speed: a machine may be many times slower than this one
expect.set_options(timeout=_LONG_MS)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def steady_port() -> int:
    """One that no system hands out by itself, so that a server can come back to it (ip(7): they begin at 32768)."""
    for port in random.sample(range(10_000, 16_000), 200):
        with socket.socket() as probe, suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port
    raise RuntimeError("No port is free between 10000 and 16000.")


def processes_environment() -> dict[str, str]:
    """``FOLIO_LIVE_SECONDS``: what a camera sees in a film holds, however slow the machine is."""
    return {**os.environ, "FOLIO_DB_NAME": str(connection.settings_dict["NAME"]), "FOLIO_LIVE_SECONDS": "120"}


class Running:
    """The server, the worker and Chromium: started by the first test that needs them, shared by all."""

    def __init__(self) -> None:
        port = free_port()
        self.address = f"http://127.0.0.1:{port}"
        self._children = [
            self._start("-m", "inkedfolio.web", str(port), "--workers", "1"),
            self._start("manage.py", "work", "pages,editions,upkeep,reading", "--jobs", "2"),
        ]
        self.playwright: Playwright = sync_playwright().start()
        self.browser: Browser = self.playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        _wait_for(self.address)
        at_the_end.append(self.stop)

    def _start(self, *command: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, *command],
            cwd=settings.ROOT / "server",
            env=processes_environment(),
            start_new_session=True,
        )

    def another_server(self, port: int) -> subprocess.Popen[bytes]:
        """For a test that kills it."""
        child = self._start("-m", "inkedfolio.web", str(port), "--workers", "1")
        self._children.append(child)
        _wait_for(f"http://127.0.0.1:{port}")
        return child

    def stop(self) -> None:
        """The database is about to be removed: nothing may hold it."""
        for child in self._children:
            kill(child)
        self._children = []


def kill(child: subprocess.Popen[bytes]) -> None:
    with suppress(ProcessLookupError):
        os.killpg(child.pid, signal.SIGKILL)
    child.wait()


def _empty_tables() -> None:
    call_command(
        "flush", verbosity=0, interactive=False, reset_sequences=False, allow_cascade=False, inhibit_post_migrate=True
    )


@cache
def running() -> Running:
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"  # Playwright runs an event loop in this thread
    return Running()


class BrowserTestCase(TransactionTestCase):
    """Loads the scenario's people and assignments before each test; folios begin empty."""

    reads_pages: ClassVar[bool] = False
    browser: ClassVar[Browser]
    playwright: ClassVar[Playwright]
    address: ClassVar[str]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        shared = running()
        cls.browser, cls.playwright, cls.address = shared.browser, shared.playwright, shared.address

    def _fixture_teardown(self) -> None:
        """The worker may still be at a job of the test that ended, which is waited for; emptying tables under it can
        deadlock, and PostgreSQL then ends either of the two. It is tried again then. What Django makes anew after each
        emptying (permissions, content types) no test in a browser asks for; it took most of the time."""
        deadline = time.monotonic() + 60
        while ProcrastinateJob.objects.filter(status="doing").exists() and time.monotonic() < deadline:
            time.sleep(0.1)
        for _ in range(_MOST_FLUSHES - 1):
            try:
                return _empty_tables()
            except CommandError:
                time.sleep(1)
        _empty_tables()

    def setUp(self) -> None:
        self.assignments: dict[str, Assignment] = loading.load_people_and_courses(timezone.now())
        if not self.reads_pages:
            Assignment.objects.update(proposes=False)  # reading takes the worker's time
        self.errors: list[str] = []

    def tearDown(self) -> None:
        for context in list(self.browser.contexts):
            context.close()
        self.assertEqual(self.errors, [], "the browser's console showed errors")

    def context(self, **options: Any) -> BrowserContext:
        """Without the service worker unless asked: a test's routes do not reach through it."""
        chosen = {"service_workers": "block", "viewport": {"width": 1280, "height": 800}} | options
        return self.browser.new_context(accept_downloads=True, **chosen)

    def sign_in(self, person: Person, context: BrowserContext | None = None, address: str = "", path: str = "") -> Page:
        """A page of somebody who signed in before: the cookies are there already. It opens at ``path``."""
        context = context or self.context()
        context.set_default_timeout(_LONG_MS)
        user = User.objects.get(email=person.email)
        session = SessionStore()
        session[SESSION_KEY] = str(user.pk)
        session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
        session[HASH_SESSION_KEY] = user.get_session_auth_hash()
        session.save()
        cookie = {"name": settings.SESSION_COOKIE_NAME, "value": str(session.session_key), "httpOnly": True}
        context.add_cookies([{**cookie, "url": address or self.address}])  # type: ignore[list-item]
        page = self.watched(context)
        page.goto((address or self.address) + path)
        if not path:
            expect(page.get_by_text(person.email)).to_be_visible()
        return page

    def sign_in_by_hand(self, person: Person, context: BrowserContext | None = None) -> Page:
        page = self.watched(context or self.context())
        page.goto(self.address)
        self.fill_in(page, person)
        return page

    def fill_in(self, page: Page, person: Person) -> None:
        page.get_by_label("Mail address").fill(person.email)
        page.get_by_label("Password").fill(scenario.PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_text(person.email)).to_be_visible()

    def sign_out(self, page: Page) -> None:
        """Also past the question about files that are not on the server yet."""
        page.get_by_role("button", name="Sign out", exact=True).click()
        asked = page.get_by_role("dialog").get_by_role("button", name="Sign out")
        form = page.get_by_label("Mail address")
        expect(asked.or_(form)).to_be_visible()
        if asked.is_visible():
            asked.click()
        expect(form).to_be_visible()

    def watched(self, context: BrowserContext) -> Page:
        """A page whose errors fail the test."""
        page = context.new_page()
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("console", lambda said: self._note(said.type, said.text))
        return page

    def by_label(self, folio: Folio, arrangement: dict[str, Any] | None = None) -> dict[str, Any]:
        """An arrangement (the folio's own, as it is now) with labels in the place of ids."""
        if arrangement is None:
            folio.refresh_from_db()
            arrangement = folio.arrangement
        labels = {str(question.pk): question.label for question in folio.assignment.questions.all()}
        return {
            **arrangement,
            "placements": {labels[one]: row for one, row in arrangement.get("placements", {}).items()},
            "left_blank": [labels[one] for one in arrangement.get("left_blank", [])],
        }

    def _note(self, kind: str, text: str) -> None:
        """A refused file is an answer of ours; Chromium logs every 4xx as an error of its own."""
        if kind == "error" and "status of 4" not in text and "ERR_FAILED" not in text:
            self.errors.append(text)

    def phone_photographs(self) -> list[Path]:
        roll = scenario.phone_roll()
        return [photo.path for photo in photographs.take(loading.photo_folder(), [roll])[roll.set.seed]]

    def folder(self) -> Path:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        return Path(folder.name)

    def begin(self, page: Page, title: str) -> None:
        row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name=title))
        row.get_by_role("link", name="Read the brief").click()
        page.get_by_role("button", name=re.compile("^Begin")).click()
        asked, board = (page.get_by_role("button", name=name) for name in ("Begin now", "Add pages"))
        expect(asked.or_(board)).to_be_visible()
        if asked.is_visible():
            asked.click()
        expect(board).to_be_visible()

    def add(self, page: Page, files: list[Path]) -> None:
        page.get_by_label("Files to add as pages").set_input_files(files)

    def until(self, page: Page, true: Callable[[], bool]) -> None:
        """Wait for something on the server's side, which may not be there at all yet, while the browser goes on."""
        deadline = time.monotonic() + _LONG_MS / 1000
        while time.monotonic() < deadline:
            with suppress(LookupError, ObjectDoesNotExist):
                if true():
                    return
            page.wait_for_timeout(100)
        self.fail("waited too long")

    def said(self, page: Page | Locator, words: str) -> None:
        """Wait until these words stand where all can read them: the text of a field that is being sent matches too."""
        talk = page.get_by_role("list", name=re.compile("^What was said"))
        expect(talk.get_by_role("listitem").filter(has_text=words)).to_be_visible()

    def until_kept(self, page: Page, *addresses: str) -> None:
        """Wait until the service worker has all that these addresses answer, for a page opened without a network."""
        all_kept = "Promise.all({}.map((one) => caches.match(one))).then((found) => found.every(Boolean))"
        wanted = all_kept.format(json.dumps(("/api/me", *addresses)))
        self.until(page, lambda: bool(page.evaluate(wanted)))

    def tiles(self, page: Page, count: int) -> None:
        """Wait until so many pages are shown and prepared: a first view is shown before its page is."""
        expect(page.locator(".strip img")).to_have_count(count)
        self.until(page, lambda: not FolioPage.objects.filter(state=FolioPage.State.WAITING).exists())

    def sweep(self, page: Page, first: str, last: str, column: int, last_column: int | None = None) -> None:
        """From the row of one label to that of another, over columns counted from 1."""
        cells = [page.locator(f'.ribbon-cells[data-labels="{label}"]') for label in (first, last)]
        cells[1].scroll_into_view_if_needed()
        cells[0].scroll_into_view_if_needed()
        width = float(cells[0].get_attribute("data-width") or 0)
        boxes = [cell.bounding_box() for cell in cells]
        assert boxes[0]
        assert boxes[1]
        page.mouse.move(boxes[0]["x"] + width * (column - 0.6), boxes[0]["y"] + 12)
        page.mouse.down()
        page.mouse.move(boxes[1]["x"] + width * ((last_column or column) - 0.6), boxes[1]["y"] + 14, steps=6)
        page.mouse.up()

    def no_serious_findings(self, page: Page, screen: str) -> None:
        """axe-core (Deque, MPL 2.0) with the rules of WCAG 2.2 A and AA."""
        page.evaluate(AXE.read_text())
        tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
        found = page.evaluate("tags => axe.run(document, {runOnly: tags})", tags)["violations"]
        serious = [
            (one["id"], [node["html"][:160] for node in one["nodes"]][:4])
            for one in found
            if one["impact"] in ("serious", "critical")
        ]
        self.assertEqual(serious, [], screen)


def _wait_for(address: str) -> None:
    deadline = time.monotonic() + _LONG_MS / 1000
    while time.monotonic() < deadline:
        try:
            with urllib.request.urlopen(address, timeout=20):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.2)
    raise AssertionError(f"{address} does not answer")
