"""What happens by itself: at the close, when promised pages have come, and when placing ends."""

from __future__ import annotations

import logging
from dataclasses import replace
from datetime import datetime

from django.db import transaction
from django.db.models import F, Q

from courses.models import Enrolment
from folio_core.clock import Window
from folio_core.placing import Arrangement
from live.bell import ring

from .arranging import current, read
from .handing_in import freeze, of_its_pages
from .models import Folio, sitting_window
from .statements import locked

logger = logging.getLogger(__name__)


def settle_all(now: datetime) -> int:
    """Settle every folio with a close or an end of placing behind it that was not settled yet. Returns how many."""
    moved = Q(settled_until__lt=F("assignment__due")) | Q(settled_until__lt=F("assignment__personal_dues__due"))
    waiting = (
        Folio.objects.filter(Q(settled=False) | moved)
        .distinct()
        .select_related("assignment__course")
        .prefetch_related("lengthenings", "assignment__personal_dues")
    )
    roster = {(line.course_id, line.person_id): line for line in Enrolment.objects.filter(person__folios__in=waiting)}
    done = 0
    for folio in waiting:
        line = roster.get((folio.assignment.course_id, folio.student_id))
        try:
            if _bells(folio, sitting_window(folio.assignment, folio.student_id, folio, line), now):
                done += settle(folio.pk, now)
        except Exception:  # one folio's trouble must not keep the others from being handed in
            logger.exception("Folio %s could not be settled; it is tried again", folio.pk)
    return done


@transaction.atomic
def settle(folio_id: int, now: datetime) -> bool:
    """Hand in by itself what is there and was not handed in. Returns whether anything was due; doing it twice is safe.

    At the close that is every page that had arrived; when promised pages are in, or can come no more, those too; when
    placing ends, what was placed since. Each is handed in as of the moment it fell due.
    """
    folio = locked(folio_id)
    win = folio.window()
    bells = _bells(folio, win, now)
    if not bells:
        return False
    _hand_in_what_is_new(folio, bells[-1], even_placing=bool({win.closes, win.placing_ends} & set(bells)))
    folio.settled_until = bells[-1]
    folio.settled = bells[-1] >= max(win.placing_ends, win.pledges_end)
    folio.save(update_fields=["settled_until", "settled"])
    ring(folio.pk, settled=True)
    return True


def after_a_page(folio: Folio, win: Window, now: datetime) -> None:
    """A page came after the close by its pledge, or before it but was taken in only after the folio was settled.

    It is handed in too, once no promised page is missing. ``folio`` is locked.
    """
    settled = folio.settled_until is not None and folio.settled_until >= win.closes
    if now < win.closes and not settled:
        return
    if not folio.pledges.filter(delivered=False).exists():
        _hand_in_what_is_new(folio, now, even_placing=False)


def _bells(folio: Folio, win: Window, now: datetime) -> list[datetime]:
    """The moments up to now at which something happens by itself and has not yet."""
    moments = {win.closes, win.pledges_end, win.placing_ends}
    return sorted(at for at in moments if at <= now and (folio.settled_until is None or at > folio.settled_until))


def _hand_in_what_is_new(folio: Folio, at: datetime, *, even_placing: bool) -> None:
    """Pages that no edition has; with ``even_placing`` also pages that only lie elsewhere now."""
    arrangement = current(folio)
    newest = folio.editions.first()
    if not arrangement.pages:
        return
    if newest is not None:
        frozen = read(newest.arrangement)
        if not (set(arrangement.pages) - set(frozen.pages) or (even_placing and _said(frozen) != _said(arrangement))):
            return
    freeze(folio, of_its_pages(folio), at=at, automatic=True)


def _said(arrangement: Arrangement) -> Arrangement:
    """Without what is only the student's own: advice waved away, the sides that were counted."""
    return replace(arrangement, dismissed={}, sides=None)
