"""What there is to mark of an assignment: the counting editions with the marks that were given, fetched together."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal
from functools import cached_property
from hashlib import sha256
from typing import Any

from django.db.models import OuterRef, Prefetch, Subquery

from assignments.models import Assignment
from editions.frozen import FrozenFacts
from editions.models import Edition, EditionAnswer, EditionPage
from editions.reader_placing import Overlaid, overlaid
from folio_core.answers import AnswerKind
from folio_core.marking import Cut, Total, Worth, cuts_of, total_of, worth_by_itself
from folio_core.placing import Arrangement
from folio_core.question_map import Question, QuestionMap
from folios.models import Folio
from folios.reach import Reach

from .models import Mark, MarkingScheme, Round
from .schemes import scheme_of

_NOT_LATE = timedelta(0)
_JUDGED_ALONE = {AnswerKind.CHOSEN, AnswerKind.SHORT}


@dataclass(frozen=True, slots=True)
class Standing:
    """How one answer stands. ``marks``: of this edition, or kept from an earlier one with the same answer.
    ``worth``: what it adds to the total. ``look_again``: marked in an earlier edition, and the answer is another one
    now; ``before``: the points it had then. ``wants_second``: a second marker marks it too. ``differs``: the two gave
    other points, and nobody settled it."""

    marks: Mapping[str, Mark]
    worth: Worth
    look_again: bool = False
    before: Decimal | None = None
    wants_second: bool = False
    differs: bool = False


class MarkedFolio:
    """One student's counting edition, and how each of its answers stands."""

    def __init__(
        self, edition: Edition, questions: frozenset[str] | None, scheme: MarkingScheme,
        marks: Mapping[tuple[int, str], Mapping[str, Mark]], earlier: list[Edition],
    ) -> None:  # fmt: skip
        self.edition, self.folio, self.scheme = edition, edition.folio, scheme
        self._read, self._marks, self._earlier = questions, marks, earlier

    @cached_property
    def facts(self) -> FrozenFacts:
        return self.edition.facts

    @cached_property
    def laid(self) -> Overlaid:
        return overlaid(self.edition)

    @property
    def arrangement(self) -> Arrangement:
        return self.laid.arrangement

    @property
    def question_map(self) -> QuestionMap:
        return self.facts.question_map

    @property
    def reads_all(self) -> bool:
        return self._read is None

    @property
    def questions(self) -> list[Question]:
        """Those that are read, in the order of the map."""
        return [one for one in self.question_map.questions if self._read is None or one.id in self._read]

    @cached_property
    def pages(self) -> dict[int, EditionPage]:
        return {one.page_id: one for one in self.edition.pages.all()}

    @cached_property
    def answers(self) -> dict[str, EditionAnswer]:
        return {one.question: one for one in self.edition.answers.all()}

    @cached_property
    def standings(self) -> dict[str, Standing]:
        """Of every question of the map, also of those that are not read."""
        return {one.id: self._standing(one) for one in self.question_map.questions}

    @property
    def total(self) -> Total:
        return total_of(
            self.question_map, {question: one.worth for question, one in self.standings.items()},
            drop_lowest=self.scheme.drop_lowest, late=self.scheme.late_rule,
            late_by=self.edition.judgement.late_by if self.edition.verdict == "late" else _NOT_LATE,
        )  # fmt: skip

    @cached_property
    def ink_rows(self) -> dict[int, str]:
        return {page: one.ink_rows for page, one in self.pages.items()}

    def cuts(self, question: str) -> list[Cut]:
        return cuts_of(self.arrangement, question, self.ink_rows)

    def unplaced(self) -> list[int]:
        """Pages on no question, loose ones too: what is open may stand on them."""
        placed = self.arrangement.placed_pages
        return [page for page in self.arrangement.pages if page not in placed]

    def is_open(self, question: Question) -> bool:
        """Whether nothing at all of the question is there, and it was not left blank."""
        blank = question.id in self.arrangement.left_blank
        return not blank and not self.arrangement.pages_of(question.id) and question.id not in self.answers

    def worth_alone(self, question: Question) -> Worth:
        """Before anybody marks it. Only what asks for nothing else is judged by itself."""
        blank = question.id in self.arrangement.left_blank and question.id not in self.answers
        alone = set(question.answering.kinds) <= _JUDGED_ALONE
        answer = self.answers.get(question.id)
        is_right = answer.judged.get("is_right") if alone and answer else None
        return worth_by_itself(question.points, is_right, left_blank=blank)

    def _standing(self, question: Question) -> Standing:
        marks = dict(self._marks.get((self.edition.pk, question.id), {}))
        alone = self.worth_alone(question)
        twice = self._wants_second(question, alone)
        for edition in self._earlier:
            older = self._marks.get((edition.pk, question.id), {})
            if older and same_answer(edition, self.edition, question.id):
                marks = {**older, **marks}
            elif older and all(one.points is None for one in marks.values()):  # a note alone is no second look
                before = next((one.points for one in reversed(list(older.values())) if one.points is not None), None)
                return Standing(marks, Worth(None), look_again=True, before=before, wants_second=twice)
        return _standing_of(marks, alone, twice) if marks else Standing({}, alone, wants_second=twice)

    def _wants_second(self, question: Question, alone: Worth) -> bool:
        """Everything that is marked twice, or what falls into the sample: the same whoever looks, and not to be
        guessed by who marks first. What is worth something by itself is not."""
        if alone.by_itself or not (self.scheme.marks_twice or self.scheme.sample_percent):
            return False
        if self.scheme.marks_twice:
            return True
        drawn = sha256(f"sample {self.folio.pk} {question.id}".encode()).digest()
        return int.from_bytes(drawn[:4], "big") % 100 < self.scheme.sample_percent


