"""The question paper as a printed sheet: where answers stand on it, and the paper with codes, to be printed."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from assignments.models import Assignment
from assignments.printed_sheets import facts_of, printed, set_sheets
from folio_core.forms import Space
from plumbing.downloads import made_file, safe_file_name
from plumbing.errors import Problem

from .permissions import instructor_of, person

router = Router(tags=["printed sheets"])


class SpaceDoc(Schema):
    """Where the answer to one question stands: page from 1; the others in millimetres from the page's upper left."""

    label: str = Field(max_length=100)
    page: int = Field(ge=1, le=1000)
    left: float
    top: float
    right: float
    bottom: float


class SheetSize(Schema):
    """Of one page of the paper, in millimetres."""

    width: float
    height: float


class PrintedSheetsOut(Schema):
    """``clean_print``: the bound document has the answers on the print itself. ``kept``: else the spaces are proposed,
    as the paper itself tells. ``without``: questions without a space."""

    on: bool
    clean_print: bool
    pages: list[SheetSize]
    spaces: list[SpaceDoc]
    kept: bool
    without: list[str]


class PrintedSheetsIn(Schema):
    on: bool
    clean_print: bool = False
    spaces: list[SpaceDoc] = Field(max_length=2000)


_MM = 25.4 / 72


@router.get(
    "/assignments/{int:assignment_id}/printed-sheets", response={200: PrintedSheetsOut, 404: Problem, 422: Problem}
)
def get_printed_sheets(request: HttpRequest, assignment_id: int) -> PrintedSheetsOut:
    return _out(instructor_of(person(request), assignment_id))


@router.put(
    "/assignments/{int:assignment_id}/printed-sheets", response={200: PrintedSheetsOut, 404: Problem, 422: Problem}
)
def put_printed_sheets(request: HttpRequest, assignment_id: int, body: PrintedSheetsIn) -> PrintedSheetsOut:
    assignment = instructor_of(person(request), assignment_id)
    spaces: dict[str, list[Space]] = {}
    for one in body.spaces:
        sides = (one.left / _MM, one.top / _MM, one.right / _MM, one.bottom / _MM)
        spaces.setdefault(one.label, []).append((one.page - 1, *sides))
    set_sheets(assignment, body.on, spaces, clean_print=body.clean_print)
    return _out(instructor_of(person(request), assignment_id))


@router.get("/assignments/{int:assignment_id}/paper/with-codes.pdf", response={200: None, 404: Problem, 422: Problem})
def paper_with_codes(request: HttpRequest, assignment_id: int, each: bool = False) -> HttpResponse:
    """To be printed. ``each``: a copy a student, with name and number."""
    assignment = instructor_of(person(request), assignment_id)
    name = f"{safe_file_name(assignment.course.code, assignment.title, 'to print')}.pdf"
    return made_file(printed(assignment, a_copy_each=each), name, "application/pdf")


def _out(assignment: Assignment) -> PrintedSheetsOut:
    facts = facts_of(assignment)
    labels = assignment.question_map.labels
    return PrintedSheetsOut(
        on=assignment.on_paper, clean_print=assignment.clean_print, kept=facts.kept,
        pages=[SheetSize(width=round(width * _MM, 2), height=round(height * _MM, 2)) for width, height in facts.sizes],
        without=[label for label in labels if label not in facts.spaces],
        spaces=[
            SpaceDoc(
                label=label, page=int(page) + 1, left=round(left * _MM, 1), top=round(top * _MM, 1),
                right=round(right * _MM, 1), bottom=round(bottom * _MM, 1),
            )
            for label in labels
            for page, left, top, right, bottom in facts.spaces.get(label, ())
        ],
    )  # fmt: skip
