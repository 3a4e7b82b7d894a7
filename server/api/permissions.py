"""Which assignments an account may see: those of the courses it is on the roster of."""

from __future__ import annotations

from courses.models import Enrolment
from inkedfolio.errors import not_yours
from people.models import User

from .models import Assignment


def assignment_of_member(user: User, assignment_id: int) -> tuple[Assignment, Enrolment]:
    """The assignment and this person's line of the roster. Raises Refused (404) for outsiders."""
    assignment = Assignment.objects.select_related("course").filter(pk=assignment_id).first()
    if assignment is None:
        raise not_yours()
    enrolment = Enrolment.objects.filter(course=assignment.course_id, person=user).first()
    if enrolment is None:
        raise not_yours()
    return assignment, enrolment
