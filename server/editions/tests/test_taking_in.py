"""Staff take pages in for a student; the reader places what was left unplaced; placing alone does not move the time."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from editions.closing import close_all
from editions.models import Edition, ReaderPlacement
from folios.beginning import create_folio
from folios.models import Folio
from notices.models import Notice
from pages.models import Page
from testing.desk import NOW, DeskTestCase, picture


class TakingIn(DeskTestCase):
    def begin(self, person: Any = None, **body: Any) -> Any:
        body = {"reason": "came by post", "counts_at": "2026-11-24T10:00", **body}
        return self.ask("post", f"assignments/{self.work.pk}/people/{(person or self.tobin).pk}/taking-in", body)

    def bring(self, taken: int, shade: int = 7) -> Any:
        path = f"/api/taking-in/{taken}/originals?name=scan.jpg"
        return self.as_(self.corin).put(path, picture(shade), content_type="application/octet-stream")

    def take_in(self, person: Any = None, shade: int = 7, **body: Any) -> Any:
        taken = self.begin(person, **body).json()
        self.assertEqual(self.bring(taken["id"], shade).status_code, 200)
        return self.ask("post", f"taking-in/{taken['id']}/hand-in").json()

    def test_for_who_never_began_after_the_close(self) -> None:
        self.at(days=3)
        told = self.take_in()
        self.assertEqual((told["verdict"], told["number"]), ("in_time", 1))
        edition = Edition.objects.get(folio__student=self.tobin)
        self.assertEqual(edition.counts_at, NOW - timedelta(hours=1))
        self.assertEqual((edition.facts.taken_in.by, edition.facts.taken_in.reason), ("Corin", "came by post"))
        self.work_off_jobs()
        edition.refresh_from_db()
        manifest = edition.receipt["statement"]["manifest"]
        self.assertEqual((manifest["counts"], manifest["taken_in"]["by"]), ("2026-11-24T14:00:00Z", "Corin"))
        checked = self.as_(None).post(
            "/api/receipt-checks", json.dumps(edition.receipt), content_type="application/json"
        )
        facts = checked.json()["facts"]
        self.assertEqual((facts["counts"], facts["taken_in"]["reason"]), ("2026-11-24T14:00:00Z", "came by post"))
        self.assertIn("came by post", Notice.objects.get(person=self.tobin, kind="taken_in").text)

    def test_a_moment_after_the_due_one_is_late_by_what_is_between(self) -> None:
        self.at(days=3)
        told = self.take_in(counts_at="2026-11-25T12:00")  # an hour after the due moment
        self.assertEqual((told["verdict"], told["late_seconds"]), ("late", 3600))

    def test_behind_what_was_handed_in_and_the_rest_of_the_board_is_left_to_the_student(self) -> None:
        self.send(picture(1), "IMG_1.jpg")
        self.hand_in()
        self.send(picture(2), "IMG_2.jpg")
        told = self.take_in(self.ilse)
        self.assertEqual(told["page_count"], 2)
        names = [one.page.original.file_name for one in Edition.objects.get(number=2).pages.all()]
        self.assertEqual(names, ["IMG_1.jpg", "scan.jpg"])
        self.folio.refresh_from_db()
        self.assertEqual(len(self.folio.arrangement["order"]), 3)
        self.at(days=2)
        close_all(NOW + timedelta(days=2))
        self.assertEqual(Edition.objects.filter(folio=self.folio).first().page_count, 3)

    def test_done_twice_is_done_once_and_without_a_page_it_is_not_done(self) -> None:
        taken = self.begin().json()["id"]
        self.assertEqual(self.ask("post", f"taking-in/{taken}/hand-in").json()["code"], "no_page")
        self.bring(taken)
        first = self.ask("post", f"taking-in/{taken}/hand-in").json()
        self.assertEqual(self.ask("post", f"taking-in/{taken}/hand-in").json()["number"], first["number"])
        self.assertEqual(Edition.objects.count(), 1)

    def test_a_sitting_that_is_begun_for_somebody_is_over(self) -> None:
        path = f"assignments/{self.sitting.pk}/people/{self.tobin.pk}/taking-in"
        self.ask("post", path, {"reason": "broken phone", "counts_at": "2026-11-24T10:30"})
        folio = Folio.objects.get(assignment=self.sitting, student=self.tobin)
        self.assertLessEqual(folio.window().closes, NOW - timedelta(minutes=30))

    def test_without_a_reason_or_for_a_moment_to_come_it_is_refused(self) -> None:
        self.assertEqual(self.begin(reason=" ").json()["code"], "reason")
        self.assertEqual(self.begin(counts_at="2026-11-24T19:00").json()["code"], "counts_at")
        self.assertFalse(Folio.objects.filter(student=self.tobin).exists())

    def test_another_instructors_taking_in_is_not_ones_own(self) -> None:
        taken = self.begin().json()["id"]
        other = self.person("other@kestrelpoint.example", "Otto", role="instructor")
        self.assertEqual(self.ask("post", f"taking-in/{taken}/hand-in", by=other).status_code, 404)

    def test_its_student_places_the_pages_and_the_next_edition_still_says_who_took_them_in(self) -> None:
        self.take_in(self.ilse)
        (page,) = Page.objects.filter(folio=self.folio).values_list("pk", flat=True)
        self.folio.refresh_from_db()
        self.arrange(self.folio.version, order=[page], placements={"1a": [{"page": page}]})
        self.hand_in(seen_edition=1)
        newest = Edition.objects.get(number=2)
        self.assertEqual((newest.counts_at, newest.facts.taken_in.by), (NOW - timedelta(hours=1), "Corin"))


class PlacedByTheReader(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        for shade in (1, 2):
            self.send(picture(shade), f"IMG_{shade}.jpg")
        self.one, self.two = Page.objects.order_by("pk").values_list("pk", flat=True)
        self.arrange(2, order=[self.one, self.two], placements={"1a": [{"page": self.one}]}, left_blank=["2"])
        self.work_off_jobs()
        self.hand_in()

    def place(self, number: int, *labels: str, by: Any = None) -> Any:
        path = f"folios/{self.folio.pk}/editions/1/reader-placements"
        return self.ask("post", path, {"number": number, "labels": labels}, by)

    def reading(self, by: Any = None) -> Any:
        questions = self.ask("get", f"folios/{self.folio.pk}/editions/1/reading", by=by).json()["questions"]
        return {
            one["label"]: (one["state"], [(spot["page"], spot["by"]) for spot in one["spots"]]) for one in questions
        }

    def test_it_lies_over_the_edition_which_stays_as_it_is_and_both_sides_see_whose_it_is(self) -> None:
        kept = Edition.objects.values("arrangement", "kept_facts", "open_labels").get()
        self.assertEqual(self.place(2, "1b", "2").status_code, 204)
        seen = {"1a": ("placed", [(1, "")]), "1b": ("placed", [(2, "Corin")]), "2": ("placed", [(2, "Corin")])}
        self.assertEqual(self.reading(), seen)
        self.assertEqual(self.reading(self.ilse), seen)
        self.assertEqual(Edition.objects.values("arrangement", "kept_facts", "open_labels").get(), kept)
        self.assertEqual(self.folio.events.filter(kind="placed_by_reader").count(), 2)
        line = next(
            one for one in self.ask("get", f"assignments/{self.work.pk}/folios").json()["folios"] if one["edition"]
        )
        self.assertEqual(line["open_labels"], [])

    def test_taken_off_it_is_as_before_and_what_the_student_placed_stays(self) -> None:
        self.place(2, "1b")
        path = f"folios/{self.folio.pk}/editions/1/reader-placements/take-off"
        self.ask("post", path, {"number": 2, "label": "1b"})
        self.ask("post", path, {"number": 1, "label": "1a"})
        self.assertEqual(self.reading()["1b"], ("open", []))
        self.assertEqual(self.reading()["1a"], ("placed", [(1, "")]))

    def test_an_answer_goes_on_upon_an_unplaced_page_but_not_where_the_student_placed_both(self) -> None:
        self.assertEqual(self.place(2, "1a").status_code, 204)
        self.assertEqual(self.reading()["1a"], ("placed", [(1, ""), (2, "Corin")]))
        self.assertEqual(self.place(1, "1a").json()["code"], "placed")

    def test_its_student_a_page_or_a_question_that_is_not_there_are_refused(self) -> None:
        self.assertEqual(self.place(2, "1b", by=self.ilse).status_code, 404)
        self.assertEqual(self.place(3, "1b").json()["code"], "page")
        self.assertEqual(self.place(2, "9").json()["code"], "label")
        self.assertEqual(ReaderPlacement.objects.count(), 0)


class PlacingAlone(DeskTestCase):
    def test_the_same_pages_placed_otherwise_count_as_of_the_first_hand_in(self) -> None:
        self.send(picture(1))
        page = Page.objects.get().pk
        self.hand_in()
        self.at(hours=5)
        self.arrange(1, order=[page], placements={"1a": [{"page": page}]})
        told = self.hand_in(seen_edition=1).json()
        self.assertEqual((told["number"], told["counts_at"]), (2, "2026-11-24T15:00:00Z"))
        self.at(hours=6)
        self.send(picture(2))
        self.assertIsNone(self.hand_in(seen_edition=2).json()["counts_at"])

    def test_late_for_its_placing_alone_it_is_not_late(self) -> None:
        self.folio = create_folio(self.assignment("Late", late_until=NOW + timedelta(days=2)), self.ilse, NOW)
        self.send(picture(1))
        page = Page.objects.get().pk
        self.hand_in()
        self.at(days=1, hours=1)
        self.arrange(1, order=[page], placements={"1a": [{"page": page}]})
        self.assertEqual(self.hand_in(seen_edition=1).json()["verdict"], "in_time")
        self.arrange(2, order=[page], recipes={str(page): {"corners": None, "turn": 90, "tone": "clean"}})
        self.assertEqual(self.hand_in(seen_edition=2).json()["verdict"], "late")
