"""The brief: the rules, the question map, what beginning now would mean, and beginning or rehearsing."""

from __future__ import annotations

from datetime import datetime

from django.http import HttpRequest
from ninja import Router, Schema

from assignments.models import Assignment, PageKinds, PaperRule
from courses.models import Enrolment
from editions.rehearsing import rehearse, wants_rehearsal
from folio_core.question_map import QuestionMap
from folio_core.roster import write_extra_time
from folios import beginning
from folios.beginning import terms_for, window_of
from plumbing.errors import Problem, Refused
from plumbing.requests import moment

from .permissions import Role, member_of, person, student_of
from .schemas import (
    AssignmentOut,
    FileBesideOut,
    QuestionOut,
    RecordedEvent,
    WindowOut,
    questions_out,
    rail_events,
)

router = Router(tags=["brief"])


class BriefOut(Schema):
    """``given_out``: questions, their points, instructions and the paper are. For a timed sitting that is at its
    beginning, else at the opening; what is meant for before (``instructions_before``) is always told.
    """

    now: datetime
    assignment: AssignmentOut
    instructions_before: str
    instructions: str
    given_out: bool
    questions: list[QuestionOut]
    points: float
    has_paper: bool
    files: list[FileBesideOut]
    window: WindowOut
    beginning_now: WindowOut
    folio_id: int | None
    is_student: bool
    extra_time: str
    paper_rules: list[PaperRule]
    page_kinds: PageKinds
    honour: str
    rehearsal: bool
    is_rehearsal: bool
    rehearsal_asked: bool
    events: list[RecordedEvent]


class BegunOut(Schema):
    folio_id: int


@router.get("/assignments/{int:assignment_id}/brief", response={200: BriefOut, 404: Problem})
def brief(request: HttpRequest, assignment_id: int) -> BriefOut:
    now = moment()
    assignment, line = member_of(person(request), assignment_id)
    folio = assignment.folios.filter(student=line.person_id).order_by("-attempt").first()
    given_out = folio is not None or line.role != Role.STUDENT
    given_out = given_out or (now >= assignment.opens and not assignment.rules.timed)
    shown_map = assignment.question_map if given_out else QuestionMap()
    terms = folio.terms if folio else terms_for(assignment, line.person_id, line)
    as_begun_now, extra = terms.window(now), terms.extra
    return BriefOut(
        now=now,
        assignment=AssignmentOut.of(assignment),
        instructions_before=assignment.instructions_before,
        instructions=assignment.instructions if given_out else "",
        given_out=given_out,
        questions=questions_out(shown_map),
        points=shown_map.points,
        has_paper=bool(assignment.question_paper) and given_out,
        files=[FileBesideOut.from_orm(one) for one in assignment.files_beside.filter(with_marks=False)]
        if given_out
        else [],
        window=WindowOut.of(window_of(assignment, line.person_id, folio, line), now),
        beginning_now=WindowOut.of(as_begun_now, now),
        folio_id=folio.pk if folio else None,
        is_student=line.role == Role.STUDENT,
        extra_time=write_extra_time(extra.factor, extra.minutes),
        paper_rules=assignment.paper_rules,
        page_kinds=PageKinds(assignment.page_kinds),
        honour=assignment.honour,
        rehearsal=_may_rehearse(assignment, line, now),
        is_rehearsal=assignment.rehearsal_of_id is not None,
        rehearsal_asked=folio is None and line.role == Role.STUDENT and wants_rehearsal(assignment, line.person_id),
        events=rail_events(folio) if folio else [],
    )


def _may_rehearse(assignment: Assignment, line: Enrolment, now: datetime) -> bool:
    wanted = assignment.offers_rehearsal or line.role == Role.INSTRUCTOR
    return wanted and line.role != Role.MARKER and assignment.rehearsal_of_id is None and now < assignment.due


@router.post("/assignments/{int:assignment_id}/rehearse", response={200: BegunOut, 403: Problem, 404: Problem})
def post_rehearse(request: HttpRequest, assignment_id: int) -> BegunOut:
    """Begin a rehearsal, or go on with the one that runs. Its instructors see it so as a student does."""
    user = person(request)
    assignment, line = member_of(user, assignment_id)
    if line.role == Role.MARKER:
        raise Refused(403, "not_a_student", "Only students and instructors of the course rehearse its assignments.")
    return BegunOut(folio_id=rehearse(assignment, line, moment()).pk)


@router.post("/assignments/{int:assignment_id}/begin", response={200: BriefOut, 403: Problem, 404: Problem})
def begin(request: HttpRequest, assignment_id: int) -> BriefOut:
    """Begin once; beginning again changes nothing and answers the same."""
    assignment, line = student_of(person(request), assignment_id, "begin its assignments")
    if assignment.rehearsal_of_id is not None:
        raise Refused(403, "a_rehearsal", "Begin a rehearsal from the brief of its assignment.")
    beginning.begin(assignment, line, moment())
    return brief(request, assignment_id)
