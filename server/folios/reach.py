"""What of an assignment somebody reads: its instructors all of it, a marker what is in the scopes."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Q, QuerySet

from assignments.models import Assignment, MarkerScope
from courses.models import Enrolment
from people.models import User

from .models import Folio

_Role = Enrolment.Role


@dataclass(frozen=True, slots=True)
class Reach:
    """``scopes``: None for all of the assignment; else what is in any of them."""

    scopes: tuple[MarkerScope, ...] | None

    def folios(self, assignment: Assignment) -> QuerySet[Folio]:
        """Those of which at least one question is read."""
        if self.scopes is None:
            return assignment.folios.all()
        wanted = Q(pk__in=())
        for scope in self.scopes:
            students = Q() if scope.section_id is None else Q(section=scope.section_id)
            students &= Q() if scope.student_id is None else Q(student=scope.student_id)
            wanted |= students & Q(assignment=scope.assignment_id)
        return assignment.folios.filter(wanted)

    def questions(self, folio: Folio) -> frozenset[str] | None:
        """The ids of those that are read of one folio; None for all of it, empty for nothing."""
        if self.scopes is None:
            return None
        holding = [
            scope
            for scope in self.scopes
            if scope.section_id in (None, folio.section_id) and scope.student_id in (None, folio.student_id)
        ]
        if any(scope.question_id is None for scope in holding):
            return None
        return frozenset(str(scope.question_id) for scope in holding)


def reach_of(user: User, assignment: Assignment) -> Reach | None:
    """None for who reads nothing of it."""
    roles = Enrolment.objects.filter(course=assignment.course_id, person=user).values_list("role", flat=True)
    if _Role.INSTRUCTOR in roles:
        return Reach(None)
    scopes = MarkerScope.objects.filter(assignment=assignment, marker__person=user, marker__role=_Role.MARKER)
    found = tuple(scopes.order_by("pk"))
    return Reach(found) if found else None
