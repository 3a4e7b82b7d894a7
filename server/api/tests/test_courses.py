"""A course: its facts, its roster by file and by hand, and joining by code."""

from __future__ import annotations

import base64
from datetime import timedelta
from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext

from courses.models import Course, Enrolment
from notices.models import Mail
from people.models import User
from testing.desk import NOW, DeskTestCase


class Courses(DeskTestCase):
    FACTS = {"code": "OCN 118", "title": "Tides", "time_zone": "America/Halifax"}

    def test_who_begins_a_course_teaches_it_and_a_student_cannot(self) -> None:
        self.assertEqual(self.ask("post", "courses", self.FACTS, by=self.ilse).status_code, 403)
        pk = self.ask("post", "courses", self.FACTS).json()["id"]
        self.assertEqual(self.ask("get", f"courses/{pk}").json()["staff"], 1)
        self.assertEqual(self.ask("get", f"courses/{pk}", by=self.ilse).status_code, 404)
        boss = User.objects.create_superuser("boss@kestrelpoint.example", "a-long-password")
        self.assertEqual(self.ask("get", f"courses/{pk}", by=boss).json()["teaches"], False)
        codes = [one["code"] for one in self.ask("get", "courses", by=boss).json()["courses"]]
        self.assertEqual(codes, ["NAV 231", "OCN 118"])
        answer = self.ask("post", f"courses/{pk}/assignments", {"title": "Quiz"}, by=boss)
        self.assertEqual((answer.status_code, answer.json()["code"]), (403, "not_instructor"))

    def test_codes_that_differ_by_case_and_zones_that_are_none_are_refused(self) -> None:
        answer = self.ask("post", "courses", {**self.FACTS, "code": "nav 231"})
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "field:code"))
        answer = self.ask("post", "courses", {**self.FACTS, "time_zone": "Nowhere/At_all"})
        self.assertEqual(answer.json()["code"], "field:time_zone")

    def test_facts_are_changed_against_the_version_that_was_seen(self) -> None:
        facts = {**self.FACTS, "code": "NAV 231", "title": "Navigation", "contact_email": "help@kestrelpoint.example"}
        told = self.ask("put", f"courses/{self.course.pk}", {**facts, "version": 0}).json()
        self.assertEqual((told["title"], told["version"]), ("Navigation", 1))
        self.assertEqual(self.ask("put", f"courses/{self.course.pk}", {**facts, "version": 0}).status_code, 409)


