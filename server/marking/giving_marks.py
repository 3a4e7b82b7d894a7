"""Giving an answer its points and note: one atomic write against the version that was seen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from django.db import transaction

from editions.models import Edition, counting
from folios.locking import locked
from people.models import User
from plumbing.errors import Refused

from .models import Mark, MarkChange, MarkingScheme, Round
from .schemes import scheme_of
from .work import Standing, marked_folio

NOTE_MOST = 4000
POINTS_MOST = Decimal(10_000)


@dataclass(frozen=True, slots=True)
class Given:
    """What is given to an answer. ``points``: None takes them off again."""

    points: Decimal | None
    note: str = ""
    not_attempted: bool = False


@dataclass(frozen=True, slots=True)
class SavedMark:
    """``is_stale``: somebody else gave it something since; nothing was written, and ``mark`` is theirs."""

    mark: Mark
    is_stale: bool = False


def round_for(standing: Standing, user: User, *, settles: bool) -> Round:
    """In which marking of an answer this person takes part: their own one where they have one; the second where it is
    wanted and somebody else was first; settling where the two differ, or an instructor says the last word."""
    marks = standing.marks
    if settles:
        return Round.SETTLED
    for one in (Round.FIRST, Round.SECOND):
        if one in marks and marks[one].by_id == user.pk:
            return one
    first = marks.get(Round.FIRST)
    if first is not None and first.points is not None and standing.wants_second:
        return Round.SECOND
    return Round.FIRST


def shown_marks(standing: Standing, user: User) -> dict[str, Mark]:
    """What of the marks this person sees: markers who mark independently do not see each other's until both have
    marked. Where an answer is marked once, everybody sees it."""
    marks = dict(standing.marks)
    if not standing.wants_second or Round.SETTLED in marks:
        return marks
    both = all(one in marks and marks[one].points is not None for one in (Round.FIRST, Round.SECOND))
    return marks if both else {name: mark for name, mark in marks.items() if mark.by_id == user.pk}


@transaction.atomic
def give_mark(
    edition: Edition, question: str, given: Given, *, round_: Round, seen: int, by: User, now: datetime
) -> SavedMark:
    """``seen``: the version of the mark that was looked at, 0 where there was none. The same once more changes nothing.

    Raises Refused: another_edition (409) where the student handed in anew meanwhile, points, note (422), round (409)
    where a second or settling mark is not wanted.
    """
    folio = locked(edition.folio_id)
    counts = counting(folio)
    if counts is None or counts.pk != edition.pk:
        raise Refused(409, "another_edition", "The student handed in anew meanwhile. Look at the new pages, then mark.")
    folio.assignment = edition.folio.assignment
    counts.folio = folio
    work = marked_folio(counts)
    if question not in work.question_map:
        raise Refused(422, "question", "This question is not on the edition's question map.")
    standing = work.standings[question]
    _require_fits(given, scheme_of(folio.assignment))
    _require_round(standing, round_, by)
    mark = Mark.objects.filter(edition=counts, question=question, round=round_).first()
    version = mark.version if mark else 0
    if mark is not None and _is_same(mark, given) and (mark.by_id == by.pk or seen == version):
        return SavedMark(mark)
    if mark is not None and seen != version:
        return SavedMark(mark, is_stale=True)
    if mark is None:  # also where one was seen that is kept from an earlier edition
        mark = Mark(edition=counts, question=question, round=round_)
    mark.points, mark.note, mark.not_attempted = given.points, given.note, given.not_attempted
    mark.by, mark.at = by, now
    mark.version += 1
    mark.save()
    MarkChange.objects.create(
        mark=mark, points=mark.points, note=mark.note, not_attempted=mark.not_attempted, by=by, at=now
    )
    return SavedMark(mark)


def _is_same(mark: Mark, given: Given) -> bool:
    return (mark.points, mark.note, mark.not_attempted) == (given.points, given.note, given.not_attempted)


def _require_fits(given: Given, scheme: MarkingScheme) -> None:
    if len(given.note) > NOTE_MOST:
        raise Refused(422, "note", f"A note has at most {NOTE_MOST} characters.")
    if given.points is None:
        return
    if not given.points.is_finite() or abs(given.points) > POINTS_MOST:
        raise Refused(422, "points", f"Points lie between −{POINTS_MOST} and {POINTS_MOST}.")
    if given.points % scheme.step:
        raise Refused(422, "points", f"Points go in steps of {scheme.step.normalize():f} here.")


def _require_round(standing: Standing, round_: Round, by: User) -> None:
    marks: Mapping[str, Mark] = standing.marks
    first, second = marks.get(Round.FIRST), marks.get(Round.SECOND)
    if round_ is Round.SECOND:
        if first is None or first.points is None:
            raise Refused(409, "round", "Nobody has marked this answer first yet. Reload, then mark it.")
        if first.by_id == by.pk:
            raise Refused(409, "round", "You marked this answer first; a second marker is somebody else.")
    if round_ is Round.SETTLED and (first is None or second is None):
        raise Refused(409, "round", "Two markers have to mark it before there is something to settle.")
