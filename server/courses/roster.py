"""A roster taken in from a file: what it would change, then the change. Nobody is removed unasked, nobody doubled."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field

from django.contrib.auth.hashers import make_password
from django.db import transaction

from folio_core.roster import BadRow, Person, write_extra_time
from people.models import User
from plumbing.errors import Refused

from .models import Course, Enrolment, Section

Role = Enrolment.Role


@dataclass(frozen=True, slots=True)
class Change:
    """One person of the file. ``words``: what is other than it was, or what is kept though the file says otherwise."""

    person: Person
    words: tuple[str, ...] = ()


@dataclass(slots=True)
class Comparison:
    """``missing``: lines of the roster that the file does not name."""

    added: list[Change] = field(default_factory=list)
    changed: list[Change] = field(default_factory=list)
    same: int = 0
    refused: list[BadRow] = field(default_factory=list)
    missing: list[Enrolment] = field(default_factory=list)


@dataclass(slots=True)
class TakenIn:
    """``invited``: those who cannot sign in yet."""

    added: int
    changed: int
    removed: int
    refused: list[BadRow]
    new_people: list[User]


class _Known:
    """The people of the file who have an account already, by mail address and, on this course, by number."""

    def __init__(self, course: Course, people: Sequence[Person]) -> None:
        lines = course.roster.select_related("person", "section")
        self.lines = {(line.person_id, line.role): line for line in lines}
        self.by_number = {line.person.number: line.person for line in lines if line.person.number}
        self.by_email = {user.email: user for user in User.objects.filter(email__in=[one.email for one in people])}

    def account_of(self, person: Person) -> User | None:
        return self.by_email.get(person.email) or self.by_number.get(person.number)

    def line_of(self, person: Person) -> Enrolment | None:
        user = self.account_of(person)
        return self.lines.get((user.pk, person.role)) if user else None


def compare(course: Course, people: Sequence[Person]) -> Comparison:
    """What taking these people in would do. Nothing is changed by asking."""
    known, told = _Known(course, people), Comparison()
    named: set[int] = set()
    for person in people:
        user, line = known.account_of(person), known.line_of(person)
        owner = known.by_number.get(person.number)
        if owner is not None and user is not None and owner.pk != user.pk:
            told.refused.append(_taken_number(person, owner))
            continue
        if line is None:
            told.added.append(Change(person, _kept(person, user)))
            continue
        named.add(line.pk)
        words = (*_differs(person, line), *_kept(person, user))
        if _differs(person, line):
            told.changed.append(Change(person, words))
        else:
            told.same += 1
    told.missing = [line for line in known.lines.values() if line.pk not in named and line.role == Role.STUDENT]
    return told


def _taken_number(person: Person, owner: User) -> BadRow:
    reason = f"Number {person.number} is {owner.name}'s ({owner.email}) on this roster. Each person has their own."
    return BadRow(person.line, person.email, reason)


def _kept(person: Person, user: User | None) -> tuple[str, ...]:
    """What an account keeps, whoever's roster names it: only its owner and administrators change it."""
    if user is None:
        return ()
    kept = []
    if user.email != person.email:
        kept.append(f"known here as {user.email}, which stays")
    if _may_sign_in(user) and _name(person) != user.name:
        kept.append(f"calls themselves {user.name}, which stays")
    if _may_sign_in(user) and person.number and user.number and person.number != user.number:
        kept.append(f"has number {user.number}, which stays")
    return tuple(kept)


def _name(person: Person) -> str:
    return f"{person.given_name} {person.family_name}".strip()


def _may_sign_in(user: User) -> bool:
    return user.has_usable_password() or user.last_login is not None


def _differs(person: Person, line: Enrolment) -> tuple[str, ...]:
    words = []
    section = line.section.name if line.section else ""
    if person.section is not None and person.section != section:
        words.append(f"section {section or 'none'} → {person.section or 'none'}")
    if person.extra_factor is not None and person.extra_minutes is not None:
        before = write_extra_time(line.extra_factor, line.extra_minutes)
        after = write_extra_time(person.extra_factor, person.extra_minutes)
        if before != after:
            words.append(f"extra time {before or 'none'} → {after or 'none'}")
    user = line.person
    if not _may_sign_in(user) and _name(person) != user.name:
        words.append(f"name {user.name} → {_name(person)}")
    if person.number and (not user.number or not _may_sign_in(user)) and person.number != user.number:
        words.append(f"number {user.number or 'none'} → {person.number}")
    return tuple(words)


@transaction.atomic
def take_in(course: Course, people: Sequence[Person], *, remove: Collection[int] = ()) -> TakenIn:
    """Add and change; remove only the lines of the roster that are named, of students. What they began they keep."""
    Course.objects.select_for_update().get(pk=course.pk)
    told = compare(course, people)
    refused = {row.line for row in told.refused}
    taken = [person for person in people if person.line not in refused]
    known = _Known(course, taken)
    sections = _sections(course, taken)
    new_people = _new_people([change.person for change in told.added if known.account_of(change.person) is None])
    known.by_email |= {user.email: user for user in new_people}
    lines = []
    for change in told.added:
        user = known.account_of(change.person)
        assert user is not None
        line = Enrolment(course=course, person=user, role=change.person.role)
        _set_line(line, change.person, sections)
        _set_account(user, change.person)
        lines.append(line)
    Enrolment.objects.bulk_create(lines, ignore_conflicts=True)
    for change in told.changed:
        changed = known.line_of(change.person)
        assert changed is not None
        _set_line(changed, change.person, sections)
        _set_account(changed.person, change.person)
        changed.save()
    gone = course.roster.filter(pk__in=remove, role=Role.STUDENT).delete()[1].get("courses.Enrolment", 0)
    return TakenIn(len(lines), len(told.changed), gone, told.refused, new_people)


def _sections(course: Course, people: Sequence[Person]) -> dict[str, Section]:
    names = {person.section for person in people if person.section}
    have = {section.name: section for section in course.sections.all()}
    for name in sorted(names - have.keys()):
        have[name] = course.sections.create(name=name)
    return have


def _new_people(people: Sequence[Person]) -> list[User]:
    """Accounts without a password: each is set by its owner, by a link."""
    by_email = {person.email: person for person in people}
    users = [
        User(
            email=email, first_name=person.given_name, last_name=person.family_name, number=person.number,
            password=make_password(None),
        )
        for email, person in by_email.items()
    ]  # fmt: skip
    return User.objects.bulk_create(users)


def _set_account(user: User, person: Person) -> None:
    fields = []
    if not _may_sign_in(user) and _name(person) != user.name:
        user.first_name, user.last_name = person.given_name, person.family_name
        fields += ["first_name", "last_name"]
    if person.number and person.number != user.number and (not user.number or not _may_sign_in(user)):
        user.number = person.number
        fields.append("number")
    if fields:
        user.save(update_fields=fields)


def _set_line(line: Enrolment, person: Person, sections: dict[str, Section]) -> None:
    if person.section is not None:
        line.section = sections.get(person.section)
    if person.extra_factor is not None and person.extra_minutes is not None:
        line.extra_factor, line.extra_minutes = person.extra_factor, person.extra_minutes


@transaction.atomic
def remove_line(line: Enrolment) -> None:
    """Raises Refused for the last instructor: a course without one could never be reached again."""
    others = (
        Enrolment.objects.select_for_update().filter(course=line.course_id, role=Role.INSTRUCTOR).exclude(pk=line.pk)
    )
    if line.role == Role.INSTRUCTOR and not others.exists():
        raise Refused(409, "last_instructor", "This is the course's only instructor. Add another one first.")
    line.delete()