def _standing_of(marks: Mapping[str, Mark], alone: Worth, twice: bool) -> Standing:
    first, second, settled = (marks.get(one) for one in (Round.FIRST, Round.SECOND, Round.SETTLED))
    if settled is not None and settled.points is not None:
        return Standing(marks, _worth(settled, alone), wants_second=twice)
    if first is None or first.points is None:
        return Standing(marks, alone, wants_second=twice)
    if second is not None and second.points is not None and second.points != first.points:
        return Standing(marks, Worth(None), wants_second=twice, differs=True)
    if twice and (second is None or second.points is None):
        return Standing(marks, Worth(None), wants_second=True)
    return Standing(marks, _worth(first, alone), wants_second=twice)


def _worth(mark: Mark, alone: Worth) -> Worth:
    return alone if mark.points is None else Worth(mark.points, not_attempted=mark.not_attempted)


def same_answer(one: Edition, other: Edition, question: str) -> bool:
    """Whether two editions hold the same answer: its pages, their recipes, where it begins, what was typed."""

    def answer(edition: Edition) -> tuple[object, ...]:
        laid = overlaid(edition).arrangement
        recipes = {page.page_id: page.recipe for page in edition.pages.all()}
        spots = tuple((spot.page, spot.top, recipes.get(spot.page)) for spot in laid.pages_of(question))
        typed = next((row.sha256 for row in edition.answers.all() if row.question == question), "")
        return spots, typed, question in laid.left_blank

    return answer(one) == answer(other)


def work_of(
    assignment: Assignment, reach: Reach | None = None, folios: Collection[int] | None = None, *, pages: bool = True
) -> list[MarkedFolio]:
    """By the students' names; only what ``reach`` reads (None: all of it), and only of these ``folios``. ``pages``:
    with the pages of each, which who only counts does without."""
    newest = Edition.objects.filter(folio=OuterRef("folio")).order_by("-number").values("pk")[:1]
    editions = Edition.objects.filter(folio__assignment=assignment, pk=Subquery(newest), taken_back_at=None)
    if reach is not None:
        editions = editions.filter(folio__in=reach.folios(assignment))
    if folios is not None:
        editions = editions.filter(folio__in=folios)
    editions = editions.select_related("folio__student", "folio__section").defer("receipt")
    counting = list(editions.prefetch_related(*_parts()[0 if pages else 1 :]))
    for edition in counting:
        edition.folio.assignment = assignment
    scheme = scheme_of(assignment)
    marks, earlier = _marks_of(counting)
    read = [_questions(edition.folio, reach) for edition in counting]
    work = [
        MarkedFolio(edition, questions, scheme, marks, earlier.get(edition.folio_id, []))
        for edition, questions in zip(counting, read, strict=True)
    ]
    return sorted(work, key=lambda one: (one.facts.student.split()[-1:], one.facts.student, one.folio.pk))


def marked_folio(edition: Edition, questions: frozenset[str] | None = None) -> MarkedFolio:
    """The counting edition of one folio; ``questions``: those that are read."""
    marks, earlier = _marks_of([edition])
    scheme = scheme_of(edition.folio.assignment)
    return MarkedFolio(edition, questions, scheme, marks, earlier.get(edition.folio_id, []))


def _parts() -> tuple[Prefetch[Any] | str, ...]:
    return (Prefetch("pages", EditionPage.objects.order_by("number")), "answers", "reader_placements__by")


def _questions(folio: Folio, reach: Reach | None) -> frozenset[str] | None:
    return None if reach is None else reach.questions(folio)


def _marks_of(
    counting: Iterable[Edition],
) -> tuple[dict[tuple[int, str], dict[str, Mark]], dict[int, list[Edition]]]:
    """All marks of these folios, by edition and question, then by round; and their earlier editions that carry some,
    the newest first."""
    folios = {edition.folio_id: edition for edition in counting}
    marks: dict[tuple[int, str], dict[str, Mark]] = defaultdict(dict)
    rows = Mark.objects.filter(edition__folio__in=folios).select_related("by", "edition")
    older: set[int] = set()
    for mark in rows:
        marks[mark.edition_id, mark.question][mark.round] = mark
        if mark.edition_id != folios[mark.edition.folio_id].pk:
            older.add(mark.edition_id)
    earlier: dict[int, list[Edition]] = defaultdict(list)
    for edition in Edition.objects.filter(pk__in=older).order_by("-number").prefetch_related(*_parts()):
        earlier[edition.folio_id].append(edition)
    return marks, earlier
