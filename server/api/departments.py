"""A department as its administrators see it: its courses, the people in them, and who administers it."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Prefetch, Q
from django.http import HttpRequest
from ninja import Field, Router, Schema

from courses.models import Course, Department, Enrolment
from people.models import User
from plumbing.errors import Problem, Refused

from .permissions import Role, administered_department, person

router = Router(tags=["departments"])
_MOST_PEOPLE = 50
_LEAST_LETTERS = 2


class AdministratorOut(Schema):
    id: int
    name: str
    email: str


class DepartmentCourse(Schema):
    """``instructors``: by name; none is a course that nobody sets up work for yet."""

    id: int
    code: str
    title: str
    term: str
    students: int
    markers: int
    instructors: list[str]


class DepartmentOut(Schema):
    id: int
    code: str
    title: str
    courses: list[DepartmentCourse]
    administrators: list[AdministratorOut]


class AdministratorIn(Schema):
    email: str = Field(max_length=254)


class RoleInCourse(Schema):
    course_id: int
    course: str
    role: Role


class DepartmentPerson(Schema):
    """``roles``: in the courses of this department; what they are elsewhere is not its business."""

    id: int
    name: str
    number: str
    email: str
    roles: list[RoleInCourse]


class FoundPeople(Schema):
    """``more``: how many others the words fit."""

    people: list[DepartmentPerson]
    more: int


@router.get("/departments/{int:department_id}", response={200: DepartmentOut, 404: Problem})
def department(request: HttpRequest, department_id: int) -> DepartmentOut:
    return _out(administered_department(person(request), department_id))


def _out(one: Department) -> DepartmentOut:
    roster = Prefetch("roster", Enrolment.objects.select_related("person").order_by("person__last_name"))
    return DepartmentOut(
        id=one.pk, code=one.code, title=one.title,
        courses=[_course_out(course) for course in one.courses.prefetch_related(roster).order_by("code")],
        administrators=[
            AdministratorOut(id=user.pk, name=user.name, email=user.email)
            for user in one.administrators.order_by("last_name", "first_name", "pk")
        ],
    )  # fmt: skip


def _course_out(course: Course) -> DepartmentCourse:
    lines = list(course.roster.all())
    return DepartmentCourse(
        id=course.pk, code=course.code, title=course.title, term=course.term,
        students=sum(line.role == Role.STUDENT for line in lines),
        markers=sum(line.role == Role.MARKER for line in lines),
        instructors=[line.person.name for line in lines if line.role == Role.INSTRUCTOR],
    )  # fmt: skip


@router.get("/departments/{int:department_id}/people", response={200: FoundPeople, 404: Problem})
def department_people(request: HttpRequest, department_id: int, words: str = "") -> FoundPeople:
    """People of its courses whose name, number or mail address holds each of the words."""
    one = administered_department(person(request), department_id)
    wanted = words.split()[:6]
    if sum(map(len, wanted)) < _LEAST_LETTERS:
        return FoundPeople(people=[], more=0)
    found = User.objects.filter(enrolments__course__department=one)
    for word in wanted:
        found = found.filter(
            Q(first_name__icontains=word)
            | Q(last_name__icontains=word)
            | Q(number__icontains=word)
            | Q(email__icontains=word)
        )
    found = found.distinct()
    lines = Prefetch(
        "enrolments",
        Enrolment.objects.filter(course__department=one).select_related("course").order_by("course__code"),
        to_attr="here",
    )
    shown = found.order_by("last_name", "first_name", "pk").prefetch_related(lines)[:_MOST_PEOPLE]
    people = [
        DepartmentPerson(
            id=user.pk, name=user.name, number=user.number, email=user.email,
            roles=[
                RoleInCourse(course_id=line.course_id, course=line.course.code, role=Role(line.role))
                for line in user.here  # type: ignore[attr-defined]
            ],
        )
        for user in shown
    ]  # fmt: skip
    return FoundPeople(people=people, more=max(0, found.count() - len(people)))


@router.post(
    "/departments/{int:department_id}/administrators", response={200: DepartmentOut, 404: Problem, 422: Problem}
)
def add_administrator(request: HttpRequest, department_id: int, body: AdministratorIn) -> DepartmentOut:
    """Somebody who has an account here already; twice is once."""
    one = administered_department(person(request), department_id)
    user = User.objects.filter(email=body.email.strip().lower(), is_active=True).first()
    if user is None:
        raise Refused(
            422, "field:email", "Nobody here has this mail address. Add them to the roster of a course first."
        )
    one.administrators.add(user)
    return _out(one)


@router.delete(
    "/departments/{int:department_id}/administrators/{int:person_id}",
    response={200: DepartmentOut, 404: Problem, 409: Problem},
)
def remove_administrator(request: HttpRequest, department_id: int, person_id: int) -> DepartmentOut:
    """Raises Refused (409) for the last one: the department would be nobody's."""
    one = administered_department(person(request), department_id)
    with transaction.atomic():
        one = Department.objects.select_for_update().get(pk=one.pk)  # two who take away each other leave one
        if one.administrators.exclude(pk=person_id).count() == 0:
            raise Refused(409, "last_one", "A department keeps one administrator at least. Name another one first.")
        one.administrators.remove(person_id)
    return _out(one)
