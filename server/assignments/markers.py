"""Who of the course's markers reads what of an assignment."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction

from courses.models import Enrolment
from plumbing.errors import Refused

from .models import Assignment, MarkerScope


@dataclass(frozen=True, slots=True)
class Share:
    """One marker's part of an assignment. No questions are all of them; no sections and no students are everybody's;
    with both, whoever is in one of the sections or is one of the students."""

    reads: bool
    questions: tuple[int, ...] = ()
    sections: tuple[int, ...] = ()
    students: tuple[int, ...] = ()


def share_of(scopes: Sequence[MarkerScope]) -> Share:
    def named(name: str) -> tuple[int, ...]:
        return tuple(sorted({value for scope in scopes if (value := getattr(scope, name)) is not None}))

    return Share(bool(scopes), named("question_id"), named("section_id"), named("student_id"))


@transaction.atomic
def give_share(assignment: Assignment, marker: Enrolment, share: Share) -> None:
    """In the place of what the marker read of it before. Raises Refused (422) for what is not of this assignment."""
    students = Enrolment.objects.filter(course=assignment.course_id, role=Enrolment.Role.STUDENT)
    known = {
        "questions": set(assignment.questions.filter(removed_at=None).values_list("pk", flat=True)),
        "sections": set(assignment.course.sections.values_list("pk", flat=True)),
        "students": set(students.values_list("person", flat=True)),
    }
    for name, have in known.items():
        if not have.issuperset(getattr(share, name)):
            raise Refused(422, "unknown", f"Some of these {name} are gone. Reload the page and choose anew.")
    Enrolment.objects.select_for_update().get(pk=marker.pk)  # two people who give at once: the later one counts
    MarkerScope.objects.filter(assignment=assignment, marker=marker).delete()
    if not share.reads:
        return
    whose = [{"section_id": one} for one in share.sections] + [{"student_id": one} for one in share.students]
    MarkerScope.objects.bulk_create(
        MarkerScope(assignment=assignment, marker=marker, question_id=question, **of)
        for question in (share.questions or (None,))
        for of in (whose or [{}])
    )
