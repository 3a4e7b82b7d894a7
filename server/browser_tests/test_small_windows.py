"""Small windows, much enlarged ones and odd pictures: nothing is covered, clipped or out of reach."""

from __future__ import annotations

import re

from PIL import Image
from playwright.sync_api import expect

from assignments.models import Assignment
from demo import sample_people
from editions.handing_in import hand_in
from plumbing.requests import moment

from .boards import BoardTestCase

ENLARGED = {"viewport": {"width": 640, "height": 400}}  # 1280 × 800 at 200 %
_NO_TEXT_PASSES_BELOW_THE_FOOT = """() => {
    const foot = document.querySelector('.check-foot').getBoundingClientRect().bottom;
    const next = document.querySelector('.check-note').getBoundingClientRect().top;
    const allIsInSight = next < innerHeight && next >= foot && next - foot < 24;
    return allIsInSight || Math.abs(innerHeight - foot) <= 1;
}"""
_SCROLLS = "document.documentElement.scrollHeight"
_TOOLS_LIE_OVER_PERSON = """() => {
  const box = (part) => document.querySelector(`.masthead-${part}`).getBoundingClientRect();
  const [tools, person] = [box("tools"), box("person")];
  return innerWidth !== 770 || (tools.right > person.left && tools.bottom > person.top);
}"""
_APART = """which => {
  const [one, other] = [...document.querySelectorAll(which)].map((part) => part.getBoundingClientRect());
  const beside = one.right <= other.left || other.right <= one.left;
  return one.width * other.width > 0 && (beside || one.bottom <= other.top + 1 || other.bottom <= one.top + 1);
}"""
_OVERFLOW = "document.documentElement.scrollWidth > document.documentElement.clientWidth"


