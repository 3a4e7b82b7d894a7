"""Somebody who was handed a bound PDF checks it, without an account and without sending it."""

from __future__ import annotations

from pathlib import Path

from board_bench.prepared import lay_prepared
from playwright.sync_api import Request, expect

from demo import sample_people
from folios.beginning import create_folio
from people.models import User
from plumbing.requests import moment

from .browsing import BrowserTestCase


class Receipts(BrowserTestCase):
    def test_a_bound_pdf_is_checked_on_the_device_and_one_changed_byte_is_seen(self) -> None:
        folio = create_folio(
            self.assignments["great-circles"], User.objects.get(email=sample_people.ILSE.email), moment()
        )
        lay_prepared(folio, 2)
        student = self.sign_in(sample_people.ILSE, path=f"/folios/{folio.pk}/check")
        student.get_by_role("button", name="Hand in", exact=True).click()
        download = student.get_by_role("link", name="Download the bound PDF", exact=False)
        expect(download).to_be_enabled()
        with student.expect_download() as kept:
            download.click()
        file = Path(str(kept.value.path())).read_bytes()
        with student.expect_download() as kept:
            student.get_by_role("link", name="Download the receipt").click()
        in_print = Path(str(kept.value.path())).read_bytes()

        page = self.watched(self.context())
        page.goto(f"{self.address}/check-receipt")
        bodies: list[bytes] = []

        def noted(request: Request) -> None:
            bodies.append(request.post_data_buffer or b"")

        page.on("request", noted)
        chooser = page.locator("input[type=file]")
        chooser.set_input_files({"name": "bound.pdf", "mimeType": "application/pdf", "buffer": file})
        expect(page.get_by_text("The receipt is genuine", exact=False)).to_be_visible()
        expect(page.get_by_text("to the last byte", exact=False)).to_be_visible()
        expect(page.get_by_text("none was handed in after it", exact=False)).to_be_visible()
        expect(page.get_by_text("Ilse Marrow", exact=False)).to_be_visible()
        self.no_serious_findings(page, "a checked receipt")
        middle = len(file) // 2
        changed = file[:middle] + bytes([file[middle] ^ 1]) + file[middle + 1 :]
        chooser.set_input_files({"name": "changed.pdf", "mimeType": "application/pdf", "buffer": changed})
        expect(page.get_by_text("something in it was changed", exact=False)).to_be_visible()
        chooser.set_input_files({"name": "receipt.pdf", "mimeType": "application/pdf", "buffer": in_print})
        expect(page.get_by_text("a receipt in print", exact=False)).to_be_visible()
        expect(page.get_by_text("The receipt is genuine", exact=False)).to_be_visible()
        chooser.set_input_files({"name": "other.pdf", "mimeType": "application/pdf", "buffer": b"%PDF-1.7 nothing"})
        expect(page.get_by_text("no receipt in this PDF", exact=False)).to_be_visible()
        self.assertTrue(any(b"bound_sha256" in body for body in bodies))
        self.assertFalse(any(b"%PDF" in body for body in bodies))
