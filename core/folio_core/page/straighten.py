"""Corners → a flat sheet: the homography and one warp."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from .limits import A4_MM, LETTER_MM, OUTPUT_LONG_SIDE_PX
from .recipe import Corners

Image = NDArray[np.uint8]

_INSET = 0.002  # of the half size
_SNAP = 0.03  # side ratios nearer than this to A4 or Letter are taken for them; the two are 0.066 apart
_FOCAL = 0.75  # of the picture's long side: a phone's main lens, 26 mm on a 36 × 24 mm film; common practice, no source
_LEAST_FOCAL, _MOST_FOCAL = 0.5, 3.0  # of the long side: from wide to tele
_MOST_STRETCH = 1.6  # of the ratio of the sides as seen; beyond it the four corners are no rectangle in space
_CLEAR_PERSPECTIVE = 0.04  # convergence of both pairs of sides from which the focal length can be told


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


def kept_whole(corners: Corners, cut: int) -> Corners:
    """With side ``cut`` (from that corner to the next), where the picture ends, moved out by what `inset` takes off:
    writing goes on to that edge."""
    moved = list(corners)
    for near, far in ((cut, cut - 1), ((cut + 1) % 4, (cut + 2) % 4)):
        (x, y), (from_x, from_y) = corners[near], corners[far]
        moved[near] = (x + (x - from_x) * _INSET, y + (y - from_y) * _INSET)
    return moved[0], moved[1], moved[2], moved[3]


def sheet_size_px(corners: Corners) -> tuple[float, float]:
    """Width and height of the sheet in source pixels: the mean of opposite sides."""
    top, right, bottom, left = (math.dist(corners[i], corners[(i + 1) % 4]) for i in range(4))
    return (top + bottom) / 2, (left + right) / 2


def scaled_corners(corners: Corners, scale: float) -> Corners:
    return tuple((x * scale, y * scale) for x, y in corners)  # type: ignore[return-value]


def area_px(corners: Corners) -> float:
    return float(cv2.contourArea(np.asarray(corners, np.float32)))


def aspect_ratio(corners: Corners, picture: tuple[int, int]) -> float:
    """Width over height of the sheet itself, worked out of its perspective; ``picture``: width and height in pixels.

    Zhang and He, Whiteboard scanning and image enhancement (Digital Signal Processing 17, 2007), eqs. 11–20, with the
    principal point in the picture's middle. Where the perspective is too weak to tell the focal length, a phone's
    main lens is assumed.
    """
    middle = np.array(picture) / 2
    m1, m2, m4, m3 = (np.array([x - middle[0], y - middle[1], 1.0]) for x, y in corners)
    k2 = np.cross(m1, m4) @ m3 / (np.cross(m2, m4) @ m3)
    k3 = np.cross(m1, m4) @ m2 / (np.cross(m3, m4) @ m2)
    n2, n3 = k2 * m2 - m1, k3 * m3 - m1
    long_side = max(picture)
    focal_squared = (_FOCAL * long_side) ** 2
    if min(abs(k2 - 1), abs(k3 - 1)) > _CLEAR_PERSPECTIVE:
        measured = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
        if (_LEAST_FOCAL * long_side) ** 2 < measured < (_MOST_FOCAL * long_side) ** 2:
            focal_squared = measured
    across, down = ((n[0] ** 2 + n[1] ** 2) / focal_squared + n[2] ** 2 for n in (n2, n3))
    width, height = sheet_size_px(corners)
    return float(np.clip(math.sqrt(across / down), width / height / _MOST_STRETCH, width / height * _MOST_STRETCH))


def completed(corners: Corners, cut: int, picture: tuple[int, int]) -> Corners:
    """A sheet cut off by the picture's edge along side ``cut`` (from corner ``cut`` to the next), as a rectangle in
    space that holds all that is seen of it: the side is laid through the vanishing point of its opposite one."""
    middle = np.array([*picture, 0]) / 2
    m = [np.array([x, y, 1.0]) - middle for x, y in corners]
    a, b, c, d = (m[(cut + k) % 4] for k in range(4))  # a–b is cut; b–c and d–a are the sides beside it
    beside_b, opposite, beside_a = np.cross(b, c), np.cross(c, d), np.cross(d, a)
    lens = np.diag([1 / (_FOCAL * max(picture)), 1 / (_FOCAL * max(picture)), 1.0])
    down = lens @ np.cross(beside_a, beside_b)
    across = np.cross(np.linalg.inv(lens) @ opposite, down)  # in the sheet's plane, at a right angle to its sides
    vanishing = np.linalg.inv(lens) @ across
    whole = list(corners)
    for keep in (a, b):
        line = np.cross(vanishing, keep)
        ends = [np.cross(line, side) for side in (beside_a, beside_b)]
        ends = [end[:2] / end[2] for end in ends]
        beyond = [math.dist(end, far[:2]) - math.dist(near[:2], far[:2])
                  for end, near, far in zip(ends, (a, b), (d, c), strict=True)]  # fmt: skip
        if min(beyond) > -1e-6 * max(picture):
            for k, end in ((cut, ends[0]), ((cut + 1) % 4, ends[1])):
                whole[k] = (float(end[0] + middle[0]), float(end[1] + middle[1]))
    return whole[0], whole[1], whole[2], whole[3]


def output_size(corners: Corners, picture: tuple[int, int], *, snap: bool) -> tuple[int, int]:
    """Width and height in pixels of the straightened page, never larger than the source allows.

    With ``snap`` a ratio near A4 or Letter becomes exactly that.
    """
    ratio = aspect_ratio(corners, picture)
    short = min(ratio, 1 / ratio)
    if snap:
        nearest = min((A4_MM[0] / A4_MM[1], LETTER_MM[0] / LETTER_MM[1]), key=lambda known: abs(known - short))
        short = nearest if abs(nearest - short) < _SNAP else short
    long_side = max(1, min(OUTPUT_LONG_SIDE_PX, round(max(sheet_size_px(corners)))))
    short_side = max(1, round(long_side * short))
    return (short_side, long_side) if ratio <= 1 else (long_side, short_side)


def straighten(pixels: NDArray[np.uint8], corners: Corners, size: tuple[int, int], lean_deg: float = 0.0) -> Image:
    """Warp the sheet to ``size`` (width, height), turned by ``lean_deg`` clockwise about its middle.

    Large pictures are first halved so that no stroke is skipped.
    """
    width, height = sheet_size_px(corners)
    shrink = min(width / size[0], height / size[1])
    scale = 1.0
    if shrink >= 2:  # bilinear sampling alone would alias beyond a factor of two
        scale = 1 / math.floor(shrink)
        pixels = np.asarray(cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)
    to_edges = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])  # OpenCV indexes pixel centres, corners are edges
    leaned = np.vstack([cv2.getRotationMatrix2D((size[0] / 2, size[1] / 2), -lean_deg, 1.0), [0, 0, 1]])
    matrix = np.linalg.inv(to_edges) @ leaned @ homography(scaled_corners(corners, scale), *size) @ to_edges
    flat = cv2.warpPerspective(pixels, matrix, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(flat, dtype=np.uint8)


def turned_corners(corners: Corners, clockwise: int) -> Corners:
    """The same sheet with its first corner where the top left is once the page is turned."""
    first = -clockwise // 90 % 4
    return corners[first:] + corners[:first]  # type: ignore[return-value]
