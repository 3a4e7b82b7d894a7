"""The sitting as it happens, for those who teach: one line a student, and one stream of what changes."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import AsyncIterator, Collection, Iterable
from datetime import datetime
from zoneinfo import ZoneInfo

from asgiref.sync import sync_to_async
from django.db import close_old_connections
from django.db.models import Count, Prefetch, prefetch_related_objects
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Field, Router, Schema

from answers.saving import answer_counts
from assignments.models import Assignment, PersonalTerms
from assignments.personal_terms import Own, set_personal_terms
from courses.models import Enrolment
from editions.models import Edition
from folio_core import clock
from folio_core.attention import Need, Seen, needs
from folio_core.clock import Phase
from folio_core.roster import read_extra_time, write_extra_time
from folio_core.terms import Terms
from folios.beginning import terms_for, window_of
from folios.models import Event, Folio, assignment_topic, folio_topic
from folios.telling import heard_of
from pages.models import Original, Page, Pledge
from people.models import User
from plumbing.errors import Problem, Refused
from plumbing.requests import moment

from .permissions import Role, instructor_of, person
from .schemas import AssignmentOut
from .streams import BEGINNING, STILL_HERE, Who, listening, stream_of
from .wall_times import moment_typed

router = Router(tags=["sitting"])
_GATHERED_SECONDS = 0.015  # what happens within it comes as one piece of news
_BACKLOG = 2000


class SittingLine(Schema):
    """One student. ``unheard``: words of staff that the board has not shown yet.

    ``arrived``: when each page became safe; ``promised``: pages promised and not here; ``answers``: how many are given
    on the screen; ``closes``: None
    where nothing has begun and nothing runs."""

    person_id: int
    name: str
    number: str
    section: str
    extra_time: str
    folio_id: int | None
    on_roster: bool
    begun: datetime | None
    writing_ends: datetime | None
    closes: datetime
    latest_full_begin: datetime | None
    phase: Phase
    arrived: list[datetime]
    promised: int
    answers: int
    own_due: datetime | None
    own_extra_time: str
    own_reason: str
    edition: int | None
    handed_in_at: datetime | None
    unheard: int
    needs: list[Need]


class PersonalTermsIn(Schema):
    """``people``: ids of students. ``due``: a time of day in the course's zone, null for the same as the others;
    ``extra_time``: as it is written, "×1.25 + 10 min", empty for the course's."""

    people: list[int] = Field(max_length=2000)
    due: str | None = None
    extra_time: str = Field("", max_length=60)
    extra_on_handover: bool = False
    extra_on_due: bool = False
    reason: str = Field("", max_length=200)


class PersonalTermsOut(Schema):
    """``writing_ends`` and ``closes``: what it comes to for one of them who begins as it opens."""

    people: int
    begins: datetime
    writing_ends: datetime | None
    closes: datetime


class SittingOut(Schema):
    now: datetime
    assignment: AssignmentOut
    timed: bool
    opens: datetime
    due: datetime
    lines: list[SittingLine]


@router.get("/assignments/{int:assignment_id}/sitting", response={200: SittingOut, 404: Problem})
def sitting(request: HttpRequest, assignment_id: int) -> SittingOut:
    """Every student of the roster, and who has begun though no longer on it."""
    assignment, now = instructor_of(person(request), assignment_id), moment()
    return SittingOut(
        now=now, assignment=AssignmentOut.of(assignment), timed=assignment.rules.timed, opens=assignment.opens,
        due=assignment.due, lines=_lines(assignment, now),
    )  # fmt: skip


def _lines(assignment: Assignment, now: datetime, only: Collection[int] | None = None) -> list[SittingLine]:
    prefetch_related_objects([assignment], "personal_terms")
    begun = assignment.folios.select_related("student").prefetch_related(
        Prefetch("editions", Edition.objects.order_by("-number").only("number", "handed_in_at", "folio_id"))
    )
    if only is not None:
        begun = begun.filter(pk__in=only)
    folios = {folio.student_id: folio for folio in begun.order_by("attempt")}
    roster = Enrolment.objects.filter(course=assignment.course_id, role=Role.STUDENT).select_related(
        "person", "section"
    )
    if only is not None:
        roster = roster.filter(person__in=folios)
    enrolments = {line.person_id: line for line in roster}
    seen = _seen([folio.pk for folio in folios.values()])
    people = {line.person_id: line.person for line in enrolments.values()}
    people |= {folio.student_id: folio.student for folio in folios.values()}
    lines = [_line(assignment, user, folios.get(pk), enrolments.get(pk), seen, now) for pk, user in people.items()]
    return sorted(lines, key=lambda line: (line.name.split()[-1:], line.name))


class _Facts:
    """What arrived for one folio."""

    def __init__(self) -> None:
        self.arrived: list[datetime] = []
        self.promised: list[datetime] = []
        self.failed = 0
        self.unheard = 0
        self.answers = 0


def _seen(folios: Iterable[int]) -> dict[int, _Facts]:
    """In six queries for all of them."""
    ids = list(folios)
    facts: dict[int, _Facts] = defaultdict(_Facts)
    for folio_id, at in (
        Original.objects.filter(folio__in=ids).order_by("arrived_at").values_list("folio_id", "arrived_at")
    ):
        facts[folio_id].arrived.append(at)
    for folio_id, at in Pledge.objects.filter(folio__in=ids, delivered=False).values_list("folio_id", "promised_at"):
        facts[folio_id].promised.append(at)
    for folio_id in Page.objects.filter(folio__in=ids, state=Page.State.FAILED).values_list("folio_id", flat=True):
        facts[folio_id].failed += 1
    for folio_id, count in answer_counts(ids).items():
        facts[folio_id].answers = count
    told = Event.objects.filter(folio__in=ids, kind="told").values("folio").annotate(words=Count("pk"))
    heard = heard_of(ids)
    for folio_id, words in told.values_list("folio", "words"):
        facts[folio_id].unheard = words - heard.get(folio_id, 0)
    return facts


