"""Answers as they are marked: the strips of their pages with ink, their marks, and what there is to know of them."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from typing import Annotated, Literal

from ninja import Field, Schema

from editions.models import EditionPage
from folio_core.marking import Cut, Tool, may_go_on, plain_number
from folio_core.page.ink_rows import ROWS
from folio_core.question_map import Question
from marking.giving_marks import round_for, shown_marks
from marking.hiding import stand_in_for
from marking.inking import ink_of, on_page
from marking.models import Ink, Mark, MarkWord, Round
from marking.work import MarkedFolio, Standing
from people.models import User

from .reading import ScreenAnswerOut, screen_answer
from .schemas import image_url

InkPoint = Annotated[list[float], Field(min_length=3, max_length=3)]
"""x, y and pressure."""


class InkOut(Schema):
    """``points``: x, y as shares of the image's width and height, and pressure; ``width``: share of its width."""

    key: uuid.UUID
    tool: Tool
    points: list[InkPoint]
    width: float
    text: str
    by: str
    is_own: bool


class CutOut(Schema):
    """A strip of a page, from ``top`` to ``bottom`` (shares of its height). ``page``: its id."""

    page: int
    number: int
    image: str
    preview: str
    width: int
    height: int
    top: float
    bottom: float
    ink: list[InkOut]


class MarkOut(Schema):
    round: Round
    points: str | None
    not_attempted: bool
    note: str
    by: str
    is_own: bool
    at: datetime
    version: int


class MarkWordOut(Schema):
    """About the mark. ``staff``: else its student's."""

    text: str
    by: str
    staff: bool
    at: datetime


class AnswerRow(Schema):
    """One answer to mark. ``more``: what its cut may have missed. ``may_be_on``: where nothing says where it stands,
    the pages that are on no question. ``round``: in which marking this person takes part. ``worth``: what it adds to
    the total now, None while that is not known. ``before``: the points of an earlier edition whose answer was another
    one. ``alike``: the same for answers that are the same, where that can be told."""

    folio_id: int
    edition: int
    question: str
    label: str
    title: str
    most: float
    student: str
    number: str
    section: str
    state: Literal["answered", "left_blank", "open"]
    cuts: list[CutOut]
    more: list[CutOut]
    may_be_on: list[CutOut]
    on_screen: ScreenAnswerOut | None
    marks: list[MarkOut]
    round: Round
    worth: str | None
    by_itself: bool
    not_attempted: bool
    look_again: bool
    before: str | None
    wants_second: bool
    waits_for_other: bool
    differs: bool
    alike: str
    words: list[MarkWordOut]


def who(work: MarkedFolio, hidden: set[int]) -> tuple[str, str, str]:
    if work.folio.pk in hidden:
        return stand_in_for(work.folio.pk), "", ""
    return work.facts.student, work.facts.student_number, work.facts.section


def _state(work: MarkedFolio, question: Question) -> Literal["answered", "left_blank", "open"]:
    if question.id in work.arrangement.left_blank and question.id not in work.answers:
        return "left_blank"
    return "open" if work.is_open(question) else "answered"


def state_order(work: MarkedFolio, question: Question) -> int:
    return ("answered", "left_blank", "open").index(_state(work, question))


def rows_of(pairs: Sequence[tuple[MarkedFolio, Question]], user: User, hidden: set[int]) -> list[AnswerRow]:
    works = {work.folio.pk: work for work, _ in pairs}
    drawn = ink_of([page for work in works.values() for page in work.pages])
    words = _words(works, {question.id for _, question in pairs})
    return [_row(work, question, user, hidden, drawn, words) for work, question in pairs]


def _words(folios: Iterable[int], questions: set[str]) -> dict[tuple[int, str], list[MarkWord]]:
    found: dict[tuple[int, str], list[MarkWord]] = {}
    rows = MarkWord.objects.filter(folio__in=list(folios), question__in=questions).select_related("by", "folio")
    for word in rows:
        found.setdefault((word.folio_id, word.question), []).append(word)
    return found


