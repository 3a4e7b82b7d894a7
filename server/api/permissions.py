"""Who may see and do what, by role. Every view that names an assignment, a folio, a page or a file asks here first."""

from __future__ import annotations

from typing import cast

from django.db.models import QuerySet
from django.http import HttpRequest

from assignments.models import Assignment
from courses.models import Course, Department, Enrolment
from editions.models import Edition
from folios.models import Folio
from folios.reach import Reach, reach_of
from marking.hiding import hidden_among
from people.models import User
from plumbing.errors import Refused, not_yours
from plumbing.requests import moment

Role = Enrolment.Role
_AS_WHOM = {Role.STUDENT: 0, Role.INSTRUCTOR: 1, Role.MARKER: 2}  # somebody of two roles studies, then teaches


def person(request: HttpRequest) -> User:
    """The signed-in person."""
    return cast(User, request.user)


def member_of(user: User, assignment_id: int) -> tuple[Assignment, Enrolment]:
    """The assignment and this person's line of the roster. Raises Refused (404) for outsiders."""
    assignment = Assignment.objects.select_related("course").filter(pk=assignment_id).first()
    if assignment is None:
        raise not_yours()
    lines = Enrolment.objects.filter(course=assignment.course_id, person=user)
    enrolment = min(lines, key=lambda line: _AS_WHOM[Role(line.role)], default=None)
    if enrolment is None:
        raise not_yours()
    seen = enrolment.role != Role.STUDENT or assignment.is_given_out(moment())
    if not seen and not assignment.folios.filter(student=user).exists():
        raise not_yours()  # a draft is nobody's business yet
    return assignment, enrolment


def student_of(user: User, assignment_id: int, what: str) -> tuple[Assignment, Enrolment]:
    """The same for students. Raises Refused: 404 for outsiders, 403 for others of the course; ``what`` students do."""
    assignment, enrolment = member_of(user, assignment_id)
    if enrolment.role != Role.STUDENT:
        raise Refused(403, "not_a_student", f"Only students of the course {what}.")
    return assignment, enrolment


def paper_given_out(user: User, assignment_id: int) -> Assignment:
    """For what is given out with the question paper: from the opening, for a timed sitting from its beginning. Raises
    Refused: 404 for outsiders, 403 for students who are too early."""
    assignment, enrolment = member_of(user, assignment_id)
    if enrolment.role != Role.STUDENT or assignment.folios.filter(student=user).exists():
        return assignment
    if moment() < assignment.opens:
        raise Refused(403, "not_open", "The question paper is given out when the assignment opens.")
    if assignment.rules.timed:
        raise Refused(403, "not_begun", "The question paper of a timed sitting is given out when you begin.")
    return assignment


def instructor_of(user: User, assignment_id: int) -> Assignment:
    """Raises Refused (404) for everybody but the instructors of the course."""
    assignment = Assignment.objects.select_related("course").filter(pk=assignment_id).first()
    if assignment is None or not teaches(user, assignment.course_id):
        raise not_yours()
    return assignment


def own_folio(user: User, folio_id: int) -> Folio:
    """The student's own folio, for changing it. Raises Refused (404) for all others."""
    folio = _with_course().filter(pk=folio_id, student=user).first()
    if folio is None:
        raise not_yours()
    return folio


def folio_to_read(user: User, folio_id: int) -> tuple[Folio, frozenset[str] | None]:
    """A folio for its student and for who reads it, with the ids of the questions that are read; None is all of it.
    Raises Refused (404) for all others."""
    folio = _with_course().filter(pk=folio_id).first()
    if folio is None:
        raise not_yours()
    if folio.student_id == user.pk:
        return folio, None
    reach = reach_of(user, folio.assignment)
    questions = reach.questions(folio) if reach else frozenset[str]()
    if questions is not None and not questions:
        raise not_yours()
    return folio, questions


def taught_folio(user: User, folio_id: int) -> Folio:
    """A folio for the instructors of its course. Raises Refused (404) for all others."""
    folio = _with_course().filter(pk=folio_id).first()
    if folio is None or not teaches(user, folio.assignment.course_id):
        raise not_yours()
    return folio


def readable_edition(user: User, folio_id: int, number: int) -> Edition:
    """An edition for who reads all of its folio, which comes along. Raises Refused (404) for all others."""
    edition, questions = edition_to_read(user, folio_id, number)
    if questions is not None:
        raise not_yours()
    if hides_names(user, edition.folio):
        raise Refused(403, "names_hidden", "Names are hidden here until the work is given back, and this file has one.")
    return edition


def hides_names(user: User, folio: Folio) -> bool:
    """Whether this reader, a marker, is not to know whose work it is."""
    if folio.student_id == user.pk or not hidden_among([folio], moment()):
        return False
    return not teaches(user, folio.assignment.course_id)


def answer_to_mark(user: User, folio_id: int, number: int, question: str) -> Edition:
    """An edition, for who marks this question of it. Raises Refused (404) for all others, its student too."""
    edition, questions = edition_to_read(user, folio_id, number)
    if edition.folio.student_id == user.pk or (questions is not None and question not in questions):
        raise not_yours()
    return edition


def reader_of(user: User, assignment_id: int) -> tuple[Assignment, Reach]:
    """An assignment for its instructors, and for the markers that read some of it. Raises Refused (404) for others."""
    assignment = Assignment.objects.select_related("course").filter(pk=assignment_id).first()
    reach = reach_of(user, assignment) if assignment else None
    if assignment is None or reach is None:
        raise not_yours()
    return assignment, reach


def edition_to_read(user: User, folio_id: int, number: int) -> tuple[Edition, frozenset[str] | None]:
    """An edition of a folio, which comes along. As `folio_to_read`."""
    folio, questions = folio_to_read(user, folio_id)
    edition = folio.editions.filter(number=number).first()
    if edition is None:
        raise not_yours()
    if edition.taken_back_at is not None and folio.student_id != user.pk:
        raise Refused(404, "taken_back", "The student took this edition back. The record of the sitting says when.")
    edition.folio = folio
    return edition, questions


def taught_course(user: User, course_id: int) -> Course:
    """Raises Refused (404) for everybody but the instructors of the course and its department's administrators."""
    course = Course.objects.select_related("department").filter(pk=course_id).first()
    if course is None or not (teaches(user, course.pk) or administers(user, course)):
        raise not_yours()
    return course


def administered_department(user: User, department_id: int) -> Department:
    """Raises Refused (404) for everybody but its administrators and those of the installation."""
    department = Department.objects.filter(pk=department_id).first()
    if department is None or not (user.is_superuser or department.administrators.filter(pk=user.pk).exists()):
        raise not_yours()
    return department


def administers(user: User, course: Course) -> bool:
    if user.is_superuser:
        return True
    return course.department is not None and course.department.administrators.filter(pk=user.pk).exists()


def may_begin_courses(user: User) -> bool:
    """Who teaches already, or administers a department or this installation."""
    if user.is_superuser or user.administered_departments.exists():
        return True
    return Enrolment.objects.filter(person=user, role=Role.INSTRUCTOR).exists()


def teaches(user: User, course_id: int) -> bool:
    return Enrolment.objects.filter(course=course_id, person=user, role=Role.INSTRUCTOR).exists()


def _with_course() -> QuerySet[Folio]:
    return Folio.objects.select_related("assignment__course", "student")
