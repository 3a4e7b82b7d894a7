"""Marking: everybody's answer to one question, or all answers of one student, with points, notes and ink."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import timedelta
from decimal import Decimal
from hashlib import sha256
from typing import Annotated, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from assignments.models import Assignment
from folio_core.answers import AnswerKind
from folio_core.marking import STROKE_POINTS_MOST, TEXT_MOST, Tool, plain_number
from folio_core.question_map import Question
from folios.reach import Reach
from marking.giving_back import figures_of_work
from marking.giving_marks import Given, SavedMark, give_mark, round_for
from marking.hiding import hidden_among, stand_in_for
from marking.inking import Drawn, draw, erase
from marking.models import AtWork, Ink, Mark, MarkingScheme
from marking.schemes import STEPS, change_scheme, scheme_of
from marking.work import MarkedFolio, marked_folio, work_of
from people.models import User
from plumbing.errors import Problem, not_yours
from plumbing.requests import moment

from .answers_to_mark import (
    AnswerRow,
    InkOut,
    InkPoint,
    MarkOut,
    ink_out,
    mark_out,
    rows_of,
    state_order,
    who,
)
from .permissions import answer_to_mark, instructor_of, person, reader_of
from .schemas import AssignmentOut

router = Router(tags=["marking"])
_AT_WORK = timedelta(seconds=40)  # a browser says every fifteen seconds where it is
Points = Annotated[str, Field(max_length=12, pattern=r"^-?[0-9]{1,5}(\.[0-9]{1,2})?$")]


class SchemeDoc(Schema):
    """How it is marked. Points as decimal numbers in words."""

    step: Points = "0.5"
    hides_names: bool = False
    marks_twice: bool = False
    sample_percent: int = Field(0, ge=0, le=100)
    drop_lowest: int = Field(0, ge=0, le=400)
    late_percent: Points = "0"
    late_every_minutes: int = Field(24 * 60, ge=1, le=60 * 24 * 60)
    late_grace_minutes: int = Field(0, ge=0, le=60 * 24 * 60)
    late_most_percent: Points = "100"


class SchemeOut(SchemeDoc):
    version: int
    steps: list[str]


class SchemeIn(SchemeDoc):
    version: int = Field(ge=0, lt=2**31)


class MarkedQuestionOut(Schema):
    """``answers``: how many there are to mark, ``marked``: that have points. ``differs``: on which two markers differ.
    ``bars``: how many reached each tenth of the points."""

    id: str
    label: str
    title: str
    points: float
    kinds: list[AnswerKind]
    answers: int
    marked: int
    differs: int
    look_again: int
    mean: float | None
    bars: list[int]


class MarkedStudentOut(Schema):
    """``total``: of what this person marks; None while nothing has points."""

    folio_id: int
    edition: int
    student: str
    number: str
    answers: int
    marked: int
    total: str | None


class MarkingOut(Schema):
    """What this person marks of an assignment, and how far it is. ``hides``: names are not shown to this person."""

    assignment: AssignmentOut
    scheme: SchemeOut
    instructs: bool
    hides: bool
    questions: list[MarkedQuestionOut]
    students: list[MarkedStudentOut]


class SaidBefore(Schema):
    """A note that was given to answers of this question, and to how many."""

    text: str
    times: int


class RollOut(Schema):
    rows: list[AnswerRow]
    said: list[SaidBefore]


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


@router.get("/assignments/{int:assignment_id}/marking", response={200: MarkingOut, 404: Problem})
def marking(request: HttpRequest, assignment_id: int) -> MarkingOut:
    user = person(request)
    assignment, reach = reader_of(user, assignment_id)
    work = work_of(assignment, reach, pages=False)
    hidden = _hidden(work, reach)
    questions = _questions(assignment, work)
    figures = figures_of_work(work, questions)
    return MarkingOut(
        assignment=AssignmentOut.of(assignment),
        scheme=scheme_out(scheme_of(assignment)),
        instructs=reach.scopes is None,
        hides=reach.scopes is not None and scheme_of(assignment).hides_names,
        questions=[
            _question_out(question, work, figures[question.id].mean, figures[question.id].bars)
            for question in questions
        ],
        students=[_student_out(one, hidden) for one in _in_order(work, hidden)],
    )


@router.put(
    "/assignments/{int:assignment_id}/marking/scheme",
    response={200: SchemeOut, 404: Problem, 409: Problem, 422: Problem},
)
def put_scheme(request: HttpRequest, assignment_id: int, body: SchemeIn) -> SchemeOut:
    assignment = instructor_of(person(request), assignment_id)
    fields = {name: value for name, value in body.model_dump().items() if name != "version"}
    for name in ("step", "late_percent", "late_most_percent"):
        fields[name] = Decimal(fields[name])
    return scheme_out(change_scheme(assignment, seen=body.version, fields=fields))


@router.get("/assignments/{int:assignment_id}/marking/answers", response={200: RollOut, 404: Problem})
def roll_of_question(request: HttpRequest, assignment_id: int, label: str = "") -> HttpResponse:
    """Everybody's answer to one question, of what this person marks: what is answered by the students' names, then
    what was left blank, then what is open. ``label``: of the question; without one that is known, the first."""
    user = person(request)
    assignment, reach = reader_of(user, assignment_id)
    work = work_of(assignment, reach)
    questions = _questions(assignment, work)
    if not questions:
        return _told(RollOut(rows=[], said=[]))
    question = next((one for one in questions if one.label == label), questions[0]).id
    work = [one for one in work if any(asked.id == question for asked in one.questions)]
    hidden = _hidden(work, reach)
    pairs = [(one, one.question_map[question]) for one in _in_order(work, hidden)]
    pairs.sort(key=lambda pair: state_order(*pair))
    return _told(RollOut(rows=rows_of(pairs, user, hidden), said=_said(assignment, question, user)))


@router.get("/assignments/{int:assignment_id}/marking/folios/{int:folio_id}", response={200: RollOut, 404: Problem})
def roll_of_folio(request: HttpRequest, assignment_id: int, folio_id: int) -> HttpResponse:
    """All answers of one student, in the order of the question map."""
    user = person(request)
    assignment, reach = reader_of(user, assignment_id)
    work = work_of(assignment, reach, [folio_id])
    if not work:
        raise not_yours()
    pairs = [(work[0], question) for question in work[0].questions]
    return _told(RollOut(rows=rows_of(pairs, user, _hidden(work, reach)), said=[]))


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
    newest = Mark.objects.filter(edition__folio__assignment=assignment).order_by("-at").values_list("at", "pk").first()
    drawn = Ink.objects.filter(page__folio__assignment=assignment)
    changed = f"{newest} {drawn.count()} {drawn.filter(erased_at=None).count()}"
    return AtWorkOut(
        others=[
            OtherAtWork(name=one.marker.name, folio_id=one.folio_id, question=one.question)
            for one in others.select_related("marker")
        ],
        changed=sha256(changed.encode()).hexdigest()[:16],
    )


def _told(roll: RollOut) -> HttpResponse:
    """As it is: checked once is enough for three hundred answers."""
    return HttpResponse(roll.model_dump_json(), content_type="application/json")


def scheme_out(scheme: MarkingScheme) -> SchemeOut:
    plain = {name: getattr(scheme, name) for name in SchemeDoc.model_fields}
    numbers = {name: plain_number(plain[name]) for name in ("step", "late_percent", "late_most_percent")}
    return SchemeOut(**{**plain, **numbers}, version=scheme.version, steps=[plain_number(one) for one in STEPS])


def _instructs(user: User, assignment: Assignment) -> bool:
    _, reach = reader_of(user, assignment.pk)
    return reach.scopes is None


def _hidden(work: Sequence[MarkedFolio], reach: Reach) -> set[int]:
    return set() if reach.scopes is None else hidden_among([one.folio for one in work], moment())


def _in_order(work: Sequence[MarkedFolio], hidden: set[int]) -> list[MarkedFolio]:
    """By names; where they are hidden the order does not tell them either."""
    shown = [one for one in work if one.folio.pk not in hidden]
    return shown + sorted((one for one in work if one.folio.pk in hidden), key=lambda one: stand_in_for(one.folio.pk))


def _questions(assignment: Assignment, work: Sequence[MarkedFolio]) -> list[Question]:
    """Those that this person reads, of the map as it is, then those that only editions have."""
    known: dict[str, Question] = {}
    read = {question.id for one in work for question in one.questions}
    for question in assignment.question_map.questions:
        if question.id in read or not work:
            known[question.id] = question
    for one in work:
        for question in one.questions:
            known.setdefault(question.id, question)
    return list(known.values())


def _question_out(
    question: Question, work: Sequence[MarkedFolio], mean: float | None, bars: Iterable[int]
) -> MarkedQuestionOut:
    standings = [one.standings[question.id] for one in work if any(asked.id == question.id for asked in one.questions)]
    return MarkedQuestionOut(
        id=question.id, label=question.label, title=question.title, points=question.points,
        kinds=list(question.answering.kinds), answers=len(standings),
        marked=sum(one.worth.points is not None for one in standings),
        differs=sum(one.differs for one in standings), look_again=sum(one.look_again for one in standings),
        mean=mean, bars=list(bars),
    )  # fmt: skip


def _student_out(work: MarkedFolio, hidden: set[int]) -> MarkedStudentOut:
    worth = [work.standings[one.id].worth.points for one in work.questions]
    student, number, _ = who(work, hidden)
    marked = sum(one is not None for one in worth)
    total = work.total.points if work.reads_all else sum((one for one in worth if one is not None), Decimal(0))
    return MarkedStudentOut(
        folio_id=work.folio.pk, edition=work.edition.number, student=student, number=number, answers=len(worth),
        marked=marked, total=plain_number(total) if marked else None,
    )  # fmt: skip


def _said(assignment: Assignment, question: str, user: User) -> list[SaidBefore]:
    """Notes that this person may see, the most frequent first."""
    rows = Mark.objects.filter(edition__folio__assignment=assignment, question=question).exclude(note="")
    scheme = scheme_of(assignment)
    if scheme.marks_twice or scheme.sample_percent:
        rows = rows.filter(by=user)
    counted = Counter(rows.values_list("note", flat=True))
    return [SaidBefore(text=text, times=times) for text, times in counted.most_common(40)]
