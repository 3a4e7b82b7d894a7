"""The board: its state, arriving files, the arrangement, turning, handing in, and the folio's files."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import unquote

from django.conf import settings
from django.core.files.storage import default_storage
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router

from assignments.api import question_map
from inkedfolio.errors import Problem, Refused, not_yours
from inkedfolio.requests import moment, person

from . import files
from .access import own_folio, readable_folio
from .arranging import Stale, arrange, current, read, written
from .arrival import receive
from .handing_in import hand_in
from .models import Event, Folio, Original
from .schemas import (
    AcknowledgedOut,
    ArrangementDoc,
    ArrangementIn,
    ArrangementOut,
    BoardOut,
    EditionLine,
    EventOut,
    HandInIn,
    LimitsOut,
    StaleOut,
)
from .showing import assignment_out, edition_line, page_counts, page_out, window_out
from .work_api import router as work

router = Router(tags=["folios"])
router.add_router("", work)

_CHUNK = 1024 * 1024
_SHA256 = re.compile(r"[0-9a-f]{64}")
_RAIL_EVENTS = (Event.Kind.BEGUN, Event.Kind.ARRIVED, Event.Kind.HANDED_IN)


@router.get("/folios/{int:folio_id}", response={200: BoardOut, 404: Problem})
def board(request: HttpRequest, folio_id: int) -> BoardOut:
    now = moment()
    folio = own_folio(person(request), folio_id)
    pages = list(folio.pages.select_related("original"))
    counts = page_counts(pages)
    return BoardOut(
        id=folio.pk,
        now=now,
        assignment=assignment_out(folio.assignment),
        window=window_out(folio.window(), now),
        questions=question_map(folio.assignment),
        version=folio.version,
        arrangement=_document(folio),
        pages=[page_out(page, counts[page.original_id]) for page in pages],
        editions=[edition_line(edition) for edition in folio.editions.all()],
        events=[EventOut(kind=e.kind, at=e.at) for e in folio.events.filter(kind__in=_RAIL_EVENTS)],
        limits=LimitsOut(file_bytes=settings.FOLIO_MAX_FILE_MB * 1_000_000, pages=settings.FOLIO_MAX_PAGES),
    )


@router.put(
    "/folios/{int:folio_id}/originals",
    response={200: AcknowledgedOut, 403: Problem, 404: Problem, 422: Problem},
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string"}}}}},
)
def add_original(request: HttpRequest, folio_id: int, name: str, instead_of: int | None = None) -> AcknowledgedOut:
    """Take in one file: the body is its bytes. The answer is the acknowledgement: it is safe.

    ``instead_of``: a page that was taken again; the new one gets its place and its questions.
    """
    folio = own_folio(person(request), folio_id)
    landed = receive(folio, _chunks(request), unquote(name), moment, instead_of=instead_of)
    original = landed.original
    return AcknowledgedOut(
        page_id=landed.page_id, original_id=original.pk, sha256=original.sha256, size=original.size,
        arrived=original.arrived_at, already=landed.already,
    )  # fmt: skip


def _chunks(request: HttpRequest) -> Iterator[bytes]:
    while chunk := request.read(_CHUNK):
        yield chunk


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
    edition = hand_in(folio, comment=body.comment.strip(), seen_edition=body.seen_edition, now=moment())
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
