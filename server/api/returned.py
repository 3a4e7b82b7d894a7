"""Work that was given back, for its student: each answer with its points, notes and ink."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from editions.manifest import file_stem
from editions.models import Edition, EditionPage
from editions.reader_placing import overlaid
from folio_core.marking import Stroke, Tool, cuts_of
from folios.models import Folio
from marking.asking_about_marks import MOST_CHARACTERS, say_about_mark
from marking.giving_back import files_given, seen_by_student
from marking.inking import on_page
from marking.marked_documents import marked_pdf
from marking.models import GivenBack, MarkWord
from plumbing.downloads import made_file
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import moment

from .answers_to_mark import InkPoint, MarkWordOut
from .permissions import folio_to_read, hides_names, own_folio, person
from .reading import ScreenAnswerOut, screen_answer
from .schemas import AssignmentOut, FileBesideOut, image_url

router = Router(tags=["returned"])


class ReturnedInk(Schema):
    """As shares of the page's picture."""

    tool: Tool
    points: list[InkPoint]
    width: float
    text: str


class ReturnedPage(Schema):
    id: int
    number: int
    image: str
    preview: str
    width: int
    height: int
    ink: list[ReturnedInk]


class ReturnedSpot(Schema):
    """The strip of a page, by its number, that shows the answer."""

    page: int
    top: float
    bottom: float


class ClassFigures(Schema):
    marked: int
    mean: float | None
    bars: list[int]


class ReturnedQuestion(Schema):
    """``points``: None where none were given back. ``counts``: else it is one of those that are dropped."""

    id: str
    label: str
    title: str
    most: float
    points: str | None
    not_attempted: bool
    by_itself: bool
    counts: bool
    note: str
    spots: list[ReturnedSpot]
    on_screen: ScreenAnswerOut | None
    figures: ClassFigures | None
    words: list[MarkWordOut]


class ReturnedTotal(Schema):
    """``lost``: what lateness took off. ``unmarked``: how many answers have no points yet."""

    points: str
    most: str
    lost: str
    unmarked: int


class ReturnedOut(Schema):
    """``may_ask``: about a mark, until ``asks_until``."""

    folio_id: int
    edition: int
    student: str
    assignment: AssignmentOut
    at: datetime
    by: str
    asks_until: datetime | None
    may_ask: bool
    total: ReturnedTotal | None
    questions: list[ReturnedQuestion]
    pages: list[ReturnedPage]
    files: list[FileBesideOut]


class MarkWordIn(Schema):
    question: str = Field(max_length=64)
    text: str = Field(max_length=2 * MOST_CHARACTERS)


@router.get("/folios/{int:folio_id}/returned", response={200: ReturnedOut, 404: Problem})
def returned(request: HttpRequest, folio_id: int) -> ReturnedOut:
    """From the moment at which it is given back; before, and after it was taken back, there is nothing here."""
    folio = own_folio(person(request), folio_id)
    return _out(folio, _seen(folio))


@router.get("/folios/{int:folio_id}/returned.pdf", response={200: None, 404: Problem})
def returned_pdf(request: HttpRequest, folio_id: int) -> HttpResponse:
    """The bound document with ink, points and notes as annotations."""
    folio = own_folio(person(request), folio_id)
    given = _seen(folio)
    edition = given.edition
    edition.folio = folio
    if edition.state != Edition.State.BOUND:
        raise Refused(404, "binding", "The document is still being bound. Try again in a moment.")
    made = marked_pdf(edition, overlaid(edition).arrangement, given.statement)
    return made_file(made, f"{file_stem(edition)}_marked.pdf", "application/pdf")


@router.post(
    "/folios/{int:folio_id}/mark-words",
    response={200: list[MarkWordOut], 403: Problem, 404: Problem, 409: Problem, 422: Problem},
)
def post_mark_word(request: HttpRequest, folio_id: int, body: MarkWordIn) -> list[MarkWordOut]:
    """A question about a mark, by the student; or an answer to it, by who marks that question."""
    user = person(request)
    folio, questions = folio_to_read(user, folio_id)
    if questions is not None and body.question not in questions:
        raise not_yours()
    if hides_names(user, folio):
        raise not_yours()  # nothing is given back, so there is nothing to talk about
    say_about_mark(folio, body.question, body.text, by=user, now=moment())
    return [_word(one, folio) for one in _words(folio, body.question)]


def _seen(folio: Folio) -> GivenBack:
    given = seen_by_student(folio, moment())
    if given is None:
        raise Refused(404, "not_given_back", "This work has not been given back. You are told when it is.")
    return given


def _words(folio: Folio, question: str | None = None) -> list[MarkWord]:
    rows = folio.mark_words.select_related("by")
    return list(rows if question is None else rows.filter(question=question))


def _word(word: MarkWord, folio: Folio) -> MarkWordOut:
    return MarkWordOut(text=word.text, by=word.by.name, staff=word.by_id != folio.student_id, at=word.at)


def _out(folio: Folio, given: GivenBack) -> ReturnedOut:
    edition = given.edition
    edition.folio = folio
    statement, facts = given.statement, edition.facts
    pages = list(edition.pages.all())
    numbers = {page.page_id: page.number for page in pages}
    arrangement, rows = overlaid(edition).arrangement, {page.page_id: page.ink_rows for page in pages}
    answers = {one.question: one for one in edition.answers.all()}
    words = _words(folio)
    figures = statement["figures"]
    asks = given.asks_until
    return ReturnedOut(
        folio_id=folio.pk, edition=edition.number, student=facts.student,
        assignment=AssignmentOut.frozen(folio.assignment_id, facts), at=given.opens_at, by=given.by.name,
        asks_until=asks, may_ask=asks is not None and moment() < asks,
        total=ReturnedTotal(**statement["total"]) if statement["total"] else None,
        files=[FileBesideOut.from_orm(one) for one in files_given(given)],
        questions=[
            ReturnedQuestion(
                **one,
                spots=[
                    ReturnedSpot(page=numbers[cut.page], top=cut.top, bottom=cut.bottom)
                    for cut in cuts_of(arrangement, one["id"], rows)
                ],
                on_screen=screen_answer(folio, facts.question_map[one["id"]], answers[one["id"]].content)
                if one["id"] in answers
                else None,
                figures=ClassFigures(**figures[one["id"]]) if figures and one["id"] in figures else None,
                words=[_word(word, folio) for word in words if word.question == one["id"]],
            )
            for one in statement["questions"]
        ],
        pages=[
            ReturnedPage(
                id=page.page_id, number=page.number, image=image_url(folio.pk, page.image) or "",
                preview=image_url(folio.pk, page.preview) or "", width=page.width, height=page.height,
                ink=[_ink(page, one) for one in statement["ink"] if one["page"] == page.page_id],
            )
            for page in pages
        ],
    )  # fmt: skip


def _ink(page: EditionPage, kept: Mapping[str, Any]) -> ReturnedInk:
    points = tuple((x, y, pressure) for x, y, pressure in kept["points"])
    there = on_page(page, Stroke(Tool(kept["tool"]), points, kept["width"], kept["text"]))
    return ReturnedInk(tool=there.tool, points=[list(one) for one in there.points], width=there.width, text=there.text)
