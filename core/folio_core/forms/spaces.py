"""Where on a printed form each question's answer stands, as far as the form itself tells: below the words of the
question, down to the next one."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from folio_core.question_paper import PaperText, Piece, Proposal

from .answers import Space

_LEAST_HEIGHT = 14.0  # points: a line to write on
_LEAST_WIDTH = 60.0
_FOOT, _SIDE = 36.0, 28.0  # points that are not written on at a page's foot and sides
_GAP = 4.0
_ALONE = 40.0  # a piece of print in the middle of a space is part of it (a unit, a dotted line's end)


def propose_spaces(text: Sequence[PaperText], proposal: Proposal) -> dict[str, list[Space]]:
    """For each label of the proposed map the room below its words. A label without room of its own is left out: it is
    answered elsewhere, or its parts are."""
    spaces: dict[str, list[Space]] = {}
    for page_number, page in enumerate(text):
        items = [item for item in proposal.items if item.page == page_number]
        foot = page.height - _FOOT
        for item, following in pairwise([*items, None]):
            if item is None:
                continue
            top, bottom = item.top * page.height, following.top * page.height if following else foot
            words = [piece for piece in page.pieces if top - 2 <= piece.top < bottom - 2 and piece.top < foot]
            room = _widest_gap(words, top, bottom)
            if room is None:
                continue
            left = min((piece.left for piece in words), default=_SIDE)
            right = page.width - max(_SIDE, min(left, 60.0))
            if right - left >= _LEAST_WIDTH:
                spaces[item.label] = [(page_number, left, room[0], right, room[1])]
    return spaces


def _widest_gap(words: Sequence[Piece], top: float, bottom: float) -> tuple[float, float] | None:
    """The highest strip without words between the top and the bottom; None where no line could be written."""
    edges = sorted((piece.top, piece.bottom) for piece in words if len(piece.text.strip("_. ")) > 0)
    strips, below = [], top
    for upper, lower in edges:
        strips.append((below, upper))
        below = max(below, lower)
    strips.append((below, bottom))
    best = max(strips, key=lambda strip: strip[1] - strip[0])
    upper, lower = best[0] + _GAP, best[1] - _GAP
    return (upper, lower) if lower - upper >= _LEAST_HEIGHT else None
