"""Taking back what was handed in, while it could still be handed in: until the next hand-in nothing counts."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction

from folios.events import TakenBack
from folios.locking import locked
from folios.models import Folio, record
from live.announcing import announce
from plumbing.errors import Refused

from .models import Edition


@transaction.atomic
def take_back(folio: Folio, *, number: int, now: datetime) -> None:
    """All editions cease to count, not only the newest: else the one before it would. They are kept.

    ``number``: the newest that the student knew of. Taken back twice is taken back once. Raises Refused: closed after
    the close, when nothing may be taken away any more; another_edition where a newer one was handed in meanwhile.
    """
    folio = locked(folio.pk)
    newest = folio.editions.first()
    if newest is None or newest.number != number:
        raise Refused(409, "another_edition", "Another edition was handed in meanwhile. Look at its receipt first.")
    if newest.taken_back_at is not None:
        return
    if now >= folio.window().closes:
        raise Refused(403, "closed", "The time is up, so what was handed in stays. Ask your instructor.")
    Edition.objects.filter(folio=folio, taken_back_at=None).update(taken_back_at=now)
    record(folio, TakenBack(edition=number), now)
    announce(folio.topic, edition=number)