class Rosters(DeskTestCase):
    def take(self, text: str | bytes, path: str = "roster", **more: Any) -> Any:
        data = base64.b64encode(text if isinstance(text, bytes) else text.encode()).decode()
        return self.ask("post", f"courses/{self.course.pk}/{path}", {"data": data, **more})

    def test_a_file_says_first_what_it_would_do_and_writes_nothing(self) -> None:
        told = self.take(
            "name,number,mail,section\nWren Halloran,30411,wren@kestrelpoint.example,A\n"
            "Ilse,30417,ilse@kestrelpoint.example,B\nNobody,30402,nobody@kestrelpoint.example,A\nx,,y,\n",
            "roster/read",
        ).json()
        self.assertEqual([one["email"] for one in told["added"]], ["wren@kestrelpoint.example"])
        self.assertEqual(told["changed"][0]["words"], ["section none → B"])
        self.assertEqual([(one["line"], one["reason"][:14]) for one in told["bad"]], [(5, "“y” is no mail")])
        self.assertEqual(told["columns"], {"name": 0, "number": 1, "email": 2, "section": 3})
        # Number 30402 is Tobin's on this roster: he is matched, and keeps his own mail address.
        self.assertEqual(told["same"] + len(told["missing"]), 0 + len(told["missing"]))
        self.assertEqual(User.objects.filter(email__startswith="wren").count(), 0)
        self.assertEqual(self.course.sections.count(), 0)

    def test_taken_in_twice_is_once_and_nobody_is_removed_unasked(self) -> None:
        text = "name,mail,extra time\nWren Halloran,WREN@kestrelpoint.example,×1.5\n"
        self.assertEqual(self.take(text, invite=True).json(), {"added": 1, "changed": 0, "removed": 0, "invited": 1})
        self.assertEqual(self.take(text, invite=True).json(), {"added": 0, "changed": 0, "removed": 0, "invited": 0})
        self.assertEqual(Enrolment.objects.filter(course=self.course, role="student").count(), 3)
        self.assertEqual(Enrolment.objects.get(person__email="wren@kestrelpoint.example").extra_factor, 1.5)
        letter = Mail.objects.get()
        self.assertIn("/password/", letter.text)
        missing = self.take(text, "roster/read").json()["missing"]
        self.assertEqual({one["name"]: one["begun"] for one in missing}, {"Ilse": 1, "Tobin": 0})
        gone = next(one["id"] for one in missing if one["name"] == "Ilse")
        self.assertEqual(self.take(text, remove=[gone]).json()["removed"], 1)
        # What she began is kept, by her and in the instructor's list.
        self.assertEqual(self.as_(self.ilse).get(f"/api/folios/{self.folio.pk}").status_code, 200)
        mine = self.ask("get", "my-folios", by=self.ilse).json()["folios"]
        self.assertEqual([one["folio_id"] for one in mine], [self.folio.pk])
        lines = self.ask("get", f"assignments/{self.work.pk}/folios").json()["folios"]
        self.assertEqual({one["student"]: one["on_roster"] for one in lines}["Ilse"], False)

    def test_a_zip_that_is_none_is_refused_in_words(self) -> None:
        answer = self.take(b"PK\x03\x04 and then nothing", "roster/read")
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "no_roster"))
        self.assertIn("cannot be opened", answer.json()["message"])

    def test_an_account_that_signs_in_keeps_its_name_number_and_address(self) -> None:
        told = self.take("name,number,mail\nIlse Renamed,99,ilse@kestrelpoint.example\n", "roster/read").json()
        self.assertEqual((told["same"], told["changed"]), (1, []))
        self.take("name,number,mail\nIlse Renamed,99,ilse@kestrelpoint.example\n")
        self.ilse.refresh_from_db()
        self.assertEqual((self.ilse.name, self.ilse.number), ("Ilse", "30417"))

    def test_a_number_that_is_another_persons_is_refused_and_named(self) -> None:
        told = self.take("name,number,mail\nTobin,30417,tobin@kestrelpoint.example\n", "roster/read").json()
        self.assertIn("Ilse's (ilse@kestrelpoint.example)", told["bad"][0]["reason"])
        self.assertEqual((told["added"], told["changed"], told["same"]), ([], [], 0))

    def test_the_exported_files_are_the_same_roster(self) -> None:
        for name in ("roster.csv", "roster.zip"):
            file = self.as_(self.corin).get(f"/api/courses/{self.course.pk}/{name}").content
            told = self.take(file, "roster/read").json()
            self.assertEqual((told["added"], told["changed"], told["bad"], told["missing"]), ([], [], [], []), name)
            self.assertEqual(told["same"], 3)

    def test_two_thousand_rows_are_taken_in_with_few_queries(self) -> None:
        rows = "\n".join(f"P{n},Person,{n + 40000},p{n}@kestrelpoint.example,S{n % 5}" for n in range(2000))
        text = f"given,family,number,mail,section\n{rows}\n"
        with CaptureQueriesContext(connection) as asked:
            self.assertEqual(self.take(text).json()["added"], 2000)
        self.assertLess(len(asked), 60)
        self.assertEqual(self.take(text, "roster/read").json()["same"], 2000)

    def test_by_hand_matched_never_doubled_and_the_last_instructor_stays(self) -> None:
        path = f"courses/{self.course.pk}/people"
        person = {"given_name": "Wren", "family_name": "Halloran", "email": "Wren@kestrelpoint.example"}
        self.assertEqual(self.ask("post", path, person).json()["added"], 1)
        self.assertEqual(self.ask("post", path, person).json()["added"], 0)
        self.assertEqual(self.ask("post", path, {**person, "email": "wren"}).status_code, 422)
        lines = {one["email"]: one for one in self.ask("get", path).json()}
        wren = lines["wren@kestrelpoint.example"]
        wanted = {"section": "B", "extra_time": "25 %", "extra_reason": "note"}
        changed = self.ask("put", f"{path}/{wren['id']}", wanted).json()
        self.assertEqual((changed["section"], changed["extra_time"]), ("B", "×1.25"))
        answer = self.ask("put", f"{path}/{wren['id']}", {"extra_time": "50"})
        self.assertEqual(answer.json()["code"], "field:extra_time")
        self.assertEqual(self.ask("delete", f"{path}/{wren['id']}").status_code, 204)
        answer = self.ask("delete", f"{path}/{lines['corin@kestrelpoint.example']['id']}")
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "last_instructor"))

    def test_roster_lines_of_another_course_are_not_touched(self) -> None:
        other = Course.objects.create(code="OCN 118", title="Tides", time_zone="UTC")
        line = Enrolment.objects.create(course=other, person=self.tobin, role="student")
        path = f"courses/{self.course.pk}/people/{line.pk}"
        for method, body in (("put", {"section": "X"}), ("delete", None)):
            self.assertEqual(self.ask(method, path, body).status_code, 404)
        self.take("name,mail\nIlse,ilse@kestrelpoint.example\n", remove=[line.pk])
        self.assertTrue(Enrolment.objects.filter(pk=line.pk).exists())


