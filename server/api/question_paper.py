"""The question paper as a download."""

from __future__ import annotations

from django.http import FileResponse, HttpRequest
from django.utils.text import slugify
from ninja import Router

from assignments.models import Assignment
from courses.models import Enrolment
from plumbing.downloads import attachment
from plumbing.errors import Refused
from plumbing.requests import moment

from .permissions import Role, member_of, person

router = Router(tags=["question paper"])


@router.get("/assignments/{int:assignment_id}/question-paper", response={200: None})
def question_paper(request: HttpRequest, assignment_id: int) -> FileResponse:
    """From the opening, or for a timed sitting from its beginning."""
    assignment, enrolment = member_of(person(request), assignment_id)
    if not assignment.question_paper:
        raise Refused(404, "no_paper", "This assignment has no question paper.")
    if enrolment.role == Role.STUDENT:
        _require_given_out(assignment, enrolment)
    name = f"{slugify(assignment.course.code)}-{slugify(assignment.title)}.pdf"
    return attachment(person(request).pk, str(assignment.question_paper.name), name, "application/pdf")


def _require_given_out(assignment: Assignment, enrolment: Enrolment) -> None:
    begun = assignment.folios.filter(student=enrolment.person_id).exists()
    if moment() < assignment.opens and not begun:
        raise Refused(403, "not_open", "The question paper is given out when the assignment opens.")
    if assignment.rules.timed and not begun:
        raise Refused(403, "not_begun", "The question paper of a timed sitting is given out when you begin.")
