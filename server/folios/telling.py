"""A word to who sits: to one student, some, or all who have begun. It is in the record, and on their boards at once."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from django.db import transaction

from assignments.models import Assignment
from plumbing.errors import Refused

from .events import Heard, Told
from .locking import locked
from .models import Event, record_and_announce

MOST_CHARACTERS = 500


@transaction.atomic
def tell(assignment: Assignment, text: str, *, only: Collection[int] | None, by_name: str, now: datetime) -> int:
    """``only``: ids of folios; None is all. Returns to how many it goes. Raises Refused for no word, or nobody."""
    text = text.strip()
    if not text or len(text) > MOST_CHARACTERS:
        raise Refused(422, "text", f"Write a word of at most {MOST_CHARACTERS} characters.")
    begun = assignment.folios.filter(is_closed=False) if only is None else assignment.folios.filter(pk__in=only)
    folios = list(begun.order_by("pk"))
    if not folios:
        raise Refused(409, "nobody", "Nobody who would hear it is at work just now.")
    for folio in folios:
        record_and_announce(folio, Told(text=text, by=by_name), now)
    return len(folios)


@transaction.atomic
def hear(folio_id: int, words: int, now: datetime) -> None:
    """The board has shown so many words in all, by the server's clock. Said again, or of more than there are, it is not
    written down again."""
    folio = locked(folio_id)
    shown = min(words, folio.events.filter(kind="told").count())
    if shown > heard_of([folio.pk]).get(folio.pk, 0):
        record_and_announce(folio, Heard(words=shown), now)


def heard_of(folios: Collection[int]) -> dict[int, int]:
    """How many words of staff each folio's board has shown; folios without any are left out."""
    rows = Event.objects.filter(folio__in=folios, kind="heard").order_by("pk").values_list("folio_id", "detail")
    return {folio_id: int(detail["words"]) for folio_id, detail in rows}
