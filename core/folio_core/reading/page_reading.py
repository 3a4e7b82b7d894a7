"""What was read of one page, as plain values that can be kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

HEADING = 0.10  # of a page's height: down to there a single line above the first label may be a heading
HEAD = 0.055  # of a page's height: name, number and page number stand there (common practice, no source)
HIGH_AS_WIDE = 1.41  # what is a share of a page's height is so much more of its width (ISO 216)
NOTHING_FOLLOWS = 20.0
FEW_LINES = 6  # with so many at most a page may be a cover, or scrap


@dataclass(frozen=True, slots=True)
class Candidate:
    """One thing a mark may say. ``text``: the levels of a label joined ("2b", "b", "1.1a"); "/3" or "3/5" is a page
    number; "~" behind it says that an answer is continued. ``probability``: 0–1."""

    text: str
    probability: float


@dataclass(frozen=True, slots=True)
class Mark:
    """The beginning of a line that may be a label. ``left``, ``top``, ``width``, ``height``: shares of the page.

    ``nothing``: how probable it is that no label stands there. ``hang``: how far left of where the writing begins, in
    heights of a digit; ``space``: above it, in distances of lines; ``line``: its line's place on the page, from 0;
    ``gap``: between its first word and what follows on its line, in heights of a digit, `NOTHING_FOLLOWS` where nothing
    does; 0 for what was read before that was kept; ``drawn``: whether it stands within a table or a drawing.
    """

    left: float
    top: float
    width: float
    height: float
    nothing: float
    candidates: tuple[Candidate, ...]
    hang: float = 0.0
    space: float = 1.0
    line: int = 0
    gap: float = 0.0
    drawn: bool = False


@dataclass(frozen=True, slots=True)
class PageLook:
    """``ink``: how much red, green and blue light it takes away, of the colour that it takes most of. ``ruling``:
    "plain", "ruled", "squared", or "" where that is not plain."""

    ink: tuple[float, float, float]
    ruling: str


@dataclass(frozen=True, slots=True)
class PageReading:
    """``marks``: from top to bottom, by column. ``lines``: how many lines are written. ``engine``: which one read it,
    for keeping. ``header``: what stands at the page's head, a name and a number perhaps. ``opening``: the words of the
    first line below it, where that may be a heading; of a page that may be a cover, of all its lines. ``look``: None
    where little is written, or of what was read before looks were kept. ``room``: how many lines more would fit on it
    below what is written and drawn; None where nothing is, or of what was read before that was kept."""

    marks: tuple[Mark, ...] = ()
    lines: int = 0
    engine: str = ""
    header: str = ""
    look: PageLook | None = None
    opening: str = ""
    room: float | None = None

    def as_document(self) -> dict[str, Any]:
        return {
            "engine": self.engine,
            "header": self.header,
            "lines": self.lines,
            "marks": [
                {
                    "box": [round(side, 4) for side in (mark.left, mark.top, mark.width, mark.height)],
                    "nothing": round(mark.nothing, 5),
                    "says": [[one.text, round(one.probability, 5)] for one in mark.candidates],
                    "at": [round(mark.hang, 2), round(mark.space, 2), mark.line, round(mark.gap, 2), mark.drawn],
                }
                for mark in self.marks
            ],
            "opening": self.opening,
            "look": [list(self.look.ink), self.look.ruling] if self.look else None,
            "room": None if self.room is None else round(self.room, 2),
        }

    @classmethod
    def from_document(cls, kept: Mapping[str, Any]) -> PageReading:
        marks = tuple(_mark(one) for one in kept["marks"])
        look = kept.get("look")
        return cls(
            marks,
            kept["lines"],
            kept["engine"],
            kept["header"],
            PageLook(tuple(look[0]), look[1]) if look else None,
            kept.get("opening", ""),
            kept.get("room"),
        )


def _mark(kept: Mapping[str, Any]) -> Mark:
    left, top, width, height = kept["box"]
    hang, space, line, *later = kept["at"]
    candidates = tuple(Candidate(text, share) for text, share in kept["says"])
    return Mark(left, top, width, height, kept["nothing"], candidates, hang, space, line, *later)


class Engine(Protocol):
    """Reads labels on a prepared page: upright, height × width × 3 RGB."""

    @property
    def name(self) -> str: ...

    def read(self, page: NDArray[np.uint8]) -> PageReading: ...

    def digits(self, crops: NDArray[np.uint8]) -> NDArray[np.float64]:
        """``crops``: n × height × width as `finding.crop` cuts them. How probable each is of the ten digits, n × 10."""
        ...
