"""Filled sheets on the clean print: what was written lies where it was written, and the print is the form's own."""

from __future__ import annotations

import io
import tempfile
import unittest
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import cv2
import numpy as np
import pikepdf
import pikepdf.pdfa
import pypdf
import pypdfium2
from PIL import Image

from folio_camera.form_trials import make, photographed
from folio_camera.printed_forms import make_form
from folio_core.binding import BoundPage, Paper, Title, bind, over_print
from folio_core.forms import BlankPage, Registered, register
from folio_core.forms.bending import Bend
from folio_core.forms.fit import Evidence
from folio_core.forms.from_files import form_from
from folio_core.forms.onto_print import OnPrint, laid_on_print
from folio_core.page import DEFAULT_LIMITS, Recipe, prepare
from folio_core.page.drawn import drawn_page

FORM = make_form("boxes", 11, pages=2)
A_PIXEL = 72 / 200
SURE = Evidence(1.0, 1.0, 0.4, 50)


def sheet_of(data: bytes) -> np.ndarray:
    with Image.open(io.BytesIO(prepare(data, 0, Recipe(), DEFAULT_LIMITS).image)) as image:
        return np.asarray(image.convert("RGB"), np.uint8)


def as_printed(page: BlankPage) -> np.ndarray:
    """The blank page itself, 200 dots an inch."""
    size = (round(page.width_pt / A_PIXEL), round(page.height_pt / A_PIXEL))
    return np.asarray(cv2.cvtColor(cv2.resize(page.grey, size), cv2.COLOR_GRAY2RGB), np.uint8)


