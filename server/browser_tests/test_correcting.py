"""The tools around a page: corners, tone, before and after, waving advice away, taking it again; all undone again."""

from __future__ import annotations

import re
from datetime import timedelta
from pathlib import Path

from django.utils import timezone
from playwright.sync_api import Page, expect

from demo import sample_people
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folios.beginning import create_folio
from folios.models import Folio
from pages.arrival import receive
from pages.models import Page as FolioPage
from pages.sent import Sent
from people.models import User

from .browsing import BrowserTestCase

SMALL = (900, 1200)


def picture(first: int, scene: Scene) -> bytes:
    return photograph(write_sheet(great_circles()[first : first + 2], Style(), 3), scene, 5).jpeg


class Correcting(BrowserTestCase):
    def board(self) -> Page:
        ilse = User.objects.get(email=sample_people.ILSE.email)
        folio = create_folio(self.assignments["great-circles"], ilse, timezone.now() - timedelta(minutes=30))
        data = picture(0, Scene(size=SMALL, desk="wood"))
        receive(folio, [data], Sent("one.jpg"), timezone.now)
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        self.tiles(page, 1)
        return page

    def stored(self) -> FolioPage:
        return FolioPage.objects.order_by("pk").first()

    def test_corners_by_keyboard_with_an_instant_preview_and_undo(self) -> None:
        page = self.board()
        found = self.stored().findings["corners"]
        page.get_by_role("button", name="Corners").click()
        self.no_serious_findings(page, "corner editor")
        preview = page.locator(".corners-preview img")
        before = preview.get_attribute("style")
        page.get_by_role("button", name=re.compile("^Bottom right corner")).focus()
        page.keyboard.press("Shift+ArrowLeft")
        page.keyboard.press("ArrowUp")
        expect(preview).not_to_have_attribute("style", before or "")
        expect(page.locator(".corners-loupe")).to_be_visible()
        page.get_by_role("button", name="Keep these corners").click()
        self.until(page, lambda: (self.stored().corners or found)[2][0] < found[2][0] - 10)
        self.until(page, lambda: self.stored().state == "ready")
        page.get_by_role("button", name="Undo").click()
        self.until(page, lambda: self.stored().corners is None and self.stored().state == "ready")

    def test_a_corner_is_dragged_and_the_whole_picture_can_be_used(self) -> None:
        page = self.board()
        page.get_by_role("button", name="Corners").click()
        handle = page.get_by_role("button", name=re.compile("^Top left corner"))
        expect(page.locator(".corners-preview img")).to_have_js_property("complete", True)
        box = handle.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 22, box["y"] + 22)
        page.mouse.down()
        page.mouse.move(box["x"] + 52, box["y"] + 42, steps=4)
        page.mouse.up()
        self.until(page, lambda: abs((handle.bounding_box() or box)["x"] - box["x"] - 30) < 2)
        page.get_by_role("button", name="Use the whole picture").click()
        page.get_by_role("button", name="Keep these corners").click()
        self.until(page, lambda: self.stored().corners == [[0, 0], [900, 0], [900, 1200], [0, 1200]])
        page.get_by_role("button", name="Corners").click()
        page.get_by_role("button", name="Find again").click()
        self.until(page, lambda: self.stored().corners is None)

    def test_tone_before_and_after_and_advice_waved_away(self) -> None:
        page = self.board()
        sheet = page.get_by_role("img", name="Page 1 as it will be read")
        page.get_by_label("Tone of page 1").click()
        page.get_by_title("ink only").click()
        self.until(page, lambda: self.stored().tone == "ink" and self.stored().state == "ready")
        expect(sheet).to_be_visible()
        page.keyboard.down("=")
        expect(page.get_by_role("img", name="Page 1 as it came")).to_be_visible()
        page.keyboard.up("=")
        expect(sheet).to_be_visible()
        advice = page.get_by_role("list", name="Advice for page 1")
        expect(advice.get_by_text("The sheet has few pixels")).to_be_visible()
        advice.get_by_role("button", name=re.compile("^All right as it is: The sheet has few")).click()
        expect(advice.get_by_text("The sheet has few pixels")).to_have_count(0)
        page.reload()
        expect(page.get_by_text("1 waved away")).to_be_visible()
        page.get_by_role("button", name="show again").click()
        expect(advice.get_by_text("The sheet has few pixels")).to_be_visible()

    def test_taken_again_it_keeps_its_question_and_the_old_picture_comes_back_by_undo(self) -> None:
        page = self.board()
        page.get_by_role("button", name=re.compile("^1a, ")).click()
        self.until(page, lambda: bool(Folio.objects.get().arrangement["placements"]))  # before the next picture comes
        again = Path(self.folder()) / "again.jpg"
        again.write_bytes(picture(2, Scene(size=SMALL, desk="slate")))
        page.set_input_files("input[aria-label='New picture for page 1']", [str(again)])
        expect(page.get_by_text("again.jpg · safe since")).to_be_visible()
        expect(page.get_by_text("removed")).to_have_count(0)  # the new picture stands for the old one
        expect(page.get_by_role("button", name="Take 1a off page 1")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("1 page removed")).to_be_visible()
        expect(page.get_by_role("button", name="Take 1a off page 1")).to_be_visible()