def _line(
    assignment: Assignment, user: User, folio: Folio | None, enrolment: Enrolment | None, seen: dict[int, _Facts],
    now: datetime,
) -> SittingLine:  # fmt: skip
    window = window_of(assignment, user.pk, folio, enrolment)
    own = next((one for one in assignment.personal_terms.all() if one.person_id == user.pk), None)
    facts = seen[folio.pk] if folio else _Facts()
    editions = [one for one in folio.editions.all() if one.taken_back_at is None] if folio else []
    extra = (folio.terms if folio else terms_for(assignment, user.pk, enrolment)).extra
    there = Seen(len(facts.arrived) - facts.failed, facts.failed, len(editions), facts.promised, facts.answers)
    told = needs(window, there, now)
    return SittingLine(
        person_id=user.pk, name=user.name, number=user.number,
        section=enrolment.section.name if enrolment and enrolment.section else "",
        extra_time=write_extra_time(extra.factor, extra.minutes), folio_id=folio.pk if folio else None,
        on_roster=enrolment is not None, begun=window.begun, writing_ends=window.writing_ends, closes=window.closes,
        latest_full_begin=window.latest_full_begin, phase=clock.phase(window, now), arrived=facts.arrived,
        promised=len(facts.promised), answers=facts.answers,
        own_due=own.due if own else None,
        own_extra_time=_own_extra_time(own),
        own_reason=own.reason if own else "",
        edition=editions[0].number if editions else None,
        handed_in_at=editions[0].handed_in_at if editions else None, unheard=facts.unheard, needs=list(told),
    )  # fmt: skip


def _own_extra_time(own: PersonalTerms | None) -> str:
    if own is None or own.extra_factor is None:
        return ""
    return write_extra_time(own.extra_factor, own.extra_minutes) or "×1"


@router.post(
    "/assignments/{int:assignment_id}/personal-terms", response={200: PersonalTermsOut, 404: Problem, 422: Problem}
)
def give_personal_terms(request: HttpRequest, assignment_id: int, body: PersonalTermsIn) -> PersonalTermsOut:
    """A due moment or extra time of their own, begun or not. All of it is replaced; with neither they have none."""
    assignment = instructor_of(person(request), assignment_id)
    due = moment_typed(body.due, ZoneInfo(assignment.course.time_zone), "due")
    extra = None
    if body.extra_time.strip():
        try:
            factor, minutes = read_extra_time(body.extra_time)
        except ValueError as error:
            raise Refused(422, "field:extra_time", str(error)) from error
        extra = clock.ExtraTime(factor, minutes, body.extra_on_handover, body.extra_on_due)
    people = set_personal_terms(assignment, body.people, Own(due, extra, body.reason))
    window = Terms(assignment.rules, extra or clock.ExtraTime(), due).window(assignment.opens)
    return PersonalTermsOut(
        people=people, begins=assignment.opens, writing_ends=window.writing_ends, closes=window.closes
    )


@router.get("/assignments/{int:assignment_id}/sitting/news", response={200: None})
async def sitting_news(request: HttpRequest, assignment_id: int) -> StreamingHttpResponse:
    """Server-sent events: ``{"lines": [...]}``, each a SittingLine that has changed; ``{"missed": true}`` where all
    must be asked for again. Ends with the session, and with the right to look."""
    who = await sync_to_async(_may_listen)(request, assignment_id)
    return stream_of(_stream(assignment_id, who))


def _may_listen(request: HttpRequest, assignment_id: int) -> Who:
    instructor_of(person(request), assignment_id)
    return Who.asks(request)


def _begun(assignment_id: int) -> list[int]:
    try:
        return list(Folio.objects.filter(assignment=assignment_id).values_list("pk", flat=True))
    finally:
        close_old_connections()


def _lines_of(user: User, assignment_id: int, folios: Collection[int]) -> list[SittingLine]:
    """Raises Refused where the person does not teach the course any more."""
    try:
        return _lines(instructor_of(user, assignment_id), moment(), folios)
    finally:
        close_old_connections()


async def _stream(assignment_id: int, who: Who) -> AsyncIterator[str]:
    async with listening(who, assignment_topic(assignment_id), backlog=_BACKLOG) as heard:
        # Asked for only now: of who begins meanwhile there are news already.
        folios = {folio_topic(folio): folio for folio in await sync_to_async(_begun)(assignment_id)}
        for topic in folios:
            heard.hear_too(topic)
        yield BEGINNING
        while (news := await heard.gathered(_GATHERED_SECONDS)) is not None:
            for begun in [one["begun"] for one in news if "begun" in one]:
                folios[folio_topic(begun)] = begun
                heard.hear_too(folio_topic(begun))
            news = [one for one in news if not one.get("goes_on")]  # an answer that is being typed
            changed = {folios[one["topic"]] for one in news if one["topic"] in folios}
            changed |= {one["begun"] for one in news if "begun" in one}
            if any("missed" in one for one in news):
                yield f"data: {json.dumps({'missed': True})}\n\n"
            elif not changed:
                yield STILL_HERE
            else:
                try:
                    lines = await sync_to_async(_lines_of)(who.user, assignment_id, changed)
                except Refused:
                    return
                told = [line.model_dump(mode="json") for line in lines]
                yield f"data: {json.dumps({'lines': told})}\n\n"
