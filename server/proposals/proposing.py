"""The proposal of a folio, made of what was read of its pages and of what its student has placed already."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from courses.models import Enrolment
from folio_core.placing import Arrangement
from folio_core.placing.proposal import SAID, PageEvidence, Proposal, ProposedPlace, label_chance, propose
from folio_core.question_map import QuestionMap
from folio_core.reading import PageReading
from folios.arrangements import current
from folios.models import Folio
from pages.models import Page

from .models import KeptProposal, ReadPage
from .reading import is_wanted

CLAIMED_MISSING = 0.8
ORDER_SAID = 0.6
_NUMBER = re.compile(r"\d{3,}")
SURE = 0.95  # what is said against what a person placed
_VERSION = 2  # of the model: of another one a kept proposal is old


@dataclass(frozen=True, slots=True)
class Reason:
    """What was read, and where, as shares of the page."""

    says: str
    left: float
    top: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Place:
    question: str
    page: int
    top: float | None
    confidence: float
    reason: Reason | None


@dataclass(frozen=True, slots=True)
class Suggestion:
    """``unread``: pages that are still to be read. ``order``: page ids, where another order than the present one is
    likelier, else empty. ``outside``: labels that the map lacks, with their page. ``doubts``: questions that are read
    on a page on which others were placed. ``others``: pages that carry another student's number."""

    unread: int
    order: tuple[int, ...]
    order_confidence: float
    places: tuple[Place, ...]
    loose: tuple[int, ...]
    missing: tuple[str, ...]
    outside: tuple[tuple[int, str], ...]
    doubts: tuple[tuple[int, str], ...] = ()
    others: tuple[tuple[int, str], ...] = ()


NOTHING = Suggestion(0, (), 0.0, (), (), (), ())


def suggestion_for(folio: Folio, *, keeps_order: bool) -> Suggestion:
    """``keeps_order``: the student has said that the pages are in their order."""
    if not is_wanted(folio):
        return NOTHING
    arrangement = current(folio)
    order = list(arrangement.pages)
    ready = set(folio.pages.filter(pk__in=order, state=Page.State.READY).values_list("pk", flat=True))
    rows = ReadPage.objects.filter(page__in=ready)
    read = {row.page_id: row.reading for row in rows.select_related("page") if row.image == row.page.image}
    pages = [pk for pk in order if pk in read]
    unread = len(ready) - len(pages)
    if not pages:
        return Suggestion(unread, (), 0.0, (), (), (), ())
    proposal = _kept_or_made(folio, arrangement, pages, read, known=keeps_order or unread > 0)
    made = _suggestion(proposal, pages, read, arrangement, folio.assignment.question_map, unread)
    return replace(made, others=tuple(_of_others(folio, pages, read)))


def _of_others(folio: Folio, pages: Sequence[int], read: Mapping[int, PageReading]) -> Iterator[tuple[int, str]]:
    """Pages that carry the number of another student of the course at their head, and not one's own."""
    carried = {page: set(_NUMBER.findall(read[page].header)) for page in pages}
    if not any(carried.values()):
        return
    roster = Enrolment.objects.filter(course=folio.assignment.course_id, role=Enrolment.Role.STUDENT)
    known = set(roster.exclude(person=folio.student_id).values_list("person__number", flat=True)) - {""}
    for page, numbers in carried.items():
        if folio.student.number not in numbers:
            yield from ((page, number) for number in sorted(numbers & known))


def _kept_or_made(
    folio: Folio, arrangement: Arrangement, pages: Sequence[int], read: Mapping[int, PageReading], *, known: bool
) -> Proposal:
    question_map = folio.assignment.question_map
    held = _held(arrangement)
    basis = _hash(
        [_VERSION, pages, known, [read[pk].as_document() for pk in pages], sorted(arrangement.loose),
         [held.get(pk) for pk in pages], question_map.as_document()]
    )  # fmt: skip
    kept = KeptProposal.objects.filter(folio=folio, basis=basis).first()
    if kept is not None:
        return _read_document(kept.document)
    evidence = [PageEvidence(read[pk], held.get(pk), pk in arrangement.loose) for pk in pages]
    made = propose(evidence, question_map, order_is_known=known)
    said = [[one.question, pages[one.page], one.confidence] for one in made.places if one.confidence >= SAID]
    fields = {"basis": basis, "document": _document(made), "said": said}
    KeptProposal.objects.update_or_create(folio=folio, defaults=fields)
    return made


