"""Giving marked work back, and taking marks out of the house."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Literal
from zoneinfo import ZoneInfo

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from assignments import files_beside
from assignments.models import Assignment
from editions import collecting
from editions.manifest import file_stem
from folio_core.marking import plain_number
from folios.models import Folio
from marking.giving_back import (
    What,
    changed_since,
    figures_of_work,
    findings_of,
    give_back,
    given_back_of,
    take_back_marks,
)  # fmt: skip
from marking.inking import ink_of
from marking.marked_documents import ink_as_inkml, marked_documents, marks_table, results
from marking.models import GivenBack, Ink
from marking.work import MarkedFolio, work_of
from plumbing.downloads import Archive, archive_download, made_file, safe_file_name
from plumbing.errors import Problem, Refused
from plumbing.requests import body_of, moment

from .permissions import instructor_of, person, readable_edition, taught_folio
from .schemas import AssignmentOut, FileBesideOut
from .wall_times import moment_typed

router = Router(tags=["giving back"])
Code = Literal["unmarked", "differs", "look_again", "above", "asked_again"]


class FiguresOut(Schema):
    """Of one question: how many answers have points, and what those points say. ``facility``: mean over most.
    ``discrimination``: correlation with the points of all other questions. ``bars``: tenths of the points."""

    label: str
    title: str
    most: float
    marked: int
    mean: float | None
    median: float | None
    deviation: float | None
    facility: float | None
    discrimination: float | None
    bars: list[int]


class FindingOut(Schema):
    code: Code
    labels: list[str]


class GivenBackOut(Schema):
    """``changed``: marked otherwise since, or the student handed in anew."""

    edition: int
    opens_at: datetime
    is_seen: bool
    asks_until: datetime | None
    by: str
    changed: bool


class ToGiveBackOut(Schema):
    """One student's work. Points as decimal numbers in words."""

    folio_id: int
    edition: int
    student: str
    number: str
    section: str
    marked: int
    answers: int
    points: str
    most: str
    lost: str
    findings: list[FindingOut]
    given: GivenBackOut | None


class GivingBackOut(Schema):
    now: datetime
    assignment: AssignmentOut
    folios: list[ToGiveBackOut]
    files: list[FileBesideOut]
    figures: list[FiguresOut]


class GiveBackIn(Schema):
    """``folios``: by id. ``without_files``: of the files beside the marks those that do not come along. ``opens_at``,
    ``asks_until``: times of day in the course's zone; null is now, and never."""

    folios: list[int] = Field(min_length=1, max_length=2000)
    points: bool = True
    notes: bool = True
    ink: bool = True
    figures: bool = False
    without_files: list[int] = Field([], max_length=100)
    opens_at: str | None = Field(None, max_length=30)
    asks_until: str | None = Field(None, max_length=30)


class WhyIn(Schema):
    why: str = Field(max_length=1000)


@router.get("/assignments/{int:assignment_id}/giving-back", response={200: GivingBackOut, 404: Problem})
def giving_back(request: HttpRequest, assignment_id: int) -> GivingBackOut:
    """Everybody's marks with what to look at first, and the figures of each question."""
    return _out(instructor_of(person(request), assignment_id))


@router.post(
    "/assignments/{int:assignment_id}/giving-back",
    response={200: GivingBackOut, 404: Problem, 409: Problem, 422: Problem},
)
def post_giving_back(request: HttpRequest, assignment_id: int, body: GiveBackIn) -> GivingBackOut:
    """As the marks are now. Folios whose marks are given back already get them anew."""
    user, now = person(request), moment()
    assignment = instructor_of(user, assignment_id)
    zone = ZoneInfo(assignment.course.time_zone)
    opens_at = moment_typed(body.opens_at, zone, "opens_at") or now
    asks_until = moment_typed(body.asks_until, zone, "asks_until")
    everybody = work_of(assignment)
    chosen = set(body.folios)
    work = [one for one in everybody if one.folio.pk in chosen]
    if len(work) != len(chosen):
        raise Refused(409, "not_handed_in", "Some of these have nothing handed in any more. Reload, then choose again.")
    what = What(body.points, body.notes, body.ink, body.figures, tuple(body.without_files))
    figures = figures_of_work(everybody, assignment.question_map.questions)
    give_back(work, what, opens_at=opens_at, asks_until=asks_until, by=user, now=now, figures=figures)
    return _out(assignment)


@router.post(
    "/folios/{int:folio_id}/giving-back/take-back",
    response={200: GivingBackOut, 404: Problem, 409: Problem, 422: Problem},
)
def post_take_back(request: HttpRequest, folio_id: int, body: WhyIn) -> GivingBackOut:
    """The student sees no marks any more, and reads why."""
    user = person(request)
    folio: Folio = taught_folio(user, folio_id)
    take_back_marks(folio.pk, body.why, by=user, now=moment())
    return _out(folio.assignment)


