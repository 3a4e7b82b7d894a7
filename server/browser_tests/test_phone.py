"""A phone in the hand: a page at a time, and as the camera of the board."""

from __future__ import annotations

import json
import re
import tempfile
from pathlib import Path
from typing import Any

from playwright.sync_api import Locator, Page, expect

from demo import sample_people
from folio_camera.film import film, flags
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folios.models import Folio

from .boards import PHONE, BoardTestCase
from .browsing import CHROMIUM, FLAGS

PLACES = "all => all.map(one => one.getBoundingClientRect()).map(box => [box.x, box.y, box.width, box.height])"


class OnAPhone(BoardTestCase):
    def test_a_page_at_a_time_with_the_question_map_under_the_thumb(self) -> None:
        folio = self.folio(3, "1a-b, 2, 3")
        page = self.board(folio, **PHONE)
        for label in ("1a", "1b"):
            page.get_by_role("button", name=re.compile(f"^{label} no page")).tap()
        self.until(page, lambda: self.placed(folio) == {"1a": [1], "1b": [1]})
        self._swipe(page)
        expect(page.get_by_role("heading", name="Page 2 of 3")).to_be_visible()
        page.get_by_role("button", name="Runs on from page 1").tap()
        self.until(page, lambda: self.placed(folio)["1b"] == [1, 2])
        page.get_by_role("button", name="Next →").tap()
        page.get_by_role("button", name="Loose page").tap()
        page.get_by_text("Leave questions blank").tap()
        page.get_by_role("button", name="3 leave blank").tap()
        self.until(page, lambda: self.laid(folio)["left_blank"] == ["3"] and len(self.laid(folio)["loose"]) == 1)
        self.no_serious_findings(page, "board on a phone")
        self.assertEqual(page.evaluate("document.documentElement.scrollWidth > innerWidth"), False)

    def test_twenty_two_parts_on_six_pages_by_the_thumb_without_scrolling(self) -> None:
        """28 taps: one a part, one from page to page. Nothing is scrolled: each key is where it was."""
        for width, height in ((390, 844), (360, 640)):
            folio = self.folio(6)
            page = self.board(folio, **{**PHONE, "viewport": {"width": width, "height": height}})
            labels = list(folio.assignment.question_map.labels)
            pad = page.get_by_role("region", name=re.compile("^Questions of page"))
            wanted: dict[str, list[int]] = {}
            keys = pad.get_by_role("group", name=re.compile("^On page")).get_by_role("button")
            expect(keys).to_have_count(22)
            places = keys.evaluate_all(PLACES)
            for number in range(1, 7):
                for label in labels[4 * number - 4 : 4 * number]:
                    left, top, wide, high = places[labels.index(label)]
                    page.touchscreen.tap(left + wide / 2, top + high / 2)
                    expect(pad.get_by_role("button", name=label, exact=True)).to_have_attribute("aria-pressed", "true")
                    wanted[label] = [number]
                    self.assertLess(top + high, height)
                    self.assertEqual(keys.evaluate_all(PLACES), places)
                if number < 6:
                    page.get_by_role("button", name="Next →").tap()
                    expect(page.get_by_role("heading", name=f"Page {number + 1} of 6")).to_be_visible()
            self.until(page, lambda placed=wanted, of=folio: self.placed(of) == placed)
            self.assertEqual(len(wanted), 22)
            sheet = page.locator(".panel-sheet").bounding_box()
            assert sheet
            self.assertLess(sheet["y"], height / 2)
            page.context.close()

    def test_a_page_just_photographed_is_the_one_that_is_asked_about(self) -> None:
        folio = self.folio(2, "1a-b, 2")
        page = self.board(folio, **PHONE)
        expect(page.get_by_role("heading", name="Page 1 of 2")).to_be_visible()
        page.get_by_label("Camera").set_input_files(self.phone_photographs()[:1])
        expect(page.get_by_role("heading", name="Page 3 of 3")).to_be_visible()

    def test_a_page_held_is_moved(self) -> None:
        folio = self.folio(3, "1")
        page = self.board(folio, **PHONE)
        one, two, three = self.laid(folio)["order"]
        boxes = [page.get_by_role("button", name=re.compile(f"^Page {n},")).bounding_box() for n in (1, 3)]
        (x, y), (to, _) = [(box["x"] + 20, box["y"] + 30) for box in boxes if box]
        touch = page.context.new_cdp_session(page)
        self._touch(touch, "touchStart", x, y)
        expect(page.locator(".tile-dragged")).to_have_count(1)
        for step in range(1, 9):
            self._touch(touch, "touchMove", x + (to + 14 - x) * step / 8, y)
            page.wait_for_timeout(30)
        self._touch(touch, "touchEnd", None, None)
        self.until(page, lambda: self.laid(folio)["order"] == [two, three, one])

    def _swipe(self, page: Page) -> None:
        sheet = page.locator(".panel-sheet")
        sheet.evaluate("sheet => sheet.scrollIntoView({ block: 'center' })")
        box = sheet.bounding_box()
        assert box
        touch = page.context.new_cdp_session(page)
        y = box["y"] + box["height"] / 2
        self._touch(touch, "touchStart", 320, y)
        for x in range(310, 100, -10):
            self._touch(touch, "touchMove", x, y)
            page.wait_for_timeout(16)
        self._touch(touch, "touchEnd", None, None)
        page.wait_for_timeout(600)  # while it glides on, the browser takes a tap for a halt

    def _touch(self, session: Any, kind: str, x: float | None, y: float | None) -> None:
        points = [] if x is None or y is None else [{"x": x, "y": y}]
        session.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    def test_it_can_be_installed(self) -> None:
        page = self.sign_in(sample_people.ILSE)
        address = page.locator("link[rel=manifest]").get_attribute("href")
        manifest = json.loads(page.request.get(f"{self.address}{address}").text())
        self.assertEqual((manifest["display"], manifest["start_url"]), ("standalone", "/"))
        for icon in manifest["icons"]:
            self.assertEqual(page.request.get(f"{self.address}{icon['src']}").status, 200)


