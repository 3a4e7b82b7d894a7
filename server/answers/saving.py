"""The one atomic write of an answer, against the version that was seen. Nothing that was typed is lost by it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import Count

from assignments.models import Question
from folio_core import clock
from folio_core.answers import CHOICES_MOST, NOTHING, AnswerContent, AnswerKind, BadAnswer
from folios.events import Answered
from folios.locking import locked
from folios.models import Folio, record
from live.announcing import announce
from plumbing.errors import Refused

from .models import Answer, SetAside

_RECORDED_EVERY = timedelta(minutes=1)  # while one answer is being typed
_MOST_SET_ASIDE = 200  # of an answer: two devices that went on typing for hours do not come near it


@dataclass(frozen=True, slots=True)
class Saved:
    """The answer as it is now. ``is_stale``: what was sent lies beside it instead, for it was made on an older one."""

    answer: Answer
    is_stale: bool = False


@transaction.atomic
def save_answer(folio_id: int, question_id: int, *, seen: int, content: AnswerContent, now: datetime) -> Saved:
    """Replace the answer that was seen as version ``seen``; 0 is none yet. The same once more changes nothing.

    Raises SittingClosed after the close, Refused (404) where the question is not on the map, BadAnswer for one that is
    not answered so, Refused (429) where too much lies beside it.
    """
    folio = locked(folio_id)
    clock.require_open(folio.window(), now)
    question = folio.assignment.questions.filter(pk=question_id, removed_at=None).first()
    if question is None:
        raise Refused(404, "no_question", "This question is not on the question map any more. What you typed is kept.")
    _require_fits(content, question)
    answer = Answer.objects.filter(folio=folio, question=question).first()
    before = answer.content if answer else NOTHING
    if answer is None:
        answer = Answer(folio=folio, question=question, kept_content=NOTHING.as_document(), saved_at=now)
    if content == before and answer.pk is not None:
        return Saved(answer)
    if answer.pk is not None and answer.version != seen:
        _set_aside(answer, content, now)
        announce(folio.topic, answered=str(question_id))
        return Saved(answer, is_stale=True)
    answer.kept_content, answer.saved_at = content.as_document(), now
    answer.version += 1
    answer.save()
    changed_state = bool(content.given) != bool(before.given)
    _record(folio, question, answer, changed_state, now)
    announce(folio.topic, answered=str(question_id), version=answer.version, goes_on=not changed_state)
    return Saved(answer)


def _set_aside(answer: Answer, content: AnswerContent, now: datetime) -> None:
    """Once, also where it is sent twice on a bad line."""
    kept = answer.set_aside.filter(kept_content=content.as_document(), dismissed_at=None)
    if kept.exists():
        return
    if answer.set_aside.count() >= _MOST_SET_ASIDE:
        raise Refused(
            429, "too_many", "Too much lies beside this answer already. What you typed is kept on this device; reload."
        )
    SetAside.objects.create(answer=answer, kept_content=content.as_document(), at=now)


def _require_fits(content: AnswerContent, question: Question) -> None:
    """Choices that were taken off the list since are no error: they are kept, and not shown."""
    answering = question.answering
    if content.given - set(answering.kinds):
        raise BadAnswer(
            f"Question {question.label} is not answered so any more. What you typed is kept on this device."
        )
    known = {choice.id for choice in answering.choices}
    chosen = [one for one in content.chosen if one in known]
    if AnswerKind.CHOSEN in content.given and len(chosen) > 1 and not answering.many:
        raise BadAnswer("Only one of these can be chosen. Nothing was changed.")
    if len(content.chosen) > 2 * CHOICES_MOST:
        raise BadAnswer("More is chosen than there are choices. Nothing was changed.")


def _record(folio: Folio, question: Question, answer: Answer, changed_state: bool, now: datetime) -> None:
    last = folio.events.filter(kind="answered", detail__label=question.label).order_by("-pk").first()
    if changed_state or last is None or now - last.at >= _RECORDED_EVERY:
        event = Answered(label=question.label, version=answer.version, is_empty=not answer.content.given)
        record(folio, event, now)


def dismiss_set_aside(folio: Folio, aside_id: int, now: datetime) -> None:
    """Its student has looked at it. It stays in the database. Raises Refused (404) where there is none."""
    done = SetAside.objects.filter(answer__folio=folio, pk=aside_id).update(dismissed_at=now)
    if not done:
        raise Refused(404, "no_set_aside", "This is not here any more. Reload the board.")
    announce(folio.topic, set_aside=aside_id)


def answers_of(folio: Folio) -> list[Answer]:
    """Of the questions on the map, in its order."""
    return list(
        folio.answers.filter(question__removed_at=None).select_related("question").prefetch_related("set_aside")
    )


def answer_counts(folio_ids: Collection[int]) -> dict[int, int]:
    """How many answers on the screen there are in each of these folios."""
    held = Answer.objects.filter(folio__in=folio_ids).exclude(kept_content=NOTHING.as_document())
    return dict(held.values_list("folio").annotate(count=Count("pk")))


def answered_by(question_ids: list[int]) -> dict[int, int]:
    """How many students answered each of these questions on the screen."""
    counted: dict[int, int] = {}
    for answer in Answer.objects.filter(question__in=question_ids):
        counted[answer.question_id] = counted.get(answer.question_id, 0) + bool(answer.content.given)
    return {question: count for question, count in counted.items() if count}


def seed_of(folio: Folio) -> str:
    """For the order in which this student sees choices: the same for each of their folios of an assignment."""
    return f"{folio.assignment_id}/{folio.student_id}"