@router.put(
    "/assignments/{int:assignment_id}/marks-files",
    response={200: GivingBackOut, 404: Problem, 409: Problem, 413: Problem, 422: Problem},
)
def put_marks_file(request: HttpRequest, assignment_id: int, name: str) -> GivingBackOut:
    """The model answer, or another file that comes with marked work: a PDF or a picture, as the body's bytes."""
    assignment = instructor_of(person(request), assignment_id)
    files_beside.add_file(assignment, name, body_of(request, files_beside.MOST_BYTES), with_marks=True)
    return _out(assignment)


@router.get("/assignments/{int:assignment_id}/marks.csv", response={200: None, 404: Problem})
def marks_csv(request: HttpRequest, assignment_id: int) -> HttpResponse:
    assignment = instructor_of(person(request), assignment_id)
    name = f"{safe_file_name(assignment.course.code, assignment.title, 'marks')}.csv"
    return made_file(marks_table(assignment, work_of(assignment)), name, "text/csv; charset=utf-8")


@router.get("/assignments/{int:assignment_id}/marks-oneroster.zip", response={200: None, 404: Problem})
def marks_oneroster(request: HttpRequest, assignment_id: int) -> HttpResponse:
    """Line items and results as OneRoster 1.2 CSV."""
    assignment = instructor_of(person(request), assignment_id)
    name = f"{safe_file_name(assignment.course.code, assignment.title, 'marks')}.zip"
    return made_file(results(assignment, work_of(assignment), moment()), name, "application/zip")


@router.get("/assignments/{int:assignment_id}/marked.zip", response={200: None, 404: Problem, 409: Problem})
def marked_zip(request: HttpRequest, assignment_id: int) -> Archive:
    """A marked PDF of each student, made as it is taken."""
    user = person(request)
    assignment = instructor_of(user, assignment_id)
    entries = marked_documents(assignment)
    if not entries:
        raise Refused(409, "nothing_yet", "Nothing of this is there yet. Wait until somebody has handed in.")
    name = f"{safe_file_name(assignment.course.code, assignment.title, 'marked')}.zip"
    return archive_download(user.pk, collecting.archive(entries), name)


@router.get("/folios/{int:folio_id}/editions/{int:number}/ink.inkml", response={200: None, 404: Problem})
def ink_inkml(request: HttpRequest, folio_id: int, number: int) -> HttpResponse:
    """All ink on the pages of an edition, in pixels of each page's original (W3C InkML)."""
    user = person(request)
    taught_folio(user, folio_id)
    edition = readable_edition(user, folio_id, number)
    return made_file(ink_as_inkml(edition), f"{file_stem(edition)}_ink.inkml", "application/inkml+xml")


def _out(assignment: Assignment) -> GivingBackOut:
    now = moment()
    work = work_of(assignment)
    found: dict[int, list[FindingOut]] = {}
    for one in findings_of(work, now):
        found.setdefault(one.folio, []).append(FindingOut(code=one.code, labels=list(one.labels)))  # type: ignore[arg-type]
    given = given_back_of(assignment)
    ink = ink_of([page for one in work if one.folio.pk in given for page in one.pages])
    figures = figures_of_work(work, assignment.question_map.questions)
    return GivingBackOut(
        now=now,
        assignment=AssignmentOut.of(assignment),
        files=[FileBesideOut.from_orm(one) for one in assignment.files_beside.filter(with_marks=True)],
        folios=[
            _line(one, found.get(one.folio.pk, []), _given_out(given.get(one.folio.pk), one, ink, now)) for one in work
        ],
        figures=[
            FiguresOut(
                label=question.label, title=question.title, most=question.points, marked=of.marked, mean=of.mean,
                median=of.median, deviation=of.deviation, facility=of.facility, discrimination=of.discrimination,
                bars=list(of.bars),
            )
            for question in assignment.question_map.questions
            for of in [figures[question.id]]
        ],
    )  # fmt: skip


def _given_out(
    given: GivenBack | None, work: MarkedFolio, ink: Mapping[int, Sequence[Ink]], now: datetime
) -> GivenBackOut | None:
    if given is None:
        return None
    return GivenBackOut(
        edition=given.edition.number, opens_at=given.opens_at, is_seen=given.opens_at <= now,
        asks_until=given.asks_until, by=given.by.name, changed=changed_since(given, work, ink),
    )  # fmt: skip


def _line(work: MarkedFolio, findings: list[FindingOut], given: GivenBackOut | None) -> ToGiveBackOut:
    total = work.total
    return ToGiveBackOut(
        folio_id=work.folio.pk, edition=work.edition.number, student=work.facts.student,
        number=work.facts.student_number, section=work.facts.section,
        marked=len(work.question_map.questions) - len(total.unmarked), answers=len(work.question_map.questions),
        points=plain_number(total.points), most=plain_number(total.most), lost=plain_number(total.lost),
        findings=findings, given=given,
    )  # fmt: skip
