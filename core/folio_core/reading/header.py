"""What stands at the head of a page: name and number, by the general recogniser that ships in the rapidocr wheel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..page.recogniser import signs_of
from .finding import Found, Start
from .page_reading import FEW_LINES, HEAD, HEADING

_MOST_WIDTH = 960  # of a line, in the recogniser's pixels
_MOST_LINES = 2


def header_of(page: NDArray[np.uint8], found: Found) -> str:
    """The text at the head of a page, "" where there is none. ``page``: RGB, as ``found`` was found on."""
    heads = [start for start in found.starts if start.first and start.top < HEAD * page.shape[0]][:_MOST_LINES]
    return " ".join(part for part in (_text(page, start, found.digit) for start in heads) if part)


def opening_of(page: NDArray[np.uint8], found: Found) -> str:
    """The text of the first line below the head, "" where that stands too low to be a heading; of a page that may be
    nothing but one, all of its lines."""
    height = page.shape[0]
    below = sorted(
        (start for start in found.starts if start.first and start.top >= HEAD * height), key=lambda start: start.top
    )
    if below and found.lines > FEW_LINES:
        beside = [start for start in below if start.top < below[0].bottom]  # its number may stand higher
        below = [start for start in sorted(beside, key=lambda start: start.left)[:1] if start.top < HEADING * height]
    return "\n".join(_text(page, start, found.digit) for start in below)


def _text(page: NDArray[np.uint8], start: Start, digit: float) -> str:
    height, width = page.shape[:2]
    pad = 0.35 * digit
    top, bottom = max(0, round(start.top - pad)), min(height, round(start.bottom + pad))
    line = page[top:bottom, max(0, round(start.left - pad)) : width - round(pad)]
    return "".join(sign for sign, _ in signs_of(line, _MOST_WIDTH)).strip() if min(line.shape[:2]) >= 6 else ""
