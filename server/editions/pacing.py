"""A student's pace: from the pages of this sitting and of all earlier ones, rehearsals included."""

from __future__ import annotations

import math
from collections.abc import Sequence

from folio_core.clock import Window
from folio_core.pace import Pace, pace
from folios.models import Folio
from pages.models import Original, Page

from .models import Edition

_LATEST = 60  # pages looked back over: people get faster
_QUESTIONS_A_PAGE = 1.5  # parts that share a sheet where nothing is known yet; common practice, no source


def pace_of(folio: Folio, window: Window, pages: Sequence[Page]) -> Pace | None:
    latest = Original.objects.filter(folio__student=folio.student_id, seconds__isnull=False).order_by("-pk")[:_LATEST]
    return pace(
        window,
        [original.seconds for original in latest.only("seconds") if original.seconds is not None],
        expected_pages=_expected_pages(folio),
        pages_in=sum(page.state != Page.State.FAILED for page in pages),
    )


def _expected_pages(folio: Folio) -> int:
    """As many as this student's latest hand-ins had on average; before there are any, by the question map."""
    own = Edition.objects.filter(folio__student=folio.student_id, folio__assignment__rehearsal_of=None)
    own = own.exclude(folio=folio)
    counts = list(own.values_list("page_count", flat=True)[:5])
    if counts:
        return math.ceil(sum(counts) / len(counts))
    return math.ceil(len(folio.assignment.question_map.labels) / _QUESTIONS_A_PAGE)
