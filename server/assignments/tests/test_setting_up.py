"""Courses, rosters, assignments and question maps are set up in Django's admin until their own screens come."""

from __future__ import annotations

import tempfile
from datetime import UTC, datetime, timedelta
from typing import Any

from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from django.test import Client, TestCase, override_settings

from assignments.models import Assignment, Question
from courses.models import Course, Enrolment
from folio_core.binding import Paper
from folio_core.clock import NaiveDatetime
from people.models import User

OPENS = datetime(2026, 11, 24, 9, tzinfo=UTC)
PASSWORD = "a-long-password"


def formset(prefix: str, rows: list[dict[str, Any]]) -> dict[str, Any]:
    """The fields Django's admin sends for an inline."""
    fields: dict[str, Any] = {
        f"{prefix}-TOTAL_FORMS": len(rows),
        f"{prefix}-INITIAL_FORMS": 0,
        f"{prefix}-MIN_NUM_FORMS": 0,
        f"{prefix}-MAX_NUM_FORMS": 1000,
    }
    for number, row in enumerate(rows):
        fields |= {f"{prefix}-{number}-{name}": value for name, value in row.items()}
    return fields


class InTheAdmin(TestCase):
    def setUp(self) -> None:
        self.enterContext(override_settings(MEDIA_ROOT=self.enterContext(tempfile.TemporaryDirectory())))
        User.objects.create_superuser("brisa@kestrelpoint.example", PASSWORD)
        self.client = Client()
        # the administration has no door of its own
        signed = self.client.post(
            "/api/session",
            {"email": "brisa@kestrelpoint.example", "password": PASSWORD},
            content_type="application/json",
        )
        self.assertTrue(signed.json()["administers"])

    def post(self, path: str, fields: dict[str, Any]) -> Any:
        return self.client.post(f"/admin/{path}/add/", fields)

    def course(self) -> Course:
        student = User.objects.create_user("ilse@kestrelpoint.example", PASSWORD)
        roster = [{"person": student.pk, "role": "student", "extra_factor": "1.25", "extra_minutes": "5"}]
        fields = {
            "code": "NAV 231",
            "title": "Celestial Navigation",
            "time_zone": "America/Halifax",
            "place": "Here",
            "paper_size": "A4",
        }
        answer = self.post("courses/course", fields | formset("roster", roster) | formset("sections", []))
        self.assertEqual(answer.status_code, 302, answer.content[:2000])
        return Course.objects.get()

    def test_a_course_with_its_roster_and_extra_time(self) -> None:
        self.course()
        line = Enrolment.objects.get()
        self.assertEqual((line.extra_time.factor, line.extra_time.minutes), (1.25, 5))

    def test_a_time_zone_that_is_none_is_refused_with_an_example(self) -> None:
        fields = (
            {"code": "X", "title": "X", "time_zone": "Kestrel/Point"} | formset("roster", []) | formset("sections", [])
        )
        self.assertContains(self.post("courses/course", fields), "America/Halifax")
        self.assertFalse(Course.objects.exists())

    def assignment_fields(self, course: Course, **more: Any) -> dict[str, Any]:
        moments = {"opens_0": "2026-11-24", "opens_1": "09:00", "due_0": "2026-11-26", "due_1": "15:00"}
        fields = {
            "course": course.pk,
            "title": "Midterm",
            "paper_size": "A4",
            "handover_minutes": 15,
            "placing_minutes": 0,
        }
        fields |= {"page_kinds": "any", "pledge_minutes": 10, "offers_rehearsal": "on"} | formset("personal_terms", [])
        return fields | moments | more

    def test_an_assignment_with_its_paper_and_question_map(self) -> None:
        questions = [
            {"position": 0, "label": "1a", "title": "altitude", "points": "4"},
            {"position": 1, "label": "1 (B)", "title": "azimuth", "points": "3.5"},
            {"position": 2, "label": "2", "title": "", "points": "5"},
        ]
        paper = SimpleUploadedFile("paper.pdf", b"%PDF-1.7", "application/pdf")
        fields = self.assignment_fields(self.course(), writing_minutes=95, question_paper=paper, due_cuts_sitting="on")
        answer = self.post("assignments/assignment", fields | formset("questions", questions))
        self.assertEqual(answer.status_code, 302, answer.content[:2000])
        assignment = Assignment.objects.get()
        self.assertEqual(assignment.question_map.labels, ("1a", "1b", "2"))
        self.assertEqual([question.points for question in assignment.question_map.questions], [4, 3.5, 5])
        self.assertTrue(assignment.rules.timed)

    def test_moments_that_make_no_sense_are_refused_in_words(self) -> None:
        fields = self.assignment_fields(self.course(), due_0="2026-11-20") | formset("questions", [])
        self.assertContains(self.post("assignments/assignment", fields), "must come after the opening")

    def test_a_label_that_is_none_is_refused_in_words(self) -> None:
        questions = [{"position": 0, "label": "one", "title": "", "points": "4"}]
        fields = self.assignment_fields(self.course()) | formset("questions", questions)
        self.assertContains(self.post("assignments/assignment", fields), "is no label. Write a number")

    def test_folios_and_their_record_can_be_looked_at_and_not_changed(self) -> None:
        for model in ("folios/folio", "editions/edition"):
            self.assertEqual(self.client.get(f"/admin/{model}/").status_code, 200)
            self.assertEqual(self.client.get(f"/admin/{model}/add/").status_code, 403)

    def test_what_the_screens_refuse_is_refused_here_too(self) -> None:
        fields = self.assignment_fields(self.course()) | formset("questions", [])
        self.post("assignments/assignment", fields | formset("questions", []))
        for wrong, words in (
            ({"title": "MIDTERM"}, "already"),
            ({"title": "B", "due_0": "2062-11-26"}, "Look at the year"),
            ({"title": "B", "writing_minutes": 0}, "at least a minute"),
            ({"title": "B", "writing_minutes": 9000}, "from 0 to 1440"),
            ({"title": "B", "handover_minutes": 32000}, "from 0 to 1440"),
            ({"title": "B", "due_0": "2026-11-24", "due_1": "10:00", "writing_minutes": 90}, "only 60 minutes"),
        ):
            with self.subTest(wrong):
                self.assertContains(self.post("assignments/assignment", fields | wrong), words)
        self.assertEqual(Assignment.objects.count(), 1)

    def test_moments_are_shown_and_taken_in_the_courses_zone(self) -> None:
        self.post("assignments/assignment", self.assignment_fields(self.course()) | formset("questions", []))
        work = Assignment.objects.get()
        self.assertEqual(work.opens, datetime(2026, 11, 24, 13, tzinfo=UTC))  # 9:00 in Halifax
        for code in ("OCN 118", "OCN 119"):  # most courses are elsewhere
            Course.objects.create(code=code, title="Tides", time_zone="Pacific/Auckland")
        page = self.client.get(f"/admin/assignments/assignment/{work.pk}/change/")
        self.assertContains(page, "All times are in America/Halifax")
        self.assertContains(page, 'value="09:00:00"')

    def test_it_is_under_our_name_without_the_tables_of_jobs_and_logs(self) -> None:
        page = self.client.get("/admin/")
        self.assertContains(page, "The last resort")
        self.assertNotContains(page, "Django administration")
        for model in ("procrastinate/procrastinatejob", "people/signinfailure", "folios/event", "auth/group"):
            self.assertNotContains(page, f"/admin/{model}/")
            self.assertEqual(self.client.get(f"/admin/{model}/").status_code, 404)

    def test_work_that_is_begun_stays_in_its_course(self) -> None:
        work = Assignment.objects.create(course=self.course(), title="Set", opens=OPENS, due=OPENS + timedelta(days=2))
        work.folios.create(
            student=User.objects.get(first_name="", email__startswith="ilse"), begun_at=OPENS, kept_terms={}
        )
        work.course = Course.objects.create(code="OCN 118", title="Tides", time_zone="UTC")
        with self.assertRaisesMessage(ValidationError, "it stays in that course"):
            work.full_clean()

    def test_every_list_and_form_opens(self) -> None:
        self.course()
        for path in ("people/user", "courses/course", "assignments/assignment"):
            self.assertEqual(self.client.get(f"/admin/{path}/").status_code, 200)
            self.assertEqual(self.client.get(f"/admin/{path}/add/").status_code, 200)

    def test_who_is_no_administrator_does_not_get_in(self) -> None:
        other = Client()
        User.objects.create_user("corin@kestrelpoint.example", PASSWORD)
        body = {"email": "corin@kestrelpoint.example", "password": PASSWORD}
        other.post("/api/session", body, content_type="application/json")
        self.assertEqual(other.get("/admin/courses/course/").status_code, 302)


