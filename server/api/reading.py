"""Receipts, and folios to read: drafts and editions."""

from __future__ import annotations

from collections.abc import Iterable

from django.http import FileResponse, HttpRequest, JsonResponse
from ninja import Router

from folio_core import clock
from folio_core.placing import Arrangement
from inkedfolio.errors import Problem, Refused, not_yours
from inkedfolio.requests import moment, person
from people.models import User

from .access import own_folio, readable_folio
from .api import attachment
from .arranging import current, read
from .handing_in import file_stem
from .models import Edition, EditionPage, Folio, Page
from .rehearsing import looked_back_on
from .schemas import (
    LookBackOut,
    ReadingOut,
    ReadingPage,
    ReadingQuestion,
    ReadingSpot,
    ReceiptOut,
    ReceiptPage,
    StepOut,
)
from .showing import assignment_out, edition_line, image_url, rail_events, window_out

router = Router(tags=["reading"])


def _edition(user: User, folio_id: int, number: int) -> Edition:
    folio = readable_folio(user, folio_id)
    edition = folio.editions.filter(number=number).first()
    if edition is None:
        raise not_yours()
    edition.folio = folio
    return edition


def _labels(arrangement: Arrangement, folio: Folio) -> dict[int, list[str]]:
    """What each page answers, in the order of the map."""
    labels: dict[int, list[str]] = {page: [] for page in arrangement.order}
    for label in folio.assignment.outline.labels:
        for spot in arrangement.pages_of(label):
            labels[spot.page].append(label)
    return labels


@router.get("/folios/{int:folio_id}/editions/{int:number}", response={200: ReceiptOut, 404: Problem})
def receipt(request: HttpRequest, folio_id: int, number: int) -> ReceiptOut:
    edition = _edition(person(request), folio_id, number)
    folio, now = edition.folio, moment()
    editions = list(folio.editions.all())
    arrangement = read(edition.arrangement)
    labels = _labels(arrangement, folio)
    window = folio.window()
    open_still = clock.verdict(window, now) is not clock.Verdict.REFUSED
    return ReceiptOut(
        folio_id=folio.pk, assignment=assignment_out(folio.assignment), number=edition.number,
        newest=editions[0].number, handed_in_at=edition.handed_in_at, verdict=edition.verdict,  # type: ignore[arg-type]
        late_seconds=edition.late_seconds, automatic=edition.automatic, window=window_out(window, now),
        events=rail_events(folio), look_back=_look_back(edition),
        state=edition.state, page_count=edition.page_count, bound_sha256=edition.bound_sha256,  # type: ignore[arg-type]
        bound_size=edition.bound_size, comment=edition.comment,
        pages=[_receipt_page(page, labels) for page in edition.pages.select_related("page__original")],
        open_labels=edition.open_labels, left_blank=sorted(arrangement.left_blank), open_pages=edition.open_pages,
        editions=[edition_line(one) for one in editions],
        replace_until=window.closes if open_still else None,
    )  # fmt: skip


def _look_back(edition: Edition) -> LookBackOut | None:
    if edition.folio.assignment.rehearsal_of_id is None:
        return None
    told = looked_back_on(edition)
    steps = [StepOut(words=step.words, seconds=step.seconds) for step in told.steps]
    return LookBackOut(steps=steps, seconds_a_page=told.seconds_a_page, better=list(told.better))


def _receipt_page(frozen: EditionPage, labels: dict[int, list[str]]) -> ReceiptPage:
    original = frozen.page.original
    return ReceiptPage(
        number=frozen.number, file_name=original.file_name, index=frozen.page.index, sha256=original.sha256,
        size=original.size, arrived=original.arrived_at, promised=original.promised_at, verdict=original.verdict,  # type: ignore[arg-type]
        late_seconds=original.late_seconds, labels=labels[frozen.page_id], original_id=original.pk,
    )  # fmt: skip


@router.get("/folios/{int:folio_id}/editions/{int:number}/bound.pdf", response={200: None})
def bound_pdf(request: HttpRequest, folio_id: int, number: int) -> FileResponse:
    edition = _bound(person(request), folio_id, number)
    return attachment(edition.stored_as, f"{file_stem(edition)}.pdf", "application/pdf")


@router.get("/folios/{int:folio_id}/editions/{int:number}/receipt.json", response={200: None})
def receipt_file(request: HttpRequest, folio_id: int, number: int) -> JsonResponse:
    """The signed receipt, for `./folio core verify` or anybody with an Ed25519 library."""
    edition = _bound(person(request), folio_id, number)
    response = JsonResponse(edition.receipt)
    response["Content-Disposition"] = f'attachment; filename="{file_stem(edition)}-receipt.json"'
    return response


def _bound(user: User, folio_id: int, number: int) -> Edition:
    edition = _edition(user, folio_id, number)
    if edition.state != Edition.State.BOUND:
        raise Refused(409, "binding", "This edition is being bound. It is handed in; the file follows in a moment.")
    return edition


@router.get("/folios/{int:folio_id}/draft", response={200: ReadingOut, 404: Problem})
def draft(request: HttpRequest, folio_id: int) -> ReadingOut:
    """The folio as it would be bound now; for its student only."""
    folio = own_folio(person(request), folio_id)
    arrangement = current(folio)
    pages = folio.pages.in_bulk(arrangement.pages)
    return _reading(folio, arrangement, [(pk, pages[pk]) for pk in arrangement.pages], None)


@router.get("/folios/{int:folio_id}/editions/{int:number}/reading", response={200: ReadingOut, 404: Problem})
def edition_reading(request: HttpRequest, folio_id: int, number: int) -> ReadingOut:
    edition = _edition(person(request), folio_id, number)
    frozen = [(page.page_id, page) for page in edition.pages.all()]
    return _reading(edition.folio, read(edition.arrangement), frozen, edition)


def _reading(
    folio: Folio, arrangement: Arrangement, pages: Iterable[tuple[int, Page | EditionPage]], edition: Edition | None
) -> ReadingOut:
    numbers = {pk: number for number, pk in enumerate(arrangement.pages, 1)}
    labels = _labels(arrangement, folio)
    return ReadingOut(
        folio_id=folio.pk,
        edition=edition.number if edition else None,
        handed_in_at=edition.handed_in_at if edition else None,
        comment=edition.comment if edition else arrangement.comment,
        student=folio.student.name,
        student_number=folio.student.number,
        assignment=assignment_out(folio.assignment),
        questions=[
            ReadingQuestion(
                label=item.label,
                title=item.title,
                points=item.points,
                state=_state(item.label, arrangement),
                spots=[ReadingSpot(page=numbers[s.page], top=s.top) for s in arrangement.pages_of(item.label)],
            )
            for item in folio.assignment.outline.items
        ],
        pages=[
            ReadingPage(
                number=numbers[pk], image=image_url(folio.pk, page.image), preview=image_url(folio.pk, page.preview),
                width=page.width, height=page.height, labels=labels[pk], loose=pk in arrangement.loose,
                note=arrangement.notes.get(pk, ""),
            )
            for pk, page in pages
        ],
    )  # fmt: skip


def _state(label: str, arrangement: Arrangement):  # type: ignore[no-untyped-def]
    if label in arrangement.placed_labels:
        return "placed"
    return "left_blank" if label in arrangement.left_blank else "open"
