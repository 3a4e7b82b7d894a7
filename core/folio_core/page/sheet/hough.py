"""Straight lines by votes of single pixels, also weak ones beside strong ones."""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .quad import Floats

_ANGLES = 180  # one-degree bins
_COSINE, _SINE = (of(np.arange(_ANGLES) * math.pi / _ANGLES).astype(np.float32) for of in (np.cos, np.sin))
_STEEP = _ANGLES // 4 - 1  # normals up to 45 degrees from across are of the steeper lines
_MOST_LINES = (16, 6)  # kept among the flatter and among the steeper: beside paper, then any
_PALE_PX = 7
_LINE_PX, _LINE_DEG = 2.5, 14.0  # a pixel this near a line, and this little turned from it, belongs to it
_MOST_LOCAL = 2.0  # CIE Lab a pixel: a strong edge does not hide a weak one near it
_LEAST_VOTES = 12.0
_LOCAL_PX = 41  # an edge must stand out of this much around it, so that a weak one counts beside a strong one


def edges(layers: NDArray[np.float32], pale: NDArray[np.float32], most: tuple[int, int] = _MOST_LINES) -> Floats:
    """L × 3 lines as (normal x, normal y, distance): peaks of a Hough transform in which each pixel votes only for the
    line along its own edge (Ballard, Pattern Recognition 13, 1981), by how far that stands out of its neighbourhood.

    ``layers``: height × width, or × 3, strokes closed away; ``pale``: height × width, 0–1; ``most``: lines of the
    flatter and of the steeper that are kept, beside what is pale and of any.

    A pixel that belongs to a line found votes no more, so that no strong line is found twice and weak ones have their
    turn. Those beside what is pale come first: a desk's own grain is not.
    """
    dx = cv2.Scharr(layers, cv2.CV_32F, 1, 0, scale=1 / 32)
    dy = cv2.Scharr(layers, cv2.CV_32F, 0, 1, scale=1 / 32)
    one = np.ones((1, 1 if layers.ndim == 2 else 3), np.float32)
    xx, yy, xy = (cv2.transform(cv2.multiply(a, b), one) for a, b in ((dx, dx), (dy, dy), (dx, dy)))
    size = np.sqrt(xx + yy)
    local = cv2.blur(np.minimum(size, _MOST_LOCAL), (_LOCAL_PX, _LOCAL_PX))
    weight = size / (1.5 * local + 0.5)
    ridge = (weight > 0.8) & (size > 0.6) & (size > 0.85 * cv2.dilate(size, np.ones((3, 3), np.uint8)))
    ridge[:2], ridge[-2:], ridge[:, :2], ridge[:, -2:] = False, False, False, False
    beside = cv2.dilate((pale > 0.5).astype(np.uint8), np.ones((_PALE_PX, _PALE_PX), np.uint8)) > 0
    if most[1] == 0:
        ridge &= beside
    rows, columns = np.nonzero(ridge)
    beside = beside[rows, columns]
    angle = 0.5 * np.arctan2(2 * xy[rows, columns], xx[rows, columns] - yy[rows, columns])  # of the normal
    votes = _Votes(rows, columns, angle, np.minimum(weight[rows, columns], 3), layers.shape[:2])
    found = [
        line
        for among, kept in zip((beside, np.ones_like(beside)), most, strict=True)
        for flat in (True, False)
        for line in votes.peaks(among, kept, flat=flat)
    ]
    return np.array(found).reshape(-1, 3)


class _Votes:
    """Pixels and the lines they vote for: their places, the ``angle`` of their edge's normal, and a ``weight``."""

    def __init__(
        self, rows: NDArray[np.int64], columns: NDArray[np.int64], angle: NDArray[np.float32],
        weight: NDArray[np.float32], shape: tuple[int, ...],
    ) -> None:  # fmt: skip
        self._x, self._y, self._angle = columns.astype(np.float32) + 0.5, rows.astype(np.float32) + 0.5, angle
        self._reach = math.ceil(math.hypot(*shape))
        self._width = 2 * self._reach + 1
        bins = np.rint(angle * _ANGLES / math.pi).astype(np.int64)[:, None] + np.array([-2, -1, 0, 1, 2])
        turned = np.mod(bins, _ANGLES)
        across = np.rint(self._x[:, None] * _COSINE[turned] + self._y[:, None] * _SINE[turned]).astype(np.int64)
        self._at = _row_of(turned) * self._width + across + self._reach
        self._weight = weight[:, None] * np.array([0.5, 1, 1, 1, 0.5], np.float32)
        self._left = np.ones(len(rows), np.bool_)

    def peaks(self, among: NDArray[np.bool_], most: int, *, flat: bool) -> list[tuple[float, float, float]]:
        """The strongest lines of the pixels ``among`` whose normal points mostly down (``flat``) or mostly across."""
        first = _ANGLES // 2 if flat else 0
        voting = self._left & among
        sums = np.bincount(self._at[voting].ravel(), self._weight[voting].ravel(), _ANGLES * self._width)
        table = cv2.blur(sums.astype(np.float32).reshape(_ANGLES, self._width), (3, 1))
        votes, half = table.reshape(-1), table[first : first + _ANGLES // 2]
        found = []
        for _ in range(most):
            row, column = divmod(int(half.argmax()), self._width)
            if half[row, column] < _LEAST_VOTES:
                break
            degree, distance = (row + first - _STEEP) % _ANGLES, column - self._reach
            found.append((float(_COSINE[degree]), float(_SINE[degree]), float(distance)))
            away = np.abs(self._x * _COSINE[degree] + self._y * _SINE[degree] - distance)
            gone = np.flatnonzero(voting & (away < _LINE_PX))
            lean = np.abs(np.mod(self._angle[gone] - degree * math.pi / _ANGLES + math.pi / 2, math.pi) - math.pi / 2)
            gone = gone[lean < math.radians(_LINE_DEG)]
            at, weight = self._at[gone].ravel(), self._weight[gone].ravel() / 3
            for beside in (-1, 0, 1):  # as the blur spread them
                np.subtract.at(votes, at + beside, weight)
            voting[gone] = self._left[gone] = False
            for near in range(-2, 3):
                beyond, there = divmod(degree + near, _ANGLES)
                centre = column if beyond == 0 else 2 * self._reach - column  # past half a turn normals point back
                table[_row_of(there), max(0, centre - 2) : centre + 3] = 0
        return found


def _row_of(degree: Any) -> Any:
    """The table's row of an angle: the steeper lines' first, then the flatter ones'."""
    return (degree + _STEEP) % _ANGLES
