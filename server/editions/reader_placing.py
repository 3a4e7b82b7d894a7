"""Who reads an edition places what its student left unplaced: over the edition, which stays as it is."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from datetime import datetime

from django.db import transaction

from folio_core.placing import Arrangement, Placement, read_arrangement
from folios.events import PlacedByReader
from folios.locking import locked
from folios.models import record
from people.models import User
from plumbing.errors import Refused

from .models import Edition, ReaderPlacement


@dataclass(frozen=True, slots=True)
class Overlaid:
    """An edition's arrangement with what its readers placed. ``by``: who placed it, by question and page."""

    arrangement: Arrangement
    by: dict[tuple[str, int], str]


@transaction.atomic
def place(
    edition: Edition, number: int, questions: Collection[str], *, by: User, now: datetime, top: float | None = None
) -> None:
    """Questions, by id, on a page, by number. Only where the student placed nothing: on a page that carries nothing of
    theirs, or a question that they placed nowhere. Placed already, nothing happens. Raises Refused."""
    locked(edition.folio_id)
    arrangement, facts = read_arrangement(edition.arrangement), edition.facts
    page = _page(arrangement, number)
    for question in questions:
        if question not in facts.question_map:
            raise Refused(422, "question", "A question is named that is not on this edition's question map.")
        label = facts.question_map[question].label
        if page in arrangement.placed_pages and arrangement.pages_of(question):
            raise Refused(409, "placed", f"The student placed {label} already, and page {number} too: that stands.")
        _, new = ReaderPlacement.objects.get_or_create(
            edition=edition, question=question, page_id=page, defaults={"by": by, "at": now, "top": top}
        )
        if new:
            record(edition.folio, PlacedByReader(edition=edition.number, label=label, page=number, by=by.name), now)


@transaction.atomic
def take_off(edition: Edition, number: int, question: str, *, by: User, now: datetime) -> None:
    """What a reader placed; what the student placed cannot be taken off."""
    locked(edition.folio_id)
    page = _page(read_arrangement(edition.arrangement), number)
    gone, _ = ReaderPlacement.objects.filter(edition=edition, question=question, page_id=page).delete()
    if gone:
        label = edition.facts.question_map[question].label
        event = PlacedByReader(edition=edition.number, label=label, page=number, by=by.name, taken_off=True)
        record(edition.folio, event, now)


def overlaid(edition: Edition) -> Overlaid:
    arrangement = read_arrangement(edition.arrangement)
    rows = list(edition.reader_placements.all())  # often fetched ahead, with those of other editions
    if not rows:
        return Overlaid(arrangement, {})
    placements = {question: list(row) for question, row in arrangement.placements.items()}
    by: dict[tuple[str, int], str] = {}
    for row in rows:
        if all(spot.page != row.page_id for spot in placements.setdefault(row.question, [])):
            placements[row.question].append(Placement(row.page_id, row.top))
            by[row.question, row.page_id] = row.by.name
    laid = replace(
        arrangement, placements={question: tuple(row) for question, row in placements.items()},
        left_blank=arrangement.left_blank - {row.question for row in rows},
        loose=arrangement.loose - {row.page_id for row in rows},
    )  # fmt: skip
    return Overlaid(laid, by)


def _page(arrangement: Arrangement, number: int) -> int:
    if not 1 <= number <= len(arrangement.pages):
        raise Refused(422, "page", f"This edition has {len(arrangement.pages)} pages.")
    return arrangement.pages[number - 1]
