"""Answer paper to print: with the name of the student who asks, and with none for staff."""

from __future__ import annotations

import io

import pypdf

from testing.desk import DeskTestCase


class PaperToPrint(DeskTestCase):
    def test_a_students_carries_name_and_number_and_that_of_staff_boxes_for_them(self) -> None:
        text = self.printed(self.as_(self.ilse).get(self.path("?ruling=squared&sides=3")).content, 3)
        self.assertIn(f"{self.ilse.name}   {self.ilse.number}", text)
        text = self.printed(self.as_(self.corin).get(self.path()).content, 4)
        self.assertIn("Number", text)
        self.assertNotIn(self.corin.name, text)

    def test_no_other_ruling_and_no_pile_of_paper(self) -> None:
        for query in ("?sides=0", "?sides=41", "?ruling=tartan"):
            self.assertEqual(self.as_(self.ilse).get(self.path(query)).status_code, 422)

    def path(self, query: str = "") -> str:
        return f"/api/assignments/{self.work.pk}/answer-paper.pdf{query}"

    def printed(self, data: bytes, sides: int) -> str:
        reader = pypdf.PdfReader(io.BytesIO(data))
        self.assertEqual(len(reader.pages), sides)
        return reader.pages[0].extract_text()