def _row(
    work: MarkedFolio, question: Question, user: User, hidden: set[int], drawn: Mapping[int, list[Ink]],
    words: Mapping[tuple[int, str], list[MarkWord]],
) -> AnswerRow:  # fmt: skip
    standing = work.standings[question.id]
    state = _state(work, question)
    student, number, section = who(work, hidden)
    marks = shown_marks(standing, user)
    answer = work.answers.get(question.id)
    screen = None
    if answer is not None:
        screen = screen_answer(work.folio, question, answer.content, judged=answer.judged, tells_right=True)
    maybe = [Cut(page) for page in work.unplaced()] if state == "open" else []
    worth = seen_worth(standing, user)
    own = next((mark for mark in marks.values() if mark.by_id == user.pk), None)
    return AnswerRow(
        folio_id=work.folio.pk, edition=work.edition.number, question=question.id, label=question.label,
        title=question.title, most=question.points, student=student, number=number, section=section, state=state,
        cuts=[_cut_out(work, cut, drawn, user, standing) for cut in work.cuts(question.id)],
        more=[
            _cut_out(work, cut, drawn, user, standing)
            for cut in may_go_on(work.arrangement, question.id, work.ink_rows)
        ],
        may_be_on=[_cut_out(work, cut, drawn, user, standing) for cut in maybe],
        on_screen=screen,
        marks=[mark_out(mark, user) for mark in marks.values()],
        round=round_for(standing, user, settles=standing.differs),
        worth=None if worth is None else plain_number(worth),
        by_itself=standing.worth.by_itself, not_attempted=standing.worth.not_attempted,
        look_again=standing.look_again, before=None if standing.before is None else plain_number(standing.before),
        wants_second=standing.wants_second,
        waits_for_other=bool(own and own.points is not None and worth is None and not standing.differs),
        differs=standing.differs and len(marks) == len(standing.marks),
        alike=_alike(work, question),
        words=[_word_out(one, work, hidden) for one in words.get((work.folio.pk, question.id), ())],
    )  # fmt: skip


def _word_out(word: MarkWord, work: MarkedFolio, hidden: set[int]) -> MarkWordOut:
    is_students = word.by_id == work.folio.student_id
    by = stand_in_for(work.folio.pk) if is_students and work.folio.pk in hidden else word.by.name
    return MarkWordOut(text=word.text, by=by, staff=not is_students, at=word.at)


def _alike(work: MarkedFolio, question: Question) -> str:
    """What was chosen and typed, where that is all; of pages how much room they take, and how much of it is written
    on, which is a hint and no more."""
    answer = work.answers.get(question.id)
    if answer is not None and answer.content.written == "":
        chosen = sorted(answer.content.chosen)
        return f"0 {' '.join(chosen)} {' '.join(answer.content.short.split()).lower()}"
    if answer is not None:
        return f"1 {len(answer.content.written):06}"
    cuts = work.cuts(question.id)
    height = sum(cut.bottom - cut.top for cut in cuts)
    written = sum(work.ink_rows[cut.page][round(cut.top * ROWS) : round(cut.bottom * ROWS)].count("1") for cut in cuts)
    return f"2 {round(height, 1):06.1f} {written // 5:03}" if height else "3"


def _cut_out(work: MarkedFolio, cut: Cut, drawn: Mapping[int, list[Ink]], user: User, standing: Standing) -> CutOut:
    page = work.pages[cut.page]
    folio_id = work.folio.pk
    return CutOut(
        page=cut.page, number=page.number, image=image_url(folio_id, page.image) or "",
        preview=image_url(folio_id, page.preview) or "", width=page.width, height=page.height,
        top=cut.top, bottom=cut.bottom,
        ink=[ink_out(page, one, user) for one in drawn.get(cut.page, ()) if sees_ink(one, work, user)],
    )  # fmt: skip


def seen_worth(standing: Standing, user: User) -> Decimal | None:
    """What an answer is worth now, unless that would tell a marker what another one gave independently."""
    sees = standing.worth.by_itself or len(shown_marks(standing, user)) == len(standing.marks)
    return standing.worth.points if sees else None


def sees_ink(ink: Ink, work: MarkedFolio, user: User) -> bool:
    """As with points: markers who mark independently do not see each other's."""
    standing = work.standings.get(ink.question)
    if ink.by_id == user.pk or standing is None or not standing.wants_second:
        return True
    return len(shown_marks(standing, user)) == len(standing.marks) and bool(standing.marks)


def ink_out(page: EditionPage, ink: Ink, user: User) -> InkOut:
    there = on_page(page, ink.stroke)
    return InkOut(
        key=ink.key, tool=there.tool, points=[list(one) for one in there.points], width=there.width,
        text=there.text, by=ink.by.name,
        is_own=ink.by_id == user.pk,
    )  # fmt: skip


def mark_out(mark: Mark, user: User) -> MarkOut:
    return MarkOut(
        round=Round(mark.round), points=None if mark.points is None else plain_number(mark.points),
        not_attempted=mark.not_attempted, note=mark.note, by=mark.by.name, is_own=mark.by_id == user.pk, at=mark.at,
        version=mark.version,
    )  # fmt: skip
