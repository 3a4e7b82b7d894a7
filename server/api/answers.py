"""Answers on the screen: each saved as it is typed, against the version that was seen."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from answers.models import Answer
from answers.saving import answers_of, dismiss_set_aside, save_answer
from folio_core.answers import AnswerContent, AnswerKind
from folios.models import Folio
from plumbing.errors import Problem
from plumbing.requests import moment

from .permissions import own_folio, person

router = Router(tags=["answers"])


class ContentDoc(Schema):
    """``chosen``: ids of choices. ``written``: Markdown with maths between dollars. Lengths are judged by the core,
    which says what to do about them."""

    chosen: list[str] = Field([], max_length=60)
    short: str = Field("", max_length=10_000)
    written: str = Field("", max_length=1_000_000)


class SetAsideOut(Schema):
    """What another device typed on an older state; kept beside."""

    id: int
    content: ContentDoc
    at: datetime


class AnswerOut(Schema):
    """``given``: what it holds, of what is asked for."""

    question: str
    version: int
    content: ContentDoc
    given: list[AnswerKind]
    saved_at: datetime
    set_aside: list[SetAsideOut]

    @classmethod
    def of(cls, answer: Answer) -> AnswerOut:
        content = answer.content
        return cls(
            question=str(answer.question_id), version=answer.version, content=ContentDoc(**content.as_document()),
            given=[kind for kind in answer.question.answering.kinds if kind in content.given], saved_at=answer.saved_at,
            set_aside=[
                SetAsideOut(id=one.pk, content=ContentDoc(**one.content.as_document()), at=one.at)
                for one in answer.set_aside.all()
                if one.dismissed_at is None
            ],
        )  # fmt: skip


class AnswerIn(Schema):
    """``version``: of the answer that was seen, 0 where there was none."""

    version: int = Field(ge=0, lt=2**31)
    content: ContentDoc


class StaleAnswerOut(Schema):
    code: Literal["stale"] = "stale"
    message: str
    answer: AnswerOut


@router.put(
    "/folios/{int:folio_id}/answers/{int:question_id}",
    response={200: AnswerOut, 403: Problem, 404: Problem, 409: StaleAnswerOut, 422: Problem, 429: Problem},
)
def put_answer(request: HttpRequest, folio_id: int, question_id: int, body: AnswerIn):  # type: ignore[no-untyped-def]
    """What is sent on an older state is kept beside the newer one, and told with it."""
    folio = own_folio(person(request), folio_id)
    content = AnswerContent.from_document(body.content.model_dump())
    saved = save_answer(folio.pk, question_id, seen=body.version, content=content, now=moment())
    answer = AnswerOut.of(saved.answer)
    if saved.is_stale:
        message = "This answer was changed elsewhere meanwhile. What you typed here is kept beside it."
        return 409, StaleAnswerOut(message=message, answer=answer)
    return answer


@router.delete("/folios/{int:folio_id}/set-aside/{int:aside_id}", response={204: None, 404: Problem})
def delete_set_aside(request: HttpRequest, folio_id: int, aside_id: int) -> tuple[int, None]:
    """Its student has looked at it and needs it no more."""
    dismiss_set_aside(own_folio(person(request), folio_id), aside_id, moment())
    return 204, None


def answers_out(folio: Folio) -> list[AnswerOut]:
    return [AnswerOut.of(one) for one in answers_of(folio)]
