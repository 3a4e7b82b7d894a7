"""Who may see what. Every view that names a folio, a page or a file asks here first."""

from __future__ import annotations

from django.db.models import QuerySet

from courses.models import Enrolment
from inkedfolio.errors import not_yours
from people.models import User

from .models import Folio


def own_folio(user: User, folio_id: int) -> Folio:
    """The student's own folio, for changing it. Raises Refused (404) for all others."""
    folio = _with_course().filter(pk=folio_id, student=user).first()
    if folio is None:
        raise not_yours()
    return folio


def readable_folio(user: User, folio_id: int) -> Folio:
    """A folio for its student and for the instructors of its course. Raises Refused (404) for all others."""
    folio = _with_course().filter(pk=folio_id).first()
    if folio is None or not (folio.student_id == user.pk or teaches(user, folio.assignment.course_id)):
        raise not_yours()
    return folio


def teaches(user: User, course_id: int) -> bool:
    return Enrolment.objects.filter(course=course_id, person=user, role=Enrolment.Role.INSTRUCTOR).exists()


def _with_course() -> QuerySet[Folio]:
    return Folio.objects.select_related("assignment__course", "student")
