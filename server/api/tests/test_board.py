"""What the front end is told: the board, typed labels, the draft, the brief and My folios."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from django.core.exceptions import ValidationError

from assignments.printed_paper import Heading, printed_paper
from courses.models import Enrolment
from editions.closing import close
from folio_core.page import WORDS, Advice
from folios.beginning import create_folio
from folios.lengthening import lengthen
from folios.models import Folio
from pages.models import Page
from testing.desk import NOW, DeskTestCase, picture

PDF = printed_paper(Heading("A", "B", "C", []), {"1": "Find it."}, {"1": 1}, "D")


class TheBoard(DeskTestCase):
    def board(self) -> dict[str, Any]:
        return self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()

    def test_it_tells_the_time_the_phase_and_the_limits(self) -> None:
        board = self.board()
        self.assertEqual((board["now"], board["window"]["phase"]), ("2026-11-24T15:00:00Z", "writing"))
        self.assertEqual(board["limits"]["pages"], 100)
        self.at(days=1)
        self.assertEqual(self.board()["window"]["phase"], "closed")

    def test_it_tells_what_happened_when(self) -> None:
        self.send(picture(1))
        self.at(minutes=5)
        self.send(picture(2))
        self.hand_in()
        events = [(event["event"]["kind"], event["at"]) for event in self.board()["events"]]
        self.assertEqual(
            events,
            [
                ("begun", "2026-11-24T14:00:00Z"),
                ("arrived", "2026-11-24T15:00:00Z"),
                ("arrived", "2026-11-24T15:05:00Z"),
                ("handed_in", "2026-11-24T15:05:00Z"),
            ],
        )

    def test_a_page_goes_from_waiting_to_ready_with_its_images(self) -> None:
        self.send(picture(), "IMG_7.jpg")
        (page,) = self.board()["pages"]
        self.assertEqual((page["state"], page["preview"], page["file_name"]), ("waiting", "", "IMG_7.jpg"))
        self.work_off_jobs()
        (page,) = self.board()["pages"]
        self.assertEqual(page["state"], "ready")
        for path in (page["image"], page["preview"]):
            answer = self.as_(self.ilse).get(path)
            self.assertTrue(answer.content.startswith(b"\xff\xd8\xff"))
            self.assertIn("immutable", answer["Cache-Control"])
            self.assertIn("private", answer["Cache-Control"])

    def test_advice_comes_with_its_words(self) -> None:
        self.send(picture())
        self.work_off_jobs()
        (advice,) = self.board()["pages"][0]["advice"]
        words = WORDS[Advice.LOW_RESOLUTION]
        self.assertEqual(
            advice, {"code": "low_resolution", "seen": words.seen, "do": words.do, "where": None, "other": None}
        )

    def test_a_recipe_changed_while_its_page_was_prepared_is_not_overwritten(self) -> None:
        from unittest import mock

        from pages import preparing

        page = Page.objects.get(pk=self.send(picture()).json()["page_id"])
        real = preparing.made

        def turned_meanwhile(page: Page, recipe: Any, **more: Any) -> Any:
            Page.objects.filter(pk=page.pk).update(turn=90)
            return real(page, recipe, **more)

        with mock.patch("pages.preparing.made", turned_meanwhile):
            preparing.prepare_page(page.pk, now=NOW)
        page.refresh_from_db()
        self.assertEqual((page.turn, page.state), (90, Page.State.WAITING))


class TheDraft(DeskTestCase):
    def draft(self) -> dict[str, Any]:
        return self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/draft").json()

    def test_it_is_the_folio_as_it_would_be_bound_now(self) -> None:
        one, two, three = (self.send(picture(shade)).json()["page_id"] for shade in (1, 2, 3))
        placements = {"1a": [{"page": one, "top": None}, {"page": three, "top": 0.5}]}
        self.arrange(3, order=[three, two, one], removed=[two], placements=placements, left_blank=["2"], loose=[])
        draft = self.draft()
        self.assertEqual([page["number"] for page in draft["pages"]], [1, 2])
        states = {question["label"]: question["state"] for question in draft["questions"]}
        self.assertEqual(states, {"1a": "placed", "1b": "open", "2": "left_blank"})
        self.assertEqual(
            draft["questions"][0]["spots"], [{"page": 1, "top": 0.5, "by": ""}, {"page": 2, "top": None, "by": ""}]
        )
        self.assertIsNone(draft["edition"])

    def test_an_edition_stays_as_it_was_while_the_draft_goes_on(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.arrange(1, order=[page], placements={"1a": [{"page": page}]}, comment="first", sides=2)
        self.hand_in()
        self.arrange(2, order=[page], placements={"1b": [{"page": page}]})
        edition = self.as_(self.corin).get(f"/api/folios/{self.folio.pk}/editions/1/reading").json()
        self.assertEqual((edition["pages"][0]["labels"], edition["comment"]), (["1a"], "first"))
        self.assertEqual(self.draft()["pages"][0]["labels"], ["1b"])


class MyFolios(DeskTestCase):
    def work_of(self, user: Any) -> dict[str, Any]:
        return self.as_(user).get("/api/my-folios").json()

    def test_a_student_sees_what_there_is_to_do_in_the_order_it_is_due(self) -> None:
        self.sitting.due = NOW + timedelta(hours=6)
        self.sitting.save()
        lines = self.work_of(self.ilse)["folios"]
        self.assertEqual([line["assignment"]["title"] for line in lines], ["Midterm", "Great circles"])
        self.assertEqual([line["folio_id"] for line in lines], [None, self.folio.pk])

    def test_pages_are_counted_without_removed_ones_and_the_newest_edition_is_named(self) -> None:
        one, two = (self.send(picture(shade)).json()["page_id"] for shade in (1, 2))
        self.arrange(2, order=[one, two], removed=[two])
        self.hand_in()
        self.hand_in(seen_edition=1)
        line = next(line for line in self.work_of(self.ilse)["folios"] if line["folio_id"])
        self.assertEqual((line["pages"], line["edition"]), (1, 2))

    def test_questions_are_counted_once_however_many_have_begun(self) -> None:
        create_folio(self.work, self.tobin, NOW)
        lines = [line for line in self.work_of(self.ilse)["folios"] if line["questions"] is not None]
        self.assertEqual([(line["assignment"]["title"], line["questions"]) for line in lines], [("Great circles", 3)])

    def test_extra_time_is_worked_into_the_latest_beginning_and_said(self) -> None:
        Enrolment.objects.filter(person=self.tobin).update(extra_factor=1.5, extra_minutes=10)
        line = next(one for one in self.work_of(self.tobin)["folios"] if one["assignment"]["title"] == "Midterm")
        # 95 × 1.5 + 10 minutes of writing and 15 of handover before the due moment
        latest = self.sitting.due - timedelta(minutes=95 * 1.5 + 10 + 15)
        self.assertEqual(datetime.fromisoformat(line["window"]["latest_full_begin"]), latest)
        self.assertEqual(line["extra_time"], "×1.5 + 10 min")
        self.assertEqual((line["own_writing_minutes"], line["own_handover_minutes"]), (152, 15))  # 152.5, to the even

    def test_the_minutes_that_are_told_are_those_that_hold_since_the_beginning(self) -> None:
        create_folio(self.sitting, self.tobin, NOW)
        lengthen(self.sitting, 20, only=None, by_name="Corin", now=NOW)
        line = next(one for one in self.work_of(self.tobin)["folios"] if one["assignment"]["title"] == "Midterm")
        self.assertEqual((line["own_writing_minutes"], line["own_handover_minutes"]), (115, 15))

    def test_an_instructor_sees_how_many_have_handed_in_counting_each_once(self) -> None:
        self.send(picture())
        self.hand_in()
        self.hand_in(seen_edition=1)
        taught = {line["assignment"]["title"]: line for line in self.work_of(self.corin)["teaching"]}
        self.assertEqual((taught["Great circles"]["handed_in"], taught["Great circles"]["students"]), (1, 2))
        self.assertEqual(taught["Midterm"]["handed_in"], 0)
        self.assertEqual(self.work_of(self.corin)["folios"], [])

    def test_who_is_on_no_roster_sees_nothing(self) -> None:
        answer = self.work_of(self.stranger)
        self.assertEqual((answer["folios"], answer["teaching"]), ([], []))


class TheReceiptSays(DeskTestCase):
    def test_until_when_it_can_be_replaced_and_nothing_after_that(self) -> None:
        self.send(picture())
        self.hand_in()
        path = f"/api/folios/{self.folio.pk}/editions/1"
        self.assertEqual(self.as_(self.ilse).get(path).json()["replace_until"], "2026-11-25T15:00:00Z")
        self.at(days=1)
        self.assertIsNone(self.as_(self.ilse).get(path).json()["replace_until"])

    def test_that_late_work_is_late(self) -> None:
        self.work.late_until = NOW + timedelta(days=3)
        self.work.save()
        self.at(days=2)
        self.send(picture())
        self.hand_in()
        path = f"/api/folios/{self.folio.pk}/editions/1"
        self.assertEqual(self.as_(self.ilse).get(path).json()["verdict"], "late")

    def test_that_the_file_follows_while_it_is_bound(self) -> None:
        self.send(picture())
        self.hand_in()
        answer = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/1/bound.pdf")
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "binding"))

    def test_that_an_edition_that_was_never_made_is_not_there(self) -> None:
        self.assertEqual(self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/1").status_code, 404)
        self.assertFalse(Folio.objects.get(pk=self.folio.pk).editions.exists())


class WordsOfHonour(DeskTestCase):
    WORDS = "I wrote this alone."

    def setUp(self) -> None:
        super().setUp()
        self.send(picture())
        type(self.work).objects.filter(pk=self.work.pk).update(honour=self.WORDS)

    def receipt(self, number: int = 1) -> Any:
        return self.ask("get", f"folios/{self.folio.pk}/editions/{number}", by=self.ilse).json()

    def test_who_hands_in_confirms_the_words_that_were_shown_and_the_signed_receipt_says_so(self) -> None:
        self.assertEqual(self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()["honour"], self.WORDS)
        for shown in ("", "I wrote most of this alone."):
            answer = self.hand_in(confirmed=shown)
            self.assertEqual((answer.status_code, answer.json()["code"]), (409, "honour"))
        self.assertEqual(self.hand_in(confirmed=self.WORDS).status_code, 200)
        type(self.work).objects.filter(pk=self.work.pk).update(honour="Something else.")
        self.work_off_jobs()
        told = self.receipt()
        self.assertEqual((told["honour"], told["honour_confirmed"]), (self.WORDS, True))
        signed = self.ask("get", f"folios/{self.folio.pk}/editions/1/receipt.json", by=self.ilse).json()
        self.assertEqual(signed["statement"]["manifest"]["honour"], self.WORDS)
        read = self.ask("get", f"folios/{self.folio.pk}/editions/1/reading").json()
        self.assertEqual(read["honour"], self.WORDS)

    def test_what_the_close_hands_in_is_not_confirmed(self) -> None:
        close(self.folio.pk, now=NOW + timedelta(days=2))
        told = self.receipt()
        self.assertEqual((told["automatic"], told["honour"], told["honour_confirmed"]), (True, self.WORDS, False))


class KindsOfPages(DeskTestCase):
    def test_a_file_of_a_kind_that_is_not_taken_is_refused_with_what_to_do(self) -> None:
        wanted = {"pictures": (PDF, "no PDF"), "pdf": (picture(), "no pictures")}
        for kinds, (file, words) in wanted.items():
            type(self.work).objects.filter(pk=self.work.pk).update(page_kinds=kinds)
            answer = self.send(file)
            self.assertEqual((answer.status_code, answer.json()["code"]), (422, "kind_not_taken"))
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(Page.objects.count(), 0)
        self.assertEqual(self.send(PDF).status_code, 200)

    def test_once_begun_more_kinds_can_be_taken_and_none_less(self) -> None:
        self.work.page_kinds = "pictures"
        with self.assertRaisesMessage(ValidationError, "Students have begun"):
            self.work.full_clean(exclude=["question_paper"])
        type(self.work).objects.filter(pk=self.work.pk).update(page_kinds="pdf")
        self.work.page_kinds = "any"
        self.work.full_clean(exclude=["question_paper"])
