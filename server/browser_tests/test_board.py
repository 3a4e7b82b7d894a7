"""The board under many hands: keys, mouse, two at once."""

from __future__ import annotations

import random
import re

from natsort import natsorted, ns
from playwright.sync_api import Locator, Page, Route, expect

from demo import sample_people
from live.announcing import announce

from .boards import BoardTestCase


class Typing(BoardTestCase):
    def test_twenty_two_parts_on_six_pages_with_six_lines(self) -> None:
        folio = self.folio()
        page = self.board(folio)
        expect(page.get_by_label("On page 1:")).to_be_focused()
        for line in ("1a-d", "2a-b", "Q2c-e, 3(a)", "3bc", "4, 5", "6i-v"):
            page.keyboard.type(line)
            page.keyboard.press("Enter")
        expect(page.get_by_text("22 of 22 questions settled")).to_be_visible()
        self.until(page, lambda: self.placed(folio).get("6e") == [6])
        self.assertEqual(self.placed(folio)["3a"], [3])
        self.assertEqual(self.placed(folio)["5d"], [5])

    def test_the_effect_and_what_is_not_understood_are_shown_before_enter(self) -> None:
        page = self.board(self.folio(2))
        line = page.get_by_label("On page 1:")
        line.fill("2a-c")
        expect(page.locator(".label-line-chip")).to_have_text("2a-c")
        line.fill("2x")
        expect(page.get_by_text("“2x” is not on the question map. Nearest: 2a, 2b and 2c.")).to_be_visible()

    def test_typing_right_after_adding_pages(self) -> None:
        folio = self.folio(2)
        page = self.board(folio)
        page.get_by_role("button", name="Add pages").focus()
        page.keyboard.type("1a")
        page.keyboard.press("Enter")
        self.until(page, lambda: self.placed(folio).get("1a") == [1])

    def test_pages_chosen_together_are_let_go_once_something_is_placed_on_them(self) -> None:
        folio = self.folio(3)
        page = self.board(folio)
        page.keyboard.press("End")
        page.keyboard.press("Shift+ArrowLeft")
        for label in ("1a", "1b"):
            page.keyboard.type(label)
            page.keyboard.press("Enter")
        self.until(page, lambda: self.placed(folio) == {"1a": [2, 3], "1b": [3]})

    def test_the_other_keys_of_the_line(self) -> None:
        folio = self.folio(3)
        page = self.board(folio)
        page.keyboard.type("1a")
        page.keyboard.press("Enter")  # on to page 2
        page.keyboard.press('"')
        self.until(page, lambda: self.placed(folio).get("1a") == [1, 2])
        page.keyboard.type("4_")
        self.until(page, lambda: self.laid(folio)["left_blank"] == ["4"])
        first = self.laid(folio)["order"]
        page.keyboard.type(">3")
        page.keyboard.press("Enter")
        self.until(page, lambda: self.laid(folio)["order"] == [first[0], first[2], first[1]])
        page.keyboard.press("Enter")  # the page that is still open
        expect(page.get_by_label("On page 2:")).to_be_visible()
        page.keyboard.press(".")
        self.until(page, lambda: self.laid(folio)["loose"] == [first[2]])
        page.keyboard.press("?")
        dialog = page.get_by_role("dialog", name="Keys on the board")
        expect(dialog).to_be_visible()
        self.no_serious_findings(page, "list of keys")
        page.keyboard.press("Escape")
        expect(dialog).to_be_hidden()
        page.get_by_label("On page 2:").fill("3")
        page.keyboard.press("Control+Enter")  # not away from what is half typed
        expect(page.get_by_label("On page 2:")).to_have_value("3")
        page.get_by_label("On page 2:").fill("")
        page.keyboard.press("Control+Enter")
        expect(page.get_by_role("heading", name="Before you hand in")).to_be_visible()

    def test_several_pages_are_chosen_and_moved_together_and_it_is_said(self) -> None:
        folio = self.folio(4)
        page = self.board(folio)
        one, two, three, four = self.laid(folio)["order"]
        page.get_by_role("button", name=re.compile("^Page 1,")).focus()
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("Alt+ArrowRight")
        expect(page.get_by_text("pages 1, 2 moved to 2")).to_be_attached()
        self.until(page, lambda: self.laid(folio)["order"] == [three, one, two, four])


_QUICKER_THAN_THE_DRAWING = """([from, to]) => {
  const mouse = { bubbles: true, button: 0, buttons: 1, pointerId: 1, pointerType: 'mouse', isPrimary: true };
  const send = (kind, { x, y }) => document.elementFromPoint(x, y).dispatchEvent(
    new PointerEvent(kind, { clientX: x, clientY: y, ...mouse }));
  send('pointerdown', from);
  send('pointermove', to);
  send('pointerup', to);
}"""  # all in one task, so that nothing is drawn between


