"""The recipe of a page: every correction as a value, so that the original is never touched."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

Point = tuple[float, float]
Corners = tuple[Point, Point, Point, Point]


class Tone(StrEnum):
    PHOTO = "photo"  # as photographed
    CLEAN = "clean"  # light evened, paper white, colours of ink kept


@dataclass(frozen=True, slots=True)
class Recipe:
    """How one page is made from its source.

    ``corners``: top-left, top-right, bottom-right, bottom-left of the sheet in source pixels after EXIF;
    None lets the finder look. ``turn``: clockwise degrees after that.
    """

    corners: Corners | None = None
    turn: int = 0
    tone: Tone = Tone.CLEAN

    def __post_init__(self) -> None:
        if self.turn not in (0, 90, 180, 270):
            raise ValueError("A page turns by 0, 90, 180 or 270 degrees.")
