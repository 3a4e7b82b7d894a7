"""What instructors do while a sitting runs, and read afterwards."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from assignments.models import Assignment
from folios.beginning import create_folio
from folios.models import Folio
from pages.models import Page
from people.models import User
from testing.desk import NOW, DeskTestCase, picture


class GivingTime(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.folio = create_folio(self.sitting, self.ilse, NOW)
        self.other = create_folio(self.sitting, self.tobin, NOW - timedelta(hours=2))

    def give(self, minutes: int, by: User | None = None, **more: Any) -> Any:
        path = f"/api/assignments/{self.sitting.pk}/lengthen"
        body = json.dumps({"minutes": minutes, **more})
        return self.as_(by or self.corin).post(path, body, content_type="application/json")

    def test_all_that_run_are_lengthened_and_no_closed_one_is_opened_again(self) -> None:
        self.assertEqual(self.give(10).json(), {"folios": 1})
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.window().closes, NOW + timedelta(minutes=120))
        self.assertEqual(self.other.window().closes, NOW - timedelta(minutes=10))

    def test_one_sitting_is_lengthened_and_its_student_sees_who_gave_what(self) -> None:
        self.give(5, folio_ids=[self.folio.pk])
        board = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        (given,) = [one["event"] for one in board["events"] if one["event"]["kind"] == "lengthened"]
        self.assertEqual(given["minutes"], 5)
        self.at(minutes=114)
        self.assertEqual(self.send(picture()).status_code, 200)

    def test_a_closed_sitting_cannot_be_lengthened(self) -> None:
        self.assertEqual(self.give(5, folio_ids=[self.other.pk]).json()["code"], "not_running")

    def test_untimed_work_and_foolish_minutes_are_refused_in_words(self) -> None:
        self.assertEqual(self.give(0).json()["code"], "minutes")
        path = f"/api/assignments/{self.work.pk}/lengthen"
        answer = self.as_(self.corin).post(path, json.dumps({"minutes": 5}), content_type="application/json")
        self.assertEqual(answer.json()["code"], "untimed")

    def say(self, text: str, folio_ids: list[int] | None = None) -> Any:
        path = f"/api/assignments/{self.sitting.pk}/word"
        body = json.dumps({"text": text, "folio_ids": folio_ids})
        return self.as_(self.corin).post(path, body, content_type="application/json")

    def words(self, user: User, folio: Folio) -> list[str]:
        board = self.as_(user).get(f"/api/folios/{folio.pk}").json()
        return [one["event"]["text"] for one in board["events"] if one["event"]["kind"] == "told"]

    def test_a_word_goes_to_one_or_to_all_who_have_begun_and_stands_in_the_record(self) -> None:
        self.assertEqual(self.say("Read 2b again.", [self.folio.pk]).json(), {"folios": 1})
        self.assertEqual(self.say("  Ten minutes left. ").json(), {"folios": 2})
        self.assertEqual(self.words(self.ilse, self.folio), ["Read 2b again.", "Ten minutes left."])
        self.assertEqual(self.words(self.tobin, self.other), ["Ten minutes left."])

    def test_no_word_one_too_long_and_one_to_somebody_elses_folio_are_refused(self) -> None:
        for text in ("  ", "a" * 501):
            self.assertEqual(self.say(text).json()["code"], "text")
        elsewhere = Folio.objects.get(assignment=self.work)
        self.assertEqual(self.say("Hello", [self.folio.pk, elsewhere.pk]).status_code, 404)
        self.assertEqual(self.give(5, folio_ids=[elsewhere.pk]).status_code, 404)
        self.assertEqual(self.words(self.ilse, self.folio), [])

    def test_only_the_courses_instructors_give_time_or_read_the_record(self) -> None:
        for user in (self.ilse, self.tobin, self.stranger):
            self.assertEqual(self.give(5, by=user).status_code, 404)
            self.assertEqual(self.as_(user).get(f"/api/folios/{self.folio.pk}/record").status_code, 404)

    def test_the_record_tells_all_that_happened_by_the_servers_clock(self) -> None:
        self.send(picture())
        self.give(5)
        self.hand_in()
        record = self.as_(self.corin).get(f"/api/folios/{self.folio.pk}/record").json()
        events = [one["event"] for one in record["events"]]
        self.assertEqual([event["kind"] for event in events], ["begun", "arrived", "lengthened", "handed_in"])
        self.assertEqual(events[2], {"kind": "lengthened", "minutes": 5, "by": "Corin"})

    def test_the_list_says_what_runs_and_until_when(self) -> None:
        told = self.as_(self.corin).get(f"/api/assignments/{self.sitting.pk}/folios").json()
        phases = {line["student"]: line["phase"] for line in told["folios"]}
        self.assertEqual((told["running"], phases), (1, {"Ilse": "writing", "Tobin": "closed"}))


class Rehearsals(DeskTestCase):
    def rehearse(self, by: User | None = None) -> Any:
        return self.as_(by or self.ilse).post(f"/api/assignments/{self.sitting.pk}/rehearse")

    def test_a_rehearsal_has_the_rules_of_the_real_work_and_a_paper_of_its_own(self) -> None:
        self.folio = Folio.objects.get(pk=self.rehearse().json()["folio_id"])
        self.folio.refresh_from_db()
        self.assertEqual(self.folio.window().closes, NOW + timedelta(minutes=110))
        paper = self.as_(self.ilse).get(f"/api/assignments/{self.folio.assignment_id}/question-paper")
        self.assertTrue(paper.getvalue().startswith(b"%PDF"))
        board = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").json()
        self.assertTrue(board["rehearsal"])

    def test_an_instructor_sees_it_as_a_student_does_to_the_receipt_and_reads_it_as_staff(self) -> None:
        Assignment.objects.filter(pk=self.sitting.pk).update(offers_rehearsal=False)
        brief = self.as_(self.corin).get(f"/api/assignments/{self.sitting.pk}/brief").json()
        self.assertTrue(brief["rehearsal"])
        self.folio = Folio.objects.get(pk=self.rehearse(self.corin).json()["folio_id"])
        self.assertLess(self.send(picture(), by=self.corin).status_code, 300)
        self.work_off_jobs()
        self.assertLess(self.hand_in(by=self.corin).status_code, 300)
        self.work_off_jobs()
        path = f"/api/folios/{self.folio.pk}/editions/1"
        self.assertEqual(self.as_(self.corin).get(f"{path}/reading").status_code, 200)
        told = self.as_(self.corin).get(f"/api/assignments/{self.sitting.pk}/sitting").json()
        self.assertNotIn("Corin", [line["name"] for line in told["lines"]])
        folios = self.as_(self.corin).get(f"/api/assignments/{self.sitting.pk}/folios").json()["folios"]
        self.assertNotIn("Corin", [line["student"] for line in folios])
        self.assertEqual(self.rehearse(self.ilse).status_code, 403)  # it is not offered to students

    def test_asked_of_all_it_is_asked_until_one_is_handed_in_and_staff_see_who_did(self) -> None:
        Assignment.objects.filter(pk=self.sitting.pk).update(asks_rehearsal=True)
        asked = lambda: self.as_(self.ilse).get(f"/api/assignments/{self.sitting.pk}/brief").json()["rehearsal_asked"]  # noqa: E731
        self.assertTrue(asked())
        self.folio = Folio.objects.get(pk=self.rehearse().json()["folio_id"])
        self.send(picture())
        self.work_off_jobs()
        self.assertTrue(asked())
        self.hand_in()
        self.work_off_jobs()
        self.assertFalse(asked())
        told = self.as_(self.corin).get(f"/api/assignments/{self.sitting.pk}/folios").json()
        self.assertTrue(told["asks_rehearsal"])
        lines = {line["student"]: line["rehearsed"] for line in told["folios"]}
        self.assertEqual((lines["Ilse"]["folio_id"], lines["Tobin"]), (self.folio.pk, None))
        path = f"/api/folios/{self.folio.pk}/editions/{lines['Ilse']['edition']}"
        self.assertEqual(self.as_(self.corin).get(path).status_code, 200)

    def test_it_counts_for_nothing_and_is_in_no_list(self) -> None:
        self.rehearse()
        titles = [one["assignment"]["title"] for one in self.as_(self.ilse).get("/api/my-folios").json()["folios"]]
        self.assertNotIn("Rehearsal: Midterm", titles)
        taught = [one["assignment"]["title"] for one in self.as_(self.corin).get("/api/my-folios").json()["teaching"]]
        self.assertEqual(sorted(taught), ["Great circles", "Midterm"])
        self.assertFalse(Folio.objects.filter(assignment=self.sitting).exists())

    def test_it_goes_on_while_it_runs_and_can_be_repeated_when_handed_in(self) -> None:
        first = self.rehearse().json()["folio_id"]
        self.assertEqual(self.rehearse().json()["folio_id"], first)
        self.folio = Folio.objects.get(pk=first)
        self.send(picture())
        self.hand_in()
        self.assertNotEqual(self.rehearse().json()["folio_id"], first)

    def test_it_ends_with_what_took_how_long_and_what_to_do_better(self) -> None:
        self.folio = Folio.objects.get(pk=self.rehearse().json()["folio_id"])
        self.at(minutes=20)
        self.send(picture())
        self.at(minutes=25)
        self.hand_in()
        told = self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/editions/1").json()["look_back"]
        self.assertEqual([step["seconds"] for step in told["steps"]], [1200, 0, 300])
        self.assertIn("Placing took long", " ".join(told["better"]))

    def test_it_is_offered_only_where_the_instructor_offers_one_and_before_the_end(self) -> None:
        self.at(days=2)
        self.assertEqual(self.rehearse().json()["code"], "no_rehearsal")
        self.at()
        self.sitting.offers_rehearsal = False
        self.sitting.save()
        self.assertEqual(self.rehearse().json()["code"], "no_rehearsal")
        self.assertFalse(self.as_(self.ilse).get(f"/api/assignments/{self.sitting.pk}/brief").json()["rehearsal"])

    def test_pages_of_a_rehearsal_teach_the_pace(self) -> None:
        self.folio = Folio.objects.get(pk=self.rehearse().json()["folio_id"])
        for number in range(4):
            path = f"/api/folios/{self.folio.pk}/originals?name=a.jpg&seconds=20"
            self.as_(self.ilse).put(path, picture(number), content_type="application/octet-stream")
        real = create_folio(self.sitting, self.ilse, NOW)
        pace = self.as_(self.ilse).get(f"/api/folios/{real.pk}").json()["pace"]
        self.assertEqual((pace["basis"], pace["seconds_a_page"], pace["measured_pages"]), ("measured", 20, 4))


class TheListOfFolios(DeskTestCase):
    def test_advice_that_was_waved_away_does_not_count(self) -> None:
        self.send(picture())
        self.work_off_jobs()
        page = Page.objects.get()
        self.hand_in()

        def counted() -> int:
            lines = self.ask("get", f"assignments/{self.work.pk}/folios").json()["folios"]
            return int(next(one["advice"] for one in lines if one["edition"]))

        self.assertEqual(counted(), 1)
        codes = [one["code"] for one in page.advice]
        self.arrange(1, order=[page.pk], dismissed={str(page.pk): codes[1:]})
        self.hand_in(seen_edition=1)
        self.assertEqual(counted(), 1)
        self.arrange(2, order=[page.pk], dismissed={str(page.pk): codes})
        self.hand_in(seen_edition=2)
        self.assertEqual(counted(), 0)
