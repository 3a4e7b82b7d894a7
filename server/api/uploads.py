"""tus 1.0 over HTTP: core, creation, creation-with-upload, expiration and termination.

https://tus.io/protocols/resumable-upload (1.0.0). When the last byte is here, the answer carries the acknowledgement
as JSON in the header ``Folio-Acknowledged``; asking with HEAD tells it again, should that answer get lost.
"""

from __future__ import annotations

import base64
import binascii
import uuid
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from email.utils import format_datetime
from functools import wraps
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from folio_core import clock
from folio_core.page import PageError
from folios.models import Folio
from pages import uploads
from pages.arrival import most_bytes
from pages.models import Upload
from pages.sent import AcknowledgedOut, Sent
from plumbing.errors import Refused, not_yours
from plumbing.requests import chunks_of, moment

from .permissions import own_folio, person

router = Router(tags=["uploads"])
VERSION = "1.0.0"
KEPT_FOR = timedelta(days=1)
_PIECE_TYPE = "application/offset+octet-stream"


def versioned(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Every request names its version of the protocol, and so does every answer."""

    @wraps(view)
    def versioned(request: HttpRequest, *arguments: Any, **named: Any) -> HttpResponse:
        if request.headers.get("Tus-Resumable") != VERSION:
            response = HttpResponse(status=412)
            response["Tus-Version"] = VERSION
        else:
            response = view(request, *arguments, **named)
        response["Tus-Resumable"] = VERSION
        response["Cache-Control"] = "no-store"
        return response

    return versioned


@router.api_operation(["OPTIONS"], "/folios/{int:folio_id}/uploads", response={204: None}, auth=None)
def abilities(request: HttpRequest, folio_id: int) -> HttpResponse:
    response = HttpResponse(status=204)
    response["Tus-Resumable"] = response["Tus-Version"] = VERSION
    response["Tus-Extension"] = "creation,creation-with-upload,expiration,termination"
    response["Tus-Max-Size"] = str(most_bytes())
    return response


@router.post("/folios/{int:folio_id}/uploads", response={201: None})
@versioned
def announce(request: HttpRequest, folio_id: int) -> HttpResponse:
    return announced(request, own_folio(person(request), folio_id), f"/api/folios/{folio_id}/uploads")


@router.api_operation(["HEAD"], "/folios/{int:folio_id}/uploads/{uuid:key}", response={200: None})
@versioned
def how_far(request: HttpRequest, folio_id: int, key: uuid.UUID) -> HttpResponse:
    return how_far_is(upload_of(own_folio(person(request), folio_id), key))


@router.patch("/folios/{int:folio_id}/uploads/{uuid:key}", response={204: None})
@versioned
def piece(request: HttpRequest, folio_id: int, key: uuid.UUID) -> HttpResponse:
    return piece_taken(request, upload_of(own_folio(person(request), folio_id), key))


@router.delete("/folios/{int:folio_id}/uploads/{uuid:key}", response={204: None})
@versioned
def give_up(request: HttpRequest, folio_id: int, key: uuid.UUID) -> HttpResponse:
    uploads.give_up(upload_of(own_folio(person(request), folio_id), key))
    return HttpResponse(status=204)


def announced(request: HttpRequest, folio: Folio, address: str, camera: int | None = None) -> HttpResponse:
    size = _number(request, "Upload-Length")
    sent = replace(_sent(request.headers.get("Upload-Metadata", "")), camera=camera)
    upload = uploads.set_out(folio, size, sent, moment())
    response = HttpResponse(status=201)
    response["Location"] = f"{address}/{upload.key}"
    if request.content_type == _PIECE_TYPE:
        _take(request, upload, 0, response)
    return response


def how_far_is(upload: Upload) -> HttpResponse:
    response = HttpResponse()
    response["Upload-Length"] = str(upload.size)
    _set_offset(response, upload, upload.here)
    return response


def piece_taken(request: HttpRequest, upload: Upload) -> HttpResponse:
    if request.content_type != _PIECE_TYPE:
        return HttpResponse(status=415)
    response = HttpResponse(status=204)
    try:
        _take(request, upload, _number(request, "Upload-Offset"), response)
    except uploads.WrongOffset:
        return HttpResponse(status=409)
    return response


def upload_of(folio: Folio, key: uuid.UUID) -> Upload:
    """Raises Refused (404)."""
    upload = folio.uploads.select_related("original").filter(pk=key).first()
    if upload is None:
        raise not_yours()
    return upload


def _take(request: HttpRequest, upload: Upload, at: int, response: HttpResponse) -> None:
    """A piece that shows the file can never become a page of this folio ends it."""
    try:
        _set_offset(response, upload, uploads.add(upload, at, chunks_of(request), moment))
    except (PageError, clock.SittingClosed, Refused) as error:
        if not isinstance(error, Refused) or error.status in (413, 422):
            uploads.give_up(upload)
        raise


def _set_offset(response: HttpResponse, upload: Upload, offset: int) -> None:
    response["Upload-Offset"] = str(offset)
    if offset == upload.size:
        response["Folio-Acknowledged"] = AcknowledgedOut.of(uploads.complete(upload.key, moment())).model_dump_json()
    else:
        response["Upload-Expires"] = format_datetime(upload.set_out_at + KEPT_FOR, usegmt=True)


def _number(request: HttpRequest, header: str) -> int:
    text = request.headers.get(header, "")
    if not text.isdigit():
        raise Refused(400, "bad_header", f"{header} must be a whole number.")
    return int(text)


def _sent(metadata: str) -> Sent:
    """Upload-Metadata: keys with their values in base64, a comma between pairs."""
    said: dict[str, str] = {}
    try:
        for pair in filter(None, metadata.split(",")):
            key, _, value = pair.strip().partition(" ")
            said[key] = base64.b64decode(value, validate=True).decode()
        return Sent(
            file_name=said.get("filename", ""),
            instead_of=int(said["instead_of"]) if said.get("instead_of") else None,
            batch=uuid.UUID(said["batch"]) if said.get("batch") else None,
            number=max(0, min(int(said.get("number") or 0), 30_000)),
            sha256=said.get("sha256", ""),
            seconds=float(said["seconds"]) if said.get("seconds") else None,
        )
    except (ValueError, binascii.Error) as error:
        raise Refused(400, "bad_header", "Upload-Metadata cannot be read.") from error
