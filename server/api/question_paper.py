"""The question paper: as pictures to look at, and as a download."""

from __future__ import annotations

from typing import Literal

from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Router, Schema

from assignments.drawing import is_being_drawn, paper_pages, picture_name
from assignments.models import Assignment
from plumbing import storage
from plumbing.downloads import attachment, lasting_picture
from plumbing.errors import Problem, Refused, not_yours

from .permissions import paper_given_out, person

router = Router(tags=["question paper"])


class PaperPageOut(Schema):
    number: int
    address: str
    width: int
    height: int


class PaperOut(Schema):
    """``failed``: it cannot be drawn and is there as a download only."""

    state: Literal["drawing", "drawn", "failed"]
    pages: list[PaperPageOut]


@router.get("/assignments/{int:assignment_id}/question-paper", response={200: None})
def question_paper(request: HttpRequest, assignment_id: int) -> FileResponse:
    """From the opening, or for a timed sitting from its beginning."""
    assignment = _given_out(request, assignment_id)
    name = f"{slugify(assignment.course.code)}-{slugify(assignment.title)}.pdf"
    return attachment(person(request).pk, str(assignment.question_paper.name), name, "application/pdf")


@router.get(
    "/assignments/{int:assignment_id}/question-paper/pages",
    response={200: PaperOut, 403: Problem, 404: Problem},
)
def pages_of_paper(request: HttpRequest, assignment_id: int) -> PaperOut:
    """As pictures."""
    assignment = _given_out(request, assignment_id)
    being_drawn = is_being_drawn(assignment)  # asked first: what is drawn meanwhile is seen below
    base = f"/api/assignments/{assignment_id}/question-paper/pages"
    pages = [
        PaperPageOut(number=page.number, address=f"{base}/{page.image}", width=page.width, height=page.height)
        for page in paper_pages(assignment)
    ]
    return PaperOut(state="drawn" if pages else "drawing" if being_drawn else "failed", pages=pages)


@router.get("/assignments/{int:assignment_id}/question-paper/pages/{image}", response={200: None})
def page_of_paper(request: HttpRequest, assignment_id: int, image: str) -> HttpResponse:
    """JPEG. What a name stands for never changes."""
    assignment = _given_out(request, assignment_id)
    if not assignment.paper_pages.filter(image=image).exists():
        raise not_yours()
    return lasting_picture(storage.get(picture_name(assignment.pk, image)), "image/jpeg")


def _given_out(request: HttpRequest, assignment_id: int) -> Assignment:
    assignment = paper_given_out(person(request), assignment_id)
    if not assignment.question_paper:
        raise Refused(404, "no_paper", "This assignment has no question paper.")
    return assignment
