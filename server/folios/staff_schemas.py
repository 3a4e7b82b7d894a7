"""What instructors are told of sittings, and what they ask."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from ninja import Schema

from folio_core.clock import Phase, Verdict

from .schemas import AssignmentOut, WindowOut


class FolioLine(Schema):
    """A line of the instructor's list: a student, with or without a folio."""

    student: str
    number: str
    email: str
    folio_id: int | None
    begun_at: datetime | None
    edition: int | None
    handed_in_at: datetime | None
    verdict: Verdict | None
    late_seconds: int
    automatic: bool
    phase: Phase
    closes: datetime | None
    pages: int
    open_labels: list[str]


class FolioListOut(Schema):
    """``running``: how many sittings run just now, which an instructor may lengthen."""

    now: datetime
    assignment: AssignmentOut
    due: datetime
    running: int
    folios: list[FolioLine]


class LengthenIn(Schema):
    """``folio_id`` of one sitting, or null for all that run just now."""

    minutes: int
    folio_id: int | None = None


class LengthenedOut(Schema):
    folios: int


class RecordLine(Schema):
    """One event of a sitting's record, with the server's time."""

    kind: str
    at: datetime
    detail: dict[str, Any]


class RecordOut(Schema):
    folio_id: int
    student: str
    student_number: str
    assignment: AssignmentOut
    window: WindowOut
    events: list[RecordLine]
