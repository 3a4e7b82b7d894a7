"""Ten tidy photographs in shuffled order, handed in with all of them placed by what was read on them."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from playwright.sync_api import Page, expect

from assignments.models import Assignment, Question
from demo import sample_people
from editions.models import Edition
from folio_camera import solutions
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folios.models import Folio

from .browsing import BrowserTestCase

MOST_ACTIONS = 8
LEAST_IN_SIGHT = 140  # pixels of the page's height
_PAGE_IN_SIGHT = """() => document.querySelector(".phone-pad").getBoundingClientRect().top
    - document.querySelector(".phone-picture img").getBoundingClientRect().top"""
SHUFFLED = (3, 0, 7, 5, 9, 1, 8, 2, 6, 4)


class Reading(BrowserTestCase):
    reads_pages = True

    def work(self, labels: list[str]) -> Assignment:
        """The problem set with another map."""
        work = self.assignments["great-circles"]
        work.questions.all().delete()
        Question.objects.bulk_create(
            Question(assignment=work, position=at, label=label, points=4) for at, label in enumerate(labels)
        )
        return work

    def photographs(self, labels: list[str]) -> list[Path]:
        folder, made = self.folder(), []
        answers = [replace(one, figure="") for one in solutions.great_circles()] + [solutions.noon_sight()[-1]]
        for number, label in enumerate(labels):
            sheet = write_sheet([replace(answers[number], label=label)], Style(hand="kalam"), 40 + number)
            path = folder / f"page{number}.jpg"
            path.write_bytes(photograph(sheet, Scene(size=(1512, 2016)), 70 + number).jpeg)
            made.append(path)
        return made

    def begin_board(self, work: Assignment) -> Page:
        page = self.sign_in(sample_people.ILSE, path=f"/assignments/{work.pk}")
        page.get_by_role("button", name="Begin and open the board").click()
        page.wait_for_url("**/folios/*")
        return page

    def check_small_phone(self, address: str) -> None:
        """What is proposed and the page it is proposed for are both in sight."""
        small = self.context(viewport={"width": 360, "height": 640}, has_touch=True, is_mobile=True)
        phone = self.sign_in(sample_people.ILSE, small, path=address.removeprefix(self.address))
        expect(phone.get_by_role("button", name="Confirm all")).to_be_in_viewport(ratio=1)
        expect(phone.get_by_role("button", name="Confirm this page")).to_be_in_viewport(ratio=1)
        self.until(phone, lambda: phone.evaluate(_PAGE_IN_SIGHT) >= LEAST_IN_SIGHT)
        small.close()

    def test_ten_shuffled_photographs_are_placed_and_handed_in_with_few_actions(self) -> None:
        labels = ["1a", "1b", "2a", "2b", "2c", "3", "4", "5a", "5b", "6"]
        work, photos = self.work(labels), self.photographs(labels)
        page = self.begin_board(work)
        actions = 0
        # named so that the files are not in the order of what is on them
        sent = [photos[at].rename(photos[at].with_name(f"IMG_{number:02}.jpg")) for number, at in enumerate(SHUFFLED)]
        self.add(page, sent)
        actions += 1
        self.tiles(page, 10)
        suggested = page.get_by_role("region", name="Read from the pages")
        expect(suggested.get_by_text("these look like pages")).to_be_visible()
        self.no_serious_findings(page, "board with proposals")
        suggested.get_by_role("button", name="Put them so").dblclick()  # "Confirm all" comes to stand where it was
        actions += 1
        expect(suggested.get_by_text("10 places read from your labels")).to_be_visible()
        expect(page.locator(".ribbon-proposed")).to_have_count(10)
        expect(page.get_by_role("region", name="Proposed for this page").get_by_role("img")).to_have_count(1)
        self.check_small_phone(page.url)
        page.keyboard.press("Shift+Y")  # wherever the second press left the keyboard
        actions += 1
        expect(page.get_by_text("10 of 10 questions settled")).to_be_visible()
        expect(page.get_by_label(re.compile("^On page"))).to_be_focused()  # for the button it was on is gone
        expect(page.locator(".ribbon-proposed")).to_have_count(0)
        page.get_by_role("link", name="Check and hand in").click()
        actions += 1
        page.get_by_role("button", name="Hand in", exact=True).click()
        actions += 1
        page.wait_for_url("**/editions/1")
        self.assertLessEqual(actions, MOST_ACTIONS)
        edition = Edition.objects.get()
        self.assertEqual((edition.open_labels, edition.open_pages, edition.page_count), ([], 0, 10))
        placed = self.by_label(Folio.objects.get(), edition.arrangement)["placements"]
        order = edition.arrangement["order"]
        self.assertEqual([placed[label][0]["page"] for label in labels], order)
        self.assertTrue(all(placed[label][0]["top"] is not None for label in labels))

    def test_typing_wins_over_what_was_read_and_one_key_confirms_a_page(self) -> None:
        labels = ["1", "2", "3"]
        work, photos = self.work(labels), self.photographs(labels)
        page = self.begin_board(work)
        self.add(page, photos)
        self.tiles(page, 3)
        suggested = page.get_by_role("region", name="Read from the pages")
        expect(suggested.get_by_text("3 places read from your labels")).to_be_visible()
        line = page.get_by_label(re.compile("^On page"))
        expect(page.get_by_role("button", name="2, no page yet, proposed on page 2")).to_be_visible()
        line.press("y")
        expect(page.get_by_label("On page 2:")).to_be_visible()  # on to the next that is proposed
        line.fill("3")
        line.press("Enter")
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        folio = Folio.objects.get()
        first, second, third = folio.arrangement["order"]

        def placed() -> dict[str, list[int]]:
            places = self.by_label(Folio.objects.get())["placements"]
            return {label: [spot["page"] for spot in spots] for label, spots in places.items()}

        self.until(page, lambda: placed() == {"1": [first], "3": [second]})
        suggested.get_by_text("1 more thing seen on the pages").click()
        expect(suggested.get_by_text("Page 2 seems to hold 2 too")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_role("button", name="2, no page yet, proposed on page 2")).to_be_visible()
        self.assertIn(third, folio.arrangement["order"])
