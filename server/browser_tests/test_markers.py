"""Who confirms what by handing in, and who reads it: an instructor, a student and a marker, one after another."""

from __future__ import annotations

from board_bench.prepared import lay_prepared
from playwright.sync_api import expect

from assignments.models import Assignment
from demo import sample_people
from folios.beginning import create_folio
from people.models import User
from plumbing.requests import moment

from .browsing import BrowserTestCase


class Markers(BrowserTestCase):
    def test_words_of_honour_are_confirmed_by_the_button_and_a_marker_reads_what_was_shared(self) -> None:
        work = self.assignments["great-circles"]
        Assignment.objects.filter(pk=work.pk).update(honour="")
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/setting-up/{work.pk}")
        page.get_by_label("Words of honour", exact=False).fill("I wrote this alone.")
        expect(page.get_by_text("All of it is saved.")).to_be_visible()
        chosen = page.get_by_label(f"questions that {sample_people.MARKER.first} {sample_people.MARKER.last} reads")
        chosen.press("Backspace")  # 1c is the last of them
        self.until(page, lambda: work.marker_scopes.count() == 2)
        self.no_serious_findings(page, "setting up with a marker")
        folio = create_folio(work, User.objects.get(email=sample_people.ILSE.email), moment())
        lay_prepared(folio, 2)
        student = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}/check")
        expect(student.locator("blockquote")).to_have_text("I wrote this alone.")
        Assignment.objects.filter(pk=work.pk).update(honour="I wrote this alone, by hand.")
        student.get_by_role("button", name="Confirm and hand in").click()
        expect(student.get_by_text("have changed. Read them", exact=False)).to_be_visible()
        expect(student.locator("blockquote")).to_have_text("I wrote this alone, by hand.")
        student.get_by_role("button", name="Confirm and hand in").click()
        expect(student.get_by_text("confirmed by handing in")).to_be_visible()
        marker = self.sign_in(sample_people.MARKER)
        marker.get_by_role("link", name=work.title, exact=True).click()
        expect(marker.get_by_text("You read 1a, 1b")).to_be_visible()
        marker.get_by_role("link", name="Ilse Marrow").click()
        expect(marker.get_by_role("navigation", name="Questions").get_by_role("listitem")).to_have_count(2)
        expect(marker.get_by_text("Confirmed by handing in: “I wrote this alone, by hand.”")).to_be_visible()
