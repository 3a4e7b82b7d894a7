"""The recipe of a page: every correction as a value, so that the original is never touched."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

Point = tuple[float, float]
Corners = tuple[Point, Point, Point, Point]


class Tone(StrEnum):
    PHOTO = "photo"  # as photographed
    CLEAN = "clean"  # light evened, paper white, colours of ink kept
    INK = "ink"  # black strokes on white, nothing else


@dataclass(frozen=True, slots=True)
class Recipe:
    """How one page is made from its source.

    ``corners``: top-left, top-right, bottom-right, bottom-left of the sheet in source pixels after EXIF;
    None lets the finder look. ``turn``: clockwise degrees after that; None lets the writing decide.
    """

    corners: Corners | None = None
    turn: int | None = None
    tone: Tone = Tone.CLEAN

    def __post_init__(self) -> None:
        if self.turn not in (None, 0, 90, 180, 270):
            raise ValueError("A page turns by 0, 90, 180 or 270 degrees.")
        if self.corners is not None and not _convex(self.corners):
            raise ValueError("The four corners must go round the sheet clockwise, from its top left, without a dent.")


def _convex(corners: Corners) -> bool:
    """Each corner turns the same, clockwise way (image axes: y points down)."""
    return all(
        (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]) > 1e-9
        for a, b, c in ((corners[k - 2], corners[k - 1], corners[k]) for k in range(4))
    )
