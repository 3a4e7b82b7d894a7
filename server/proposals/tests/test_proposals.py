"""Pages are read when they are ready, and what that suggests is told to their student, and to nobody else."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from unittest import mock

import numpy as np
from django.db import connection
from django.test import override_settings
from numpy.typing import NDArray
from procrastinate.contrib.django.models import ProcrastinateJob

from folio_core.answers import Answering, AnswerKind
from folio_core.reading import Candidate, Mark, PageReading
from pages.models import Page
from proposals.models import ReadPage
from proposals.proposing import propose_for
from proposals.queueing import PROPOSE, READ_PAGE, enqueue_proposing
from proposals.reading import read_page
from testing.desk import NOW, DeskTestCase, picture


def reading(*labels: str) -> PageReading:
    marks = tuple(
        Mark(0.05, 0.1 + 0.2 * at, 0.04, 0.02, 0.001, (Candidate(label, 0.999),), 3.0, 3.0, 5 * at)
        for at, label in enumerate(labels)
    )
    return PageReading(marks, 20, "by hand")


class Reader:
    """Gives the readings in turn, one a page."""

    name = "by hand"

    def __init__(self, *readings: PageReading) -> None:
        self.readings = list(readings)
        self.read_pages: list[tuple[int, ...]] = []

    def read(self, page: NDArray[np.uint8]) -> PageReading:
        self.read_pages.append(page.shape)
        return self.readings[len(self.read_pages) - 1]


class Proposals(DeskTestCase):
    def pages(self, *readings: PageReading) -> list[Page]:
        """Photographs that arrived, were prepared and read."""
        for shade in range(len(readings)):
            self.send(picture(250 - 10 * shade), f"{shade}.jpg")
        self.work_off_jobs()
        made = list(Page.objects.order_by("pk"))
        with mock.patch("proposals.reading._engine", return_value=Reader(*readings)):
            for page in made:
                read_page(page.pk, now=NOW)
        return made

    def suggestion(self, **query: Any) -> Any:
        """As it is when the worker has done what it was asked for."""
        path = f"/api/folios/{self.folio.pk}/suggestion"
        self.as_(self.ilse).get(path, query)
        propose_for(self.folio.pk)
        return self.as_(self.ilse).get(path, query).json()

    def folio_version(self) -> int:
        return int(self.board()["version"])

    def board(self) -> Any:
        return self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()

    def test_what_is_answered_on_the_screen_is_proposed_on_no_page(self) -> None:
        self.pages(reading("1a", "b"), reading("2"))
        self.assertIn(self.id_of("1a"), [one["question"] for one in self.suggestion()["places"]])
        written = Answering((AnswerKind.WRITTEN,)).as_document()
        self.work.questions.filter(label="1a").update(kept_answering=written)
        told = self.suggestion()
        self.assertNotIn(self.id_of("1a"), [one["question"] for one in told["places"]])
        self.assertEqual(told["missing"], [])

    def test_a_page_that_is_ready_is_read_after_everything_that_somebody_waits_for(self) -> None:
        self.send(picture())
        self.work_off_jobs()
        job = ProcrastinateJob.objects.get(task_name=READ_PAGE)
        others = ProcrastinateJob.objects.exclude(task_name=READ_PAGE)
        self.assertLess(job.priority, min(one.priority for one in others))
        self.assertEqual(job.args, {"page_id": Page.objects.get().pk})

    def test_what_is_read_is_proposed_with_its_reason_and_where_it_begins(self) -> None:
        first, second = self.pages(reading("1a", "b"), reading("2"))
        told = self.suggestion()
        places = [(one["question"], one["page"], one["reason"]["says"]) for one in told["places"]]
        wanted = [("1a", first.pk, "1a"), ("1b", first.pk, "b"), ("2", second.pk, "2")]
        self.assertEqual(places, [(self.id_of(label), pk, says) for label, pk, says in wanted])
        self.assertAlmostEqual(told["places"][1]["top"], 0.3)
        self.assertGreater(min(one["confidence"] for one in told["places"]), 0.9)
        self.assertEqual((told["unread"], told["order"], told["missing"]), (0, [], []))
        self.assertEqual(self.board()["arrangement"]["placements"], {})  # nothing of it holds by itself

    def test_another_order_is_suggested_until_the_student_says_that_it_is_right(self) -> None:
        first, second = self.pages(reading("2"), reading("1a", "1b"))
        self.assertEqual(self.suggestion()["order"], [second.pk, first.pk])
        self.assertEqual(self.suggestion(keeps_order=True)["order"], [])

    def test_what_was_placed_by_hand_is_not_proposed_again_nor_asked_for(self) -> None:
        first, second = self.pages(reading("1a"), reading("2"))
        self.assertEqual(self.suggestion()["missing"], [self.id_of("1b")])
        version = self.board()["version"]
        placed = {"1b": [{"page": first.pk}]}
        self.arrange(version, order=[first.pk, second.pk], placements=placed)
        told = self.suggestion()
        self.assertEqual({one["page"] for one in told["places"]}, {second.pk})
        self.assertNotIn(self.id_of("1b"), told["missing"])

    def test_a_label_that_is_read_where_others_were_placed_is_pointed_out(self) -> None:
        first, second = self.pages(reading("1a", "1b"), reading("2"))
        self.arrange(self.board()["version"], order=[first.pk, second.pk], placements={"1a": [{"page": first.pk}]})
        self.assertEqual(self.suggestion()["doubts"], [{"page": first.pk, "question": self.id_of("1b")}])

    def doubts_beside(self, rival: str) -> int:
        """On a page that was placed as 2 and reads 1b with 0.89, else ``rival``."""
        read = reading("1b")
        doubtful = replace(read.marks[0], candidates=(Candidate("1b", 0.89), Candidate(rival, 0.1)))
        (page,) = self.pages(replace(read, marks=(doubtful,)))
        self.arrange(self.board()["version"], order=[page.pk], placements={"2": [{"page": page.pk}]})
        return len(self.suggestion()["doubts"])

    def test_what_is_on_no_map_is_hardly_a_rival_of_a_label_that_is_pointed_out(self) -> None:
        self.assertEqual(self.doubts_beside("16"), 1)

    def test_what_is_on_the_map_is_a_rival(self) -> None:
        self.assertEqual(self.doubts_beside("1a"), 0)

    def doubts_of_a_number(self, *, hang: float) -> int:
        """On a page of 1a and 1b, all placed, that has a 2 further down too."""
        further = Mark(0.15, 0.8, 0.04, 0.02, 0.001, (Candidate("2", 0.999),), hang, 2.0, 18)
        labels = reading("1a", "1b")
        first, second = self.pages(replace(labels, marks=(*labels.marks, further)), reading("2"))
        placed = {"1a": [{"page": first.pk}], "1b": [{"page": first.pk}], "2": [{"page": second.pk}]}
        self.arrange(self.board()["version"], order=[first.pk, second.pk], placements=placed)
        return len(self.suggestion()["doubts"])

    def test_a_number_in_the_margin_where_another_page_was_placed_is_pointed_out(self) -> None:
        self.assertEqual(self.doubts_of_a_number(hang=3.0), 1)

    def test_a_number_that_begins_a_line_of_the_writing_is_not_where_labels_hang_in_the_margin(self) -> None:
        self.assertEqual(self.doubts_of_a_number(hang=0.0), 0)

    def test_the_labels_that_are_printed_on_a_told_sheet_say_nothing(self) -> None:
        (page,) = self.pages(reading("1a", "1b"))
        self.arrange(self.board()["version"], order=[page.pk], placements={"1a": [{"page": page.pk}]})
        self.assertEqual(len(self.suggestion()["doubts"]), 1)
        self.work.on_paper = True
        self.work.save()
        ReadPage.objects.update(kept_sheet={"page": 0, "confidence": 0.99, "copy": 0, "tops": {}, "empty": []})
        self.assertEqual(len(self.suggestion()["doubts"]), 1)  # no spaces yet: the labels are all there is
        self.work.answer_spaces = {self.id_of("1a"): [[0, 50, 100, 500, 300]]}
        self.work.save()
        self.assertEqual(self.suggestion()["doubts"], [])
        self.work.on_paper = False
        self.work.save()
        self.assertEqual(len(self.suggestion()["doubts"]), 1)

    def test_on_told_sheets_nothing_is_read_besides_and_an_extra_sheet_finds_its_question(self) -> None:
        first, empty, extra = self.pages(reading("1a"), reading(), reading("2"))
        self.work.on_paper, self.work.answer_spaces = True, {self.id_of("1a"): [[0, 50, 100, 500, 300]]}
        self.work.save()
        sheet = {"page": 0, "confidence": 0.99, "copy": 0, "tops": {}, "empty": []}
        ReadPage.objects.filter(page__in=(first, empty)).update(kept_sheet=sheet)
        placements = {"1a": [{"page": first.pk}]}
        order = [extra.pk, first.pk, empty.pk]  # the files count another way
        self.arrange(self.board()["version"], order=order, placements=placements)
        told = self.suggestion()
        placed = [(one["page"], one["question"]) for one in told["places"]]
        self.assertEqual((placed, told["order"]), ([(extra.pk, self.id_of("2"))], []))

    def test_a_page_with_another_students_number_is_pointed_out_and_one_with_ones_own_is_not(self) -> None:
        first, _, _ = self.pages(
            replace(reading("1a"), header="Tobin 30402"),
            replace(reading("1b"), header=f"{self.ilse.name} 30417 with 30402"),
            replace(reading("2"), header="99999 in 2026"),
        )
        self.assertEqual(self.suggestion()["others"], [{"page": first.pk, "says": "30402"}])

    def test_another_students_number_in_the_boxes_of_a_printed_sheet_is_pointed_out(self) -> None:
        self.work.on_paper = True
        self.work.save()
        first, second, third = self.pages(reading("1a"), reading("1b"), reading("2"))
        for page, number, sure in ((first, "30402", 1.0), (second, "30417", 1.0), (third, "30402", 0.6)):
            digits = [
                [sure * (digit == int(sign)) + (1 - sure) * (digit == int(own)) for digit in range(10)]
                for sign, own in zip(number, "30417", strict=True)
            ]  # the third might be one's own
            sheet = {"page": 0, "confidence": 0.99, "copy": 0, "tops": {}, "empty": [], "digits": [*digits, None]}
            ReadPage.objects.filter(page=page).update(kept_sheet=sheet)
        self.assertEqual(self.suggestion()["others"], [{"page": first.pk, "says": "30402"}])

    def test_staff_who_read_the_folio_see_another_students_number_too(self) -> None:
        self.pages(replace(reading("1a"), header="Tobin Vale 30402"), replace(reading("2"), header="Ilse 30417"))
        self.hand_in()
        self.work_off_jobs()
        path = f"folios/{self.folio.pk}/editions/1/reading"
        told = {who: [page["other_number"] for page in self.ask("get", path, by=who).json()["pages"]]
                for who in (self.corin, self.ilse)}  # fmt: skip
        self.assertEqual(told, {self.corin: ["30402", ""], self.ilse: ["", ""]})

    def test_a_label_on_two_distant_pages_is_pointed_out_until_both_are_placed_so(self) -> None:
        first, _, last = self.pages(reading("1a"), reading("1b"), reading("1a", "2"))
        doubled = [{"question": self.id_of("1a"), "pages": [first.pk, last.pk]}]
        self.assertEqual(self.suggestion()["doubled"], doubled)
        order = [page.pk for page in Page.objects.order_by("pk")]
        self.arrange(self.folio_version(), order=order, placements={"1a": [{"page": first.pk}, {"page": last.pk}]})
        self.assertEqual(self.suggestion()["doubled"], [])

    def doubled_by(self, text: str, rival: str) -> Any:
        """By a second 1a, two pages on, that reads less than surely ``text``, else ``rival``; where it is proposed."""
        again = reading("1a", "2")
        less = replace(again.marks[0], candidates=(Candidate(text, 0.93), Candidate(rival, 0.069)))
        first, _, last = self.pages(reading("1a"), reading("1b"), replace(again, marks=(less, again.marks[1])))
        told = self.suggestion()
        self.assertIn((self.id_of("1a"), last.pk), [(one["question"], one["page"]) for one in told["places"]])
        return [one["pages"] == [first.pk, last.pk] for one in told["doubled"]]

    def test_a_question_that_is_proposed_to_begin_on_two_distant_pages_is_pointed_out_too(self) -> None:
        self.assertEqual(self.doubled_by("1a", "2"), [True])

    def test_one_that_is_continued_on_a_distant_page_is_not_pointed_out(self) -> None:
        self.assertEqual(self.doubled_by("1a~", "7a"), [])

    def test_an_answer_that_is_continued_on_the_next_page_is_not_pointed_out(self) -> None:
        self.pages(reading("1a"), reading("1a"), reading("2"))
        self.assertEqual(self.suggestion()["doubled"], [])

    def test_files_that_count_another_way_speak_for_that_order_where_labels_do_not_tell(self) -> None:
        """The labels fit both orders: 1a, then what runs on; the cameras' numbers decide."""
        for name, shade in (("IMG_3.jpg", 250), ("IMG_1.jpg", 240), ("IMG_2.jpg", 230)):
            self.send(picture(shade), name)
        self.work_off_jobs()
        made = list(Page.objects.order_by("pk"))
        runs_on = PageReading((), 20, "by hand")
        with mock.patch("proposals.reading._engine", return_value=Reader(runs_on, reading("1a"), reading("2"))):
            for page in made:
                read_page(page.pk, now=NOW)
        third, first, second = (page.pk for page in made)
        self.assertEqual(self.suggestion()["order"], [first, second, third])

    def test_a_page_whose_head_names_another_assignment_is_pointed_out(self) -> None:
        self.work.title = "Problem set 5: great circles"
        self.work.save()
        self.assignment("Problem set 4: noon sights")
        other, own, none = self.pages(
            replace(reading("1a"), header="Ilse Marrow Set 4"),
            replace(reading("1b"), header="Problem set 5"),
            replace(reading("2"), header="set 9"),
        )
        self.assertEqual(
            self.suggestion()["elsewhere"], [{"page": other.pk, "says": "Problem set 4: noon sights"}], (own, none)
        )

    def test_while_a_page_is_unread_nothing_is_called_missing_and_no_order_suggested(self) -> None:
        self.pages(reading("2"), reading("1a", "1b"))
        ReadPage.objects.filter(page=Page.objects.latest("pk")).delete()
        told = self.suggestion()
        self.assertEqual((told["unread"], told["order"], told["missing"]), (1, [], []))

    def test_a_page_that_looks_otherwise_by_now_is_read_anew(self) -> None:
        (page,) = self.pages(reading("1a"))
        ReadPage.objects.update(image="0" * 64)
        self.assertEqual(self.suggestion()["unread"], 1)
        with mock.patch("proposals.reading._engine", return_value=Reader(reading("1b"))):
            read_page(page.pk, now=NOW)
            read_page(page.pk, now=NOW)  # done twice is done once
        self.assertEqual([one["question"] for one in self.suggestion()["places"]], [self.id_of("1b")])

    def test_what_was_proposed_of_a_page_does_no_harm_while_it_is_read_anew_without_a_label(self) -> None:
        (page,) = self.pages(reading("1a"))
        self.assertEqual([one["reason"]["says"] for one in self.suggestion()["places"]], ["1a"])
        ReadPage.objects.update(image="0" * 64)
        unreadable = replace(reading("1a").marks[0], candidates=(), nothing=1.0)
        with mock.patch("proposals.reading._engine", return_value=Reader(PageReading((unreadable,), 20, "by hand"))):
            read_page(page.pk, now=NOW)
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/suggestion")  # the worker was not there yet
        self.assertEqual((answer.status_code, answer.json()["doubled"]), (200, []))

    def test_it_is_worked_out_by_the_worker_and_once_for_what_has_not_changed(self) -> None:
        self.pages(reading("1a"))
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=PROPOSE).count(), 1)
        self.assertEqual(self.board()["suggested"], "")
        with mock.patch("proposals.proposing.propose", side_effect=AssertionError("worked out for a request")):
            path = f"/api/folios/{self.folio.pk}/suggestion"
            self.assertEqual(self.as_(self.ilse).get(path).json()["places"], [])
        first, word = self.suggestion(), self.board()["suggested"]
        with mock.patch("proposals.proposing.propose", side_effect=AssertionError("worked out again")):
            self.assertEqual(self.suggestion(), first)
        ProcrastinateJob.objects.all().delete()
        self.arrange(self.board()["version"], order=[Page.objects.get().pk], loose=[Page.objects.get().pk])
        self.as_(self.ilse).get(path)
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=PROPOSE).count(), 1)  # old by now
        self.assertEqual(self.suggestion()["places"], [])
        self.assertNotIn(self.board()["suggested"], ("", word))

    def test_what_an_older_job_made_never_lies_over_what_a_newer_one_made(self) -> None:
        """The newer one, enqueued while the older is carried out, waits for its end."""
        self.pages(reading("1a"))
        ProcrastinateJob.objects.exclude(task_name=PROPOSE).delete()
        self.assertIsNotNone(self.taken_job())
        enqueue_proposing(self.folio.pk, self.folio.window())
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=PROPOSE).count(), 2)
        self.assertIsNone(self.taken_job())
        ProcrastinateJob.objects.filter(status="doing").delete()
        self.assertIsNotNone(self.taken_job())

    def taken_job(self) -> int | None:
        """As a worker that is free takes it."""
        with connection.cursor() as cursor:
            cursor.execute("SELECT id FROM procrastinate_fetch_job_v2(NULL, NULL)")
            row = cursor.fetchone()
        return None if row is None else row[0]

    def test_what_left_the_map_or_the_folio_since_is_not_proposed(self) -> None:
        first, second = self.pages(reading("1a"), reading("2"))
        self.suggestion()
        self.work.questions.filter(label="2").delete()
        path = f"/api/folios/{self.folio.pk}/suggestion"
        told = self.as_(self.ilse).get(path).json()  # before the worker has come to it
        self.assertEqual([one["page"] for one in told["places"]], [first.pk])
        self.arrange(self.board()["version"], order=[first.pk, second.pk], removed=[first.pk])
        self.assertEqual(self.as_(self.ilse).get(path).json()["places"], [])

    def test_the_record_says_what_was_confirmed_and_what_was_placed_otherwise(self) -> None:
        first, second = self.pages(reading("1a", "1b"), reading("2"))
        self.suggestion()
        order = [first.pk, second.pk]
        self.arrange(self.board()["version"], order=order, placements={"1a": [{"page": first.pk}]})
        on_both = {"1a": [{"page": first.pk}], "2": [{"page": second.pk}]}
        self.arrange(self.board()["version"], order=order, placements=on_both)
        self.arrange(self.board()["version"], order=order, placements={"1a": [{"page": first.pk}]})
        events = self.folio.events.filter(kind="confirmed").order_by("pk")
        told = [
            {name: [(one["label"], one["page"]) for one in places] for name, places in event.detail.items()}
            for event in events
        ]
        self.assertEqual(
            told, [{"confirmed": [("1a", 1)], "otherwise": [("1b", 1)]}, {"confirmed": [("2", 2)], "otherwise": []}]
        )

    def test_it_can_be_switched_off_by_installation_course_assignment_and_student(self) -> None:
        self.pages(reading("1a"))
        self.ask("put", "account/proposals", {"wants": False}, by=self.ilse)
        self.assertEqual((self.suggestion()["places"], self.board()["suggested"]), ([], None))
        self.ask("put", "account/proposals", {"wants": True}, by=self.ilse)
        self.assertEqual(len(self.suggestion()["places"]), 1)
        with override_settings(FOLIO_READING="none"):
            self.assertEqual((self.suggestion()["places"], self.board()["suggested"]), ([], None))
        type(self.course).objects.update(proposes=False)
        self.assertEqual((self.suggestion()["places"], self.board()["suggested"]), ([], None))
        type(self.course).objects.update(proposes=True)
        type(self.work).objects.filter(pk=self.work.pk).update(proposes=False)
        self.assertEqual((self.suggestion()["places"], self.board()["suggested"]), ([], None))
        ReadPage.objects.all().delete()
        with mock.patch("proposals.reading._engine", side_effect=AssertionError("read all the same")):
            read_page(Page.objects.get().pk, now=NOW)
        self.send(picture(100), "another.jpg")
        before = ProcrastinateJob.objects.filter(task_name=READ_PAGE).count()
        self.work_off_jobs()
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=READ_PAGE).count(), before)
