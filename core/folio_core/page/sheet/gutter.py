"""An open book: the gutter between two facing pages, and the outline of each.

A gutter is a straight valley of shadow between two pale pages, as long as they are high. Looked for small. Two sheets
that lie closely side by side look the same, and are two pages as well.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.uint8]
Layer = NDArray[np.float32]
Point = tuple[float, float]

_WRITING_PX = 7  # strokes and ruled lines are narrower and are closed away
_REACHES_PX = (6, 10, 15)  # how far beside the gutter the page is as light as elsewhere; a small picture is 512 px long
_LEAST_DEPTH = 0.04  # of the page's light beside it
_PALE = 0.62  # of the picture's bright parts
_MOST_LEAN, _LEAN_STEP = 0.26, 0.01  # across for each pixel along
_NEAR_PX = 3.0
_LEAST_RUN = 0.34  # of the picture
_GAP = 0.05  # of the picture: a clip or a finger that hides it
_LEAST_SEEN = 0.9  # of the run


@dataclass(frozen=True, slots=True)
class Gutter:
    """From ``start`` to ``end`` in pixels of the picture it was found in; ``down``: it runs down the picture rather
    than across. ``depth``: how much darker than the pages, 0–1."""

    start: Point
    end: Point
    down: bool
    depth: float

    def scaled(self, scale: float) -> Gutter:
        start, end = ((x * scale, y * scale) for x, y in (self.start, self.end))
        return Gutter(start, end, self.down, self.depth)

    @property
    def length(self) -> float:
        return math.dist(self.start, self.end)


def gutter_in(small: Image) -> Gutter | None:
    """``small``: RGB, about `limits.FINDER_LONG_SIDE_PX` long."""
    if min(small.shape[:2]) < 4 * _REACHES_PX[-1]:
        return None
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((_WRITING_PX, _WRITING_PX), np.uint8))
    red, green, blue = cv2.split(closed)
    light = cv2.GaussianBlur(cv2.min(cv2.min(red, green), blue), (0, 0), 1.2).astype(np.float32)
    pale = _PALE * float(np.percentile(light[::4, ::4], 80))
    found = []
    for down in (True, False):
        one = _valley(light if down else np.ascontiguousarray(light.T), pale)
        if one is not None:
            (x0, y0), (x1, y1), depth = one
            ends = ((x0, y0), (x1, y1)) if down else ((y0, x0), (y1, x1))
            found.append(Gutter(*ends, down, depth))
    return max(found, key=lambda gutter: gutter.length, default=None)


def _valley(light: Layer, pale: float) -> tuple[Point, Point, float] | None:
    """The longest straight valley that runs down, by a Hough transform of places that are darker than both sides."""
    height, width = light.shape
    beside = [_beside(light, reach) for reach in _REACHES_PX]
    highest = cv2.max(cv2.max(beside[0], beside[1]), beside[2])
    depth = 1 - cv2.divide(light, cv2.max(highest, 1.0))
    valley = cv2.inRange(depth, _LEAST_DEPTH, 1.0) & cv2.inRange(beside[-1], pale, 256.0)
    valley &= cv2.compare(depth, cv2.dilate(depth, np.ones((1, 9), np.uint8)), cv2.CMP_GE)
    if np.count_nonzero(valley.any(axis=1)) < _LEAST_RUN * height:
        return None
    y, x = np.nonzero(valley)
    y = y - height / 2
    most, lean, at = 0, 0.0, 0.0
    for tried in np.arange(-_MOST_LEAN, _MOST_LEAN + 1e-9, _LEAN_STEP):
        votes = np.bincount(np.clip((x - tried * y) / 2, 0, width // 2).astype(np.int64), minlength=width // 2 + 1)
        pairs = votes[:-1] + votes[1:]
        if pairs.max() > most:
            most, lean, at = int(pairs.max()), float(tried), 2.0 * int(pairs.argmax()) + 2
    for reach in (1.6 * _NEAR_PX, _NEAR_PX, _NEAR_PX):
        near = np.abs(x - lean * y - at) <= reach
        if len(np.unique(y[near])) < _LEAST_RUN * height / 2:
            return None
        lean, at = np.polyfit(y[near], x[near], 1)
    seen = np.zeros(height, np.uint8)
    seen[(y[np.abs(x - lean * y - at) <= _NEAR_PX] + height / 2).astype(np.int64)] = 1
    first, last = _longest_run(seen, round(_GAP * height))
    rows = np.arange(first, last)
    if len(rows) < _LEAST_RUN * height or seen[first:last].mean() < _LEAST_SEEN:
        return None
    columns = np.clip(np.rint(at + lean * (rows - height / 2)).astype(np.int64), 0, width - 1)
    ends = [(float(at + lean * (row + 0.5 - height / 2)) + 0.5, float(row)) for row in (first, last)]
    return ends[0], ends[1], float(np.median(depth[rows, columns]))


def _beside(light: Layer, reach: int) -> Layer:
    """The darker of both sides, ``reach`` away; 0 where there is none."""
    wider = cv2.copyMakeBorder(light, 0, 0, reach, reach, cv2.BORDER_CONSTANT, value=0)
    return np.asarray(cv2.min(wider[:, : light.shape[1]], wider[:, 2 * reach :]), np.float32)


def _longest_run(seen: NDArray[np.uint8], gap: int) -> tuple[int, int]:
    filled = cv2.morphologyEx(seen[:, None], cv2.MORPH_CLOSE, np.ones((gap | 1, 1), np.uint8))[:, 0]
    ends = np.flatnonzero(np.diff(np.concatenate([[0], filled, [0]]).astype(np.int8)))
    runs = ends.reshape(-1, 2)
    first, last = runs[np.argmax(runs[:, 1] - runs[:, 0])]
    return int(first), int(last)


def covered(picture: Image, gutter: Gutter, sign: int, colour: tuple[int, int, int]) -> Image:
    """The picture with one side of the gutter, the right or lower one for +1, painted over."""
    (x0, y0), (x1, y1) = gutter.start, gutter.end
    reach = 4.0 * max(picture.shape)
    along = np.array([x1 - x0, y1 - y0]) / gutter.length
    across = np.array([-along[1], along[0]])
    across = across if (across[0] if gutter.down else across[1]) * sign > 0 else -across
    start, end = np.array([x0, y0]) - reach * along, np.array([x1, y1]) + reach * along
    corners = np.array([start, end, end + reach * across, start + reach * across])
    painted = picture.copy()
    cv2.fillConvexPoly(painted, np.rint(corners * 16).astype(np.int32), colour, shift=4)
    return painted