def _held(arrangement: Arrangement) -> dict[int, tuple[str, ...]]:
    held: dict[int, tuple[str, ...]] = {}
    for question, spots in arrangement.placements.items():
        for spot in spots:
            held[spot.page] = (*held.get(spot.page, ()), question)
    return held


def _hash(parts: list[Any]) -> str:
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


def _document(made: Proposal) -> dict[str, Any]:
    return {
        "order": list(made.order),
        "order_confidence": made.order_confidence,
        "places": [[one.question, one.page, one.top, one.confidence, one.mark] for one in made.places],
        "loose": [[page, share] for page, share in made.loose.items()],
        "missing": dict(made.missing),
        "outside": [list(one) for one in made.outside],
    }


def _read_document(kept: Mapping[str, Any]) -> Proposal:
    return Proposal(
        tuple(kept["order"]), kept["order_confidence"], tuple(ProposedPlace(*one) for one in kept["places"]),
        dict(kept["loose"]), dict(kept["missing"]),
        tuple((page, mark, text) for page, mark, text in kept["outside"]),
    )  # fmt: skip


def _suggestion(
    made: Proposal, pages: Sequence[int], read: Mapping[int, PageReading], arrangement: Arrangement,
    question_map: QuestionMap, unread: int,
) -> Suggestion:  # fmt: skip
    held = _held(arrangement)
    places = tuple(
        Place(one.question, pages[one.page], one.top, one.confidence, _reason(read[pages[one.page]], one, question_map))
        for one in made.places
        if one.confidence >= SAID and pages[one.page] not in held and one.question not in arrangement.left_blank
    )
    order = tuple(pages[at] for at in made.order)
    other = order != tuple(pages) and made.order_confidence >= ORDER_SAID
    missing = tuple(
        question
        for question, share in made.missing.items()
        if share >= CLAIMED_MISSING and not arrangement.pages_of(question) and question not in arrangement.left_blank
    )
    has_labels = any(one.mark is not None for one in made.places)
    likely_loose = [pages[at] for at, share in made.loose.items() if share >= SAID]
    return Suggestion(
        unread=unread,
        order=order if other else (),
        order_confidence=made.order_confidence if other else 0.0,
        places=places,
        loose=tuple(page for page in likely_loose if page not in arrangement.loose),
        missing=missing if has_labels and unread == 0 else (),
        outside=tuple((pages[at], text) for at, _, text in made.outside),
        doubts=tuple(_doubts(held, read, question_map)),
    )


def _doubts(
    held: Mapping[int, tuple[str, ...]], read: Mapping[int, PageReading], question_map: QuestionMap
) -> Iterator[tuple[int, str]]:
    """Labels that are read surely on a page and are not placed there."""
    by_label = {question.label: question.id for question in question_map.questions}
    for page, reading in read.items():
        for mark in reading.marks if page in held else ():
            question = by_label.get(mark.candidates[0].text) if mark.candidates else None
            if question is None or question in held[page] or label_chance(mark) < SURE:
                continue
            if mark.candidates[0].probability >= SURE * (1 - mark.nothing):
                yield page, question


def _reason(reading: PageReading, place: ProposedPlace, question_map: QuestionMap) -> Reason | None:
    if place.mark is None:
        return None
    found = reading.marks[place.mark]
    label = question_map[place.question].label
    said = [one.text.rstrip("~") for one in found.candidates]
    fitting = next((text for text in said if text and label.endswith(text)), label)
    return Reason(fitting, found.left, found.top, found.width, found.height)
