"""The phone as camera: links on the board's side, and what a phone with such a link may do."""

from __future__ import annotations

import uuid
from dataclasses import replace
from datetime import datetime
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from ninja.security import APIKeyHeader

from folio_core import clock
from folio_core.clock import Phase
from folio_core.placing import read_arrangement
from pages import camera_links
from pages.arrival import receive
from pages.models import CameraLink
from pages.room import require_room
from pages.sent import AcknowledgedOut, PictureIn
from plumbing.errors import Problem, not_yours
from plumbing.qr_codes import qr_modules
from plumbing.requests import address_of, chunks_of, moment

from .board import PledgeIn, PledgesOut, pledged
from .permissions import own_folio, person
from .schemas import AssignmentOut, LimitsOut
from .uploads import announced, how_far_is, piece_taken, upload_of, versioned

router = Router(tags=["camera"])


class CameraLinkOut(Schema):
    id: int
    until: datetime
    opened: datetime | None
    pages: int


class InvitationOut(Schema):
    """``address`` holds the secret after its #, which no server is sent; ``modules`` is its QR code, row by row, a 1
    for each dark module (ISO/IEC 18004)."""

    link: CameraLinkOut
    address: str
    modules: list[str]


class CameraOut(Schema):
    """What a phone with a link is told: whose folio it is, and how many pages there are."""

    folio_id: int
    student: str
    assignment: AssignmentOut
    pages: int
    sides: int | None
    phase: Phase
    closes: datetime
    pledges_end: datetime
    until: datetime
    now: datetime
    limits: LimitsOut


class CameraKey(APIKeyHeader):
    param_name = "Folio-Camera"

    def authenticate(self, request: HttpRequest, key: str | None) -> CameraLink | None:
        return camera_links.link_of(key, moment()) if key else None


@router.get("/folios/{int:folio_id}/camera-links", response={200: list[CameraLinkOut], 404: Problem})
def links(request: HttpRequest, folio_id: int) -> list[CameraLinkOut]:
    folio = own_folio(person(request), folio_id)
    return [_link_out(link) for link in camera_links.living(folio, moment())]


@router.post("/folios/{int:folio_id}/camera-links", response={200: InvitationOut, 403: Problem, 404: Problem})
def invite(request: HttpRequest, folio_id: int) -> InvitationOut:
    folio = own_folio(person(request), folio_id)
    link, token = camera_links.invite(folio, moment())
    address = f"{address_of(request)}/camera#{token}"
    return InvitationOut(link=_link_out(link), address=address, modules=qr_modules(address))


@router.delete("/folios/{int:folio_id}/camera-links/{int:link_id}", response={204: None, 404: Problem})
def end_link(request: HttpRequest, folio_id: int, link_id: int) -> tuple[int, None]:
    folio = own_folio(person(request), folio_id)
    link = folio.camera_links.filter(pk=link_id).first()
    if link is None:
        raise not_yours()
    camera_links.end(link, moment())
    return 204, None


@router.get("/camera", auth=CameraKey(), response={200: CameraOut, 403: Problem})
def camera(request: HttpRequest) -> CameraOut:
    link, now = _link(request), moment()
    camera_links.opened(link, now)
    folio = link.folio
    window = folio.window()
    arrangement = read_arrangement(folio.arrangement)
    return CameraOut(
        folio_id=folio.pk, student=folio.student.name, assignment=AssignmentOut.of(folio.assignment),
        pages=len(arrangement.pages), sides=arrangement.sides, phase=clock.phase(window, now), closes=window.closes,
        until=camera_links.ends(link), pledges_end=window.pledges_end, now=now,
        limits=LimitsOut.now(),
    )  # fmt: skip


@router.put(
    "/camera/originals",
    auth=CameraKey(),
    response={200: AcknowledgedOut, 403: Problem, 422: Problem},
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string"}}}}},
)
def add_picture(request: HttpRequest, about: Query[PictureIn]) -> AcknowledgedOut:
    """One picture into the link's folio; as `board.add_original`, but never in another page's place."""
    link = _link(request)
    require_room(link.folio, int(request.headers.get("Content-Length") or 0))
    sent = replace(about.sent(), camera=link.pk)
    return AcknowledgedOut.of(receive(link.folio, chunks_of(request), sent, moment))


@router.post("/camera/uploads", auth=CameraKey(), response={201: None, 403: Problem})
@versioned
def announce(request: HttpRequest) -> HttpResponse:
    """A large picture in pieces, as on the board (`uploads`)."""
    link = _link(request)
    return announced(request, link.folio, "/api/camera/uploads", camera=link.pk)


@router.api_operation(["HEAD"], "/camera/uploads/{uuid:key}", auth=CameraKey(), response={200: None, 403: Problem})
@versioned
def how_far(request: HttpRequest, key: uuid.UUID) -> HttpResponse:
    return how_far_is(upload_of(_link(request).folio, key))


@router.patch("/camera/uploads/{uuid:key}", auth=CameraKey(), response={204: None, 403: Problem})
@versioned
def piece(request: HttpRequest, key: uuid.UUID) -> HttpResponse:
    return piece_taken(request, upload_of(_link(request).folio, key))


@router.post("/camera/pledge", auth=CameraKey(), response={200: PledgesOut, 403: Problem, 422: Problem})
def post_pledge(request: HttpRequest, body: PledgeIn) -> PledgesOut:
    """Fingerprints of pictures that wait on the phone."""
    return pledged(_link(request).folio, body)


def _link(request: Any) -> CameraLink:
    link: CameraLink = request.auth
    return link


def _link_out(link: CameraLink) -> CameraLinkOut:
    return CameraLinkOut(id=link.pk, until=camera_links.ends(link), opened=link.opened_at, pages=link.originals.count())
