"""Two facing pages of an open book, each as a sheet of its own."""

from __future__ import annotations

import math
from dataclasses import replace

import cv2
import numpy as np

from ..limits import FINDER_LONG_SIDE_PX, FOUND_CONFIDENCE
from ..recipe import Corners
from ..straighten import homography, sheet_size_px, whole_picture
from . import LEAST_SIDE_PX, Image, Sheet, fills_picture, sheet_in, shrunk
from .gutter import Gutter, covered, gutter_in
from .quad import intersection

_DESK = (40, 40, 40)
_MOST_UNLIKE = 1.5  # of the two pages' widths, or of a page's side and the gutter's length
_FAR_OUT = 0.08  # of the picture: where a page that was only worked out may lie beyond it
_OFF = 0.05  # of the gutter's length: a page's side, or the edge of the shadow on it, lies that near to it


def facing_pages(middle: Image, middle_scale: float, shape: tuple[int, ...]) -> tuple[Sheet, Sheet, Gutter] | None:
    """The left or upper page, the other, and the gutter between, in source pixels; None where there is no open book.

    Arguments as `sheet_in`. Each page is looked for with the other one painted over.
    """
    if min(middle.shape[:2]) < LEAST_SIDE_PX:
        return None
    small, small_scale = shrunk(middle, FINDER_LONG_SIDE_PX)
    gutter = gutter_in(small)
    if gutter is None:
        return None
    whole = gutter.scaled(1 / (small_scale * middle_scale))
    if fills_picture(small) > FOUND_CONFIDENCE:
        one, other = (Sheet(True, FOUND_CONFIDENCE, corners, fills=True) for corners in _parts(shape, whole))
        return one, other, whole
    there = gutter.scaled(1 / small_scale)
    found = [sheet_in(covered(middle, there, -sign, _DESK), middle_scale, shape) for sign in (-1, 1)]
    pages = [_up_to(page, whole) if _meets(page, whole) else page for page in found]
    for at in (0, 1):
        if not _meets(pages[at], whole) and _meets(pages[1 - at], whole):
            mirrored = _beyond(pages[1 - at].corners, whole)
            if _inside(mirrored, shape):
                pages[at] = Sheet(True, FOUND_CONFIDENCE, mirrored)
    if not all(_meets(page, whole) for page in pages):
        return None
    widths = [_width(page.corners, whole) for page in pages]
    if max(widths) > _MOST_UNLIKE * min(widths):
        return None
    sure = min(page.confidence for page in pages)
    one, other = (replace(page, confidence=sure, several=()) for page in pages)
    return one, other, whole


def _meets(page: Sheet, gutter: Gutter) -> bool:
    """Whether one of the page's sides lies along the gutter and is about as long."""
    if not page.found or page.fills:
        return False
    side, gap = _side_at(page.corners, gutter)
    length = math.dist(page.corners[side], page.corners[(side + 1) % 4])
    alike = gutter.length / _MOST_UNLIKE < length < gutter.length * _MOST_UNLIKE
    return alike and gap < _OFF * gutter.length


def _side_at(corners: Corners, gutter: Gutter) -> tuple[int, float]:
    """The side nearest to the gutter, and how far its ends lie from it at most."""
    (x0, y0), (x1, y1) = gutter.start, gutter.end
    across = np.array([-(y1 - y0), x1 - x0]) / gutter.length
    away = np.abs((np.asarray(corners) - (x0, y0)) @ across)
    gaps = np.maximum(away, np.roll(away, -1))
    return int(np.argmin(gaps)), float(gaps.min())


def _up_to(page: Sheet, gutter: Gutter) -> Sheet:
    """The page with its inner side in the gutter: the shadow before it may have been taken for its edge."""
    side = _side_at(page.corners, gutter)[0]
    corners = np.array(page.corners)
    along = np.array([np.asarray(gutter.start), np.asarray(gutter.end) - gutter.start])
    for at, beside in ((side, (side + 3) % 4), ((side + 1) % 4, (side + 2) % 4)):
        met = intersection(along, np.array([corners[at], corners[beside] - corners[at]]))
        if met is None:
            return page
        corners[at] = met
    return replace(page, corners=tuple((float(x), float(y)) for x, y in corners))  # type: ignore[arg-type]


def _width(corners: Corners, gutter: Gutter) -> float:
    """How far the page reaches from the gutter."""
    return sheet_size_px(corners)[_side_at(corners, gutter)[0] % 2 == 0]


def _beyond(corners: Corners, gutter: Gutter) -> Corners:
    """The page on the other side of the gutter, if it were as large and lay in the same plane."""
    side = _side_at(corners, gutter)[0]
    turned = corners[side:] + corners[:side]  # its first side lies at the gutter
    to_picture = np.linalg.inv(homography(turned, 1, 1))  # type: ignore[arg-type]
    other = np.array([[(0, -1), (1, -1), (1, 0), (0, 0)]], np.float32)
    points = cv2.perspectiveTransform(other, to_picture)[0]
    first = int(np.argmin(points.sum(axis=1)))
    return tuple((float(x), float(y)) for x, y in np.roll(points, -first, axis=0))  # type: ignore[return-value]


def _inside(corners: Corners, shape: tuple[int, ...]) -> bool:
    size = np.array([shape[1], shape[0]])
    points = np.asarray(corners)
    return bool((points > -_FAR_OUT * size).all() and (points < (1 + _FAR_OUT) * size).all())


def _parts(shape: tuple[int, ...], gutter: Gutter) -> tuple[Corners, Corners]:
    """Both parts of a picture that holds nothing else."""
    height, width = shape[0], shape[1]
    (x0, y0), (x1, y1) = gutter.start, gutter.end
    a, b, c, d = whole_picture(width, height)
    if gutter.down:
        top, foot = (x0 + (x1 - x0) * (y - y0) / (y1 - y0) for y in (0.0, height))
        return (a, (top, 0.0), (foot, float(height)), d), ((top, 0.0), b, c, (foot, float(height)))
    left, right = (y0 + (y1 - y0) * (x - x0) / (x1 - x0) for x in (0.0, width))
    return (a, b, (float(width), right), (0.0, left)), ((0.0, left), (float(width), right), c, d)
