"""Loading the scenario through the same services that people use."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, time, timedelta
from functools import cache, partial
from pathlib import Path
from zoneinfo import ZoneInfo

from django.conf import settings
from django.contrib.auth.hashers import make_password
from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone

from answers.saving import save_answer
from assignments.markers import Share, give_share
from assignments.models import Assignment, Question
from courses.models import Course, Department, Enrolment
from editions.handing_in import hand_in
from editions.models import Edition
from folio_core.answers import ANSWERED_ON_PAGES
from folio_core.clock import wall_time
from folio_core.placing import Placement, read_arrangement
from folios.beginning import create_folio
from folios.models import Folio
from pages.arranging import arrange
from pages.arrival import receive
from pages.models import Page
from pages.pledging import Promise, pledge
from pages.preparing import open_original
from pages.sent import Sent
from people.models import User

from . import photographs, sample_people, scenario
from .marking import load_marking
from .photographs import Photo
from .printed_test import load_printed_test, photograph_printed_test
from .question_paper import question_paper
from .sample_people import Person
from .scenario import Set, Work

Say = Callable[[str], None]


def loaded() -> bool:
    return User.objects.filter(email=sample_people.ILSE.email).exists()


def not_yet_made() -> int:
    """Pages and bound documents that the worker has still to make."""
    return (
        Page.objects.filter(state=Page.State.WAITING).count()
        + Edition.objects.filter(state=Edition.State.BINDING).count()
    )


def photo_folder() -> Path:
    return Path(settings.STATE) / "demo-photos"


def load_people_and_courses(now: datetime) -> dict[str, Assignment]:
    """Accounts, rosters, assignments with their sheets. No folios yet."""
    people = _users()
    department, _ = Department.objects.get_or_create(code="SEA", defaults={"title": scenario.DEPARTMENT})
    for code, title in scenario.COURSES.items():
        course = Course.objects.create(
            code=code, title=title, time_zone=scenario.TIME_ZONE, place=scenario.PLACE, department=department
        )
        instructor = Enrolment(course=course, person=people[sample_people.INSTRUCTOR], role=Enrolment.Role.INSTRUCTOR)
        students = [
            Enrolment(course=course, person=people[student], extra_factor=student.extra_factor)
            for student in sample_people.ROSTERS[code]
        ]
        Enrolment.objects.bulk_create([instructor, *students])
    if not User.objects.filter(email=sample_people.ADMINISTRATOR.email).exists():
        User.objects.create(
            email=sample_people.ADMINISTRATOR.email, password=_hashed_password(), is_staff=True, is_superuser=True,
            first_name=sample_people.ADMINISTRATOR.first, last_name=sample_people.ADMINISTRATOR.last,
        )  # fmt: skip
    department.administrators.add(User.objects.get(email=sample_people.ADMINISTRATOR.email))
    assignments = {work.key: _assignment(work, now) for work in scenario.WORKS}
    work, labels = scenario.MARKER_READS
    _give_to_marker(people[sample_people.MARKER], assignments[work], labels)
    return assignments


def _give_to_marker(person: User, assignment: Assignment, labels: tuple[str, ...]) -> None:
    marker = Enrolment.objects.create(course=assignment.course, person=person, role=Enrolment.Role.MARKER)
    questions = assignment.questions.filter(label__in=labels).values_list("pk", flat=True)
    give_share(assignment, marker, Share(reads=True, questions=tuple(questions)))


def _users() -> dict[Person, User]:
    """Everybody on a roster, the instructor and the marker."""
    people = dict.fromkeys(
        [
            sample_people.INSTRUCTOR,
            sample_people.MARKER,
            *(one for roster in sample_people.ROSTERS.values() for one in roster),
        ]
    )
    known = User.objects.in_bulk([person.email for person in people], field_name="email")
    new = [
        User(
            email=person.email, password=_hashed_password(), first_name=person.first, last_name=person.last,
            number=person.number,
        )
        for person in people if person.email not in known
    ]  # fmt: skip
    by_email = known | {user.email: user for user in User.objects.bulk_create(new)}
    return {person: by_email[person.email] for person in people}


@cache
def _hashed_password() -> str:
    """Of everybody in the demo: hashing it for each of seventy would take seconds."""
    return make_password(scenario.PASSWORD)


_question_paper = cache(question_paper)


def _assignment(work: Work, now: datetime) -> Assignment:
    assignment = Assignment(
        course=Course.objects.get(code=work.course), title=work.title, instructions=work.instructions,
        instructions_before=work.instructions_before,
        opens=_local(now, *work.opens), due=_local(now, *work.due),
        late_until=_local(now, *work.late_until) if work.late_until else None,
        writing_minutes=work.writing_minutes, honour=work.honour, placing_minutes=60,
    )  # fmt: skip
    assignment.question_paper.save(f"{work.key}.pdf", ContentFile(_question_paper(work)), save=True)
    Question.objects.bulk_create(
        Question(
            assignment=assignment,
            position=position,
            label=part.label,
            title=part.title,
            points=part.points,
            kept_answering={} if part.answering == ANSWERED_ON_PAGES else part.answering.as_document(),
        )
        for position, part in enumerate(work.parts)
    )
    return assignment


def _local(now: datetime, days: int, time_of_day: str) -> datetime:
    zone = ZoneInfo(scenario.TIME_ZONE)
    day = now.astimezone(zone).date() + timedelta(days=days)
    return wall_time(datetime.combine(day, time.fromisoformat(time_of_day)), zone, ends=True)


def load_folios(assignments: dict[str, Assignment], photos: dict[int, list[Photo]], now: datetime, say: Say) -> None:
    for work in scenario.WORKS:
        for number, one in enumerate(work.sets):
            say(f"handing in for {one.person.first}: {work.title}")
            evening = _local(now, -1, "17:10") + timedelta(minutes=23 * number)
            _load_set(assignments[work.key], one, evening, photos[one.seed])


def _load_set(assignment: Assignment, one: Set, began: datetime, photos: list[Photo]) -> None:
    student = User.objects.get(email=one.person.email)
    folio = create_folio(assignment, student, began)
    clock = _Ticking(began + timedelta(minutes=70))
    for name, data in photographs.files_of(photos, one):
        acknowledged = receive(folio, [data], Sent(name), clock)
        open_original(
            acknowledged.original.pk, now=clock()
        )  # the worker would; the placements below need the pages now
    if one.place:
        _place(folio, one, photos, clock())
    ids = {question.label: question.pk for question in assignment.questions.all()}
    for label, content in one.on_screen:
        save_answer(folio.pk, ids[label], seen=0, content=content, now=clock())
    if one.hand_in:
        hand_in(folio, seen_edition=0, confirmed=folio.assignment.honour, now=clock())


def load_sitting(assignment: Assignment, works: dict[str, list[Photo]], now: datetime) -> None:
    """The midterm as it is just now, for the screen of those who teach. It closes by itself later on."""
    for one in scenario.SITTING:
        student = User.objects.get(email=one.person.email)
        folio = create_folio(assignment, student, now - timedelta(minutes=one.begun))
        photos = works[one.person.email]
        for number, photo in enumerate(photos[: one.pages]):
            at = now - timedelta(minutes=one.last_page + 0.4 * (one.pages - 1 - number))
            receive(folio, [photo.path.read_bytes()], Sent(photo.path.name), partial(_at, at))
        coming = photos[one.pages : one.pages + one.promised]
        if coming:
            files = [photo.path.read_bytes() for photo in coming]
            promises = [
                Promise(hashlib.sha256(data).hexdigest(), len(data), photo.path.name)
                for data, photo in zip(files, coming, strict=True)
            ]
            pledge(folio, promises, now - timedelta(minutes=one.last_page), sides=one.pages + one.promised)
        if one.hands_in:
            at = now - timedelta(minutes=one.last_page - 1)
            hand_in(folio, seen_edition=0, confirmed=folio.assignment.honour, now=at)


def _at(moment: datetime) -> datetime:
    return moment


class _Ticking:
    """A clock that goes on by some seconds each time it is read."""

    def __init__(self, start: datetime) -> None:
        self._now = start

    def __call__(self) -> datetime:
        self._now += timedelta(seconds=11)
        return self._now


def _place(folio: Folio, one: Set, photos: list[Photo], now: datetime) -> None:
    folio.refresh_from_db()
    arrangement = read_arrangement(folio.arrangement)
    sent = one.send or tuple(range(len(one.sheets)))
    ids = {question.label: question.id for question in folio.assignment.question_map.questions}
    placements: dict[str, tuple[Placement, ...]] = {}
    done = one.sheets if one.hand_in else one.sheets[:-1]
    for page, sheet_number in zip(arrangement.order, sent, strict=True):
        if one.sheets[sheet_number] in done:
            for label, top in photos[sheet_number].tops.items():
                question = ids[label.partition("/")[0]]
                placements[question] = (*placements.get(question, ()), Placement(page, top))
    in_order = tuple(page for _, page in sorted(zip(sent, arrangement.order, strict=True)))
    order = in_order if one.hand_in else arrangement.order
    arranged = replace(
        arrangement, order=order, placements=placements, left_blank=frozenset(ids[label] for label in one.left_blank)
    )
    arrange(folio.pk, seen=folio.version, arrangement=arranged, now=now)


def load(say: Say) -> None:
    """All or nothing: a first start that was broken off begins again, with the photographs it had taken."""
    say("photographing everybody's sheets")
    photos = photographs.take(photo_folder(), scenario.rolls())
    photograph_printed_test(photo_folder() / "class-test")
    now = timezone.now()
    with transaction.atomic():
        assignments = load_people_and_courses(now)
        load_folios(assignments, photos, now, say)
        load_printed_test(_local(now, -1, "09:00"), _local(now, 4, "16:00"))
        say("marking some of it")
        load_marking(assignments, now)
        say("seven are sitting the midterm")
        own = {one.person.email: photos[one.seed] for work in scenario.WORKS for one in work.sets}
        load_sitting(assignments[scenario.NOON_SIGHT.key], own, now)
