"""The phone as camera: what a phone with a link of a student's (`camera_links`) may do."""

from __future__ import annotations

import uuid
from dataclasses import replace
from datetime import datetime
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema
from ninja.security import APIKeyHeader

from assignments.models import PaperRule
from folio_core import clock
from folio_core.clock import Phase
from folio_core.placing import read_arrangement
from folios.models import Folio
from pages import camera_links, get_ready
from pages.arranging import set_removed
from pages.arrival import receive
from pages.models import CameraLink, Page
from pages.room import require_room
from pages.sent import AcknowledgedOut, SentIn
from people import guessing
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import chunks_of, moment
from proposals import live_frames

from .board import PledgeIn, PledgesOut, pledged
from .camera_links import BYTES, TestPictureOut, test_picture_out
from .live_frames import SightOut, sight_of
from .schemas import AssignmentOut, LimitsOut
from .uploads import announced, how_far_is, piece_taken, upload_of, versioned

router = Router(tags=["camera"])
_MOST_TYPED_WRONG = 30  # an hour, from one address: a whole hall may share it


class TakenPageOut(Schema):
    """A page that came from this phone. ``number``: its place on the board; null where it was removed."""

    page_id: int
    original_sha256: str
    number: int | None
    arrived: datetime


class CameraFolioOut(Schema):
    """``tells_sheets``: a viewfinder may ask which page of the printed paper it sees."""

    id: int
    pages: int
    sides: int | None
    phase: Phase
    closes: datetime
    pledges_end: datetime
    taken: list[TakenPageOut]
    tells_sheets: bool


class CameraOut(Schema):
    """What a phone with a link is told: whose it is, and, once the work has begun (``folio``), how many pages there
    are and which of them came from this phone."""

    student: str
    assignment: AssignmentOut
    until: datetime
    now: datetime
    limits: LimitsOut
    paper_rules: list[PaperRule]
    folio: CameraFolioOut | None
    test_pictures: list[TestPictureOut]


class TypedIn(Schema):
    letters: str = Field(max_length=40)
    figures: str = Field(max_length=40)


class SecretOut(Schema):
    secret: str


class RemovedIn(Schema):
    removed: bool


class CameraKey(APIKeyHeader):
    param_name = "Folio-Camera"

    def authenticate(self, request: HttpRequest, key: str | None) -> CameraLink | None:
        return camera_links.link_of(key, moment()) if key else None


@router.post("/camera/typed", auth=None, response={200: SecretOut, 403: Problem, 429: Problem})
def typed(request: HttpRequest, body: TypedIn) -> SecretOut:
    """Letters and figures that were read off the board and typed on a phone."""
    now, account = moment(), f"camera figures from {request.META.get('REMOTE_ADDR', '')}"
    if guessing.tries_of(account, now) >= _MOST_TYPED_WRONG:
        raise Refused(429, "wait", "Too many of these were wrong. Wait an hour, or use the QR code.")
    secret = camera_links.typed(body.letters, body.figures, now)
    if secret is None:
        guessing.note_try(account, now)
        raise camera_links.no_such_figures()
    return SecretOut(secret=secret)


@router.get("/camera", auth=CameraKey(), response={200: CameraOut, 403: Problem})
def camera(request: HttpRequest) -> CameraOut:
    link, now = _link(request), moment()
    camera_links.opened(link, now)
    return CameraOut(
        student=link.student.name, assignment=AssignmentOut.of(link.assignment), until=camera_links.ends(link), now=now,
        limits=LimitsOut.of(link.assignment), paper_rules=link.assignment.paper_rules,
        folio=_folio_out(link, link.folio, now) if link.folio else None,
        test_pictures=[test_picture_out(one) for one in link.test_pictures.order_by("-pk")[: get_ready.KEPT]],
    )  # fmt: skip


@router.put(
    "/camera/test-picture",
    auth=CameraKey(),
    response={200: TestPictureOut, 403: Problem, 422: Problem, 429: Problem},
    openapi_extra=BYTES,
)
def add_test_picture_of_phone(request: HttpRequest) -> TestPictureOut:
    link = _link(request)
    taken = get_ready.receive(link.student, link.assignment, link, chunks_of(request), moment())
    return test_picture_out(taken)


