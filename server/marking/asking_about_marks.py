"""A student's question about a mark: to whoever gave it, and it stays at the answer with what is said to it."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction

from folios.events import MarkQuestioned
from folios.locking import locked
from folios.models import Folio, record_and_announce
from people.models import User
from plumbing.errors import Refused

from .giving_back import seen_by_student
from .models import Mark, MarkWord

MOST_CHARACTERS, MOST_WORDS = 2000, 60


@transaction.atomic
def say_about_mark(folio: Folio, question: str, text: str, *, by: User, now: datetime) -> MarkWord:
    """Of the student while questions are taken, of staff whenever the student sees the marks. Raises Refused: text,
    question (422), over (403), not_given_back (404), too_many (409)."""
    text = text.strip()
    if not text or len(text) > MOST_CHARACTERS:
        raise Refused(422, "text", f"Write between 1 and {MOST_CHARACTERS} characters.")
    folio = locked(folio.pk)
    given = seen_by_student(folio, now)
    if given is None:
        raise Refused(404, "not_given_back", "These marks are not given back, so there is nothing to ask about yet.")
    label = next((one["label"] for one in given.statement["questions"] if one["id"] == question), None)
    if label is None:
        raise Refused(422, "question", "This question is not on the edition's question map.")
    is_students = by.pk == folio.student_id
    if is_students and (given.asks_until is None or now >= given.asks_until):
        raise Refused(403, "over", "Questions about marks are not taken here any more. Ask your instructor.")
    if folio.mark_words.filter(question=question).count() >= MOST_WORDS:
        raise Refused(409, "too_many", f"{MOST_WORDS} words were said about this mark already. Meet, or write a mail.")
    word = MarkWord.objects.create(folio=folio, question=question, text=text, by=by, at=now)
    said = MarkQuestioned(question=question, label=label, text=text, by=by.name, staff=not is_students)
    record_and_announce(folio, said, now)
    return word


def marker_of(folio: Folio, question: str) -> User | None:
    """Who gave the mark that the student sees."""
    mark = Mark.objects.filter(edition__folio=folio, question=question).order_by("-edition__number", "-at").first()
    return mark.by if mark else None
