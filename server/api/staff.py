"""For the instructors of a course: giving time, a word, a sitting's record, and the question map."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from typing import Literal

from django.db.models import QuerySet
from django.http import HttpRequest
from ninja import Field, Router, Schema

from answers.saving import answered_by
from assignments.models import Assignment
from courses.models import Enrolment
from folio_core import clock
from folio_core.answers import Answering, AnswerKind, BadAnswering
from folio_core.marking import plain_number
from folios.events import LabelChange
from folios.lengthening import lengthen
from folios.map_editing import Entry, consequences, save_map
from folios.models import Folio
from folios.telling import tell
from marking.models import MarkChange, Round
from people import guessing
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import moment

from .permissions import Role, instructor_of, person, taught_folio
from .schemas import AssignmentOut, RecordedEvent, WindowOut

router = Router(tags=["staff"])
_RUNNING = (clock.Phase.WRITING, clock.Phase.HANDOVER)


class LengthenIn(Schema):
    """``folio_ids`` of these sittings, or null for all that run just now."""

    minutes: int
    folio_ids: list[int] | None = Field(None, max_length=2000)


class WordIn(Schema):
    """``folio_ids``: who hears it; null is all who have begun and are not closed."""

    text: str = Field(max_length=2000)
    folio_ids: list[int] | None = Field(None, max_length=2000)


class WordOut(Schema):
    folios: int


class LengthenedOut(Schema):
    folios: int


class MarkGivenOut(Schema):
    """Points or a note that somebody gave an answer of an edition."""

    at: datetime
    by: str
    edition: int
    label: str
    round: Round
    points: str | None
    not_attempted: bool
    note: str


class RecordOut(Schema):
    folio_id: int
    student: str
    student_number: str
    assignment: AssignmentOut
    window: WindowOut
    events: list[RecordedEvent]
    marks: list[MarkGivenOut]


class ChoiceDoc(Schema):
    id: str = Field(max_length=40)
    text: str = Field(max_length=400)


class ShortDoc(Schema):
    """``tolerance``: a share of the expected value. ``expected``: empty where a marker decides."""

    kind: Literal["number", "word", "maths"] = "number"
    expected: str = Field("", max_length=1000)
    unit: str = Field("", max_length=40)
    tolerance: float = Field(0.0, ge=0, le=1)


class AnsweringDoc(Schema):
    """How a question is to be answered; see `folio_core.answers.Answering`."""

    kinds: list[AnswerKind] = [AnswerKind.PAGES]
    text: str = Field("", max_length=4000)
    choices: list[ChoiceDoc] = Field([], max_length=12)
    many: bool = False
    mixed: bool = False
    right: list[str] = Field([], max_length=12)
    short: ShortDoc = ShortDoc.model_validate({})
    before_pages: bool = False


class MapEntryOut(Schema):
    """``removed``: it has left the map; what was placed on it is kept, and comes back with it."""

    id: int
    label: str
    title: str
    points: float
    group: int | None
    removed: bool
    answering: AnsweringDoc


class QuestionMapOut(Schema):
    """``groups``: see `QuestionMapIn`."""

    groups: list[int]
    assignment: AssignmentOut
    version: int
    whole_work: bool
    entries: list[MapEntryOut]


class MapEntryIn(Schema):
    id: int | None = None
    label: str = Field(max_length=40)
    title: str = Field("", max_length=200)
    points: Decimal = Field(Decimal(0), ge=-999, le=9999, decimal_places=1)
    group: int | None = None
    answering: AnsweringDoc = AnsweringDoc.model_validate({})


class QuestionMapIn(Schema):
    """``groups``: of each, how many of its questions are to be answered, 0 for a bonus; an entry's ``group`` is its
    place in this list."""

    version: int
    groups: list[int] = Field([], max_length=50)
    entries: list[MapEntryIn] = Field(max_length=400)


class StudentsOf(Schema):
    label: str
    students: int


class ConsequenceOut(Schema):
    """What saving a map would change. ``losing``: how many students placed pages on, or left blank, what it removes;
    ``answered``: how many answered on the screen what it removes, or asks for in another way."""

    changes: list[LabelChange]
    losing: list[StudentsOf]
    answered: list[StudentsOf]
    begun: int


@router.post(
    "/assignments/{int:assignment_id}/lengthen",
    response={200: LengthenedOut, 404: Problem, 409: Problem, 422: Problem},
)
def post_lengthen(request: HttpRequest, assignment_id: int, body: LengthenIn) -> LengthenedOut:
    """Give minutes to one running sitting, or to all; the students see it at once."""
    user = person(request)
    assignment = instructor_of(user, assignment_id)
    _require_its_own(assignment, body.folio_ids)
    given = lengthen(assignment, body.minutes, only=body.folio_ids, by_name=user.name, now=moment())
    return LengthenedOut(folios=len(given))


def _require_its_own(assignment: Assignment, folio_ids: list[int] | None) -> None:
    if folio_ids is not None and assignment.folios.filter(pk__in=folio_ids).count() != len(set(folio_ids)):
        raise not_yours()


@router.post("/assignments/{int:assignment_id}/word", response={200: WordOut, 404: Problem, 409: Problem, 422: Problem})
def post_word(request: HttpRequest, assignment_id: int, body: WordIn) -> WordOut:
    """A word to some or all, on their boards at once and in their records."""
    user = person(request)
    assignment = instructor_of(user, assignment_id)
    _require_its_own(assignment, body.folio_ids)
    heard = tell(assignment, body.text, only=body.folio_ids, by_name=user.name, now=moment())
    return WordOut(folios=heard)


@router.post("/assignments/{int:assignment_id}/people/{int:person_id}/let-in", response={204: None, 404: Problem})
def let_in(request: HttpRequest, assignment_id: int, person_id: int) -> tuple[int, None]:
    """A student who is held up by wrong passwords may sign in at once, for a quarter of an hour."""
    assignment = instructor_of(person(request), assignment_id)
    line = _students(assignment).filter(person=person_id).first()
    if line is None:
        raise not_yours()
    guessing.let_in(line.person, moment())
    return 204, None


def _students(assignment: Assignment) -> QuerySet[Enrolment]:
    lines = Enrolment.objects.filter(course=assignment.course_id, role=Role.STUDENT)
    return lines.select_related("person")


@router.get("/folios/{int:folio_id}/record", response={200: RecordOut, 404: Problem})
def sitting_record(request: HttpRequest, folio_id: int) -> RecordOut:
    """All that happened in a sitting, by the server's clock. Append-only: the database refuses to change it."""
    folio = taught_folio(person(request), folio_id)
    return RecordOut(
        folio_id=folio.pk, student=folio.student.name, student_number=folio.student.number,
        assignment=AssignmentOut.of(folio.assignment), window=WindowOut.of(folio.window(), moment()),
        events=[RecordedEvent(at=row.at, event=row.event) for row in folio.events.all()], marks=_marks_given(folio),
    )  # fmt: skip


