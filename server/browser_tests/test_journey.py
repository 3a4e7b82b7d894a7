"""The whole way of a folio, as a student and an instructor walk it, with eight photographs of two kinds of desk."""

from __future__ import annotations

import hashlib
import io
import re
from pathlib import Path

import pypdf
from playwright.sync_api import Page, expect

from demo import sample_people
from editions.models import Edition
from folios.models import Folio

from .browsing import BrowserTestCase


class Journey(BrowserTestCase):
    def order(self, page: Page) -> list[str]:
        sources: list[str] = page.locator(".strip img").evaluate_all("all => all.map(one => one.getAttribute('src'))")
        return sources

    def type_on(self, page: Page, text: str) -> None:
        line = page.get_by_label(re.compile("^On page"))
        line.fill(text)
        line.press("Enter")
        expect(line).to_have_value("")

    def saved(self, page: Page) -> None:
        expect(page.get_by_text("Order and places saved")).to_be_visible()

    def test_from_the_time_line_to_the_instructors_desk(self) -> None:
        page = self.sign_in_by_hand(sample_people.ILSE)
        expect(page.get_by_role("heading", name="to hand in this week")).to_be_visible()
        expect(page.get_by_text("no. 30417")).to_be_visible()
        self.no_serious_findings(page, "my folios")

        self.brief(page)
        self.gather(page)
        self.put_in_order(page)
        self.place(page)
        self.survives_a_reload(page)
        self.check_and_hand_in(page)
        self.receipt(page)
        self.next_edition(page)
        self.read_by_the_instructor()

    def brief(self, page: Page) -> None:
        row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name="Midterm: the noon sight"))
        row.get_by_role("link", name="Read the brief").click()
        expect(page.get_by_text("Begin now: writing until")).to_be_visible()
        expect(page.get_by_text("are given out when you begin")).to_be_visible()
        expect(page.get_by_role("cell", name="zenith distance")).not_to_be_attached()
        self.no_serious_findings(page, "brief")
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("button", name="Not yet").click()
        self.assertFalse(Folio.objects.exists(), "asked, not yet begun")
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("button", name="Begin now").click()
        expect(page.get_by_text("left to write")).to_be_visible()

    def gather(self, page: Page) -> None:
        self.add(page, self.phone_photographs())
        self.tiles(page, 8)
        expect(page.get_by_text("all 8 pages safe")).to_be_visible()
        self.no_serious_findings(page, "board")
        found = Folio.objects.get().pages.values_list("findings__sheet_found", flat=True)
        self.assertEqual(list(found), [True] * 8)

    def put_in_order(self, page: Page) -> None:
        before = self.order(page)
        page.get_by_role("button", name=re.compile("^Page 1,")).click()
        page.keyboard.press("Alt+ArrowRight")
        self.assertEqual(self.order(page)[:2], [before[1], before[0]])
        page.get_by_role("button", name="Earlier").click()
        self.assertEqual(self.order(page), before)
        third, first = (page.locator(".strip .tile-sheet").nth(number).bounding_box() for number in (2, 0))
        assert third
        assert first
        page.mouse.move(third["x"] + 40, third["y"] + 60)
        page.mouse.down()
        page.mouse.move(third["x"], third["y"] + 60, steps=4)
        page.mouse.move(first["x"] + 20, first["y"] + 60, steps=8)
        page.mouse.up()
        expect(page.locator(".strip .tile-sheet img").first).to_have_attribute("src", before[2])
        page.keyboard.press("Control+z")
        expect(page.locator(".strip .tile-sheet img").first).to_have_attribute("src", before[0])
        page.get_by_role("button", name=re.compile("^Page 8,")).click()
        page.keyboard.press("Delete")
        expect(page.locator(".strip img")).to_have_count(7)
        expect(page.get_by_text("1 page removed")).to_be_visible()
        page.get_by_role("button", name="Show").click()
        page.get_by_role("button", name=re.compile("^Restore")).click()
        expect(page.locator(".strip img")).to_have_count(8)
        page.keyboard.press("Escape")
        self.saved(page)
        self.assertEqual(self.order(page), before)

    def place(self, page: Page) -> None:
        page.get_by_role("button", name=re.compile("^Page 1,")).click()
        for text in ("1a", "Q1b", "1 c"):
            self.type_on(page, text)
        line = page.get_by_label("On page 4:")
        line.fill("2a, 9z")
        line.press("Enter")
        expect(page.get_by_text("“9z” is not on the question map")).to_be_visible()
        line.fill("2a-b")
        expect(page.locator(".label-line-chip")).to_have_text("2a 2b")
        line.press("Enter")
        self.sweep(page, "3a", "3a", 5, 7)
        expect(page.get_by_text("3a runs on to page 7")).to_be_visible()
        expect(page.get_by_text("6 of 8")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_text("5 of 8")).to_be_visible()
        page.keyboard.press("Control+Shift+z")
        expect(page.get_by_text("6 of 8")).to_be_visible()
        page.get_by_role("button", name="leave blank 4").click()
        expect(page.locator(".ribbon-blank")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Page 8,")).click()
        page.keyboard.press(".")
        expect(page.get_by_role("button", name="Page 8, loose page")).to_be_visible()
        expect(page.get_by_text("every page placed")).to_be_visible()
        self.saved(page)

    def survives_a_reload(self, page: Page) -> None:
        page.reload()
        self.tiles(page, 8)
        expect(page.get_by_text("7 of 8")).to_be_visible()
        expect(page.get_by_text("3a runs on to page 7")).to_be_visible()
        expect(page.get_by_role("button", name="Page 8, loose page")).to_be_visible()

    def check_and_hand_in(self, page: Page) -> None:
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("1 question without a page")).to_be_visible()
        expect(page.get_by_text("3b: not left blank either")).to_be_visible()
        page.get_by_role("button", name=re.compile("^3a")).click()
        expect(page.get_by_role("img", name="Page 5, answers 3a")).to_be_in_viewport()
        self.no_serious_findings(page, "check")
        page.get_by_role("button", name="Add a word to the reader").click()
        page.get_by_label("A word to the reader").fill("3b is on the next sheet")
        page.get_by_role("button", name=re.compile("hand in$", re.I)).click()

    def receipt(self, page: Page) -> None:
        expect(page.get_by_role("heading", name="Handed in")).to_be_visible()
        expect(page.get_by_text("in time")).to_be_visible()
        expect(page.get_by_role("link", name=re.compile("Download the bound PDF"))).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Download the bound PDF")).click()
        document = Path(str(download.value.path())).read_bytes()
        expect(page.get_by_text(hashlib.sha256(document).hexdigest())).to_be_visible()
        reader = pypdf.PdfReader(io.BytesIO(document))
        self.assertEqual(len(reader.pages), 8)
        self.assertEqual(len(reader.outline), 7)
        photo = self.phone_photographs()[0]
        expect(page.get_by_text(hashlib.sha256(photo.read_bytes()).hexdigest())).to_be_visible()
        with page.expect_download() as original:
            page.get_by_role("link", name=photo.name).click()
        self.assertEqual(Path(str(original.value.path())).read_bytes(), photo.read_bytes())
        self.no_serious_findings(page, "receipt")

    def next_edition(self, page: Page) -> None:
        page.get_by_role("link", name="Back to the board").click()
        page.get_by_role("button", name="Page 8, loose page").click()
        self.type_on(page, "3b")
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_role("heading", name="Everything is in its place")).to_be_visible()
        expect(page.get_by_text("This makes edition 2")).to_be_visible()
        page.get_by_role("button", name=re.compile("hand in$", re.I)).click()
        expect(page.get_by_text("2 · the one that counts")).to_be_visible()
        expect(page.get_by_role("link", name="Edition 1", exact=True)).to_be_visible()
        expect(page.get_by_role("link", name=re.compile("Download the bound PDF"))).to_be_visible()
        self.assertEqual(set(Edition.objects.values_list("number", "page_count")), {(1, 8), (2, 8)})

    def read_by_the_instructor(self) -> None:
        page = self.sign_in(sample_people.INSTRUCTOR)
        page.get_by_role("heading", name="Midterm: the noon sight").get_by_role("link").click()
        row = page.get_by_role("row").filter(has_text="Ilse Marrow")
        expect(row.get_by_role("cell", name="2", exact=True)).to_be_visible()
        expect(row.get_by_text("none")).to_be_visible()
        self.no_serious_findings(page, "folio list")
        page.get_by_role("link", name="Ilse Marrow", exact=True).click()
        expect(page.get_by_role("img", name="Page 1, answers 1a")).to_be_in_viewport()
        for _ in range(5):
            page.keyboard.press("ArrowRight")
        expect(page.get_by_role("img", name="Page 5, answers 3a")).to_be_in_viewport()
        page.get_by_role("button", name=re.compile("^3b")).click()
        expect(page.get_by_role("img", name="Page 8, answers 3b")).to_be_in_viewport()
        self.no_serious_findings(page, "reading")
