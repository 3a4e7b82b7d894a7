"""A department's administrators: its courses, its people and each other, and nobody else's."""

from __future__ import annotations

from typing import Any

from courses.models import Course, Department, Enrolment
from people.models import User
from testing.desk import DeskTestCase

FACTS = {"code": "SEA 100", "title": "Knots", "time_zone": "America/Halifax"}


class Departments(DeskTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.department = Department.objects.create(code="SEA", title="Seamanship")
        self.boss = User.objects.create_user("boss@kestrelpoint.example", "a-long-password", first_name="Brenna")
        self.department.administrators.add(self.boss)
        Course.objects.filter(pk=self.course.pk).update(department=self.department)

    def here(self, method: str, path: str = "", body: Any = None, by: User | None = None) -> Any:
        return self.ask(method, f"departments/{self.department.pk}{path}", body, by or self.boss)

    def find(self, words: str) -> Any:
        return self.as_(self.boss).get(f"/api/departments/{self.department.pk}/people", {"words": words}).json()

    def test_its_courses_with_who_teaches_them(self) -> None:
        (course,) = self.here("get").json()["courses"]
        self.assertEqual((course["code"], course["students"], course["instructors"]), ("NAV 231", 2, ["Corin"]))
        mine = self.as_(self.boss).get("/api/courses").json()
        self.assertEqual([one["code"] for one in mine["departments"]], ["SEA"])

    def test_people_are_found_by_name_number_or_mail_with_their_roles_here_only(self) -> None:
        elsewhere = Course.objects.create(code="OCN 118", title="Tides", time_zone="UTC")
        Enrolment.objects.create(course=elsewhere, person=self.ilse, role=Enrolment.Role.INSTRUCTOR)
        for words in ("ilse", "304 ILSE", "ilse@kestrel"):
            (found,) = self.find(words)["people"]
            roles = [(one["course"], one["role"]) for one in found["roles"]]
            self.assertEqual((found["name"], roles), ("Ilse", [("NAV 231", "student")]))
        self.assertEqual(self.find("stranger")["people"], [])
        self.assertEqual(self.find("i"), {"people": [], "more": 0})
        for number in range(60):
            self.person(f"p{number}@kestrelpoint.example", f"Peregrin{number}")
        many = self.find("peregrin")
        self.assertEqual((len(many["people"]), many["more"]), (50, 10))

    def test_administrators_are_named_and_the_last_one_stays(self) -> None:
        self.assertEqual(self.here("post", "/administrators", {"email": "no@kestrelpoint.example"}).status_code, 422)
        self.assertEqual(self.here("delete", f"/administrators/{self.boss.pk}").json()["code"], "last_one")
        named = self.here("post", "/administrators", {"email": "Corin@kestrelpoint.example"}).json()["administrators"]
        self.assertEqual({one["name"] for one in named}, {"Brenna", "Corin"})
        left = self.here("delete", f"/administrators/{self.boss.pk}", by=self.corin).json()["administrators"]
        self.assertEqual([one["name"] for one in left], ["Corin"])
        self.assertEqual(self.here("get").status_code, 404)

    def test_a_course_is_begun_for_others_and_only_in_ones_own_department(self) -> None:
        begin = lambda by, **more: self.ask("post", "courses", FACTS | more, by)  # noqa: E731
        self.assertEqual(begin(self.corin, department_id=self.department.pk).status_code, 404)
        other = Department.objects.create(code="X", title="X")
        self.assertEqual(begin(self.boss, department_id=other.pk).status_code, 404)
        made = begin(self.boss, department_id=self.department.pk).json()["id"]
        self.assertEqual(Enrolment.objects.filter(course=made).count(), 0)
        self.assertEqual(Course.objects.get(pk=made).department, self.department)
