"""Marking: everybody's answer to one question, or all answers of one student, with points, notes and ink."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from decimal import Decimal
from hashlib import sha256
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from assignments.models import Assignment
from editions.reading import pages_read
from folio_core.answers import AnswerKind
from folio_core.marking import plain_number
from folio_core.question_map import Question
from folios.reach import Reach
from marking.giving_back import figures_of_work
from marking.hiding import hidden_among, stand_in_for
from marking.inking import ink_of
from marking.models import Ink, Mark, MarkingScheme
from marking.schemes import STEPS, change_scheme, scheme_of
from marking.work import MarkedFolio, work_of
from people.models import User
from plumbing.errors import Problem, not_yours
from plumbing.requests import moment

from .answers_to_mark import AnswerRow, InkOut, ink_out, rows_of, seen_worth, sees_ink, state_order, who
from .permissions import edition_to_read, instructor_of, person, reader_of
from .schemas import AssignmentOut

router = Router(tags=["marking"])
_FIRST_ROWS = 12  # more than any window shows at once
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
    """What this person marks of an assignment, and how far it is. ``hides``: names are not shown to this person.
    ``first_rows``: the first answers to the question that was asked for, so that they are seen before the others.
    ``changed``: another word as soon as anything was marked that is not in here."""

    assignment: AssignmentOut
    scheme: SchemeOut
    instructs: bool
    hides: bool
    questions: list[MarkedQuestionOut]
    students: list[MarkedStudentOut]
    first_rows: list[AnswerRow]
    changed: str


class PageInk(Schema):
    page: int
    ink: list[InkOut]


class PointsOfQuestion(Schema):
    label: str
    points: str


class MarkedEditionOut(Schema):
    """What of an edition is marked, as far as this person sees it."""

    pages: list[PageInk]
    points: list[PointsOfQuestion]


class SaidBefore(Schema):
    """A note that was given to answers of this question, and to how many."""

    text: str
    times: int


class RollOut(Schema):
    rows: list[AnswerRow]
    said: list[SaidBefore]


@router.get("/assignments/{int:assignment_id}/marking", response={200: MarkingOut, 404: Problem})
def marking(request: HttpRequest, assignment_id: int, label: str | None = None) -> HttpResponse:
    """``label``: of a question whose first answers come along; one that is not known means the first question."""
    user = person(request)
    assignment, reach = reader_of(user, assignment_id)
    changed = last_change(assignment)  # before all that it is compared with
    work = work_of(assignment, reach, pages=False)
    hidden = _hidden(work, reach)
    questions = _questions(assignment, work)
    figures = figures_of_work(work, questions)
    question = None if label is None else _labelled(questions, label)
    told = MarkingOut(
        assignment=AssignmentOut.of(assignment),
        scheme=scheme_out(scheme_of(assignment)),
        instructs=reach.scopes is None,
        hides=reach.scopes is not None and scheme_of(assignment).hides_names,
        questions=[
            _question_out(question, work, figures[question.id].mean, figures[question.id].bars)
            for question in questions
        ],
        students=[_student_out(one, hidden) for one in _in_order(work, hidden)],
        first_rows=[] if question is None else _first_rows(assignment, reach, user, work, question, hidden),
        changed=changed,
    )
    return _told(told)


def last_change(assignment: Assignment) -> str:
    """Another word as soon as a mark was given, or ink drawn or erased."""
    newest = Mark.objects.filter(edition__folio__assignment=assignment).order_by("-at").values_list("at", "pk").first()
    drawn = Ink.objects.filter(page__folio__assignment=assignment)
    words = f"{newest} {drawn.count()} {drawn.filter(erased_at=None).count()}"
    return sha256(words.encode()).hexdigest()[:16]


@router.get("/folios/{int:folio_id}/editions/{int:number}/marked", response={200: MarkedEditionOut, 404: Problem})
def marked_edition(request: HttpRequest, folio_id: int, number: int) -> MarkedEditionOut:
    """For who reads the edition page by page. Of an edition that counts no more there is nothing."""
    user = person(request)
    edition, read = edition_to_read(user, folio_id, number)
    _, reach = reader_of(user, edition.folio.assignment_id)  # its student sees what is given back, and no more
    found = work_of(edition.folio.assignment, reach, [folio_id])
    if not found or found[0].edition.pk != edition.pk:
        return MarkedEditionOut(pages=[], points=[])
    work = found[0]
    shown = {page.page_id for page in pages_read(edition, read)}
    seen = {page: [one for one in ink if sees_ink(one, work, user)] for page, ink in ink_of(sorted(shown)).items()}
    worth = [(one.label, seen_worth(work.standings[one.id], user)) for one in work.questions]
    return MarkedEditionOut(
        pages=[
            PageInk(page=page, ink=[ink_out(work.pages[page], one, user) for one in ink])
            for page, ink in seen.items()
            if ink
        ],
        points=[PointsOfQuestion(label=label, points=plain_number(one)) for label, one in worth if one is not None],
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
    question = _labelled(questions, label)
    if question is None:
        return _told(RollOut(rows=[], said=[]))
    hidden = _hidden(work, reach)
    rows = rows_of(_everybodys(work, question, hidden), user, hidden)
    return _told(RollOut(rows=rows, said=_said(assignment, question, user)))


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


def _told(out: RollOut | MarkingOut) -> HttpResponse:
    """As it is: checked once is enough for three hundred answers."""
    return HttpResponse(out.model_dump_json(), content_type="application/json")


def _labelled(questions: Sequence[Question], label: str) -> str | None:
    """The id of the question with this label, else of the first."""
    first = questions[0].id if questions else None
    return next((one.id for one in questions if one.label == label), first)


def _everybodys(work: Sequence[MarkedFolio], question: str, hidden: set[int]) -> list[tuple[MarkedFolio, Question]]:
    read = [one for one in work if any(asked.id == question for asked in one.questions)]
    pairs = [(one, one.question_map[question]) for one in _in_order(read, hidden)]
    return sorted(pairs, key=lambda pair: state_order(*pair))


def _first_rows(
    assignment: Assignment, reach: Reach, user: User, work: Sequence[MarkedFolio], question: str, hidden: set[int]
) -> list[AnswerRow]:
    """``work`` may be without its pages: only those that are needed are fetched."""
    pairs = _everybodys(work, question, hidden)[:_FIRST_ROWS]
    whole = {one.folio.pk: one for one in work_of(assignment, reach, [one.folio.pk for one, _ in pairs])}
    return rows_of([(whole[one.folio.pk], asked) for one, asked in pairs if one.folio.pk in whole], user, hidden)


def scheme_out(scheme: MarkingScheme) -> SchemeOut:
    plain = {name: getattr(scheme, name) for name in SchemeDoc.model_fields}
    numbers = {name: plain_number(plain[name]) for name in ("step", "late_percent", "late_most_percent")}
    return SchemeOut(**{**plain, **numbers}, version=scheme.version, steps=[plain_number(one) for one in STEPS])


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
