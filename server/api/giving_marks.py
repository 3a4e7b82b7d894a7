"""Giving marks, drawing ink, and saying where one is."""

from __future__ import annotations

import uuid
from datetime import timedelta
from decimal import Decimal
from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from assignments.models import Assignment
from folio_core.marking import STROKE_POINTS_MOST, TEXT_MOST, Tool
from marking.giving_marks import Given, SavedMark, give_mark, round_for
from marking.hiding import hidden_among
from marking.inking import Drawn, draw, erase
from marking.models import AtWork, Ink
from marking.work import marked_folio
from people.models import User
from plumbing.errors import Problem, not_yours
from plumbing.requests import moment

from .answers_to_mark import AnswerRow, InkOut, InkPoint, MarkOut, ink_out, mark_out, rows_of
from .marking import Points, last_change
from .permissions import answer_to_mark, person, reader_of

router = Router(tags=["marking"])
_AT_WORK = timedelta(seconds=40)  # a browser says every fifteen seconds where it is


class MarkIn(Schema):
    """``version``: of the mark that was looked at, 0 where there was none. ``points``: null takes them off."""

    folio_id: int
    edition: int = Field(ge=1)
    question: str = Field(max_length=64)
    settles: bool = False
    version: int = Field(0, ge=0, lt=2**31)
    points: Points | None = None
    not_attempted: bool = False
    note: str = Field("", max_length=8000)


class StaleMarkOut(Schema):
    code: Literal["stale"] = "stale"
    message: str
    mark: MarkOut


class InkIn(Schema):
    folio_id: int
    edition: int = Field(ge=1)
    question: str = Field(max_length=64)
    page: int
    tool: Tool
    points: list[InkPoint] = Field(min_length=1, max_length=STROKE_POINTS_MOST)
    width: float = Field(gt=0, le=1)
    text: str = Field("", max_length=TEXT_MOST)


class AtWorkIn(Schema):
    folio_id: int
    question: str = Field(max_length=64)


class OtherAtWork(Schema):
    name: str
    folio_id: int
    question: str


class AtWorkOut(Schema):
    """Who else marks here just now. ``changed``: another word as soon as anything was marked."""

    others: list[OtherAtWork]
    changed: str


@router.put("/marks", response={200: AnswerRow, 404: Problem, 409: StaleMarkOut | Problem, 422: Problem})
def put_mark(request: HttpRequest, body: MarkIn):  # type: ignore[no-untyped-def]
    """What is sent on an older state is not written; the newer mark comes back."""
    user, now = person(request), moment()
    edition = answer_to_mark(user, body.folio_id, body.edition, body.question)
    work = marked_folio(edition)
    if body.question not in work.question_map:
        raise not_yours()
    given = Given(None if body.points is None else Decimal(body.points), body.note.strip(), body.not_attempted)
    round_ = round_for(work.standings[body.question], user, settles=body.settles)
    saved: SavedMark = give_mark(edition, body.question, given, round_=round_, seen=body.version, by=user, now=now)
    if saved.is_stale:
        message = f"{saved.mark.by.name} marked this answer meanwhile. Yours was not written over it."
        return 409, StaleMarkOut(message=message, mark=mark_out(saved.mark, user))
    work = marked_folio(edition)
    hidden = hidden_among([edition.folio], now) if not _instructs(user, edition.folio.assignment) else set[int]()
    (row,) = rows_of([(work, work.question_map[body.question])], user, hidden)
    return row


@router.put("/ink/{uuid:key}", response={200: InkOut, 404: Problem, 409: Problem, 422: Problem, 429: Problem})
def put_ink(request: HttpRequest, key: uuid.UUID, body: InkIn) -> InkOut:
    """The same key twice is one stroke; one that was erased is there again."""
    user = person(request)
    edition = answer_to_mark(user, body.folio_id, body.edition, body.question)
    work = marked_folio(edition)
    if body.question not in work.question_map:
        raise not_yours()
    round_ = round_for(work.standings[body.question], user, settles=False)
    drawn = Drawn(body.tool, [(x, y, pressure) for x, y, pressure in body.points], body.width, body.text.strip())
    ink = draw(edition, body.page, drawn, key=key, question=body.question, round_=round_, by=user, now=moment())
    return ink_out(work.pages[body.page], ink, user)


@router.delete("/ink/{uuid:key}", response={204: None, 404: Problem})
def delete_ink(request: HttpRequest, key: uuid.UUID) -> tuple[int, None]:
    """One's own, or as an instructor anybody's. What was never there is gone already."""
    user = person(request)
    ink = Ink.objects.filter(key=key).select_related("page__folio__assignment").first()
    if ink is None:
        return 204, None
    if ink.by_id != user.pk and not _instructs(user, ink.page.folio.assignment):
        raise not_yours()
    erase(ink, now=moment())
    return 204, None


@router.put("/assignments/{int:assignment_id}/marking/at-work", response={200: AtWorkOut, 404: Problem})
def put_at_work(request: HttpRequest, assignment_id: int, body: AtWorkIn) -> AtWorkOut:
    """Where this person is; every now and then, from an open screen."""
    user, now = person(request), moment()
    assignment, reach = reader_of(user, assignment_id)
    folio = reach.folios(assignment).filter(pk=body.folio_id).first()
    if folio is not None:
        AtWork.objects.update_or_create(
            assignment=assignment, marker=user,
            defaults={"folio": folio, "question": body.question, "seen_at": now},
        )  # fmt: skip
    others = AtWork.objects.filter(assignment=assignment, seen_at__gt=now - _AT_WORK).exclude(marker=user)
    return AtWorkOut(
        others=[
            OtherAtWork(name=one.marker.name, folio_id=one.folio_id, question=one.question)
            for one in others.select_related("marker")
        ],
        changed=last_change(assignment),
    )


def _instructs(user: User, assignment: Assignment) -> bool:
    _, reach = reader_of(user, assignment.pk)
    return reach.scopes is None
