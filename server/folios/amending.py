"""Edits of the rules and of what was granted, and work that is begun: they hold for it only in the student's favour."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from django.db import transaction
from django.db.models import QuerySet

from assignments.models import Assignment
from courses.models import Enrolment
from folio_core.terms import Terms, takes_nothing_away

from .beginning import terms_for
from .events import Amended
from .locking import locked
from .models import Folio, record_and_announce


@transaction.atomic
def amend_begun(folios: QuerySet[Folio], now: datetime) -> int:
    """Let the terms as they stand now hold for begun work, where no end comes earlier by it. Returns for how many.

    Each amendment is recorded and told. Whatever would take time away changes nothing for who has begun.
    """
    return sum(_amend(folio_id, now) for folio_id in folios.order_by("pk").values_list("pk", flat=True))


@dataclass(frozen=True, slots=True)
class Foreseen:
    """For how much begun work that is not closed other rules would end later, and for how much something earlier."""

    gain: int
    lose: int


def foreseen(wanted: Assignment, now: datetime) -> Foreseen:
    """What saving this assignment would do to begun work. Nothing is changed by asking."""
    gain = lose = 0
    for folio in Folio.objects.filter(assignment=wanted.pk, is_closed=False).select_related("assignment__course"):
        before, terms = folio.window(), _terms_now(wanted, folio)
        if terms is None or max(before.closes, before.placing_ends) <= now:
            continue
        after = terms.window(folio.begun_at)
        if after != before:
            gain, lose = (gain + 1, lose) if takes_nothing_away(before, after) else (gain, lose + 1)
    return Foreseen(gain, lose)


def _terms_now(assignment: Assignment, folio: Folio) -> Terms | None:
    """As they stand for this student now; None for one who was taken off the roster, whose work keeps its terms."""
    enrolment = Enrolment.objects.filter(
        course=assignment.course_id, person=folio.student_id, role=Enrolment.Role.STUDENT
    ).first()
    if enrolment is None:
        return None
    terms = terms_for(assignment, folio.student_id, enrolment)
    return replace(terms, lengthenings=folio.terms.lengthenings, asked_until=folio.terms.asked_until)


def _amend(folio_id: int, now: datetime) -> bool:
    folio = locked(folio_id)
    before, terms = folio.window(), _terms_now(folio.assignment, folio)
    if terms is None:
        return False
    after = terms.window(folio.begun_at)
    if after == before or not takes_nothing_away(before, after):
        return False
    folio.kept_terms = terms.as_document()
    if folio.closed_until is not None:
        folio.is_closed = folio.closed_until >= after.all_ends
    folio.save(update_fields=["kept_terms", "is_closed"])
    record_and_announce(folio, Amended(closed_before=before.closes, closes_now=after.closes), now)
    return True
