from __future__ import annotations

from typing import Any

from courses.models import Course, Enrolment
from testing.desk import DeskTestCase


class Contacts(DeskTestCase):
    def told(self, who: Any) -> list[dict[str, str]]:
        told: list[dict[str, str]] = self.as_(who).get("/api/contacts").json()
        return told

    def test_the_courses_own_contact_comes_before_its_instructors(self) -> None:
        [told] = self.told(self.ilse)
        self.assertEqual((told["name"], told["email"]), ("Corin", "corin@kestrelpoint.example"))
        Course.objects.update(
            contact_name="Help desk", contact_email="desk@kestrelpoint.example", contact_note="Room 4"
        )
        [told] = self.told(self.ilse)
        self.assertEqual((told["name"], told["note"]), ("Help desk", "Room 4"))

    def test_of_ones_own_courses_only(self) -> None:
        self.assertEqual(self.told(self.stranger), [])
        other = Course.objects.create(code="OCN 118", title="Tides")
        Enrolment.objects.create(course=other, person=self.corin, role=Enrolment.Role.INSTRUCTOR)
        self.assertEqual(len(self.told(self.ilse)), 1)
        self.assertEqual(
            [one["course"] for one in self.told(self.corin)], ["NAV 231 Celestial Navigation", "OCN 118 Tides"]
        )
        self.assertEqual(self.as_(None).get("/api/contacts").status_code, 401)
