"""A student's phones as cameras, and getting ready: links, test pictures, and whether this device sends."""

from __future__ import annotations

import hashlib
from datetime import datetime
from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from assignments.models import Assignment
from folios.models import Folio
from pages import camera_links, get_ready
from pages.files import image_type
from pages.models import CameraLink, TestPicture
from people.models import User
from plumbing.errors import Problem, not_yours
from plumbing.qr_codes import qr_modules
from plumbing.requests import address_of, chunks_of, moment

from .board_pages import AdviceOut
from .permissions import own_folio, person, student_of

router = Router(tags=["camera"])
BYTES = {"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string"}}}}}


class CameraLinkOut(Schema):
    """``begun``: it has a folio, and takes pages."""

    id: int
    until: datetime
    opened: datetime | None
    pages: int
    begun: bool


class InvitationOut(Schema):
    """``address`` holds the secret after its #, which no server is sent; ``modules`` is its QR code, row by row, a 1
    for each dark module (ISO/IEC 18004). ``typed_address`` is short, and asks for the six ``figures``."""

    link: CameraLinkOut
    address: str
    modules: list[str]
    typed_address: str
    figures: str


class TestPictureOut(Schema):
    """``preview``: where the picture is, once it is judged. ``advice``: what the page check said of it."""

    id: int
    by_phone: bool
    made: datetime
    state: Literal["waiting", "judged", "failed"]
    message: str
    advice: list[AdviceOut]
    preview: str
    width: int
    height: int


class GetReadyOut(Schema):
    """What a student sees of getting ready, days before: phones that are linked, and the newest test pictures."""

    now: datetime
    links: list[CameraLinkOut]
    test_pictures: list[TestPictureOut]


class SampleOut(Schema):
    """What came of some bytes that were sent to see how long they take."""

    size: int
    sha256: str


@router.get("/folios/{int:folio_id}/camera-links", response={200: list[CameraLinkOut], 404: Problem})
def links(request: HttpRequest, folio_id: int) -> list[CameraLinkOut]:
    folio = own_folio(person(request), folio_id)
    return [_link_out(link) for link in camera_links.living(folio.student, folio.assignment, folio, moment())]


@router.post("/folios/{int:folio_id}/camera-links", response={200: InvitationOut, 403: Problem, 404: Problem})
def invite(request: HttpRequest, folio_id: int) -> InvitationOut:
    folio = own_folio(person(request), folio_id)
    return _invitation(request, *camera_links.invite(folio.student, folio.assignment, folio, moment()))


@router.delete("/folios/{int:folio_id}/camera-links/{int:link_id}", response={204: None, 404: Problem})
def end_link(request: HttpRequest, folio_id: int, link_id: int) -> tuple[int, None]:
    folio = own_folio(person(request), folio_id)
    return _end(person(request), folio.assignment, link_id)


@router.get("/assignments/{int:assignment_id}/get-ready", response={200: GetReadyOut, 403: Problem, 404: Problem})
def getting_ready(request: HttpRequest, assignment_id: int) -> GetReadyOut:
    student, assignment, folio = _preparing(request, assignment_id)
    return GetReadyOut(
        now=moment(),
        links=[_link_out(link) for link in camera_links.living(student, assignment, folio, moment())],
        test_pictures=[test_picture_out(one) for one in get_ready.shown(student, assignment)],
    )


@router.post("/assignments/{int:assignment_id}/camera-links", response={200: InvitationOut, 403: Problem, 404: Problem})
def invite_before(request: HttpRequest, assignment_id: int) -> InvitationOut:
    """A link that gains its folio when the work is begun."""
    student, assignment, folio = _preparing(request, assignment_id)
    return _invitation(request, *camera_links.invite(student, assignment, folio, moment()))


@router.delete(
    "/assignments/{int:assignment_id}/camera-links/{int:link_id}", response={204: None, 403: Problem, 404: Problem}
)
def end_link_before(request: HttpRequest, assignment_id: int, link_id: int) -> tuple[int, None]:
    student, assignment, _ = _preparing(request, assignment_id)
    return _end(student, assignment, link_id)


@router.put(
    "/assignments/{int:assignment_id}/test-picture",
    response={200: TestPictureOut, 403: Problem, 404: Problem, 422: Problem, 429: Problem},
    openapi_extra=BYTES,
)
def add_test_picture(request: HttpRequest, assignment_id: int) -> TestPictureOut:
    """A picture that counts for nothing, from the student's own device."""
    student, assignment, _ = _preparing(request, assignment_id)
    return test_picture_out(get_ready.receive(student, assignment, None, chunks_of(request), moment()))


@router.put(
    "/assignments/{int:assignment_id}/sending-sample",
    response={200: SampleOut, 403: Problem, 404: Problem},
    openapi_extra=BYTES,
)
def sending_sample(request: HttpRequest, assignment_id: int) -> SampleOut:
    """Nothing is kept of it: its size and SHA-256 say that it came whole."""
    _preparing(request, assignment_id)
    return SampleOut(size=len(request.body), sha256=hashlib.sha256(request.body).hexdigest())


@router.get(
    "/assignments/{int:assignment_id}/test-pictures/{int:picture_id}", response={200: None, 403: Problem, 404: Problem}
)
def test_picture_preview(request: HttpRequest, assignment_id: int, picture_id: int) -> HttpResponse:
    """As the page check made it, small."""
    student, assignment, _ = _preparing(request, assignment_id)
    found = [one for one in get_ready.shown(student, assignment) if one.pk == picture_id and one.preview]
    if not found:
        raise not_yours()
    image = bytes(found[0].preview)
    return HttpResponse(image, content_type=image_type(image), headers={"Cache-Control": "private, max-age=86400"})


def _link_out(link: CameraLink) -> CameraLinkOut:
    return CameraLinkOut(
        id=link.pk, until=camera_links.ends(link), opened=link.opened_at, pages=link.originals.count(),
        begun=link.folio_id is not None,
    )  # fmt: skip


def _invitation(request: HttpRequest, link: CameraLink, made: camera_links.Secrets) -> InvitationOut:
    address = f"{address_of(request)}/camera#{made.token}"
    return InvitationOut(
        link=_link_out(link), address=address, modules=qr_modules(address),
        typed_address=f"{address_of(request)}/camera/{made.letters}", figures=made.figures,
    )  # fmt: skip


def _preparing(request: HttpRequest, assignment_id: int) -> tuple[User, Assignment, Folio | None]:
    """The student who gets ready, or works already. Raises Refused (403, 404)."""
    student = person(request)
    assignment, _ = student_of(student, assignment_id, "get ready for it")
    return student, assignment, assignment.folios.filter(student=student).order_by("-attempt").first()


def _end(student: User, assignment: Assignment, link_id: int) -> tuple[int, None]:
    link = assignment.camera_links.filter(pk=link_id, student=student).first()
    if link is None:
        raise not_yours()
    camera_links.end(link, moment())
    return 204, None


def test_picture_out(one: TestPicture) -> TestPictureOut:
    return TestPictureOut(
        id=one.pk, by_phone=one.camera_id is not None, made=one.made_at, state=one.state, message=one.message,  # type: ignore[arg-type]
        advice=[AdviceOut.of({"code": code, "where": None}) for code in one.advice],
        preview=f"/api/assignments/{one.assignment_id}/test-pictures/{one.pk}" if one.preview else "",
        width=one.width, height=one.height,
    )  # fmt: skip
