"""Edits of the rules and of what was granted, and work that is begun: they hold for it only in the student's favour."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction
from django.db.models import QuerySet

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


def _amend(folio_id: int, now: datetime) -> bool:
    folio = locked(folio_id)
    before = folio.window()
    enrolment = Enrolment.objects.filter(
        course=folio.assignment.course_id, person=folio.student_id, role=Enrolment.Role.STUDENT
    ).first()
    if enrolment is None:
        return False  # taken off the roster: what was begun keeps its terms
    terms = terms_for(folio.assignment, folio.student_id, enrolment)
    terms = Terms(terms.rules, terms.extra, terms.personal_due, folio.terms.lengthenings)
    after = terms.window(folio.begun_at)
    if after == before or not takes_nothing_away(before, after):
        return False
    folio.kept_terms = terms.as_document()
    if folio.closed_until is not None:
        folio.is_closed = folio.closed_until >= max(after.placing_ends, after.pledges_end)
    folio.save(update_fields=["kept_terms", "is_closed"])
    record_and_announce(folio, Amended(closed_before=before.closes, closes_now=after.closes), now)
    return True
