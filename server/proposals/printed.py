"""Pages of a printed sheet find their own place: which page of the paper each is, and what is answered on it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import cv2
import numpy as np
from django.db import transaction
from numpy.typing import NDArray

from assignments.models import Assignment
from assignments.telling_papers import SURE, Told, papers_of, told
from courses.models import Enrolment
from folio_core import clock
from folio_core.page import Advice
from folio_core.placing import Arrangement, Placement, read_arrangement
from folio_core.placing.better_picture import Drawback, PagePicture, better_of
from folio_core.question_map import QuestionMap
from folios.arrangements import current, store
from folios.events import PlacedBySheet
from folios.locking import locked
from folios.models import Folio, record
from pages.models import Page

from .models import ReadPage


def sheet_in(pixels: NDArray[np.uint8], best: Told | None) -> dict[str, Any]:
    """What is kept of a prepared page: paper and page of it, how sure, copy, where on it each answer begins, what is
    written. ``best``: which page of which paper it is."""
    from folio_core.forms import written_on  # its libraries are large, and only the worker needs them
    from folio_core.forms.number_boxes import digits_in
    from folio_core.reading.engine import usual_engine

    if best is None:
        return {"page": None}
    found = best.found
    back = np.linalg.inv(found.homography)
    tops: dict[str, float] = {}
    for question, boxes in best.spaces.items():
        here = [box for box in boxes if int(box[0]) == found.page]
        if here:
            spot = cv2.perspectiveTransform(np.array([[[here[0][1], here[0][2]]]], np.float64), back)[0, 0]
            tops[question] = float(np.clip(spot[1] / pixels.shape[0], 0, 1))
    boxes_of = {question: [tuple(box) for box in boxes] for question, boxes in best.spaces.items()}
    written = written_on(pixels, best.form, found, boxes_of)  # type: ignore[arg-type]
    sheet = {
        "paper": best.paper, "page": found.page, "confidence": found.confidence, "copy": best.copy, "tops": tops,
        "empty": written.empty, "ink": written.ink_mm2, "covered": written.is_covered,
    }  # fmt: skip
    if best.is_marked and best.copy == 0 and found.page == 0:  # our own print, with boxes for the number
        sheet["digits"] = digits_in(pixels, best.form.pages[0], found.homography, usual_engine())
    return sheet


def page_seen(pixels: NDArray[np.uint8], assignment: Assignment) -> int | None:
    """Of the paper, from 0, that a small picture shows for sure."""
    best = told(pixels, assignment, is_sheet=False)
    return int(best.found.page) if best is not None and best.found.confidence >= SURE else None


@transaction.atomic
def place_sheets(folio_id: int, now: datetime) -> None:
    """Lay pages that are surely told in the order of the paper, and place what is answered on them. Only pages on which
    nothing is placed, and each only once: what a person does with it afterwards stands."""
    folio = locked(folio_id)
    try:
        clock.require_placing(folio.window(), now)
    except clock.SittingClosed:
        return
    arrangement = current(folio)
    sheets = {row.page_id: row for row in told_pages(folio) if row.page_id in arrangement.pages}
    new = [
        row
        for page, row in sheets.items()
        if not row.is_placed and page not in arrangement.placed_pages and page not in arrangement.loose
    ]
    if not new:
        return
    ReadPage.objects.filter(pk__in=[row.pk for row in new]).update(is_placed=True)
    placed = arrangement
    for row in new:
        placed = _with_answers(placed, row, folio.assignment.question_map)
    by_itself = [page for page, row in sheets.items() if row.is_placed or row in new]
    placed = replace(placed, order=_in_papers_order(placed.order, by_itself, [row.page_id for row in new], sheets))
    stored = read_arrangement(folio.arrangement)
    store(folio, placed.with_hidden_of(stored, folio.assignment.question_map))
    labels = {one.id: one.label for one in folio.assignment.question_map.questions}
    for row in sorted(new, key=lambda row: int(row.kept_sheet["page"])):
        found = sorted(
            labels[one] for one in row.kept_sheet["tops"] if one in labels and row.page_id in _pages_of(placed, one)
        )
        told = PlacedBySheet(page=row.page_id, sheet=row.kept_sheet["page"] + 1, labels=found)
        record(folio, told, now)


def _pages_of(arrangement: Arrangement, question: str) -> set[int]:
    return {spot.page for spot in arrangement.pages_of(question)}


def _with_answers(arrangement: Arrangement, row: ReadPage, question_map: QuestionMap) -> Arrangement:
    """What seems empty is left to its student to say; what left the map since is left out."""
    placements = dict(arrangement.placements)
    for question, top in row.kept_sheet["tops"].items():
        if question in row.kept_sheet["empty"] or question in arrangement.left_blank:
            continue
        if question in question_map:
            placements[question] = (*placements.get(question, ()), Placement(row.page_id, top))
    return replace(arrangement, placements=placements)


def _in_papers_order(
    order: tuple[int, ...], told: Sequence[int], new: Sequence[int], sheets: dict[int, ReadPage]
) -> tuple[int, ...]:
    """The told pages change places among themselves, unless somebody had put those before in another order."""
    number = {page: int(sheets[page].kept_sheet["page"]) for page in told}
    before = [number[page] for page in order if page in number and page not in new]
    if before != sorted(before):
        return order
    turns = iter(sorted((page for page in order if page in number), key=lambda page: number[page]))
    return tuple(next(turns) if page in number else page for page in order)


def told_pages(folio: Folio) -> list[ReadPage]:
    """Of pages that are ready and whose sheet is surely known, as their image is now; none where the paper is not, or
    not any more, written on."""
    if not folio.assignment.on_paper:
        return []
    rows = ReadPage.objects.filter(page__folio=folio, page__state=Page.State.READY).select_related("page")
    return [
        row
        for row in rows
        if row.image == row.page.image and row.kept_sheet.get("page") is not None
        if row.kept_sheet["confidence"] >= SURE
    ]


def numbers_in_boxes(folio: Folio, pages: Collection[int]) -> Iterator[tuple[int, str]]:
    """Of these pages those in whose boxes another student's number is written, as surely as the roster lets one say."""
    written = [row for row in told_pages(folio) if row.page_id in pages and row.kept_sheet.get("digits")]
    if not written:
        return
    from folio_core.forms.number_boxes import likeliest

    roster = Enrolment.objects.filter(course=folio.assignment.course_id, role=Enrolment.Role.STUDENT)
    numbers = {*roster.values_list("person__number", flat=True), folio.student.number} - {""}
    for row in written:
        found = likeliest(row.kept_sheet["digits"], numbers)
        if found is not None and found[0] != folio.student.number and found[1] >= SURE:
            yield row.page_id, found[0]


