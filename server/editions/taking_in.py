"""Staff take pages in for a student: on paper by post, from a broken phone. They say why, and which moment counts."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from django.db import transaction

from assignments.models import Assignment
from courses.models import Enrolment
from folio_core import clock
from folio_core.binding import TakenInBy
from folio_core.placing import Arrangement, read_arrangement
from folios import beginning, events
from folios.locking import locked
from folios.models import record
from pages.models import Page, TakenIn
from people.models import User
from plumbing.errors import Refused

from .frozen_answers import frozen_answers
from .handing_in import freeze, of_pages
from .models import Edition, counting

MOST_CHARACTERS = 500


@transaction.atomic
def begin_taking_in(
    assignment: Assignment, enrolment: Enrolment, reason: str, counts_at: datetime, *, by: User, now: datetime
) -> TakenIn:
    """Before the first page. Work that was not begun is, so that what was taken in fills its time. Begun a second time
    without handing in, it is the same one with the later words. Raises Refused: reason, counts_at.
    """
    reason = reason.strip()
    if not reason or len(reason) > MOST_CHARACTERS:
        raise Refused(422, "reason", f"Say why, in at most {MOST_CHARACTERS} characters: it stands in the receipt.")
    if not assignment.opens <= counts_at <= now:
        raise Refused(422, "counts_at", "The moment that counts lies between the opening and now.")
    Assignment.objects.select_for_update().get(pk=assignment.pk)  # two of staff at once begin it once
    folio = assignment.folios.filter(student=enrolment.person_id).first()
    if folio is None:
        terms = beginning.terms_for(assignment, enrolment.person_id, enrolment)
        writing, handover = clock.lengths(terms.rules, terms.extra)
        begun = counts_at if not terms.rules.timed else max(assignment.opens, counts_at - writing - handover)
        folio = beginning.create_folio(assignment, enrolment.person, begun)
    folio = locked(folio.pk)
    taken = folio.taken_in.filter(by=by, handed_in=None).first() or TakenIn(folio=folio, by=by)
    taken.reason, taken.counts_at, taken.begun_at = reason, counts_at, now
    taken.save()
    return taken


@transaction.atomic
def hand_in_taken(taken: TakenIn, now: datetime) -> Edition:
    """Its pages, behind those of the edition that counts, as the next one. What the student has on the board and did
    not hand in is left to them. Done twice is done once. Raises Refused where no page is here."""
    folio = locked(taken.folio_id)
    taken = TakenIn.objects.select_related("by").get(pk=taken.pk)
    if taken.handed_in is not None:
        return folio.editions.get(number=taken.handed_in)
    came = Page.objects.filter(original__taken_in=taken).exclude(state=Page.State.FAILED).order_by(
        "original_id", "index", "half"
    )  # fmt: skip
    newest = counting(folio)
    before = read_arrangement(newest.arrangement) if newest else Arrangement()
    new = tuple(pk for pk in came.values_list("pk", flat=True) if pk not in before.pages)
    if not new:
        raise Refused(422, "no_page", "No page is here that could be handed in. Add at least one.")
    wanted = replace(before.with_pages_after(None, new), removed=before.removed)
    by = TakenInBy(by=taken.by.name, reason=taken.reason, counts=taken.counts_at)
    edition = freeze(
        folio,
        wanted,
        of_pages(folio, wanted),
        at=now,
        counts_at=taken.counts_at,
        taken_in=by,
        answers=frozen_answers(newest) if newest else (),
    )
    taken.handed_in = edition.number
    taken.save(update_fields=["handed_in"])
    told = events.TakenIn(pages=len(new), reason=taken.reason, counts_at=taken.counts_at, by=taken.by.name)
    record(folio, told, now)
    return edition


def open_taking_in(by: User, taken_id: int) -> TakenIn | None:
    return TakenIn.objects.select_related("folio__assignment__course", "folio__student").filter(
        pk=taken_id, by=by
    ).first()  # fmt: skip
