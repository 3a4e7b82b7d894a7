"""For the instructors of a course: the list of folios, giving time, a sitting's record, and the question map."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal

from django.db.models import Prefetch, QuerySet, prefetch_related_objects
from django.http import HttpRequest
from ninja import Field, Router, Schema

from assignments.models import Assignment
from courses.models import Enrolment
from editions.models import Edition
from editions.rehearsing import rehearsed
from folio_core import clock
from folio_core.clock import Phase, Verdict
from folios.beginning import window_of
from folios.events import LabelChange
from folios.lengthening import lengthen
from folios.map_editing import Entry, consequences, save_map
from folios.models import Folio
from folios.reach import Reach
from folios.telling import tell
from people import guessing
from people.models import User
from plumbing.errors import Problem, not_yours
from plumbing.requests import moment

from .permissions import Role, instructor_of, person, reader_of, taught_folio
from .schemas import AssignmentOut, RecordedEvent, WindowOut

router = Router(tags=["staff"])
_RUNNING = (clock.Phase.WRITING, clock.Phase.HANDOVER)


class RehearsedOut(Schema):
    """The newest rehearsal that was handed in; its receipt says what took how long and what went wrong."""

    folio_id: int
    edition: int
    at: datetime


class FolioLine(Schema):
    """A line of the instructor's list: a student, with or without a folio."""

    student: str
    number: str
    email: str
    folio_id: int | None
    begun_at: datetime | None
    edition: int | None
    handed_in_at: datetime | None
    verdict: Verdict | None
    late_seconds: int
    automatic: bool
    phase: Phase
    closes: datetime | None
    pages: int
    open_labels: list[str]
    on_roster: bool
    rehearsed: RehearsedOut | None


class HeldUp(Schema):
    """A student whose sign-in must wait, because wrong passwords were typed for the account."""

    person_id: int
    student: str
    tries: int


class FolioListOut(Schema):
    """``running``: how many sittings run just now, which an instructor may lengthen. ``instructs``: else it is a
    marker's list, of what is handed in and read by them; ``questions``: the labels of those that are read, where not
    all of them are."""

    now: datetime
    assignment: AssignmentOut
    due: datetime
    running: int
    folios: list[FolioLine]
    held_up: list[HeldUp]
    asks_rehearsal: bool
    instructs: bool
    questions: list[str] | None


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


class RecordOut(Schema):
    folio_id: int
    student: str
    student_number: str
    assignment: AssignmentOut
    window: WindowOut
    events: list[RecordedEvent]


class MapEntryOut(Schema):
    """``removed``: it has left the map; what was placed on it is kept, and comes back with it."""

    id: int
    label: str
    title: str
    points: float
    group: int | None
    removed: bool


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
    """What saving a map would change. ``losing``: how many students placed pages on, or left blank, what it removes."""

    changes: list[LabelChange]
    losing: list[StudentsOf]
    begun: int


@router.get("/assignments/{int:assignment_id}/folios", response={200: FolioListOut, 404: Problem})
def folio_list(request: HttpRequest, assignment_id: int) -> FolioListOut:
    """Every student of the course, with the newest edition; for a marker what is handed in and theirs to read."""
    (assignment, reach), now = reader_of(person(request), assignment_id), moment()
    if reach.scopes is not None:
        return _markers_list(assignment, reach, now)
    prefetch_related_objects([assignment], "personal_terms")
    roster = Enrolment.objects.filter(course=assignment.course_id, role=Role.STUDENT).select_related("person")
    newest = Prefetch("editions", Edition.objects.order_by("-number"), to_attr="newest_first")
    begun = assignment.folios.select_related("student").prefetch_related(newest).order_by("attempt")
    folios = {folio.student_id: folio for folio in begun}
    practised = rehearsed(assignment, [enrolment.person_id for enrolment in roster])
    lines = [
        _folio_line(
            assignment, enrolment.person, enrolment, folios.pop(enrolment.person_id, None), now,
            practised.get(enrolment.person_id),
        )
        for enrolment in roster.order_by("person__last_name", "person__first_name")
    ]  # fmt: skip
    # Taken off the roster after they had begun: out of the way, not out of sight.
    lines += [_folio_line(assignment, folio.student, None, folio, now) for folio in folios.values()]
    running = sum(line.folio_id is not None and line.phase in _RUNNING for line in lines)
    return FolioListOut(
        now=now, assignment=AssignmentOut.of(assignment), due=assignment.due, running=running, folios=lines,
        held_up=_held_up(assignment, now), asks_rehearsal=assignment.asks_rehearsal, instructs=True, questions=None,
    )  # fmt: skip


