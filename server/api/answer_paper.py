"""Answer paper to be printed and written on: for students with their name and number on it."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema

from folio_core.forms.answer_paper import MOST_SIDES, AnswerPaper, Ruling, draw_answer_paper
from plumbing.downloads import made_file, safe_file_name
from plumbing.errors import Problem

from .permissions import Role, member_of, person

router = Router(tags=["answer paper"])


class AnswerPaperIn(Schema):
    ruling: Ruling = Ruling.RULED
    sides: int = Field(4, ge=1, le=MOST_SIDES)


@router.get("/assignments/{int:assignment_id}/answer-paper.pdf", response={200: None, 404: Problem})
def answer_paper(request: HttpRequest, assignment_id: int, wanted: Query[AnswerPaperIn]) -> HttpResponse:
    """For staff the name and the number are left to be written."""
    user = person(request)
    assignment, line = member_of(user, assignment_id)
    is_student = line.role == Role.STUDENT
    paper = AnswerPaper(
        f"{assignment.course.code} · {assignment.title}", wanted.ruling, wanted.sides,
        assignment.paper.size_pt,
        user.name if is_student else "", user.number if is_student else "",
    )  # fmt: skip
    name = f"{safe_file_name(assignment.course.code, 'answer paper', wanted.ruling)}.pdf"
    return made_file(draw_answer_paper(paper), name, "application/pdf")
