"""Handing in, taking back and comparing, and what the reader then sees: student and instructor, one after another."""

from __future__ import annotations

import re
import zipfile

from board_bench.prepared import lay_prepared
from playwright.sync_api import expect

from demo import sample_people
from editions.handing_in import hand_in
from editions.models import Edition
from folios.beginning import create_folio
from folios.models import Folio
from people.models import User
from plumbing.requests import moment

from .browsing import BrowserTestCase


class Editions(BrowserTestCase):
    def test_taken_back_handed_in_again_and_compared(self) -> None:
        folio = create_folio(
            self.assignments["great-circles"], User.objects.get(email=sample_people.ILSE.email), moment()
        )
        lay_prepared(folio, 3)
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}/check")
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_text("the one that counts")).to_be_visible()
        page.get_by_role("button", name="Take it back").click()
        asked = page.get_by_role("dialog")
        expect(asked).to_contain_text("what is on the board is handed in by itself")
        asked.get_by_role("button", name="Take it back").click()
        expect(page.get_by_text("Nothing is handed in now", exact=False)).to_be_visible()
        expect(page.get_by_role("button", name="Take it back")).to_have_count(0)
        self.until(page, lambda: Edition.objects.get(folio=folio).taken_back_at is not None)
        page.get_by_role("link", name="Back to the board").click()
        expect(page.get_by_text("Nothing is handed in:", exact=False)).to_be_visible()
        page.get_by_role("button", name=re.compile("^Page 3")).click()
        page.keyboard.press("Delete")
        self.tiles(page, 2)
        page.get_by_role("link", name="Check and hand in").first.click()
        expect(page.get_by_text("You took back edition 1", exact=False)).to_be_visible()
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_text("the one that counts")).to_be_visible()
        page.get_by_role("link", name="Compare edition 2 with edition 1").click()
        expect(page.get_by_text("1 page removed", exact=False)).to_be_visible()
        expect(page.get_by_role("img")).to_have_count(5)
        self.no_serious_findings(page, "two editions")

    def test_handed_in_now_and_placed_later(self) -> None:
        """One action; the board again, with until when; what is placed then counts as of the first hand-in."""
        folio = create_folio(
            self.assignments["great-circles"], User.objects.get(email=sample_people.ILSE.email), moment()
        )
        lay_prepared(folio, 2)
        folio.refresh_from_db()
        Folio.objects.filter(pk=folio.pk).update(arrangement={**folio.arrangement, "placements": {}})
        small = self.context(viewport={"width": 1024, "height": 500})
        page = self.sign_in(sample_people.ILSE, small, path=f"/folios/{folio.pk}/check")
        expect(page.get_by_text("questions without a page", exact=False)).to_be_visible()
        for name in ("Hand in", "Hand in now, place later"):  # without scrolling, whatever there is to be told
            expect(page.get_by_role("button", name=name, exact=True)).to_be_in_viewport(ratio=1)
        page.get_by_role("button", name="Hand in now, place later").click()
        expect(page.get_by_text("Edition 1 is handed in and counts", exact=False)).to_be_visible()
        page.get_by_label("On page 1:").fill("1a")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        page.keyboard.press("Control+Enter")
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_text("Counts as of")).to_be_visible()
        first, second = Edition.objects.filter(folio=folio).order_by("number")
        self.assertEqual(second.counts_at, first.handed_in_at)


class TheReadersList(BrowserTestCase):
    def test_narrowed_by_word_and_kind_it_comes_back_the_same_and_keeps_the_question(self) -> None:
        work = self.assignments["great-circles"]
        for person in (sample_people.ILSE, sample_people.TOBIN, sample_people.WREN):
            folio = create_folio(work, User.objects.get(email=person.email), moment())
            lay_prepared(folio, 2)
            student = self.sign_in(person, path=f"/folios/{folio.pk}/check")
            student.get_by_role("button", name="Hand in", exact=True).click()
            expect(student.get_by_text("the one that counts")).to_be_visible()
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/reading/{work.pk}")
        page.locator(".narrowing-kinds label", has_text="Handed in 3").click()
        expect(page.locator(".folio-list tbody tr.ant-table-row")).to_have_count(3)
        self.no_serious_findings(page, "the list of folios")
        page.get_by_label("Name, number or mail address").fill("marr")
        expect(page.locator(".folio-list tbody tr.ant-table-row")).to_have_count(1)
        page.get_by_role("link", name="Ilse Marrow", exact=True).click()
        expect(page.get_by_role("heading", name="Ilse Marrow")).to_be_visible()
        page.go_back()
        expect(page.locator(".folio-list tbody tr.ant-table-row")).to_have_count(1)
        expect(page.get_by_label("Name, number or mail address")).to_have_value("marr")
        page.get_by_role("link", name="Ilse Marrow", exact=True).click()
        page.get_by_role("navigation", name="Questions").get_by_role("button").nth(1).click()
        expect(page).to_have_url(re.compile(r"#\w+$"))
        label = page.url.split("#")[1]
        beside = page.get_by_role("navigation", name="Folios").get_by_role("link").filter(has_text=re.compile("[←→]"))
        other = beside.first.inner_text().strip("←→ ")
        beside.first.click()
        expect(page.get_by_role("heading", name=other)).to_be_visible()
        self.assertEqual(page.url.split("#")[1], label)
        expect(page).to_have_title(re.compile(f"^{label} · {other}"))
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("student before, student after")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.get_by_role("button", name="As it came").first.click()
        expect(page.get_by_role("img", name=re.compile("as it came")).first).to_be_visible()

    def test_all_that_was_handed_in_is_taken_away_and_how_far_that_is_is_shown(self) -> None:
        work = self.assignments["great-circles"]
        for person, pages in ((sample_people.ILSE, 2), (sample_people.TOBIN, 1)):
            folio = create_folio(work, User.objects.get(email=person.email), moment())
            lay_prepared(folio, pages)
            hand_in(folio, seen_edition=0, now=moment())
        page = self.sign_in(sample_people.INSTRUCTOR, path=f"/reading/{work.pk}")
        self.until(page, lambda: Edition.objects.filter(state=Edition.State.BOUND).count() == 2)
        page.get_by_text("Take all of it away").click()
        with page.expect_download() as fetched:
            page.get_by_role("button", name="A bound PDF a student").click()
        with zipfile.ZipFile(fetched.value.path()) as files:
            self.assertEqual(len(files.namelist()), 2)
        expect(page.get_by_text("all 2 files are in the download")).to_be_visible()
        self.no_serious_findings(page, "taking all away")
