"""A rehearsal: an assignment beside another, with the same time rules and a small question paper of its own."""

from __future__ import annotations

from datetime import datetime
from html import escape

from django.core.files.base import ContentFile
from django.db import transaction

from .models import Assignment, Question
from .printed_paper import Heading, printed_paper

_TEXTS = {
    "1": "Practice with triangles. Write as in the real work: the label in the margin, one side of the paper.",
    "1a": "A right triangle has legs of 5 cm and 12 cm. Find the hypotenuse, and show each step.",
    "1b": "Find its smaller acute angle to a tenth of a degree.",
    "2": "Draw the curve y = x<super>2</super> - 4 between -3 and 3, and mark where it crosses the axis.",
    "3": "Leave this one out on purpose, and say so on the board.",
}
_TITLES = {"1a": "the hypotenuse", "1b": "the angle", "2": "the curve", "3": "left out on purpose"}
_POINTS = {"1a": 2, "1b": 2, "2": 3, "3": 1}
_NOTES = (
    "A rehearsal: it counts for nothing and can be repeated.",
    "It has the time rules of the real work. You may hand in as soon as you are done.",
)


@transaction.atomic
def rehearsal_of(assignment: Assignment, now: datetime) -> Assignment:
    """The rehearsal of an assignment, made when it is first wanted; its rules follow those of the real work."""
    kept = Assignment.objects.filter(rehearsal_of=assignment).first()
    rehearsal = kept or Assignment(rehearsal_of=assignment, course=assignment.course, opens=now)
    rehearsal.title = f"Rehearsal: {assignment.title}"[:200]
    rehearsal.instructions = "\n".join(_NOTES)
    rehearsal.due, rehearsal.paper_size = assignment.due, assignment.paper_size
    rehearsal.writing_minutes, rehearsal.handover_minutes = assignment.writing_minutes, assignment.handover_minutes
    rehearsal.page_kinds, rehearsal.honour = assignment.page_kinds, assignment.honour
    rehearsal.proposes = assignment.proposes
    rehearsal.due_cuts_sitting = False
    rehearsal.placing_minutes, rehearsal.pledge_minutes = assignment.placing_minutes, assignment.pledge_minutes
    rehearsal.save()
    if kept is None:
        _print_paper(rehearsal)
        for position, (label, points) in enumerate(_POINTS.items()):
            Question.objects.create(
                assignment=rehearsal, position=position, label=label, title=_TITLES[label], points=points,
            )  # fmt: skip
    return rehearsal


def _print_paper(rehearsal: Assignment) -> None:
    course = rehearsal.course
    heading = Heading("Inked Folio", escape(rehearsal.title), escape(f"{course.code} {course.title}"), _NOTES)
    sheet = printed_paper(heading, _TEXTS, _POINTS, "Inked Folio")
    rehearsal.question_paper.save(f"rehearsal-{rehearsal.pk}.pdf", ContentFile(sheet), save=True)