_SMALL = """selector => {
  const canvas = Object.assign(document.createElement('canvas'), { width: 48, height: 64 });
  const context = canvas.getContext('2d');
  context.drawImage(document.querySelector(selector), 0, 0, 48, 64);
  return [...context.getImageData(0, 0, 48, 64).data];
}"""
_IS_ANOTHER = (
    f"""selector => !window.kept || ({_SMALL})(selector).some((value, at) => Math.abs(value - window.kept[at]) > 40)"""
)


class PhoneAsCamera(BoardTestCase):
    def sheets(self) -> list[bytes]:
        scene = Scene(size=(900, 1200), desk="wood")
        return [
            photograph(write_sheet(great_circles()[at : at + 1], Style(), at), scene, at + 1).jpeg for at in range(3)
        ]

    def code(self, folio: Folio) -> tuple[Page, str]:
        """The board with the code open, and the address in it."""
        board = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        return board, self.address_shown_by(board, board.get_by_role("button", name="Photograph by phone"))

    def address_shown_by(self, board: Page, button: Locator) -> str:
        """What the code on the screen holds."""
        with board.expect_response(
            lambda one: one.url.endswith("/camera-links") and one.request.method == "POST"
        ) as made:
            button.click()
        return str(made.value.json()["address"])

    def shoot(self, phone: Page, number: int) -> None:
        """With the phone's own camera, where there is no live view."""
        sheet = self.folder() / f"IMG_{number}.jpg"
        sheet.write_bytes(self.sheets()[number])
        phone.get_by_label("The phone's own camera").set_input_files(sheet)
        phone.get_by_role("button", name="Keep this page").tap()

    def shoot_another(self, phone: Page, shoots: Locator, again: Locator) -> None:
        """Another sheet than that kept last: the film goes round, and the same frame twice would be the same file."""
        for _ in range(20):
            self.until(phone, lambda: phone.evaluate(_IS_ANOTHER, "video"))
            shoots.tap()
            expect(phone.locator(".shooting-look")).to_be_visible()
            if phone.evaluate(_IS_ANOTHER, ".shooting-look"):
                return
            again.tap()
        self.fail("The film showed no other sheet.")

    def test_a_phone_photographs_by_the_code_and_the_pages_appear_in_order(self) -> None:
        folio = self.folio(0, "1a-b")
        board, address = self.code(folio)
        self.no_serious_findings(board, "code for a phone")
        with tempfile.TemporaryDirectory() as folder:
            reel = Path(folder) / "sheets.y4m"
            reel.write_bytes(b"".join(film(self.sheets(), seconds_each=3, size=(720, 960))))
            camera = self.playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, *flags(str(reel))])
            self.addCleanup(camera.close)
            phone = camera.new_context(**PHONE, permissions=["camera"]).new_page()
            phone.goto(address)
            expect(phone.get_by_role("heading", name="Ilse Marrow")).to_be_visible()
            expect(board.get_by_text("A phone is ready.")).to_be_visible()
            for number in (1, 2):
                shoots = phone.get_by_role("button", name=f"Photograph page {number}")
                again = phone.get_by_role("button", name="Take again", exact=True)
                shoots.tap()
                again.tap()
                self.shoot_another(phone, shoots, again)
                phone.evaluate(f"window.kept = ({_SMALL})('.shooting-look')")
                phone.get_by_role("button", name="Keep this page").tap()
                expect(phone.get_by_text(re.compile(f"^{number} pages? safe"))).to_be_visible()
                expect(board.locator(".tile:not(.tile-coming)")).to_have_count(number)
            self.until(board, lambda: folio.pages.filter(state="ready").count() == 2)
            board.get_by_role("button", name="End it now").click()
            expect(phone.get_by_text("This camera link has ended.")).to_be_visible()

    def test_where_there_is_no_live_view_the_phones_own_camera_is_used(self) -> None:
        folio = self.folio(0, "1a-b")
        board, address = self.code(folio)
        phone = self.context(**PHONE).new_page()
        phone.goto(address)
        expect(phone.get_by_text("The phone's own camera does it as well.")).to_be_visible()
        self.shoot(phone, 0)
        expect(phone.get_by_text("1 page safe")).to_be_visible()
        self.no_serious_findings(phone, "phone as camera")
        self.until(board, lambda: folio.pages.count() == 1)

    def test_a_picture_that_was_not_sent_when_the_link_ended_goes_with_the_next_one(self) -> None:
        folio = self.folio(0, "1a-b")
        board, address = self.code(folio)
        context = self.context(**PHONE)
        phone = context.new_page()
        phone.goto(address)
        context.route("**/api/camera/originals?*", lambda route: route.abort())
        self.shoot(phone, 0)
        expect(phone.get_by_text("waiting for the network")).to_be_visible()
        board.get_by_role("button", name="End it now").click()
        expect(board.get_by_role("button", name="Make a new one")).to_be_visible()
        context.unroute("**/api/camera/originals?*")
        expect(phone.get_by_text("waiting for a new link")).to_be_visible()
        self.assertEqual(folio.pages.count(), 0)
        context.new_page().goto(self.address_shown_by(board, board.get_by_role("button", name="Make a new one")))
        self.until(board, lambda: folio.pages.count() == 1)

    def test_what_was_taken_here_is_taken_again_and_removed_and_put_back_here(self) -> None:
        folio = self.folio(0, "1a-b")
        board, address = self.code(folio)
        phone = self.context(**PHONE).new_page()
        phone.goto(address)
        for number in (0, 1):
            self.shoot(phone, number)
            expect(phone.get_by_text(re.compile(f"^{number + 1} pages? safe"))).to_be_visible()
        first, second = folio.pages.order_by("pk").values_list("pk", flat=True)
        phone.get_by_role("button", name="Take again page 1").tap()
        expect(phone.get_by_text("The next picture takes the place of page 1.")).to_be_visible()
        sheet = self.folder() / "again.jpg"
        sheet.write_bytes(self.sheets()[2])
        phone.get_by_label("The phone's own camera").set_input_files(sheet)
        phone.get_by_role("button", name="Take it instead").tap()
        self.until(board, lambda: folio.pages.count() == 3)
        third = folio.pages.order_by("-pk").values_list("pk", flat=True)[0]
        self.until(board, lambda: self.shown(folio) == [third, second])
        phone.get_by_role("button", name="Remove page 2").tap()
        self.until(board, lambda: self.shown(folio) == [third])
        expect(board.locator(".tile:not(.tile-coming)")).to_have_count(1)
        phone.get_by_role("button", name="Put it back").tap()
        self.until(board, lambda: self.shown(folio) == [third, second])
        expect(phone.get_by_role("button", name="Remove page 2")).to_be_visible()
        self.assertNotIn(first, self.shown(folio))

    def shown(self, folio: Folio) -> list[int]:
        laid = self.laid(folio)
        return [page for page in laid["order"] if page not in laid["removed"]]
