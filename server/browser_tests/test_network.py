"""The last four minutes on a bad line: nothing that was chosen is lost, and what was promised counts."""

from __future__ import annotations

import hashlib
from datetime import timedelta
from pathlib import Path

from django.contrib.sessions.models import Session
from django.utils import timezone
from PIL import Image
from playwright.sync_api import BrowserContext, Page, expect

from demo import sample_people, scenario

from folios.models import Folio  # isort: skip
from live.announcing import announce  # isort: skip
from pages.models import Original, Page as FolioPage, Pledge, Upload  # isort: skip

from .browsing import BrowserTestCase
from .line import Line

SET = "Problem set 5: great circles"


class OnALine(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.line = Line(int(self.address.rpartition(":")[2]))
        self.addCleanup(self.line.close)

    def tearDown(self) -> None:
        noise = ("ERR_CONNECTION", "ERR_EMPTY", "ERR_INTERNET", "ERR_NETWORK", "Failed to load resource", "MIME type")
        self.errors = [error for error in self.errors if not any(one in error for one in noise)]
        super().tearDown()

    def photographs(self, count: int, kilobytes: int = 700) -> list[Path]:
        """Pictures of about a size, each of its own noise."""
        folder, files = self.folder(), []
        side = int((kilobytes * 1000 / 1.05) ** 0.5)
        for number in range(count):
            files.append(folder / f"page{number + 1}.png")
            Image.effect_noise((side, side), 60 + number).save(files[-1])
        return files

    def board(self, context: BrowserContext | None = None, title: str = SET) -> Page:
        page = self.sign_in(sample_people.ILSE, context or self.context(service_workers="allow"), self.line.address)
        page.evaluate("navigator.serviceWorker && navigator.serviceWorker.ready.then(() => true)")
        self.begin(page, title)
        self.until_kept(page, f"/api/folios/{Folio.objects.get().pk}")
        return page

    def all_there(self, files: list[Path]) -> None:
        """Each file once, whole, and the pages in the order they were chosen."""
        kept = {original.file_name: original.sha256 for original in Original.objects.all()}
        self.assertEqual(kept, {file.name: hashlib.sha256(file.read_bytes()).hexdigest() for file in files})
        self.assertEqual(Original.objects.count(), len(files))
        folio = Folio.objects.get()
        pages = FolioPage.objects.select_related("original").in_bulk(folio.arrangement["order"])
        names = [pages[pk].original.file_name for pk in folio.arrangement["order"]]
        self.assertEqual(names, [file.name for file in files])

    def test_five_uploads_cut_in_the_middle_reloaded_offline_and_the_network_back(self) -> None:
        files = self.photographs(5)
        page = self.board()
        self.line.bytes_per_second = 300_000
        self.line.carried = 0
        self.add(page, files)
        self.until(page, lambda: self.line.carried > 1_000_000)
        self.line.cut()
        expect(page.get_by_text("waiting for the network").first).to_be_visible()
        safe_before = Original.objects.count()
        self.assertLess(safe_before, 5)
        page.on("dialog", lambda dialog: dialog.accept())
        page.reload()
        expect(page.get_by_text("No network.")).to_be_visible()
        expect(page.locator(".tile-coming").last).to_contain_text("on this device")
        expect(page.get_by_role("timer")).to_be_visible()
        self.line.bytes_per_second = None
        self.line.mend()
        self.until(page, lambda: Original.objects.count() == 5)
        expect(page.get_by_text("all 5 pages safe")).to_be_visible()
        self.all_there(files)

    def test_a_large_file_goes_on_from_where_it_broke_off(self) -> None:
        (file,) = self.photographs(1, kilobytes=3000)
        page = self.board()
        self.line.bytes_per_second = 600_000
        self.add(page, [file])
        self.until(page, lambda: Upload.objects.exists() and self.line.carried > 1_500_000)
        self.line.cut()
        expect(page.get_by_text("waiting for the network")).to_be_visible()
        self.line.carried, self.line.bytes_per_second = 0, None
        self.line.mend()
        self.until(page, lambda: Original.objects.count() == 1)
        self.all_there([file])
        self.assertLess(self.line.carried, 2_700_000, "what had arrived was sent again")

    def test_another_device_sees_the_pages_while_they_come(self) -> None:
        files = self.photographs(2, kilobytes=100)
        page = self.board()
        other = self.sign_in(sample_people.ILSE, self.context())
        other.goto(page.url.replace(self.line.address, self.address))
        expect(other.get_by_text("No pages yet", exact=True)).to_be_visible()
        self.add(page, files)
        self.tiles(other, 2)
        expect(other.get_by_text("2 files in")).to_be_visible()

    def test_a_sign_in_that_expires_offline_and_a_reload_lose_nothing(self) -> None:
        files = self.photographs(2, kilobytes=100)
        page = self.board()
        self.line.cut()
        self.add(page, files)
        expect(page.get_by_text("waiting for the network").first).to_be_visible()
        Session.objects.all().delete()
        page.on("dialog", lambda dialog: dialog.accept())
        self.line.mend()
        page.reload()
        page.get_by_label("Mail address").fill(sample_people.ILSE.email)
        page.get_by_label("Password").fill(scenario.PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        self.until(page, lambda: Original.objects.count() == 2)
        self.all_there(files)

    def test_a_page_left_on_the_device_is_sent_from_any_screen(self) -> None:
        files = self.photographs(1, kilobytes=100)
        page = self.board()
        self.line.cut()
        self.add(page, files)
        expect(page.get_by_text("waiting for the network")).to_be_visible()
        page.on("dialog", lambda dialog: dialog.accept())
        self.line.mend()
        page.goto(self.line.address)
        expect(page.get_by_role("heading", name="to hand in")).to_be_visible()
        self.until(page, lambda: Original.objects.count() == 1)

    def closing_in(self, seconds: float) -> None:
        """Move the beginning back so that the sitting closes so soon, and say so to the board."""
        folio = Folio.objects.get()
        moved = folio.window().closes - timezone.now() - timedelta(seconds=seconds)
        Folio.objects.filter(pk=folio.pk).update(begun_at=folio.begun_at - moved)
        announce(folio.topic)

    def test_a_close_that_passes_while_promised_pages_are_on_their_way(self) -> None:
        files = self.photographs(3, kilobytes=400)
        page = self.board(title="Midterm: the noon sight")
        self.closing_in(600)  # near enough to promise what waits
        self.line.bytes_per_second = 20_000
        self.add(page, files)
        expect(page.get_by_text("on its way").first).to_be_visible()
        self.until(page, lambda: Pledge.objects.count() == 3)
        self.closing_in(4)
        expect(page.get_by_text("promised").first).to_be_visible()
        expect(page.locator(".board-closed")).to_be_visible()
        self.line.bytes_per_second = None
        self.until(page, lambda: Original.objects.count() == 3)
        folio = Folio.objects.get()
        self.assertEqual({original.verdict for original in Original.objects.all()}, {"in_time"})
        last = Original.objects.latest("arrived_at")
        self.assertGreater(last.arrived_at, folio.window().closes)
        self.until(page, lambda: (folio.editions.first() or folio).__dict__.get("page_count") == 3)
        page.get_by_role("link", name="receipt of edition").click()
        expect(page.get_by_role("heading", name="Handed in by itself")).to_be_visible()
        expect(page.get_by_text("delivered").last).to_be_visible()
        self.all_there(files)

    def test_a_close_that_passes_without_a_pledge_refuses_what_comes_after_and_says_so(self) -> None:
        self.assignments["noon-sight"].pledge_minutes = 0
        self.assignments["noon-sight"].save()
        files = self.photographs(2, kilobytes=400)
        page = self.board(title="Midterm: the noon sight")
        self.add(page, files[:1])
        self.until(page, lambda: Original.objects.count() == 1)
        self.line.bytes_per_second = 10_000
        self.add(page, files[1:])
        expect(page.get_by_text("on its way")).to_be_visible()
        self.closing_in(4)
        expect(page.locator(".board-closed")).to_be_visible()
        self.line.bytes_per_second = None
        expect(page.get_by_role("alert")).to_contain_text("1 file could not be added")
        page.get_by_role("button", name="Show").click()
        told = page.get_by_role("listitem").filter(has_text=files[1].name)
        expect(told).to_contain_text("Pages and hand-ins end there")
        page.keyboard.press("Escape")
        self.assertEqual(Original.objects.count(), 1)
        expect(page.locator(".board-closed")).to_contain_text("receipt of edition 1")
        self.assertEqual(Folio.objects.get().editions.get().page_count, 1)
