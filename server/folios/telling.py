"""A word to who sits: to one student, some, or all who have begun. It is in the record, and on their boards at once."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from django.db import transaction

from assignments.models import Assignment
from plumbing.errors import Refused

from .events import Told
from .models import record_and_announce

MOST_CHARACTERS = 500


@transaction.atomic
def tell(assignment: Assignment, text: str, *, only: Collection[int] | None, by_name: str, now: datetime) -> int:
    """``only``: ids of folios; None is all. Returns how many hear it. Raises Refused for no word, or nobody to hear."""
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
