"""The question paper as a printed sheet: whether students write on it itself, and where each answer stands on it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.db import transaction

from courses.models import Enrolment
from folio_core.forms import Space, propose_spaces
from folio_core.forms.from_files import first_page_from
from folio_core.forms.marks import Copy, with_marks
from folio_core.page import HEAD_BYTES, Kind, kind_of, run_limited
from folio_core.page.pdf import page_sizes
from folio_core.question_paper import propose_map, read_paper
from plumbing import storage
from plumbing.decoding import limits
from plumbing.errors import Refused

from .models import Assignment

MOST_PAGES = 60
_LEAST_PT = 5.0


@dataclass(frozen=True, slots=True)
class SheetFacts:
    """``sizes``: width and height of each page in points. ``spaces``: by label, as they are kept, or else proposed."""

    sizes: list[tuple[float, float]]
    spaces: dict[str, list[Space]]
    kept: bool


def facts_of(assignment: Assignment) -> SheetFacts:
    """Raises Refused: no_paper, not_a_pdf, too_many_pages."""
    data = _paper(assignment)
    sizes = run_limited(page_sizes, data, limits())
    if len(sizes) > MOST_PAGES:
        raise Refused(422, "too_many_pages", f"A printed sheet has at most {MOST_PAGES} pages, and this {len(sizes)}.")
    labels = {one.id: one.label for one in assignment.question_map.questions}
    kept = {
        labels[key]: [tuple(box) for box in boxes] for key, boxes in assignment.answer_spaces.items() if key in labels
    }
    if kept:
        return SheetFacts(sizes, {label: [tuple(box) for box in boxes] for label, boxes in kept.items()}, True)
    text = run_limited(read_paper, data, limits())
    proposed = propose_spaces(text, propose_map(text))
    return SheetFacts(sizes, {label: proposed[label] for label in labels.values() if label in proposed}, False)


@transaction.atomic
def set_sheets(
    assignment: Assignment, on: bool, spaces: Mapping[str, Sequence[Space]], *, clean_print: bool = False
) -> None:
    """Whether the paper is written on, and where; ``clean_print``: what is handed in from now on is bound on the
    paper. Pages that are here already are not looked at again. Raises Refused: no_paper, no_space, space."""
    assignment = Assignment.objects.select_for_update(of=("self",)).get(pk=assignment.pk)
    sizes = facts_of(assignment).sizes
    ids = {one.label: one.id for one in assignment.question_map.questions}
    for label, boxes in spaces.items():
        for page, left, top, right, bottom in boxes:
            inside = 0 <= page < len(sizes) and left >= 0 and right <= sizes[page][0] and bottom <= sizes[page][1]
            if label not in ids or not inside or right - left < _LEAST_PT or bottom - top < _LEAST_PT or top < 0:
                raise Refused(422, "space", f"The space of {label} does not lie on a page of the paper.")
    if on and not spaces:
        raise Refused(422, "no_space", "Say for at least one question where on the paper its answer stands.")
    assignment.on_paper, assignment.clean_print = on, clean_print
    assignment.answer_spaces = {ids[label]: [list(box) for box in boxes] for label, boxes in spaces.items()}
    assignment.save(update_fields=["on_paper", "clean_print", "answer_spaces"])


def printed(assignment: Assignment, *, a_copy_each: bool) -> bytes:
    """The paper with codes in two corners of each page; for each student one with name and number, where wanted."""
    copies = [Copy()]
    if a_copy_each:
        lines = Enrolment.objects.filter(course=assignment.course_id, role=Enrolment.Role.STUDENT)
        people = [line.person for line in lines.select_related("person").order_by("person__last_name", "person_id")]
        copies = [Copy(person.pk, person.name, person.number) for person in people] or copies
    facts_of(assignment)  # that it can be opened, and is not too thick, is tried in a limited child
    first = first_page_from(_paper(assignment))
    return with_marks(_paper(assignment), assignment.pk, copies, first)


def _paper(assignment: Assignment) -> bytes:
    if not assignment.question_paper:
        raise Refused(404, "no_paper", "There is no question paper yet. Drop it first.")
    data: bytes = storage.get(str(assignment.question_paper.name))
    if kind_of(data[:HEAD_BYTES]) is not Kind.PDF:
        raise Refused(422, "not_a_pdf", "Only a PDF can be written on: of a photographed paper no sheet can be told.")
    return data
