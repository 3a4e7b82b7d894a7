"""Setting up an assignment: its words, its times and what they mean, its question paper and the map that proposes."""

from __future__ import annotations

import re
from collections import defaultdict
from copy import copy
from datetime import datetime, timedelta
from typing import Any, Literal
from zoneinfo import ZoneInfo

from django.core.exceptions import ValidationError
from django.db.models import prefetch_related_objects
from django.http import HttpRequest
from ninja import Field, Router, Schema

from assignments import setting_up
from assignments.drawing import is_being_drawn, paper_pages
from assignments.models import Assignment, PageKinds, PaperRule
from assignments.setting_up import BadField
from courses.models import Enrolment
from folio_core import clock
from folio_core.clock import ExtraTime, Window
from folio_core.question_map import QuestionMapError, map_in_short, parse_question_map
from folio_core.roster import write_extra_time
from folios.amending import foreseen
from folios.beginning import terms_for
from plumbing.errors import Problem, Refused
from plumbing.requests import body_of, moment

from .permissions import Role, instructor_of, person, taught_course, teaches
from .schemas import AssignmentOut, FileBesideOut
from .wall_times import WALL, moment_typed

router = Router(tags=["setting up"])
_MOMENTS = ("opens", "due", "late_until")
_MOST_NAMES = 4


class SettingUpFields(Schema):
    """Moments are times of day in the course's zone: 2026-11-27T09:00."""

    title: str = Field(max_length=200)
    instructions: str = Field("", max_length=20_000)
    instructions_before: str = Field("", max_length=20_000)
    opens: str
    due: str
    late_until: str | None
    writing_minutes: int | None
    handover_minutes: int
    due_cuts_sitting: bool
    placing_minutes: int
    pledge_minutes: int
    offers_rehearsal: bool
    asks_rehearsal: bool = False
    whole_work: bool
    paper_rules: list[PaperRule]
    page_kinds: PageKinds = PageKinds.ANY
    honour: str = Field("", max_length=2000)
    proposes: bool = True


class SettingUpIn(SettingUpFields):
    """``sure``: also where the times of begun work are touched, which is asked about once."""

    version: int
    sure: bool = False


class ExampleOut(Schema):
    """One student's sitting as the rules would have it. ``cut_minutes``: what the due moment takes of the full time."""

    name: str
    whom: str
    begins: datetime
    writing_ends: datetime | None
    closes: datetime
    cut_minutes: int


class OddOut(Schema):
    field: str
    words: str


class PaperFileOut(Schema):
    name: str
    pages: int
    state: Literal["drawing", "drawn", "failed"]


class SettingUpOut(SettingUpFields):
    assignment: AssignmentOut
    course_id: int
    version: int
    now: datetime
    opens_at: datetime
    given_out_at: datetime | None
    map: str
    points: float
    students: int
    begun: int
    paper: PaperFileOut | None
    files: list[FileBesideOut]
    examples: list[ExampleOut]
    odd: list[OddOut]


class ProposedEntry(Schema):
    label: str
    title: str
    points: float | None
    page: int
    top: float


class ProposalOut(Schema):
    """``has_text``: of a photographed paper nothing can be read. ``missing``: labels of the paper that the map lacks;
    ``unknown``: labels of the map that the paper lacks."""

    map: str
    entries: list[ProposedEntry]
    has_text: bool
    missing: list[str]
    unknown: list[str]


class NewWorkIn(Schema):
    title: str = Field(max_length=200)
    copy_of: int | None = None


class WorkMade(Schema):
    id: int


class TypedMapIn(Schema):
    text: str = Field(max_length=2000)


class TypedEntry(Schema):
    """``group``: its place among ``groups``."""

    label: str
    group: int | None


class TypedMapOut(Schema):
    """``groups``: of each, how many of its questions are to be answered, 0 for a bonus."""

    entries: list[TypedEntry]
    groups: list[int]


class GiveOutIn(Schema):
    """``at``: a time of day in the course's zone; none is at once."""

    at: str | None = None


@router.post("/courses/{int:course_id}/assignments", response={201: WorkMade, 403: Problem, 404: Problem, 422: Problem})
def begin_assignment(request: HttpRequest, course_id: int, body: NewWorkIn) -> tuple[int, WorkMade]:
    """A draft, empty or like another assignment that one teaches."""
    user, now = person(request), moment()
    course = taught_course(user, course_id)
    if not teaches(user, course.pk):
        raise Refused(
            403, "not_instructor", "Its instructors set up the work. Add one on its roster, yourself if it is you."
        )
    try:
        if body.copy_of is not None:
            made = setting_up.copy(instructor_of(user, body.copy_of), course, body.title, now)
        else:
            made = setting_up.new_assignment(course, body.title, now)
    except BadField as error:
        raise _at_field(error) from error
    return 201, WorkMade(id=made.pk)


