"""Where the text of a paper goes on: columns, and what stands on every page and belongs to no question."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from .lines import PaperText, Piece

_MARGIN = 0.09  # of the height: page numbers and running titles stand in it, above and below
_GUTTER = (0.35, 0.65)  # of the width: where two columns may meet
_LEAST_GUTTER = 8.0  # points
_LEAST_LINES = 3  # on each side of a gutter
_LONGER_THAN_A_TITLE = 36  # characters
_NUMBERED = re.compile(r"(?:question|problem|exercise|q)?\s*\(?#[.):]\)?|\(#\)|(?:question|problem|exercise|q)\s*#")


@dataclass(frozen=True, slots=True)
class Placed:
    """A piece of text in reading order. ``indent``: points from the left edge of its column; ``column``: its width."""

    piece: Piece
    page: int
    indent: float
    column: float
    row: tuple[int, int, int]  # page, column, line: the same for pieces that stand side by side in one column

    @property
    def text(self) -> str:
        return self.piece.text


def in_reading_order(pages: Sequence[PaperText]) -> list[Placed]:
    running = _running_titles(pages)
    bodies = [[piece for piece in page.pieces if not _outside(piece, page, running)] for page in pages]
    everywhere = _gutter([piece for body in bodies for piece in body], pages[0]) if pages else None
    parts = [
        (number, side, part)
        for number, (page, body) in enumerate(zip(pages, bodies, strict=True))
        for side, part in _columns(body, page, everywhere)
    ]
    # The edges of a column are the same on all pages, also where a page begins in the middle of a question.
    left = {side: min(piece.left for _, same, part in parts if same == side for piece in part) for _, side, _ in parts}
    right = {
        side: max(piece.right for _, same, part in parts if same == side for piece in part) for _, side, _ in parts
    }
    return [
        Placed(piece, number, piece.left - left[side], max(right[side] - left[side], 1.0), (number, order, piece.line))
        for order, (number, side, part) in enumerate(parts)
        for piece in part
    ]


def _running_titles(pages: Sequence[PaperText]) -> frozenset[str]:
    """What stands in the margin of more than one page, digits aside."""
    seen = Counter(
        text for page in pages for text in {_bare(piece) for piece in page.pieces if _in_margin(piece, page)}
    )
    return frozenset(text for text, times in seen.items() if times > 1)


def _outside(piece: Piece, page: PaperText, running: frozenset[str]) -> bool:
    if not _in_margin(piece, page):
        return False
    if _begins_a_question(piece, page, running):
        return False
    alone = re.fullmatch(r"(?:page\s*)?[-–—]?\s*#\s*[-–—]?(?:\s*(?:of|/)\s*#)?", _bare(piece))
    return bool(alone) or _bare(piece) in running


def _begins_a_question(piece: Piece, page: PaperText, running: frozenset[str]) -> bool:
    """A number with a stop at the top of several pages, each before other words, or before a sentence that only its
    figures tell from those of the other pages: no running title."""
    if not _NUMBERED.fullmatch(_bare(piece)):
        return False
    beside = (other for other in page.pieces if other.line == piece.line and other.left > piece.right)
    return any(_bare(other) not in running or len(other.text) > _LONGER_THAN_A_TITLE for other in beside)


def _in_margin(piece: Piece, page: PaperText) -> bool:
    return piece.bottom < _MARGIN * page.height or piece.top > (1 - _MARGIN) * page.height


def _bare(piece: Piece) -> str:
    return re.sub(r"\d+", "#", piece.text.strip().lower())


def _columns(pieces: Sequence[Piece], page: PaperText, everywhere: float | None) -> Iterator[tuple[str, list[Piece]]]:
    """One column, or two with what runs over both before, between and behind them."""
    gutter = _gutter(pieces, page) if everywhere is None else everywhere
    if gutter is None:
        if pieces:
            yield "whole", sorted(pieces, key=lambda piece: (piece.line, piece.left))
        return
    wide = [piece for piece in pieces if piece.left < gutter < piece.right]
    bands = [0.0, *sorted(piece.top for piece in wide), page.height + 1]
    heads = {piece.top: piece for piece in wide}
    for top, bottom in itertools.pairwise(bands):
        if top in heads:
            yield "whole", [heads[top]]
        inside = [piece for piece in pieces if piece not in wide and top <= piece.top < bottom]
        for side, is_left in (("left", True), ("right", False)):
            part = [piece for piece in inside if (piece.right <= gutter) == is_left]
            if part:
                yield side, sorted(part, key=lambda piece: (piece.line, piece.left))


def _gutter(pieces: Sequence[Piece], page: PaperText) -> float | None:
    """The middle of the white strip between two columns, if there are two."""
    low, high = _GUTTER[0] * page.width, _GUTTER[1] * page.width
    body = [piece for piece in pieces if piece.right - piece.left > 0.12 * page.width]
    best: tuple[int, float, float] | None = None  # pieces that cross it, its width with a minus, its middle
    edges = sorted(
        {low, high, *(edge for piece in pieces for edge in (piece.left, piece.right) if low <= edge <= high)}
    )
    for left, right in itertools.pairwise(edges):
        middle = (left + right) / 2
        crossing = sum(piece.left < middle < piece.right for piece in pieces)
        before = sum(piece.right <= middle for piece in body)
        behind = sum(piece.left >= middle for piece in body)
        clear = right - left >= _LEAST_GUTTER and crossing <= 0.1 * len(pieces)
        if clear and min(before, behind) >= _LEAST_LINES:
            best = min(best or (len(pieces), 0.0, 0.0), (crossing, left - right, middle))
    return best[2] if best else None
