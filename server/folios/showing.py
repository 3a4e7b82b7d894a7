"""Rows → what the front end is told."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.conf import settings

from assignments.models import Assignment
from courses.models import Enrolment
from folio_core import clock
from folio_core.page import WORDS, Advice

from .arrival import most_bytes
from .models import Edition, Event, Folio, Page
from .schemas import AdviceOut, AssignmentOut, EditionLine, EventOut, FoundOut, LimitsOut, PageOut, WindowOut


def assignment_out(assignment: Assignment) -> AssignmentOut:
    course = assignment.course
    return AssignmentOut(
        id=assignment.pk, title=assignment.title, course=course.code, course_title=course.title,
        time_zone=course.time_zone, place=course.place, writing_minutes=assignment.writing_minutes,
        handover_minutes=assignment.handover_minutes,
    )  # fmt: skip


def window_out(window: clock.Window, now: datetime) -> WindowOut:
    return WindowOut(
        opens=window.rules.opens, due=window.rules.due, late_until=window.rules.late_until, begun=window.begun,
        latest_full_begin=window.latest_full_begin, writing_ends=window.writing_ends,
        handover_ends=window.handover_ends, closes=window.closes, pledges_end=window.pledges_end,
        placing_ends=window.placing_ends,
        phase=clock.phase(window, now), timed=window.rules.timed,
    )  # fmt: skip


def limits_out() -> LimitsOut:
    return LimitsOut(file_bytes=most_bytes(), pages=settings.FOLIO_MAX_PAGES)


def extra_time_words(enrolment: Enrolment) -> str:
    words = []
    if enrolment.extra_factor > 1:
        words.append(f"×{enrolment.extra_factor:g}")
    if enrolment.extra_minutes:
        words.append(f"+{enrolment.extra_minutes} min")
    return " and ".join(words)


def image_url(folio_id: int, sha256: str) -> str:
    return f"/api/folios/{folio_id}/images/{sha256}" if sha256 else ""


def page_out(page: Page, pages_of_file: int) -> PageOut:
    measures = page.findings.get("measures") or {}
    return PageOut(
        id=page.pk, file_name=page.original.file_name, index=page.index, of=pages_of_file, state=page.state,  # type: ignore[arg-type]
        trouble=page.trouble, message=page.trouble_message,  # type: ignore[arg-type]
        found=FoundOut(**page.findings) if page.findings else None,
        image=image_url(page.folio_id, page.image), preview=image_url(page.folio_id, page.preview),
        source=image_url(page.folio_id, page.source),
        width=page.width, height=page.height, dpi=measures.get("resolution_dpi"), taken=page.taken,
        advice=[_advice_out(one) for one in page.advice],
        arrived=page.original.arrived_at, original_id=page.original_id, sha256=page.original.sha256,
        promised=page.original.promised_at,
    )  # fmt: skip


def _advice_out(kept: dict[str, Any]) -> AdviceOut:
    words = WORDS[Advice(kept["code"])]
    return AdviceOut(code=kept["code"], seen=words.seen, do=words.do, where=kept["where"], other=kept.get("other"))


def edition_line(edition: Edition) -> EditionLine:
    return EditionLine(
        number=edition.number, handed_in_at=edition.handed_in_at, verdict=edition.verdict,  # type: ignore[arg-type]
        late_seconds=edition.late_seconds, automatic=edition.automatic,
        state=edition.state, page_count=edition.page_count,  # type: ignore[arg-type]
    )  # fmt: skip


_RAIL_EVENTS = (
    Event.Kind.BEGUN, Event.Kind.ARRIVED, Event.Kind.HANDED_IN, Event.Kind.PLEDGED, Event.Kind.LENGTHENED,
)  # fmt: skip


def rail_events(folio: Folio) -> list[EventOut]:
    """What the time rail marks."""
    return [
        EventOut(
            kind=event.kind, at=event.at, minutes=event.detail.get("minutes"), number=event.detail.get("edition"),
            count=len(event.detail["pages"]) if "pages" in event.detail else None,
        )
        for event in folio.events.filter(kind__in=_RAIL_EVENTS)
    ]  # fmt: skip


def page_counts(pages: list[Page]) -> dict[int, int]:
    """How many pages each original of the folio has."""
    counts: dict[int, int] = {}
    for page in pages:
        counts[page.original_id] = counts.get(page.original_id, 0) + 1
    return counts
