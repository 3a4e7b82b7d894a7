"""What the foot of a page says of the page after it: nobody goes on to another page while there is room for lines."""

from __future__ import annotations

from collections.abc import Sequence

from folio_core.reading.page_reading import PageReading

# By the lines that fit below what is written, more than on the fullest page of the folio: log odds that the answer
# runs on to the next page. Set on tuning folios, where they are 1.5 to 4; kept nearer to none, for a figure or the end
# of a thought may make somebody turn the page sooner.
_ROOM_FOR = ((1.0, 1.0), (2.0, -1.2), (3.0, -2.0))
_ROOM_FOR_MORE = -2.8
_MOST_MARGIN = 6.0  # lines that somebody leaves free at the foot of a full page


def runs_on_by_room(readings: Sequence[PageReading]) -> list[float]:
    """Of each page log odds, by its room, that what stands at its foot runs on to another; 0 where it is not known."""
    known = [reading.room for reading in readings if reading.room is not None]
    if len(known) < 2:
        return [0.0] * len(readings)
    margin = min(_MOST_MARGIN, *known)
    return [0.0 if reading.room is None else _odds(reading.room - margin) for reading in readings]


def _odds(room: float) -> float:
    return next((odds for lines, odds in _ROOM_FOR if room < lines), _ROOM_FOR_MORE)
