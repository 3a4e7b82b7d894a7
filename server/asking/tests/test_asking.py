"""Staff ask again; the folio opens for that until a moment, and what was handed in stands meanwhile."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from asking.models import Asking
from courses.models import Enrolment
from editions.closing import close_all
from editions.models import Edition
from folios.amending import amend_begun
from folios.beginning import create_folio
from notices.models import Notice
from pages.models import Page
from testing.desk import NOW, DeskTestCase, picture

AFTER = {"days": 1, "hours": 2}  # the work closed two hours ago


class Asked(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        for shade in (1, 2):
            self.send(picture(shade), f"IMG_{shade}.jpg")
        self.work_off_jobs()
        self.one, self.two = Page.objects.order_by("pk").values_list("pk", flat=True)
        self.hand_in()
        self.at(**AFTER)
        close_all(NOW + timedelta(**AFTER))

    def ask_for(
        self, what: str = "page", number: int | None = 2, *, until: str = "2026-11-26T18:00", **more: Any
    ) -> Any:
        by = more.pop("by", self.corin)
        body = {"what": what, "number": number, "reason": "page 2 cannot be read", "until": until, **more}
        return self.ask("post", f"folios/{self.folio.pk}/editions/1/askings", body, by)

    def board(self) -> Any:
        return self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()

    def take_again(self) -> Any:
        path = f"/api/folios/{self.folio.pk}/originals?name=again.jpg&instead_of={self.two}"
        return self.as_(self.ilse).put(path, picture(3), content_type="application/octet-stream")

    def test_after_the_close_the_page_can_be_sent_again_until_then_and_no_longer(self) -> None:
        self.assertEqual(self.take_again().status_code, 403)
        self.assertEqual(self.ask_for().status_code, 200)
        self.assertEqual(self.board()["window"]["phase"], "asked_again")
        self.assertEqual(self.take_again().status_code, 200)
        self.at(days=3)
        self.assertEqual(self.send(picture(4)).status_code, 403)

    def test_its_notice_has_one_full_stop_after_the_reason(self) -> None:
        for number, reason in ((1, "Page 1 is dark"), (2, "Page 2 cannot be read.")):
            self.assertEqual(self.ask_for(number=number, reason=reason).status_code, 200)
        said = [one.text.split("again: ")[1].split(" It can")[0] for one in Notice.objects.filter(kind="asked_again")]
        self.assertEqual(sorted(said), ["“Page 1 is dark”.", "“Page 2 cannot be read.”"])

    def test_the_student_sees_which_page_why_and_until_when(self) -> None:
        self.ask_for()
        (asked,) = self.board()["askings"]
        self.assertEqual((asked["what"], asked["page"], asked["number"]), ("page", self.two, 2))
        self.assertEqual(asked["reason"], "page 2 cannot be read")
        self.assertEqual(asked["until"], "2026-11-26T22:00:00Z")
        notice = Notice.objects.get(kind="asked_again", person=self.ilse)
        self.assertIn(f"?asked={self.two}", notice.path)
        mine = self.ask("get", "my-folios", by=self.ilse).json()["folios"]
        (line,) = [one for one in mine if one["folio_id"] == self.folio.pk]
        self.assertEqual([one["number"] for one in line["askings"]], [2])

    def test_what_is_sent_again_is_no_edition_by_itself_and_the_next_hand_in_answers_it(self) -> None:
        self.ask_for()
        self.take_again()
        self.assertEqual(Edition.objects.count(), 1)
        self.assertEqual(self.hand_in(seen_edition=1).json()["verdict"], "in_time")
        newest = Edition.objects.get(number=2)
        self.assertEqual([(one.what, one.number) for one in newest.facts.asked], [("page", 2)])
        self.assertEqual(Asking.objects.get().done_edition, 2)
        self.assertEqual(self.board()["askings"], [])
        reading = self.ask("get", f"folios/{self.folio.pk}/editions/2/reading").json()
        self.assertEqual([(one["number"], one["before"]) for one in reading["answers"]], [(2, 1)])

    def test_the_signed_receipt_says_that_it_was_asked_for(self) -> None:
        self.ask_for()
        self.take_again()
        self.hand_in(seen_edition=1)
        self.work_off_jobs()
        manifest = Edition.objects.get(number=2).receipt["statement"]["manifest"]
        self.assertEqual(manifest["asked"][0]["reason"], "page 2 cannot be read")
        self.assertNotIn("asked", Edition.objects.get(number=1).receipt["statement"]["manifest"])

    def test_sent_again_and_not_handed_in_it_is_handed_in_when_the_asking_ends(self) -> None:
        self.ask_for()
        self.take_again()
        self.at(days=3)
        close_all(NOW + timedelta(days=3))
        newest = Edition.objects.get(number=2)
        self.assertTrue(newest.automatic)
        self.assertEqual(newest.page_count, 3)  # nothing that was handed in is taken away by it
        self.assertEqual([one.number for one in newest.facts.asked], [2])
        self.folio.refresh_from_db()
        self.assertTrue(self.folio.is_closed)

    def test_withdrawn_it_closes_again_and_the_student_is_told(self) -> None:
        asking = self.ask_for().json()
        for _ in range(2):  # twice is once
            self.assertEqual(self.ask("post", f"askings/{asking['id']}/withdraw").status_code, 204)
        self.assertEqual(self.folio.events.filter(kind="asking_ended").count(), 1)
        self.assertEqual(self.take_again().status_code, 403)
        self.assertEqual(self.board()["askings"], [])
        self.assertEqual(Notice.objects.filter(kind="asked_again", person=self.ilse).count(), 2)

    def test_asked_twice_for_the_same_page_is_one_asking_with_the_later_words(self) -> None:
        self.ask_for()
        self.ask_for(reason="the left edge is missing")
        self.assertEqual([one["reason"] for one in self.board()["askings"]], ["the left edge is missing"])

    def test_without_a_reason_or_a_moment_to_come_it_is_not_asked(self) -> None:
        self.assertEqual(self.ask_for(reason="  ").json()["code"], "reason")
        self.assertEqual(self.ask_for(until="2026-11-20T10:00").json()["code"], "until")
        self.assertEqual(self.ask_for(until="2027-11-20T10:00").json()["code"], "until")
        self.assertEqual(self.ask_for(number=3).json()["code"], "number")
        self.assertEqual(Asking.objects.count(), 0)

    def test_an_edit_of_the_rules_leaves_it_open(self) -> None:
        self.ask_for()
        due = NOW + timedelta(days=1, minutes=30)
        type(self.work).objects.filter(pk=self.work.pk).update(due=due)
        amend_begun(self.work.folios.all(), NOW + timedelta(**AFTER))
        self.assertEqual(self.board()["window"]["phase"], "asked_again")

    def test_a_page_that_was_late_stays_late_in_the_new_edition(self) -> None:
        self.folio = create_folio(self.assignment("Late", late_until=NOW + timedelta(days=2)), self.ilse, NOW)
        self.at(days=1, seconds=90)
        for shade in (5, 6):
            self.send(picture(shade), f"IMG_{shade}.jpg")
        self.hand_in()
        self.two = Page.objects.order_by("pk").last().pk
        self.at(days=2, hours=1)
        self.ask_for(until="2026-11-27T18:00")
        self.take_again()
        told = self.hand_in(seen_edition=1).json()
        self.assertEqual((told["number"], told["verdict"], told["late_seconds"]), (2, "late", 90))

    def test_the_list_says_who_is_asked_and_who_has_answered(self) -> None:
        self.ask_for()
        path = f"assignments/{self.work.pk}/folios"

        def line() -> Any:
            return next(one for one in self.ask("get", path).json()["folios"] if one["folio_id"] == self.folio.pk)

        self.assertEqual((line()["asked"], line()["answered"]), (True, False))
        self.take_again()
        self.hand_in(seen_edition=1)
        self.assertEqual((line()["asked"], line()["answered"]), (False, True))

    def test_a_marker_of_some_questions_does_not_ask(self) -> None:
        marker = self.person("marker@kestrelpoint.example", "Maud", role=Enrolment.Role.MARKER)
        self.assertEqual(self.ask_for(by=marker).status_code, 404)


class Talk(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.send(picture())
        self.work_off_jobs()
        self.hand_in()
        self.page = Page.objects.get().pk

    def say(self, text: str, by: Any, **more: Any) -> Any:
        return self.ask("post", f"folios/{self.folio.pk}/words", {"text": text, **more}, by)

    def test_question_and_answer_stay_at_the_page_for_both(self) -> None:
        self.say("Is that a 4?", self.corin, page=self.page)
        self.say("Yes, a 4", self.ilse, page=self.page)
        words = self.ask("get", f"folios/{self.folio.pk}", by=self.ilse).json()["words"]
        self.assertEqual([(one["text"], one["staff"], one["page"]) for one in words],
                         [("Is that a 4?", True, self.page), ("Yes, a 4", False, self.page)])  # fmt: skip
        self.assertEqual(self.ask("get", f"folios/{self.folio.pk}/editions/1/reading").json()["words"], words)

    def test_each_is_told_of_what_the_other_said(self) -> None:
        self.say("Is that a 4?", self.corin, page=self.page)
        self.say("Yes", self.ilse)
        self.assertEqual(Notice.objects.filter(kind="talk").get().person, self.ilse)
        self.assertEqual(Notice.objects.filter(kind="answer").get().person, self.corin)

    def test_no_word_a_page_of_another_folio_and_strangers_are_refused(self) -> None:
        other = create_folio(self.sitting, self.tobin, NOW)
        self.send(picture(9), by=self.tobin, folio=other)
        theirs = Page.objects.get(folio=other).pk
        self.assertEqual(self.say("   ", self.corin).json()["code"], "text")
        self.assertEqual(self.say("hm", self.corin, page=theirs).json()["code"], "page")
        self.assertEqual(self.say("hm", self.tobin).status_code, 404)
        self.assertEqual(self.folio.events.filter(kind="said").count(), 0)
