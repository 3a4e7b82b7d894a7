"""Looking back on a rehearsal: what took how long, and what to do better. Pure."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

_LONG_HANDOVER_SHARE = 0.8  # of the handover used up: little is left for a bad network
_SLOW_PAGE_SECONDS = 60.0
_LONG_CHECK_SECONDS = 180.0


@dataclass(frozen=True, slots=True)
class Sitting:
    """What was seen of a rehearsal that was handed in. ``arrived``: of each page. ``advised``: pages with advice.

    ``by_itself``: handed in at the close, by nobody. Untimed work has no ``writing_ends``.
    """

    begun: datetime
    writing_ends: datetime | None
    closes: datetime
    arrived: Sequence[datetime]
    handed_in: datetime
    by_itself: bool
    advised: int
    taken_again: int
    open_questions: int
    open_pages: int


@dataclass(frozen=True, slots=True)
class Step:
    """``seconds`` of one part of the sitting, in order."""

    words: str
    seconds: float


@dataclass(frozen=True, slots=True)
class LookBack:
    steps: tuple[Step, ...]
    seconds_a_page: float
    better: tuple[str, ...]


def look_back(seen: Sitting) -> LookBack:
    """Raises ValueError for a sitting without a page: there is nothing to look back on."""
    if not seen.arrived:
        raise ValueError("No page was sent.")
    first, last = min(seen.arrived), max(seen.arrived)
    sending = (last - first).total_seconds()
    a_page = sending / max(len(seen.arrived) - 1, 1)
    placing = max((seen.handed_in - last).total_seconds(), 0.0)
    steps = (
        Step("from beginning to the first page safe", (first - seen.begun).total_seconds()),
        Step("from the first page to the last", sending),
        Step("from the last page to handing in", placing),
    )
    return LookBack(steps, a_page, tuple(_better(seen, a_page, placing)))


def _better(seen: Sitting, a_page: float, placing: float) -> list[str]:
    told = []
    if seen.by_itself:
        told.append("The close came first, and the pages were handed in by themselves. Press “Hand in” before that.")
    elif seen.writing_ends is not None and seen.handed_in > seen.writing_ends:
        whole = (seen.closes - seen.writing_ends).total_seconds()
        used = (seen.handed_in - seen.writing_ends).total_seconds()
        if used > _LONG_HANDOVER_SHARE * whole:
            told.append(
                "Most of the handover was used up. Put the pen down earlier, or photograph each sheet as it fills."
            )
    if a_page > _SLOW_PAGE_SECONDS:
        told.append(
            "More than a minute went by between pages. Take all the photographs first, then choose them together."
        )
    if seen.advised:
        pages = "one page" if seen.advised == 1 else f"{seen.advised} pages"
        told.append(f"The check had advice on {pages}. More light and a picture from straight above help most.")
    if seen.taken_again:
        told.append("Some pages were taken again. Lay the sheets out in good light before the first picture.")
    if placing > _LONG_CHECK_SECONDS:
        told.append("Placing took long. Type what is on each page while it is in front of you: “1a-c”, Enter.")
    if seen.open_questions or seen.open_pages:
        told.append("Something was still open. That is allowed, but a marker then has to look for it.")
    return told or ["Nothing: that would have been safe and complete in good time."]
