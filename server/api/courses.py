"""A course as those who teach it see it: its facts, its people, its assignments, and the code to join by."""

from __future__ import annotations

import base64
import binascii
from datetime import datetime, timedelta
from typing import Literal

import segno
from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from courses import joining, roster
from courses.models import Course, Department, Enrolment, PaperSize
from folio_core.clock import ExtraTime
from folio_core.roster import Column, Person, RosterError, guess_columns, read_people, read_table, write_roster
from folio_core.roster.people import read_extra_time, write_extra_time
from notices import outbox
from people import passwords
from people.models import User
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import moment

from .permissions import Role, may_begin_courses, person, taught_course, teaches

router = Router(tags=["courses"])
_CODE_LASTS = timedelta(days=28)
_LETTER = """{name},

you are on the roster of {course}. Work for it is handed in with Inked Folio.

Set your password here; the link is good once, for three days:
{address}

After that, ask for another one at {base}/password with this mail address.
"""


class CourseFacts(Schema):
    """What an instructor writes of a course."""

    code: str = Field(min_length=1, max_length=32)
    title: str = Field(min_length=1, max_length=200)
    term: str = Field("", max_length=40)
    time_zone: str = Field(max_length=64)
    place: str = Field("", max_length=80)
    paper_size: Literal["A4", "LETTER"] = "A4"
    contact_name: str = Field("", max_length=120)
    contact_email: str = Field("", max_length=254)
    contact_note: str = Field("", max_length=200)


class CourseIn(CourseFacts):
    version: int


class WorkOut(Schema):
    """An assignment in the list of its course."""

    id: int
    title: str
    opens: datetime
    due: datetime
    writing_minutes: int | None
    given_out_at: datetime | None
    questions: int
    begun: int
    handed_in: int


class JoinCodeOut(Schema):
    """``modules``: of the address as a QR code, row by row, a 1 for each dark one."""

    code: str
    modules: list[str]
    until: datetime
    address: str


class CourseOut(CourseFacts):
    """``teaches``: else one only administers it, and its work is its instructors'."""

    id: int
    version: int
    now: datetime
    students: int
    staff: int
    sections: list[str]
    teaches: bool
    work: list[WorkOut]
    join: JoinCodeOut | None


class CourseLineOut(Schema):
    """In the list of courses one teaches."""

    id: int
    code: str
    title: str
    term: str
    students: int


class MyCoursesOut(Schema):
    courses: list[CourseLineOut]
    may_begin: bool
    departments: list[str]


class NewCourseIn(CourseFacts):
    department: str = ""


class Made(Schema):
    id: int


class PersonOut(Schema):
    """A line of the roster. ``extra_time``: as it is written, "×1.25 + 10 min". ``begun``: folios of this course."""

    id: int
    given_name: str
    family_name: str
    number: str
    email: str
    section: str
    role: Role
    extra_time: str
    extra_on_handover: bool
    extra_on_due: bool
    extra_reason: str
    can_sign_in: bool
    begun: int


class PersonIn(Schema):
    """By hand: who, as on a line of the file."""

    given_name: str = Field("", max_length=150)
    family_name: str = Field("", max_length=150)
    number: str = Field("", max_length=32)
    email: str = Field(max_length=254)
    section: str = Field("", max_length=40)
    role: Role = Role.STUDENT
    invite: bool = True


class LineIn(Schema):
    section: str = Field("", max_length=40)
    extra_time: str = Field("", max_length=60)
    extra_on_handover: bool = False
    extra_on_due: bool = False
    extra_reason: str = Field("", max_length=200)


class RosterFileIn(Schema):
    """``data``: the file's bytes, base64. ``columns``: where each stands, from 0; without them they are guessed."""

    data: str = Field(max_length=1_900_000)
    columns: dict[Column, int] | None = None


class BadRowOut(Schema):
    line: int
    text: str
    reason: str


class ChangeOut(Schema):
    line: int
    name: str
    email: str
    role: Role
    words: list[str]


class MissingOut(Schema):
    id: int
    name: str
    email: str
    begun: int


class RosterReadOut(Schema):
    """What a file says and what taking it in would do. ``sample``: its first rows, cell by cell."""

    columns: dict[Column, int]
    header: list[str]
    sample: list[list[str]]
    encoding: str
    separator: str
    added: list[ChangeOut]
    changed: list[ChangeOut]
    same: int
    bad: list[BadRowOut]
    missing: list[MissingOut]


class RosterTakeIn(RosterFileIn):
    """``remove``: ids of roster lines that the file does not name and that are to go."""

    remove: list[int] = Field([], max_length=20_000)
    invite: bool = False


class TakenInOut(Schema):
    added: int
    changed: int
    removed: int
    invited: int


