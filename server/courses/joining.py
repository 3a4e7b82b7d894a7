"""Joining a course by a short code that is read from a board or a slip of paper."""

from __future__ import annotations

import re
import secrets
from datetime import datetime

from django.db import transaction

from people.models import User
from plumbing.errors import Refused

from .models import Course, Enrolment, JoinRequest

# Letters and digits that are not taken for each other, whatever the hand: no 0 O, 1 I L, 2 Z, 5 S, 8 B, U V.
ALPHABET = "ACDEFGHJKMNPQRTWXY34679"
LENGTH = 7  # 23⁷: 3.4 · 10⁹
_NO_SUCH = "There is no course to join by this code now. Look at it again, or ask your instructor for a new one."


def new_code(course: Course, until: datetime, *, asks: bool = False) -> str:
    """Replaces the code before, which is good for nothing from then on. ``asks``: who joins waits to be let in."""
    code = "".join(secrets.choice(ALPHABET) for _ in range(LENGTH))
    course.join_code, course.join_until, course.join_asks = code, until, asks
    course.save(update_fields=["join_code", "join_until", "join_asks"])
    return code


def end_code(course: Course) -> None:
    course.join_code, course.join_until = "", None
    course.save(update_fields=["join_code", "join_until"])


def course_of(code: str, now: datetime) -> Course:
    """Raises Refused (404): the same for a wrong code and for one that has ended."""
    typed = re.sub(r"[^A-Z0-9]", "", code.upper())
    course = Course.objects.filter(join_code=typed).exclude(join_code="").first()
    if course is None or course.join_until is None or course.join_until <= now:
        raise Refused(404, "no_such_code", _NO_SUCH)
    return course


@transaction.atomic
def join(code: str, person: User, now: datetime) -> Course:
    """Onto the roster as a student, or among those who wait to be let in; twice is once. Raises Refused."""
    course = course_of(code, now)
    if course.roster.filter(person=person).exclude(role=Enrolment.Role.STUDENT).exists():
        raise Refused(409, "teaches", "You teach or mark this course. Sign in as the student to join as one.")
    if course.join_asks and not course.roster.filter(person=person).exists():
        JoinRequest.objects.get_or_create(course=course, person=person, defaults={"asked_at": now})
    else:
        Enrolment.objects.get_or_create(course=course, person=person, role=Enrolment.Role.STUDENT)
    return course


@transaction.atomic
def answer(request: JoinRequest, *, let_in: bool) -> None:
    """Whoever is turned away may ask again; a new code ends that."""
    if let_in:
        Enrolment.objects.get_or_create(course=request.course, person=request.person, role=Enrolment.Role.STUDENT)
    request.delete()
