"""Giving marked work back: checked first, frozen as it is then, seen by its student from a moment on."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from asking.models import waiting
from assignments.models import Assignment, FileBeside
from folio_core.marking import Figures, discriminations, figures_of
from folio_core.question_map import Question
from folios.events import MarksGivenBack, MarksTakenBack
from folios.locking import locked
from folios.models import Folio, record_and_announce
from people.models import User
from plumbing.errors import Refused

from .inking import ink_of
from .models import GivenBack, Ink, Mark, Round
from .work import MarkedFolio

WHY_MOST = 500
LEAST_OF_A_CLASS = 5  # answers: of fewer the figures would tell one student the marks of another


@dataclass(frozen=True, slots=True)
class What:
    """What of the marking students get. The pages are always theirs. ``without_files``: the ids of files beside the
    marks that they do not get; later ones they do."""

    points: bool = True
    notes: bool = True
    ink: bool = True
    figures: bool = False
    without_files: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Finding:
    """Something to know before giving one folio back. ``labels``: of the questions it is about."""

    folio: int
    student: str
    code: str
    labels: tuple[str, ...] = ()


def findings_of(work: Sequence[MarkedFolio], now: datetime) -> list[Finding]:
    """What to look at first: answers without points, or on which two markers differ, points above the most, and what
    is asked of the student again. It informs; the one who gives back decides."""
    asked = set(waiting(now).filter(folio__in=[one.folio.pk for one in work]).values_list("folio_id", flat=True))
    found = []
    for one in work:
        questions = one.question_map.questions
        kinds: dict[str, list[str]] = defaultdict(list)
        for question in questions:
            standing = one.standings[question.id]
            points = standing.worth.points
            if standing.differs:
                kinds["differs"].append(question.label)
            elif standing.look_again:
                kinds["look_again"].append(question.label)
            elif points is None and not _is_settled_by_group(one, question):
                kinds["unmarked"].append(question.label)
            elif points is not None and points > Decimal(str(question.points)):
                kinds["above"].append(question.label)
        if one.folio.pk in asked:
            kinds["asked_again"] = []
        found += [Finding(one.folio.pk, one.facts.student, code, tuple(labels)) for code, labels in kinds.items()]
    return found


def _is_settled_by_group(work: MarkedFolio, question: Question) -> bool:
    """One of "any n of", or a bonus, to which nothing was answered."""
    return bool(question.group) and work.is_open(question)


@transaction.atomic
def give_back(
    work: Sequence[MarkedFolio], what: What, *, opens_at: datetime, asks_until: datetime | None, by: User,
    now: datetime, figures: Mapping[str, Figures] | None = None,
) -> list[GivenBack]:  # fmt: skip
    """Freezes the marks of each of these folios as they are now. What was given back before is replaced; what its
    student sees already stays in sight, so a later moment holds only for those that see nothing yet. A moment that is
    past is now. Raises Refused: asks_until where that comes before."""
    opens_at = max(opens_at, now)
    if asks_until is not None and asks_until <= opens_at:
        raise Refused(422, "asks_until", "Questions about marks end after the moment at which they are given back.")
    given = []
    ink = ink_of([page for one in work for page in one.pages])
    for one in work:
        folio = locked(one.folio.pk)
        before = GivenBack.objects.filter(folio=folio, ended_at=None).first()
        if before is not None:
            before.ended_at = now
            before.save(update_fields=["ended_at"])
        seen_already = before is not None and before.opens_at <= now
        statement = statement_of(one, what, ink, figures if what.figures else None)
        given.append(
            GivenBack.objects.create(
                folio=folio, edition=one.edition, statement=statement, opens_at=now if seen_already else opens_at,
                asks_until=asks_until, by=by, at=now,
            )
        )  # fmt: skip
    tell_of_given_back(now)
    return given


@transaction.atomic
def take_back_marks(folio_id: int, why: str, *, by: User, now: datetime) -> None:
    """The student sees no marks any more, and reads why. Raises Refused: why (422), nothing (409)."""
    why = why.strip()
    if not why or len(why) > WHY_MOST:
        raise Refused(422, "why", f"Say why, in at most {WHY_MOST} characters: the student reads it.")
    folio = locked(folio_id)
    given = GivenBack.objects.filter(folio=folio, ended_at=None).first()
    if given is None:
        raise Refused(409, "nothing", "These marks are not given back, or were taken back already.")
    given.ended_at, given.ended_why = now, why
    given.save(update_fields=["ended_at", "ended_why"])
    if given.told_at is not None:
        record_and_announce(folio, MarksTakenBack(edition=given.edition.number, why=why, by=by.name), now)


@transaction.atomic
def tell_of_given_back(now: datetime) -> int:
    """Tells the students of what they see from now on; once each. Returns how many."""
    due = GivenBack.objects.filter(told_at=None, ended_at=None, opens_at__lte=now)
    told = list(due.select_for_update(of=("self",), skip_locked=True).select_related("folio", "edition"))
    for one in told:
        again = GivenBack.objects.filter(folio=one.folio, told_at__isnull=False).exists()
        one.told_at = now
        one.save(update_fields=["told_at"])
        record_and_announce(one.folio, MarksGivenBack(edition=one.edition.number, again=again), now)
    return len(told)


def seen_by_student(folio: Folio, now: datetime) -> GivenBack | None:
    """What the student sees: the one gate of everything that tells a student of marks."""
    return GivenBack.objects.filter(folio=folio, ended_at=None, opens_at__lte=now).select_related("edition").first()


def files_given(given: GivenBack) -> QuerySet[FileBeside]:
    """What comes along with these marks."""
    beside = FileBeside.objects.filter(assignment=given.folio.assignment_id, with_marks=True)
    return beside.exclude(pk__in=given.statement["what"].get("without_files", ()))


def statement_of(
    work: MarkedFolio, what: What, ink: Mapping[int, Sequence[Ink]], figures: Mapping[str, Figures] | None
) -> dict[str, Any]:
    """All that the student gets, as plain data. Ink in the coordinates of the originals."""
    total = work.total
    questions = []
    for question in work.question_map.questions:
        standing = work.standings[question.id]
        mark = final_mark(standing.marks)
        points = standing.worth.points
        questions.append(
            {
                "id": question.id, "label": question.label, "title": question.title, "most": question.points,
                "points": str(points) if what.points and points is not None else None,
                "not_attempted": standing.worth.not_attempted, "by_itself": standing.worth.by_itself,
                "counts": question.id not in total.dropped, "note": mark.note if what.notes and mark else "",
            }
        )  # fmt: skip
    drawn = [one for page in work.pages for one in ink.get(page, ()) if what.ink and _is_final(one, work)]
    return {
        "what": asdict(what),
        "questions": questions,
        "total": None if not what.points else {
            "points": str(total.points), "most": str(total.most), "lost": str(total.lost),
            "unmarked": len(total.unmarked),
        },
        "ink": [
            {"page": one.page_id, "tool": one.tool, "points": one.points, "width": one.width, "text": one.text,
             "question": one.question}
            for one in drawn
        ],
        "figures": None if figures is None else {
            question: asdict(one) for question, one in figures.items() if one.marked >= LEAST_OF_A_CLASS
        },
    }  # fmt: skip


def final_mark(marks: Mapping[str, Mark]) -> Mark | None:
    """Whose note goes to the student: of who settled it, else of who marked first."""
    return marks.get(Round.SETTLED) or marks.get(Round.FIRST)


def _is_final(ink: Ink, work: MarkedFolio) -> bool:
    """The ink of the round whose note goes out; where nothing was settled, the first marker's."""
    standing = work.standings.get(ink.question)
    mark = final_mark(standing.marks) if standing else None
    return mark is None or ink.round in (mark.round, Round.FIRST)


