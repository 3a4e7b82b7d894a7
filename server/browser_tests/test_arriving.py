"""Files of every kind come in by choosing, dropping and paste; bad ones are named; the network may go."""

from __future__ import annotations

import base64
import io
import re
from pathlib import Path

import pikepdf
from django.contrib.sessions.models import Session
from PIL import Image, ImageDraw
from playwright.sync_api import Page, Route, expect

import pillow_heif  # isort: skip
from demo import sample_people
from editions.models import Edition
from folios.models import Folio
from pages.models import Original

from .browsing import BrowserTestCase

pillow_heif.register_heif_opener()


def picture(text: str) -> Image.Image:
    image = Image.new("RGB", (600, 848), "white")
    ImageDraw.Draw(image).text((60, 80), text * 12, fill="black", font_size=30)
    return image


def pdf(pages: int, **options: object) -> bytes:
    out = io.BytesIO()
    with pikepdf.new() as document:
        for _ in range(pages):
            document.add_blank_page(page_size=(595, 842))
        document.save(out, **options)
    return out.getvalue()


_HAND_OVER = """([name, data, how]) => {
    const bytes = Uint8Array.from(atob(data), letter => letter.charCodeAt(0));
    const files = new DataTransfer();
    files.items.add(new File([bytes], name, {type: 'image/png'}));
    const event = how === 'drop'
        ? new DragEvent('drop', {dataTransfer: files, bubbles: true, cancelable: true})
        : new ClipboardEvent('paste', {clipboardData: files, bubbles: true, cancelable: true});
    document.body.dispatchEvent(event);
}"""


