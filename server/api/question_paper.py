"""The question sheet, and what a typed label means on an assignment's map."""

from __future__ import annotations

from django.http import FileResponse, HttpRequest
from django.utils.text import slugify
from ninja import Router, Schema

from courses.models import Enrolment
from inkedfolio.errors import Refused
from inkedfolio.requests import moment, person

from .access import assignment_of_member
from .models import Assignment

router = Router(tags=["assignments"])


class QuestionOut(Schema):
    label: str
    question: str
    part: str
    title: str
    points: float


def question_map(assignment: Assignment) -> list[QuestionOut]:
    return [
        QuestionOut(label=item.label, question=item.question, part=item.part, title=item.title, points=item.points)
        for item in assignment.outline.items
    ]


@router.get("/assignments/{int:assignment_id}/question-sheet", response={200: None})
def question_sheet(request: HttpRequest, assignment_id: int) -> FileResponse:
    """The sheet as a download: from the opening, or for a timed sitting from its beginning."""
    assignment, enrolment = assignment_of_member(person(request), assignment_id)
    if not assignment.question_sheet:
        raise Refused(404, "no_sheet", "This assignment has no question sheet.")
    if enrolment.role == Enrolment.Role.STUDENT:
        _require_shown(assignment, enrolment)
    name = f"{slugify(assignment.course.code)}-{slugify(assignment.title)}.pdf"
    return FileResponse(
        assignment.question_sheet.open("rb"), as_attachment=True, filename=name, content_type="application/pdf"
    )


def _require_shown(assignment: Assignment, enrolment: Enrolment) -> None:
    if moment() < assignment.opens:
        raise Refused(403, "not_open", "The question sheet is given out when the assignment opens.")
    if assignment.rules.timed and not assignment.folios.filter(student=enrolment.person_id).exists():
        raise Refused(403, "not_begun", "The question sheet of a timed sitting is given out when you begin.")
