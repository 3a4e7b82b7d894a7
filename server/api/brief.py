"""My work and the brief: what there is to do, and beginning it."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction
from django.db.models import Count, Prefetch, Q
from django.http import HttpRequest
from ninja import Router

from assignments.access import assignment_of_member
from assignments.api import question_map
from assignments.models import Assignment, PersonalDue
from courses.models import Enrolment
from folio_core import clock
from inkedfolio.errors import Problem, Refused
from inkedfolio.requests import moment, person
from live.bell import ring

from .models import Edition, Event, Folio, record, sitting_window
from .rehearsing import rehearse
from .schemas import BegunOut, BriefOut, MyWorkOut, TaughtOut, WorkOut
from .showing import assignment_out, extra_time_words, rail_events, window_out

router = Router(tags=["work"])


@router.get("/my-work", response=MyWorkOut)
def my_work(request: HttpRequest) -> MyWorkOut:
    user, now = person(request), moment()
    roster = {line.course_id: line for line in user.enrolments.all()}
    studied = [course for course, line in roster.items() if line.role == Enrolment.Role.STUDENT]
    taught = [course for course, line in roster.items() if line.role == Enrolment.Role.INSTRUCTOR]
    own = Folio.objects.filter(student=user).prefetch_related(
        Prefetch("editions", Edition.objects.order_by("-number")), "lengthenings"
    )
    dues = Prefetch("personal_dues", PersonalDue.objects.filter(person=user))
    assignments = (
        Assignment.objects.filter(course__in=studied, rehearsal_of=None)
        .select_related("course")
        .annotate(question_count=Count("questions"))
        .order_by("due", "pk")
        .prefetch_related(Prefetch("folios", own, to_attr="own"), dues)
    )
    teaching = (
        Assignment.objects.filter(course__in=taught, rehearsal_of=None)
        .select_related("course")
        .annotate(
            students=Count("course__roster", Q(course__roster__role=Enrolment.Role.STUDENT), distinct=True),
            handed_in=Count("folios", Q(folios__editions__isnull=False), distinct=True),
        )
        .order_by("due", "pk")
    )
    return MyWorkOut(
        now=now,
        work=[_work(assignment, roster[assignment.course_id], now) for assignment in assignments],
        teaching=[
            TaughtOut(assignment=assignment_out(a), due=a.due, students=a.students, handed_in=a.handed_in)
            for a in teaching
        ],
    )


def _work(assignment: Assignment, line: Enrolment, now: datetime) -> WorkOut:
    folio = next(iter(assignment.own), None)  # type: ignore[attr-defined]
    window = sitting_window(assignment, line.person_id, folio, line)
    editions = list(folio.editions.all()) if folio else []
    removed = set(folio.arrangement.get("removed", [])) if folio else set()
    return WorkOut(
        assignment=assignment_out(assignment),
        window=window_out(window, now),
        folio_id=folio.pk if folio else None,
        pages=len(set(folio.arrangement.get("order", [])) - removed) if folio else 0,
        questions=assignment.question_count,  # type: ignore[attr-defined]
        edition=editions[0].number if editions else None,
        handed_in_at=editions[0].handed_in_at if editions else None,
        extra_time=extra_time_words(line),
    )


@router.get("/assignments/{int:assignment_id}/brief", response={200: BriefOut, 404: Problem})
def brief(request: HttpRequest, assignment_id: int) -> BriefOut:
    now = moment()
    assignment, line = assignment_of_member(person(request), assignment_id)
    folio = assignment.folios.filter(student=line.person_id).order_by("-attempt").first()
    questions = question_map(assignment)
    beginning = Folio(assignment=assignment, student_id=line.person_id, begun_at=now)  # as it would be; never saved
    shown = now >= assignment.opens and (folio is not None or not assignment.rules.timed)
    return BriefOut(
        now=now,
        assignment=assignment_out(assignment),
        instructions=assignment.instructions,
        questions=questions,
        points=sum(question.points for question in questions),
        has_sheet=bool(assignment.question_sheet) and shown,
        window=window_out(sitting_window(assignment, line.person_id, folio, line), now),
        beginning_now=window_out(sitting_window(assignment, line.person_id, beginning, line), now),
        folio_id=folio.pk if folio else None,
        extra_time=extra_time_words(line),
        rehearsal=assignment.offers_rehearsal and assignment.rehearsal_of_id is None and now < assignment.due,
        is_rehearsal=assignment.rehearsal_of_id is not None,
        events=rail_events(folio) if folio else [],
    )


@router.post("/assignments/{int:assignment_id}/rehearse", response={200: BegunOut, 403: Problem, 404: Problem})
def post_rehearse(request: HttpRequest, assignment_id: int) -> BegunOut:
    """Begin a rehearsal, or go on with the one that runs."""
    assignment, line = assignment_of_member(person(request), assignment_id)
    if line.role != Enrolment.Role.STUDENT:
        raise Refused(403, "not_a_student", "Only students of the course rehearse its assignments.")
    return BegunOut(folio_id=rehearse(assignment, line.person, moment()).pk)


@router.post("/assignments/{int:assignment_id}/begin", response={200: BriefOut, 403: Problem, 404: Problem})
def begin(request: HttpRequest, assignment_id: int) -> BriefOut:
    """Begin once; beginning again changes nothing and answers the same."""
    now, user = moment(), person(request)
    assignment, line = assignment_of_member(user, assignment_id)
    if line.role != Enrolment.Role.STUDENT:
        raise Refused(403, "not_a_student", "Only students of the course begin its assignments.")
    if assignment.rehearsal_of_id is not None:
        raise Refused(403, "a_rehearsal", "Begin a rehearsal from the brief of its assignment.")
    with transaction.atomic():
        if not assignment.folios.filter(student=user).exists():
            beginning = Folio(assignment=assignment, student=user, begun_at=now)
            clock.require_open(sitting_window(assignment, user.pk, beginning, line), now)
            folio, made = Folio.objects.get_or_create(assignment=assignment, student=user, defaults={"begun_at": now})
            if made:
                record(folio, Event.Kind.BEGUN, now)
                ring(folio.pk)
    return brief(request, assignment_id)
