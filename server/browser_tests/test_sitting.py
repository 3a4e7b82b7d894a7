"""A sitting on the screen: its clock, time given while it runs, its record, a rehearsal, placing after the close."""

from __future__ import annotations

import re
from datetime import timedelta
from pathlib import Path

from django.utils import timezone
from PIL import Image
from playwright.sync_api import Page, expect

from demo import sample_people
from folios.beginning import create_folio
from folios.models import Folio
from pages.arrival import receive
from pages.sent import Sent
from people.models import User

from .browsing import BrowserTestCase

MIDTERM = "Midterm: the noon sight"


class Sitting(BrowserTestCase):
    def folio(self, minutes_left: float, pages: int = 0) -> Folio:
        """Ilse's midterm, begun so that it closes in so many minutes."""
        student = User.objects.get(email=sample_people.ILSE.email)
        folio = create_folio(self.assignments["noon-sight"], student, timezone.now())
        folio.begun_at += timezone.now() - folio.window().closes + timedelta(minutes=minutes_left)
        folio.save()
        for number in range(pages):
            receive(folio, [self.picture(number).read_bytes()], Sent(f"page{number + 1}.png"), timezone.now)
        return folio

    def picture(self, number: int) -> Path:
        path = self.folder() / f"page{number + 1}.png"
        Image.effect_noise((300, 420), 60 + number).save(path)
        return path

    def open(self, path: str, page: Page) -> None:
        page.goto(f"{self.address}{path}")

    def test_time_given_while_it_runs_is_told_at_once_and_stands_in_the_record(self) -> None:
        folio = self.folio(minutes_left=4)
        student = self.sign_in(sample_people.ILSE)
        self.open(f"/folios/{folio.pk}", student)
        expect(student.get_by_role("timer")).to_contain_text("3 min")
        staff = self.sign_in(sample_people.INSTRUCTOR)
        staff.get_by_role("heading", name=MIDTERM).get_by_role("link").click()
        expect(staff.locator(".give-time")).to_contain_text("1 sitting running")
        self.no_serious_findings(staff, "folios of a running sitting")
        staff.get_by_label("Give all of them").fill("7")
        staff.get_by_role("button", name="Give time").click()
        staff.get_by_role("button", name="Give the time").click()
        expect(staff.get_by_text("Given to 1 sitting")).to_be_visible()
        expect(student.get_by_text("7 more minutes", exact=True)).to_be_visible()
        expect(student.get_by_role("timer")).to_contain_text("10 min")
        expect(student.locator(".time-rail [aria-live=polite]")).to_contain_text(
            "Your instructor gave you 7 more minutes"
        )
        staff.get_by_role("link", name="Record of Ilse Marrow").click()
        expect(staff.get_by_text("Corin Vale gave 7 minutes")).to_be_visible()
        self.no_serious_findings(staff, "record")

    def test_coming_back_lands_on_the_board_of_the_running_sitting_where_it_was_left(self) -> None:
        folio = self.folio(minutes_left=60, pages=3)
        page = self.sign_in(sample_people.ILSE)
        self.tiles(page, 3)
        page.get_by_role("button", name="Page 3,").click()
        expect(page.get_by_role("heading", name="Page 3")).to_be_visible()
        self.open("/", page)
        expect(page).to_have_url(f"{self.address}/folios/{folio.pk}")
        expect(page.get_by_role("heading", name="Page 3")).to_be_visible()
        page.get_by_role("link", name="Brief and questions").click()
        expect(page.get_by_role("timer")).to_contain_text("left to write")
        page.get_by_role("link", name="Inked Folio, my folios").click()
        expect(page.get_by_role("heading", name="to hand in")).to_be_visible()

    def test_a_device_whose_clock_is_off_counts_by_the_servers_and_says_so(self) -> None:
        folio = self.folio(minutes_left=40)
        page = self.sign_in(sample_people.ILSE)
        page.clock.install(time=timezone.now() + timedelta(hours=3))
        self.open(f"/folios/{folio.pk}", page)
        expect(page.get_by_role("timer")).to_contain_text("24 min")
        expect(page.get_by_text("This device’s clock is 3 h 0 min fast")).to_be_visible()

    def test_after_the_close_placing_goes_on_and_is_handed_in_with_the_pages_of_the_close(self) -> None:
        folio = self.folio(minutes_left=0.12, pages=2)
        page = self.sign_in(sample_people.ILSE)
        self.open(f"/folios/{folio.pk}", page)
        self.tiles(page, 2)
        expect(page.locator(".board-closed")).to_contain_text("handed in by itself: receipt of edition 1")
        expect(page.get_by_role("button", name="Add pages")).to_have_count(0)
        page.get_by_label("On page 1:").fill("1a-c")
        page.get_by_label("On page 1:").press("Enter")
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        self.no_serious_findings(page, "board after the close")
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("The pages are as they were at the close, and in time")).to_be_visible()
        page.get_by_role("button", name=re.compile("hand in$", re.I)).click()
        expect(page.get_by_text("· in time")).to_be_visible()
        newest = folio.editions.first()
        assert newest is not None
        self.assertEqual((newest.number, newest.automatic, newest.page_count), (2, False, 2))

    def test_a_rehearsal_has_the_same_screens_and_ends_with_what_to_do_better(self) -> None:
        page = self.sign_in(sample_people.ILSE)
        row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name=MIDTERM))
        row.get_by_role("link", name="Read the brief").click()
        page.get_by_role("button", name="Rehearse now").click()
        expect(page.get_by_text("Rehearsal ·")).to_be_visible()
        page.get_by_role("button", name="Put the pen down by").focus()
        expect(page.get_by_role("tooltip")).to_contain_text("an assumption until three of your pages are in")
        self.add(page, [self.picture(0), self.picture(1)])
        self.tiles(page, 2)
        page.get_by_role("link", name="Check and hand in").click()
        page.get_by_role("button", name=re.compile("hand in$", re.I)).click()
        expect(page.get_by_role("heading", name="What took how long")).to_be_visible()
        expect(page.get_by_text("A rehearsal: this counts for nothing.")).to_be_visible()
        self.no_serious_findings(page, "receipt of a rehearsal")
        self.assertFalse(self.assignments["noon-sight"].folios.exists())

    def test_the_due_moments_can_be_had_as_a_calendar(self) -> None:
        page = self.sign_in(sample_people.ILSE)
        page.get_by_role("button", name="Due moments in your calendar").click()
        with page.expect_download() as download:
            page.get_by_role("link", name="Download once").click()
        self.assertIn("BEGIN:VCALENDAR", Path(download.value.path()).read_text())
        self.no_serious_findings(page, "my work with the calendar's address")
