"""What the room at the foot of a page says of what follows it: nobody goes on to another page while there is room for
lines, and the last page is seldom full."""

from __future__ import annotations

from collections.abc import Sequence
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from folio_core.reading.page_reading import PageReading


class Following(IntEnum):
    """What comes after a page: one that begins with a label, one into which its last answer runs on, or nothing."""

    BEGINS = 0
    RUNS_ON = 1
    ENDS = 2


# By the lines that fit below what is written, more than on the fullest page of the folio: log odds of what follows,
# against a page that begins with a label. Set on tuning folios, where they are 0.5 to 4 for what runs on and 1 to 2 for
# the end; kept nearer to none, for a figure or the end of a thought may make somebody turn the page sooner.
_LINES = (1.0, 2.0, 3.0)
_RUNS_ON = (1.0, -1.2, -2.0, -2.8)
_ENDS = (-1.2, -0.9, -0.9, 0.7)
_MOST_MARGIN = 6.0  # lines that somebody leaves free at the foot of a full page


def by_room(readings: Sequence[PageReading]) -> NDArray[np.float64]:
    """Of each page log odds, by its room, of what follows it; 0 where it is not known. Following × pages."""
    odds = np.zeros((len(Following), len(readings)))
    known = [reading.room for reading in readings if reading.room is not None]
    if len(known) < 2:
        return odds
    margin = min(_MOST_MARGIN, *known)
    for page, reading in enumerate(readings):
        if reading.room is not None:
            place = int(np.searchsorted(_LINES, reading.room - margin, side="right"))
            odds[Following.RUNS_ON, page] = _RUNS_ON[place]
            odds[Following.ENDS, page] = _ENDS[place]
    return odds
