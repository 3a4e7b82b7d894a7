"""Pages bound on their own print: the document, where its outline lands, and where a marker's ink comes to lie."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import pypdf
import pypdfium2
from django.core.files.storage import default_storage

from assignments import setting_up, telling_papers
from assignments.printed_sheets import set_sheets
from editions import binding
from editions.files import bound_name
from editions.models import Edition, EditionPage
from folio_camera.form_trials import photographed
from folio_camera.printed_forms import make_form
from folio_core.marking import Stroke, Tool
from folio_core.page import Recipe, pixels_of
from folio_core.placing import read_arrangement
from marking import marked_documents
from marking.inking import on_page
from marking.marked_documents import marked_pdf
from pages import on_paper
from pages.files import image_name
from pages.models import Page
from plumbing import storage
from plumbing.storage import registered_folders
from testing.desk import DeskTestCase, picture

FORM = make_form("boxes", 11, pages=2)


class OnPrint(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        setting_up.set_paper(self.work, "test.pdf", FORM.pdf)
        self.one, self.two, _ = (self.id_of(label) for label in ("1a", "1b", "2"))
        first = list(FORM.spaces)[:2]
        spaces = {label: FORM.spaces[on_form] for label, on_form in zip(("1a", "1b"), first, strict=True)}
        set_sheets(self.work, True, spaces, clean_print=True)
        self.folio.refresh_from_db()

    def hand_in_sheets(self) -> Edition:
        """A filled sheet and a page of scrap."""
        sheet = photographed(FORM, 0, list(FORM.spaces)[:1], 4, (1512, 2016))
        pages = [self.send(data, name).json()["page_id"] for data, name in ((sheet, "1.jpg"), (picture(3), "2.jpg"))]
        self.work_off_jobs()
        self.folio.refresh_from_db()
        placed = {"1a": [{"page": pages[0], "top": 0.25}], "1b": [{"page": pages[1], "top": 0.5}]}
        self.arrange(self.folio.version, order=pages, placements=placed)
        self.hand_in()
        self.work_off_jobs()
        return Edition.objects.latest("pk")

    def bound(self, edition: Edition) -> bytes:
        with default_storage.open(bound_name(edition.folio_id, edition.file_sha256)) as file:
            return bytes(file.read())

    def test_a_sheet_that_is_surely_told_is_bound_on_its_paper_and_others_as_they_were_photographed(self) -> None:
        edition = self.hand_in_sheets()
        sheet, scrap = edition.pages.all()
        self.assertTrue(sheet.kept_on_print["sheet"])
        self.assertEqual(scrap.kept_on_print, {"sheet": ""})
        read = pypdf.PdfReader(io.BytesIO(self.bound(edition)))
        self.assertIn("Page 1 of 2", read.pages[0].extract_text())
        self.assertNotIn("Page 1 of 2", read.pages[1].extract_text().replace("page 1 of 2", ""))
        self.assertIn(image_name(edition.folio_id, sheet.kept_on_print["sheet"]), self.named())
        landing = read.outline[0]
        lands, other = float(landing["/Top"]), float(read.outline[1]["/Top"])
        self.assertEqual(scrap.top_when_bound(0.5), 0.5)
        # Worked by hand: a page of 792 points, paper above it for a tenth more.
        pixels = np.diag([612 / sheet.width, 792 / sheet.height, 1.0]).tolist()
        sheet.kept_on_print |= {"box": [0, -79.2, 612, 792], "homography": pixels, "bend": None}
        self.assertAlmostEqual(sheet.top_when_bound(0.25), (198 + 79.2) / 871.2)
        self.assertGreater(lands, other)

    def test_where_a_page_lies_is_looked_for_once_for_reading_and_binding(self) -> None:
        with mock.patch.object(on_paper, "told", wraps=on_paper.told) as looking:
            edition = self.hand_in_sheets()
            self.assertEqual(looking.call_count, 2)  # the sheet and the scrap
            frozen = edition.pages.get(number=1)
            pixels = pixels_of(storage.get(image_name(edition.folio_id, frozen.image)))
            kept = on_paper.told_on(pixels, frozen.page, frozen.image, frozen.recipe)
            assert kept is not None
            self.assertEqual(looking.call_count, 2)
            anew = telling_papers.told(pixels, self.folio.assignment, is_sheet=True)
            assert anew is not None
            np.testing.assert_array_equal(kept.found.homography, anew.found.homography)
            self.assertEqual((kept.found.evidence, kept.spaces), (anew.found.evidence, anew.spaces))
            corners = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
            Page.objects.update(findings={})
            frozen.page.refresh_from_db()
            on_paper.told_on(pixels, frozen.page, frozen.image, Recipe(corners=corners))
            self.assertEqual(looking.call_count, 2)  # cut by hand, it is the sheet as well
            on_paper.told_on(pixels, frozen.page, frozen.image, Recipe())
            on_paper.told_on(pixels, frozen.page, "another", Recipe())
            paper = frozen.page.folio.assignment.question_paper.name
            frozen.page.folio.assignment.former_papers = [{"paper": paper, "spaces": {}}]
            on_paper.told_on(pixels, frozen.page, "another", Recipe())
            self.assertEqual(looking.call_count, 5)

    def named(self) -> set[str]:
        return {name for folder in registered_folders() if folder.name == "prepared" for name in folder.named_files()}

    def test_it_stays_so_whatever_becomes_of_the_paper(self) -> None:
        edition = self.hand_in_sheets()
        before = self.bound(edition)
        setting_up.set_paper(self.work, "other.pdf", make_form("lines", 5, pages=1).pdf)
        self.work.refresh_from_db()
        self.work.former_papers, self.work.clean_print = [], False
        self.work.save()
        pages = list(edition.pages.select_related("page__original"))
        again = Edition.objects.get(pk=edition.pk)
        sheets = [binding._sheet(page, last_try=True) for page in pages]
        out = Path(self.enterContext(tempfile.TemporaryDirectory())) / "again.pdf"
        binding.write_bound(again, pages, sheets, out, binding.typed_sheets(again))
        self.assertEqual(out.read_bytes(), before)

    def test_a_scan_is_laid_too_and_a_page_that_is_drawn_stays_drawn(self) -> None:
        """A scan fills its picture; the form itself, filled in on a tablet say, is sharp already."""
        scan = pypdfium2.PdfDocument(FORM.pdf)[0].render(scale=2.5).to_pil().convert("RGB")
        out = io.BytesIO()
        scan.save(out, "PNG")
        self.send(out.getvalue(), "scan.png")
        self.send(FORM.pdf, "tablet.pdf")
        self.work_off_jobs()
        self.hand_in()
        self.work_off_jobs()
        scanned, *drawn = Edition.objects.get().pages.all()
        self.assertTrue(scanned.kept_on_print["sheet"])
        self.assertEqual([page.kept_on_print for page in drawn], [{}, {}])

    def test_as_photographed_unless_the_instructor_says_so(self) -> None:
        type(self.work).objects.update(clean_print=False)
        edition = self.hand_in_sheets()
        self.assertEqual([page.kept_on_print for page in edition.pages.all()], [{}, {}])

    def test_ink_lies_in_the_marked_pdf_where_it_was_drawn_on_the_page(self) -> None:
        """A tick at the middle of the first answer's space, told by the form."""
        edition = self.hand_in_sheets()
        page: EditionPage = edition.pages.get(number=1)
        _, left, top, right, bottom = FORM.spaces[next(iter(FORM.spaces))][0]
        on_print = page.on_print
        assert on_print is not None
        grid = np.stack(np.meshgrid(np.linspace(0, 1, 201), np.linspace(0, 1, 201)), -1).reshape(-1, 2)
        box = on_print.box
        wanted = np.array([(left + right) / 2 - box[0], (top + bottom) / 2 - box[1]])
        wanted /= (box[2] - box[0], box[3] - box[1])
        spot = grid[np.abs(on_print.at(grid) - wanted).sum(axis=1).argmin()]
        source = page.geometry.to_source([spot, spot + 0.02])
        stroke = Stroke(Tool.PEN, tuple((float(x), float(y), 0.5) for x, y in source), 6.0)
        self.assertLess(np.abs(np.array(on_page(page, stroke).points)[0, :2] - spot).max(), 0.01)
        ink: dict[str, Any] = {
            "page": page.page_id, "tool": "pen", "points": stroke.points, "width": stroke.width, "text": "",
        }  # fmt: skip
        # Worked by hand: the same spot where there is a tenth more of paper above a page of 792 points.
        page.kept_on_print |= {"box": [0, -79.2, 612, 792]}
        (_, down, _), *_ = marked_documents._in_pixels(page, ink).points
        self.assertAlmostEqual(down, 871 * ((top + bottom) / 2 + 79.2) / 871.2, delta=5)
        statement = {"ink": [ink], "questions": [], "total": None}
        marked = marked_pdf(edition, read_arrangement(edition.arrangement), statement)
        first = pypdf.PdfReader(io.BytesIO(marked)).pages[0]
        (drawn,) = (one.get_object() for one in first["/Annots"] if one.get_object()["/Subtype"] == "/Ink")
        x, y = (float(one) for one in drawn["/InkList"][0][:2])
        # On the sheet: the paper fills what the footer leaves of it (A4, the form is A4 too or nearly).
        wide, high = float(first.mediabox.width), float(first.mediabox.height)
        words = first.extract_text()
        self.assertIn("Page 1 of 2", words)
        self.assertLess(abs(x / wide - ((left + right) / 2) / FORM.size_pt[0]), 0.04)
        self.assertLess(abs(1 - y / high - ((top + bottom) / 2) / FORM.size_pt[1]), 0.05)
