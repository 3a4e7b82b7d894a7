"""Pace: when to put the pen down, from how long pages took this student so far. Pure."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from .clock import Window

ASSUMED_SECONDS_A_PAGE = 45.0  # photograph, look, send; common practice, no source
CHECK_SECONDS = 120.0  # to look the folio over and hand it in; common practice, no source
_ENOUGH_PAGES = 3  # fewer say more about the first try than about the student
_CAREFUL_SHARE = 0.8  # of the pages seen so far were at most this slow: a plan on the average fails every second time
_LEAST_SECONDS_A_PAGE = 10.0


class Basis(StrEnum):
    ASSUMED = "assumed"
    MEASURED = "measured"


@dataclass(frozen=True, slots=True)
class Pace:
    """A plan for the handover. ``pages``: still to come; ``measured_pages``: how many pages the figure rests on."""

    pen_down: datetime
    seconds_a_page: float
    pages: int
    check_seconds: float
    basis: Basis
    measured_pages: int


def pace(win: Window, seconds: Sequence[float], *, expected_pages: int, pages_in: int) -> Pace | None:
    """When to put the pen down so that all pages are in before the close, or None where nothing is running.

    Untimed work is planned for its due moment.
    ``seconds``: of each page so far, from its picture to being safe, rehearsals included. With fewer than three,
    45 s a page are assumed; else the time that four of five pages stayed within is planned with.
    """
    if win.rules.timed and win.begun is None:
        return None
    measured = len(seconds) >= _ENOUGH_PAGES
    each = max(_LEAST_SECONDS_A_PAGE, _careful(seconds)) if measured else ASSUMED_SECONDS_A_PAGE
    to_come = max(expected_pages - pages_in, 1)
    end = win.closes if win.rules.timed else win.rules.due  # nobody plans to be late
    pen_down = end - timedelta(seconds=each * to_come + CHECK_SECONDS)
    if win.writing_ends is not None:
        pen_down = min(pen_down, win.writing_ends)
    if win.begun is not None:
        pen_down = max(pen_down, win.begun)
    return Pace(
        pen_down, round(each, 1), to_come, CHECK_SECONDS, Basis.MEASURED if measured else Basis.ASSUMED,
        len(seconds) if measured else 0,
    )  # fmt: skip


def _careful(seconds: Sequence[float]) -> float:
    """The nearest-rank quantile (Hyndman and Fan 1996, definition 1)."""
    ordered = sorted(seconds)
    return ordered[math.ceil(_CAREFUL_SHARE * len(ordered)) - 1]