def _markers_list(assignment: Assignment, reach: Reach, now: datetime) -> FolioListOut:
    newest = Prefetch("editions", Edition.objects.order_by("-number"), to_attr="newest_first")
    folios = list(
        reach.folios(assignment)
        .filter(editions__isnull=False)
        .distinct()
        .select_related("student")
        .prefetch_related(newest)
        .order_by("student__last_name", "student__first_name", "pk")
    )
    lines = [_folio_line(assignment, folio.student, None, folio, now) for folio in folios]
    read = [reach.questions(folio) for folio in folios]
    for line, questions in zip(lines, read, strict=True):
        line.on_roster = True
        if questions is not None:
            labels = assignment.question_map.labels_of(questions)
            line.open_labels = [label for label in line.open_labels if label in labels]
    narrowed = frozenset[str]().union(*(one for one in read if one is not None)) if None not in read else None
    return FolioListOut(
        now=now, assignment=AssignmentOut.of(assignment), due=assignment.due, running=0, folios=lines, held_up=[],
        asks_rehearsal=False, instructs=False,
        questions=list(assignment.question_map.labels_of(narrowed)) if narrowed else None,
    )  # fmt: skip


def _folio_line(
    assignment: Assignment, student: User, enrolment: Enrolment | None, folio: Folio | None, now: datetime,
    practised: Edition | None = None,
) -> FolioLine:  # fmt: skip
    edition: Edition | None = next(iter(folio.newest_first), None) if folio else None  # type: ignore[attr-defined]
    window = window_of(assignment, student.pk, folio, enrolment)
    return FolioLine(
        student=student.name, number=student.number, email=student.email, folio_id=folio.pk if folio else None,
        begun_at=folio.begun_at if folio else None, edition=edition.number if edition else None,
        handed_in_at=edition.handed_in_at if edition else None,
        verdict=edition.verdict if edition else None,  # type: ignore[arg-type]
        late_seconds=edition.late_seconds if edition else 0, automatic=edition.automatic if edition else False,
        phase=clock.phase(window, now), closes=window.closes if folio else None,
        pages=edition.page_count if edition else 0, open_labels=edition.open_labels if edition else [],
        on_roster=enrolment is not None,
        rehearsed=RehearsedOut(folio_id=practised.folio_id, edition=practised.number, at=practised.handed_in_at)
        if practised
        else None,
    )  # fmt: skip


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


def _held_up(assignment: Assignment, now: datetime) -> list[HeldUp]:
    students = {line.person.email: line.person for line in _students(assignment)}
    tries = guessing.held_up(list(students), now)
    return [
        HeldUp(person_id=students[email].pk, student=students[email].name, tries=count)
        for email, count in tries.items()
    ]


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
        events=[RecordedEvent(at=row.at, event=row.event) for row in folio.events.all()],
    )  # fmt: skip


@router.get("/assignments/{int:assignment_id}/question-map", response={200: QuestionMapOut, 404: Problem})
def question_map(request: HttpRequest, assignment_id: int) -> QuestionMapOut:
    return _map_out(instructor_of(person(request), assignment_id))


@router.post(
    "/assignments/{int:assignment_id}/question-map/consequences",
    response={200: ConsequenceOut, 404: Problem, 422: Problem},
)
def map_consequences(request: HttpRequest, assignment_id: int, body: QuestionMapIn) -> ConsequenceOut:
    """What saving this map would do to those who have begun. Nothing is changed by asking."""
    told = consequences(instructor_of(person(request), assignment_id), _entries(body), body.groups)
    losing = [StudentsOf(label=label, students=students) for label, students in told.students.items()]
    return ConsequenceOut(changes=list(told.changes), losing=losing, begun=told.begun)


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
    return [Entry(one.id, one.label, one.title, one.points, one.group) for one in body.entries]


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
            )
            for one in assignment.questions.all()
        ],
    )