def _marks_given(folio: Folio) -> list[MarkGivenOut]:
    """Every change of points and notes, oldest first: who gave what."""
    changes = MarkChange.objects.filter(mark__edition__folio=folio).select_related("mark__edition", "by")
    labels = {
        edition.pk: {one.id: one.label for one in edition.facts.question_map.questions}
        for edition in folio.editions.all()
    }
    return [
        MarkGivenOut(
            at=one.at, by=one.by.name, edition=one.mark.edition.number,
            label=labels[one.mark.edition_id].get(one.mark.question, ""), round=Round(one.mark.round),
            points=None if one.points is None else plain_number(one.points), not_attempted=one.not_attempted,
            note=one.note,
        )
        for one in changes
    ]  # fmt: skip


@router.get("/assignments/{int:assignment_id}/question-map", response={200: QuestionMapOut, 404: Problem})
def question_map(request: HttpRequest, assignment_id: int) -> QuestionMapOut:
    return _map_out(instructor_of(person(request), assignment_id))


@router.post(
    "/assignments/{int:assignment_id}/question-map/consequences",
    response={200: ConsequenceOut, 404: Problem, 422: Problem},
)
def map_consequences(request: HttpRequest, assignment_id: int, body: QuestionMapIn) -> ConsequenceOut:
    """What saving this map would do to those who have begun. Nothing is changed by asking."""
    assignment = instructor_of(person(request), assignment_id)
    told = consequences(assignment, _entries(body), body.groups)
    touched = {change.was or change.label for change in told.changes if change.change in ("removed", "answering")}
    labels = dict(assignment.questions.filter(removed_at=None, label__in=touched).values_list("pk", "label"))
    answered = [StudentsOf(label=labels[pk], students=count) for pk, count in answered_by(list(labels)).items()]
    losing = [StudentsOf(label=label, students=students) for label, students in told.students.items()]
    return ConsequenceOut(changes=list(told.changes), losing=losing, answered=answered, begun=told.begun)


@router.put(
    "/assignments/{int:assignment_id}/question-map",
    response={200: QuestionMapOut, 404: Problem, 409: Problem, 422: Problem},
)
def put_question_map(request: HttpRequest, assignment_id: int, body: QuestionMapIn) -> QuestionMapOut:
    user = person(request)
    assignment = instructor_of(user, assignment_id)
    saved = save_map(
        assignment, _entries(body), body.groups, seen_version=body.version, by_name=user.name, now=moment()
    )
    return _map_out(saved)


def _entries(body: QuestionMapIn) -> list[Entry]:
    return [
        Entry(one.id, one.label, one.title, one.points, one.group, _answering(one.label, one.answering))
        for one in body.entries
    ]


def _answering(label: str, told: AnsweringDoc) -> Answering:
    try:
        return Answering.from_document(told.model_dump())
    except BadAnswering as error:
        raise Refused(422, "bad_answering", f"{label}: {error}") from error


def _map_out(assignment: Assignment) -> QuestionMapOut:
    groups = list(assignment.question_groups.order_by("pk"))
    place = {group.pk: at for at, group in enumerate(groups)}
    return QuestionMapOut(
        groups=[group.choose for group in groups],
        assignment=AssignmentOut.of(assignment),
        version=assignment.map_version,
        whole_work=assignment.whole_work,
        entries=[
            MapEntryOut(
                id=one.pk,
                label=one.label,
                title=one.title,
                points=float(one.points),
                group=place[one.group_id] if one.group_id and not one.removed_at else None,
                removed=one.removed_at is not None,
                answering=AnsweringDoc(**one.answering.as_document()),
            )
            for one in assignment.questions.all()
        ],
    )