class OntoPrint(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.page = form_from(FORM.pdf).pages[0]

    def test_a_mark_lies_where_it_was_made_and_is_told_to(self) -> None:
        """A red cross at a known place of the blank page, which lies there by a scale alone."""
        pixels = as_printed(self.page)
        cv2.drawMarker(pixels, (800, 1000), (200, 30, 30), cv2.MARKER_CROSS, 60, 9)
        flat = Registered(0, np.diag([A_PIXEL, A_PIXEL, 1.0]), SURE)
        moves = np.tile((3.0, -2.0), (13, 7, 1))
        bent = replace(flat, bend=Bend(moves, self.page.width_pt, self.page.height_pt))
        for registered, away in ((flat, (0, 0)), (bent, (3.0, -2.0))):
            laid = laid_on_print(pixels, self.page, registered)
            assert laid is not None
            on_print, layer = laid
            left, top, right, bottom = on_print.box
            red = np.argwhere((layer[..., 0] > 150) & (layer[..., 1] < 90))
            y, x = red.mean(axis=0) * A_PIXEL + np.array([top, left])
            self.assertLess(abs(x - 800 * A_PIXEL - away[0]) + abs(y - 1000 * A_PIXEL - away[1]), 0.8)
            there = on_print.at([[800 / pixels.shape[1], 1000 / pixels.shape[0]]])[0] * (right - left, bottom - top)
            self.assertLess(np.abs(there - (x - left, y - top)).max(), 0.8)
            again = OnPrint.from_document(on_print.as_document())
            self.assertTrue(np.allclose(again.at([[0.2, 0.3]]), on_print.at([[0.2, 0.3]]), atol=1e-3))

    def test_a_photograph_lies_on_the_print_with_all_its_ink_and_white_paper(self) -> None:
        labels = [label for label, boxes in FORM.spaces.items() if boxes[0][0] == 0]
        pixels = sheet_of(photographed(FORM, 0, labels[:1], 4, (1512, 2016)))
        found = register(pixels, form_from(FORM.pdf), is_sheet=True)
        assert found is not None
        laid = laid_on_print(pixels, self.page, found)
        assert laid is not None
        on_print, layer = laid
        dark = cv2.dilate((layer.min(axis=2) < 150).astype(np.uint8), np.ones((5, 5), np.uint8))
        print_ = cv2.resize(self.page.print_, (layer.shape[1], layer.shape[0])) > 200
        self.assertGreater(dark[print_].mean(), 0.9)
        ink = {}
        for label in labels[:2]:
            _, left, top, right, bottom = FORM.spaces[label][0]
            inner = np.array([top + 6, bottom - 6, left + 6, right - 6]) - np.array(on_print.box)[[1, 1, 0, 0]]
            rows = slice(*(int(side / A_PIXEL) for side in inner[:2]))
            space = layer[rows, slice(*(int(side / A_PIXEL) for side in inner[2:]))]
            ink[label] = int((space.min(axis=2) < 170).sum())
        self.assertGreater(ink[labels[0]], 200)
        self.assertLess(ink[labels[1]], 40)
        self.assertGreater(float((layer == 255).all(axis=2).mean()), 0.85)

    def test_paper_that_is_larger_than_its_print_is_shown_whole(self) -> None:
        trial = make("fit to page, 94 %", 2, size=(1512, 2016))
        pixels, form = sheet_of(trial.data), form_from(trial.form.pdf)
        found = register(pixels, form, is_sheet=True)
        assert found is not None
        laid = laid_on_print(pixels, form.pages[found.page], found)
        assert laid is not None
        left, top, right, bottom = laid[0].box
        width, height = trial.form.size_pt
        self.assertTrue(left < -5 and top < -5 and right > width + 5 and bottom > height + 5, laid[0].box)

    def test_what_shows_less_than_the_page_or_far_more_stays_a_photograph(self) -> None:
        pixels = as_printed(self.page)
        upper = Registered(0, np.diag([A_PIXEL, A_PIXEL, 1.0]), SURE)
        self.assertIsNone(laid_on_print(pixels[: len(pixels) * 4 // 5], self.page, upper))
        desk = cv2.copyMakeBorder(pixels, 130, 130, 130, 130, cv2.BORDER_CONSTANT, value=(90, 60, 30))
        around = Registered(0, np.array([[A_PIXEL, 0, -130 * A_PIXEL], [0, A_PIXEL, -130 * A_PIXEL], [0, 0, 1]]), SURE)
        self.assertIsNone(laid_on_print(desk, self.page, around, is_sheet=False))
        self.assertIsNotNone(laid_on_print(pixels, self.page, upper, is_sheet=False))  # a scan
        small = Registered(0, np.array([[A_PIXEL * 1.3, 0, -80], [0, A_PIXEL * 1.3, -90], [0, 0, 1]]), SURE)
        self.assertIsNone(laid_on_print(pixels, self.page, small))

    def test_a_form_that_conforms_stays_a_file_for_keeping_with_ink_over_it(self) -> None:
        """The rules of PDF/A-3b by pikepdf; a form of lines alone, for fonts that are not in it break them."""
        out = io.BytesIO()
        with pikepdf.new() as lines:
            form = lines.add_blank_page(page_size=(595, 842))
            form.Contents = lines.make_stream(b"".join(b"60 %d m 540 %d l S " % (y, y) for y in range(100, 700, 40)))
            lines.save(out)
        ink = np.full((842, 595, 3), 255, np.uint8)
        made = over_print(drawn_page(out.getvalue(), 0, 0), (595, 842), ink, (0, 0, 595, 842))
        picture = io.BytesIO()
        Image.fromarray(ink).save(picture, "JPEG")
        page = BoundPage(picture.getvalue, 595, 842, drawn=lambda: made)
        with tempfile.TemporaryDirectory() as folder:
            bound = Path(folder) / "bound.pdf"
            bind([page], [], Title("a", "b", "c"), Paper.A4, datetime(2026, 11, 28, tzinfo=UTC), bound)
            with pikepdf.open(bound) as opened:
                self.assertTrue(pikepdf.pdfa.check(opened, "3b").passed)
            drawn = np.asarray(pypdfium2.PdfDocument(bound)[0].render(scale=2).to_pil().convert("L"))
        self.assertGreater(int((drawn < 128).any(axis=1).sum()), 14)  # white ink hides no line of the form

    def test_grain_of_the_paper_is_left_away(self) -> None:
        grain = np.random.default_rng(1).normal(0, 4, as_printed(self.page).shape)
        pixels = np.clip(as_printed(self.page) - np.abs(grain), 0, 255).astype(np.uint8)
        laid = laid_on_print(pixels, self.page, Registered(0, np.diag([A_PIXEL, A_PIXEL, 1.0]), SURE))
        assert laid is not None
        self.assertGreater(float((laid[1] == 255).all(axis=2).mean()), 0.9)

    def test_the_bound_page_keeps_the_forms_words_and_its_ink(self) -> None:
        """Read by pypdf and PDFium."""
        pixels = as_printed(self.page)
        cv2.rectangle(pixels, (700, 900), (900, 1100), (20, 40, 200), -1)
        laid = laid_on_print(pixels, self.page, Registered(0, np.diag([A_PIXEL, A_PIXEL, 1.0]), SURE))
        assert laid is not None
        on_print, layer = laid
        made = [over_print(drawn_page(FORM.pdf, 0, 0), FORM.size_pt, layer, on_print.box) for _ in range(2)]
        self.assertEqual(made[0], made[1])
        left, top, right, bottom = on_print.box
        page = BoundPage(lambda: prepared, round(right - left), round(bottom - top), drawn=lambda: made[0])
        prepared = Image.fromarray(pixels)
        out = io.BytesIO()
        prepared.save(out, "JPEG")
        prepared = out.getvalue()
        with tempfile.TemporaryDirectory() as folder:
            bound = Path(folder) / "bound.pdf"
            title = Title("Class test", "Ilse Marrow", "Edition 1")
            bind([page], [], title, Paper.A4, datetime(2026, 11, 28, tzinfo=UTC), bound)
            words = pypdf.PdfReader(bound).pages[0].extract_text()
            self.assertIn("Page 1 of 2", words)
            drawn = np.asarray(pypdfium2.PdfDocument(bound)[0].render(scale=2).to_pil())
        blue = np.argwhere((drawn[..., 2] > 150) & (drawn[..., 0] < 90))
        self.assertGreater(len(blue), 500)
        height = drawn.shape[0]
        self.assertLess(abs(blue[:, 0].mean() / height - 1000 / pixels.shape[0]), 0.03)
