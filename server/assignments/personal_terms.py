"""A student's own terms of one assignment: another due moment, other extra time."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from courses.models import Enrolment
from folio_core.clock import ExtraTime
from plumbing.errors import Refused

from .models import Assignment, PersonalTerms


@dataclass(frozen=True, slots=True)
class Own:
    """``extra``: None where the course's extra time holds. ``reason``: only staff see it."""

    due: datetime | None = None
    extra: ExtraTime | None = None
    reason: str = ""


@transaction.atomic
def set_personal_terms(assignment: Assignment, people: Collection[int], own: Own) -> int:
    """For these students; with neither a due moment nor extra time they have the same terms as the others again.
    Whoever has begun gains by it and never loses (`folios.amending`).

    Returns for how many. Raises Refused: 422 for a moment before the opening, 404 for who is no student of the course.
    """
    if own.due is not None and own.due <= assignment.opens:
        raise Refused(422, "field:due", "It must come after the opening.")
    lines = Enrolment.objects.filter(course=assignment.course_id, role=Enrolment.Role.STUDENT, person__in=people)
    students = list(lines.order_by("person").values_list("person", flat=True))
    if not people or len(students) != len(set(people)):
        raise Refused(404, "not_found", "Somebody chosen is no student of this course any more. Reload the page.")
    extra = own.extra or ExtraTime()
    wanted = {
        "due": own.due,
        "extra_factor": extra.factor if own.extra else None,
        "extra_minutes": extra.minutes,
        "extra_on_handover": extra.on_handover,
        "extra_on_due": extra.on_due,
        "reason": own.reason.strip(),
    }
    for student in students:
        if own.due is None and own.extra is None:
            for had in PersonalTerms.objects.filter(assignment=assignment, person=student):
                had.delete()  # one by one: begun work hears of each
        else:
            PersonalTerms.objects.update_or_create(assignment=assignment, person_id=student, defaults=wanted)
    return len(students)
