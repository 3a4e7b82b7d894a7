"""The people of a course: its roster line by line, from a file and back to one, and invitations by mail."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Mapping

from django.db import transaction
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from courses import roster
from courses.models import Course, Enrolment
from folio_core.page import run_limited
from folio_core.roster import (
    ZIP_HEAD,
    Column,
    Person,
    Roster,
    RosterError,
    Table,
    guess_columns,
    oneroster,
    read_extra_time,
    read_people,
    read_table,
    write_extra_time,
    write_oneroster,
    write_roster,
)
from notices import outbox
from people import passwords
from people.models import User
from plumbing.decoding import limits
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import address_of, moment

from .permissions import Role, person, taught_course

router = Router(tags=["roster"])
_LETTER = """{name},

you are on the roster of {course}. Work for it is handed in with Inked Folio.

Set your password here; the link is good once, for three days:
{address}

After that, ask for another one at {base}/password with this mail address.
"""


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


@router.get("/courses/{int:course_id}/people", response={200: list[PersonOut], 404: Problem})
def people(request: HttpRequest, course_id: int) -> list[PersonOut]:
    """By family name; the screen sorts as its language does."""
    course = taught_course(person(request), course_id)
    begun = Count("person__folios", Q(person__folios__assignment__course=course), distinct=True)
    lines = course.roster.select_related("person", "section").annotate(begun=begun)
    return [_person_out(line) for line in lines.order_by("person__last_name", "person__first_name", "pk")]


def _line_of(request: HttpRequest, course_id: int, line_id: int) -> Enrolment:
    """Raises Refused (404) for a line of another course's roster, and for who does not teach this one."""
    course = taught_course(person(request), course_id)
    line = course.roster.select_related("person", "course").filter(pk=line_id).first()
    if line is None:
        raise not_yours()
    return line


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
    cells = tuple(" ".join(getattr(body, column).split()) for column in _BY_HAND)
    columns = {column: at for at, column in enumerate(_BY_HAND)}
    read = read_people(Table((), ((1, cells),), "", ""), columns)
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
    line = _line_of(request, course_id, line_id)
    try:
        factor, minutes = read_extra_time(body.extra_time)
    except ValueError as error:
        raise Refused(422, "field:extra_time", str(error)) from error
    with transaction.atomic():
        name = " ".join(body.section.split())
        line.section = line.course.sections.get_or_create(name=name)[0] if name else None
        line.extra_factor, line.extra_minutes = factor, minutes
        line.extra_on_handover, line.extra_on_due = body.extra_on_handover, body.extra_on_due
        line.extra_reason = body.extra_reason.strip()
        line.save()
    return _person_out(line)


@router.delete("/courses/{int:course_id}/people/{int:line_id}", response={204: None, 404: Problem, 409: Problem})
def remove_person(request: HttpRequest, course_id: int, line_id: int) -> tuple[int, None]:
    """Off the roster; what was begun is kept, and stays in the list of folios."""
    roster.remove_line(_line_of(request, course_id, line_id))
    return 204, None


@router.post("/courses/{int:course_id}/roster/read", response={200: RosterReadOut, 404: Problem, 422: Problem})
def read_roster(request: HttpRequest, course_id: int, body: RosterFileIn) -> RosterReadOut:
    """Nothing is written."""
    course = taught_course(person(request), course_id)
    table, columns, read = _read(body)
    told = roster.compare(course, read.people)
    begun = dict(
        course.roster.filter(pk__in=[line.pk for line in told.missing], person__folios__assignment__course=course)
        .values_list("pk")
        .annotate(Count("person__folios"))
    )
    bad = sorted([*read.bad, *told.refused], key=lambda row: row.line)
    return RosterReadOut(
        columns=dict(columns), header=list(table.header), sample=[list(cells) for _, cells in table.rows[:5]],
        encoding=table.encoding, separator=table.separator, added=[_change_out(one) for one in told.added],
        changed=[_change_out(one) for one in told.changed], same=told.same,
        bad=[BadRowOut(line=row.line, text=row.text, reason=row.reason) for row in bad],
        missing=[
            MissingOut(id=line.pk, name=line.person.name, email=line.person.email, begun=begun.get(line.pk, 0))
            for line in told.missing
        ],
    )  # fmt: skip


