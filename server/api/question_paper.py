"""The question paper: as pictures to look at, and as a download."""

from __future__ import annotations

from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Router, Schema

from assignments.drawing import paper_pages, picture_name
from assignments.models import Assignment
from courses.models import Enrolment
from plumbing import storage
from plumbing.downloads import attachment
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import moment

from .permissions import Role, member_of, person

router = Router(tags=["question paper"])


class PaperPageOut(Schema):
    number: int
    address: str
    width: int
    height: int


@router.get("/assignments/{int:assignment_id}/question-paper", response={200: None})
def question_paper(request: HttpRequest, assignment_id: int) -> FileResponse:
    """From the opening, or for a timed sitting from its beginning."""
    assignment = _given_out(request, assignment_id)
    name = f"{slugify(assignment.course.code)}-{slugify(assignment.title)}.pdf"
    return attachment(person(request).pk, str(assignment.question_paper.name), name, "application/pdf")


@router.get(
    "/assignments/{int:assignment_id}/question-paper/pages",
    response={200: list[PaperPageOut], 403: Problem, 404: Problem},
)
def pages_of_paper(request: HttpRequest, assignment_id: int) -> list[PaperPageOut]:
    """As pictures; empty while they are being drawn."""
    assignment = _given_out(request, assignment_id)
    base = f"/api/assignments/{assignment_id}/question-paper/pages"
    return [
        PaperPageOut(number=page.number, address=f"{base}/{page.image}", width=page.width, height=page.height)
        for page in paper_pages(assignment)
    ]


@router.get("/assignments/{int:assignment_id}/question-paper/pages/{image}", response={200: None})
def page_of_paper(request: HttpRequest, assignment_id: int, image: str) -> HttpResponse:
    """JPEG. What a name stands for never changes."""
    assignment = _given_out(request, assignment_id)
    if not assignment.paper_pages.filter(image=image).exists():
        raise not_yours()
    response = HttpResponse(storage.get(picture_name(assignment.pk, image)), content_type="image/jpeg")
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


def _given_out(request: HttpRequest, assignment_id: int) -> Assignment:
    assignment, enrolment = member_of(person(request), assignment_id)
    if not assignment.question_paper:
        raise Refused(404, "no_paper", "This assignment has no question paper.")
    if enrolment.role == Role.STUDENT:
        _require_given_out(assignment, enrolment)
    return assignment


def _require_given_out(assignment: Assignment, enrolment: Enrolment) -> None:
    begun = assignment.folios.filter(student=enrolment.person_id).exists()
    if moment() < assignment.opens and not begun:
        raise Refused(403, "not_open", "The question paper is given out when the assignment opens.")
    if assignment.rules.timed and not begun:
        raise Refused(403, "not_begun", "The question paper of a timed sitting is given out when you begin.")
