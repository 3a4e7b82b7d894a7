"""A class test on the printed paper itself, and photographs of it filled in: to be tried by hand."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from django.core.files.base import ContentFile

from assignments.models import Assignment, Question
from assignments.printed_sheets import set_sheets
from courses.models import Course
from folio_camera.form_trials import photographed
from folio_camera.printed_forms import make_form

TITLE = "Class test: on the printed sheet"
FORM = make_form("boxes", 19, pages=3)
LEFT_EMPTY = "4"
_POINTS = (4, 6, 5, 6, 4)
_SENT = (2, 0, 1)  # pages in the order they were photographed
_SIZE = (1512, 2016)


def load_printed_test(opens: datetime, due: datetime) -> Assignment:
    """Its paper with the spaces as an instructor has kept them; nobody has begun."""
    course = Course.objects.get(code="NAV 231")
    assignment = Assignment(
        course=course, title=TITLE, opens=opens, due=due,
        instructions="Write in the boxes, and photograph each sheet in any order: it finds its place by itself.",
    )  # fmt: skip
    assignment.question_paper.save("class-test.pdf", ContentFile(FORM.pdf), save=True)
    Question.objects.bulk_create(
        Question(assignment=assignment, position=position, label=label, points=_POINTS[position])
        for position, label in enumerate(FORM.spaces)
    )
    set_sheets(assignment, True, FORM.spaces, clean_print=True)
    return assignment


def photograph_printed_test(folder: Path) -> list[Path]:
    """Its three sheets, filled in but for one answer; those that are there already are kept."""
    folder.mkdir(parents=True, exist_ok=True)
    made = []
    for number, page in enumerate(_SENT, 1):
        path = folder / f"sheet-{number}.jpg"
        if not path.exists():
            answered = [label for label, boxes in FORM.spaces.items() if boxes[0][0] == page and label != LEFT_EMPTY]
            half = path.with_suffix(".part")
            half.write_bytes(photographed(FORM, page, answered, 19 + page, _SIZE))
            half.rename(path)
        made.append(path)
    return made
