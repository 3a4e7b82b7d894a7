"""What a page looks like beside the others of its folio: the colour of its ink, and how its paper is ruled."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.light import Writing, rules_of

from .page_reading import PageLook

_LEAST_INK_PX = 300
_DARKEST = 80  # percentile of the strokes' depth from which their middle shows the ink's own colour
_RIM = 25  # of each side one part in so many is left out: the edge of the sheet
_SURELY_SEEN, _SURELY_NONE = 10.0, 3.0  # thousandths of the page that lie on rules
_ONE_WAY = 4  # times more rules across than down: lines; about as many: squares


def look_of(page: NDArray[np.uint8], writing: Writing) -> PageLook | None:
    """``page``: RGB, as ``writing`` was found on; its light is evened, so the paper's own colour is not known any more.
    None where next to nothing is written."""
    depth = cv2.bitwise_not(writing.grey)
    strokes = writing.ink > 0
    if strokes.sum() < _LEAST_INK_PX:
        return None
    strokes &= depth >= np.percentile(depth[strokes], _DARKEST)
    light = cv2.resize(writing.light, (page.shape[1], page.shape[0]), interpolation=cv2.INTER_LINEAR)
    lost = 1 - page[strokes].astype(np.float64) / np.maximum(light[strokes], 1)
    taken = np.clip(np.median(lost, axis=0), 0, 1)
    red, green, blue = (round(float(one), 2) for one in taken / max(1e-6, float(taken.max())))
    return PageLook((red, green, blue), _ruling(writing))


def _ruling(writing: Writing) -> str:
    high, wide = writing.grey.shape
    inner = slice(high // _RIM, high - high // _RIM), slice(wide // _RIM, wide - wide // _RIM)
    across, down = (1000 * float((layer[inner] > 0).mean()) for layer in rules_of(writing))
    if max(across, down) < _SURELY_NONE:
        return "plain"
    if across >= _SURELY_SEEN and across > _ONE_WAY * down:
        return "ruled"
    return "squared" if min(across, down) >= _SURELY_SEEN else ""
