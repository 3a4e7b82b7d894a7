"""What the board tells: what is not handed in, words to the reader, the question paper."""

from __future__ import annotations

import re

from board_bench.prepared import lay_prepared
from django.utils import timezone
from playwright.sync_api import expect

from editions.handing_in import hand_in

from .boards import PHONE, BoardTestCase

_ROWS_IN_SIGHT = """() => {
  const end = document.querySelector('.label-line').getBoundingClientRect().top;
  const rows = [...document.querySelectorAll('.ribbon-row')];
  return rows.filter(row => row.getBoundingClientRect().bottom <= end + 1).length;
}"""


class NotHandedIn(BoardTestCase):
    def test_work_that_differs_from_what_was_sent_says_so_everywhere_and_is_handed_in_at_once(self) -> None:
        folio = self.folio(3)
        hand_in(folio, seen_edition=0, now=timezone.now())
        page = self.board(folio)
        told = page.get_by_role("region", name="Not handed in yet")
        page.keyboard.type("1a")
        page.keyboard.press("Enter")
        expect(told).to_contain_text("Changed since edition 1, not handed in")
        told.get_by_role("button", name="What?").click()
        expect(told).to_contain_text("1a placed otherwise")
        expect(page).to_have_title(re.compile("^2[34] h .*left · The board: Twenty-two parts · Inked Folio$"))
        page.keyboard.press("Control+z")
        expect(told).to_have_count(0)
        page.keyboard.press("Control+y")
        expect(told).to_have_count(1)
        page.get_by_role("button", name="Undo").click()
        expect(told).to_have_count(0)
        page.get_by_role("button", name=re.compile("^Page 3,")).click()
        expect(page.get_by_role("region", name="Page 3, large")).to_be_visible()
        page.get_by_role("button", name="Remove", exact=True).click()
        told.get_by_role("button", name="What?").click()
        expect(told).to_contain_text("1 page removed")
        expect(told).to_contain_text("Edition 1 counts as it is.")
        self.no_serious_findings(page, "board that differs from its edition")
        told.get_by_role("button", name="Less").click()
        for size in ((1366, 657), (1024, 640)):
            page.set_viewport_size({"width": size[0], "height": size[1]})
            self.until(page, lambda: page.evaluate(_ROWS_IN_SIGHT) >= 5)
        page.get_by_role("link", name="My folios").first.click()
        expect(page.get_by_text("changed since, not handed in yet")).to_be_visible()
        expect(page).to_have_title("My folios · Inked Folio")
        page.get_by_role("link", name="Receipt").click()
        expect(told).to_contain_text("1 page removed")
        page.get_by_role("button", name="Hand in again").click()
        page.wait_for_url("**/editions/2")
        expect(page.get_by_text("the one that counts")).to_be_visible()
        page.get_by_role("link", name="See it as it is read").click()
        expect(page.get_by_text("Edition 2, handed in")).to_be_visible()
        expect(page.get_by_role("button", name=re.compile("^1a"))).to_be_visible()
        self.no_serious_findings(page, "one's own edition as it is read")
        page.get_by_role("link", name="Back to the receipt").click()
        expect(told).to_have_count(0)
        page.goto(f"{self.address}/folios/{folio.pk}/check")
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_role("dialog")).to_contain_text("Nothing has changed since edition 2")
        page.get_by_role("button", name="Leave it as it is").click()
        self.assertEqual(folio.editions.count(), 2)

    def test_what_is_said_of_a_difference_stays_where_it_came_when_the_board_is_asked_anew(self) -> None:
        folio = self.folio(3)
        hand_in(folio, seen_edition=0, now=timezone.now())
        page = self.board(folio)
        counts = page.get_by_text("Edition 1 is handed in and counts.")
        expect(counts).to_be_visible()
        told = page.get_by_role("region", name="Not handed in yet")
        page.route(f"**/api/folios/{folio.pk}", lambda route: None)  # its answer never comes
        page.keyboard.type("1a")
        page.keyboard.press("Enter")
        expect(told).to_be_visible()
        expect(counts).to_have_count(0)


