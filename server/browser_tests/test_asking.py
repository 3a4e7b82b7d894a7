"""Asking again, the talk at a page, what a reader places, pages that staff take in: both sides, one after another."""

from __future__ import annotations

import re
from pathlib import Path

from board_bench.prepared import lay_prepared
from playwright.sync_api import Page, expect

from asking.models import Asking
from demo import sample_people
from editions.models import Edition, ReaderPlacement
from folios.beginning import create_folio
from folios.models import Folio
from people.models import User
from plumbing.requests import moment

from .boards import PHONE
from .browsing import BrowserTestCase


class AskingAgain(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.work = self.assignments["great-circles"]

    def handed_in(self, *, placed: bool = True) -> Folio:
        folio = create_folio(self.work, User.objects.get(email=sample_people.ILSE.email), moment())
        lay_prepared(folio, 3)
        if not placed:
            folio.refresh_from_db()
            Folio.objects.filter(pk=folio.pk).update(arrangement={**folio.arrangement, "placements": {}})
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}/check")
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_text("the one that counts")).to_be_visible()
        return folio

    def reading(self, folio: Folio, edition: int = 1) -> Page:
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/reading/{self.work.pk}/{folio.pk}/{edition}")
        expect(page.get_by_role("heading", name="Ilse Marrow")).to_be_visible()
        return page

    def test_a_page_asked_for_again_is_taken_again_and_the_reader_sees_both(self) -> None:
        folio = self.handed_in()
        reader = self.reading(folio)
        reader.get_by_role("button", name="Ask for page 2 again").click()
        asked = reader.get_by_role("dialog")
        asked.get_by_role("button", name="Page 2 cannot be read.").click()
        self.no_serious_findings(reader, "asking again")
        asked.get_by_role("button", name="Ask for it").click()
        expect(asked).to_contain_text("Edition 1 stays and counts until then")
        reader.keyboard.press("Escape")
        expect(reader.get_by_text("Asked for again until", exact=False)).to_be_visible()

        student = self.sign_in(sample_people.ILSE, path="/")
        student.get_by_role("link", name="Page 2 is asked for again").click()
        expect(student.get_by_text("Page 2 is asked for again:", exact=False)).to_be_visible()
        expect(student.get_by_role("heading", name="Page 2")).to_be_visible()
        with student.expect_file_chooser() as chooser:
            student.get_by_role("button", name="Take page 2 again").click()
        chooser.value.set_files(self.phone_photographs()[0])
        expect(student.get_by_text("It is taken again", exact=False)).to_be_visible()
        self.no_serious_findings(student, "asked again")
        student.get_by_role("link", name="Check and hand in").first.click()
        student.get_by_role("button", name="Hand in", exact=True).click()
        expect(student.get_by_text("Page 2 cannot be read.", exact=False)).to_be_visible()
        self.until(student, lambda: Asking.objects.get().done_edition == 2)

        reader.goto(f"{self.address}/reading/{self.work.pk}")
        reader.locator(".narrowing-kinds label", has_text="Sent again 1").click()
        reader.get_by_role("link", name="Ilse Marrow", exact=True).click()
        reader.get_by_role("link", name="Compare with edition 1").click()
        expect(reader.get_by_text("1 page taken again", exact=False)).to_be_visible()

    def test_a_question_and_its_answer_stay_at_the_page(self) -> None:
        folio = self.handed_in()
        reader = self.reading(folio)
        second = reader.locator("figure", has=reader.get_by_text("Page 2", exact=False)).first
        second.get_by_role("button", name="Ask or tell the student about this page").click()
        second.get_by_label("Your words").fill("Is that a 4 or a 9?")
        second.get_by_role("button", name="Send").click()
        self.said(second, "Is that a 4 or a 9?")
        student = self.sign_in(sample_people.ILSE, self.context(**PHONE), path=f"/folios/{folio.pk}?page=2")
        self.said(student, "Is that a 4 or a 9?")
        student.get_by_role("button", name="Answer").tap()
        student.get_by_label("Your words").fill("A nine")
        student.get_by_role("button", name="Send").tap()
        self.said(student, "A nine")
        reader.reload()
        self.said(reader, "A nine")

    def test_the_reader_places_an_unplaced_page_over_the_edition_and_takes_it_off(self) -> None:
        folio = self.handed_in(placed=False)
        kept = Edition.objects.get(folio=folio).arrangement
        reader = self.reading(folio)
        first = reader.locator("figure").first
        label = folio.assignment.question_map.questions[0].label
        first.get_by_role("button", name="Place this page").click()
        first.get_by_label("Page 1 answers").fill(label)
        first.get_by_role("button", name="Place it").click()
        expect(first.get_by_text("not by the student", exact=False)).to_be_visible()
        self.assertEqual(Edition.objects.get(folio=folio).arrangement, kept)
        first.get_by_role("button", name=f"take {label} off").click()
        expect(first.get_by_text("not by the student", exact=False)).to_have_count(0)
        self.until(first, lambda: not ReaderPlacement.objects.exists())

    def test_staff_take_pages_in_for_who_never_began(self) -> None:
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/reading/{self.work.pk}")
        page.get_by_role("button", name="Take pages in for Wren Halloran").click()
        dialog = page.get_by_role("dialog")
        with page.expect_file_chooser() as chooser:
            dialog.get_by_role("button", name="Choose files").click()
        chooser.value.set_files([Path(one) for one in self.phone_photographs()[:2]])
        dialog.get_by_label("Why?", exact=False).fill("came on paper by post")
        self.no_serious_findings(page, "taking pages in")
        dialog.get_by_role("button", name=re.compile("^Hand in 2 files for")).click()
        expect(dialog.get_by_text("Handed in as edition 1", exact=False)).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("row", name=re.compile("Wren")).get_by_text("taken in by staff")).to_be_visible()
        edition = Edition.objects.get(folio__assignment=self.work)
        self.assertEqual((edition.page_count, edition.facts.taken_in.reason), (2, "came on paper by post"))
