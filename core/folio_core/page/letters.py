"""Which strokes of a page have the size of letters."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray


def letter_heights(ink: NDArray[np.uint8]) -> NDArray[np.int32]:
    """Of connected strokes that have the size of letters, in pixels of the mask (255 is ink)."""
    _, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    wide, tall = stats[1:, cv2.CC_STAT_WIDTH], stats[1:, cv2.CC_STAT_HEIGHT]
    sized = (tall >= 5) & (tall < ink.shape[0] / 18) & (wide >= 3) & (wide < 6 * tall)
    return np.asarray(tall[sized], np.int32)
