"""For the instructors of a course: the list of folios, giving time, and a sitting's record."""

from __future__ import annotations

from datetime import datetime

from django.db.models import Prefetch, prefetch_related_objects
from django.http import HttpRequest
from ninja import Router

from assignments.access import assignment_of_member
from assignments.models import Assignment
from courses.models import Enrolment
from folio_core import clock
from inkedfolio.errors import Problem, not_yours
from inkedfolio.requests import moment, person

from .access import teaches
from .lengthening import lengthen
from .models import Edition, Folio, sitting_window
from .showing import assignment_out, window_out
from .staff_schemas import FolioLine, FolioListOut, LengthenedOut, LengthenIn, RecordLine, RecordOut

router = Router(tags=["staff"])
_RUNNING = (clock.Phase.WRITING, clock.Phase.HANDOVER)


def _taught(request: HttpRequest, assignment_id: int) -> Assignment:
    """Raises Refused (404) for everybody but the instructors of the course."""
    assignment, line = assignment_of_member(person(request), assignment_id)
    if line.role != Enrolment.Role.INSTRUCTOR:
        raise not_yours()
    return assignment


@router.get("/assignments/{int:assignment_id}/folios", response={200: FolioListOut, 404: Problem})
def folio_list(request: HttpRequest, assignment_id: int) -> FolioListOut:
    """Every student of the course, with the newest edition."""
    assignment, now = _taught(request, assignment_id), moment()
    prefetch_related_objects([assignment], "personal_dues")
    roster = Enrolment.objects.filter(course=assignment.course_id, role=Enrolment.Role.STUDENT).select_related("person")
    newest = Prefetch("editions", Edition.objects.order_by("-number"), to_attr="newest_first")
    begun = assignment.folios.prefetch_related(newest, "lengthenings").order_by("attempt")
    folios = {folio.student_id: folio for folio in begun}
    lines = [
        _folio_line(assignment, enrolment, folios.get(enrolment.person_id), now)
        for enrolment in roster.order_by("person__last_name", "person__first_name")
    ]
    running = sum(line.folio_id is not None and line.phase in _RUNNING for line in lines)
    return FolioListOut(
        now=now, assignment=assignment_out(assignment), due=assignment.due, running=running, folios=lines
    )


def _folio_line(assignment: Assignment, enrolment: Enrolment, folio: Folio | None, now: datetime) -> FolioLine:
    edition: Edition | None = next(iter(folio.newest_first), None) if folio else None  # type: ignore[attr-defined]
    student, window = enrolment.person, sitting_window(assignment, enrolment.person_id, folio, enrolment)
    return FolioLine(
        student=student.name, number=student.number, email=student.email, folio_id=folio.pk if folio else None,
        begun_at=folio.begun_at if folio else None, edition=edition.number if edition else None,
        handed_in_at=edition.handed_in_at if edition else None,
        verdict=edition.verdict if edition else None,  # type: ignore[arg-type]
        late_seconds=edition.late_seconds if edition else 0, automatic=edition.automatic if edition else False,
        phase=clock.phase(window, now), closes=window.closes if folio else None,
        pages=edition.page_count if edition else 0, open_labels=edition.open_labels if edition else [],
    )  # fmt: skip


@router.post(
    "/assignments/{int:assignment_id}/lengthen",
    response={200: LengthenedOut, 404: Problem, 409: Problem, 422: Problem},
)
def post_lengthen(request: HttpRequest, assignment_id: int, body: LengthenIn) -> LengthenedOut:
    """Give minutes to one running sitting, or to all; the students see it at once."""
    assignment = _taught(request, assignment_id)
    only = None
    if body.folio_id is not None:
        only = assignment.folios.filter(pk=body.folio_id).first()
        if only is None:
            raise not_yours()
    given = lengthen(assignment, body.minutes, only=only, by=person(request), now=moment())
    return LengthenedOut(folios=len(given))


@router.get("/folios/{int:folio_id}/record", response={200: RecordOut, 404: Problem})
def sitting_record(request: HttpRequest, folio_id: int) -> RecordOut:
    """All that happened in a sitting, by the server's clock. Append-only: the database refuses to change it."""
    folio = Folio.objects.select_related("assignment__course", "student").filter(pk=folio_id).first()
    if folio is None or not teaches(person(request), folio.assignment.course_id):
        raise not_yours()
    return RecordOut(
        folio_id=folio.pk, student=folio.student.name, student_number=folio.student.number,
        assignment=assignment_out(folio.assignment), window=window_out(folio.window(), moment()),
        events=[RecordLine(kind=event.kind, at=event.at, detail=event.detail) for event in folio.events.all()],
    )  # fmt: skip