@router.get("/courses", response=MyCoursesOut)
def my_courses(request: HttpRequest) -> MyCoursesOut:
    user = person(request)
    departments = Department.objects.all() if user.is_superuser else user.administered_departments.all()
    mine = Q(roster__person=user, roster__role=Role.INSTRUCTOR) | Q(department__in=departments)
    taught = Course.objects.filter(Q() if user.is_superuser else mine)
    counted = taught.distinct().annotate(students=Count("roster", Q(roster__role=Role.STUDENT), distinct=True))
    # Joined with the person's own line, so the students are counted in their own query.
    students = dict(
        Enrolment.objects.filter(course__in=taught, role=Role.STUDENT).values_list("course").annotate(Count("pk"))
    )
    return MyCoursesOut(
        courses=[
            CourseLineOut(id=one.pk, code=one.code, title=one.title, term=one.term, students=students.get(one.pk, 0))
            for one in counted.order_by("code")
        ],
        may_begin=may_begin_courses(user),
        departments=[one.code for one in departments.order_by("code")],
    )


@router.post("/courses", response={201: Made, 403: Problem, 422: Problem})
def begin_course(request: HttpRequest, body: NewCourseIn) -> tuple[int, Made]:
    """Whoever begins a course teaches it."""
    user = person(request)
    if not may_begin_courses(user):
        raise Refused(403, "not_allowed", "Courses are begun by those who teach already and by administrators.")
    department = Department.objects.filter(code=body.department).first() if body.department else None
    with transaction.atomic():
        course = _saved(Course(department=department), body)
        Enrolment.objects.create(course=course, person=user, role=Role.INSTRUCTOR)
    return 201, Made(id=course.pk)


@router.get("/courses/{int:course_id}", response={200: CourseOut, 404: Problem})
def one_course(request: HttpRequest, course_id: int) -> CourseOut:
    return _course_out(request, taught_course(person(request), course_id))


@router.put("/courses/{int:course_id}", response={200: CourseOut, 404: Problem, 409: Problem, 422: Problem})
def change_course(request: HttpRequest, course_id: int, body: CourseIn) -> CourseOut:
    taught_course(person(request), course_id)
    with transaction.atomic():
        course = Course.objects.select_for_update().get(pk=course_id)
        if course.version != body.version:
            raise Refused(409, "stale", "Somebody else changed this course meanwhile. Reload it, then change it again.")
        course.version += 1
        _saved(course, body)
    return _course_out(request, course)


def _saved(course: Course, facts: CourseFacts) -> Course:
    """Raises Refused (422), with the field before the colon."""
    for name in CourseFacts.model_fields:
        setattr(course, name, getattr(facts, name).strip())
    course.paper_size = PaperSize(facts.paper_size)
    try:
        course.full_clean()
        course.save()
    except ValidationError as error:
        field, messages = next(iter(error.message_dict.items()))
        taken = Course.objects.filter(code__iexact=course.code).exclude(pk=course.pk).exists()
        words = f"There is a course {course.code} already." if taken else messages[0]
        raise Refused(422, f"field:{'code' if taken else field}", words) from error
    except IntegrityError as error:
        raise Refused(422, "field:code", f"There is a course {course.code} already.") from error
    return course


def _course_out(request: HttpRequest, course: Course) -> CourseOut:
    now = moment()
    roles = dict(course.roster.values_list("role").annotate(Count("pk")))
    work = (
        course.assignments.filter(rehearsal_of=None)
        .annotate(
            question_count=Count("questions", Q(questions__removed_at=None), distinct=True),
            begun=Count("folios", distinct=True),
            handed_in=Count("folios", Q(folios__editions__isnull=False), distinct=True),
        )
        .order_by("due", "pk")
    )
    return CourseOut(
        **{name: getattr(course, name) for name in CourseFacts.model_fields},
        id=course.pk, version=course.version, now=now, students=roles.get(Role.STUDENT, 0),
        staff=sum(roles.values()) - roles.get(Role.STUDENT, 0),
        teaches=teaches(person(request), course.pk),
        sections=[section.name for section in course.sections.all()],
        work=[
            WorkOut(
                id=one.pk, title=one.title, opens=one.opens, due=one.due, writing_minutes=one.writing_minutes,
                given_out_at=one.given_out_at, questions=one.question_count, begun=one.begun, handed_in=one.handed_in,
            )
            for one in work
        ],
        join=_join_out(request, course, now),
    )  # fmt: skip


def _join_out(request: HttpRequest, course: Course, now: datetime) -> JoinCodeOut | None:
    if not course.join_code or course.join_until is None or course.join_until <= now:
        return None
    address = f"{_base(request)}/join/{course.join_code}"
    code = segno.make_qr(address, error="m")
    modules = ["".join("1" if dark else "0" for dark in row) for row in code.matrix_iter(border=0)]
    return JoinCodeOut(code=course.join_code, until=course.join_until, address=address, modules=modules)