class Pointing(BoardTestCase):
    def quickly(self, page: Page, first: Locator, last: Locator, across: float) -> None:
        boxes = [one.bounding_box() for one in (first, last)]
        points = [{"x": box["x"] + across, "y": box["y"] + 12} for box in boxes if box]
        page.evaluate(_QUICKER_THAN_THE_DRAWING, points)

    def test_a_hand_quicker_than_the_drawing_sweeps_all_that_it_went_over(self) -> None:
        folio = self.folio()
        page = self.board(folio)
        rows = [page.locator(f'.ribbon-cells[data-labels="{label}"]') for label in ("1a", "1d")]
        width = float(rows[0].get_attribute("data-width") or 0)
        self.quickly(page, *rows, across=width * 0.4)
        self.until(page, lambda: self.placed(folio) == {label: [1] for label in ("1a", "1b", "1c", "1d")})
        self.quickly(page, rows[1], rows[1], across=width * 1.4)  # and is done with the first
        self.until(page, lambda: self.placed(folio)["1d"] == [1, 2])

    def test_a_sweep_over_rows_places_many_and_over_what_is_placed_takes_off(self) -> None:
        folio = self.folio()
        page = self.board(folio)
        self.sweep(page, "1a", "1d", 1)
        self.until(page, lambda: self.placed(folio) == {label: [1] for label in ("1a", "1b", "1c", "1d")})
        self.sweep(page, "1b", "1b", 2, 4)
        self.until(page, lambda: self.placed(folio)["1b"] == [1, 2, 3, 4])
        self.sweep(page, "1b", "1b", 4, 3)  # shrinks from its end
        self.until(page, lambda: self.placed(folio)["1b"] == [1, 2])
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        self.until(page, lambda: self.placed(folio)["1b"] == [1])

    def test_a_question_is_dropped_on_a_page_and_a_page_on_a_question(self) -> None:
        folio = self.folio(3)
        page = self.board(folio)
        head = page.get_by_role("button", name=re.compile("^1b, no page yet"))
        self.drag(page, head, page.get_by_role("button", name=re.compile("^Page 3,")))
        self.until(page, lambda: self.placed(folio) == {"1b": [3]})
        row = page.get_by_role("button", name=re.compile("^1c, no page yet"))
        self.drag(page, page.get_by_role("button", name=re.compile("^Page 2,")), row)
        self.until(page, lambda: self.placed(folio) == {"1b": [3], "1c": [2]})
        large = page.locator(".panel-sheet")
        self.drag(page, page.get_by_role("button", name=re.compile("^2a, no page yet")), large, to=(0.5, 0.25))
        self.until(page, lambda: "2a" in self.placed(folio))
        [spot] = self.laid(folio)["placements"]["2a"]
        self.assertAlmostEqual(spot["top"], 0.25, delta=0.02)

    def test_rows_fold_by_question(self) -> None:
        folio = self.folio(2)
        page = self.board(folio)
        page.get_by_role("button", name="Question 2, fold its parts into one row").click()
        expect(page.locator(".ribbon-row")).to_have_count(18)
        page.get_by_role("button", name=re.compile("^2a-e, no page yet")).click()
        self.until(page, lambda: len(self.placed(folio)) == 5)

    def test_a_click_says_where_the_next_answer_begins_and_flags_move(self) -> None:
        folio = self.folio(1)
        page = self.board(folio)
        page.keyboard.type("1ab")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Click where 1a begins.")).to_be_visible()
        sheet = page.locator(".panel-sheet")
        box = sheet.bounding_box()
        assert box
        sheet.click(position={"x": 60, "y": box["height"] * 0.2})
        expect(page.get_by_text("Click where 1b begins.")).to_be_visible()
        sheet.click(position={"x": 60, "y": box["height"] * 0.6})
        tops = lambda: [self.laid(folio)["placements"][label][0]["top"] for label in ("1a", "1b")]  # noqa: E731
        self.until(page, lambda: None not in tops())
        self.assertAlmostEqual(tops()[0], 0.2, delta=0.02)
        flag = page.get_by_role("button", name=re.compile("^1b begins"))
        flag.focus()
        page.keyboard.press("ArrowUp")
        self.until(page, lambda: abs(tops()[1] - 0.58) < 0.02)
        self.drag(page, flag, sheet, to=(0.1, 0.9))
        self.until(page, lambda: abs(tops()[1] - 0.9) < 0.03)

    def test_the_large_page_never_shows_the_picture_of_another(self) -> None:
        folio = self.folio(2)
        second = folio.pages.order_by("pk")[1]
        context = self.context()
        held: list[Route] = []
        context.route(re.compile(f"{second.image}|{second.preview}"), lambda route: held.append(route))
        page = self.sign_in(sample_people.ILSE, context, path=f"/folios/{folio.pk}")
        picture = page.locator(".panel-sheet img")
        expect(picture).to_have_js_property("complete", True)
        page.get_by_label("On page 1:").press("ArrowRight")
        expect(page.get_by_role("heading", name="Page 2")).to_be_visible()
        self.assertEqual(picture.evaluate("one => one.naturalWidth"), 0)
        for route in held:
            route.continue_()
        self.until(page, lambda: picture.evaluate("one => one.naturalWidth") > 0)

    def test_the_large_page_zooms_about_the_pointer_and_moves(self) -> None:
        page = self.board(self.folio(1))
        sheet, view = page.locator(".panel-sheet"), page.locator(".panel-view")
        before = sheet.bounding_box()
        assert before
        page.mouse.move(before["x"] + before["width"] / 2, before["y"] + before["height"] / 2)
        page.keyboard.down("Control")
        page.mouse.wheel(0, -300)
        page.keyboard.up("Control")
        self.until(page, lambda: (sheet.bounding_box() or before)["width"] > before["width"] * 2)
        self.until(page, lambda: view.evaluate("view => view.scrollTop") > 50)
        page.get_by_role("button", name="Whole page").click()
        self.until(page, lambda: view.evaluate("view => view.scrollHeight <= view.clientHeight + 1"))
        page.get_by_role("button", name="Larger").click()
        self.until(page, lambda: (view.bounding_box() or before)["width"] > 900)
        self.no_serious_findings(page, "large page")
        page.get_by_role("button", name="Loupe").click()
        page.mouse.move(640, 300)
        expect(page.locator(".panel-loupe")).to_be_visible()


