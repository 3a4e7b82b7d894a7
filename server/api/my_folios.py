"""My folios: what there is to do, and for instructors what they gave."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from django.db.models import Count, Prefetch, Q
from django.http import HttpRequest
from ninja import Router, Schema

from assignments.models import Assignment, PersonalTerms
from courses.models import Enrolment
from editions.models import Edition
from folio_core import clock
from folio_core.roster import write_extra_time
from folios.beginning import terms_for, window_of
from folios.models import Folio
from folios.reach import reach_of
from marking.models import GivenBack
from people.models import User
from plumbing.requests import moment

from .asking import AskingOut, asked_of
from .permissions import Role, may_begin_courses, person
from .schemas import AssignmentOut, ChangedOut, WindowOut

router = Router(tags=["my folios"])


class ReturnedLineOut(Schema):
    """Marked work that was given back. ``points``: None where none were given."""

    at: datetime
    points: str | None
    most: str | None


class FolioLineOut(Schema):
    """One assignment of a student, begun or not. Minutes with the student's extra time and what was given."""

    assignment: AssignmentOut
    window: WindowOut
    own_writing_minutes: int | None
    own_handover_minutes: int
    folio_id: int | None
    pages: int
    questions: int | None
    edition: int | None
    handed_in_at: datetime | None
    extra_time: str
    changed: ChangedOut | None
    askings: list[AskingOut]
    returned: ReturnedLineOut | None


class TaughtOut(Schema):
    """``given_out_at``: None for a draft."""

    assignment: AssignmentOut
    opens: datetime
    given_out_at: datetime | None
    begun: int
    due: datetime
    students: int
    handed_in: int


class ToReadOut(Schema):
    """An assignment that one reads as a marker. ``handed_in``: of how many students, as far as one reads them."""

    assignment: AssignmentOut
    due: datetime
    handed_in: int


class MyFoliosOut(Schema):
    """``teaches``: or may begin a course."""

    now: datetime
    folios: list[FolioLineOut]
    to_read: list[ToReadOut]
    teaching: list[TaughtOut]
    teaches: bool


@router.get("/my-folios", response=MyFoliosOut)
def my_folios(request: HttpRequest) -> MyFoliosOut:
    user, now = person(request), moment()
    enrolments = list(user.enrolments.all())
    studied = {line.course_id: line for line in enrolments if line.role == Role.STUDENT}
    taught = {line.course_id for line in enrolments if line.role == Role.INSTRUCTOR}
    own = Folio.objects.filter(student=user).prefetch_related(Prefetch("editions", Edition.objects.order_by("-number")))
    dues = Prefetch("personal_terms", PersonalTerms.objects.filter(person=user))
    assignments = (
        Assignment.objects.filter(
            Q(course__in=studied, given_out_at__lte=now) | Q(pk__in=user.folios.values("assignment")), rehearsal_of=None
        )
        .select_related("course")
        .annotate(question_count=Count("questions", Q(questions__removed_at=None)))
        .order_by("due", "pk")
        .prefetch_related(Prefetch("folios", own, to_attr="own"), dues)
    )
    teaching = (
        Assignment.objects.filter(course__in=taught, rehearsal_of=None)
        .select_related("course")
        .annotate(
            students=Count("course__roster", Q(course__roster__role=Role.STUDENT), distinct=True),
            begun=Count("folios", distinct=True),
            handed_in=Count("folios", Q(folios__editions__isnull=False), distinct=True),
        )
        .order_by("due", "pk")
    )
    returned = _returned(user, now)
    return MyFoliosOut(
        now=now,
        to_read=_to_read(user),
        teaches=bool(taught) or may_begin_courses(user),
        folios=[
            _line(assignment, user.pk, studied.get(assignment.course_id), now, returned) for assignment in assignments
        ],
        teaching=[
            TaughtOut(
                assignment=AssignmentOut.of(a),
                opens=a.opens,
                due=a.due,
                given_out_at=a.given_out_at,
                students=a.students,
                begun=a.begun,
                handed_in=a.handed_in,
            )
            for a in teaching
        ],
    )


def _to_read(user: User) -> list[ToReadOut]:
    shared = Assignment.objects.filter(
        marker_scopes__marker__person=user, marker_scopes__marker__role=Role.MARKER, given_out_at__isnull=False
    )
    told = []
    for assignment in shared.distinct().select_related("course").order_by("due", "pk"):
        reach = reach_of(user, assignment)
        if reach is not None and reach.scopes is not None:
            handed_in = reach.folios(assignment).filter(editions__isnull=False).distinct().count()
            told.append(ToReadOut(assignment=AssignmentOut.of(assignment), due=assignment.due, handed_in=handed_in))
    return told


def _returned(user: User, now: datetime) -> dict[int, ReturnedLineOut]:
    """By folio."""
    lines = {}
    for one in GivenBack.objects.filter(folio__student=user, ended_at=None, opens_at__lte=now):
        total = one.statement["total"] or {"points": None, "most": None}
        lines[one.folio_id] = ReturnedLineOut(at=one.opens_at, points=total["points"], most=total["most"])
    return lines


def _line(
    assignment: Assignment, student_id: int, line: Enrolment | None, now: datetime,
    returned: Mapping[int, ReturnedLineOut],
) -> FolioLineOut:  # fmt: skip
    """``line``: None where the student is off the roster, and has begun work there."""
    folio = next(iter(assignment.own), None)  # type: ignore[attr-defined]
    window = window_of(assignment, student_id, folio, line)
    terms = folio.terms if folio else terms_for(assignment, student_id, line)
    writing, handover = clock.lengths(terms.rules, terms.extra)
    if window.begun and window.writing_ends and window.handover_ends:
        writing, handover = window.writing_ends - window.begun, window.handover_ends - window.writing_ends
    editions = [one for one in folio.editions.all() if one.taken_back_at is None] if folio else []
    given_out = folio is not None or (now >= assignment.opens and not assignment.rules.timed)
    removed = set(folio.arrangement.get("removed", [])) if folio else set()
    return FolioLineOut(
        assignment=AssignmentOut.of(assignment),
        window=WindowOut.of(window, now),
        own_writing_minutes=_minutes(writing) if window.rules.timed else None,
        own_handover_minutes=_minutes(handover),
        folio_id=folio.pk if folio else None,
        pages=len(set(folio.arrangement.get("order", [])) - removed) if folio else 0,
        questions=assignment.question_count if given_out else None,  # type: ignore[attr-defined]
        edition=editions[0].number if editions else None,
        handed_in_at=editions[0].handed_in_at if editions else None,
        extra_time=write_extra_time(terms.extra.factor, terms.extra.minutes),
        changed=ChangedOut.of(folio, now) if folio else None,
        askings=asked_of(folio, now) if folio and folio.terms.asked_until else [],
        returned=returned.get(folio.pk) if folio else None,
    )


def _minutes(length: timedelta) -> int:
    return round(length / timedelta(minutes=1))
