"""Where a photograph that is laid over its page shows paper, and where a hand, a pen case or a desk lies over it."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from .blank import Image

_COARSE_MM = 1.35  # a pixel of what is looked at: coarser than any stroke
_EDGE_MM = 4.0  # around what covers the paper its shadow lies
_OTHER_COLOUR, _DARKER = 0.07, 0.42  # chroma and light from which something lies over the paper


def paper_seen(straight: NDArray[np.uint8], px_a_mm: float) -> Image:
    """255 where there is paper: of the page's own colour, and not too dark. ``straight``: RGB, laid over the page."""
    shrink = _COARSE_MM * px_a_mm
    small = cv2.resize(straight, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA)
    small = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8)).astype(np.float32) + 1
    light = small.sum(axis=2)
    chroma = small / light[..., None]
    bright = light >= np.percentile(light, 40)
    usual = np.median(chroma[bright], axis=0)
    other = np.abs(chroma - usual).max(axis=2) > _OTHER_COLOUR
    dark = light < _DARKER * np.percentile(light, 85)
    covered = cv2.morphologyEx((other | dark).astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
    around = 2 * round(_EDGE_MM / _COARSE_MM) + 1
    paper = np.where(cv2.dilate(covered, np.ones((around, around), np.uint8)) > 0, 0, 255).astype(np.uint8)
    size = (straight.shape[1], straight.shape[0])
    return np.asarray(cv2.resize(paper, size, interpolation=cv2.INTER_NEAREST), np.uint8)
