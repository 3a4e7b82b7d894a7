"""The board: its state, arriving files, pledges, the arrangement, and the folio's images and originals."""

from __future__ import annotations

import re
from datetime import datetime
from typing import Any, Literal

from django.core.files.storage import default_storage
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema

from answers.saving import seed_of
from editions.handing_in import hand_in
from editions.models import Edition
from editions.pacing import pace_of
from editions.reading import shows_image
from editions.taking_back import take_back
from folio_core.pace import Basis
from folio_core.page import Advice, Tone
from folio_core.placing import SIDES_MOST, read_arrangement, write_arrangement
from folio_core.placing.better_picture import Drawback
from folios.arrangements import current
from folios.models import Folio
from folios.telling import hear
from pages.arranging import Stale, arrange
from pages.arrival import receive
from pages.files import image_name, image_type
from pages.models import Original
from pages.pledging import Promise, pledge
from pages.room import require_room, room_of
from pages.sent import AcknowledgedOut, SentIn
from plumbing import storage
from plumbing.downloads import attachment, lasting_picture
from plumbing.errors import Problem, Refused, not_yours
from plumbing.requests import chunks_of, moment
from proposals import live_frames
from proposals.printed import sheets_of
from proposals.proposing import suggested

from .answers import AnswerOut, answers_out
from .asking import AskingOut, SaidOut, asked_of, words_of
from .board_pages import PageOut, pages_out
from .permissions import folio_to_read, hides_names, own_folio, person
from .schemas import (
    AssignmentOut,
    ChangedOut,
    EditionLine,
    LimitsOut,
    QuestionOut,
    RecordedEvent,
    WindowOut,
    questions_out,
    rail_events,
)

router = Router(tags=["board"])

_SHA256 = re.compile(r"[0-9a-f]{64}")


class Spot(Schema):
    page: int
    top: float | None = None


class RecipeDoc(Schema):
    """What a person set right; null is left to the finder, and to the writing."""

    corners: list[list[float]] | None
    turn: Literal[0, 90, 180, 270] | None
    tone: Tone


class ArrangementDoc(Schema):
    """Pages by their ids, questions by theirs (never by label, which may be corrected)."""

    order: list[int] = []
    removed: list[int] = []
    loose: list[int] = []
    placements: dict[str, list[Spot]] = {}
    left_blank: list[str] = []
    recipes: dict[str, RecipeDoc] = {}
    dismissed: dict[str, list[Advice]] = {}
    sides: int | None = None
    comment: str = ""
    notes: dict[str, str] = {}
    descriptions: dict[str, str] = {}
    scales: dict[str, float] = {}


class PledgeOut(Schema):
    """A page that is promised and not here yet."""

    sha256: str
    size: int
    file_name: str
    promised: datetime = Field(validation_alias="promised_at")


class PledgesOut(Schema):
    """What is promised and not here yet. ``over``: hashes that were not noted, for as many are promised as sides were
    written, and three more."""

    promised: list[PledgeOut]
    over: list[str]


class PaceOut(Schema):
    """When to put the pen down, and from what that was worked out."""

    pen_down: datetime
    seconds_a_page: float
    pages: int
    check_seconds: float
    basis: Basis
    measured_pages: int


class RoomOut(Schema):
    """Of the files of a folio, where it is nearly used up."""

    megabytes: int
    most_megabytes: int
    files: int
    most_files: int

    @classmethod
    def of(cls, folio: Folio) -> RoomOut | None:
        room = room_of(folio)
        if not room.is_near_its_end:
            return None
        return cls(
            megabytes=room.bytes // 1_000_000, most_megabytes=room.most_bytes // 1_000_000, files=room.files,
            most_files=room.most_files,
        )  # fmt: skip


class WorseOut(Schema):
    """A page that is there twice, and what is worse about it than about the better one."""

    page: int
    drawback: Drawback | Advice


class TwiceOut(Schema):
    """Pages that are the same page of the paper. ``better``: which of them shows all that is written, and plainest;
    None where each may show what the others do not."""

    pages: list[int]
    better: int | None
    worse: list[WorseOut]


