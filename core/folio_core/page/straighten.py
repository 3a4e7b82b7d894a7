"""Corners → a flat sheet: the homography and one warp."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from .limits import A4_MM, LETTER_MM, OUTPUT_LONG_SIDE_PX
from .recipe import Corners

_INSET = 0.002  # of the half size
_SNAP = 0.07  # side ratios nearer than this to A4 or Letter are taken for them; a freehand shot measures within 0.05


def whole_picture(width: int, height: int) -> Corners:
    return ((0.0, 0.0), (float(width), 0.0), (float(width), float(height)), (0.0, float(height)))


def homography(corners: Corners, width: int, height: int) -> NDArray[np.float64]:
    """The 3 × 3 matrix that takes the corners to an upright width × height rectangle.

    Direct linear transform of four points (Hartley and Zisserman, Multiple View Geometry, 4.1).
    Corners and size are in pixel-edge coordinates: (0, 0) is the outer corner of the first pixel.
    """
    source = np.asarray(corners, dtype=np.float32)
    target = np.asarray([(0, 0), (width, 0), (width, height), (0, height)], dtype=np.float32)
    return np.asarray(cv2.getPerspectiveTransform(source, target), dtype=np.float64)


def inset(corners: Corners) -> Corners:
    """A hair inside the sheet's edge, so that no rim of desk shows: 0.2 mm from the long sides of A4."""
    x, y = (sum(values) / 4 for values in zip(*corners, strict=True))
    return tuple((cx + (x - cx) * _INSET, cy + (y - cy) * _INSET) for cx, cy in corners)  # type: ignore[return-value]


def sheet_size_px(corners: Corners) -> tuple[float, float]:
    """Width and height of the sheet in source pixels: the mean of opposite sides."""
    top, right, bottom, left = (math.dist(corners[i], corners[(i + 1) % 4]) for i in range(4))
    return (top + bottom) / 2, (left + right) / 2


def output_size(corners: Corners, *, snap: bool) -> tuple[int, int]:
    """Width and height in pixels of the straightened page, never larger than the source allows.

    With ``snap`` a ratio near A4 or Letter becomes exactly that, so that a page is not stretched.
    """
    width, height = sheet_size_px(corners)
    ratio = min(width, height) / max(width, height)
    if snap:
        nearest = min((A4_MM[0] / A4_MM[1], LETTER_MM[0] / LETTER_MM[1]), key=lambda known: abs(known - ratio))
        ratio = nearest if abs(nearest - ratio) < _SNAP else ratio
    long_side = min(OUTPUT_LONG_SIDE_PX, round(max(width, height)))
    short_side = max(1, round(long_side * ratio))
    return (short_side, long_side) if width <= height else (long_side, short_side)


def straighten(pixels: NDArray[np.uint8], corners: Corners, size: tuple[int, int]) -> NDArray[np.uint8]:
    """Warp the sheet to ``size`` (width, height). Large pictures are first halved so that no stroke is skipped."""
    width, height = sheet_size_px(corners)
    shrink = min(width / size[0], height / size[1])
    scale = 1.0
    if shrink >= 2:  # bilinear sampling alone would alias beyond a factor of two
        scale = 1 / math.floor(shrink)
        pixels = np.asarray(cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)
    scaled: Corners = tuple((x * scale, y * scale) for x, y in corners)  # type: ignore[assignment]
    to_edges = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])  # OpenCV indexes pixel centres, corners are edges
    matrix = np.linalg.inv(to_edges) @ homography(scaled, *size) @ to_edges
    flat = cv2.warpPerspective(pixels, matrix, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(flat, dtype=np.uint8)


def turned(pixels: NDArray[np.uint8], clockwise: int) -> NDArray[np.uint8]:
    return np.ascontiguousarray(np.rot90(pixels, k=-clockwise // 90)) if clockwise else pixels
