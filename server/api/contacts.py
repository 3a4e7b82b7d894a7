"""Whom to ask for help, in each course of the person who asks."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from courses.models import Course, Enrolment

from .permissions import Role, person

router = Router(tags=["contacts"])


class ContactOut(Schema):
    """``note``: when and where help is found."""

    course: str
    name: str
    email: str
    note: str


@router.get("/contacts", response=list[ContactOut])
def contacts(request: HttpRequest) -> list[ContactOut]:
    """The course's own contact; where none is written down, its instructors."""
    courses = Course.objects.filter(roster__person=person(request)).distinct().order_by("code")
    teachers = Enrolment.objects.filter(course__in=courses, role=Role.INSTRUCTOR).select_related("person")
    told = []
    for course in courses:
        if course.contact_name or course.contact_email or course.contact_note:
            told.append(_contact(course, course.contact_name, course.contact_email))
        else:
            mine = (line.person for line in teachers if line.course_id == course.pk)
            told += [_contact(course, one.name, one.email) for one in mine]
    return told


def _contact(course: Course, name: str, email: str) -> ContactOut:
    return ContactOut(course=f"{course.code} {course.title}", name=name, email=email, note=course.contact_note)
