"""Asking again, the talk about a folio, and what its readers place: what goes between a student and who reads."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import Literal
from zoneinfo import ZoneInfo

from django.http import HttpRequest
from ninja import Field, Router, Schema

from asking.asking import ask_again, withdraw
from asking.models import Asking, waiting
from asking.talking import MOST_CHARACTERS, Word, say, talk_of
from editions.models import Edition
from editions.reader_placing import place, take_off
from editions.reading import pages_read
from folio_core.placing import read_arrangement
from folios.models import Folio
from people.models import User
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import moment

from .permissions import edition_to_read, folio_to_read, person
from .wall_times import moment_typed

router = Router(tags=["asking"])


class AskingOut(Schema):
    """What staff ask for again, and is not done yet. ``page``: its id, and ``number`` as it was looked at."""

    id: int
    what: Literal["page", "all", "place"]
    page: int | None
    number: int | None
    reason: str
    until: datetime
    by: str


class SaidOut(Schema):
    """``page``: the id of the page it is about, None for all of it. ``staff``: else it is the student's."""

    at: datetime
    page: int | None
    text: str
    by: str
    staff: bool


class AskIn(Schema):
    """``until``: a time of day in the course's zone. ``number``: of the page, where it is one page."""

    what: Literal["page", "all", "place"]
    number: int | None = Field(None, ge=1, le=10_000)
    reason: str = Field(max_length=1000)
    until: str = Field(max_length=30)


class SayIn(Schema):
    text: str = Field(max_length=2 * MOST_CHARACTERS)
    page: int | None = None


class PlaceIn(Schema):
    """Questions by their labels on this edition; the page by its number."""

    number: int = Field(ge=1, le=10_000)
    labels: list[str] = Field(max_length=400)
    top: float | None = Field(None, ge=0, le=1)


class TakeOffIn(Schema):
    number: int = Field(ge=1, le=10_000)
    label: str = Field(max_length=100)


def asked_of(folio: Folio, now: datetime) -> list[AskingOut]:
    return [
        AskingOut(
            id=one.pk, what=one.kind, page=one.page_id, number=one.page_number, reason=one.reason,  # type: ignore[arg-type]
            until=one.until, by=one.by.name,
        )
        for one in waiting(now).filter(folio=folio).select_related("by")
    ]  # fmt: skip


def words_of(folio: Folio, pages: Collection[int] | None = None) -> list[SaidOut]:
    """All words; for who reads some pages only those at these."""
    return [_word(word) for word in talk_of(folio) if pages is None or word.page in pages]


def _word(word: Word) -> SaidOut:
    return SaidOut(at=word.at, page=word.page, text=word.text, by=word.by, staff=word.staff)


@router.post(
    "/folios/{int:folio_id}/editions/{int:number}/askings", response={200: AskingOut, 404: Problem, 422: Problem}
)
def post_asking(request: HttpRequest, folio_id: int, number: int, body: AskIn) -> AskingOut:
    """For who reads all of the folio. The student is told at once, and may send again until then."""
    user, now = person(request), moment()
    edition = _read_whole(user, folio_id, number)
    folio = edition.folio
    until = moment_typed(body.until, ZoneInfo(folio.assignment.course.time_zone), "until")
    page = None
    if body.what == "page":
        pages = read_arrangement(edition.arrangement).pages
        if body.number is None or body.number > len(pages):
            raise Refused(422, "number", f"Say which page: this edition has {len(pages)}.")
        page = (pages[body.number - 1], body.number)
    assert until is not None
    asking = ask_again(folio, body.what, body.reason, until, by=user, now=now, page=page, edition=edition.number)
    return next(one for one in asked_of(folio, now) if one.id == asking.pk)


@router.post("/askings/{int:asking_id}/withdraw", response={204: None, 404: Problem})
def post_withdraw(request: HttpRequest, asking_id: int) -> tuple[int, None]:
    user = person(request)
    asking = Asking.objects.filter(pk=asking_id).first()
    if asking is None:
        raise not_yours()
    folio, questions = folio_to_read(user, asking.folio_id)
    if questions is not None or folio.student_id == user.pk:
        raise not_yours()
    withdraw(asking, by=user, now=moment())
    return 204, None


@router.post("/folios/{int:folio_id}/words", response={200: list[SaidOut], 404: Problem, 409: Problem, 422: Problem})
def post_word(request: HttpRequest, folio_id: int, body: SayIn) -> list[SaidOut]:
    """A word at a page, or about all of it: of the student, or of who reads. Who reads some questions only speaks at
    the pages they read."""
    user = person(request)
    folio, questions = folio_to_read(user, folio_id)
    pages = None if questions is None else _pages_of_marker(folio, questions)
    if pages is not None and body.page not in pages:
        raise not_yours()
    say(folio, body.text, page=body.page, by=user, now=moment())
    return words_of(folio, pages)


@router.post(
    "/folios/{int:folio_id}/editions/{int:number}/reader-placements",
    response={204: None, 404: Problem, 409: Problem, 422: Problem},
)
def post_placement(request: HttpRequest, folio_id: int, number: int, body: PlaceIn) -> tuple[int, None]:
    """What the student left unplaced, placed by who reads it; the edition stays as it is."""
    user = person(request)
    edition, questions = _read_by_staff(user, folio_id, number)
    place(edition, body.number, _ids(edition, body.labels, questions), by=user, now=moment(), top=body.top)
    return 204, None


@router.post(
    "/folios/{int:folio_id}/editions/{int:number}/reader-placements/take-off",
    response={204: None, 404: Problem, 422: Problem},
)
def post_take_off(request: HttpRequest, folio_id: int, number: int, body: TakeOffIn) -> tuple[int, None]:
    user = person(request)
    edition, questions = _read_by_staff(user, folio_id, number)
    (question,) = _ids(edition, [body.label], questions)
    take_off(edition, body.number, question, by=user, now=moment())
    return 204, None


def _ids(edition: Edition, labels: list[str], only: frozenset[str] | None) -> list[str]:
    ids = {one.label: one.id for one in edition.facts.question_map.questions if only is None or one.id in only}
    unknown = [label for label in labels if label not in ids]
    if unknown:
        raise Refused(422, "label", f"“{unknown[0][:20]}” is not among the questions you read here.")
    return [ids[label] for label in labels]


def _read_by_staff(user: User, folio_id: int, number: int) -> tuple[Edition, frozenset[str] | None]:
    edition, questions = edition_to_read(user, folio_id, number)
    if edition.folio.student_id == user.pk:
        raise not_yours()
    return edition, questions


def _read_whole(user: User, folio_id: int, number: int) -> Edition:
    edition, questions = _read_by_staff(user, folio_id, number)
    if questions is not None:
        raise not_yours()
    return edition


def _pages_of_marker(folio: Folio, questions: frozenset[str]) -> set[int]:
    return {page.page_id for edition in folio.editions.all() for page in pages_read(edition, questions)}
