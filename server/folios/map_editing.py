"""Editing the question map of an assignment that students may have begun: nothing they said is ever lost.

Renaming keeps placements, since they are kept by id. A question that is removed takes its placements out of sight and
keeps them; restored, it has them again. One that is added is open for everybody. Frozen editions never change.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction

from assignments.models import Assignment, Question
from folio_core import labels
from folio_core.answers import ANSWERED_ON_PAGES, Answering
from folio_core.placing import read_arrangement
from folio_core.question_map import Group, QuestionMap, QuestionMapError, map_in_short
from folio_core.question_map import Question as MapQuestion
from live.announcing import announce
from plumbing.errors import Refused

from .events import LabelChange, MapChanged
from .models import Folio, record


@dataclass(frozen=True, slots=True)
class Entry:
    """One wanted entry of the map, in order. ``id``: of the question it is, also of a removed one; None: a new one."""

    id: int | None
    label: str
    title: str
    points: Decimal
    group: int | None = None  # its place among the wanted groups
    answering: Answering = ANSWERED_ON_PAGES


@dataclass(frozen=True, slots=True)
class Consequence:
    """What a wanted map changes, and how many students answered a question that it removes."""

    changes: tuple[LabelChange, ...]
    students: dict[str, int]
    begun: int


def consequences(assignment: Assignment, entries: Sequence[Entry], groups: Sequence[int] = ()) -> Consequence:
    """What saving these entries would do. Raises Refused (422) for a map that contradicts itself, naming the entry."""
    wanted = _checked(entries, groups)
    known = {question.pk: question for question in assignment.questions.all()}
    changes = _changes(known, entries) + _choices(_map_of(assignment), wanted, entries)
    folios = Folio.objects.filter(assignment=assignment)
    removed = {str(pk): question.label for pk, question in known.items() if pk in _removed(known, entries)}
    students = dict.fromkeys(removed.values(), 0)
    for stored in folios.values_list("arrangement", flat=True):
        arrangement = read_arrangement(stored)
        for question_id, label in removed.items():
            students[label] += question_id in arrangement.left_blank or bool(arrangement.pages_of(question_id))
    return Consequence(tuple(changes), {label: count for label, count in students.items() if count}, folios.count())


@transaction.atomic
def save_map(
    assignment: Assignment,
    entries: Sequence[Entry],
    groups: Sequence[int] = (),
    *,
    seen_version: int,
    by_name: str,
    now: datetime,
) -> Assignment:
    """Make these entries the map. Everybody who has begun is told on the board what changed.

    ``groups``: of each, how many of its questions are to be answered; 0: they are a bonus.

    Raises Refused: 409 where the map was changed since it was seen as ``seen_version``, 422 for a map that contradicts
    itself.
    """
    assignment = Assignment.objects.select_for_update().get(pk=assignment.pk)
    if assignment.map_version != seen_version:
        raise Refused(
            409, "stale", "Somebody else changed this question map meanwhile. Reload it, then change it again."
        )
    wanted = _checked(entries, groups)
    known = {question.pk: question for question in assignment.questions.all()}
    if any(entry.id is not None and entry.id not in known for entry in entries):
        raise Refused(422, "unknown_question", "An entry is of another assignment. Reload the map.")
    changes = _changes(known, entries) + _choices(_map_of(assignment), wanted, entries)
    assignment.questions.filter(pk__in=_removed(known, entries)).update(removed_at=now)
    for pk in known:  # labels may be exchanged between questions, and each may stand only once at any moment
        Question.objects.filter(pk=pk, removed_at=None).update(label=f"-{pk}")
    assignment.question_groups.all().delete()
    made = [assignment.question_groups.create(choose=choose) for choose in groups]
    for position, entry in enumerate(entries):
        fields: dict[str, Any] = {
            "position": position,
            "label": _canonical(entry.label),
            "title": entry.title.strip()[:200],
        }
        fields |= {"points": entry.points, "removed_at": None}
        fields |= {"group": None if entry.group is None else made[entry.group]}
        fields |= {"kept_answering": {} if entry.answering == ANSWERED_ON_PAGES else entry.answering.as_document()}
        if entry.id is None:
            assignment.questions.create(**fields)
        else:
            assignment.questions.filter(pk=entry.id).update(**fields)
    assignment.map_version += 1
    assignment.save(update_fields=["map_version"])
    for folio in Folio.objects.filter(assignment=assignment):
        if changes:
            record(folio, MapChanged(changes=changes, by=by_name), now)
        announce(folio.topic, map=assignment.map_version)
    return Assignment.objects.select_related("course").get(pk=assignment.pk)


def _canonical(label: str) -> str:
    return labels.join_levels(labels.split_label(label))


def _checked(entries: Sequence[Entry], groups: Sequence[int]) -> QuestionMap:
    try:
        if not entries:
            raise QuestionMapError("The question map is empty. Add a question, or choose whole work.")
        for at, choose in enumerate(groups):
            members = sum(entry.group == at for entry in entries)
            if members <= choose:
                raise QuestionMapError(
                    f"“Any {choose} of {members}” leaves no choice. Take the group away, or choose fewer."
                )
        questions = (
            MapQuestion(entry.label, str(at), group="" if entry.group is None else str(entry.group))
            for at, entry in enumerate(entries)
        )
        return QuestionMap(tuple(questions), tuple(Group(str(at), choose) for at, choose in enumerate(groups)))
    except (QuestionMapError, labels.BadLabel) as error:
        raise Refused(422, "bad_map", str(error)) from error


def _removed(known: dict[int, Question], entries: Sequence[Entry]) -> set[int]:
    kept = {entry.id for entry in entries}
    return {pk for pk, question in known.items() if question.removed_at is None and pk not in kept}


def _changes(known: dict[int, Question], entries: Sequence[Entry]) -> list[LabelChange]:
    changes = [LabelChange(change="removed", label=known[pk].label) for pk in sorted(_removed(known, entries))]
    for entry in entries:
        label, was = _canonical(entry.label), known.get(entry.id) if entry.id is not None else None
        if was is None:
            changes.append(LabelChange(change="added", label=label))
        elif was.removed_at is not None:
            changes.append(LabelChange(change="restored", label=label, was=was.label))
        elif was.label != label:
            changes.append(LabelChange(change="renamed", label=label, was=was.label))
        if was is not None and _as_shown(was.answering) != _as_shown(entry.answering):
            changes.append(LabelChange(change="answering", label=label))
    return changes


def _as_shown(answering: Answering) -> Answering:
    """Without what only markers see of it, and where it is bound."""
    short = replace(answering.short, expected="", tolerance=0.0)
    return replace(answering, right=(), short=short, before_pages=False)


def _map_of(assignment: Assignment) -> QuestionMap:
    """As it is. One that contradicts itself, which is what may be mended here, has no choices."""
    try:
        return assignment.question_map
    except QuestionMapError:
        return QuestionMap()


def _choices(before: QuestionMap, wanted: QuestionMap, entries: Sequence[Entry]) -> list[LabelChange]:
    """Choices that are new or gone. In ``wanted`` a question's id is its place among the entries."""

    def by_questions(
        of: QuestionMap, id_of: Callable[[MapQuestion], object]
    ) -> dict[tuple[int, frozenset[object]], str]:
        return {
            (group.choose, frozenset(id_of(one) for one in of.members(group))): map_in_short(
                QuestionMap(of.members(group), (group,))
            )
            for group in of.groups
            if of.members(group)
        }

    had = by_questions(before, lambda one: int(one.id))
    has = by_questions(wanted, lambda one: entries[int(one.id)].id or one.label)
    gone = [LabelChange(change="not_chosen", label=words) for key, words in had.items() if key not in has]
    return gone + [LabelChange(change="chosen", label=words) for key, words in has.items() if key not in had]
