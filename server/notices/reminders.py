"""What nobody does and time brings: work given out, opening, and due."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.db.models import Q

from assignments.models import Assignment
from courses.models import Enrolment
from folios.beginning import window_of
from folios.models import Folio

from .kinds import Kind
from .notifying import Told, notify

_SOON = timedelta(days=1)
_LATELY = timedelta(hours=6)  # what was given out longer ago is not told of any more: a worker stood still, say


def remind(now: datetime) -> None:
    for assignment in Assignment.objects.filter(rehearsal_of=None).filter(_near(now)).select_related("course"):
        students = _students(assignment)
        folios = {one.student_id: one for one in assignment.folios.all()}
        if assignment.given_out_at is not None and now - _LATELY <= assignment.given_out_at <= now:
            notify([line.person for line in students], _given_out(assignment), now)
        if not assignment.is_given_out(now):
            continue
        if assignment.rules.timed and now < assignment.opens <= now + _SOON:
            notify([line.person for line in students], _opening(assignment), now)
        for line in _due_soon(assignment, students, folios, now):
            notify([line.person], _closing(assignment, line, folios.get(line.person_id)), now)


def _near(now: datetime) -> Q:
    """With personal terms the due moment may be another one: a week to both sides is looked at."""
    week = timedelta(days=7)
    return (
        Q(given_out_at__range=(now - _LATELY, now))
        | Q(opens__range=(now, now + _SOON))
        | Q(due__range=(now - week, now + week))
    )


def _students(assignment: Assignment) -> list[Enrolment]:
    lines = assignment.course.roster.filter(role=Enrolment.Role.STUDENT, person__is_active=True)
    return list(lines.select_related("person"))


def _due_soon(
    assignment: Assignment, students: Iterable[Enrolment], folios: dict[int, Folio], now: datetime
) -> list[Enrolment]:
    """Whose due moment comes within a day, and of whom nothing is handed in. Of a sitting that runs nobody needs to be
    told that it ends."""
    counting = assignment.folios.filter(editions__isnull=False, editions__taken_back_at=None)
    handed_in = set(counting.values_list("student_id", flat=True))
    soon = []
    for line in students:
        folio = folios.get(line.person_id)
        running = folio is not None and assignment.rules.timed
        closes = window_of(assignment, line.person_id, folio, line).closes
        if line.person_id not in handed_in and not running and now < closes <= now + _SOON:
            soon.append(line)
    return soon


def _given_out(assignment: Assignment) -> Told:
    due = _moment(assignment.due, assignment)
    return Told(
        Kind.GIVEN_OUT, f"given out {assignment.pk}", f"{_work(assignment)} is given out",
        f"It is due on {due}. Your own times stand in the brief.", f"/assignments/{assignment.pk}",
    )  # fmt: skip


def _opening(assignment: Assignment) -> Told:
    opens = _moment(assignment.opens, assignment)
    return Told(
        Kind.OPENING, f"opening {assignment.pk} {assignment.opens:%Y%m%d%H%M}", f"{_work(assignment)} opens soon",
        f"It opens on {opens}. A rehearsal shows whether your phone and your network are ready.",
        f"/assignments/{assignment.pk}",
    )  # fmt: skip


def _closing(assignment: Assignment, line: Enrolment, folio: Folio | None) -> Told:
    closes = window_of(assignment, line.person_id, folio, line).closes
    path = f"/folios/{folio.pk}" if folio else f"/assignments/{assignment.pk}"
    begun = "What is on your board then is handed in by itself." if folio else "You have not begun yet."
    return Told(
        Kind.CLOSING, f"closing {assignment.pk} {closes:%Y%m%d%H%M}", f"{_work(assignment)} is due soon",
        f"It can be handed in until {_moment(closes, assignment)}. {begun}", path,
    )  # fmt: skip


def _moment(at: datetime, assignment: Assignment) -> str:
    return f"{at.astimezone(ZoneInfo(assignment.course.time_zone)):%A %-d %B, %H:%M}"


def _work(assignment: Assignment) -> str:
    return f"{assignment.course.code} {assignment.title}"
