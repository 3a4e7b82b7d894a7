"""Answer paper of ours: drawn as it is asked for, and what is written on it is read."""

from __future__ import annotations

import io
import random
import unittest

import numpy as np
import pypdfium2
from PIL import Image

from folio_camera.form_trials import written_over
from folio_camera.handwriting import BLUE_PEN, HANDS, SHEET_DPI, file_of
from folio_camera.many_hands import Kind, Pen
from folio_camera.photograph import photograph
from folio_camera.scene import Scene
from folio_core.binding import Paper
from folio_core.forms.answer_paper import COLUMN_MM, SIDE_MM, AnswerPaper, Ruling, draw_answer_paper
from folio_core.page import DEFAULT_LIMITS, Recipe, prepare
from folio_core.reading.engine import usual_engine

_MM = SHEET_DPI / 25.4


def drawn(ruling: Ruling, **more: str) -> bytes:
    return draw_answer_paper(AnswerPaper("NAV 231 · The noon sight", ruling, 2, Paper.A4.size_pt, **more))


class AnswerPapers(unittest.TestCase):
    def test_it_has_its_sides_its_size_and_the_name_where_one_is_given(self) -> None:
        for ruling in Ruling:
            with pypdfium2.PdfDocument(drawn(ruling, name="Ilse Marrow", number="30417")) as document:
                self.assertEqual(len(document), 2)
                self.assertAlmostEqual(document[1].get_width() / 72 * 25.4, 210, delta=0.1)
                text = document[1].get_textpage().get_text_range()
            for word in ("NAV 231 · The noon sight", "Ilse Marrow", "30417", "Question", "Page"):
                self.assertIn(word, text)
            self.assertEqual(drawn(ruling), drawn(ruling))
        with pypdfium2.PdfDocument(drawn(Ruling.RULED)) as document:
            self.assertIn("Number", document[0].get_textpage().get_text_range())

    def test_rulings_differ_as_they_say(self) -> None:
        """Dark runs down a column of the page and along a row of it, within the ruling."""
        counted = {}
        for ruling in Ruling:
            with pypdfium2.PdfDocument(drawn(ruling)) as document:
                grey = document[0].render(scale=3).to_numpy()[:, :, 0]
            height, width = grey.shape
            down = grey[round(height * 0.12) : round(height * 0.94), round(width * 0.93)]
            along = grey[round(height * 0.5) + 4, round(width * 0.2) : round(width * 0.94)]
            counted[ruling] = tuple(int((np.diff((row < 240).astype(int)) > 0).sum()) for row in (down, along))
        self.assertEqual(counted[Ruling.PLAIN], (0, 0))
        self.assertEqual(counted[Ruling.RULED][1], 0)
        self.assertGreater(counted[Ruling.RULED][0], 25)
        self.assertGreater(counted[Ruling.SQUARED][0], 40)
        self.assertGreater(counted[Ruling.SQUARED][1], 20)

    def test_too_many_sides_are_refused(self) -> None:
        for sides in (0, 41):
            with self.assertRaisesRegex(ValueError, "1 to 40 sides"):
                AnswerPaper("x", Ruling.PLAIN, sides, Paper.A4.size_pt)

    def test_labels_in_its_column_are_read(self) -> None:
        for ruling in Ruling:
            with pypdfium2.PdfDocument(drawn(ruling)) as document:
                print_ = document[0].render(scale=SHEET_DPI / 72).to_numpy()[:, :, 0].copy()
            ink = np.zeros(print_.shape, np.uint8)
            pen = Pen(ink, file_of(next(iter(HANDS))), Kind(height_mm=(3.0, 3.4)), random.Random(3))
            for y, label in ((45, "1a"), (85, "1b"), (125, "2")):
                pen.write(label, (SIDE_MM + 4) * _MM, y * _MM)
                pen.write("cos D = sin A sin B", (SIDE_MM + COLUMN_MM + 4) * _MM, y * _MM)
                pen.write("so it takes 24 minutes", (SIDE_MM + COLUMN_MM + 4) * _MM, (y + 8) * _MM)
            sheet = written_over((255 - print_.astype(np.float32)) / 255, ink, BLUE_PEN)
            shot = photograph(sheet, Scene(size=(1512, 2016), fill=0.9, tilt=0.12, rotation_deg=3.0), 7)
            page = prepare(shot.jpeg, 0, Recipe(), DEFAULT_LIMITS, None)
            with Image.open(io.BytesIO(page.image)) as image:
                reading = usual_engine().read(np.asarray(image.convert("RGB")))
            read = [mark.candidates[0].text for mark in reading.marks if mark.nothing < 0.2 and mark.left < 0.12]
            self.assertEqual(read, ["1a", "1b", "2"], ruling)
