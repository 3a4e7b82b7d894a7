"""The proposal of a folio, made of what was read of its pages and of what its student has placed already."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from django.db import transaction

from courses.models import Enrolment
from folio_core.placing import Arrangement
from folio_core.placing.folio_evidence import as_this_hand_labels
from folio_core.placing.label_evidence import label_chance
from folio_core.placing.nodes import Nodes
from folio_core.placing.page_evidence import PageEvidence
from folio_core.placing.proposal import MISSING_SAID, SAID, Proposal, ProposedPlace, propose
from folio_core.question_map import QuestionMap
from folio_core.reading import Mark, PageReading
from folios.arrangements import current
from folios.models import Folio, folio_topic
from live.announcing import announce
from pages.models import Page

from .models import KeptProposal, ReadPage
from .printed import numbers_in_boxes, told_pages
from .queueing import enqueue_proposing
from .reading import is_wanted

ORDER_SAID = 0.6
_NUMBER = re.compile(r"\d{3,}")
_WORK = re.compile(
    r"(?:sheet|set|assignment|homework|exercises?|hw|ps|test|quiz|lab)\W{0,3}(?:no\.?\s*)?(\d{1,2})\b", re.I
)
SURE = 0.95  # what is said against what a person placed
_PLAINLY = 0.8  # the same, beside what names nothing of the map
_VERSION = 14  # of the model: of another one a kept proposal is old


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
    on a page on which others were placed. ``doubled``: questions whose label begins an answer on pages that do not
    follow each other. ``others``: pages that carry another student's number. ``elsewhere``: pages at whose head another
    assignment of the course is named."""

    unread: int
    order: tuple[int, ...]
    order_confidence: float
    places: tuple[Place, ...]
    loose: tuple[int, ...]
    missing: tuple[str, ...]
    outside: tuple[tuple[int, str], ...]
    doubts: tuple[tuple[int, str], ...] = ()
    doubled: tuple[tuple[str, tuple[int, ...]], ...] = ()
    others: tuple[tuple[int, str], ...] = ()
    elsewhere: tuple[tuple[int, str], ...] = ()


NOTHING = Suggestion(0, (), 0.0, (), (), (), ())


def suggestion_for(folio: Folio, *, keeps_order: bool) -> Suggestion:
    """What was worked out last, as far as it still concerns what is there; where it is old, it is asked for anew.

    ``keeps_order``: the student has said that the pages are in their order.
    """
    if not is_wanted(folio):
        return NOTHING
    known = _known(folio)
    kept = KeptProposal.objects.filter(folio=folio).first()
    if known.pages and (kept is None or kept.basis != known.basis):
        enqueue_proposing(folio.pk, folio.window())
    if kept is None:
        return Suggestion(known.unread, (), 0.0, (), (), (), ())
    proposal = _read_document(kept.in_order if keeps_order or known.on_sheets else kept.document)
    made = _suggestion(proposal, kept.pages, known)
    others = dict(_of_others(folio, known.read)) | dict(numbers_in_boxes(folio, known.pages))
    elsewhere = _of_other_work(folio, known.read)
    return replace(made, others=tuple(sorted(others.items())), elsewhere=tuple(elsewhere))


def propose_for(folio_id: int) -> None:
    """Work out what the readings of a folio suggest, in the worker: it takes as long as reading a page. What has not
    changed is not worked out again."""
    folio = Folio.objects.select_related("assignment__course", "student").filter(pk=folio_id).first()
    if folio is None or not is_wanted(folio):
        return
    known = _known(folio)
    if not known.pages or KeptProposal.objects.filter(folio=folio, basis=known.basis).exists():
        return
    evidence = [
        PageEvidence(known.read[pk], known.held.get(pk), pk in known.arrangement.loose, *known.sent[pk])
        for pk in known.pages
    ]
    in_order = propose(evidence, known.question_map, order_is_known=True)
    made = in_order if known.unread else propose(evidence, known.question_map)
    said = [[one.question, known.pages[one.page], one.confidence] for one in made.places if one.confidence >= SAID]
    fields = {
        "basis": known.basis, "pages": known.pages, "document": _document(made), "in_order": _document(in_order),
        "said": said,
    }  # fmt: skip
    with transaction.atomic():
        KeptProposal.objects.update_or_create(folio=folio, defaults=fields)
        announce(folio_topic(folio.pk), suggested=known.basis)