@router.get("/assignments/{int:assignment_id}/setting-up", response={200: SettingUpOut, 404: Problem})
def setting_up_of(request: HttpRequest, assignment_id: int) -> SettingUpOut:
    return _out(instructor_of(person(request), assignment_id))


@router.put(
    "/assignments/{int:assignment_id}/setting-up",
    response={200: SettingUpOut, 404: Problem, 409: Problem, 422: Problem},
)
def change_setting_up(request: HttpRequest, assignment_id: int, body: SettingUpIn) -> SettingUpOut:
    """All of it, or with an error nothing. Who has begun keeps their terms but where they gain; a change of times is
    refused with what it comes to for them (409, ``touches_begun``) until one is ``sure``."""
    assignment = instructor_of(person(request), assignment_id)
    fields: dict[str, Any] = body.dict(exclude={"version", "sure"})
    zone = ZoneInfo(assignment.course.time_zone)
    try:
        for name in _MOMENTS:
            fields[name] = moment_typed(fields[name], zone, name)
        if not body.sure and assignment.version == body.version:
            _ask_about_begun(assignment, fields)
        changed = setting_up.change(assignment_id, fields, seen_version=body.version)
    except BadField as error:
        raise _at_field(error) from error
    return _out(changed)


def _ask_about_begun(assignment: Assignment, fields: dict[str, Any]) -> None:
    """Raises Refused (409) with who gains and who would lose. What makes no sense is refused at its field later."""
    wanted = copy(assignment)
    for name, value in fields.items():
        setattr(wanted, name, value)
    try:
        wanted.full_clean(exclude=["question_paper"])
    except ValidationError:
        return
    told = foreseen(wanted, moment())
    if told.gain + told.lose == 0:
        return
    words = []
    if told.gain:
        words.append(f"{_students(told.gain)} more time by it and see it at once.")
    if told.lose:
        words.append(f"{_students(told.lose)} less by it: they keep what they were promised.")
    raise Refused(409, "touches_begun", f"Of those who have begun, {' '.join(words)}")


def _students(count: int) -> str:
    return "one student gets" if count == 1 else f"{count} students get"


def _at_field(error: BadField) -> Refused:
    return Refused(422, f"field:{error.field}", error.message)


@router.put(
    "/assignments/{int:assignment_id}/paper", response={200: SettingUpOut, 404: Problem, 413: Problem, 422: Problem}
)
def put_paper(request: HttpRequest, assignment_id: int, name: str) -> SettingUpOut:
    """The question paper, as the body's bytes: a PDF, or a photograph of it."""
    assignment = instructor_of(person(request), assignment_id)
    setting_up.set_paper(assignment, name, body_of(request, setting_up.MOST_PAPER_BYTES))
    return _out(instructor_of(person(request), assignment_id))


@router.get("/assignments/{int:assignment_id}/paper/proposal", response={200: ProposalOut, 404: Problem, 422: Problem})
def proposal(request: HttpRequest, assignment_id: int) -> ProposalOut:
    """The question map that the paper itself says."""
    assignment = instructor_of(person(request), assignment_id)
    read = setting_up.paper_proposal(assignment)
    if read is None:
        raise Refused(404, "no_paper", "There is no question paper yet.")
    have, said = list(assignment.question_map.labels), [item.label for item in read.items]
    return ProposalOut(
        map=read.short, has_text=read.has_text,
        entries=[ProposedEntry.from_orm(item) for item in read.items],
        missing=[label for label in said if label not in have],
        unknown=[label for label in have if label not in said],
    )  # fmt: skip


@router.post("/typed-maps", response={200: TypedMapOut, 422: Problem})
def typed_map(request: HttpRequest, body: TypedMapIn) -> TypedMapOut:
    """What a map means that is typed in one line: "1a-c, any 1 of (2, 3)" → 1a, 1b, 1c, and one of 2 and 3."""
    try:
        typed = parse_question_map(body.text)
        place = {group.id: at for at, group in enumerate(typed.groups)}
        return TypedMapOut(
            entries=[TypedEntry(label=one.label, group=place.get(one.group)) for one in typed.questions],
            groups=[group.choose for group in typed.groups],
        )
    except QuestionMapError as error:
        raise Refused(422, "bad_map", str(error)) from error


@router.post(
    "/assignments/{int:assignment_id}/give-out", response={200: SettingUpOut, 404: Problem, 409: Problem, 422: Problem}
)
def give_out(request: HttpRequest, assignment_id: int, body: GiveOutIn) -> SettingUpOut:
    assignment = instructor_of(person(request), assignment_id)
    at = moment_typed(body.at, ZoneInfo(assignment.course.time_zone), "opens")
    setting_up.give_out(assignment, at, moment())
    return _out(assignment)


@router.post("/assignments/{int:assignment_id}/take-back", response={200: SettingUpOut, 404: Problem, 409: Problem})
def take_back(request: HttpRequest, assignment_id: int) -> SettingUpOut:
    """A draft again, while nobody has begun."""
    assignment = instructor_of(person(request), assignment_id)
    setting_up.take_back(assignment)
    return _out(assignment)


