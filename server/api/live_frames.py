"""What a viewfinder sees of a printed paper, told while it is framed: on the board, and on a phone with a link."""

from __future__ import annotations

import uuid

from django.http import HttpRequest
from ninja import Router, Schema

from folio_core import clock
from folios.models import Folio
from plumbing.errors import Problem, Refused
from plumbing.requests import body_of, moment
from proposals import live_frames

from .camera_links import BYTES
from .permissions import own_folio, person

router = Router(tags=["live frames"])


class SightOut(Schema):
    """As `live_frames.Sight`."""

    page: int | None
    pages: int
    is_here: bool
    to_come: list[int] | None
    next_ms: int


@router.put(
    "/folios/{int:folio_id}/frame",
    response={200: SightOut, 403: Problem, 404: Problem, 413: Problem},
    openapi_extra=BYTES,
)
def look_through(request: HttpRequest, folio_id: int, viewer: uuid.UUID) -> SightOut:
    """A small JPEG of what the viewfinder sees; ``viewer`` is a word of the viewfinder's own making."""
    return sight_of(request, own_folio(person(request), folio_id), viewer)


def sight_of(request: HttpRequest, folio: Folio, viewer: uuid.UUID) -> SightOut:
    now = moment()
    clock.require_open(folio.window(), now)
    if not live_frames.tells(folio):
        raise Refused(403, "no_sheets", "Pages of this work are not told by their print.")
    jpeg = body_of(request, live_frames.MOST_BYTES)
    if len(jpeg) > live_frames.MOST_BYTES:
        raise Refused(413, "too_large", "This picture is too large to look through a camera.")
    return SightOut.model_validate(live_frames.take(folio, viewer, jpeg, now), from_attributes=True)
