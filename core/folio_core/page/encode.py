"""Pixels as files, by OpenCV; and back."""

from __future__ import annotations

import io

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from .errors import PageError, Trouble


def png(page: NDArray[np.uint8]) -> bytes:
    """One bit a pixel. Raises PageError."""
    return _written(".png", page, [cv2.IMWRITE_PNG_BILEVEL, 1])


def jpeg(page: NDArray[np.uint8], quality: int) -> bytes:
    """``page``: grey, or height × width × 3 RGB. ``quality``: 0 to 100. Raises PageError."""
    bgr = page if page.ndim == 2 else np.asarray(cv2.cvtColor(page, cv2.COLOR_RGB2BGR), np.uint8)
    return _written(".jpg", bgr, [cv2.IMWRITE_JPEG_QUALITY, quality])


def pixels_of(image: bytes) -> NDArray[np.uint8]:
    """RGB, of an image that this product made; what came from outside is opened in a limited child."""
    with Image.open(io.BytesIO(image)) as opened:
        return np.asarray(opened.convert("RGB"), np.uint8)


def _written(kind: str, page: NDArray[np.uint8], options: list[int]) -> bytes:
    done, data = cv2.imencode(kind, page, options)
    if not done:
        raise PageError(Trouble.DECODER_DIED, "The prepared page could not be written. Try again.")
    return data.tobytes()
