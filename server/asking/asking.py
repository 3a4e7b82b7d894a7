"""Staff ask a student for a page, or for all of it, again: with a reason, until a moment that holds for this only."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Literal, cast

from django.db import transaction
from django.db.models import Max

from folios.events import AskedAgain, AskingWithdrawn
from folios.locking import locked
from folios.models import Folio, record_and_announce
from people.models import User
from plumbing.errors import Refused

from .models import UNSETTLED, Asking, waiting

What = Literal["page", "all", "place"]
LONGEST = timedelta(days=60)
MOST_CHARACTERS = 500


@transaction.atomic
def ask_again(
    folio: Folio, kind: What, reason: str, until: datetime, *, by: User, now: datetime,
    page: tuple[int, int] | None = None, edition: int | None = None,
) -> Asking:  # fmt: skip
    """``page``: id and number, where it is one page. Asked twice for the same is one asking with the later words.

    Until ``until`` pages are taken again, also after the close; what was handed in stands meanwhile. Raises Refused:
    until (past, or too far), reason.
    """
    reason = reason.strip()
    if not reason or len(reason) > MOST_CHARACTERS:
        raise Refused(422, "reason", f"Say why, in at most {MOST_CHARACTERS} characters: the student reads it.")
    if not now < until <= now + LONGEST:
        raise Refused(422, "until", "Choose until when it can be sent: later than now, within sixty days.")
    folio = locked(folio.pk)
    page_id, number = page or (None, None)
    same = waiting(now).filter(folio=folio, kind=kind, page=page_id).first()
    asking = same or Asking(folio=folio, kind=kind, page_id=page_id)
    asking.page_number, asking.edition, asking.reason = number, edition, reason
    asking.until, asking.by, asking.asked_at = until, by, now
    asking.save()
    _let_it_be_sent(folio, now)
    asked = AskedAgain(what=kind, page=page_id, number=number, reason=reason, until=until, by=by.name)
    record_and_announce(folio, asked, now)
    return asking


@transaction.atomic
def withdraw(asking: Asking, *, by: User, now: datetime) -> None:
    """It is not wanted any more. Done or withdrawn already, nothing happens. Pages that came stay."""
    folio = locked(asking.folio_id)
    open_still = waiting(now).filter(pk=asking.pk)
    if not open_still.update(withdrawn_at=now):
        return
    _let_it_be_sent(folio, now)
    record_and_announce(
        folio, AskingWithdrawn(what=cast(What, asking.kind), number=asking.page_number, by=by.name), now
    )


def settle(folio: Folio, edition: int, now: datetime, *, over: bool) -> tuple[Asking, ...]:
    """What a hand-in answers: all that is asked for then; with ``over`` what was until then and is over, as where it
    is handed in by itself. ``folio`` is locked."""
    open_still = waiting(now) if not over else Asking.objects.filter(UNSETTLED, until__lte=now)
    asked = tuple(open_still.filter(folio=folio).select_related("by"))
    Asking.objects.filter(pk__in=[one.pk for one in asked]).update(done_edition=edition)
    return asked


def _let_it_be_sent(folio: Folio, now: datetime) -> None:
    """The folio is open until the last of what is asked for; ``folio`` is locked."""
    last = waiting(now).filter(folio=folio).aggregate(last=Max("until"))["last"]
    folio.kept_terms = replace(folio.terms, asked_until=last or _passed(folio, now)).as_document()
    if folio.closed_until is not None:
        folio.is_closed = folio.closed_until >= folio.window().all_ends
    folio.save(update_fields=["kept_terms", "is_closed"])


def _passed(folio: Folio, now: datetime) -> datetime | None:
    """With nothing asked for any more it ends now, where it had not ended."""
    before = folio.terms.asked_until
    return None if before is None else min(before, now)