class Ordering(BoardTestCase):
    def test_by_file_name_is_natural_order_shown_before_it_is_done(self) -> None:
        """Judged by natsort (PyPI), which sorts as people count."""
        chance = random.Random(5)
        names = [f"{word} {number}.png" for word in ("page", "Page", "scan") for number in (1, 2, 10, 11, 100)]
        chance.shuffle(names)
        folio = self.folio(len(names), "1", names)
        page = self.board(folio)
        page.get_by_role("button", name="Put in order").click()
        dialog = page.get_by_role("dialog", name="Put the pages in order")
        dialog.get_by_label("by file name").check()
        self.no_serious_findings(page, "order of pages")
        dialog.get_by_role("button", name="Put in this order").click()
        wanted = [name.lower() for name in natsorted(names, alg=ns.IGNORECASE)]
        byte_names = dict(folio.pages.values_list("pk", "original__file_name"))
        self.until(page, lambda: [byte_names[pk].lower() for pk in self.laid(folio)["order"]] == wanted)
        page.keyboard.press("Control+z")
        self.until(page, lambda: [byte_names[pk] for pk in self.laid(folio)["order"]] == names)

    def test_order_and_questions_that_do_not_go_together_are_pointed_out(self) -> None:
        folio = self.folio(2, "1a-b, 2")
        page = self.board(folio)
        for line in ("2", "1a"):
            page.keyboard.type(line)
            page.keyboard.press("Enter")
        expect(page.get_by_text("2 is on page 1, before 1a on page 2")).to_be_visible()
        page.get_by_role("button", name="Put in order").click()
        page.get_by_label("by the questions on them").check()
        page.get_by_role("button", name="Put in this order").click()
        expect(page.get_by_text("Order and questions do not go together")).to_be_hidden()

    def test_sides_are_counted_and_words_reach_the_check(self) -> None:
        folio = self.folio(2, "1")
        page = self.board(folio)
        page.get_by_label("Sides written").fill("3")
        page.get_by_label("Sides written").press("Enter")
        expect(page.get_by_text("2 of 3 here: 1 side missing")).to_be_visible()
        page.get_by_role("button", name="Add a word to the reader on this page").click()
        page.get_by_label("A word to the reader on page 1").fill("goes on overleaf")
        page.get_by_label("A word to the reader on page 1").blur()
        self.until(page, lambda: "goes on overleaf" in self.laid(folio)["notes"].values())
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("You said 3 sides; 2 pages are here.")).to_be_visible()
        expect(page.get_by_text("“goes on overleaf”")).to_be_visible()
        page.get_by_role("button", name="Add a word to the reader").click()
        page.get_by_label("A word to the reader").fill("One side is on the desk")
        page.get_by_role("button", name="Hand in", exact=True).click()
        expect(page.get_by_text("the one that counts")).to_be_visible()
        expect(page.get_by_text("One side is on the desk")).to_be_visible()