@router.put("/camera/pages/{int:page_id}", auth=CameraKey(), response={204: None, 403: Problem, 404: Problem})
def remove_or_restore(request: HttpRequest, page_id: int, body: RemovedIn) -> tuple[int, None]:
    """A page that came from this phone is taken away, or put back."""
    link = _link(request)
    folio = camera_links.folio_of(link)
    if not folio.pages.filter(pk=page_id, original__camera=link).exists():
        raise not_yours()
    set_removed(folio.pk, page_id, body.removed, moment())
    return 204, None


@router.put(
    "/camera/originals",
    auth=CameraKey(),
    response={200: AcknowledgedOut, 403: Problem, 422: Problem},
    openapi_extra=BYTES,
)
def add_picture(request: HttpRequest, about: Query[SentIn]) -> AcknowledgedOut:
    """One picture into the link's folio, as `board.add_original`; instead of another page, where that is its own."""
    link = _link(request)
    folio = camera_links.folio_of(link)
    require_room(folio, int(request.headers.get("Content-Length") or 0))
    sent = replace(about.sent(), camera=link.pk)
    return AcknowledgedOut.of(receive(folio, chunks_of(request), sent, moment))


@router.post("/camera/uploads", auth=CameraKey(), response={201: None, 403: Problem})
@versioned
def announce(request: HttpRequest) -> HttpResponse:
    """A large picture in pieces, as on the board (`uploads`)."""
    link = _link(request)
    return announced(request, camera_links.folio_of(link), "/api/camera/uploads", camera=link.pk)


@router.api_operation(["HEAD"], "/camera/uploads/{uuid:key}", auth=CameraKey(), response={200: None, 403: Problem})
@versioned
def how_far(request: HttpRequest, key: uuid.UUID) -> HttpResponse:
    return how_far_is(upload_of(camera_links.folio_of(_link(request)), key))


@router.patch("/camera/uploads/{uuid:key}", auth=CameraKey(), response={204: None, 403: Problem})
@versioned
def piece(request: HttpRequest, key: uuid.UUID) -> HttpResponse:
    return piece_taken(request, upload_of(camera_links.folio_of(_link(request)), key))


@router.put(
    "/camera/frame", auth=CameraKey(), response={200: SightOut, 403: Problem, 413: Problem}, openapi_extra=BYTES
)
def look_through_phone(request: HttpRequest, viewer: uuid.UUID) -> SightOut:
    """A small JPEG of what the viewfinder sees (`live_frames`)."""
    return sight_of(request, camera_links.folio_of(_link(request)), viewer)


@router.post("/camera/pledge", auth=CameraKey(), response={200: PledgesOut, 403: Problem, 422: Problem})
def post_pledge(request: HttpRequest, body: PledgeIn) -> PledgesOut:
    """Fingerprints of pictures that wait on the phone."""
    return pledged(camera_links.folio_of(_link(request)), body)


def _link(request: Any) -> CameraLink:
    link: CameraLink = request.auth
    return link


def _folio_out(link: CameraLink, folio: Folio, now: datetime) -> CameraFolioOut:
    window, arrangement = folio.window(), read_arrangement(folio.arrangement)
    places = {page: at for at, page in enumerate(arrangement.pages, 1)}
    replaced = set(folio.events.filter(kind="retaken").values_list("detail__page", flat=True))
    mine = folio.pages.filter(original__camera=link).exclude(state=Page.State.FAILED).select_related("original")
    return CameraFolioOut(
        id=folio.pk, pages=len(arrangement.pages), sides=arrangement.sides, phase=clock.phase(window, now),
        closes=window.taking_ends(now),
        pledges_end=window.pledges_end, tells_sheets=live_frames.tells(folio),
        taken=[
            TakenPageOut(
                page_id=page.pk, original_sha256=page.original.sha256, number=places.get(page.pk),
                arrived=page.original.arrived_at,
            )
            for page in mine.order_by("pk") if page.pk in places or page.pk not in replaced
        ],
    )  # fmt: skip