class Arriving(BrowserTestCase):
    def board(self, title: str = "Problem set 5: great circles") -> Page:
        page = self.sign_in(sample_people.ILSE)
        self.begin(page, title)
        return page

    def hand_over(self, page: Page, how: str, text: str) -> None:
        out = io.BytesIO()
        picture(text).save(out, "PNG")
        page.evaluate(_HAND_OVER, [f"{text}.png", base64.b64encode(out.getvalue()).decode(), how])

    def test_every_kind_combines_in_the_order_of_the_names(self) -> None:
        folder = self.folder()
        for number, kind in enumerate(("jpeg", "png", "heif", "webp", "tiff"), 1):
            picture(kind).save(folder / f"page{number}.{kind}", kind.upper())
        (folder / "page10.pdf").write_bytes(pdf(3))
        page = self.board()
        self.add(page, sorted(folder.iterdir(), reverse=True))
        self.tiles(page, 8)
        expect(page.get_by_text("all 8 pages safe")).to_be_visible()
        folio = Folio.objects.get()
        pages = folio.pages.select_related("original").in_bulk()
        names = [(pages[pk].original.file_name, pages[pk].index) for pk in folio.arrangement["order"]]
        kinds = ("jpeg", "png", "heif", "webp", "tiff")
        pictures = [(f"page{number}.{kind}", 0) for number, kind in enumerate(kinds, 1)]
        self.assertEqual(names, [*pictures, *(("page10.pdf", index) for index in range(3))])

    def test_dropping_and_pasting(self) -> None:
        page = self.board()
        self.hand_over(page, "drop", "dropped")
        self.tiles(page, 1)
        self.hand_over(page, "paste", "pasted")
        self.tiles(page, 2)

    def test_each_bad_file_is_named_and_the_rest_go_on(self) -> None:
        folder = self.folder()
        picture("good").save(folder / "good.png")
        out = io.BytesIO()
        Image.effect_noise((500, 500), 80).save(out, "JPEG")
        bad: dict[str, tuple[bytes, str]] = {
            "empty.jpg": (b"", "0 bytes came"),
            "letter.docx": (b"PK\x03\x04" + bytes(50), "Export it as PDF"),
            "drawing.svg": (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "SVG drawings are not taken"),
            "half.jpg": (out.getvalue()[:6000], "ends too early"),
            "locked.pdf": (pdf(1, encryption=pikepdf.Encryption(owner="o", user="u")), "locked with a password"),
            "huge.jpg": (b"\xff\xd8\xff" + bytes(61 * 1024 * 1024), "at most"),
        }
        for name, (data, _) in bad.items():
            (folder / name).write_bytes(data)
        page = self.board()
        self.add(page, sorted(folder.iterdir()))
        self.tiles(page, 1)
        expect(page.get_by_role("alert")).to_contain_text("6 files could not be added")
        page.get_by_role("button", name="Show").click()
        dialog = page.get_by_role("dialog", name="Files and pages that are not on the board")
        for name, (_, words) in bad.items():
            expect(dialog.get_by_role("listitem").filter(has_text=name)).to_contain_text(words)
        dialog.get_by_role("button", name="Dismiss all").click()
        expect(page.get_by_role("alert")).to_have_count(0)
        page.reload()
        self.tiles(page, 1)
        expect(page.get_by_text("could not be added")).to_have_count(0)

    def test_a_lost_network_is_waited_for(self) -> None:
        folder = self.folder()
        picture("later").save(folder / "later.png")
        page = self.board()
        page.context.set_offline(True)
        self.add(page, [folder / "later.png"])
        expect(page.get_by_text("waiting for the network")).to_be_visible()
        page.context.set_offline(False)
        self.tiles(page, 1)
        self.errors = [error for error in self.errors if "ERR_INTERNET_DISCONNECTED" not in error]

    def test_files_on_their_way_go_on_and_are_told_of_on_the_check(self) -> None:
        folder = self.folder()
        for name in ("one", "two"):
            picture(name).save(folder / f"{name}.png")
        page = self.board()
        self.add(page, [folder / "one.png"])
        self.tiles(page, 1)
        page.route("**/originals?*", lambda route: route.abort())
        self.add(page, [folder / "two.png"])
        expect(page.get_by_text("1 file still on this device")).to_be_visible()
        page.get_by_role("link", name="Check and hand in").click()
        expect(page.get_by_text("two.png: not on the server yet")).to_be_visible()
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_text("Not on the server yet: 1 file")).to_be_visible()
        page.get_by_role("button", name="Stay").click()
        page.get_by_role("button", name="Hand in when all are safe").click()
        expect(page.get_by_text("Waiting for 1 file.")).to_be_visible()
        self.assertFalse(Edition.objects.exists())
        page.unroute("**/originals?*")
        page.wait_for_url("**/editions/1")
        self.assertEqual(Edition.objects.get().page_count, 2)

    def test_what_is_open_on_the_check_leads_to_where_it_is_mended(self) -> None:
        folder = self.folder()
        for name in ("one", "two"):
            picture(name).save(folder / f"{name}.png")
        page = self.board()
        self.add(page, [folder / "one.png", folder / "two.png"])
        self.tiles(page, 2)
        check = f"{page.url}/check"
        page.goto(check)
        page.get_by_text("Pages 1, 2: no question on them").get_by_role("link", name="2").click()
        expect(page.get_by_role("region", name="Page 2, large")).to_be_visible()
        self.assertNotIn("?", page.url)
        page.goto(check)
        page.get_by_text("not left blank either").get_by_role("link", name="2b").click()
        expect(page.locator('.ribbon-row[data-labels="2b"]')).to_have_class(re.compile("ribbon-asked"))
        expect(page.locator('.ribbon-row[data-labels="2b"]')).to_be_in_viewport()

    def test_a_sign_in_that_expired_is_asked_for_again_and_all_goes_on(self) -> None:
        folder = self.folder()
        picture("one").save(folder / "one.png")
        page = self.board()
        page.route("**/originals?*", lambda route: route.abort())
        self.add(page, [folder / "one.png"])
        expect(page.get_by_text("1 file still on this device")).to_be_visible()
        page.route("**/arrangement", lambda route: route.abort())
        page.get_by_role("button", name="leave blank 5").click()
        Session.objects.all().delete()
        page.unroute("**/originals?*")
        page.unroute("**/arrangement")
        expect(page.get_by_label("Password")).to_be_visible()
        self.fill_in(page, sample_people.ILSE)
        expect(page.get_by_text("left blank", exact=True)).to_be_visible()
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        self.tiles(page, 1)
        self.assertEqual(self.by_label(Folio.objects.get())["left_blank"], ["5"])

    def test_a_refusal_that_comes_late_signs_nobody_out_who_signed_in_meanwhile(self) -> None:
        folder = self.folder()
        picture("one").save(folder / "one.png")
        page = self.board()
        held: list[Route] = []
        page.route("**/arrangement", lambda route: route.continue_() if held else held.append(route))
        page.get_by_role("button", name="leave blank 5").click()
        self.until(page, lambda: len(held) > 0)
        Session.objects.all().delete()
        self.add(page, [folder / "one.png"])
        expect(page.get_by_label("Password")).to_be_visible()
        self.fill_in(page, sample_people.ILSE)
        with page.expect_response(lambda answer: answer.url.endswith("/api/me")):  # it asks before it believes
            held[0].fulfill(status=401, json={"code": "signed_out", "message": "Sign in again."})
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        self.assertEqual(page.get_by_label("Password").count(), 0)

    def test_a_file_waits_for_its_own_student_though_another_signs_in_between(self) -> None:
        folder = self.folder()
        for name in ("one", "two"):
            picture(name).save(folder / f"{name}.png")
        page = self.board()
        board = page.url
        page.route("**/originals?*", lambda route: route.abort())
        self.add(page, [folder / "one.png"])
        expect(page.get_by_text("1 file still on this device")).to_be_visible()
        self.sign_out(page)
        page.unroute("**/originals?*")
        self.fill_in(page, sample_people.TOBIN)
        page.get_by_role("link", name="My folios").first.click()
        self.begin(page, "Problem set 5: great circles")
        self.add(page, [folder / "two.png"])
        expect(page.get_by_text("1 page safe")).to_be_visible()  # the queue of this browser has gone on
        self.assertEqual(Original.objects.get().folio.student.email, sample_people.TOBIN.email)
        self.sign_out(page)
        self.fill_in(page, sample_people.ILSE)
        page.goto(board)
        self.tiles(page, 1)
        expect(page.get_by_text("1 page safe")).to_be_visible()
        ilse = Original.objects.get(folio__student__email=sample_people.ILSE.email)
        self.assertEqual(ilse.file_name, "one.png")

    def test_an_answer_that_is_not_ours_makes_no_file_safe(self) -> None:
        """A guest network that wants a click first answers every request with a page of its own and status 200."""
        folder = self.folder()
        picture("one").save(folder / "one.png")
        page = self.board()
        page.route("**/originals?*", lambda route: route.fulfill(status=200, body="<html>Accept our terms</html>"))
        self.add(page, [folder / "one.png"])
        expect(page.get_by_text("waiting for the network")).to_be_visible()
        page.unroute("**/originals?*")
        self.tiles(page, 1)

    def test_without_live_news_the_board_asks_by_itself(self) -> None:
        page = self.board()
        page.route("**/news", lambda route: route.abort())
        page.reload()
        expect(page.get_by_role("button", name="Add pages")).to_be_visible()
        self.hand_over(page, "drop", "asked for")
        self.tiles(page, 1)

    def test_news_of_another_tab_arrive_by_themselves(self) -> None:
        page = self.board()
        other = page.context.new_page()
        other.goto(page.url)
        expect(other.get_by_text("No pages yet", exact=True)).to_be_visible()
        self.hand_over(page, "drop", "from the first tab")
        self.tiles(other, 1)