@router.delete("/assignments/{int:assignment_id}", response={204: None, 404: Problem, 409: Problem})
def discard(request: HttpRequest, assignment_id: int) -> tuple[int, None]:
    """A draft that nobody has begun."""
    setting_up.discard(instructor_of(person(request), assignment_id))
    return 204, None


def _out(assignment: Assignment) -> SettingUpOut:
    now, zone = moment(), ZoneInfo(assignment.course.time_zone)
    shown = {name: getattr(assignment, name) for name in SettingUpFields.model_fields}
    shown |= {name: _wall(shown[name], zone) for name in _MOMENTS}
    question_map = assignment.question_map
    roster = list(assignment.course.roster.filter(role=Role.STUDENT).select_related("person"))
    prefetch_related_objects([assignment], "personal_terms")
    examples = _examples(assignment, roster)
    odd = [OddOut(field=one.field, words=one.words) for one in setting_up.oddities(assignment, now)]
    return SettingUpOut(
        **shown, assignment=AssignmentOut.of(assignment), course_id=assignment.course_id, version=assignment.version,
        now=now, opens_at=assignment.opens, given_out_at=assignment.given_out_at,
        map=map_in_short(question_map), points=question_map.points, students=len(roster),
        begun=assignment.folios.count(),
        paper=_paper_out(assignment),
        files=[FileBesideOut.from_orm(one) for one in assignment.files_beside.filter(with_marks=False)],
        examples=examples, odd=odd + _cut_extra_time(examples),
    )  # fmt: skip


def _wall(at: datetime | None, zone: ZoneInfo) -> str | None:
    return None if at is None else at.astimezone(zone).strftime(WALL)


def _paper_out(assignment: Assignment) -> PaperFileOut | None:
    if not assignment.question_paper:
        return None
    being_drawn = is_being_drawn(assignment)
    pages = len(paper_pages(assignment))
    stored = str(assignment.question_paper.name).rsplit("/", 1)[-1]
    name = re.sub(r"_[A-Za-z0-9]{7}(?=\.\w+$)", "", stored)  # what the storage adds to a name that is taken
    return PaperFileOut(name=name, pages=pages, state="drawn" if pages else "drawing" if being_drawn else "failed")


def _examples(assignment: Assignment, roster: list[Enrolment]) -> list[ExampleOut]:
    """Who begins as it opens, who begins last with full time, and each kind of extra time on the roster."""
    rules = assignment.rules
    if not rules.timed:
        return []
    plain = clock.window(rules, None)
    told = [_example("Begun as it opens", "most students", rules.opens, rules, ExtraTime())]
    if plain.latest_full_begin is not None and plain.latest_full_begin > rules.opens:
        told.append(_example("Begun last, with full time", "", plain.latest_full_begin, rules, ExtraTime()))
    kinds: dict[ExtraTime, list[str]] = defaultdict(list)
    for line in roster:
        extra = terms_for(assignment, line.person_id, line).extra
        if extra != ExtraTime():
            kinds[extra].append(line.person.last_name or line.person.name)
    for extra, names in sorted(kinds.items(), key=lambda kind: (kind[0].factor, kind[0].minutes)):
        said = write_extra_time(extra.factor, extra.minutes)
        whom = ", ".join(sorted(names)[:_MOST_NAMES]) + (
            f" and {len(names) - _MOST_NAMES} more" if len(names) > _MOST_NAMES else ""
        )
        told.append(_example(f"With extra time {said}", whom, rules.opens, rules, extra))
        latest = clock.window(rules, None, extra).latest_full_begin
        if (
            latest is not None
            and plain.latest_full_begin is not None
            and rules.opens < latest < plain.latest_full_begin
        ):
            told[-1].whom += f"; to have all of it, begun by {latest.astimezone(rules.zone):%H:%M}"
    return told


def _example(name: str, whom: str, begins: datetime, rules: clock.Rules, extra: ExtraTime) -> ExampleOut:
    window: Window = clock.window(rules, begins, extra)
    full = timedelta(minutes=(rules.writing_minutes or 0) * extra.factor + extra.minutes)
    full += timedelta(minutes=rules.handover_minutes * (extra.factor if extra.on_handover else 1))
    cut = max(timedelta(0), begins + full - window.closes)
    return ExampleOut(
        name=name, whom=whom, begins=begins, writing_ends=window.writing_ends, closes=window.closes,
        cut_minutes=round(cut / timedelta(minutes=1)),
    )  # fmt: skip


def _cut_extra_time(examples: list[ExampleOut]) -> list[OddOut]:
    return [
        OddOut(field="due", words=f"The due moment cuts {one.cut_minutes} min off for {one.whom}.")
        for one in examples
        if one.cut_minutes and one.name.startswith("With extra time")
    ]  # fmt: skip