class Words(BoardTestCase):
    def test_a_word_that_is_being_typed_survives_a_reload_and_is_one_step(self) -> None:
        folio = self.folio(2)
        page = self.board(folio)
        page.get_by_role("button", name="Add a word to the reader", exact=True).click()
        field = page.get_by_role("textbox", name="A word to the reader")
        expect(field).to_be_focused()
        page.keyboard.type("3b is on the next")
        page.reload()
        expect(field).to_have_value("3b is on the next")
        self.until(page, lambda: self.laid(folio)["comment"] == "3b is on the next")
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        field.click()
        page.keyboard.press("End")
        page.keyboard.type(" sheet ")
        self.until(page, lambda: self.laid(folio)["comment"] == "3b is on the next sheet ")
        field.blur()
        self.until(page, lambda: self.laid(folio)["comment"] == "3b is on the next sheet")
        page.get_by_role("button", name="Undo").click()
        expect(field).to_have_value("3b is on the next")

    def test_a_reload_amid_a_save_loses_nothing_that_was_typed_after_it(self) -> None:
        folio = self.folio(2)
        page = self.board(folio)
        page.route("**/arrangement", lambda route: route.fetch() and None)  # its answer never comes
        page.get_by_role("button", name="Add a word to the reader", exact=True).click()
        field = page.get_by_role("textbox", name="A word to the reader")
        expect(field).to_be_focused()
        page.keyboard.type("3b is on the n")
        self.until(page, lambda: self.laid(folio)["comment"] != "")
        page.keyboard.type("ext")
        page.unroute_all(behavior="ignoreErrors")
        page.reload()
        expect(field).to_have_value("3b is on the next")
        self.until(page, lambda: self.laid(folio)["comment"] == "3b is on the next")
        expect(page.get_by_text("Changed elsewhere")).to_have_count(0)


class QuestionPaper(BoardTestCase):
    def test_it_is_on_the_empty_board_and_one_key_or_tap_away(self) -> None:
        folio = self.folio(0)
        work = folio.assignment
        work.question_paper = self.assignments["great-circles"].question_paper.name
        work.save()
        page = self.board(folio)
        paper = page.get_by_role("region", name="Question paper")
        expect(paper.get_by_role("img", name="Page 1 of 1")).to_be_visible()  # the worker draws it
        self.no_serious_findings(page, "empty board with its question paper")
        lay_prepared(folio, 2, width=400)
        page.reload()
        self.tiles(page, 2)
        expect(paper).to_have_count(0)
        page.keyboard.press("p")
        expect(paper.get_by_role("img", name="Page 1 of 1")).to_be_visible()
        page.keyboard.press("+")
        expect(paper.get_by_role("button", name="125 percent")).to_be_visible()
        self.no_serious_findings(page, "question paper beside the pages")
        page.keyboard.press("Escape")
        expect(paper).to_have_count(0)
        expect(page.locator("#label-line")).to_be_focused()
        page.get_by_role("button", name="Add a word to the reader", exact=True).click()
        field = page.get_by_role("textbox", name="A word to the reader")
        expect(field).to_be_focused()
        page.keyboard.type("pp")
        expect(field).to_have_value("pp")
        expect(paper).to_have_count(0)
        page.keyboard.press("F2")
        expect(paper.get_by_role("img", name="Page 1 of 1")).to_be_visible()
        page.keyboard.press("F2")
        expect(paper).to_have_count(0)
        phone = self.board(folio, **PHONE)
        phone.get_by_role("button", name="Question paper").tap()
        expect(phone.get_by_role("img", name="Page 1 of 1")).to_be_visible()
        expect(phone.get_by_text("until due")).to_be_visible()
        phone.get_by_role("button", name="Close").tap()
        expect(phone.get_by_role("region", name="Question paper")).to_have_count(0)
