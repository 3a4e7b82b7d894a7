"""Making an assignment and setting it up: what is odd about its times is said before it hurts."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.db import transaction
from django.db.models import Count

from courses.models import Course, Enrolment
from folio_core.page import HEAD_BYTES, Kind, count_pages, kind_of, run_limited
from folio_core.question_paper import Proposal, propose_map, read_paper
from plumbing import storage
from plumbing.decoding import limits
from plumbing.errors import Refused

from .models import Assignment

MOST_PAPER_BYTES = 30_000_000
MOST_FORMER_PAPERS = 3
_FIELDS = (
    "title", "instructions", "instructions_before", "opens", "due", "late_until", "writing_minutes", "handover_minutes",
    "due_cuts_sitting", "placing_minutes", "pledge_minutes", "offers_rehearsal", "asks_rehearsal", "whole_work",
    "paper_rules", "page_kinds", "honour", "proposes",
)  # fmt: skip
_ONE_SITTING = timedelta(hours=24)


class BadField(Exception):
    """``field`` is where it can be mended."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field, self.message = field, message


@dataclass(frozen=True, slots=True)
class Odd:
    """Something about the times that may not be meant. ``field``: where it would be changed."""

    field: str
    words: str


@transaction.atomic
def new_assignment(course: Course, title: str, now: datetime) -> Assignment:
    """A draft that opens tomorrow at nine and is due a week later, in the course's zone. Nobody sees it yet."""
    Course.objects.select_for_update().get(pk=course.pk)  # asked for twice at once, it is one of that title
    zone = ZoneInfo(course.time_zone)
    opens = (now.astimezone(zone) + timedelta(days=1)).replace(hour=9, minute=0, second=0, microsecond=0)
    assignment = Assignment(
        course=course, title=title.strip(), opens=opens, due=opens + timedelta(days=7), paper_size=course.paper_size,
        given_out_at=None,
    )  # fmt: skip
    _require_good(assignment)
    assignment.save()
    return assignment


@transaction.atomic
def change(assignment_id: int, wanted: Mapping[str, Any], *, seen_version: int) -> Assignment:
    """Change these fields, all or none. Begun work hears of it only where it gains by it.

    Raises BadField, or Refused (409) where somebody else changed it meanwhile.
    """
    assignment = Assignment.objects.select_for_update(of=("self",)).select_related("course").get(pk=assignment_id)
    Course.objects.select_for_update().get(pk=assignment.course_id)  # no two of one title
    if assignment.version != seen_version:
        raise Refused(
            409, "stale", "Somebody else changed this meanwhile. What they wrote is shown now; change it again."
        )
    for name, value in wanted.items():
        if name not in _FIELDS:
            raise BadField(name, "This cannot be changed here.")
        setattr(assignment, name, value.strip() if isinstance(value, str) else value)
    _require_good(assignment)
    assignment.version += 1
    assignment.save()
    return assignment


def _require_good(assignment: Assignment) -> None:
    """What no assignment can be. Raises BadField."""
    if not assignment.title:
        raise BadField("title", "Give it a title.")
    try:
        assignment.full_clean(exclude=["question_paper"])
    except ValidationError as error:
        name, messages = next(iter(error.message_dict.items()))
        raise BadField(name if name != "__all__" else "due", messages[0]) from error


def oddities(assignment: Assignment, now: datetime) -> list[Odd]:
    """What may not be meant. None of it is refused."""
    zone, rules, told = ZoneInfo(assignment.course.time_zone), assignment.rules, []
    opens, due = rules.opens.astimezone(zone), rules.due.astimezone(zone)
    if rules.due <= now:
        told.append(Odd("due", "The due moment has passed already."))
    if due.weekday() >= 5:
        told.append(Odd("due", f"It is due on a {due:%A}."))
    if opens.utcoffset() != due.utcoffset():
        told.append(
            Odd("due", "The clocks change between opening and due; the times of day here are right on both sides.")
        )
    if not rules.timed:
        return told
    full = timedelta(minutes=(rules.writing_minutes or 0) + rules.handover_minutes)
    if rules.due_cuts_sitting and rules.due - rules.opens < full:
        minutes = round((rules.opens + full - rules.due) / timedelta(minutes=1))
        told.append(
            Odd(
                "due",
                f"Nobody can have the full time: the due moment cuts {minutes} min off, even begun as it opens.",
            )
        )
    if opens.date() != (opens + full).date():
        told.append(Odd("opens", "A sitting that is begun as it opens runs over midnight."))
    told += _overlapping(assignment)
    if 0 < rules.handover_minutes < 5:
        told.append(Odd("handover_minutes", "Photographing and sending takes about 15 minutes (common practice)."))
    return told