class SheetsOut(Schema):
    """Where students write on the printed paper itself. ``waiting``: pages still to be looked at; ``pages``: how many
    the paper has; ``missing``: those not here, from 1; ``empty``: questions in whose space nothing was seen;
    ``unknown``: pages that are none of the paper; ``others``: another student's copy."""

    waiting: int
    pages: int
    missing: list[int]
    empty: list[str]
    twice: list[TwiceOut]
    unknown: list[int]
    others: list[int]
    clean_print: bool


class BoardOut(Schema):
    """``suggested``: another word whenever the labels on the pages suggest something else (see there); "" before the
    first, None where nothing is to be read. ``tells_sheets``: a viewfinder may ask which page of the paper it sees."""

    id: int
    now: datetime
    assignment: AssignmentOut
    window: WindowOut
    questions: list[QuestionOut]
    version: int
    arrangement: ArrangementDoc
    pages: list[PageOut]
    editions: list[EditionLine]
    events: list[RecordedEvent]
    limits: LimitsOut
    pledges: list[PledgeOut]
    pace: PaceOut | None
    rehearsal: bool
    honour: str
    suggested: str | None
    room: RoomOut | None
    changed: ChangedOut | None
    askings: list[AskingOut]
    words: list[SaidOut]
    sheets: SheetsOut | None
    tells_sheets: bool
    answers: list[AnswerOut]


class ArrangementOut(Schema):
    version: int
    arrangement: ArrangementDoc
    changed: ChangedOut | None


class ArrangementIn(Schema):
    version: int
    arrangement: ArrangementDoc


class StaleOut(Schema):
    code: Literal["stale"] = "stale"
    message: str
    version: int
    arrangement: ArrangementDoc
    changed: ChangedOut | None


class PromiseIn(Schema):
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    size: int = Field(gt=0, lt=2**53)
    file_name: str = Field(max_length=1000)


class PledgeIn(Schema):
    pages: list[PromiseIn]
    sides: int | None = Field(None, ge=0, le=SIDES_MOST)


class TakeBackIn(Schema):
    """``edition``: the newest that is known of."""

    edition: int


class HeardIn(Schema):
    words: int = Field(ge=0, le=1000)


class HandInIn(Schema):
    """``confirmed``: the words of honour as they were shown beside the button."""

    seen_edition: int = 0
    confirmed: str = Field("", max_length=4000)


@router.get("/folios/{int:folio_id}", response={200: BoardOut, 404: Problem})
def board(request: HttpRequest, folio_id: int) -> BoardOut:
    now = moment()
    folio = own_folio(person(request), folio_id)
    pages = list(folio.pages.select_related("original"))
    window = folio.window()
    sheets = sheets_of(folio)
    told_twice = {page for one in sheets.twice for page in one.pages} if sheets else set()
    return BoardOut(
        id=folio.pk,
        now=now,
        assignment=AssignmentOut.of(folio.assignment),
        window=WindowOut.of(window, now),
        questions=questions_out(folio.assignment.question_map, seed_of(folio)),
        version=folio.version,
        arrangement=_document(folio),
        pages=pages_out(folio, pages, window.rules, told_twice),
        editions=list(folio.editions.all()),  # type: ignore[arg-type]
        events=rail_events(folio),
        pledges=list(folio.pledges.filter(delivered=False)),  # type: ignore[arg-type]
        pace=pace_of(folio, window, pages),  # type: ignore[arg-type]
        rehearsal=folio.assignment.rehearsal_of_id is not None,
        honour=folio.assignment.honour,
        suggested=suggested(folio),
        limits=LimitsOut.of(folio.assignment),
        room=RoomOut.of(folio),
        changed=ChangedOut.of(folio, now),
        askings=asked_of(folio, now),
        words=words_of(folio),
        sheets=sheets,  # type: ignore[arg-type]
        tells_sheets=live_frames.tells(folio),
        answers=answers_out(folio),
    )


@router.put(
    "/folios/{int:folio_id}/originals",
    response={200: AcknowledgedOut, 403: Problem, 404: Problem, 422: Problem},
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string"}}}}},
)
def add_original(request: HttpRequest, folio_id: int, about: Query[SentIn]) -> AcknowledgedOut:
    """Take in one small file: the body is its bytes. The answer is the acknowledgement: it is safe.

    Large ones come in pieces (`uploads`).
    """
    folio = own_folio(person(request), folio_id)
    require_room(folio, int(request.headers.get("Content-Length") or 0))
    return AcknowledgedOut.of(receive(folio, chunks_of(request), about.sent(), moment))


