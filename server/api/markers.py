"""Who marks: an assignment's markers, and what each reads of it."""

from __future__ import annotations

from django.db.models import QuerySet
from django.http import HttpRequest
from ninja import Field, Router, Schema

from assignments.markers import Share, give_share, share_of
from assignments.models import Assignment, MarkerScope
from courses.models import Enrolment
from plumbing.errors import Problem, not_yours

from .permissions import Role, instructor_of, person

router = Router(tags=["markers"])


class ShareIn(Schema):
    """No questions are all of them; no sections and no students are everybody's. Questions and sections by their ids,
    students by that of the person."""

    reads: bool
    questions: list[int] = Field([], max_length=400)
    sections: list[int] = Field([], max_length=400)
    students: list[int] = Field([], max_length=2000)


class MarkerOut(ShareIn):
    line_id: int
    name: str
    email: str


class NamedOut(Schema):
    id: int
    name: str


class MarkersOut(Schema):
    """``questions``, ``sections`` and ``students``: what there is to choose from."""

    markers: list[MarkerOut]
    questions: list[NamedOut]
    sections: list[NamedOut]
    students: list[NamedOut]


@router.get("/assignments/{int:assignment_id}/markers", response={200: MarkersOut, 404: Problem})
def markers(request: HttpRequest, assignment_id: int) -> MarkersOut:
    return _out(instructor_of(person(request), assignment_id))


@router.put(
    "/assignments/{int:assignment_id}/markers/{int:line_id}",
    response={200: MarkersOut, 404: Problem, 422: Problem},
)
def put_share(request: HttpRequest, assignment_id: int, line_id: int, body: ShareIn) -> MarkersOut:
    """What one marker, a line of the roster, reads of it from now on."""
    assignment = instructor_of(person(request), assignment_id)
    marker = _markers(assignment).filter(pk=line_id).first()
    if marker is None:
        raise not_yours()
    share = Share(body.reads, tuple(body.questions), tuple(body.sections), tuple(body.students))
    give_share(assignment, marker, share)
    return _out(assignment)


def _markers(assignment: Assignment) -> QuerySet[Enrolment]:
    lines = Enrolment.objects.filter(course=assignment.course_id, role=Role.MARKER).select_related("person")
    return lines.order_by("person__last_name", "person__first_name", "pk")


def _out(assignment: Assignment) -> MarkersOut:
    by_marker: dict[int, list[MarkerScope]] = {}
    for scope in assignment.marker_scopes.all():
        by_marker.setdefault(scope.marker_id, []).append(scope)
    students = Enrolment.objects.filter(course=assignment.course_id, role=Role.STUDENT).select_related("person")
    return MarkersOut(
        markers=[_marker_out(line, share_of(by_marker.get(line.pk, []))) for line in _markers(assignment)],
        questions=[NamedOut(id=one.pk, name=one.label) for one in assignment.questions.filter(removed_at=None)],
        sections=[NamedOut(id=one.pk, name=one.name) for one in assignment.course.sections.all()],
        students=[
            NamedOut(id=line.person_id, name=line.person.name)
            for line in students.order_by("person__last_name", "person__first_name")
        ],
    )


def _marker_out(line: Enrolment, share: Share) -> MarkerOut:
    return MarkerOut(
        line_id=line.pk, name=line.person.name, email=line.person.email, reads=share.reads,
        questions=list(share.questions), sections=list(share.sections), students=list(share.students),
    )  # fmt: skip
