"""A page as it is, for looking at: nothing is cut, turned or toned. For question papers, which nobody photographs."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from .encode import jpeg
from .limits import Limits
from .opening import open_page

_LONG_SIDE = 2000  # pixels: small print of an A4 sheet stays readable at twice its size on a screen
_JPEG_QUALITY = 80


@dataclass(frozen=True, slots=True)
class Picture:
    """``image``: JPEG. Width and height in pixels; ``source_width``: of the file, after EXIF."""

    image: bytes
    width: int
    height: int
    source_width: int


def picture(data: bytes, index: int, limits: Limits) -> Picture:
    """Page ``index`` (from 0) of a file, its long side at most 2000 pixels. Raises PageError."""
    opened = open_page(data, index, limits)
    pixels = opened.pixels
    scale = min(1.0, _LONG_SIDE / max(pixels.shape[:2]))
    small = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else pixels
    return Picture(jpeg(np.asarray(small, np.uint8), _JPEG_QUALITY), small.shape[1], small.shape[0], opened.width)
