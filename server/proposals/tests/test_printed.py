"""Printed sheets: what their pages' own places do to the board, and what is told of them."""

from __future__ import annotations

import io
from datetime import timedelta
from types import SimpleNamespace
from typing import Any
from unittest import mock

import numpy as np
from PIL import Image

from assignments import setting_up
from assignments.telling_papers import told
from folio_camera.form_trials import photographed
from folio_camera.printed_forms import PrintedForm, make_form
from folio_core.forms import Written
from folio_core.placing import read_arrangement
from pages.models import Page
from plumbing.storage import registered_folders
from proposals.models import ReadPage
from proposals.printed import Sheets, place_sheets, sheet_in, sheets_of
from testing.desk import NOW, DeskTestCase, picture


class PrintedSheets(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.one, self.two, self.three = (self.id_of(label) for label in ("1a", "1b", "2"))
        self.work.on_paper = True
        self.work.answer_spaces = {
            question: [[page, 50, 100, 500, 300]] for page, question in enumerate((self.one, self.two, self.three))
        }
        self.work.save()
        self.folio.refresh_from_db()
        for shade in (1, 2, 3):
            self.send(picture(shade), f"IMG_{shade}.jpg")
        self.work_off_jobs()
        self.pages = list(Page.objects.order_by("pk").values_list("pk", flat=True))

    def told(
        self, page: int, sheet: int | None, *, empty: tuple[str, ...] = (), confidence: float = 0.99, copy: int = 0,
        **more: Any,
    ) -> None:  # fmt: skip
        questions = {0: self.one, 1: self.two, 2: self.three}
        kept: dict[str, Any] = {"page": None}
        if sheet is not None:
            tops = more.pop("tops", None) or {questions[sheet]: 0.25}
            kept = {
                "page": sheet, "confidence": confidence, "copy": copy, "tops": tops, "empty": list(empty),
                "ink": {one: 0.0 if one in empty else 80.0 for one in tops}, "covered": False, **more,
            }  # fmt: skip
        ReadPage.objects.update_or_create(
            page_id=page,
            defaults={"image": Page.objects.get(pk=page).image, "kept_reading": {}, "read_at": NOW, "kept_sheet": kept},
        )

    def placed(self) -> tuple[list[int], dict[str, list[int]]]:
        self.folio.refresh_from_db()
        board = read_arrangement(self.folio.arrangement)
        return list(board.pages), {one: [spot.page for spot in row] for one, row in board.placements.items()}

    def tell_all(self) -> None:
        for page, sheet in zip(self.pages, (2, 0, 1), strict=True):
            self.told(page, sheet)
            place_sheets(self.folio.pk, NOW)

    def test_in_any_order_they_come_to_lie_in_the_papers_and_are_placed_at_their_tops(self) -> None:
        self.tell_all()
        first, second, third = self.pages
        self.assertEqual(
            self.placed(), ([second, third, first], {self.one: [second], self.two: [third], self.three: [first]})
        )
        self.assertEqual(read_arrangement(self.folio.arrangement).placements[self.one][0].top, 0.25)
        self.assertEqual(self.folio.events.filter(kind="placed_by_sheet").count(), 3)

    def test_a_question_that_left_the_map_is_not_placed(self) -> None:
        self.work.questions.get(label="1b").delete()
        self.tell_all()
        self.assertEqual(set(self.placed()[1]), {self.one, self.three})

    def test_what_a_person_did_is_left_and_each_page_is_placed_only_once(self) -> None:
        self.arrange(3, order=self.pages, placements={"2": [{"page": self.pages[1]}]}, loose=[self.pages[2]])
        self.tell_all()
        self.assertEqual(self.placed()[1], {self.three: [self.pages[1], self.pages[0]]})
        version = self.folio.version
        self.arrange(version, order=self.pages, placements={"2": [{"page": self.pages[1]}]}, loose=[self.pages[2]])
        place_sheets(self.folio.pk, NOW)
        self.assertEqual(self.placed()[1], {self.three: [self.pages[1]]})

    def test_an_order_made_by_hand_is_kept_when_another_sheet_comes(self) -> None:
        first, second, third = self.pages
        for page, sheet in ((first, 0), (second, 1)):
            self.told(page, sheet)
            place_sheets(self.folio.pk, NOW)
        self.folio.refresh_from_db()
        board = read_arrangement(self.folio.arrangement)
        spots = {label: [{"page": page}] for label, page in (("1a", first), ("1b", second))}
        self.arrange(self.folio.version, order=[second, first, third], placements=spots)
        self.told(third, 2)
        place_sheets(self.folio.pk, NOW)
        self.assertEqual(self.placed()[0], [second, first, third])
        self.assertEqual(board.pages, (first, second, third))

    def test_less_sure_it_is_left_to_the_student_and_after_the_close_nothing_moves(self) -> None:
        self.told(self.pages[0], 2, confidence=0.8)
        place_sheets(self.folio.pk, NOW)
        self.assertEqual(self.placed()[1], {})
        self.told(self.pages[0], 2)
        place_sheets(self.folio.pk, NOW + timedelta(days=2))
        self.assertEqual(self.placed()[1], {})

    def test_what_is_missing_empty_twice_strange_or_anothers_is_told(self) -> None:
        self.told(self.pages[0], 0, empty=(self.one,), copy=self.tobin.pk)
        place_sheets(self.folio.pk, NOW)
        self.folio.refresh_from_db()
        self.assertEqual(sheets_of(self.folio).waiting, 2)  # type: ignore[union-attr]
        self.told(self.pages[1], 0)
        self.told(self.pages[2], None)
        self.folio.refresh_from_db()
        told = self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()["sheets"]
        self.assertEqual((told["waiting"], told["pages"], told["missing"]), (0, 3, [2, 3]))
        self.assertEqual(told["empty"], [self.one])  # nothing was placed for it
        (twice,) = told["twice"]
        self.assertEqual((twice["pages"], twice["better"]), (self.pages[:2], self.pages[1]))
        self.assertEqual((told["unknown"], told["others"]), ([self.pages[2]], [self.pages[0]]))

    ADVICE = (("out_of_focus", None), ("seen_before", 1))

    def sheets(self) -> Sheets:
        self.folio.refresh_from_db()
        sheets = sheets_of(self.folio)
        assert sheets is not None
        return sheets

    def better(self) -> tuple[int | None, list[tuple[int, str]]]:
        (twice,) = self.sheets().twice
        return twice.better, [(one.page, one.drawback.value) for one in twice.worse]

    def test_of_the_same_page_twice_the_better_picture_is_named_with_what_speaks_against_the_other(self) -> None:
        first, second, third = self.pages
        self.told(third, 2)
        self.told(first, 0)
        self.told(second, 0, empty=(self.one,))
        self.assertEqual(self.better(), (first, [(second, "less_written")]))
        self.told(second, 0)
        advice = [{"code": code, "where": None, "other": other} for code, other in self.ADVICE]
        Page.objects.filter(pk__in=(first, third)).update(advice=advice)
        self.assertEqual(self.better(), (second, [(first, "out_of_focus")]))
        told = self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()["pages"]
        codes = {page["id"]: [one["code"] for one in page["advice"]] for page in told}
        self.assertEqual((codes[first], codes[third]), (["out_of_focus"], ["out_of_focus", "seen_before"]))
        self.told(second, 0, copy=self.tobin.pk)
        self.assertEqual(self.better(), (first, [(second, "anothers_copy")]))
        self.told(second, 0, ink={self.one: None}, covered=True)
        self.assertEqual(self.better(), (first, [(second, "not_all_seen")]))

    def test_none_is_named_where_it_is_not_known_what_is_written_on_each(self) -> None:
        for page in self.pages[:2]:
            self.told(page, 0)
        read = ReadPage.objects.get(page=self.pages[0])
        del read.kept_sheet["ink"], read.kept_sheet["covered"]  # as it was kept before
        read.save()
        self.assertEqual(self.better(), (None, []))

    def test_pages_that_are_meant_to_be_there_twice_are_not_told_until_another_comes(self) -> None:
        first, second, third = self.pages
        for page in (first, second):
            self.told(page, 0)
        placements = {"1a": [{"page": page} for page in (first, second)]}
        self.arrange(3, order=self.pages, placements=placements, dismissed={str(second): ["seen_before"]})
        self.assertEqual(self.sheets().twice, ())
        self.told(third, 0)
        (twice,) = self.sheets().twice
        self.assertEqual(twice.pages, (first, third))

    def test_written_on_a_paper_that_was_replaced_the_pages_of_that_one_are_asked_for(self) -> None:
        questions = (self.one, self.two, self.three)
        old = {question: [[page, 50, 100, 500, 300]] for page, question in enumerate((self.one, self.three, self.two))}
        self.work.former_papers = [{"paper": "old.pdf", "spaces": old}]
        self.work.answer_spaces = {question: [[page + 1, 50, 100, 500, 300]] for page, question in enumerate(questions)}
        self.work.save()
        first, second, third = self.pages
        self.told(first, 0, paper="old.pdf")
        for page in (second, third):
            self.told(page, None)
        self.assertEqual((self.sheets().pages, self.sheets().missing), (3, (2, 3)))
        # Two of the new one, where each question is a page further down: what the old one has is not missing there.
        self.told(second, 2, tops={self.two: 0.1})
        self.told(third, 3, tops={self.three: 0.1})
        self.assertEqual((self.sheets().pages, self.sheets().missing), (4, ()))
        # The third page of the one and the third page of the other are not the same page.
        self.told(first, 2, paper="old.pdf")
        self.assertEqual((self.sheets().twice, self.sheets().missing), ((), (2,)))
        self.told(second, None)
        self.assertEqual(self.sheets().missing, (2, 3))

    def test_of_other_work_nothing_is_said(self) -> None:
        type(self.work).objects.update(on_paper=False)
        self.tell_all()
        self.assertIsNone(self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()["sheets"])


class ReplacedPapers(DeskTestCase):
    """What was printed before the paper was replaced is read by the paper it was printed from."""

    def setUp(self) -> None:
        super().setUp()
        self.first, self.second = make_form("boxes", 11, pages=2), make_form("lines", 5, pages=2)
        self.questions = [self.id_of(label) for label in ("1a", "1b", "2")]
        setting_up.set_paper(self.work, "first.pdf", self.first.pdf)
        self.work.on_paper = True
        self.work.answer_spaces = self.spaces(self.first)
        self.work.save()

    def spaces(self, form: PrintedForm) -> dict[str, list[list[float]]]:
        on_first = iter(boxes for boxes in form.spaces.values() if boxes[0][0] == 0)
        return {question: [list(box) for box in own] for question, own in zip(self.questions, on_first, strict=False)}

    def sheet(self, form: PrintedForm) -> dict[str, Any]:
        data = photographed(form, 0, list(form.spaces), 3, (1134, 1512))
        pixels = np.asarray(Image.open(io.BytesIO(data)).convert("RGB"))
        return sheet_in(pixels, told(pixels, self.work, is_sheet=False))

    def test_copies_of_the_paper_before_are_told_with_their_own_spaces(self) -> None:
        before = self.sheet(self.first)
        self.assertEqual(before["page"], 0)
        setting_up.set_paper(self.work, "second.pdf", self.second.pdf)
        self.assertEqual(self.work.answer_spaces, {})  # those of the new paper are read from it, and kept anew
        self.assertEqual(self.sheet(self.first), before)
        self.work.answer_spaces = {self.questions[0]: self.spaces(self.second)[self.questions[0]]}
        self.work.save()
        now = self.sheet(self.second)
        self.assertEqual((now["page"], list(now["tops"])), (0, [self.questions[0]]))
        self.assertEqual(self.sheet(self.first), before)
        self.assertIn(self.work.former_papers[0]["paper"], self.kept_papers())

    def test_of_two_papers_that_both_fit_the_better_one_tells_and_of_equals_the_newer(self) -> None:
        setting_up.set_paper(self.work, "second.pdf", self.second.pdf)
        old, new = [[0, 50, 400, 500, 500]], [[0, 50, 100, 500, 200]]
        self.work.answer_spaces, self.work.former_papers[0]["spaces"] = {"new": new}, {"old": old}
        pixels = np.full((842, 595, 3), 255, np.uint8)
        for of_new, of_old, better in ((0.9, 0.6, "new"), (0.6, 0.9, "old"), (0.9, 0.9, "new")):
            fits = [
                SimpleNamespace(is_known=True, confidence=confidence, page=0, homography=np.eye(3))
                for confidence in (of_new, of_old)
            ]
            with (
                mock.patch("folio_core.forms.register", side_effect=fits),
                mock.patch("folio_core.forms.written_on", return_value=Written([], {}, is_covered=False)),
            ):
                sheet = sheet_in(pixels, told(pixels, self.work, is_sheet=True))
            self.assertEqual((list(sheet["tops"]), sheet["confidence"]), ([better], max(of_new, of_old)))

    def kept_papers(self) -> set[str]:
        return next(one.named_files() for one in registered_folders() if one.name == "question-papers")

    def test_the_same_file_again_changes_nothing(self) -> None:
        spaces = self.work.answer_spaces
        setting_up.set_paper(self.work, "again.pdf", self.first.pdf)
        self.assertEqual((self.work.answer_spaces, self.work.former_papers), (spaces, []))