class Rules(TestCase):
    def setUp(self) -> None:
        self.course = Course.objects.create(code="NAV 231", title="Celestial Navigation")

    def assignment(self, **more: Any) -> Assignment:
        fields = {"opens": OPENS, "due": OPENS + timedelta(hours=5), "title": "Set", "course": self.course}
        return Assignment.objects.create(**fields | more)

    def test_late_work_cannot_end_before_the_due_moment(self) -> None:
        with self.assertRaisesMessage(ValidationError, "Late work ends after"):
            self.assignment(late_until=OPENS + timedelta(hours=1)).clean()

    def test_a_moment_without_a_zone_never_becomes_a_rule(self) -> None:
        with self.assertRaises(NaiveDatetime):
            Assignment(course=Course(code="NAV 231"), opens=datetime(2026, 1, 1), due=OPENS).rules  # noqa: B018, DTZ001

    def test_a_label_stands_once_on_a_map(self) -> None:
        assignment = self.assignment()
        Question.objects.create(assignment=assignment, label="1a")
        with self.assertRaises(IntegrityError), transaction.atomic():
            Question.objects.create(assignment=assignment, label="1a")

    def test_the_map_keeps_the_order_of_the_paper(self) -> None:
        assignment = self.assignment()
        for position, number in enumerate(("10", "2", "1")):
            Question.objects.create(assignment=assignment, position=position, label=number)
        self.assertEqual(assignment.question_map.labels, ("10", "2", "1"))

    def test_the_paper_is_a4_or_letter(self) -> None:
        self.assertIs(self.assignment().paper, Paper.A4)
        self.assertIs(self.assignment(paper_size="LETTER").paper, Paper.LETTER)

    def test_a_person_stands_once_a_role_on_a_roster(self) -> None:
        person = User.objects.create_user("ilse@kestrelpoint.example", PASSWORD)
        Enrolment.objects.create(course=self.course, person=person)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Enrolment.objects.create(course=self.course, person=person)
        Enrolment.objects.create(course=self.course, person=person, role=Enrolment.Role.MARKER)
