"""What several screens are told. Moments are RFC 3339 in UTC; the course's time zone goes along."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from django.conf import settings
from ninja import Schema

from assignments.models import Assignment, PageKinds
from editions.changed import not_handed_in
from editions.frozen import FrozenFacts
from folio_core import clock
from folio_core.answers import AnswerKind, choices_for
from folio_core.clock import Phase, Verdict
from folio_core.question_map import Question, QuestionMap
from folios.events import AnyEvent
from folios.models import Folio
from pages.arrival import most_bytes


class WindowOut(Schema):
    """Every instant of one student's sitting; None where there is none."""

    opens: datetime
    due: datetime
    late_until: datetime | None
    begun: datetime | None
    latest_full_begin: datetime | None
    writing_ends: datetime | None
    handover_ends: datetime | None
    closes: datetime
    pledges_end: datetime
    placing_ends: datetime
    asked_until: datetime | None
    phase: Phase
    timed: bool

    @classmethod
    def of(cls, window: clock.Window, now: datetime) -> WindowOut:
        rules = window.rules
        own = {name: getattr(window, name) for name in cls.model_fields if hasattr(window, name)}
        of_rules = {name: getattr(rules, name) for name in ("opens", "due", "late_until", "timed")}
        return cls(**own, **of_rules, phase=clock.phase(window, now))


class AssignmentOut(Schema):
    id: int
    title: str
    course: str
    course_title: str
    time_zone: str
    place: str
    writing_minutes: int | None
    handover_minutes: int
    has_paper: bool

    @classmethod
    def of(cls, assignment: Assignment) -> AssignmentOut:
        course = assignment.course
        return cls(
            id=assignment.pk, title=assignment.title, course=course.code, course_title=course.title,
            time_zone=course.time_zone, place=course.place, writing_minutes=assignment.writing_minutes,
            handover_minutes=assignment.handover_minutes, has_paper=bool(assignment.question_paper),
        )  # fmt: skip

    @classmethod
    def frozen(cls, assignment_id: int, facts: FrozenFacts) -> AssignmentOut:
        """As an edition says it, whatever it is called by now."""
        rules = facts.terms.rules
        return cls(
            id=assignment_id, title=facts.assignment, course=facts.course, course_title=facts.course_title,
            time_zone=facts.time_zone, place=facts.place, writing_minutes=rules.writing_minutes,
            handover_minutes=rules.handover_minutes, has_paper=False,
        )  # fmt: skip


class FileBesideOut(Schema):
    """A file that is given out with the question paper. ``size``: bytes."""

    id: int
    name: str
    size: int


class ChoiceOut(Schema):
    id: str
    text: str


class QuestionOut(Schema):
    """An entry of the question map. ``question``: the first level of its label, which its parts share.

    ``group``: what is the same for the questions of one "any n of"; ``choose`` is that n, 0 for a bonus. ``kinds``: how
    it is answered; ``text``, ``choices``: what is asked, where it is answered on the screen.
    """

    id: str
    label: str
    question: str
    part: str
    title: str
    points: float
    group: str
    choose: int | None
    kinds: list[AnswerKind]
    text: str
    choices: list[ChoiceOut]
    many: bool
    short: Literal["number", "word", "maths"]
    unit: str


def questions_out(question_map: QuestionMap, seed: str | None = None) -> list[QuestionOut]:
    """``seed``: of the student, for the order of choices; without it what is asked is left out. What is right is never
    told."""
    choose = {group.id: group.choose for group in question_map.groups}
    return [
        QuestionOut(
            id=one.id, label=one.label, question=one.levels[0], part=one.label.removeprefix(one.levels[0]),
            title=one.title, points=one.points, group=one.group, choose=choose.get(one.group),
            kinds=list(one.answering.kinds), text="" if seed is None else one.answering.text,
            choices=_choices(one, seed), many=one.answering.many, short=one.answering.short.kind.value,
            unit=one.answering.short.unit,
        )
        for one in question_map.questions
    ]  # fmt: skip


def _choices(question: Question, seed: str | None) -> list[ChoiceOut]:
    asked = question.answering
    if seed is None or AnswerKind.CHOSEN not in asked.kinds:
        return []
    return [ChoiceOut(id=one.id, text=one.text) for one in choices_for(asked, question.id, seed)]


class RecordedEvent(Schema):
    """One event of a folio's record, with the server's time."""

    at: datetime
    event: AnyEvent


_TOLD_ON_THE_BOARD = (
    "begun",
    "arrived",
    "handed_in",
    "pledged",
    "heard",
    "lengthened",
    "amended",
    "map_changed",
    "retaken",
    "taken_back",
    "told",
    "asked_again",
    "asking_ended",
    "taken_in",
)


def rail_events(folio: Folio) -> list[RecordedEvent]:
    """What the time rail marks and the board tells."""
    return [RecordedEvent(at=row.at, event=row.event) for row in folio.events.filter(kind__in=_TOLD_ON_THE_BOARD)]


class EditionLine(Schema):
    """In one line: an edition of a folio."""

    number: int
    handed_in_at: datetime
    counts_at: datetime | None
    verdict: Verdict
    late_seconds: int
    automatic: bool
    state: Literal["binding", "bound"]
    page_count: int
    taken_back_at: datetime | None


class LimitsOut(Schema):
    file_bytes: int
    pages: int
    kinds: PageKinds

    @classmethod
    def of(cls, assignment: Assignment) -> LimitsOut:
        return cls(file_bytes=most_bytes(), pages=settings.FOLIO_MAX_PAGES, kinds=PageKinds(assignment.page_kinds))


def image_url(folio_id: int, sha256: str) -> str:
    return f"/api/folios/{folio_id}/images/{sha256}" if sha256 else ""


class ChangedOut(Schema):
    """How the board differs from the newest edition, in short words. ``by_itself``: what of it is handed in at the
    latest at ``ends``; ``left_out``: what counts only when it is handed in. ``honour``: what that confirms."""

    edition: int
    what: list[str]
    by_itself: list[str]
    left_out: list[str]
    ends: datetime
    honour: str

    @classmethod
    def of(cls, folio: Folio, now: datetime) -> ChangedOut | None:
        found = not_handed_in(folio, now)
        if found is None:
            return None
        said = found.changed
        return cls(
            edition=found.edition, what=list(said.what), by_itself=list(said.by_itself), left_out=list(said.left_out),
            ends=found.ends, honour=folio.assignment.honour,
        )  # fmt: skip
