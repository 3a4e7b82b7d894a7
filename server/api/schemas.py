"""What the front end is told. Moments are RFC 3339 in UTC; the course's time zone goes along."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from urllib.parse import unquote
from uuid import UUID

from ninja import Field, Schema

from assignments.api import QuestionOut
from folio_core.clock import Phase, Verdict
from folio_core.pace import Basis
from folio_core.page import Advice, Tone, Trouble

from .arrival import Sent


class WindowOut(Schema):
    """Every instant of one student's sitting; None where there is none."""

    opens: datetime
    due: datetime
    late_until: datetime | None
    begun: datetime | None
    latest_full_begin: datetime | None
    writing_ends: datetime | None
    handover_ends: datetime | None
    closes: datetime
    pledges_end: datetime
    placing_ends: datetime
    phase: Phase
    timed: bool


class AssignmentOut(Schema):
    id: int
    title: str
    course: str
    course_title: str
    time_zone: str
    place: str
    writing_minutes: int | None
    handover_minutes: int


class WorkOut(Schema):
    """A line of My work."""

    assignment: AssignmentOut
    window: WindowOut
    folio_id: int | None
    pages: int
    questions: int
    edition: int | None
    handed_in_at: datetime | None
    extra_time: str


class MyWorkOut(Schema):
    now: datetime
    work: list[WorkOut]
    teaching: list[TaughtOut]


class TaughtOut(Schema):
    assignment: AssignmentOut
    due: datetime
    students: int
    handed_in: int


class EventOut(Schema):
    """What happened, for the time rail. ``minutes`` of a lengthening, ``count`` of promised pages, ``number`` of an
    edition."""

    kind: str
    at: datetime
    minutes: int | None = None
    count: int | None = None
    number: int | None = None


class BriefOut(Schema):
    now: datetime
    assignment: AssignmentOut
    instructions: str
    questions: list[QuestionOut]
    points: float
    has_sheet: bool
    window: WindowOut
    beginning_now: WindowOut
    folio_id: int | None
    extra_time: str
    rehearsal: bool
    is_rehearsal: bool
    events: list[EventOut]


class BegunOut(Schema):
    folio_id: int


class AdviceOut(Schema):
    code: Advice
    seen: str
    do: str
    where: list[float] | None
    other: int | None


class FoundOut(Schema):
    """How the present image was made: corners in pixels of the source, clockwise turn, tone."""

    corners: list[list[float]]
    turn: int
    tone: Tone
    sheet_found: bool
    source_width: int
    source_height: int


class PageOut(Schema):
    id: int
    file_name: str
    index: int
    of: int
    state: Literal["waiting", "ready", "failed"]
    trouble: Trouble | Literal[""]
    message: str
    found: FoundOut | None
    image: str
    preview: str
    source: str
    width: int
    height: int
    dpi: float | None
    taken: str
    advice: list[AdviceOut]
    arrived: datetime
    original_id: int
    sha256: str
    promised: datetime | None


class Spot(Schema):
    page: int
    top: float | None = None


class RecipeDoc(Schema):
    """What a person set right; null is left to the finder, and to the writing."""

    corners: list[list[float]] | None
    turn: Literal[0, 90, 180, 270] | None
    tone: Tone


class ArrangementDoc(Schema):
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


class EditionLine(Schema):
    number: int
    handed_in_at: datetime
    verdict: Verdict
    late_seconds: int
    automatic: bool
    state: Literal["binding", "bound"]
    page_count: int


class LimitsOut(Schema):
    file_bytes: int
    pages: int


class PaceOut(Schema):
    """When to put the pen down, and from what that was worked out."""

    pen_down: datetime
    seconds_a_page: float
    pages: int
    check_seconds: float
    basis: Basis
    measured_pages: int


class BoardOut(Schema):
    id: int
    now: datetime
    assignment: AssignmentOut
    window: WindowOut
    questions: list[QuestionOut]
    version: int
    arrangement: ArrangementDoc
    pages: list[PageOut]
    editions: list[EditionLine]
    events: list[EventOut]
    limits: LimitsOut
    pledges: list[PledgeOut]
    pace: PaceOut | None
    rehearsal: bool


class ArrangementOut(Schema):
    version: int
    arrangement: ArrangementDoc


class ArrangementIn(Schema):
    version: int
    arrangement: ArrangementDoc


class StaleOut(Schema):
    code: Literal["stale"] = "stale"
    message: str
    version: int
    arrangement: ArrangementDoc


class AcknowledgedOut(Schema):
    page_id: int
    original_id: int
    sha256: str
    size: int
    arrived: datetime
    promised: datetime | None
    already: bool


class PictureIn(Schema):
    """What a device says of a file: its name, the files chosen with it and its number among them, its SHA-256 where
    that is known, and how many seconds ago it was chosen."""

    name: str
    batch: UUID | None = None
    number: int = Field(0, ge=0, le=30_000)
    sha256: str = ""
    seconds: float | None = None

    def sent(self) -> Sent:
        return Sent(**{**self.model_dump(exclude={"name"}), "file_name": unquote(self.name)})


class SentIn(PictureIn):
    """Of the folio's own student, also which page it was taken instead of."""

    instead_of: int | None = None


class PromiseIn(Schema):
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    size: int = Field(gt=0)
    file_name: str


class PledgeIn(Schema):
    pages: list[PromiseIn]


class PledgeOut(Schema):
    """A page that is promised and not here yet."""

    sha256: str
    size: int
    file_name: str
    promised: datetime


class HandInIn(Schema):
    seen_edition: int = 0


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
    original_id: int


class ReceiptOut(Schema):
    folio_id: int
    assignment: AssignmentOut
    number: int
    newest: int
    handed_in_at: datetime
    verdict: Verdict
    late_seconds: int
    automatic: bool
    window: WindowOut
    events: list[EventOut]
    look_back: LookBackOut | None
    state: Literal["binding", "bound"]
    page_count: int
    bound_sha256: str
    bound_size: int
    comment: str
    pages: list[ReceiptPage]
    open_labels: list[str]
    left_blank: list[str]
    open_pages: int
    editions: list[EditionLine]
    replace_until: datetime | None


class ReadingSpot(Schema):
    page: int
    top: float | None


class ReadingQuestion(Schema):
    label: str
    title: str
    points: float
    state: Literal["placed", "left_blank", "open"]
    spots: list[ReadingSpot]


class ReadingPage(Schema):
    number: int
    image: str
    preview: str
    width: int
    height: int
    labels: list[str]
    loose: bool
    note: str


class ReadingOut(Schema):
    """A folio to leaf through by question: an edition, or the draft as it would be bound. Spots count pages from 1."""

    folio_id: int
    edition: int | None
    handed_in_at: datetime | None
    comment: str
    student: str
    student_number: str
    assignment: AssignmentOut
    questions: list[ReadingQuestion]
    pages: list[ReadingPage]


class StepOut(Schema):
    words: str
    seconds: float


class LookBackOut(Schema):
    """A rehearsal looked back on: what took how long, what to do better."""

    steps: list[StepOut]
    seconds_a_page: float
    better: list[str]


MyWorkOut.model_rebuild()
