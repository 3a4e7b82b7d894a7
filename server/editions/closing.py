"""What happens by itself: at the close, when promised pages have come, and when placing ends."""

from __future__ import annotations

import logging
from datetime import datetime

from django.db import transaction
from django.dispatch import receiver

from folio_core.clock import Phase, Window, phase
from folio_core.placing import Arrangement, added_at_the_close, placed_since, read_arrangement
from folios.arrangements import current
from folios.locking import locked
from folios.models import Folio
from live.announcing import announce
from pages.signals import further_pages_found, page_taken_in

from .frozen_answers import answers_at_the_close, answers_to_freeze, frozen_answers, labels_that_differ
from .handing_in import freeze, of_pages
from .models import counting

logger = logging.getLogger(__name__)


def close_all(now: datetime) -> int:
    """Close every folio with a close or an end of placing behind it that was not closed yet. Returns how many."""
    done = 0
    for folio in Folio.objects.filter(is_closed=False):
        try:
            if _due_moments(folio, folio.window(), now):
                done += close(folio.pk, now)
        except Exception:  # one folio's trouble must not keep the others from being handed in
            logger.exception("Folio %s could not be closed; it is tried again", folio.pk)
    return done


@transaction.atomic
def close(folio_id: int, now: datetime) -> bool:
    """Hand in by itself what is there and was not handed in. Returns whether anything was due; doing it twice is safe.

    At the close that is every page that had arrived and was not handed in, beside those of the newest edition; when
    promised pages are in, or can come no more, those too; when placing ends, what was placed since. Each is handed in
    as of the moment it fell due.
    """
    folio = locked(folio_id)
    window = folio.window()
    due = _due_moments(folio, window, now)
    if not due:
        return False
    _hand_in_what_is_new(folio, due[-1], placing_ended=bool({window.placing_ends, window.asked_until} & {*due}))
    folio.closed_until = due[-1]
    folio.is_closed = due[-1] >= window.all_ends
    folio.save(update_fields=["closed_until", "is_closed"])
    announce(folio.topic, closed=True)
    return True


@receiver(page_taken_in)
def hand_in_late_page(folio: Folio, window: Window, now: datetime, **_: object) -> None:
    """A page came after the close by its pledge, or before it but was taken in only after the folio was closed.

    It is handed in too, once no promised page is missing; what was asked for again waits for its student, or for the
    end of the asking. ``folio`` is locked.
    """
    if phase(window, now) is Phase.ASKED_AGAIN:
        return
    closed = folio.closed_until is not None and folio.closed_until >= window.closes
    if now < window.closes and not closed:
        return
    if not folio.pledges.filter(delivered=False).exists():
        _hand_in_what_is_new(folio, now, placing_ended=False)


@receiver(further_pages_found)
def hand_in_rest_of_file(folio: Folio, first: int, pages: tuple[int, ...], now: datetime, **_: object) -> None:
    """A file of several pages was handed in before it was opened: then one page stood for all of it. The others follow
    in an edition that is otherwise the same and counts as that one does. ``folio`` is locked."""
    newest = counting(folio)
    if newest is None:
        return
    frozen = read_arrangement(newest.arrangement)
    if first in frozen.pages:
        freeze(
            folio, frozen.with_pages_after(first, pages), newest.judgement, at=now, automatic=newest.automatic,
            counts_at=newest.counts_at or newest.handed_in_at, taken_in=newest.facts.taken_in, asked=newest.facts.asked,
            answers=frozen_answers(newest),
        )  # fmt: skip


def _due_moments(folio: Folio, window: Window, now: datetime) -> list[datetime]:
    """The moments up to now at which something happens by itself and has not yet."""
    moments = {window.closes, window.pledges_end, window.placing_ends, window.asked_until or window.closes}
    return sorted(at for at in moments if at <= now and (folio.closed_until is None or at > folio.closed_until))


def _hand_in_what_is_new(folio: Folio, at: datetime, *, placing_ended: bool) -> None:
    """Pages that no edition has, and answers on the screen that were changed; when placing has ended also what was
    placed since the newest.

    Nothing that was handed in is taken away by it, whatever was removed or taken off meanwhile.
    """
    board = current(folio)
    newest = counting(folio)  # none after it was taken back: then what is on the board
    if newest is None:
        if board.pages or answers_to_freeze(folio):
            freeze(folio, board, of_pages(folio, board), at=at, automatic=True)
        return
    frozen = read_arrangement(newest.arrangement)
    wanted = placed_since(frozen, board) if placing_ended else added_at_the_close(frozen, board)
    answers = answers_at_the_close(folio, newest)
    is_new = wanted.pages != frozen.pages or bool(labels_that_differ(folio, newest, answers))
    if is_new or (placing_ended and _for_the_reader(wanted) != _for_the_reader(frozen)):
        freeze(folio, wanted, of_pages(folio, wanted), at=at, automatic=True, answers=answers)


def _for_the_reader(arrangement: Arrangement) -> tuple[object, ...]:
    """What the reader sees of it, to compare two: without removed pages, waved advice, the sides that were counted."""
    placed = {one: arrangement.pages_of(one) for one in arrangement.placed_questions}
    notes = {page: note for page, note in arrangement.notes.items() if page in arrangement.pages}
    loose = arrangement.loose & set(arrangement.pages)
    described = {page: words for page, words in arrangement.descriptions.items() if page in arrangement.pages}
    scales = {page: scale for page, scale in arrangement.scales.items() if page in arrangement.pages}
    return arrangement.pages, placed, arrangement.left_blank, loose, arrangement.comment, notes, described, scales