@dataclass(frozen=True, slots=True)
class WorsePage:
    """A page that is there twice, and what is worse about it than about the better one."""

    page: int
    drawback: Drawback | Advice


@dataclass(frozen=True, slots=True)
class Twice:
    """Pages of the folio that are the same page of the paper. ``better``: which of them shows all that is written, and
    plainest, ``worse`` the others; None where each may show what the others do not."""

    pages: tuple[int, ...]
    better: int | None
    worse: tuple[WorsePage, ...]


@dataclass(frozen=True, slots=True)
class Sheets:
    """``waiting``: pages that are still to be looked at. ``pages``: how many the paper has; ``missing``: those with
    answers that are not here, from 1; ``empty``: questions, by id, in whose space nothing was seen, and that are
    neither placed nor left blank; ``unknown``: pages that are of no sheet of it; ``others``: pages that are another
    student's copy. ``clean_print``: the bound document has the answers on the print itself."""

    waiting: int
    pages: int
    missing: tuple[int, ...]
    empty: tuple[str, ...]
    twice: tuple[Twice, ...]
    unknown: tuple[int, ...]
    others: tuple[int, ...]
    clean_print: bool


def sheets_of(folio: Folio) -> Sheets | None:
    """None where nothing is written on the paper itself, or no page of it is here yet."""
    assignment = folio.assignment
    if not assignment.on_paper:
        return None
    arrangement = current(folio)
    rows = {row.page_id: row for row in told_pages(folio) if row.page_id in arrangement.pages}
    if not rows:
        return None
    waiting = folio.pages.filter(pk__in=arrangement.pages, read=None).count()
    pages, missing = missing_pages(assignment, list(rows.values()))
    settled = arrangement.placed_questions | arrangement.left_blank
    empty = {one for row in rows.values() for one in row.kept_sheet["empty"]} - settled
    looked_at = ReadPage.objects.filter(page__in=arrangement.pages).exclude(kept_sheet={})
    none_of_it = set(looked_at.values_list("page_id", flat=True)) - rows.keys() - arrangement.loose
    return Sheets(
        waiting=waiting,
        pages=pages,
        missing=() if waiting else missing,
        empty=tuple(one.id for one in assignment.question_map.questions if one.id in empty),
        twice=tuple(_twice(folio, arrangement, rows)),
        unknown=tuple(page for page in arrangement.pages if page in none_of_it),
        others=tuple(page for page, row in rows.items() if not _is_own(folio, row)),
        clean_print=assignment.clean_print,
    )  # fmt: skip


