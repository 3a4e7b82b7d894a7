"""Born-digital pages in the bound PDF: as sharp as they came, and nothing in them that could do anything."""

from __future__ import annotations

import io
import unittest
from dataclasses import replace

import numpy as np
import pikepdf
import pikepdf.pdfa
import pypdf
import pypdfium2
from bound_samples import PAGES, bound
from PIL import Image
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from folio_core.fonts import first_font
from folio_core.page import PageError, drawn_page, run_limited

SIZE = (420, 595)  # points


def paper(font: str = "Helvetica", *, pages: int = 1) -> bytes:
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=SIZE, invariant=1, initialFontName=font)
    for number in range(pages):
        canvas.setFont(font, 14)
        canvas.drawString(60, 520, f"sin h = 0.78788, page {number + 1}")
        canvas.rect(60, 200, 120, 40, fill=1)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def armed() -> bytes:
    """A page with a script, a launch action, an attached file and a comment written over it."""
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(paper())) as pdf:
        script = pikepdf.Dictionary(S=pikepdf.Name.JavaScript, JS=pikepdf.String("app.alert('boo')"))
        launch = pikepdf.Dictionary(S=pikepdf.Name.Launch, F=pikepdf.String("calc.exe"))
        page = pdf.pages[0]
        page.obj.AA = pikepdf.Dictionary(O=script)
        pdf.Root.OpenAction = script
        pdf.attachments["secret.txt"] = pikepdf.AttachedFileSpec(pdf, b"secret", filename="secret.txt")
        page.obj.Annots = pikepdf.Array(
            [pdf.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Link,
                                                  Rect=[0, 0, 100, 100], A=launch))]
        )  # fmt: skip
        page.obj.Resources.Font.F1.PieceInfo = pikepdf.Dictionary(Secret=pikepdf.String("of one program"))
        pdf.save(out)
    return out.getvalue()


def with_drawn(data: bytes, turn: int = 0) -> bytes:
    alone = run_limited(drawn_page, data, 0, turn)
    width, height = SIZE if turn % 180 == 0 else SIZE[::-1]
    page = replace(PAGES[0], width=width * 2, height=height * 2, drawn=lambda: alone)
    return bound(pages=[page, PAGES[1]], landings=[])


class Drawn(unittest.TestCase):
    def test_its_text_can_be_searched_and_its_picture_is_left_out(self) -> None:
        made = with_drawn(paper())
        sheet = pypdf.PdfReader(io.BytesIO(made)).pages[0]
        self.assertIn("sin h = 0.78788", sheet.extract_text())
        self.assertEqual(len(sheet.images), 0)
        with pypdfium2.PdfDocument(made) as document:
            self.assertIn("sin h = 0.78788", document[0].get_textpage().get_text_range())

    def test_it_looks_as_it_looked_upright_and_turned(self) -> None:
        """Drawn by PDFium before and after; the black bar stands where it stood."""
        for turn in (0, 90, 180, 270):
            with pypdfium2.PdfDocument(paper()) as document:
                before = np.rot90(document[0].render(scale=1).to_numpy()[:, :, 0], -turn // 90)
            with pypdfium2.PdfDocument(with_drawn(paper(), turn)) as document:
                after = document[0].render(scale=1).to_numpy()[:, :, 0]
            bar = [np.argwhere(one < 60).mean(axis=0) / one.shape for one in (before, after)]
            self.assertLess(float(np.abs(bar[0] - bar[1]).max()), 0.03, turn)

    def test_nothing_in_it_can_do_anything(self) -> None:
        made = with_drawn(armed())
        for word in (b"boo", b"calc.exe", b"secret", b"of one program", b"/JavaScript", b"/Launch"):
            with pikepdf.open(io.BytesIO(made)) as pdf:
                inside = b"".join(
                    one.unparse(resolved=True) for one in pdf.objects if not isinstance(one, pikepdf.Stream)
                )
            self.assertNotIn(word, inside)
        self.assertIn("sin h", pypdf.PdfReader(io.BytesIO(made)).pages[0].extract_text())

    def test_what_is_filled_in_or_written_over_it_is_drawn_into_it(self) -> None:
        out = io.BytesIO()
        canvas = Canvas(out, pagesize=SIZE, invariant=1)
        canvas.acroForm.textfield(name="answer", value="42.5", x=60, y=400, width=120, height=30)
        canvas.showPage()
        canvas.save()
        with pypdfium2.PdfDocument(with_drawn(out.getvalue())) as document:
            self.assertIn("42.5", document[0].get_textpage().get_text_range())

    def test_a_page_that_cannot_be_kept_for_ever_drops_the_claim_and_one_that_can_keeps_it(self) -> None:
        """ISO 19005-3, 6.2.11.4: fonts must be in the file; Helvetica is not, the footer's is."""
        pdfmetrics.registerFont(TTFont("kept", _font_file()))
        for font, claims in (("Helvetica", False), ("kept", True)):
            with pikepdf.open(io.BytesIO(with_drawn(paper(font)))) as pdf, pdf.open_metadata() as metadata:
                self.assertEqual(metadata.pdfa_status, "3B" if claims else "", font)

    def test_a_photograph_in_a_pdf_and_one_with_layers_stay_pictures(self) -> None:
        photo = io.BytesIO()
        canvas = Canvas(photo, pagesize=SIZE)
        canvas.drawInlineImage(Image.new("L", (200, 280), 200), 0, 0, *SIZE)
        canvas.save()
        self.assertEqual(run_limited(drawn_page, photo.getvalue(), 0, 0), b"")
        layered = io.BytesIO()
        with pikepdf.open(io.BytesIO(paper())) as pdf:
            pdf.Root.OCProperties = pikepdf.Dictionary(OCGs=pikepdf.Array(), D=pikepdf.Dictionary())
            pdf.save(layered)
        self.assertEqual(run_limited(drawn_page, layered.getvalue(), 0, 0), b"")

    def test_a_damaged_file_is_one_error(self) -> None:
        with self.assertRaises(PageError):
            run_limited(drawn_page, paper()[:200], 0, 0)

    def test_the_same_page_gives_the_same_bytes(self) -> None:
        self.assertEqual(with_drawn(paper()), with_drawn(paper()))


def _font_file() -> str:
    first_font()  # registered by then
    return str(pdfmetrics.getFont(first_font()).face.filename)