class Joining(DeskTestCase):
    def test_a_code_shows_the_course_and_joins_it_once(self) -> None:
        code = self.ask("post", f"courses/{self.course.pk}/join-code", {}).json()["code"]
        self.assertFalse(set(code) & set("0O1IL2Z5S8BUV"))
        told = self.ask("get", f"join/{code.lower()}", by=self.stranger).json()
        self.assertEqual((told["code"], told["instructors"], told["role"]), ("NAV 231", ["Corin"], None))
        for _ in range(2):
            self.assertEqual(self.ask("post", f"join/{code}", by=self.stranger).json()["role"], "student")
        self.assertEqual(Enrolment.objects.filter(course=self.course, person=self.stranger).count(), 1)
        self.assertEqual(self.ask("post", f"join/{code}").json()["code"], "teaches")

    def test_a_replaced_or_ended_code_is_good_for_nothing(self) -> None:
        path = f"courses/{self.course.pk}/join-code"
        first, second = (self.ask("post", path, {}).json()["code"] for _ in range(2))
        self.assertEqual(self.ask("get", f"join/{first}", by=self.stranger).status_code, 404)
        self.at(days=29)
        self.assertEqual(self.ask("get", f"join/{second}", by=self.stranger).status_code, 404)
        self.clock.return_value = NOW
        self.ask("delete", path)
        self.assertEqual(self.ask("get", f"join/{second}", by=self.stranger).status_code, 404)

    def test_guessing_codes_is_held_up(self) -> None:
        code = self.ask("post", f"courses/{self.course.pk}/join-code", {}).json()["code"]
        for number in range(10):
            self.assertEqual(self.ask("get", f"join/AAAAAA{number}", by=self.stranger).status_code, 404)
        self.assertEqual(self.ask("get", f"join/{code}", by=self.stranger).status_code, 429)
        self.clock.return_value = NOW + timedelta(hours=2)
        self.assertEqual(self.ask("get", f"join/{code}", by=self.stranger).status_code, 200)

    def test_where_the_course_asks_nobody_is_in_before_an_instructor_lets_them_in(self) -> None:
        path = f"courses/{self.course.pk}"
        code = self.ask("post", f"{path}/join-code", {"asks": True}).json()["code"]
        for _ in range(2):
            told = self.ask("post", f"join/{code}", by=self.stranger).json()
            self.assertEqual((told["role"], told["asks"], told["waits"]), (None, True, True))
        self.assertFalse(self.course.roster.filter(person=self.stranger).exists())
        (asked,) = self.ask("get", path).json()["waiting"]
        self.assertEqual(asked["email"], self.stranger.email)
        answer = f"{path}/join-requests/{asked['id']}"
        self.assertEqual(self.ask("post", answer, {"let_in": True}, by=self.stranger).status_code, 404)
        self.assertEqual(self.ask("post", answer, {"let_in": False}).json()["waiting"], [])
        self.assertFalse(self.course.roster.filter(person=self.stranger).exists())
        self.ask("post", f"join/{code}", by=self.stranger)
        (asked,) = self.ask("get", path).json()["waiting"]
        for _ in range(2):
            told = self.ask("post", f"{path}/join-requests/{asked['id']}", {"let_in": True}).json()
            self.assertEqual((told["waiting"], told["students"]), ([], 3))
        self.assertEqual(self.ask("get", f"join/{code}", by=self.stranger).json()["role"], "student")