def missing_pages(assignment: Assignment, rows: Sequence[ReadPage]) -> tuple[int, tuple[int, ...]]:
    """How many pages the paper has that the folio is written on, and which of those with answers are not among these
    told pages, from 1. Written on a paper that was replaced it is asked for the pages of that one; where some pages are
    of another paper, none is missing whose questions those have."""
    papers = papers_of(assignment)
    many = Counter(_paper_of(assignment, row) for row in rows)
    paper, spaces = max(papers, key=lambda one: many[one[0]])  # of equals the newer
    asked: dict[int, set[str]] = {}
    for question, boxes in spaces.items():
        for box in boxes:
            asked.setdefault(int(box[0]), set()).add(question)
    here = {int(row.kept_sheet["page"]) for row in rows if _paper_of(assignment, row) == paper}
    elsewhere = {one for row in rows if _paper_of(assignment, row) != paper for one in row.kept_sheet["tops"]}
    missing = (at + 1 for at, questions in sorted(asked.items()) if at not in here and not questions <= elsewhere)
    return max(asked, default=0) + 1, tuple(missing)


def _paper_of(assignment: Assignment, row: ReadPage) -> str:
    return str(row.kept_sheet.get("paper", assignment.question_paper.name))


def _is_own(folio: Folio, row: ReadPage) -> bool:
    return row.kept_sheet["copy"] in (0, folio.student_id)


def _twice(folio: Folio, arrangement: Arrangement, rows: dict[int, ReadPage]) -> Iterator[Twice]:
    """But for those of which the student said that all are meant."""
    same: dict[tuple[str, int], list[int]] = {}
    for page in arrangement.pages:
        if page in rows and Advice.SEEN_BEFORE not in arrangement.dismissed.get(page, ()):
            key = _paper_of(folio.assignment, rows[page]), int(rows[page].kept_sheet["page"])
            same.setdefault(key, []).append(page)
    for pages in same.values():
        if len(pages) > 1:
            is_known = all("ink" in rows[page].kept_sheet for page in pages)  # of older readings it was not kept
            better = better_of([_picture_of(folio, rows[page]) for page in pages]) if is_known else None
            worse = tuple(WorsePage(pages[at], drawback) for at, drawback in better.drawbacks.items()) if better else ()
            yield Twice(tuple(pages), pages[better.index] if better else None, worse)


def _picture_of(folio: Folio, row: ReadPage) -> PagePicture:
    sheet, measures = row.kept_sheet, row.page.findings["measures"]
    return PagePicture(
        _is_own(folio, row), sheet["ink"], sheet["covered"], [one["code"] for one in row.page.advice],
        measures["blur_sigma_px"], measures["resolution_dpi"],
    )  # fmt: skip
