"""Answers on the screen, as an edition freezes them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

from answers.saving import answers_of, seed_of
from folio_core.answers import AnswerContent, AnswerKind, choices_for
from folio_core.answers.automatic import judge
from folio_core.answers.typesetting import ScreenAnswer
from folio_core.question_map import Question
from folios.models import Folio

from .models import Edition, EditionAnswer


@dataclass(frozen=True, slots=True)
class FrozenAnswer:
    question: str
    content: AnswerContent
    saved_at: datetime


def answers_to_freeze(folio: Folio) -> list[FrozenAnswer]:
    """Those that hold something."""
    held = [one for one in answers_of(folio) if one.content.given]
    return [FrozenAnswer(str(one.question_id), one.content, one.saved_at) for one in held]


def frozen_answers(edition: Edition) -> list[FrozenAnswer]:
    return [FrozenAnswer(one.question, one.content, one.saved_at) for one in edition.answers.all()]


def frozen_contents(edition: Edition) -> dict[str, AnswerContent]:
    return {one.question: one.content for one in frozen_answers(edition)}


def answers_at_the_close(folio: Folio, newest: Edition) -> list[FrozenAnswer]:
    """What is there; and where an answer was taken out since the newest edition, that of the edition: the close takes
    nothing away."""
    now = {one.question: one for one in answers_to_freeze(folio)}
    return list({**{one.question: one for one in frozen_answers(newest)}, **now}.values())


def labels_that_differ(folio: Folio, newest: Edition, answers: Sequence[FrozenAnswer]) -> list[str]:
    """Of the questions whose answer on the screen is another one than in the newest edition."""
    frozen, now = frozen_contents(newest), {one.question: one.content for one in answers}
    questions = folio.assignment.question_map.questions
    return [one.label for one in questions if frozen.get(one.id) != now.get(one.id)]


def on_sheets(edition: Edition) -> list[ScreenAnswer]:
    """What stands on the sheets of the bound document: each question that is answered on the screen, also those to
    which nothing was answered, unless nothing was at all."""
    answers = frozen_contents(edition)
    if not answers:
        return []
    questions = [one for one in edition.facts.question_map.questions if one.answering.on_screen]
    return [on_sheet(edition.folio, one, answers.get(one.id, AnswerContent())) for one in questions]


def on_sheet(folio: Folio, question: Question, content: AnswerContent) -> ScreenAnswer:
    asked = question.answering
    is_chosen = AnswerKind.CHOSEN in asked.kinds
    return ScreenAnswer(
        question.id, question.label, question.title, asked.text,
        choices_for(asked, question.id, seed_of(folio)) if is_chosen else (), content,
        AnswerKind.SHORT in asked.kinds, AnswerKind.WRITTEN in asked.kinds, asked.short.unit,
    )  # fmt: skip


def judge_answers(edition: Edition) -> None:
    """What chosen and short answers are worth by themselves; done twice is done once."""
    questions = {one.id: one for one in edition.facts.question_map.questions}
    for answer in _not_judged(edition):
        if answer.question in questions:
            judged = judge(questions[answer.question].answering, answer.content)
            answer.judged = {"is_right": judged.is_right, "words": judged.words}
            answer.save(update_fields=["judged"])


def _not_judged(edition: Edition) -> Iterator[EditionAnswer]:
    return (one for one in edition.answers.all() if not one.judged)
