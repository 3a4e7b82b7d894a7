"""Answers on the screen are handed in, frozen, bound and listed in the receipt like pages."""

from __future__ import annotations

import io
import re
import subprocess
from dataclasses import replace
from typing import Any

import pikepdf
import pypdf
from django.core.files.storage import default_storage

from answers.models import Answer
from answers.tests.test_saving import CHOSEN, SavingTestCase
from assignments.models import Question
from editions.closing import close
from editions.collecting import by_question
from editions.files import bound_name
from editions.models import Edition, counting
from folio_core.answers import Answering, AnswerKind
from folio_core.answers.content import AnswerContent
from marking.marked_documents import marked_documents
from testing.desk import NOW, picture


class HandingInAnswers(SavingTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.save("1a", 0, written="Since $v^2 = 2gh$, *so it is*.")
        self.save("1b", 0, chosen=["b"])

    def reading(self, number: int, by: Any) -> dict[str, Any]:
        told: dict[str, Any] = self.ask("get", f"folios/{self.folio.pk}/editions/{number}/reading", by=by).json()
        return told

    def bound(self, edition: Edition) -> bytes:
        with default_storage.open(bound_name(edition.folio_id, edition.file_sha256)) as file:
            data: bytes = file.read()
        return data

    def test_a_folio_with_answers_and_no_page_can_be_handed_in_and_one_with_neither_cannot(self) -> None:
        self.assertEqual(self.hand_in().status_code, 200)
        edition = Edition.objects.get()
        self.assertEqual((edition.page_count, edition.open_labels, edition.answers.count()), (0, ["2"], 2))
        Answer.objects.update(kept_content={})
        self.assertEqual(self.hand_in(seen_edition=1).json()["code"], "empty_folio")

    def test_it_is_settled_when_it_is_given_and_what_is_asked_besides_is_not(self) -> None:
        both = Answering((AnswerKind.WRITTEN, AnswerKind.PAGES), "Why?")
        Question.objects.filter(pk=self.id_of("1a")).update(kept_answering=both.as_document())
        draft = self.ask("get", f"folios/{self.folio.pk}/draft", by=self.ilse).json()
        states = {one["label"]: (one["state"], one["missing"]) for one in draft["questions"]}
        self.assertEqual(states["1a"], ("open", ["pages"]))
        self.assertEqual(states["1b"], ("placed", []))
        self.assertEqual(states["2"], ("open", ["pages"]))

    def test_what_is_answered_is_not_told_as_left_blank(self) -> None:
        self.arrange(0, left_blank=["1a", "2"])
        draft = self.ask("get", f"folios/{self.folio.pk}/draft", by=self.ilse).json()
        self.assertEqual([one["state"] for one in draft["questions"]], ["placed", "placed", "left_blank"])

    def test_what_was_handed_in_stays_whatever_is_typed_or_asked_later(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        before = self.reading(1, self.corin)["on_screen"]
        self.save("1a", 1, written="another")
        Question.objects.filter(pk=self.id_of("1b")).update(kept_answering={}, title="new")
        self.assertEqual(self.reading(1, self.corin)["on_screen"], before)
        self.assertEqual(before[0]["written"], "Since $v^2 = 2gh$, *so it is*.")

    def test_the_bound_document_holds_them_as_text_behind_the_pages_with_an_entry_each(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.arrange(1, order=[page], placements={"2": [{"page": page}]})
        self.hand_in()
        self.work_off_jobs()
        edition = Edition.objects.get()
        data = self.bound(edition)
        pdf = pypdf.PdfReader(io.BytesIO(data))
        self.assertEqual(len(pdf.pages), 2)
        said = pdf.pages[1].extract_text()
        told = subprocess.run(["pdftotext", "-", "-"], input=data, capture_output=True, check=True).stdout.decode()
        for text in (said, told):
            for piece in ("so it is", "choice a", "choice b", "choice d", "chosen", "page 2 of 2"):
                self.assertIn(piece, text)
        landings = {str(one.title): pdf.get_destination_page_number(one) for one in pdf.outline}  # type: ignore[union-attr, arg-type]
        self.assertEqual(landings, {"1a": 1, "1b": 1, "2": 0})
        with pikepdf.open(io.BytesIO(data)) as opened:
            figures = opened.Root.StructTreeRoot.K[0].K
            self.assertIn("typed answers to 1a, 1b", str(figures[1].Alt))
            self.assertIn("/OutputIntents", opened.Root)
            self.assertIn("pdfaid", str(opened.Root.Metadata.read_bytes()))

    def test_where_the_question_says_so_it_stands_before_the_pages_on_sheets_of_roman_numbers(self) -> None:
        self.answered(self.id_of("1b"), replace(CHOSEN, before_pages=True))
        page = self.send(picture()).json()["page_id"]
        self.arrange(1, order=[page], placements={"2": [{"page": page}]})
        self.hand_in()
        self.work_off_jobs()
        edition = Edition.objects.get()
        pdf = pypdf.PdfReader(io.BytesIO(self.bound(edition)))
        self.assertEqual(pdf.page_labels, ["i", "1", "2"])
        feet = [re.findall(r"page \w+ of \d+", one.extract_text()) for one in pdf.pages]
        self.assertEqual(feet, [["page i of 2"], ["page 1 of 2"], ["page 2 of 2"]])
        self.assertIn("choice b", pdf.pages[0].extract_text())
        self.assertIn("so it is", pdf.pages[2].extract_text())
        landings = {str(one.title): pdf.get_destination_page_number(one) for one in pdf.outline}  # type: ignore[union-attr, arg-type]
        self.assertEqual(landings, {"1a": 2, "1b": 0, "2": 1})
        pages = {one.question: one.bound_pages for one in edition.answers.all()}
        self.assertEqual(pages, {self.id_of("1a"): [3], self.id_of("1b"): [1]})
        (entry,) = [one for one in by_question(self.work) if one.name.endswith("question_2.pdf")]
        apart = pypdf.PdfReader(io.BytesIO(b"".join(entry.read())))
        self.assertIn("page 1 of 2", apart.pages[0].extract_text())
        (given,) = marked_documents(self.work)
        marked = pypdf.PdfReader(io.BytesIO(b"".join(given.read())))
        self.assertEqual(["/Annots" in one for one in marked.pages], [False, True, False])

    def test_taken_away_by_question_each_pdf_holds_the_sheets_of_its_answers(self) -> None:
        self.save("1a", 1, written="line\n\n" * 60)  # two sheets of it
        self.hand_in()
        self.work_off_jobs()
        edition = Edition.objects.get()
        pages = {one.question: one.bound_pages for one in edition.answers.all()}
        self.assertEqual(pages, {self.id_of("1a"): [1, 2], self.id_of("1b"): [2]})
        (entry,) = [one for one in by_question(self.work) if "1b" in one.name]
        text = pypdf.PdfReader(io.BytesIO(b"".join(entry.read()))).pages[0].extract_text()
        self.assertIn("choice b", text)

    def test_the_receipt_lists_the_hash_of_each(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        edition = Edition.objects.get()
        assert edition.receipt is not None
        listed = {one["label"]: one for one in edition.receipt["statement"]["manifest"]["answers"]}
        self.assertEqual(listed["1b"]["sha256"], AnswerContent(chosen=("b",)).sha256)
        self.assertEqual(listed["1a"]["kinds"], ["written"])
        told = self.ask("get", f"folios/{self.folio.pk}/editions/1", by=self.ilse).json()
        self.assertEqual([one["label"] for one in told["on_screen"]], ["1a", "1b"])
        document = self.ask("get", f"folios/{self.folio.pk}/editions/1/receipt.pdf", by=self.ilse).content
        text = pypdf.PdfReader(io.BytesIO(document)).pages[0].extract_text()
        self.assertIn("Answers on the screen", text)

    def test_what_it_is_worth_by_itself_is_told_to_who_reads_it_and_not_to_its_student(self) -> None:
        self.hand_in()
        self.work_off_jobs()
        answers = {one["label"]: one for one in self.reading(1, self.corin)["on_screen"]}
        self.assertEqual(answers["1b"]["judged"], {"is_right": True, "words": "the right choice"})
        self.assertIsNone(answers["1a"]["judged"])
        self.assertEqual([one["right"] for one in answers["1b"]["choices"] if one["chosen"]], [True])
        own = {one["label"]: one for one in self.reading(1, self.ilse)["on_screen"]}
        self.assertIsNone(own["1b"]["judged"])
        self.assertTrue(all(one["right"] is None for one in own["1b"]["choices"]))

    def test_at_the_close_what_was_typed_is_handed_in_by_itself(self) -> None:
        close(self.folio.pk, NOW)
        self.at(days=2)
        self.assertTrue(close(self.folio.pk, self.clock.return_value))
        edition = Edition.objects.get()
        self.assertTrue(edition.automatic)
        self.assertEqual(edition.answers.count(), 2)

    def test_the_close_hands_in_what_was_typed_since_and_takes_nothing_away(self) -> None:
        self.hand_in()
        self.save("1a", 1, written="")
        self.save("1b", 1, chosen=["c"])
        told = self.board()["changed"]
        self.assertEqual(told["what"], ["another answer on the screen to 1a, 1b"])
        self.assertEqual(told["by_itself"], ["another answer on the screen to 1b"])
        self.assertEqual(told["left_out"], ["another answer on the screen to 1a"])
        self.at(days=2)
        close(self.folio.pk, self.clock.return_value)
        newest = counting(self.folio)
        assert newest is not None
        contents = {one.question: one.content for one in newest.answers.all()}
        self.assertEqual(contents[self.id_of("1b")].chosen, ("c",))
        self.assertIn("so it is", contents[self.id_of("1a")].written)

    def test_nothing_typed_since_makes_no_edition_at_the_close(self) -> None:
        self.hand_in()
        self.at(days=2)
        close(self.folio.pk, self.clock.return_value)
        self.assertEqual(Edition.objects.count(), 1)

    def test_the_same_answers_count_as_of_when_they_were_handed_in_and_others_do_not(self) -> None:
        self.hand_in()
        self.at(minutes=5)
        self.hand_in(seen_edition=1)
        self.at(minutes=10)
        self.save("1b", 1, chosen=["d"])
        self.hand_in(seen_edition=2)
        second, third = (Edition.objects.get(number=number) for number in (2, 3))
        self.assertEqual(second.counts_at, NOW)
        self.assertIsNone(third.counts_at)

    def test_two_editions_side_by_side_show_the_answers_that_differ(self) -> None:
        self.hand_in()
        self.save("1b", 1, chosen=["d"])
        self.hand_in(seen_edition=1)
        told = self.ask("get", f"folios/{self.folio.pk}/editions/1/compared/2", by=self.ilse).json()["answers"]
        self.assertEqual([one["label"] for one in told], ["1b"])
        chosen = [[c["text"] for c in told[0][side]["choices"] if c["chosen"]] for side in ("before", "after")]
        self.assertEqual(chosen, [["choice b"], ["choice d"]])

    def test_as_it_happens_who_answers_on_the_screen_is_not_taken_for_one_who_has_nothing(self) -> None:
        def line() -> dict[str, Any]:
            lines = self.ask("get", f"assignments/{self.work.pk}/sitting").json()["lines"]
            found: dict[str, Any] = next(one for one in lines if one["folio_id"] == self.folio.pk)
            return found

        self.at(hours=23, minutes=50)
        self.assertEqual((line()["answers"], line()["needs"]), (2, []))
        Answer.objects.update(kept_content=AnswerContent().as_document())
        self.assertEqual((line()["answers"], line()["needs"]), (0, ["no_page"]))

    def test_a_marker_of_some_questions_sees_their_answers_only(self) -> None:
        self.hand_in()
        marker = self.person("maud@kestrelpoint.example", "Maud", role="marker")
        line = self.course.roster.get(person=marker)
        scope = {"reads": True, "questions": [int(self.id_of("1b"))]}
        self.assertEqual(self.ask("put", f"assignments/{self.work.pk}/markers/{line.pk}", scope).status_code, 200)
        self.assertEqual([one["label"] for one in self.reading(1, marker)["on_screen"]], ["1b"])

    def test_choices_stand_in_the_bound_document_as_its_student_saw_them(self) -> None:
        self.hand_in()
        seen = [one["text"] for one in next(q for q in self.board()["questions"] if q["label"] == "1b")["choices"]]
        read = next(one for one in self.reading(1, self.corin)["on_screen"] if one["label"] == "1b")
        self.assertEqual([one["text"] for one in read["choices"]], seen)
        self.assertEqual(len(seen), len(CHOSEN.choices))