@router.post("/folios/{int:folio_id}/pledge", response={200: PledgesOut, 403: Problem, 404: Problem, 422: Problem})
def post_pledge(request: HttpRequest, folio_id: int, body: PledgeIn) -> PledgesOut:
    """Fingerprints of pages that wait on the device. Their bytes count as of now if they follow in time."""
    return pledged(own_folio(person(request), folio_id), body)


def pledged(folio: Folio, body: PledgeIn) -> PledgesOut:
    promises = [Promise(page.sha256, page.size, page.file_name) for page in body.pages]
    promised = pledge(folio, promises, moment(), body.sides)
    known = {*folio.originals.values_list("sha256", flat=True), *(one.sha256 for one in promised)}
    over = [one.sha256 for one in promises if one.sha256 not in known]
    return PledgesOut(promised=promised, over=over)  # type: ignore[arg-type]


@router.put(
    "/folios/{int:folio_id}/arrangement",
    response={200: ArrangementOut, 403: Problem, 404: Problem, 409: StaleOut, 422: Problem},
)
def put_arrangement(request: HttpRequest, folio_id: int, body: ArrangementIn):  # type: ignore[no-untyped-def]
    folio = own_folio(person(request), folio_id)
    now = moment()
    try:
        arrangement = read_arrangement(body.arrangement.model_dump())
        folio = arrange(folio.pk, seen=body.version, arrangement=arrangement, now=now)
    except Stale as stale:
        message = "This was changed elsewhere meanwhile. The newer state is shown; your last change was not made."
        return 409, StaleOut(message=message, **_saved(stale.folio, now))
    return ArrangementOut(**_saved(folio, now))


def _saved(folio: Folio, now: datetime) -> dict[str, Any]:
    return {"version": folio.version, "arrangement": _document(folio), "changed": ChangedOut.of(folio, now)}


def _document(folio: Folio) -> ArrangementDoc:
    return ArrangementDoc(**write_arrangement(current(folio)))


@router.post(
    "/folios/{int:folio_id}/hand-in",
    response={200: EditionLine, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
)
def post_hand_in(request: HttpRequest, folio_id: int, body: HandInIn) -> Edition:
    folio = own_folio(person(request), folio_id)
    return hand_in(folio, seen_edition=body.seen_edition, confirmed=body.confirmed, now=moment())


@router.post("/folios/{int:folio_id}/take-back", response={204: None, 403: Problem, 404: Problem, 409: Problem})
def post_take_back(request: HttpRequest, folio_id: int, body: TakeBackIn) -> tuple[int, None]:
    """Nothing is handed in any more, until it is handed in again; at the close by itself."""
    take_back(own_folio(person(request), folio_id), number=body.edition, now=moment())
    return 204, None


@router.put("/folios/{int:folio_id}/heard", response={204: None, 404: Problem})
def put_heard(request: HttpRequest, folio_id: int, body: HeardIn) -> tuple[int, None]:
    """The board has shown the student so many words of staff in all."""
    hear(own_folio(person(request), folio_id).pk, body.words, moment())
    return 204, None


@router.get("/folios/{int:folio_id}/images/{name}", response={200: None})
def image(request: HttpRequest, folio_id: int, name: str) -> HttpResponse:
    """A prepared image by its hash: re-encoded by us, never the user's bytes. What it names never changes."""
    folio, questions = folio_to_read(person(request), folio_id)
    if questions is not None and not shows_image(folio, questions, name):
        raise not_yours()
    if not _SHA256.fullmatch(name) or not default_storage.exists(image_name(folio.pk, name)):
        raise not_yours()
    data = storage.get(image_name(folio.pk, name))
    return lasting_picture(data, image_type(data))


@router.get("/originals/{int:original_id}/file", response={200: None})
def original_file(request: HttpRequest, original_id: int) -> FileResponse:
    """The bytes as they came: always an attachment, never shown in the page."""
    original = Original.objects.filter(pk=original_id).first()
    if original is None:
        raise not_yours()
    folio, questions = folio_to_read(person(request), original.folio_id)
    if questions is not None:
        raise not_yours()  # a file may hold more than the pages that are read
    if hides_names(person(request), folio):
        raise Refused(403, "names_hidden", "Names are hidden here until the work is given back, and this file has one.")
    return attachment(person(request).pk, original.stored_as, original.file_name, "application/octet-stream")
