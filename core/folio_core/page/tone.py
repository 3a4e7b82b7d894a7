"""Light: evened paper, removed shadow, kept colours of ink."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

_SHRINK = 8  # the paper's light changes slowly; an eighth of the size is enough to follow it
_STROKE_PX = 9  # in the shrunk picture: wider than any stroke, narrower than a shadow's edge
_LEAST_BLACK, _MOST_BLACK = 0.22, 0.80  # of the paper's brightness: what becomes full ink, for pen and for pencil
_MOST_WHITE_BAND = 0.07  # under the paper's brightness: still pure white; less where the ink itself is faint


def paper_light(page: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The blank paper under the writing, an eighth of the page's size in each direction.

    Closing (dilate, erode) lifts dark strokes out and a median smooths what is left: the background estimate
    of Brown and Seales-style document restoration, common practice.
    """
    height, width = page.shape[:2]
    small = cv2.resize(page, (max(1, width // _SHRINK), max(1, height // _SHRINK)), interpolation=cv2.INTER_AREA)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (_STROKE_PX, _STROKE_PX))
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, kernel)
    return np.asarray(cv2.GaussianBlur(cv2.medianBlur(closed, 11), (0, 0), 3), dtype=np.uint8)


def clean_paper(page: NDArray[np.uint8], light: NDArray[np.uint8], ink_contrast: float) -> NDArray[np.uint8]:
    """Divide the light out, set the paper white and the ink dark. Both RGB; same shape as ``page`` back.

    ``ink_contrast`` (0–1, from `measure`) sets where ink begins, so that faint pencil is lifted as far as a pen.
    """
    height, width = page.shape[:2]
    background = cv2.resize(light, (width, height), interpolation=cv2.INTER_LINEAR)
    even = cv2.divide(page, np.maximum(background, 1), scale=255)
    black = float(np.clip(1 - 1.3 * ink_contrast, _LEAST_BLACK, _MOST_BLACK))
    white = 1 - min(_MOST_WHITE_BAND, 0.25 * max(ink_contrast, 0.1))
    curve = np.clip((np.arange(256) / 255 - black) / (white - black), 0, 1)
    return np.asarray(cv2.LUT(even, np.rint(curve * 255).astype(np.uint8)), dtype=np.uint8)
