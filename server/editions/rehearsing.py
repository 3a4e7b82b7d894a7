"""Rehearsals: begun as often as one likes, looked back on when handed in."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from django.db import transaction
from django.db.models import Max

from assignments.models import Assignment
from assignments.rehearsal import rehearsal_of
from courses.models import Enrolment
from folio_core.clock import Phase, phase
from folio_core.rehearsal import LookBack, Sitting, look_back
from folios.beginning import create_folio
from folios.models import Folio
from pages.models import Original, Page
from plumbing.errors import Refused

from .models import Edition


@transaction.atomic
def rehearse(assignment: Assignment, enrolment: Enrolment, now: datetime) -> Folio:
    """The rehearsal that runs, or a new one. Raises Refused where none is offered to students, or no longer."""
    offered = assignment.offers_rehearsal or enrolment.role == Enrolment.Role.INSTRUCTOR
    if not offered or assignment.rehearsal_of_id is not None:
        raise Refused(403, "no_rehearsal", "Your instructor offers no rehearsal for this assignment.")
    Assignment.objects.select_for_update().get(pk=assignment.pk)  # begun twice at once is begun once
    if now >= assignment.due:
        raise Refused(403, "no_rehearsal", "This assignment is over, so there is nothing left to rehearse for.")
    rehearsal = rehearsal_of(assignment, now)
    running = rehearsal.folios.filter(student=enrolment.person_id, editions=None).order_by("-attempt").first()
    if running is not None and phase(running.window(), now) in (Phase.WRITING, Phase.HANDOVER):
        return running
    attempt = (rehearsal.folios.filter(student=enrolment.person_id).aggregate(most=Max("attempt"))["most"] or 0) + 1
    return create_folio(rehearsal, enrolment.person, now, attempt=attempt)


def looked_back_on(edition: Edition) -> LookBack:
    """What took how long in a rehearsal up to one of its editions."""
    folio = edition.folio
    window = edition.facts.terms.window(folio.begun_at)
    originals = Original.objects.filter(folio=folio, arrived_at__lte=edition.handed_in_at)
    frozen = Page.objects.filter(pk__in=edition.pages.values("page"))
    return look_back(
        Sitting(
            begun=folio.begun_at,
            writing_ends=window.writing_ends,
            closes=window.closes,
            arrived=list(originals.values_list("arrived_at", flat=True)) or [edition.handed_in_at],
            handed_in=edition.handed_in_at,
            by_itself=edition.automatic,
            advised=sum(bool(advice) for advice in frozen.values_list("advice", flat=True)),
            taken_again=folio.events.filter(kind="retaken").count(),
            open_questions=len(edition.open_labels),
            open_pages=edition.open_pages,
        )
    )


def wants_rehearsal(assignment: Assignment, student_id: int) -> bool:
    """Whether the student is asked to rehearse it and has not handed a rehearsal in yet."""
    return assignment.asks_rehearsal and not rehearsed(assignment, [student_id])


def rehearsed(assignment: Assignment, students: Collection[int]) -> dict[int, Edition]:
    """Each student's newest edition of a rehearsal, by student; those without one are left out."""
    editions = Edition.objects.filter(folio__assignment__rehearsal_of=assignment, folio__student__in=students)
    rows = editions.select_related("folio").order_by("handed_in_at", "pk")
    return {edition.folio.student_id: edition for edition in rows}