def _base(request: HttpRequest) -> str:
    return str(settings.FOLIO_ADDRESS or request.build_absolute_uri("/").rstrip("/"))


@router.post("/courses/{int:course_id}/join-code", response={200: JoinCodeOut, 404: Problem})
def make_join_code(request: HttpRequest, course_id: int) -> JoinCodeOut | None:
    """A new one; the one before is good for nothing from then on."""
    course, now = taught_course(person(request), course_id), moment()
    joining.new_code(course, now + _CODE_LASTS)
    return _join_out(request, course, now)


@router.delete("/courses/{int:course_id}/join-code", response={204: None, 404: Problem})
def end_join_code(request: HttpRequest, course_id: int) -> tuple[int, None]:
    joining.end_code(taught_course(person(request), course_id))
    return 204, None


@router.get("/courses/{int:course_id}/people", response={200: list[PersonOut], 404: Problem})
def people(request: HttpRequest, course_id: int) -> list[PersonOut]:
    """By family name; the screen sorts as its language does."""
    course = taught_course(person(request), course_id)
    begun = Count("person__folios", Q(person__folios__assignment__course=course), distinct=True)
    lines = course.roster.select_related("person", "section").annotate(begun=begun)
    return [_person_out(line) for line in lines.order_by("person__last_name", "person__first_name", "pk")]


def _person_out(line: Enrolment) -> PersonOut:
    user = line.person
    return PersonOut(
        id=line.pk, given_name=user.first_name, family_name=user.last_name, number=user.number, email=user.email,
        section=line.section.name if line.section else "", role=Role(line.role),
        extra_time=write_extra_time(line.extra_factor, line.extra_minutes),
        extra_on_handover=line.extra_on_handover, extra_on_due=line.extra_on_due, extra_reason=line.extra_reason,
        can_sign_in=user.has_usable_password(), begun=getattr(line, "begun", 0),
    )  # fmt: skip


@router.post("/courses/{int:course_id}/people", response={201: TakenInOut, 404: Problem, 422: Problem})
def add_person(request: HttpRequest, course_id: int, body: PersonIn) -> tuple[int, TakenInOut]:
    """By hand. Somebody who is known by mail address is matched, never doubled."""
    course = taught_course(person(request), course_id)
    cells = (body.given_name, body.family_name, body.number, body.email, body.section, body.role.value)
    table = read_table(write_roster([Person(1, *cells[:4], cells[4], body.role.value, None, None)]))  # type: ignore[arg-type]
    read = read_people(table, {name: at for at, name in enumerate(_BY_HAND)})
    if read.bad:
        raise Refused(422, "bad_person", read.bad[0].reason)
    taken = roster.take_in(course, read.people)
    if taken.refused:
        raise Refused(422, "bad_person", taken.refused[0].reason)
    return 201, _taken_out(request, course, taken, body.invite)


_BY_HAND = (Column.GIVEN, Column.FAMILY, Column.NUMBER, Column.EMAIL, Column.SECTION, Column.ROLE)


@router.put("/courses/{int:course_id}/people/{int:line_id}", response={200: PersonOut, 404: Problem, 422: Problem})
def change_person(request: HttpRequest, course_id: int, line_id: int, body: LineIn) -> PersonOut:
    """Section and extra time. Work that is begun hears of it where it gains by it."""
    course = taught_course(person(request), course_id)
    try:
        factor, minutes = read_extra_time(body.extra_time)
        ExtraTime(factor, minutes)
    except ValueError as error:
        raise Refused(422, "field:extra_time", str(error)) from error
    with transaction.atomic():
        line = course.roster.select_related("person").select_for_update(of=("self",)).filter(pk=line_id).first()
        if line is None:
            raise not_yours()
        name = " ".join(body.section.split())
        line.section = course.sections.get_or_create(name=name)[0] if name else None
        line.extra_factor, line.extra_minutes = factor, minutes
        line.extra_on_handover, line.extra_on_due = body.extra_on_handover, body.extra_on_due
        line.extra_reason = body.extra_reason.strip()
        line.save()
    return _person_out(line)


@router.delete("/courses/{int:course_id}/people/{int:line_id}", response={204: None, 404: Problem, 409: Problem})
def remove_person(request: HttpRequest, course_id: int, line_id: int) -> tuple[int, None]:
    """Off the roster; what was begun is kept, and stays in the list of folios."""
    line = taught_course(person(request), course_id).roster.filter(pk=line_id).first()
    if line is None:
        raise not_yours()
    roster.remove_line(line)
    return 204, None