def suggested(folio: Folio) -> str | None:
    """Another word for each suggestion, "" before the first; None where nothing is to be read."""
    if not is_wanted(folio):
        return None
    return KeptProposal.objects.filter(folio=folio).values_list("basis", flat=True).first() or ""


@dataclass(frozen=True, slots=True)
class _Known:
    """What a proposal is made of; of a printed sheet that is told no labels, which are printed on it. ``pages``: those
    that are read, in order; ``sent``: when each was taken, and the name of its file; ``on_sheets``: some are told by
    their print; ``basis``: a hash of all of it."""

    arrangement: Arrangement
    question_map: QuestionMap
    pages: list[int]
    read: dict[int, PageReading]
    held: dict[int, tuple[str, ...]]
    sent: dict[int, tuple[str, str]]
    unread: int
    on_sheets: bool
    basis: str


def _known(folio: Folio) -> _Known:
    arrangement, question_map = current(folio), folio.assignment.question_map.on_pages
    ready = set(folio.pages.filter(pk__in=arrangement.pages, state=Page.State.READY).values_list("pk", flat=True))
    rows = ReadPage.objects.filter(page__in=ready).select_related("page__original")
    sent = {row.page_id: (row.page.taken, row.page.original.file_name) for row in rows}
    read = {row.page_id: row.reading for row in rows if row.image == row.page.image}
    # Printed sheets say themselves what is where and in which order; labels in print only say it once more.
    told = {row.page_id for row in told_pages(folio)} & read.keys() if folio.assignment.answer_spaces else set()
    read |= {page: replace(read[page], marks=()) for page in told}
    pages = [pk for pk in arrangement.pages if pk in read]
    held, unread = dict.fromkeys(told, ()) | _held(arrangement), len(ready) - len(pages)
    basis = _hash(
        [_VERSION, pages, unread > 0, [read[pk].as_document() for pk in pages], sorted(arrangement.loose),
         [held.get(pk) for pk in pages], [sent[pk] for pk in pages], question_map.as_document()]
    )  # fmt: skip
    return _Known(arrangement, question_map, pages, read, held, sent, unread, bool(told), basis)


def numbers_of_others(folio: Folio, pages: Iterable[int]) -> dict[int, str]:
    """Pages at whose head another student's number is read, with that number; for the staff who read the folio."""
    rows = ReadPage.objects.filter(page__in=pages)
    read = {row.page_id: row.reading for row in rows}
    return dict(_of_others(folio, read)) | dict(numbers_in_boxes(folio, read))


def _of_others(folio: Folio, read: Mapping[int, PageReading]) -> Iterator[tuple[int, str]]:
    """Pages that carry the number of another student of the course at their head, and not one's own."""
    carried = {page: set(_NUMBER.findall(reading.header)) for page, reading in read.items()}
    if not any(carried.values()):
        return
    roster = Enrolment.objects.filter(course=folio.assignment.course_id, role=Enrolment.Role.STUDENT)
    numbers = set(roster.exclude(person=folio.student_id).values_list("person__number", flat=True)) - {""}
    for page, found in sorted(carried.items()):
        if folio.student.number not in found:
            yield from ((page, number) for number in sorted(found & numbers))


def _of_other_work(folio: Folio, read: Mapping[int, PageReading]) -> Iterator[tuple[int, str]]:
    """Pages whose head names another assignment of the course by its number ("Set 4"), and not this one."""
    named = {page: set(_WORK.findall(reading.header)) for page, reading in read.items()}
    own = set(_WORK.findall(folio.assignment.title))
    if not own or not any(named.values()):
        return
    siblings = folio.assignment.course.assignments.filter(rehearsal_of=None).exclude(pk=folio.assignment_id)
    others = {number: title for title in siblings.values_list("title", flat=True) for number in _WORK.findall(title)}
    for page, numbers in sorted(named.items()):
        if not numbers & own:
            yield from ((page, others[number]) for number in sorted(numbers & others.keys()))


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


