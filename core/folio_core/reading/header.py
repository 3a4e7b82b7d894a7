"""What stands at the head of a page: name and number, by the general recogniser that ships in the rapidocr wheel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..page.recogniser import signs_of
from .finding import Found
from .page_reading import HEAD

_MOST_WIDTH = 960  # of a line, in the recogniser's pixels
_MOST_LINES = 2


def header_of(page: NDArray[np.uint8], found: Found) -> str:
    """The text at the head of a page, "" where there is none. ``page``: RGB, as ``found`` was found on."""
    height, width = page.shape[:2]
    heads = [start for start in found.starts if start.first and start.top < HEAD * height][:_MOST_LINES]
    said = []
    for start in heads:
        pad = 0.35 * found.digit
        top, bottom = max(0, round(start.top - pad)), min(height, round(start.bottom + pad))
        line = page[top:bottom, max(0, round(start.left - pad)) : width - round(pad)]
        if min(line.shape[:2]) >= 6:
            said.append("".join(sign for sign, _ in signs_of(line, _MOST_WIDTH)).strip())
    return " ".join(part for part in said if part)