def _read(body: RosterFileIn) -> tuple[Table, Mapping[Column, int], Roster]:
    """The file, where each column stands, and its people. Raises Refused (422)."""
    try:
        data = base64.b64decode(body.data, validate=True)
        table = _unpacked(data) if data.startswith(ZIP_HEAD) else read_table(data)
    except binascii.Error as error:
        raise Refused(422, "bad_request", "This file did not come whole. Choose it again.") from error
    except RosterError as error:
        raise Refused(422, "no_roster", str(error)) from error
    columns = guess_columns(table) if body.columns is None else body.columns
    return table, columns, read_people(table, columns)


def _unpacked(data: bytes) -> Table:
    """What was packed is unpacked in a limited child. Raises RosterError, or PageError of the child."""
    read = run_limited(oneroster.opened, data, limits=limits())
    if isinstance(read, str):
        raise RosterError(read)
    return read


def _change_out(change: roster.Change) -> ChangeOut:
    one = change.person
    name = f"{one.given_name} {one.family_name}".strip()
    return ChangeOut(line=one.line, name=name, email=one.email, role=Role(one.role), words=list(change.words))


@router.post("/courses/{int:course_id}/roster", response={200: TakenInOut, 404: Problem, 422: Problem})
def take_roster(request: HttpRequest, course_id: int, body: RosterTakeIn) -> TakenInOut:
    """Take a file in: adds and changes, and removes only who is named. Bad rows are left out."""
    course = taught_course(person(request), course_id)
    _, _, read = _read(body)
    return _taken_out(request, course, roster.take_in(course, read.people, remove=body.remove), body.invite)


def _taken_out(request: HttpRequest, course: Course, taken: roster.TakenIn, invite: bool) -> TakenInOut:
    invited = taken.new_people if invite else []
    for user in invited:
        _invite(request, course, user)
    return TakenInOut(added=taken.added, changed=taken.changed, removed=taken.removed, invited=len(invited))


def _invite(request: HttpRequest, course: Course, user: User) -> None:
    base = address_of(request)
    text = _LETTER.format(name=user.name, course=course, address=f"{base}{passwords.link_path(user)}", base=base)
    outbox.post(user.email, f"{course.code}: set your password for Inked Folio", text, moment(), secret=True)


@router.post("/courses/{int:course_id}/people/{int:line_id}/invite", response={204: None, 404: Problem, 409: Problem})
def invite_again(request: HttpRequest, course_id: int, line_id: int) -> tuple[int, None]:
    """Raises Refused (409) for somebody who has a password: they ask for a link themselves."""
    line = _line_of(request, course_id, line_id)
    if line.person.has_usable_password() or not passwords.may_be_asked_again(line.person, moment()):
        raise Refused(409, "not_needed", "They have a password, or a link went to them a moment ago.")
    _invite(request, line.course, line.person)
    return 204, None


@router.get("/courses/{int:course_id}/roster.csv", response={200: None, 404: Problem})
def roster_file(request: HttpRequest, course_id: int) -> HttpResponse:
    """As it can be taken in again."""
    course = taught_course(person(request), course_id)
    return _file(write_roster(_as_people(course)), "roster.csv", "text/csv; charset=utf-8")


@router.get("/courses/{int:course_id}/roster.zip", response={200: None, 404: Problem})
def roster_oneroster(request: HttpRequest, course_id: int) -> HttpResponse:
    """As OneRoster 1.2 CSV."""
    course = taught_course(person(request), course_id)
    data = write_oneroster(course.code, course.title, _as_people(course))
    return _file(data, "roster-oneroster.zip", "application/zip")


def _as_people(course: Course) -> list[Person]:
    lines = course.roster.select_related("person", "section").order_by(
        "role", "person__last_name", "person__first_name"
    )
    return [
        Person(
            0, line.person.first_name, line.person.last_name, line.person.number, line.person.email,
            line.section.name if line.section else "", line.role, line.extra_factor, line.extra_minutes,  # type: ignore[arg-type]
        )
        for line in lines
    ]  # fmt: skip


def _file(data: bytes | str, name: str, kind: str) -> HttpResponse:
    answer = HttpResponse(data, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    answer["X-Content-Type-Options"] = "nosniff"
    return answer
