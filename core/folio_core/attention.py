"""Who needs an instructor during a sitting, and why: from the clock and what the server has, nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from .clock import Phase, Window, phase

LITTLE_TIME = timedelta(minutes=15)  # common practice: what photographing and sending takes
PROMISE_IS_LATE = timedelta(minutes=2)


class Need(StrEnum):
    NO_PAGE = "no_page"  # little time is left, and neither a page nor an answer is here
    PROMISED = "promised"  # pages were promised some time ago and are not here
    FAILED = "failed"  # a page cannot be opened, and none came in its place
    TIME_RUNS = "time_runs"  # not begun, and the full time cannot be had any more


@dataclass(frozen=True, slots=True)
class Seen:
    """What the server has of one student. ``promised``: when each promise was made that is not kept yet.
    ``answers``: how many are given on the screen."""

    pages: int
    failed: int
    editions: int
    promised: Sequence[datetime] = ()
    answers: int = 0


def needs(window: Window, seen: Seen, now: datetime) -> tuple[Need, ...]:
    """What an instructor may have to see to; nothing where all is well, or all is over."""
    found = []
    running = phase(window, now) in (Phase.WRITING, Phase.HANDOVER, Phase.LATE)
    if window.begun is None:
        late = window.latest_full_begin is not None and window.latest_full_begin < now < window.closes
        return (Need.TIME_RUNS,) if late else ()
    if running and seen.pages + seen.answers == 0 and window.closes - now <= LITTLE_TIME:
        found.append(Need.NO_PAGE)
    waited = any(now - promised >= PROMISE_IS_LATE for promised in seen.promised)
    if waited and now < window.pledges_end:
        found.append(Need.PROMISED)
    if running and seen.failed and not seen.editions:
        found.append(Need.FAILED)
    return tuple(found)
