"""Staff take pages in for a student, and hand them in: the moment that counts is theirs to say, with a reason."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import ZoneInfo

from django.http import HttpRequest
from ninja import Field, Query, Router, Schema

from courses.models import Enrolment
from editions.models import Edition
from editions.taking_in import begin_taking_in, hand_in_taken, open_taking_in
from pages.arrival import receive
from pages.models import TakenIn
from pages.room import require_room
from pages.sent import AcknowledgedOut, SentIn
from people.models import User
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import chunks_of, moment

from .permissions import Role, instructor_of, person, teaches
from .schemas import EditionLine
from .wall_times import moment_typed

router = Router(tags=["taking in"])


class TakingInIn(Schema):
    """``counts_at``: a time of day in the course's zone; null is now."""

    reason: str = Field(max_length=1000)
    counts_at: str | None = Field(None, max_length=30)


class TakingInOut(Schema):
    id: int
    folio_id: int
    counts_at: datetime


@router.post(
    "/assignments/{int:assignment_id}/people/{int:person_id}/taking-in",
    response={200: TakingInOut, 404: Problem, 422: Problem},
)
def post_taking_in(request: HttpRequest, assignment_id: int, person_id: int, body: TakingInIn) -> TakenIn:
    user, now = person(request), moment()
    assignment = instructor_of(user, assignment_id)
    line = Enrolment.objects.filter(course=assignment.course_id, person=person_id, role=Role.STUDENT).first()
    if line is None:
        raise not_yours()
    if assignment.rehearsal_of_id is not None:
        raise Refused(422, "rehearsal", "A rehearsal counts for nothing: nothing is taken in for it.")
    counts_at = moment_typed(body.counts_at, ZoneInfo(assignment.course.time_zone), "counts_at") or now
    return begin_taking_in(assignment, line, body.reason, counts_at, by=user, now=now)


@router.put(
    "/taking-in/{int:taken_id}/originals",
    response={200: AcknowledgedOut, 404: Problem, 422: Problem},
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string"}}}}},
)
def put_taken_original(request: HttpRequest, taken_id: int, about: Query[SentIn]) -> AcknowledgedOut:
    """One file: the body is its bytes. It is safe with the answer, and handed in only with the last step."""
    taken = _own_taking_in(person(request), taken_id)
    require_room(taken.folio, int(request.headers.get("Content-Length") or 0))
    return AcknowledgedOut.of(receive(taken.folio, chunks_of(request), about.sent(), moment, taken))


@router.post("/taking-in/{int:taken_id}/hand-in", response={200: EditionLine, 404: Problem, 422: Problem})
def post_hand_in_taken(request: HttpRequest, taken_id: int) -> Edition:
    return hand_in_taken(_own_taking_in(person(request), taken_id), moment())


def _own_taking_in(user: User, taken_id: int) -> TakenIn:
    taken = open_taking_in(user, taken_id)
    if taken is None or not teaches(user, taken.folio.assignment.course_id):
        raise not_yours()
    return taken
