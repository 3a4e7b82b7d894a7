"""The talk about a folio: words of its student and of who reads it, at the page they are about. The record keeps it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from folios.events import Said
from folios.locking import locked
from folios.models import Folio, record_and_announce
from people.models import User
from plumbing.errors import Refused

MOST_CHARACTERS = 1000
MOST_WORDS = 200  # of one folio: beyond them people should meet


@dataclass(frozen=True, slots=True)
class Word:
    """``page``: its id, or None where it is about all of it. ``staff``: else it is the student's."""

    at: datetime
    page: int | None
    text: str
    by: str
    staff: bool


@transaction.atomic
def say(folio: Folio, text: str, *, page: int | None, by: User, now: datetime) -> None:
    """Raises Refused: text (none, or too long), page (not of this folio), too_many."""
    text = text.strip()
    if not text or len(text) > MOST_CHARACTERS:
        raise Refused(422, "text", f"Write between 1 and {MOST_CHARACTERS} characters.")
    if page is not None and not folio.pages.filter(pk=page).exists():
        raise Refused(422, "page", "This page is not of this folio.")
    folio = locked(folio.pk)
    if folio.events.filter(kind="said").count() >= MOST_WORDS:
        raise Refused(409, "too_many", f"{MOST_WORDS} words were said here already. Meet, or write a mail.")
    record_and_announce(folio, Said(page=page, text=text, by=by.name, staff=by.pk != folio.student_id), now)


def talk_of(folio: Folio) -> list[Word]:
    """Oldest first."""
    return [Word(at=row.at, **row.detail) for row in folio.events.filter(kind="said")]