class Steps(BoardTestCase):
    def test_history_in_words_survives_a_reload_and_goes_back(self) -> None:
        folio = self.folio(2, "1a-c")
        page = self.board(folio)
        for line in ("1a", "1b"):
            page.keyboard.type(line)
            page.keyboard.press("Enter")
        self.until(page, lambda: len(self.placed(folio)) == 2)
        page.reload()
        page.get_by_role("button", name="History").click()
        dialog = page.get_by_role("dialog", name="What was done here")
        expect(dialog.get_by_role("listitem")).to_have_count(2)
        expect(dialog.get_by_text("1b placed on page 2")).to_be_visible()
        self.no_serious_findings(page, "history")
        dialog.get_by_role("button", name="Undo to before this").click()
        self.until(page, lambda: self.placed(folio) == {})
        dialog.get_by_role("button", name="Do it again").click()
        self.until(page, lambda: self.placed(folio) == {"1a": [1]})

    def test_a_change_made_without_network_survives_a_reload(self) -> None:
        folio = self.folio(2, "1a-c")
        context = self.context()
        page = self.sign_in(sample_people.ILSE, context, path=f"/folios/{folio.pk}")
        self.tiles(page, 2)
        page.route("**/arrangement", lambda route: route.abort())
        page.get_by_label("On page 1:").fill("1a")
        page.keyboard.press("Enter")
        expect(page.get_by_text("No network: kept here").first).to_be_visible()
        page.unroute("**/arrangement")
        page.on("dialog", lambda dialog: dialog.accept())
        page.reload()
        self.until(page, lambda: self.placed(folio) == {"1a": [1]})

    def test_two_at_once_see_each_other_and_a_change_that_gave_way_is_offered_again(self) -> None:
        folio = self.folio(2, "1a-c")
        one, other = self.board(folio), self.board(folio)
        one.get_by_label("On page 1:").fill("1a")
        one.keyboard.press("Enter")
        expect(other.get_by_role("button", name=re.compile("^Page 1, 1a"))).to_be_visible()
        held = []
        other.route("**/arrangement", lambda route: held.append(route))
        other.get_by_label("On page 1:").fill("1b")
        other.keyboard.press("Enter")
        self.until(other, lambda: len(held) == 1)
        one.get_by_label("On page 2:").fill("1c")
        one.keyboard.press("Enter")
        self.until(one, lambda: "1c" in self.placed(folio))
        held[0].continue_()
        other.unroute("**/arrangement")
        expect(other.get_by_text("Not done: 1b placed on page 1.")).to_be_visible()
        other.get_by_role("button", name="Do it again").click()
        self.until(other, lambda: self.placed(folio) == {"1a": [1], "1b": [1], "1c": [2]})

    def test_walking_far_brings_pages_into_view_clear_of_the_head_and_the_large_page_follows(self) -> None:
        page = self.board(self.folio(30, "1a-d"))
        line = page.get_by_label("On page 1:")
        line.focus()
        for _ in range(24):
            page.keyboard.press("ArrowRight")
        chosen = page.locator(".tile-chosen")
        expect(chosen).to_have_accessible_name(re.compile("^Page 25,"))
        expect(chosen).to_be_in_viewport(ratio=0.9)
        clear = """tile => {
            const head = document.querySelector(".strip-head").getBoundingClientRect();
            return tile.getBoundingClientRect().x >= head.right - 1;
        }"""
        self.until(page, lambda: chosen.evaluate(clear))
        expect(page.get_by_role("heading", name="Page 25")).to_be_visible()
        page.keyboard.press("Home")
        expect(page.locator(".tile-chosen")).to_have_accessible_name(re.compile("^Page 1,"))
        expect(page.locator(".tile-chosen")).to_be_in_viewport(ratio=0.9)

    def test_a_page_is_looked_at_small_while_the_sharp_one_is_made(self) -> None:
        folio = self.folio(2, "1a-d")
        image = folio.pages.order_by("pk").values_list("image", flat=True)[0]
        first = folio.pages.order_by("pk").first()
        assert first is not None
        folio.pages.filter(pk=first.pk).update(state="waiting", image="")
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        expect(page.get_by_text("Safe. The sharp page is coming")).to_be_visible()
        expect(page.get_by_role("img", name="Page 1 as it will be read")).to_be_visible()
        folio.pages.filter(pk=first.pk).update(state="ready", image=image)
        announce(folio.topic, page=first.pk)
        expect(page.get_by_text("The sharp page is coming")).to_be_hidden()

    def test_the_board_comes_with_what_it_asks_for_and_asks_once_while_it_is_drawn(self) -> None:
        folio = self.folio(3, "1a-d")
        page = self.sign_in(sample_people.ILSE)
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        page.goto(f"{self.address}/folios/{folio.pk}")
        expect(page.locator(".tile").first).to_be_visible()
        drawn = [url for url in asked if url.endswith(f"/api/folios/{folio.pk}")]
        # Once before the scripts ran; once more, a little later, for what happened before it listened.
        self.assertIn(len(drawn), (1, 2), asked)