def _suggestion(made: Proposal, pages: Sequence[int], known: _Known) -> Suggestion:
    """``pages``: those of the proposal. What is no more, or was settled since, is left out."""
    arrangement, question_map, read, held = known.arrangement, known.question_map, known.read, known.held

    nodes = Nodes(question_map)
    labelled = zip(read, as_this_hand_labels(list(read.values()), nodes), strict=True)
    surely = {page: _surely_read(reading, nodes) for page, reading in labelled}

    def is_open(page: int) -> bool:
        return page in read and page not in held and page not in arrangement.loose

    places = tuple(
        Place(one.question, pages[one.page], one.top, one.confidence, _reason(read[pages[one.page]], one, question_map))
        for one in made.places
        if one.confidence >= SAID and is_open(pages[one.page])
        if one.question in question_map and one.question not in arrangement.left_blank
    )
    order = tuple(pages[at] for at in made.order)
    is_whole = set(order) == set(arrangement.pages)
    has_labels = any(one.mark is not None for one in made.places)
    other = is_whole and has_labels and order != arrangement.pages and made.order_confidence >= ORDER_SAID
    missing = tuple(
        question
        for question, share in made.missing.items()
        if share >= MISSING_SAID and question in question_map
        if not arrangement.pages_of(question) and question not in arrangement.left_blank
    )
    likely_loose = [pages[at] for at, share in made.loose.items() if share >= SAID]
    return Suggestion(
        unread=known.unread,
        order=order if other else (),
        order_confidence=made.order_confidence if other else 0.0,
        places=places,
        loose=tuple(page for page in likely_loose if is_open(page)),
        missing=missing if has_labels and is_whole else (),
        outside=tuple((pages[at], text) for at, _, text in made.outside if pages[at] in read),
        doubts=tuple(_doubts(held, surely, question_map)),
        doubled=tuple(_doubled(known, surely, set(_begun(made, pages, read)))),
    )


def _doubts(
    held: Mapping[int, tuple[str, ...]], surely: Mapping[int, Set[str]], question_map: QuestionMap
) -> Iterator[tuple[int, str]]:
    """Labels that are read ``surely`` on a page and are not placed there."""
    for page, labels in surely.items():
        for question in question_map.questions if page in held else ():
            if question.label in labels and question.id not in held[page]:
                yield page, question.id


def _doubled(
    known: _Known, surely: Mapping[int, Set[str]], begun: Set[tuple[str, int]]
) -> Iterator[tuple[str, tuple[int, ...]]]:
    """Questions that begin on two pages that do not follow each other: their label is ``surely`` read there, or they
    are proposed as ``begun``. "2 continued" is no such one."""
    pages = [page for page in known.arrangement.pages if page in surely]
    for question in known.question_map.questions:
        on = [page for page in pages if (question.id, page) in begun or question.label in surely[page]]
        apart = [pages.index(then) - pages.index(now) > 1 for now, then in pairwise(on)]
        if any(apart) and not all(question.id in known.held.get(page, ()) for page in on):
            yield question.id, tuple(on)


def _begun(made: Proposal, pages: Sequence[int], read: Mapping[int, PageReading]) -> Iterator[tuple[str, int]]:
    """Questions and the pages on which they are said to begin; none that are continued there."""
    for one in made.places:
        page = pages[one.page]
        mark = _mark_of(read[page], one) if page in read and one.confidence >= SAID else None
        if mark is not None and mark.candidates and not mark.candidates[0].text.endswith("~"):
            yield one.question, page


def _surely_read(reading: PageReading, nodes: Nodes) -> frozenset[str]:
    """Labels. What names nothing of the map ("16" beside 1b) is hardly a rival. On the 153 held-out folios of the bench
    1179 places are read so surely, and one wrongly; 926, and the same one, if it were a rival like any other."""
    found = set()
    for mark in reading.marks:
        if not mark.candidates or label_chance(mark) < SURE:
            continue
        best = mark.candidates[0]
        on_map = sum(one.probability for one in mark.candidates if nodes.says(one.text.rstrip("~")).any())
        if best.probability >= SURE * on_map and best.probability >= _PLAINLY * (1 - mark.nothing):
            found.add(best.text)
    return frozenset(found)


def _mark_of(reading: PageReading, place: ProposedPlace) -> Mark | None:
    """What says so; None where nothing does, or the page was read anew since."""
    if place.mark is None or place.mark >= len(reading.marks):
        return None
    return reading.marks[place.mark]


def _reason(reading: PageReading, place: ProposedPlace, question_map: QuestionMap) -> Reason | None:
    found = _mark_of(reading, place)
    if found is None:
        return None
    label = question_map[place.question].label
    said = [one.text.rstrip("~") for one in found.candidates]
    fitting = next((text for text in said if text and label.endswith(text)), label)
    return Reason(fitting, found.left, found.top, found.width, found.height)
