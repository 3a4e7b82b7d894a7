"""A course as those who teach it see it: its facts, its assignments, and the code to join by."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Literal

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.db.models import Count, Q
from django.http import HttpRequest
from ninja import Field, Router, Schema

from courses import joining
from courses.models import Course, Department, Enrolment, PaperSize
from plumbing.errors import Problem, Refused
from plumbing.qr_codes import qr_modules
from plumbing.requests import address_of, moment

from .permissions import Role, administered_department, may_begin_courses, person, taught_course, teaches

router = Router(tags=["courses"])
_CODE_LASTS = timedelta(days=28)


class CourseFacts(Schema):
    """What an instructor writes of a course."""

    code: str = Field(min_length=1, max_length=32)
    title: str = Field(min_length=1, max_length=200)
    term: str = Field("", max_length=40)
    time_zone: str = Field(max_length=64)
    place: str = Field("", max_length=80)
    paper_size: Literal["A4", "LETTER"] = "A4"
    proposes: bool = True
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
    asks: bool


class WaitingOut(Schema):
    """Somebody who joined by the code and waits to be let in."""

    id: int
    name: str
    number: str
    email: str
    asked_at: datetime


class JoinCodeIn(Schema):
    """``asks``: who joins by it waits until an instructor lets them in."""

    asks: bool = False


class JoinAnswerIn(Schema):
    let_in: bool


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
    waiting: list[WaitingOut]


class CourseLineOut(Schema):
    """In the list of courses one teaches."""

    id: int
    code: str
    title: str
    term: str
    students: int


class DepartmentLine(Schema):
    id: int
    code: str
    title: str


class MyCoursesOut(Schema):
    """``departments``: those one administers."""

    courses: list[CourseLineOut]
    may_begin: bool
    departments: list[DepartmentLine]


class NewCourseIn(CourseFacts):
    department_id: int | None = None


class Made(Schema):
    id: int


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
        departments=[DepartmentLine.from_orm(one) for one in departments.order_by("code")],
    )


@router.post("/courses", response={201: Made, 403: Problem, 422: Problem})
def begin_course(request: HttpRequest, body: NewCourseIn) -> tuple[int, Made]:
    """Whoever begins a course teaches it; in a department its administrators begin it for others."""
    user = person(request)
    if not may_begin_courses(user):
        raise Refused(403, "not_allowed", "Courses are begun by those who teach already and by administrators.")
    department = None if body.department_id is None else administered_department(user, body.department_id)
    with transaction.atomic():
        course = _saved(Course(department=department), body)
        if department is None:
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
        value = getattr(facts, name)
        setattr(course, name, value.strip() if isinstance(value, str) else value)
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
        waiting=[
            WaitingOut(
                id=one.pk, name=one.person.name, number=one.person.number, email=one.person.email, asked_at=one.asked_at
            )
            for one in course.join_requests.select_related("person")
        ],
    )  # fmt: skip


def _join_out(request: HttpRequest, course: Course, now: datetime) -> JoinCodeOut | None:
    if not course.join_code or course.join_until is None or course.join_until <= now:
        return None
    address = f"{address_of(request)}/join/{course.join_code}"
    return JoinCodeOut(
        code=course.join_code, until=course.join_until, address=address, modules=qr_modules(address),
        asks=course.join_asks,
    )  # fmt: skip


@router.post("/courses/{int:course_id}/join-code", response={200: JoinCodeOut, 404: Problem})
def make_join_code(request: HttpRequest, course_id: int, body: JoinCodeIn) -> JoinCodeOut | None:
    """A new one; the one before is good for nothing from then on."""
    course, now = taught_course(person(request), course_id), moment()
    joining.new_code(course, now + _CODE_LASTS, asks=body.asks)
    return _join_out(request, course, now)


@router.delete("/courses/{int:course_id}/join-code", response={204: None, 404: Problem})
def end_join_code(request: HttpRequest, course_id: int) -> tuple[int, None]:
    joining.end_code(taught_course(person(request), course_id))
    return 204, None


@router.post("/courses/{int:course_id}/join-requests/{int:request_id}", response={200: CourseOut, 404: Problem})
def answer_join_request(request: HttpRequest, course_id: int, request_id: int, body: JoinAnswerIn) -> CourseOut:
    """Let in, or turned away. Answered already is answered."""
    course = taught_course(person(request), course_id)
    asked = course.join_requests.select_related("course", "person").filter(pk=request_id).first()
    if asked is not None:
        joining.answer(asked, let_in=body.let_in)
    return _course_out(request, course)
