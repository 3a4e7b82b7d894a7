"""Saving what is typed: nothing that was acknowledged is lost, and nothing is written over unseen."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pikepdf
import pypdfium2
from django.core.files.storage import default_storage
from django.utils import timezone
from hypothesis import given, settings
from hypothesis import strategies as st
from pypdfium2.raw import FPDF_PAGEOBJ_IMAGE

from answers.models import Answer, SetAside
from assignments.models import Question
from editions.files import bound_name
from editions.models import Edition
from folio_core.answers import Answering, AnswerKind, Choice, ShortAnswer
from pages.models import Page
from testing.desk import DeskTestCase, picture

FOUR = tuple(Choice(letter, f"choice {letter}") for letter in "abcd")
WRITTEN = Answering((AnswerKind.WRITTEN,), "Why?")
CHOSEN = Answering((AnswerKind.CHOSEN,), "Which?", FOUR, mixed=True, right=("b",), short=ShortAnswer(expected="7"))


class SavingTestCase(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.answered(self.id_of("1a"), WRITTEN)
        self.answered(self.id_of("1b"), CHOSEN)

    def answered(self, question: str, answering: Answering) -> None:
        Question.objects.filter(pk=question).update(kept_answering=answering.as_document())

    def save(self, label: str, version: int, by: Any = None, **content: Any) -> Any:
        path = f"folios/{self.folio.pk}/answers/{self.id_of(label)}"
        return self.ask("put", path, {"version": version, "content": content}, by=by or self.ilse)

    def board(self) -> dict[str, Any]:
        told: dict[str, Any] = self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()
        return told

    def kinds_of_events(self) -> list[str]:
        return [row.kind for row in self.folio.events.all()]


class Saving(SavingTestCase):
    def test_it_is_saved_with_its_version_and_shown_on_the_board(self) -> None:
        self.assertEqual(self.board()["answers"], [])
        told = self.save("1a", 0, written="so $x$").json()
        self.assertEqual((told["version"], told["content"]["written"], told["given"]), (1, "so $x$", ["written"]))
        self.assertEqual(self.save("1a", 1, written="so $y$").json()["version"], 2)
        (answer,) = self.board()["answers"]
        self.assertEqual((answer["question"], answer["content"]["written"]), (self.id_of("1a"), "so $y$"))

    def test_sent_twice_on_a_bad_line_it_is_one_save(self) -> None:
        self.save("1a", 0, written="one")
        again = self.save("1a", 0, written="one")
        self.assertEqual((again.status_code, again.json()["version"]), (200, 1))
        self.assertEqual(SetAside.objects.count(), 0)

    def test_made_on_an_older_state_it_is_kept_beside_the_newer_one_and_told(self) -> None:
        self.save("1a", 0, written="from the phone")
        stale = self.save("1a", 0, written="from the computer")
        self.assertEqual(stale.status_code, 409)
        newer = stale.json()["answer"]
        self.assertEqual((newer["version"], newer["content"]["written"]), (1, "from the phone"))
        self.assertEqual([one["content"]["written"] for one in newer["set_aside"]], ["from the computer"])
        self.save("1a", 0, written="from the computer")  # sent twice
        (answer,) = self.board()["answers"]
        self.assertEqual(len(answer["set_aside"]), 1)
        path = f"folios/{self.folio.pk}/set-aside/{answer['set_aside'][0]['id']}"
        self.assertEqual(self.ask("delete", path, by=self.tobin).status_code, 404)
        self.assertEqual(self.ask("delete", path, by=self.ilse).status_code, 204)
        self.assertEqual(self.board()["answers"][0]["set_aside"], [])
        self.assertEqual(SetAside.objects.get().content.written, "from the computer")  # it stays in the database

    def test_after_the_close_nothing_is_taken_and_what_was_typed_before_stays(self) -> None:
        self.save("1a", 0, written="in time")
        self.at(days=3)
        late = self.save("1a", 1, written="too late")
        self.assertEqual((late.status_code, late.json()["code"]), (403, "closed"))
        self.assertEqual(Answer.objects.get().content.written, "in time")

    def test_what_is_no_answer_is_refused_in_words_and_changes_nothing(self) -> None:
        for label, content, code in (
            ("1a", {"short": "3"}, "bad_answer"),  # it asks for text
            ("1b", {"chosen": ["a", "b"]}, "bad_answer"),  # one only
            ("1a", {"written": "x" * 30_001}, "bad_answer"),
            ("1b", {"chosen": ["a", "a"]}, "bad_answer"),
        ):
            refused = self.save(label, 0, **content)
            self.assertEqual((refused.status_code, refused.json()["code"]), (422, code), content)
        gone = self.ask("put", f"folios/{self.folio.pk}/answers/999999", {"version": 0, "content": {}}, by=self.ilse)
        self.assertEqual((gone.status_code, gone.json()["code"]), (404, "no_question"))
        self.assertEqual(Answer.objects.count(), 0)

    def test_ten_thousand_lines_are_taken_where_they_are_short_enough(self) -> None:
        self.assertEqual(self.save("1a", 0, written="x\n" * 10_000).status_code, 200)

    def test_a_choice_that_was_taken_off_the_list_since_is_kept_and_harms_nothing(self) -> None:
        self.save("1b", 0, chosen=["a"])
        self.answered(self.id_of("1b"), Answering((AnswerKind.CHOSEN,), "Which?", FOUR[1:]))
        self.assertEqual(self.save("1b", 1, chosen=["a", "c"]).status_code, 200)
        self.assertEqual(Answer.objects.get().content.chosen, ("a", "c"))

    def test_the_record_says_when_an_answer_was_given_changed_and_taken_out_but_not_each_letter(self) -> None:
        for version, text in enumerate(("s", "so", "so i", "so it")):
            self.save("1a", version, written=text)
        self.assertEqual(self.kinds_of_events().count("answered"), 1)
        self.at(minutes=2)
        self.save("1a", 4, written="so it is")
        self.save("1a", 5, written=" ")
        events = [row.event for row in self.folio.events.filter(kind="answered")]
        self.assertEqual([(one.version, one.is_empty) for one in events], [(1, False), (5, False), (6, True)])

    def test_what_is_right_is_never_told_to_a_student(self) -> None:
        told = self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).content.decode()
        self.assertIn("choice b", told)
        self.assertNotIn("right", told)
        self.assertNotIn("expected", told)

    def test_each_student_has_an_order_of_choices_of_their_own_that_stays(self) -> None:
        def order() -> list[str]:
            question = next(one for one in self.board()["questions"] if one["label"] == "1b")
            return [one["id"] for one in question["choices"]]

        self.assertEqual(order(), order())
        self.assertEqual(sorted(order()), list("abcd"))

    def test_before_it_is_begun_nothing_of_what_is_asked_is_told(self) -> None:
        question = self.sitting.questions.get(label="1b")
        self.answered(str(question.pk), CHOSEN)
        told = self.ask("get", f"assignments/{self.sitting.pk}/brief", by=self.tobin).content.decode()
        self.assertNotIn("choice", told.replace("choices", ""))

    def test_whatever_two_devices_type_nothing_that_was_acknowledged_is_lost(self) -> None:
        """Each device types on what it saw last; ``looks``: it asks for the newer state first. All that was sent is the
        answer, was replaced by who had seen it, or lies beside."""
        steps_of_devices = st.lists(
            st.tuples(st.sampled_from("pc"), st.booleans(), st.text("abc", min_size=1, max_size=3)), max_size=12
        )

        @settings(max_examples=25, deadline=None)
        @given(steps_of_devices)
        def check(steps: list[tuple[str, bool, str]]) -> None:
            SetAside.objects.all().delete()
            Answer.objects.all().delete()
            seen = {"p": (0, ""), "c": (0, "")}
            replaced: set[str] = set()
            for device, looks, text in steps:
                newest = Answer.objects.first()
                if looks and newest:
                    seen[device] = (newest.version, newest.content.written)
                version, shown = seen[device]
                done = self.save("1a", version, written=text)
                if done.status_code == 200:
                    replaced.add(shown)
                    seen[device] = (done.json()["version"], text)
            kept = {one.content.written for one in [*Answer.objects.all(), *SetAside.objects.all()]}
            self.assertLessEqual({text for _, _, text in steps} - replaced, kept)

        check()


class Pictures(SavingTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.answered(self.id_of("1b"), Answering((AnswerKind.PICTURES,), "Draw it."))
        self.page = self.send(picture()).json()["page_id"]
        self.work_off_jobs()
        advice = [{"code": code, "where": None} for code in ("no_page", "out_of_focus")]
        Page.objects.update(advice=advice)

    def advice(self) -> list[str]:
        return [one["code"] for one in self.board()["pages"][0]["advice"]]

    def test_a_picture_at_its_question_need_be_no_sheet_and_elsewhere_it_is_a_page_again(self) -> None:
        self.assertEqual(self.advice(), ["no_page", "out_of_focus"])
        self.arrange(1, order=[self.page], placements={"1b": [{"page": self.page}]})
        self.assertEqual(self.advice(), ["out_of_focus"])
        self.arrange(2, order=[self.page], placements={"1b": [{"page": self.page}], "2": [{"page": self.page}]})
        self.assertEqual(self.advice(), ["no_page", "out_of_focus"])

    def test_it_is_bound_as_wide_as_its_student_wants(self) -> None:
        arranged = {"order": [self.page], "placements": {"1b": [{"page": self.page}]}}
        self.assertEqual(self.arrange(1, **arranged, scales={str(self.page): 0.3}).status_code, 422)
        widths = []
        for at, scales in enumerate(({}, {str(self.page): 0.5})):
            self.arrange(1 + at, **arranged, scales=scales)
            self.hand_in(seen_edition=at)
            self.work_off_jobs()
            edition = Edition.objects.order_by("-number").first()
            assert edition is not None
            with default_storage.open(bound_name(edition.folio_id, edition.file_sha256)) as file:
                (picture_,) = pypdfium2.PdfDocument(file.read())[0].get_objects(filter=(FPDF_PAGEOBJ_IMAGE,))
                left, _, right, _ = picture_.get_bounds()
            widths.append(right - left)
        self.assertAlmostEqual(widths[1] / widths[0], 0.5, places=3)
        compared = self.ask("get", f"folios/{self.folio.pk}/editions/1/compared/2").json()
        self.assertEqual([one["differs"] for one in compared["after"]["pages"]], [["corrected"]])
        self.assertEqual(self.ask("get", f"folios/{self.folio.pk}/editions/2/reading").json()["pages"][0]["scale"], 0.5)
        sheet = {"order": [self.page], "placements": {"1b": [{"page": self.page}], "2": [{"page": self.page}]}}
        self.arrange(3, **sheet, scales={str(self.page): 0.5})
        draft = self.ask("get", f"folios/{self.folio.pk}/draft", by=self.ilse).json()
        self.assertEqual(draft["pages"][0]["scale"], 1.0)  # on another question too it is a page like others

    def test_its_description_is_read_with_it_and_bound_for_those_who_cannot_see_it(self) -> None:
        words = {str(self.page): "A curve that rises from 0.8 m."}
        self.arrange(1, order=[self.page], placements={"1b": [{"page": self.page}]}, descriptions=words)
        self.hand_in()
        self.work_off_jobs()
        told = self.ask("get", f"folios/{self.folio.pk}/editions/1/reading").json()["pages"]
        self.assertEqual(told[0]["description"], "A curve that rises from 0.8 m.")
        edition = Edition.objects.get()
        with default_storage.open(bound_name(edition.folio_id, edition.file_sha256)) as file, pikepdf.open(file) as pdf:
            alternate = str(pdf.Root.StructTreeRoot.K[0].K[0].Alt)
        self.assertEqual(alternate, "Page 1 of 1, answers 1b: A curve that rises from 0.8 m.")


class MapEdits(SavingTestCase):
    """By the instructor, after somebody answered: told before, nothing lost."""

    def entries(self, **answering: Any) -> list[dict[str, Any]]:
        told = self.ask("get", f"assignments/{self.work.pk}/question-map").json()["entries"]
        kept = [{name: one[name] for name in ("id", "label", "title", "points", "answering")} for one in told]
        for one in kept:
            one["answering"] = {**one["answering"], **answering.get(f"_{one['label']}", {})}
        return [one for one in kept if answering.get(f"_{one['label']}") != "off"]

    def test_who_answered_on_the_screen_is_told_before_it_is_asked_for_in_another_way(self) -> None:
        self.save("1a", 0, written="so")
        body = {"version": 0, "entries": self.entries(_1a={"kinds": ["pages"]})}
        told = self.ask("post", f"assignments/{self.work.pk}/question-map/consequences", body).json()
        self.assertEqual(told["changes"], [{"change": "answering", "label": "1a", "was": ""}])
        self.assertEqual(told["answered"], [{"label": "1a", "students": 1}])
        self.assertEqual(self.ask("put", f"assignments/{self.work.pk}/question-map", body).status_code, 200)
        self.assertEqual(Answer.objects.get().content.written, "so")
        self.assertIn("map_changed", self.kinds_of_events())
        (answer,) = self.board()["answers"]
        self.assertEqual(answer["given"], [])  # it does not count any more
        body = {"version": 1, "entries": self.entries(_1a={"kinds": ["written"]})}
        self.ask("put", f"assignments/{self.work.pk}/question-map", body)
        self.assertEqual(self.board()["answers"][0]["given"], ["written"])

    def test_what_only_markers_see_is_changed_without_a_word(self) -> None:
        body = {"version": 0, "entries": self.entries(_1b={"right": ["c"]}, _1a={"before_pages": True})}
        told = self.ask("post", f"assignments/{self.work.pk}/question-map/consequences", body).json()
        self.assertEqual(told["changes"], [])

    def test_what_makes_no_sense_is_refused_with_its_label(self) -> None:
        body = {"version": 0, "entries": self.entries(_1b={"choices": [{"id": "a", "text": "alone"}]})}
        refused = self.ask("put", f"assignments/{self.work.pk}/question-map", body)
        self.assertEqual((refused.status_code, refused.json()["code"]), (422, "bad_answering"))
        self.assertIn("1b: Give between 2 and", refused.json()["message"])

    def test_a_copy_asks_in_the_same_ways(self) -> None:
        made = self.ask("post", f"courses/{self.course.pk}/assignments", {"title": "Again", "copy_of": self.work.pk})
        copied = Question.objects.get(assignment=made.json()["id"], label="1b")
        self.assertEqual(copied.answering, CHOSEN)
        self.assertLess(timezone.now() - timedelta(days=1), copied.assignment.opens)
