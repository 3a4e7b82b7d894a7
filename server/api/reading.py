"""Folios to read by question: the draft as it would be bound, and editions as they were handed in."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from types import MappingProxyType
from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema

from editions.frozen import FrozenFacts, facts_of
from editions.frozen_answers import answers_to_freeze, frozen_contents, on_sheet
from editions.models import Edition, EditionPage
from editions.reader_placing import Overlaid, overlaid
from editions.reading import pages_read
from folio_core.answers import AnswerContent, AnswerKind
from folio_core.binding import labels_by_page
from folio_core.placing import Arrangement, Given, given_by, is_given, missing_kinds, open_questions, scales_of
from folio_core.question_map import Question
from folios.arrangements import current
from folios.models import Folio
from marking.hiding import stand_in_for
from pages.models import Page
from plumbing.errors import Problem
from plumbing.requests import moment
from proposals.proposing import numbers_of_others

from .asking import AskingOut, SaidOut, asked_of, words_of
from .permissions import edition_to_read, hides_names, own_folio, person
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
    kinds: list[AnswerKind]
    missing: list[AnswerKind]


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
    description: str
    scale: float  # of how wide it could be bound
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


class ChosenOut(Schema):
    """``right``: None where it is not said, or not for this reader."""

    text: str
    chosen: bool
    right: bool | None


class JudgedOut(Schema):
    """What it is worth by itself; the marker has the last word. ``is_right``: None where a marker decides."""

    is_right: bool | None
    words: str


class ScreenAnswerOut(Schema):
    """An answer that was given on the screen, with what was asked; choices in the order its student saw.
    ``before_pages``: in the bound document it stands before the pages, else behind them."""

    label: str
    title: str
    text: str
    before_pages: bool
    choices: list[ChosenOut]
    short: str
    unit: str
    written: str
    judged: JudgedOut | None


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
    on_screen: list[ScreenAnswerOut]


@router.get("/folios/{int:folio_id}/draft", response={200: ReadingOut, 404: Problem})
def draft(request: HttpRequest, folio_id: int) -> ReadingOut:
    """The folio as it would be bound now; for its student only."""
    folio = own_folio(person(request), folio_id)
    arrangement = current(folio)
    pages = folio.pages.in_bulk(arrangement.pages)
    shown = [(pk, pages[pk]) for pk in arrangement.pages]
    contents = {one.question: one.content for one in answers_to_freeze(folio)}
    return _reading(folio, facts_of(folio), Overlaid(arrangement, {}), shown, None, is_own=True, contents=contents)


@router.get("/folios/{int:folio_id}/editions/{int:number}/reading", response={200: ReadingOut, 404: Problem})
def edition_reading(request: HttpRequest, folio_id: int, number: int) -> ReadingOut:
    """For its student and its instructors whole. A marker of some questions gets these, with the pages they lie on and
    the pages that are placed nowhere."""
    edition, questions = edition_to_read(person(request), folio_id, number)
    frozen = [(page.page_id, page) for page in pages_read(edition, questions)]
    folio = edition.folio
    is_own = folio.student_id == person(request).pk
    others = {} if is_own else numbers_of_others(folio, [pk for pk, _ in frozen])
    return _reading(
        folio, edition.facts, overlaid(edition), frozen, edition, questions, others=others, is_own=is_own,
        contents=frozen_contents(edition), hides_name=hides_names(person(request), folio),
    )  # fmt: skip


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
    contents: Mapping[str, AnswerContent],
    hides_name: bool = False,
) -> ReadingOut:
    arrangement, pages = laid.arrangement, list(pages)
    numbers = {pk: number for number, pk in enumerate(arrangement.pages, 1)}
    questions = [one for one in facts.question_map.questions if only is None or one.id in only]
    labels, scales = labels_by_page(arrangement, questions), scales_of(arrangement, facts.question_map)
    given = given_by(facts.question_map, contents)
    still_open = open_questions(arrangement, facts.question_map, given)
    return ReadingOut(
        folio_id=folio.pk,
        edition=edition.number if edition else None,
        whole=only is None,
        is_own=is_own,
        handed_in_at=edition.handed_in_at if edition else None,
        comment=edition.comment if edition else arrangement.comment,
        honour=edition.honour_confirmed if edition else "",
        student=stand_in_for(folio.pk) if hides_name else facts.student,
        student_number="" if hides_name else facts.student_number,
        assignment=AssignmentOut.frozen(folio.assignment_id, facts),
        questions=[
            ReadingQuestion(
                label=question.label,
                title=question.title,
                points=question.points,
                state=_state(question, arrangement, given, still_open),
                kinds=list(question.answering.kinds),
                missing=missing_kinds(arrangement, question, given),
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
                note=arrangement.notes.get(pk, ""), description=arrangement.descriptions.get(pk, ""),
                scale=scales.get(pk, 1.0), other_number=others.get(pk, ""),
                **({} if only is not None or hides_name else _as_it_came(folio, page)),
            )
            for pk, page in pages
        ],
        words=words_of(folio, None if only is None else {pk for pk, _ in pages}) if edition and not hides_name else [],
        askings=asked_of(folio, moment()) if edition and only is None else [],
        answers=_answers(edition) if edition else [],
        on_screen=_on_screen(folio, questions, contents, edition, is_own=is_own),
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


def _state(question: Question, arrangement: Arrangement, given: Given, still_open: tuple[str, ...]) -> State:
    if is_given(arrangement, question, given):
        return "placed"
    if question.id in arrangement.left_blank:
        return "left_blank"
    return "open" if question.id in still_open else "not_needed"


def _on_screen(
    folio: Folio,
    questions: Iterable[Question],
    contents: Mapping[str, AnswerContent],
    edition: Edition | None,
    *,
    is_own: bool,
) -> list[ScreenAnswerOut]:
    """What a chosen or short answer is worth by itself is for who marks it."""
    judged = {} if is_own or edition is None else {one.question: one.judged for one in edition.answers.all()}
    return [
        screen_answer(folio, question, contents[question.id], judged=judged.get(question.id), tells_right=not is_own)
        for question in questions
        if question.id in contents
    ]


def screen_answer(
    folio: Folio,
    question: Question,
    content: AnswerContent,
    *,
    judged: Mapping[str, Any] | None = None,
    tells_right: bool = False,
) -> ScreenAnswerOut:
    """``tells_right``: which choices are, for who marks it."""
    sheet = on_sheet(folio, question, content)
    right = question.answering.right if tells_right else ()
    return ScreenAnswerOut(
        label=sheet.label, title=sheet.title, text=sheet.text, before_pages=question.answering.before_pages,
        choices=[
            ChosenOut(text=one.text, chosen=one.id in content.chosen, right=one.id in right if right else None)
            for one in sheet.choices
        ],
        short=content.short if sheet.asks_short else "", unit=sheet.unit,
        written=content.written if sheet.asks_written else "",
        judged=JudgedOut(**judged) if judged and judged.get("words") else None,
    )  # fmt: skip
