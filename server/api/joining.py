"""Joining a course by its code: which course, whose, and as whom, before anything is done."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from courses import joining
from courses.models import Course, Enrolment
from people import guessing
from plumbing.errors import Problem, Refused
from plumbing.requests import moment

from .permissions import Role, person

router = Router(tags=["joining"])
_WRONG = "join code"  # as what wrong codes are counted


class JoinOut(Schema):
    """``role``: what the signed-in person is in the course already, if anything. ``asks``: an instructor lets in who
    joins; ``waits``: the signed-in person has asked."""

    code: str
    title: str
    term: str
    instructors: list[str]
    role: Role | None
    asks: bool
    waits: bool


@router.get("/join/{code}", response={200: JoinOut, 404: Problem, 429: Problem})
def look_at_code(request: HttpRequest, code: str) -> JoinOut:
    return _join_out(request, _course(request, code))


@router.post("/join/{code}", response={200: JoinOut, 404: Problem, 409: Problem, 429: Problem})
def join(request: HttpRequest, code: str) -> JoinOut:
    _course(request, code)
    return _join_out(request, joining.join(code, person(request), moment()))


def _course(request: HttpRequest, code: str) -> Course:
    """Guessing is slowed down like that of passwords. Raises Refused (404, 429)."""
    user, now = person(request), moment()
    account = f"{_WRONG} of {user.pk}"
    tries = guessing.tries_of(account, now)
    if tries >= guessing.FREE_CODES:
        raise Refused(429, "wait", "Too many codes were wrong. Wait an hour, or ask your instructor to add you.")
    try:
        return joining.course_of(code, now)
    except Refused:
        guessing.note_try(account, now)
        raise


def _join_out(request: HttpRequest, course: Course) -> JoinOut:
    lines = course.roster.select_related("person").order_by("pk")
    own = lines.filter(person=person(request)).first()
    return JoinOut(
        code=course.code, title=course.title, term=course.term,
        instructors=[line.person.name for line in lines.filter(role=Enrolment.Role.INSTRUCTOR)],
        role=Role(own.role) if own else None, asks=course.join_asks,
        waits=course.join_requests.filter(person=person(request)).exists(),
    )  # fmt: skip
