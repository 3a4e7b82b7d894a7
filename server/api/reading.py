"""Folios to read by question: the draft as it would be bound, and editions as they were handed in."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from types import MappingProxyType
from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema

from editions.frozen import FrozenFacts, facts_of
from editions.models import Edition, EditionPage
from editions.reader_placing import Overlaid, overlaid
from editions.reading import pages_read
from folio_core.binding import labels_by_page
from folio_core.placing import Arrangement, is_answered, open_questions
from folios.arrangements import current
from folios.models import Folio
from pages.models import Page
from plumbing.errors import Problem
from plumbing.requests import moment
from proposals.proposing import numbers_of_others

from .asking import AskingOut, SaidOut, asked_of, words_of
from .permissions import edition_to_read, own_folio, person
from .schemas import AssignmentOut, image_url

router = Router(tags=["reading"])
State = Literal["placed", "left_blank", "open", "not_needed"]


class ReadingSpot(Schema):
    """``by``: the reader who placed it, where it was not the student."""

    page: int
    top: float | None
    by: str = ""


class ReadingQuestion(Schema):
    """``state``: not needed is a bonus, or one of "any n of" when n others are answered."""

    label: str
    title: str
    points: float
    state: State
    spots: list[ReadingSpot]


class ReadingPage(Schema):
    """``id``: by which words are said at it. ``asked``: it is asked for again, and not there yet."""

    id: int
    number: int
    image: str
    preview: str
    width: int
    height: int
    labels: list[str]
    loose: bool
    note: str
    source: str = ""  # the whole picture, small; empty for who reads only some of the questions
    original_id: int | None = None  # likewise
    other_number: str  # read at its head, and another student's; said to staff only


class AnsweredOut(Schema):
    """What staff had asked for, and this edition answers. ``before``: the edition to compare it with."""

    what: Literal["page", "all", "place"]
    number: int | None
    reason: str
    by: str
    before: int | None


class ReadingOut(Schema):
    """A folio to leaf through by question: an edition, or the draft as it would be bound. Spots count pages from 1.
    ``whole``: else only some of its questions are read. ``honour``: the words that the student confirmed."""

    folio_id: int
    edition: int | None
    whole: bool
    is_own: bool
    handed_in_at: datetime | None
    comment: str
    honour: str
    student: str
    student_number: str
    assignment: AssignmentOut
    questions: list[ReadingQuestion]
    pages: list[ReadingPage]
    words: list[SaidOut]
    askings: list[AskingOut]
    answers: list[AnsweredOut]


@router.get("/folios/{int:folio_id}/draft", response={200: ReadingOut, 404: Problem})
def draft(request: HttpRequest, folio_id: int) -> ReadingOut:
    """The folio as it would be bound now; for its student only."""
    folio = own_folio(person(request), folio_id)
    arrangement = current(folio)
    pages = folio.pages.in_bulk(arrangement.pages)
    shown = [(pk, pages[pk]) for pk in arrangement.pages]
    return _reading(folio, facts_of(folio), Overlaid(arrangement, {}), shown, None, is_own=True)


@router.get("/folios/{int:folio_id}/editions/{int:number}/reading", response={200: ReadingOut, 404: Problem})
def edition_reading(request: HttpRequest, folio_id: int, number: int) -> ReadingOut:
    """For its student and its instructors whole. A marker of some questions gets these, with the pages they lie on and
    the pages that are placed nowhere."""
    edition, questions = edition_to_read(person(request), folio_id, number)
    frozen = [(page.page_id, page) for page in pages_read(edition, questions)]
    folio = edition.folio
    is_own = folio.student_id == person(request).pk
    others = {} if is_own else numbers_of_others(folio, [pk for pk, _ in frozen])
    return _reading(folio, edition.facts, overlaid(edition), frozen, edition, questions, others=others, is_own=is_own)


def _reading(
    folio: Folio,
    facts: FrozenFacts,
    laid: Overlaid,
    pages: Iterable[tuple[int, Page | EditionPage]],
    edition: Edition | None,
    only: frozenset[str] | None = None,
    *,
    is_own: bool,
    others: Mapping[int, str] = MappingProxyType({}),
) -> ReadingOut:
    arrangement, pages = laid.arrangement, list(pages)
    numbers = {pk: number for number, pk in enumerate(arrangement.pages, 1)}
    questions = [one for one in facts.question_map.questions if only is None or one.id in only]
    labels = labels_by_page(arrangement, questions)
    still_open = open_questions(arrangement, facts.question_map)
    return ReadingOut(
        folio_id=folio.pk,
        edition=edition.number if edition else None,
        whole=only is None,
        is_own=is_own,
        handed_in_at=edition.handed_in_at if edition else None,
        comment=edition.comment if edition else arrangement.comment,
        honour=edition.honour_confirmed if edition else "",
        student=facts.student,
        student_number=facts.student_number,
        assignment=AssignmentOut.frozen(folio.assignment_id, facts),
        questions=[
            ReadingQuestion(
                label=question.label,
                title=question.title,
                points=question.points,
                state=_state(question.id, arrangement, still_open),
                spots=[
                    ReadingSpot(page=numbers[s.page], top=s.top, by=laid.by.get((question.id, s.page), ""))
                    for s in arrangement.pages_of(question.id)
                ],
            )
            for question in questions
        ],
        pages=[
            ReadingPage(
                id=pk, number=numbers[pk],
                image=image_url(folio.pk, page.image), preview=image_url(folio.pk, page.preview),
                width=page.width, height=page.height, labels=labels[pk], loose=pk in arrangement.loose,
                note=arrangement.notes.get(pk, ""), other_number=others.get(pk, ""),
                **({} if only is not None else _as_it_came(folio, page)),
            )
            for pk, page in pages
        ],
        words=words_of(folio, None if only is None else {pk for pk, _ in pages}) if edition else [],
        askings=asked_of(folio, moment()) if edition and only is None else [],
        answers=_answers(edition) if edition else [],
    )  # fmt: skip


def _answers(edition: Edition) -> list[AnsweredOut]:
    before = edition.folio.editions.filter(number__lt=edition.number).first()
    return [
        AnsweredOut(
            what=one.what, number=one.number, reason=one.reason, by=one.by,  # type: ignore[arg-type]
            before=before.number if before else None,
        )
        for one in edition.facts.asked
    ]  # fmt: skip


def _as_it_came(folio: Folio, page: Page | EditionPage) -> dict[str, Any]:
    known = page.page if isinstance(page, EditionPage) else page
    return {"source": image_url(folio.pk, known.source), "original_id": known.original_id}


def _state(question_id: str, arrangement: Arrangement, still_open: tuple[str, ...]) -> State:
    if question_id in arrangement.left_blank:
        return "left_blank"
    if is_answered(arrangement, question_id):
        return "placed"
    return "open" if question_id in still_open else "not_needed"
