"""A due moment of one's own, in the place of the assignment's."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from django.db import transaction

from courses.models import Enrolment
from plumbing.errors import Refused

from .models import Assignment, PersonalDue


@transaction.atomic
def set_personal_due(assignment: Assignment, people: Collection[int], due: datetime | None) -> int:
    """For these students; None takes it away again. Whoever has begun gains by it and never loses (`folios.amending`).

    Returns for how many. Raises Refused: 422 for a moment before the opening, 404 for who is no student of the course.
    """
    if due is not None and due <= assignment.opens:
        raise Refused(422, "field:due", "It must come after the opening.")
    lines = Enrolment.objects.filter(course=assignment.course_id, role=Enrolment.Role.STUDENT, person__in=people)
    students = list(lines.order_by("person").values_list("person", flat=True))
    if not people or len(students) != len(set(people)):
        raise Refused(404, "not_found", "Somebody chosen is no student of this course any more. Reload the page.")
    for student in students:
        if due is None:
            for own in PersonalDue.objects.filter(assignment=assignment, person=student):
                own.delete()  # one by one: begun work hears of each
        else:
            PersonalDue.objects.update_or_create(assignment=assignment, person_id=student, defaults={"due": due})
    return len(students)
