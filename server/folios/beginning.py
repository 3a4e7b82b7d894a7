"""Beginning: the terms that hold for a student, and the folio that keeps them from then on."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction

from assignments.models import Assignment
from courses.models import Enrolment
from folio_core import clock
from folio_core.clock import ExtraTime, Window
from folio_core.terms import Terms
from live.announcing import announce
from people.models import User

from .events import Begun
from .models import Folio, assignment_topic, record


def terms_for(assignment: Assignment, person_id: int, enrolment: Enrolment | None) -> Terms:
    """What would hold for this person who begins now. In a list, personal terms are fetched for all of it."""
    own = next((one for one in assignment.personal_terms.all() if one.person_id == person_id), None)
    extra = enrolment.extra_time if enrolment else ExtraTime()
    if own is not None and own.extra_time is not None:
        extra = own.extra_time
    return Terms(assignment.rules, extra, own.due if own else None)


def window_of(assignment: Assignment, person_id: int, folio: Folio | None, enrolment: Enrolment | None) -> Window:
    """The window of begun work by the terms it keeps, else as it stands for one who has not begun."""
    if folio is not None:
        return folio.window()
    return terms_for(assignment, person_id, enrolment).window(None)


@transaction.atomic
def begin(assignment: Assignment, enrolment: Enrolment, now: datetime) -> Folio:
    """The student's folio; begun twice is begun once. Raises SittingClosed outside the window."""
    known = assignment.folios.filter(student=enrolment.person_id).first()
    if known is not None:
        return known
    clock.require_open(terms_for(assignment, enrolment.person_id, enrolment).window(now), now)
    Assignment.objects.select_for_update().get(pk=assignment.pk)  # begun twice at once is begun once
    known = assignment.folios.filter(student=enrolment.person_id).first()
    return known or create_folio(assignment, enrolment.person, now)


def create_folio(assignment: Assignment, student: User, begun_at: datetime, *, attempt: int = 1) -> Folio:
    """A new folio with the terms that hold for the student now. Whether it may be begun is not asked."""
    enrolment = Enrolment.objects.filter(
        course=assignment.course_id, person=student.pk, role=Enrolment.Role.STUDENT
    ).first()
    terms = terms_for(assignment, student.pk, enrolment)
    folio = Folio.objects.create(
        assignment=assignment, student=student, begun_at=begun_at, attempt=attempt, kept_terms=terms.as_document(),
        section_id=enrolment.section_id if enrolment else None,
    )  # fmt: skip
    record(folio, Begun(), begun_at)
    announce(folio.topic)
    announce(assignment_topic(assignment.pk), begun=folio.pk)
    return folio