@router.post("/courses/{int:course_id}/roster/read", response={200: RosterReadOut, 404: Problem, 422: Problem})
def read_roster(request: HttpRequest, course_id: int, body: RosterFileIn) -> RosterReadOut:
    """Nothing is written."""
    course = taught_course(person(request), course_id)
    try:
        table = read_table(_bytes_of(body))
    except RosterError as error:
        raise Refused(422, "no_roster", str(error)) from error
    columns = guess_columns(table) if body.columns is None else body.columns
    read = read_people(table, columns)
    told = roster.compare(course, read.people)
    begun = dict(
        course.roster.filter(pk__in=[line.pk for line in told.missing], person__folios__assignment__course=course)
        .values_list("pk")
        .annotate(Count("person__folios"))
    )
    bad = sorted([*read.bad, *told.refused], key=lambda row: row.line)
    return RosterReadOut(
        columns=columns, header=list(table.header), sample=[list(cells) for _, cells in table.rows[:5]],
        encoding=table.encoding, separator=table.separator, added=[_change_out(one) for one in told.added],
        changed=[_change_out(one) for one in told.changed], same=told.same,
        bad=[BadRowOut(line=row.line, text=row.text, reason=row.reason) for row in bad],
        missing=[
            MissingOut(id=line.pk, name=line.person.name, email=line.person.email, begun=begun.get(line.pk, 0))
            for line in told.missing
        ],
    )  # fmt: skip


def _bytes_of(body: RosterFileIn) -> bytes:
    try:
        return base64.b64decode(body.data, validate=True)
    except binascii.Error as error:
        raise Refused(422, "bad_request", "This file did not come whole. Choose it again.") from error


def _change_out(change: roster.Change) -> ChangeOut:
    one = change.person
    name = f"{one.given_name} {one.family_name}".strip()
    return ChangeOut(line=one.line, name=name, email=one.email, role=Role(one.role), words=list(change.words))


@router.post("/courses/{int:course_id}/roster", response={200: TakenInOut, 404: Problem, 422: Problem})
def take_roster(request: HttpRequest, course_id: int, body: RosterTakeIn) -> TakenInOut:
    """Take a file in: adds and changes, and removes only who is named. Bad rows are left out."""
    course = taught_course(person(request), course_id)
    try:
        table = read_table(_bytes_of(body))
    except RosterError as error:
        raise Refused(422, "no_roster", str(error)) from error
    read = read_people(table, guess_columns(table) if body.columns is None else body.columns)
    return _taken_out(request, course, roster.take_in(course, read.people, remove=body.remove), body.invite)


def _taken_out(request: HttpRequest, course: Course, taken: roster.TakenIn, invite: bool) -> TakenInOut:
    invited = taken.new_people if invite else []
    for user in invited:
        _invite(request, course, user)
    return TakenInOut(added=taken.added, changed=taken.changed, removed=taken.removed, invited=len(invited))


def _invite(request: HttpRequest, course: Course, user: User) -> None:
    base = _base(request)
    text = _LETTER.format(name=user.name, course=course, address=f"{base}{passwords.link_path(user)}", base=base)
    outbox.post(user.email, f"{course.code}: set your password for Inked Folio", text, moment(), secret=True)


@router.post("/courses/{int:course_id}/people/{int:line_id}/invite", response={204: None, 404: Problem, 409: Problem})
def invite_again(request: HttpRequest, course_id: int, line_id: int) -> tuple[int, None]:
    """Raises Refused (409) for somebody who has a password: they ask for a link themselves."""
    course = taught_course(person(request), course_id)
    line = course.roster.select_related("person").filter(pk=line_id).first()
    if line is None:
        raise not_yours()
    if line.person.has_usable_password() or not passwords.may_be_asked_again(line.person, moment()):
        raise Refused(409, "not_needed", "They have a password, or a link went to them a moment ago.")
    _invite(request, course, line.person)
    return 204, None


@router.get("/courses/{int:course_id}/roster.csv", response={200: None, 404: Problem})
def roster_file(request: HttpRequest, course_id: int) -> HttpResponse:
    """As it can be taken in again."""
    course = taught_course(person(request), course_id)
    lines = course.roster.select_related("person", "section").order_by(
        "role", "person__last_name", "person__first_name"
    )
    people = [
        Person(
            0, line.person.first_name, line.person.last_name, line.person.number, line.person.email,
            line.section.name if line.section else "", line.role, line.extra_factor, line.extra_minutes,  # type: ignore[arg-type]
        )
        for line in lines
    ]  # fmt: skip
    answer = HttpResponse(write_roster(people), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="roster.csv"'
    answer["X-Content-Type-Options"] = "nosniff"
    return answer
