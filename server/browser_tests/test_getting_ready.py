"""Ready before the clock runs, and the other ways in: this device's own camera, the share menu, an old picture."""

from __future__ import annotations

import io
import re
import tempfile
from datetime import timedelta
from pathlib import Path

from PIL import ExifTags, Image
from playwright.sync_api import Page, expect

from demo import sample_people
from folio_camera.film import film, flags
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folios.models import Folio
from pages.models import Page as FolioPage

from .boards import PHONE, BoardTestCase
from .browsing import CHROMIUM, FLAGS

EXAM = "Midterm: the noon sight"


def sheet(seed: int = 1) -> bytes:
    scene = Scene(size=(900, 1200), desk="wood")
    return photograph(write_sheet(great_circles()[:1], Style(), seed), scene, seed).jpeg


class BeforeTheClock(BoardTestCase):
    def brief(self) -> Page:
        exam = next(one for one in self.assignments.values() if one.title == EXAM)
        page = self.sign_in(sample_people.ILSE, path=f"/assignments/{exam.pk}")
        expect(page.get_by_role("heading", name="Get ready")).to_be_visible()
        return page

    def test_device_phone_and_test_picture_are_seen_to_and_the_phone_stays_linked(self) -> None:
        page = self.brief()
        page.get_by_role("button", name="Check this device").click()
        expect(page.get_by_text(re.compile("It sends .* Checked here"))).to_be_visible()
        page.reload()
        expect(page.get_by_text(re.compile("It sends .* Checked here"))).to_be_visible()  # remembered for this device
        picture = self.folder() / "test.jpg"
        picture.write_bytes(sheet())
        page.get_by_label("Test picture").set_input_files(picture)
        expect(page.get_by_alt_text("The sheet as it would be read")).to_be_visible()
        expect(page.get_by_text("The test picture arrived", exact=False).first).to_be_visible()
        self.no_serious_findings(page, "getting ready")
        page.get_by_role("button", name="Link a phone").click()
        expect(page.locator(".invitation-typed")).to_have_count(2)
        address, figures = page.locator(".invitation-typed").all_inner_texts()
        phone = self.watched(self.context(**PHONE))
        phone.goto(f"http://{address}")
        phone.get_by_label("The six figures").fill("000 000" if figures != "000 000" else "111 111")
        phone.get_by_role("button", name="Link this phone").tap()
        expect(phone.get_by_text("belong to no camera link now", exact=False)).to_be_visible()
        phone.get_by_label("The six figures").fill(figures)
        phone.get_by_role("button", name="Link this phone").tap()
        expect(phone.get_by_text("This phone is linked.")).to_be_visible()
        expect(page.get_by_text("A phone is ready.")).to_be_visible()
        page.keyboard.press("Escape")
        phone.get_by_label("The phone's own camera").set_input_files(picture)
        phone.get_by_role("button", name="Send this test").tap()
        expect(phone.locator(".judgement")).to_be_visible()
        self.no_serious_findings(phone, "phone before the sitting")
        self.assertFalse(FolioPage.objects.exists())
        page.get_by_role("button", name="Begin", exact=True).click()
        page.get_by_role("button", name="Begin now").click()
        expect(page.get_by_role("button", name="Add pages")).to_be_visible()
        expect(phone.get_by_role("button", name="Photograph page 1")).to_be_visible()
        phone.get_by_label("The phone's own camera").set_input_files(picture)
        phone.get_by_role("button", name="Keep this page").tap()
        expect(page.locator(".tile:not(.tile-coming)")).to_have_count(1)


class OtherWaysIn(BoardTestCase):
    def test_the_computers_own_camera_takes_pages_by_the_same_screen(self) -> None:
        folio = self.folio(0, "1a-b")
        with tempfile.TemporaryDirectory() as folder:
            reel = Path(folder) / "sheets.y4m"
            reel.write_bytes(b"".join(film([sheet(1), sheet(2)], seconds_each=3, size=(720, 960))))
            browser = self.playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, *flags(str(reel))])
            self.addCleanup(browser.close)
            context = browser.new_context(viewport={"width": 1280, "height": 800}, permissions=["camera"])
            page = self.sign_in(sample_people.ILSE, context, path=f"/folios/{folio.pk}")
            page.get_by_role("button", name="Photograph here").click()
            page.get_by_role("button", name="Photograph page 1").click()
            page.get_by_role("button", name="Keep this page").click()
            expect(page.get_by_role("button", name="Photograph page 2")).to_be_visible()
            self.no_serious_findings(page, "photograph here")
            page.keyboard.press("Escape")
            expect(page.locator(".tile:not(.tile-coming)")).to_have_count(1)
            self.until(page, lambda: folio.pages.count() == 1)

    def test_what_the_share_menu_hands_over_is_laid_on_the_board_that_is_chosen(self) -> None:
        """A POST as the platform sends it (W3C Web App Manifest, share_target)."""
        folio = self.folio(0, "1a-b")
        context = self.context(service_workers="allow")
        page = self.sign_in(sample_people.ILSE, context)
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        self.until(page, lambda: bool(page.evaluate("navigator.serviceWorker.controller !== null")))
        names = [self.folder() / name for name in ("scan 1.jpg", "scan 2.jpg")]
        for at, name in enumerate(names):
            name.write_bytes(sheet(at + 1))
        page.evaluate(
            """document.body.insertAdjacentHTML('beforeend', `<form id="platform" method="post" action="/shared"
            enctype="multipart/form-data"><input type="file" name="files" multiple></form>`)"""
        )
        page.locator("#platform input").set_input_files(names)
        page.evaluate("document.getElementById('platform').submit()")
        expect(page.get_by_role("heading", name="2 files to lay on a board")).to_be_visible()
        expect(page.get_by_text("scan 1.jpg")).to_be_visible()
        self.no_serious_findings(page, "shared files")
        page.get_by_role("button", name="Onto Twenty-two parts").click()
        expect(page.locator(".tile:not(.tile-coming)")).to_have_count(2)
        self.until(page, lambda: folio.pages.count() == 2)
        page.goto(f"{self.address}/shared")
        expect(page.get_by_role("heading", name="Nothing was shared")).to_be_visible()

    def test_a_picture_from_before_the_work_says_so(self) -> None:
        folio = self.folio(0, "1a-b")
        page = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}")
        image, exif = Image.open(io.BytesIO(sheet())), Image.Exif()
        long_ago = folio.begun_at - timedelta(days=23)
        exif.get_ifd(ExifTags.IFD.Exif)[ExifTags.Base.DateTimeOriginal] = f"{long_ago:%Y:%m:%d %H:%M:%S}"
        old = self.folder() / "old.jpg"
        image.save(old, exif=exif)
        self.add(page, [old])
        said = f"By its camera this picture was taken on {long_ago.day} {long_ago:%B %Y}"
        expect(page.get_by_text(said, exact=False)).to_be_visible()
        page.get_by_role("button", name=re.compile("^All right as it is: By its camera")).click()
        expect(page.get_by_text(said, exact=False)).to_have_count(0)
        self.until(page, lambda: "taken_before" in str(Folio.objects.get(pk=folio.pk).arrangement["dismissed"]))
