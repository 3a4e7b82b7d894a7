"""Every object and every file, asked for from the wrong account."""

from __future__ import annotations

import json
from datetime import timedelta

from django.test import Client

from assignments.models import Assignment
from folios.beginning import create_folio
from folios.models import Folio
from pages.models import Original, Page
from testing.desk import NOW, DeskTestCase, picture


class Access(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.send(picture()).json()["page_id"]
        self.hand_in()
        self.work_off_jobs()
        image = Page.objects.get(pk=self.page).image
        folio, original = self.folio.pk, Original.objects.get().pk
        self.shared = [
            f"/api/folios/{folio}/images/{image}",
            f"/api/originals/{original}/file",
            f"/api/folios/{folio}/editions/1",
            f"/api/folios/{folio}/editions/1/reading",
            f"/api/folios/{folio}/editions/1/bound.pdf",
            f"/api/folios/{folio}/editions/1/receipt.json",
        ]
        self.own = [f"/api/folios/{folio}", f"/api/folios/{folio}/draft", f"/api/folios/{folio}/news"]
        self.members = [f"/api/assignments/{self.work.pk}/brief"]

    def statuses(self, client: Client, paths: list[str]) -> set[int]:
        return {client.get(path).status_code for path in paths}

    def test_the_student_sees_all_of_it(self) -> None:
        self.assertEqual(self.statuses(self.as_(self.ilse), self.shared + self.own[:2] + self.members), {200})

    def test_the_instructor_reads_what_was_handed_in_and_not_the_board(self) -> None:
        self.assertEqual(self.statuses(self.as_(self.corin), self.shared), {200})
        self.assertEqual(self.statuses(self.as_(self.corin), self.own), {404})

    def test_another_student_of_the_course_finds_nothing(self) -> None:
        self.assertEqual(self.statuses(self.as_(self.tobin), self.shared + self.own), {404})

    def test_somebody_from_outside_the_course_finds_nothing(self) -> None:
        self.assertEqual(self.statuses(self.as_(self.stranger), self.shared + self.own + self.members), {404})

    def test_who_is_signed_out_is_told_to_sign_in(self) -> None:
        self.assertEqual(self.statuses(self.as_(None), self.shared + self.own + self.members), {401})

    def test_nobody_else_changes_a_folio(self) -> None:
        for user in (self.tobin, self.corin, self.stranger):
            self.assertEqual(self.send(picture(9), by=user).status_code, 404)
            self.assertEqual(self.arrange(1, by=user, order=[self.page]).status_code, 404)
            self.assertEqual(self.hand_in(by=user).status_code, 404)

    def test_a_page_of_another_folio_cannot_be_corrected_or_replaced_through_ones_own(self) -> None:
        other = create_folio(self.work, self.tobin, NOW)
        path = f"/api/folios/{other.pk}/arrangement"
        recipe = {"corners": None, "turn": 90, "tone": "clean"}
        body = {"version": 0, "arrangement": {"order": [], "recipes": {str(self.page): recipe}}}
        self.assertEqual(self.as_(self.tobin).put(path, body, content_type="application/json").status_code, 422)
        path = f"/api/folios/{other.pk}/originals?name=a.png&instead_of={self.page}"
        answer = self.as_(self.tobin).put(path, picture(3), content_type="application/octet-stream")
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(Folio.objects.get(pk=self.folio.pk).arrangement["removed"], [])

    def test_an_image_is_found_only_below_its_own_folio(self) -> None:
        other = create_folio(self.work, self.tobin, NOW)
        image = Page.objects.get(pk=self.page).image
        path = f"/api/folios/{other.pk}/images/{image}"
        self.assertEqual(self.as_(self.tobin).get(path).status_code, 404)
        self.assertEqual(self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}/images/..%2fx").status_code, 404)

    def test_the_list_of_folios_is_the_instructors(self) -> None:
        path = f"/api/assignments/{self.work.pk}/folios"
        self.assertEqual(self.as_(self.corin).get(path).status_code, 200)
        for user in (self.ilse, self.stranger):
            self.assertEqual(self.as_(user).get(path).status_code, 404)

    def test_users_bytes_are_never_shown_inline(self) -> None:
        original = self.as_(self.ilse).get(self.shared[1])
        self.assertIn("attachment", original["Content-Disposition"])
        self.assertEqual(original["X-Content-Type-Options"], "nosniff")
        self.assertEqual(original["Content-Type"], "application/octet-stream")

    def test_a_write_without_the_csrf_token_is_refused(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.ilse, backend="django.contrib.auth.backends.ModelBackend")
        answer = client.post(f"/api/folios/{self.folio.pk}/hand-in", "{}", content_type="application/json")
        self.assertEqual(answer.status_code, 403)


class Reading(DeskTestCase):
    def test_the_list_names_every_student_with_the_newest_edition(self) -> None:
        page = self.send(picture()).json()["page_id"]
        self.arrange(1, order=[page], placements={"1a": [{"page": page}]})
        self.hand_in()
        lines = self.as_(self.corin).get(f"/api/assignments/{self.work.pk}/folios").json()["folios"]
        by_name = {line["student"]: line for line in lines}
        self.assertEqual(set(by_name), {"Ilse", "Tobin"})
        self.assertEqual((by_name["Ilse"]["edition"], by_name["Ilse"]["open_labels"]), (1, ["1b", "2"]))
        self.assertIsNone(by_name["Tobin"]["edition"])

    def test_the_lists_ask_the_database_as_often_for_many_as_for_few(self) -> None:
        def queries(path: str, user: object) -> int:
            from django.db import connection
            from django.test.utils import CaptureQueriesContext

            client = self.as_(user)  # type: ignore[arg-type]
            with CaptureQueriesContext(connection) as captured:
                self.assertEqual(client.get(path).status_code, 200)
            return len(captured)

        path = f"/api/assignments/{self.work.pk}/folios"
        few, few_work = queries(path, self.corin), queries("/api/my-folios", self.ilse)
        for number in range(6):
            student = self.person(f"s{number}@kestrelpoint.example", f"S{number}")
            create_folio(self.work, student, NOW)
            self.assignment(f"Set {number}")
        self.assertEqual(queries(path, self.corin), few)
        self.assertEqual(queries("/api/my-folios", self.ilse), few_work)


class BriefAndBeginning(DeskTestCase):
    def begin(self, user: object = None) -> object:
        path = f"/api/assignments/{self.sitting.pk}/begin"
        return self.as_(user or self.tobin).post(path)  # type: ignore[arg-type]

    def test_the_brief_says_what_beginning_now_would_mean(self) -> None:
        brief = self.as_(self.tobin).get(f"/api/assignments/{self.sitting.pk}/brief").json()
        self.assertEqual(brief["window"]["phase"], "ready")
        self.assertEqual(brief["beginning_now"]["writing_ends"], "2026-11-24T16:35:00Z")
        self.assertEqual(brief["beginning_now"]["handover_ends"], "2026-11-24T16:50:00Z")

    def test_beginning_is_once(self) -> None:
        first = self.begin().json()["folio_id"]  # type: ignore[attr-defined]
        self.at(minutes=5)
        second = self.begin().json()  # type: ignore[attr-defined]
        self.assertEqual(second["folio_id"], first)
        self.assertEqual(second["window"]["begun"], "2026-11-24T15:00:00Z")

    def test_the_paper_of_a_timed_sitting_is_given_out_at_its_beginning(self) -> None:
        from django.core.files.base import ContentFile

        self.sitting.question_paper.save("paper.pdf", ContentFile(b"%PDF-1.7"))
        path = f"/api/assignments/{self.sitting.pk}/question-paper"
        self.assertEqual(self.as_(self.tobin).get(path).status_code, 403)
        self.begin()
        self.assertEqual(self.as_(self.tobin).get(path).status_code, 200)

    def test_the_questions_of_a_timed_sitting_are_given_out_at_its_beginning(self) -> None:
        self.sitting.instructions, self.sitting.instructions_before = "Answer all three.", "Bring a pen."
        self.sitting.save()
        path = f"/api/assignments/{self.sitting.pk}/brief"
        before = self.as_(self.tobin).get(path).json()
        hidden = (before["questions"], before["points"], before["instructions"], before["instructions_before"])
        self.assertEqual(hidden, ([], 0, "", "Bring a pen."))
        rows = self.as_(self.tobin).get("/api/my-folios").json()["folios"]
        line = next(one for one in rows if one["assignment"]["id"] == self.sitting.pk)
        self.assertIsNone(line["questions"])
        self.begin()
        after = self.as_(self.tobin).get(path).json()
        self.assertEqual((len(after["questions"]), after["instructions"]), (3, "Answer all three."))

    def test_the_questions_of_untimed_work_are_given_out_when_it_opens(self) -> None:
        for opens, questions in ((NOW + timedelta(minutes=1), 0), (NOW, 3)):
            Assignment.objects.filter(pk=self.work.pk).update(opens=opens)
            brief = self.as_(self.tobin).get(f"/api/assignments/{self.work.pk}/brief").json()
            self.assertEqual(len(brief["questions"]), questions)

    def test_an_instructor_does_not_begin_and_nobody_begins_too_late(self) -> None:
        self.assertEqual(self.begin(self.corin).status_code, 403)  # type: ignore[attr-defined]
        self.at(days=3)
        self.assertEqual(json.loads(self.begin().content)["code"], "closed")  # type: ignore[attr-defined]