class SmallWindows(BoardTestCase):
    def test_enlarged_twice_the_label_line_the_phone_code_and_the_keys_are_there(self) -> None:
        folio = self.folio(3, "1a-b, 2")
        page = self.board(folio, **ENLARGED)
        line = page.get_by_label("On page 1:")
        expect(line).to_be_in_viewport()
        line.fill("1a-b")
        page.keyboard.press("Enter")
        self.until(page, lambda: self.placed(folio) == {"1a": [1], "1b": [1]})
        expect(page.get_by_label("On page 2:")).to_be_in_viewport()
        page.get_by_role("button", name="All keys").click()
        expect(page.get_by_role("dialog")).to_contain_text("next page not placed")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Photograph by phone").click()
        expect(page.get_by_role("img", name="Code for the phone's camera")).to_be_visible()
        page.keyboard.press("Escape")
        self.assertFalse(page.evaluate(_OVERFLOW))
        self.no_serious_findings(page, "board at 200 %")

    def test_what_was_done_lies_beside_the_keys_and_not_beneath_them(self) -> None:
        folio = self.folio(3, "1a-b, 2")
        page = self.board(folio)
        page.keyboard.type("1a")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Take it back")).to_be_visible()
        for width, height in ((1024, 640), (770, 640), (640, 400), (390, 780)):
            page.set_viewport_size({"width": width, "height": height})
            with self.subTest(width=width):
                self.until(page, lambda: page.evaluate(_APART, ".label-line-done .plain, .label-line-keys"))
                self.until(page, lambda: page.evaluate(_APART, ".label-line-done .plain, .label-line input"))
                self.assertFalse(page.evaluate(_OVERFLOW))

    def test_however_much_is_open_the_button_that_hands_in_is_in_sight(self) -> None:
        folio = self.folio(3, "1a-f, 2a-f")
        Assignment.objects.filter(pk=folio.assignment_id).update(honour="I worked alone.")
        for width, height in ((1366, 657), (1024, 640), (844, 390), (640, 400), (390, 780)):
            window = self.context(viewport={"width": width, "height": height})
            page = self.sign_in(sample_people.ILSE, window, path=f"/folios/{folio.pk}/check")
            button = page.get_by_role("button", name="Confirm and hand in", exact=True)
            with self.subTest((width, height)):
                expect(page.get_by_text("I worked alone.")).to_be_visible()
                expect(button).to_be_in_viewport(ratio=1)
                expect(page.get_by_text("I worked alone.")).to_be_in_viewport(ratio=1)
                self.until(page, lambda page=page: page.evaluate(_NO_TEXT_PASSES_BELOW_THE_FOOT))
                if height == 390 or width < 480:  # a phone, also on its side: one column below a small head
                    box = page.get_by_label("What is missing").bounding_box()
                    assert box
                    self.assertEqual(box["width"], width)
                    self.assertLess(box["y"], 150)
        self.no_serious_findings(page, "check in a small window")

    def test_a_board_fills_its_window_and_does_not_scroll_away(self) -> None:
        folio = self.folio(3, "1a-b, 2")
        for width, height in ((1366, 657), (1024, 640), (390, 664), (360, 640)):
            page = self.board(folio, viewport={"width": width, "height": height})
            expect(page.get_by_role("button", name="Take again")).to_be_attached()
            with self.subTest((width, height)):
                self.until(page, lambda page=page, most=height: page.evaluate(_SCROLLS) <= most)

    def test_on_a_phone_that_lies_on_its_side_nothing_lies_over_something_else(self) -> None:
        folio = self.folio(3, "1a-b, 2")
        paper = self.assignments["great-circles"].question_paper.name
        Assignment.objects.filter(pk=folio.assignment_id).update(question_paper=paper)
        page = self.board(folio, viewport={"width": 844, "height": 390}, has_touch=True, is_mobile=True)
        page.get_by_role("button", name=re.compile("^1a no page")).tap()
        self.until(page, lambda: self.placed(folio) == {"1a": [1]})
        expect(page.get_by_text("2 pages not placed")).to_be_visible()
        page.get_by_role("link", name="Check and hand in").tap()
        expect(page.get_by_role("button", name="Hand in", exact=True)).to_be_in_viewport(ratio=1)
        page.set_viewport_size({"width": 770, "height": 360})
        self.until(page, lambda: not page.evaluate(_TOOLS_LIE_OVER_PERSON))

    def test_a_page_is_enlarged_to_reading_size_by_one_key(self) -> None:
        folio = self.folio(2)
        for width, height, least in ((1024, 640, 480), (1280, 800, 700)):
            page = self.board(folio, viewport={"width": width, "height": height})
            page.keyboard.press("+")
            picture = page.locator(".panel-view img").first
            self.until(page, lambda picture=picture, least=least: (picture.bounding_box() or {})["width"] >= least)
            page.keyboard.press("-")
            self.until(page, lambda picture=picture, least=least: (picture.bounding_box() or {})["width"] < least)

    def test_answers_that_begin_close_together_have_flags_that_cover_none(self) -> None:
        folio = self.folio(1, "1a-b")
        (only,) = folio.pages.values_list("pk", flat=True)
        ids = folio.assignment.questions.values_list("pk", flat=True)
        placements = {str(one): [{"page": only, "top": 0.08 + 0.05 * number}] for number, one in enumerate(ids)}
        folio.arrangement = {**folio.arrangement, "placements": placements}
        folio.save()
        page = self.board(folio, viewport={"width": 1024, "height": 640})
        flags = page.locator(".panel-flag")
        expect(flags).to_have_count(2)
        self.until(page, lambda: page.evaluate(_APART, ".panel-flag"))
        self.no_serious_findings(page, "a small page with two flags")

    def test_half_a_sheet_covers_neither_its_number_nor_what_is_on_it(self) -> None:
        folio = self.folio(0, "1a")
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        half = self.folder() / "half.png"
        Image.new("RGB", (300, 1600), "white").save(half)
        self.add(page, [half])
        self.tiles(page, 1)
        self.until(page, lambda: page.evaluate(_APART, ".tile img, .tile strong"))

    def test_the_whole_dashed_field_opens_the_chooser(self) -> None:
        folio = self.folio(0, "1a")
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        expect(page.get_by_text("drop all the pictures")).to_be_visible()
        by_finger = self.context(has_touch=True, is_mobile=True)
        phone = self.sign_in(sample_people.ILSE, by_finger, path=f"/folios/{folio.pk}")
        expect(phone.get_by_text("choose pictures here")).to_be_visible()
        by_finger.close()
        field = page.locator(".board-empty")
        box = field.bounding_box()
        assert box
        with page.expect_file_chooser() as chosen:
            field.click(position={"x": box["width"] - 8, "y": box["height"] - 8})
        picture = self.folder() / "page.png"
        Image.new("RGB", (600, 848), "white").save(picture)
        chosen.value.set_files([picture])
        self.tiles(page, 1)

    def test_a_receipt_fits_a_phone(self) -> None:
        folio = self.folio(2)
        hand_in(folio, seen_edition=0, now=moment())
        page = self.sign_in(
            sample_people.ILSE,
            self.context(viewport={"width": 390, "height": 844}),
            path=f"/folios/{folio.pk}/editions/1",
        )
        expect(page.get_by_role("link", name="Download the bound PDF")).to_be_visible()
        self.assertFalse(page.evaluate(_OVERFLOW))

    def test_what_a_screen_reader_hears_of_a_dragged_page_is_its_number(self) -> None:
        folio = self.folio(3)
        page = self.board(folio)
        first, third = (page.get_by_role("button", name=re.compile(f"^Page {number},")) for number in (1, 3))
        a, b = first.bounding_box(), third.bounding_box()
        assert a
        assert b
        page.mouse.move(a["x"] + 20, a["y"] + 20)
        page.mouse.down()
        page.mouse.move(b["x"] + 20, b["y"] + 20, steps=8)
        heard = page.locator("[id^=DndLiveRegion]")
        expect(heard).to_have_text(re.compile(r"^Page 1 is over place \d\.$"))
        page.keyboard.press("Escape")
        page.mouse.up()
