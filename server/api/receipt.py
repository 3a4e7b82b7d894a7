"""The receipt of an edition, and its files."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from django.http import FileResponse, HttpRequest, HttpResponse, JsonResponse
from django.utils.http import content_disposition_header
from ninja import Router, Schema

from editions.files import bound_name
from editions.manifest import answer_records, file_stem, receipt_as_pdf
from editions.models import Edition, EditionPage
from editions.rehearsing import looked_back_on
from folio_core import clock
from folio_core.binding import labels_by_page
from folio_core.clock import Verdict
from folio_core.placing import read_arrangement
from marking.giving_back import seen_by_student
from people.models import User
from plumbing.downloads import attachment, made_file
from plumbing.errors import Problem, Refused
from plumbing.requests import address_of, moment

from .permissions import person, readable_edition
from .schemas import AssignmentOut, ChangedOut, EditionLine, RecordedEvent, WindowOut, rail_events

router = Router(tags=["receipt"])


class ReceiptPage(Schema):
    number: int
    file_name: str
    index: int
    sha256: str
    size: int
    arrived: datetime
    promised: datetime | None
    verdict: Verdict
    late_seconds: int
    labels: list[str]
    loose: bool
    original_id: int


class NotDeliveredOut(Schema):
    """A page that was promised and had not come."""

    file_name: str
    sha256: str
    promised: datetime


class AskedOut(Schema):
    """What staff had asked for again, and this edition answers."""

    what: Literal["page", "all", "place"]
    number: int | None
    reason: str
    by: str


class TakenInByOut(Schema):
    """Staff took the pages in for the student."""

    by: str
    reason: str
    counts: datetime


class StepOut(Schema):
    words: str
    seconds: float


class LookBackOut(Schema):
    """A rehearsal looked back on: what took how long, what to do better."""

    steps: list[StepOut]
    seconds_a_page: float
    better: list[str]


class AnsweredOnScreen(Schema):
    """An answer on the screen, as the receipt lists it."""

    label: str
    kinds: list[str]
    sha256: str
    saved: datetime


class ReceiptOut(Schema):
    folio_id: int
    assignment: AssignmentOut
    student: str
    student_number: str
    number: int
    newest: int
    handed_in_at: datetime
    verdict: Verdict
    late_seconds: int
    automatic: bool
    window: WindowOut
    events: list[RecordedEvent]
    look_back: LookBackOut | None
    state: Literal["binding", "bound"]
    page_count: int
    bound_sha256: str
    file_sha256: str
    bound_size: int
    comment: str
    honour: str
    honour_confirmed: bool
    pages: list[ReceiptPage]
    not_delivered: list[NotDeliveredOut]
    bound_anew: bool
    counts_at: datetime | None
    asked: list[AskedOut]
    taken_in: TakenInByOut | None
    open_labels: list[str]
    left_blank: list[str]
    open_pages: int
    editions: list[EditionLine]
    replace_until: datetime | None
    taken_back_at: datetime | None
    is_own: bool
    on_screen: list[AnsweredOnScreen]
    changed: ChangedOut | None
    is_given_back: bool


@router.get("/folios/{int:folio_id}/editions/{int:number}", response={200: ReceiptOut, 404: Problem})
def receipt(request: HttpRequest, folio_id: int, number: int) -> ReceiptOut:
    user = person(request)
    edition = readable_edition(user, folio_id, number)
    folio, facts, now = edition.folio, edition.facts, moment()
    editions, frozen = list(folio.editions.all()), edition.pages.select_related("page__original")
    arrangement = read_arrangement(edition.arrangement)
    labels = labels_by_page(arrangement, facts.question_map.questions)
    window = folio.window()
    open_still = clock.verdict(window, now) is not clock.Verdict.REFUSED
    return ReceiptOut(
        folio_id=folio.pk, assignment=AssignmentOut.frozen(folio.assignment_id, facts), student=facts.student,
        student_number=facts.student_number, number=edition.number,
        newest=editions[0].number, handed_in_at=edition.handed_in_at, verdict=edition.verdict,  # type: ignore[arg-type]
        late_seconds=edition.late_seconds, automatic=edition.automatic, window=WindowOut.of(window, now),
        events=rail_events(folio), look_back=_look_back(edition),
        state=edition.state, page_count=edition.page_count, bound_sha256=edition.bound_sha256,  # type: ignore[arg-type]
        file_sha256=edition.file_sha256, bound_size=edition.bound_size, comment=edition.comment,
        honour=facts.honour, honour_confirmed=bool(edition.honour_confirmed),
        pages=[_receipt_page(page, labels, arrangement.loose) for page in frozen],
        not_delivered=list(facts.not_delivered),  # type: ignore[arg-type]
        counts_at=edition.counts_at, asked=list(facts.asked),  # type: ignore[arg-type]
        taken_in=facts.taken_in,  # type: ignore[arg-type]
        bound_anew=edition.bindings.count() > 1,
        open_labels=edition.open_labels, left_blank=list(facts.question_map.labels_of(arrangement.left_blank)),
        open_pages=edition.open_pages, editions=editions,  # type: ignore[arg-type]
        taken_back_at=edition.taken_back_at, is_own=folio.student == user,
        on_screen=answer_records(edition, facts),  # type: ignore[arg-type]
        replace_until=window.taking_ends(now) if open_still else None,
        changed=ChangedOut.of(folio, now) if folio.student == user else None,
        is_given_back=folio.student == user and seen_by_student(folio, now) is not None,
    )  # fmt: skip


def _look_back(edition: Edition) -> LookBackOut | None:
    if edition.folio.assignment.rehearsal_of_id is None:
        return None
    return LookBackOut.model_validate(looked_back_on(edition), from_attributes=True)


def _receipt_page(frozen: EditionPage, labels: dict[int, list[str]], loose: frozenset[int]) -> ReceiptPage:
    original = frozen.page.original
    return ReceiptPage(
        number=frozen.number, file_name=original.file_name, index=frozen.page.index, sha256=original.sha256,
        size=original.size, arrived=original.arrived_at, promised=original.promised_at, verdict=original.verdict,  # type: ignore[arg-type]
        late_seconds=original.late_seconds, labels=labels[frozen.page_id],
        loose=frozen.page_id in loose, original_id=original.pk,
    )  # fmt: skip


@router.get("/folios/{int:folio_id}/editions/{int:number}/bound.pdf", response={200: None})
def bound_pdf(request: HttpRequest, folio_id: int, number: int) -> FileResponse:
    edition = _bound(person(request), folio_id, number)
    return attachment(
        person(request).pk, bound_name(folio_id, edition.file_sha256), f"{file_stem(edition)}.pdf", "application/pdf"
    )


@router.get("/folios/{int:folio_id}/editions/{int:number}/receipt.json", response={200: None})
def receipt_file(request: HttpRequest, folio_id: int, number: int) -> JsonResponse:
    """The signed receipt, for `./folio core verify` or anybody with an Ed25519 library."""
    edition = _bound(person(request), folio_id, number)
    response = JsonResponse(edition.receipt)
    response["Content-Disposition"] = str(content_disposition_header(True, f"{file_stem(edition)}_receipt.json"))
    return response


@router.get("/folios/{int:folio_id}/editions/{int:number}/receipt.pdf", response={200: None})
def receipt_document(request: HttpRequest, folio_id: int, number: int) -> HttpResponse:
    """The receipt to read and to print, with the signed one attached."""
    edition = _bound(person(request), folio_id, number)
    return made_file(
        receipt_as_pdf(edition, address_of(request)), f"{file_stem(edition)}_receipt.pdf", "application/pdf"
    )


def _bound(user: User, folio_id: int, number: int) -> Edition:
    edition = readable_edition(user, folio_id, number)
    if edition.state != Edition.State.BOUND:
        raise Refused(409, "binding", "This edition is being bound. It is handed in; the file follows in a moment.")
    return edition