def figures_of_work(work: Sequence[MarkedFolio], questions: Collection[Question]) -> dict[str, Figures]:
    """By question id, over all folios that have it."""
    points: dict[str, dict[int, float]] = defaultdict(dict)
    for one in work:
        for question, standing in one.standings.items():
            if standing.worth.points is not None:
                points[question][one.folio.pk] = float(standing.worth.points)
    ids = [one.id for one in questions]
    correlated = discriminations({one: points.get(one, {}) for one in ids})
    return {
        one.id: figures_of(one.points, list(points.get(one.id, {}).values()), correlated[one.id]) for one in questions
    }


def changed_since(given: GivenBack, work: MarkedFolio, ink: Mapping[int, Sequence[Ink]]) -> bool:
    """Whether marks, notes or ink are others now than its student was given."""
    if given.edition_id != work.edition.pk:
        return True
    what = What(**given.statement["what"])
    now = statement_of(work, what, ink, None)
    kept = given.statement
    return any(now[part] != kept[part] for part in ("questions", "total", "ink"))


def given_back_of(assignment: Assignment) -> dict[int, GivenBack]:
    """By folio, what holds now."""
    rows = GivenBack.objects.filter(folio__assignment=assignment, ended_at=None).select_related("edition", "by")
    return {one.folio_id: one for one in rows}