def _overlapping(assignment: Assignment) -> list[Odd]:
    """Other sittings that some of the same students may have to take at the same time."""
    if assignment.due - assignment.opens > _ONE_SITTING:
        return []  # there is a day or more to choose from
    students = Enrolment.objects.filter(course=assignment.course_id, role=Enrolment.Role.STUDENT).values("person")
    others = (
        Assignment.objects.filter(
            writing_minutes__isnull=False, rehearsal_of=None, given_out_at__isnull=False,
            opens__lt=assignment.due, due__gt=assignment.opens,
            course__roster__role=Enrolment.Role.STUDENT, course__roster__person__in=students,
        )
        .exclude(pk=assignment.pk)
        .select_related("course")
        .annotate(shared=Count("course__roster__person", distinct=True))
    )  # fmt: skip
    return [
        Odd("opens", f"{one.shared} of its students have {one} at the same time.")  # type: ignore[attr-defined]
        for one in others
        if one.due - one.opens <= _ONE_SITTING
    ]


def give_out(assignment: Assignment, at: datetime | None, now: datetime) -> None:
    """At a moment, or at once. Raises Refused (422) for one that nothing could be handed in to."""
    if not assignment.whole_work and not assignment.questions.filter(removed_at=None).exists():
        raise Refused(422, "empty_map", "It has no questions yet. Write its question map, or choose whole work.")
    assignment.given_out_at = at or now
    assignment.save(update_fields=["given_out_at"])


def take_back(assignment: Assignment) -> None:
    """A draft again. Raises Refused (409) once somebody has begun."""
    begun = assignment.folios.count()
    if begun:
        whom = "One student has" if begun == 1 else f"{begun} students have"
        raise Refused(409, "begun", f"{whom} begun it. It cannot be taken back; change its due moment instead.")
    assignment.given_out_at = None
    assignment.save(update_fields=["given_out_at"])


@transaction.atomic
def copy(source: Assignment, course: Course, title: str, now: datetime) -> Assignment:
    """A draft with the same questions, rules and words; all moments moved together, so that it opens tomorrow."""
    made = new_assignment(course, title, now)
    days = (made.opens.date() - source.opens.astimezone(ZoneInfo(course.time_zone)).date()).days
    zone = ZoneInfo(course.time_zone)
    for name in _FIELDS:
        value = getattr(source, name)
        if isinstance(value, datetime):
            value = _days_later(value, days, zone)
        if name != "title":
            setattr(made, name, value)
    made.question_paper = source.question_paper
    _require_good(made)
    made.save()
    for beside in source.files_beside.filter(with_marks=False):
        made.files_beside.create(name=beside.name, size=beside.size, stored=beside.stored.name)
    groups = {group.pk: made.question_groups.create(choose=group.choose) for group in source.question_groups.all()}
    ids = {}
    for question in source.questions.filter(removed_at=None):
        same = made.questions.create(
            position=question.position, label=question.label, title=question.title, points=question.points,
            kept_answering=question.kept_answering,
            group=groups[question.group_id] if question.group_id else None,
        )  # fmt: skip
        ids[str(question.pk)] = str(same.pk)
    made.on_paper, made.clean_print = source.on_paper, source.clean_print
    made.answer_spaces = {ids[key]: boxes for key, boxes in source.answer_spaces.items() if key in ids}
    made.save(update_fields=["on_paper", "clean_print", "answer_spaces"])
    return made


def _days_later(at: datetime, days: int, zone: ZoneInfo) -> datetime:
    """The same time of day, so and so many days later, also over a change of the clocks."""
    wall = at.astimezone(zone).replace(tzinfo=None) + timedelta(days=days)
    return wall.replace(tzinfo=zone)


def discard(assignment: Assignment) -> None:
    """Raises Refused (409) for one that is given out or begun."""
    if assignment.given_out_at is not None or assignment.folios.exists():
        raise Refused(409, "given_out", "It is given out. Take it back first; what students have begun stays.")
    assignment.delete()


def set_paper(assignment: Assignment, name: str, data: bytes) -> None:
    """Where students write on the paper itself, copies of the one before are still told, with its own spaces; those of
    the new one are read from it and kept by the instructor. The same file again changes nothing.

    Raises PageError or Refused for what is no PDF or picture; the paper of before stays then.
    """
    if len(data) > MOST_PAPER_BYTES:
        raise Refused(413, "too_large", f"A question paper has at most {MOST_PAPER_BYTES // 1_000_000} MB.")
    kind = kind_of(data[:HEAD_BYTES])
    run_limited(count_pages, data, limits(), limits=limits())
    if assignment.question_paper and storage.get(str(assignment.question_paper.name)) == data:
        return
    if assignment.on_paper and assignment.answer_spaces:
        former = {"paper": str(assignment.question_paper.name), "spaces": assignment.answer_spaces}
        assignment.former_papers = [former, *assignment.former_papers][:MOST_FORMER_PAPERS]
        assignment.answer_spaces = {}
    stem = os.path.splitext(os.path.basename(name))[0][:80] or "paper"
    assignment.question_paper.save(f"{stem}.{kind.name.lower()}", ContentFile(data), save=False)
    assignment.save()


def paper_proposal(assignment: Assignment) -> Proposal | None:
    """The map its question paper proposes; None without a paper. A photographed one has no text. Raises PageError."""
    if not assignment.question_paper:
        return None
    data = storage.get(str(assignment.question_paper.name))
    if kind_of(data[:HEAD_BYTES]) is not Kind.PDF:
        return Proposal((), has_text=False)
    return propose_map(run_limited(read_paper, data, limits(), limits=limits()))