class TwoTabs(BrowserTestCase):
    def test_a_stale_change_is_refused_and_the_newer_state_is_shown(self) -> None:
        folder = self.folder()
        picture("one").save(folder / "one.png")
        context = self.context()
        page = self.sign_in(sample_people.ILSE, context)
        self.begin(page, "Problem set 5: great circles")
        self.add(page, [folder / "one.png"])
        self.tiles(page, 1)
        other = context.new_page()
        other.route("**/news", lambda route: route.abort())  # a tab that hears nothing
        other.goto(page.url)
        self.tiles(other, 1)
        other.route("**/api/folios/*", lambda route: route.abort())  # and asks for nothing
        page.get_by_role("button", name="leave blank 5").click()
        expect(page.get_by_text("1 of 9")).to_be_visible()
        expect(page.get_by_text("Order and places saved")).to_be_visible()
        other.get_by_label("On page 1:").fill("3")
        other.get_by_label("On page 1:").press("Enter")
        expect(other.get_by_text("This was changed elsewhere meanwhile")).to_be_visible()
        expect(other.get_by_text("left blank")).to_be_visible()
        expect(other.get_by_text("1 of 9")).to_be_visible()
        arrangement = self.by_label(Folio.objects.get())
        self.assertEqual((arrangement["left_blank"], arrangement["placements"]), (["5"], {}))
        self.errors = [error for error in self.errors if "ERR_FAILED" not in error]


class OnAPhone(BrowserTestCase):
    def test_the_board_works_in_one_column_by_touch(self) -> None:
        folder = self.folder()
        picture("one").save(folder / "one.png")
        context = self.browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
        page = self.sign_in(sample_people.ILSE, context)
        self.begin(page, "Problem set 5: great circles")
        self.add(page, [folder / "one.png"])
        self.tiles(page, 1)
        page.get_by_role("button", name=re.compile("^3 no page")).tap()
        expect(page.get_by_text("1 of 9")).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.no_serious_findings(page, "board on a phone")
        page.get_by_role("link", name="Check and hand in").tap()
        page.get_by_role("button", name="Hand in", exact=True).tap()
        expect(page.get_by_role("heading", name="Handed in")).to_be_visible()
        self.assertEqual(Path(page.url).name, "1")
