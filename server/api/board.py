"""The board: its state, arriving files, the arrangement, turning, handing in, and the folio's files."""

from __future__ import annotations

import re

from django.core.files.storage import default_storage
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Query, Router

from assignments.api import question_map
from inkedfolio.errors import Problem, Refused, not_yours
from inkedfolio.requests import chunks_of, moment, person

from . import files
from .access import own_folio, readable_folio
from .arranging import Stale, arrange, current, read, written
from .arrival import receive
from .handing_in import hand_in
from .models import Folio, Original, Pledge
from .pacing import pace_of
from .pledging import Promise, pledge
from .schemas import (
    AcknowledgedOut,
    ArrangementDoc,
    ArrangementIn,
    ArrangementOut,
    BoardOut,
    EditionLine,
    HandInIn,
    PledgeIn,
    PledgeOut,
    SentIn,
    StaleOut,
)
from .showing import assignment_out, edition_line, limits_out, page_counts, page_out, rail_events, window_out
from .uploads_api import acknowledged_out
from .uploads_api import router as uploads
from .work_api import router as work

router = Router(tags=["folios"])
router.add_router("", work)
router.add_router("", uploads)

_SHA256 = re.compile(r"[0-9a-f]{64}")


@router.get("/folios/{int:folio_id}", response={200: BoardOut, 404: Problem})
def board(request: HttpRequest, folio_id: int) -> BoardOut:
    now = moment()
    folio = own_folio(person(request), folio_id)
    pages = list(folio.pages.select_related("original"))
    counts = page_counts(pages)
    window = folio.window()
    return BoardOut(
        id=folio.pk,
        now=now,
        assignment=assignment_out(folio.assignment),
        window=window_out(window, now),
        questions=question_map(folio.assignment),
        version=folio.version,
        arrangement=_document(folio),
        pages=[page_out(page, counts[page.original_id]) for page in pages],
        editions=[edition_line(edition) for edition in folio.editions.all()],
        events=rail_events(folio),
        pledges=[_pledge_out(one) for one in folio.pledges.filter(delivered=False)],
        pace=pace_of(folio, window, pages),
        rehearsal=folio.assignment.rehearsal_of_id is not None,
        limits=limits_out(),
    )


@router.put(
    "/folios/{int:folio_id}/originals",
    response={200: AcknowledgedOut, 403: Problem, 404: Problem, 422: Problem},
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string"}}}}},
)
def add_original(request: HttpRequest, folio_id: int, about: Query[SentIn]) -> AcknowledgedOut:
    """Take in one small file: the body is its bytes. The answer is the acknowledgement: it is safe.

    Large ones come in pieces (`uploads_api`).
    """
    folio = own_folio(person(request), folio_id)
    return acknowledged_out(receive(folio, chunks_of(request), about.sent(), moment))


@router.post("/folios/{int:folio_id}/pledge", response={200: list[PledgeOut], 403: Problem, 404: Problem, 422: Problem})
def post_pledge(request: HttpRequest, folio_id: int, body: PledgeIn) -> list[PledgeOut]:
    """Fingerprints of pages that wait on the device. Their bytes count as of now if they follow in time."""
    folio = own_folio(person(request), folio_id)
    promises = [Promise(page.sha256, page.size, page.file_name) for page in body.pages]
    return [_pledge_out(one) for one in pledge(folio, promises, moment())]


def _pledge_out(one: Pledge) -> PledgeOut:
    return PledgeOut(sha256=one.sha256, size=one.size, file_name=one.file_name, promised=one.promised_at)


@router.put(
    "/folios/{int:folio_id}/arrangement",
    response={200: ArrangementOut, 403: Problem, 404: Problem, 409: StaleOut, 422: Problem},
)
def put_arrangement(request: HttpRequest, folio_id: int, body: ArrangementIn):  # type: ignore[no-untyped-def]
    folio = own_folio(person(request), folio_id)
    try:
        folio = arrange(folio.pk, seen=body.version, arrangement=read(body.arrangement.model_dump()), now=moment())
    except Stale as stale:
        message = "This was changed elsewhere meanwhile. The newer state is shown; your last change was not made."
        return 409, StaleOut(message=message, version=stale.folio.version, arrangement=_document(stale.folio))
    return ArrangementOut(version=folio.version, arrangement=_document(folio))


def _document(folio: Folio) -> ArrangementDoc:
    return ArrangementDoc(**written(current(folio)))


@router.post("/folios/{int:folio_id}/hand-in", response={200: EditionLine, 403: Problem, 404: Problem, 422: Problem})
def post_hand_in(request: HttpRequest, folio_id: int, body: HandInIn) -> EditionLine:
    folio = own_folio(person(request), folio_id)
    edition = hand_in(folio, seen_edition=body.seen_edition, now=moment())
    return edition_line(edition)


@router.get("/folios/{int:folio_id}/images/{name}", response={200: None})
def image(request: HttpRequest, folio_id: int, name: str) -> HttpResponse:
    """A prepared image by its hash: re-encoded by us, never the user's bytes. What it names never changes."""
    folio = readable_folio(person(request), folio_id)
    if not _SHA256.fullmatch(name) or not default_storage.exists(files.image_name(folio.pk, name)):
        raise not_yours()
    data = files.get(files.image_name(folio.pk, name))
    response = HttpResponse(data, content_type=files.image_type(data))
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@router.get("/originals/{int:original_id}/file", response={200: None})
def original_file(request: HttpRequest, original_id: int) -> FileResponse:
    """The bytes as they came: always an attachment, never shown in the page."""
    original = Original.objects.filter(pk=original_id).first()
    if original is None:
        raise not_yours()
    readable_folio(person(request), original.folio_id)
    return attachment(original.stored_as, original.file_name, "application/octet-stream")


def attachment(stored_as: str, file_name: str, content_type: str) -> FileResponse:
    if not default_storage.exists(stored_as):
        raise Refused(404, "no_file", "This file is not on the server's disk. Tell your instructor.")
    response = FileResponse(
        default_storage.open(stored_as), as_attachment=True, filename=file_name, content_type=content_type
    )
    response["X-Content-Type-Options"] = "nosniff"
    response["Cache-Control"] = "private, no-store"
    return response
