"""The list of an assignment's folios, for who reads them: as a screen, and as a table to take away."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

from django.db.models import Prefetch, prefetch_related_objects
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from asking.models import waiting
from assignments.models import Assignment
from courses.models import Enrolment
from editions.models import Edition, EditionPage, ReaderPlacement
from editions.rehearsing import rehearsed
from folio_core import clock
from folio_core.clock import Phase, Verdict
from folios.beginning import window_of
from folios.models import Folio
from folios.reach import Reach
from marking.hiding import hidden_among, stand_in_for
from people import guessing
from people.models import User
from plumbing.downloads import made_file, plain_cell, safe_file_name
from plumbing.errors import Problem
from plumbing.requests import moment

from .permissions import Role, instructor_of, person, reader_of
from .schemas import AssignmentOut

router = Router(tags=["folio list"])
_RUNNING = (clock.Phase.WRITING, clock.Phase.HANDOVER)


class RehearsedOut(Schema):
    """The newest rehearsal that was handed in; its receipt says what took how long and what went wrong."""

    folio_id: int
    edition: int
    at: datetime


class FolioLine(Schema):
    """A line of the instructor's list: a student, with or without a folio. ``advice``: pages of the newest edition with
    advice. ``asked``: something is asked for again, and not there yet; ``answered``: the newest edition answers it.
    ``open_labels``: without those that a reader placed."""

    person_id: int
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
    advice: int
    asked: bool
    answered: bool
    taken_in: bool
    section: str
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


@router.get("/assignments/{int:assignment_id}/folios", response={200: FolioListOut, 404: Problem})
def folio_list(request: HttpRequest, assignment_id: int) -> FolioListOut:
    """Every student of the course, with the newest edition; for a marker what is handed in and theirs to read."""
    (assignment, reach), now = reader_of(person(request), assignment_id), moment()
    if reach.scopes is not None:
        return _markers_list(assignment, reach, now)
    lines = _instructors_lines(assignment, now)
    running = sum(line.folio_id is not None and line.phase in _RUNNING for line in lines)
    return FolioListOut(
        now=now, assignment=AssignmentOut.of(assignment), due=assignment.due, running=running, folios=lines,
        held_up=_held_up(assignment, now), asks_rehearsal=assignment.asks_rehearsal, instructs=True, questions=None,
    )  # fmt: skip


def _instructors_lines(assignment: Assignment, now: datetime) -> list[FolioLine]:
    prefetch_related_objects([assignment], "personal_terms")
    roster = Enrolment.objects.filter(course=assignment.course_id, role=Role.STUDENT).select_related(
        "person", "section"
    )
    newest = Prefetch("editions", Edition.objects.filter(taken_back_at=None), to_attr="newest_first")
    begun = assignment.folios.select_related("student", "section").prefetch_related(newest).order_by("attempt")
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
    return _completed(lines, now)


def _completed(lines: list[FolioLine], now: datetime) -> list[FolioLine]:
    """How many pages of each newest edition have advice that was not waved away, what is asked again, and which open
    questions a reader placed: a query each."""
    folios = [line.folio_id for line in lines if line.folio_id is not None]
    asked = set(waiting(now).filter(folio__in=folios).values_list("folio_id", flat=True))
    placed = _placed_by_readers(folios)
    for line in lines:
        line.asked = line.folio_id in asked
        by_reader = placed.get((line.folio_id, line.edition), set())
        line.open_labels = [label for label in line.open_labels if label not in by_reader]
    newest = {line.folio_id: line for line in lines if line.edition is not None}
    advised = EditionPage.objects.filter(edition__folio__in=newest).exclude(page__advice=[])
    rows = advised.values_list(
        "edition__folio", "edition__number", "page_id", "page__advice", "edition__arrangement__dismissed"
    )
    for folio_id, number, page_id, advice, dismissed in rows:
        line = newest[folio_id]
        waved_away = set((dismissed or {}).get(str(page_id), ()))
        if number == line.edition and any(one["code"] not in waved_away for one in advice):
            line.advice += 1
    return lines


def _placed_by_readers(folios: list[int]) -> dict[tuple[int | None, int | None], set[str]]:
    """The labels of what readers placed, by folio and edition."""
    placed: dict[tuple[int | None, int | None], set[str]] = {}
    for row in ReaderPlacement.objects.filter(edition__folio__in=folios).select_related("edition"):
        question_map = row.edition.facts.question_map
        labels = placed.setdefault((row.edition.folio_id, row.edition.number), set())
        labels.add(question_map[row.question].label)
    return placed


def _markers_list(assignment: Assignment, reach: Reach, now: datetime) -> FolioListOut:
    newest = Prefetch("editions", Edition.objects.filter(taken_back_at=None), to_attr="newest_first")
    folios = list(
        reach.folios(assignment)
        .filter(editions__taken_back_at=None, editions__isnull=False)
        .distinct()
        .select_related("student", "section")
        .prefetch_related(newest)
        .order_by("student__last_name", "student__first_name", "pk")
    )
    lines = _completed([_folio_line(assignment, folio.student, None, folio, now) for folio in folios], now)
    read = [reach.questions(folio) for folio in folios]
    hidden = hidden_among(folios, now)
    for line, questions in zip(lines, read, strict=True):
        line.on_roster = True
        if line.folio_id in hidden:
            line.student = line.email = stand_in_for(line.folio_id)
            line.number = line.section = ""
            line.person_id = 0
        if questions is not None:
            labels = assignment.question_map.labels_of(questions)
            line.open_labels = [label for label in line.open_labels if label in labels]
    narrowed = frozenset[str]().union(*(one for one in read if one is not None)) if None not in read else None
    lines.sort(key=lambda line: line.student if line.folio_id in hidden else "")
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
        person_id=student.pk, student=student.name,
        number=student.number, email=student.email, folio_id=folio.pk if folio else None,
        begun_at=folio.begun_at if folio else None, edition=edition.number if edition else None,
        handed_in_at=edition.handed_in_at if edition else None,
        verdict=edition.verdict if edition else None,  # type: ignore[arg-type]
        late_seconds=edition.late_seconds if edition else 0, automatic=edition.automatic if edition else False,
        phase=clock.phase(window, now), closes=window.closes if folio else None,
        pages=edition.page_count if edition else 0, advice=0, asked=False,
        answered=bool(edition and edition.kept_facts.get("asked")),
        taken_in=bool(edition and edition.kept_facts.get("taken_in")), section=_section(folio, enrolment),
        open_labels=edition.open_labels if edition else [],
        on_roster=enrolment is not None,
        rehearsed=RehearsedOut(folio_id=practised.folio_id, edition=practised.number, at=practised.handed_in_at)
        if practised
        else None,
    )  # fmt: skip


def _section(folio: Folio | None, enrolment: Enrolment | None) -> str:
    """As the folio keeps it; of who has not begun, as the roster has it."""
    section = folio.section if folio else enrolment.section if enrolment else None
    return section.name if section else ""


def _held_up(assignment: Assignment, now: datetime) -> list[HeldUp]:
    lines = Enrolment.objects.filter(course=assignment.course_id, role=Role.STUDENT).select_related("person")
    students = {line.person.email: line.person for line in lines}
    tries = guessing.held_up(list(students), now)
    return [
        HeldUp(person_id=students[email].pk, student=students[email].name, tries=count)
        for email, count in tries.items()
    ]


@router.get("/assignments/{int:assignment_id}/folios.csv", response={200: None, 404: Problem})
def folio_table(request: HttpRequest, assignment_id: int) -> HttpResponse:
    """All of the list as CSV (RFC 4180), its times in the course's time zone. It begins with a byte order mark: without
    it common spreadsheet programs take UTF-8 for something else."""
    assignment = instructor_of(person(request), assignment_id)
    lines = _instructors_lines(assignment, moment())
    out = io.StringIO(newline="")
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(_COLUMNS)
    rows.writerows([plain_cell(cell) for cell in _cells(line, ZoneInfo(assignment.course.time_zone))] for line in lines)
    name = f"{safe_file_name(assignment.course.code, assignment.title, 'folios')}.csv"
    return made_file("\ufeff" + out.getvalue(), name, "text/csv; charset=utf-8")


_COLUMNS = (
    "number", "student", "email", "section", "on_roster", "begun", "handed_in", "edition", "verdict", "late_seconds",
    "by_itself", "pages", "pages_with_advice", "open_questions", "closes", "asked_again", "taken_in_by_staff",
)  # fmt: skip


def _cells(line: FolioLine, zone: ZoneInfo) -> Sequence[object]:
    def local(at: datetime | None) -> str:
        return at.astimezone(zone).isoformat(timespec="seconds") if at else ""

    return (
        line.number, line.student, line.email, line.section, _yes(line.on_roster), local(line.begun_at),
        local(line.handed_in_at), line.edition or "", line.verdict or "", line.late_seconds if line.edition else "",
        _yes(line.automatic) if line.edition else "", line.pages if line.edition else "",
        line.advice if line.edition else "", " ".join(line.open_labels), local(line.closes),
        _yes(line.asked), _yes(line.taken_in),
    )  # fmt: skip


def _yes(true: bool) -> str:
    return "yes" if true else "no"
