"""The question paper as pictures."""

from __future__ import annotations

import io
from typing import Any

import pikepdf
from django.core.files.base import ContentFile
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob

from assignments.drawing import DRAW_PAPER, draw_paper, draw_what_was_left
from assignments.models import Assignment, PaperPage
from folio_core.page import PageError
from testing.desk import DeskTestCase


def pdf(*widths: int) -> bytes:
    out = io.BytesIO()
    with pikepdf.new() as document:
        for width in widths:
            document.add_blank_page(page_size=(width, 842))
        document.save(out)
    return out.getvalue()


class Drawing(DeskTestCase):
    def give(self, data: bytes, assignment: Assignment | None = None) -> None:
        (assignment or self.work).question_paper.save("paper.pdf", ContentFile(data))

    def pages(self, who: Any = None, assignment: Assignment | None = None) -> Any:
        path = f"/api/assignments/{(assignment or self.work).pk}/question-paper/pages"
        return self.as_(who or self.ilse).get(path)

    def test_each_page_is_drawn_once_by_the_worker(self) -> None:
        self.give(pdf(595, 842))
        self.assertEqual(self.pages().json(), {"state": "drawing", "pages": []})
        self.work.title += " corrected"
        self.work.save()
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=DRAW_PAPER, status="todo").count(), 1)
        for _ in range(2):
            draw_paper(self.work.pk)
        first, second = self.pages().json()["pages"]
        self.assertEqual((first["number"], first["height"], second["width"]), (1, 2000, second["height"]))
        answer = self.as_(self.ilse).get(first["address"])
        with Image.open(io.BytesIO(answer.content)) as image:
            self.assertEqual((image.format, image.size), ("JPEG", (first["width"], first["height"])))
        self.work.save()
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=DRAW_PAPER).count(), 1)

    def test_another_paper_takes_the_place_of_the_first(self) -> None:
        self.give(pdf(595, 595))
        draw_paper(self.work.pk)
        old = self.pages().json()["pages"][0]["address"]
        self.give(pdf(842))
        self.assertEqual(self.pages().json(), {"state": "drawing", "pages": []})
        draw_paper(self.work.pk)
        self.assertEqual(len(self.pages().json()["pages"]), 1)
        self.assertEqual(self.as_(self.ilse).get(old).status_code, 404)

    def test_a_timed_sittings_paper_is_seen_only_once_begun_and_by_nobody_else(self) -> None:
        self.give(pdf(595), self.sitting)
        draw_paper(self.sitting.pk)
        address = self.pages(self.corin, self.sitting).json()["pages"][0]["address"]
        self.assertEqual(self.pages(assignment=self.sitting).json()["code"], "not_begun")
        self.assertEqual(self.as_(self.ilse).get(address).json()["code"], "not_begun")
        self.assertEqual(self.pages(self.stranger, self.sitting).status_code, 404)
        self.assertEqual(self.as_(self.stranger).get(address).status_code, 404)

    def test_a_file_that_is_no_paper_draws_nothing(self) -> None:
        self.give(b"a text")
        with self.assertRaises(PageError):
            draw_paper(self.work.pk)
        self.assertFalse(PaperPage.objects.exists())
        draw_paper(10**6)
        self.assertEqual(self.pages().json()["state"], "drawing")  # it is tried again
        ProcrastinateJob.objects.filter(task_name=DRAW_PAPER).update(status="failed")
        self.assertEqual(self.pages().json()["state"], "failed")
        self.assertEqual(draw_what_was_left(), 0)

    def test_a_paper_that_nobody_tried_to_draw_is_drawn_after_all(self) -> None:
        self.give(pdf(595))
        ProcrastinateJob.objects.all().delete()
        self.assertEqual([draw_what_was_left() for _ in range(2)], [1, 0])
        draw_paper(self.work.pk)
        ProcrastinateJob.objects.all().delete()
        self.assertEqual(draw_what_was_left(), 0)
