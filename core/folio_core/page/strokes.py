"""How sharp the strokes are: the spread of their edges, and whether it is larger one way, as when a hand moves."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

_TILE_PX = 160
_MOST_TILES = 10
_REACH_PX = 15  # a stroke and the paper on both sides of it, also where the edge is soft
_SHARPEST = 12  # percent: of the edges of each direction; the rest are ruling, curves, and strokes that touch
_WAYS = 4  # directions across an edge, 45° apart
_BESIDE = 0.1  # moved photographs measure 0.17–0.77, still ones nothing: see `_ratio`


@dataclass(frozen=True, slots=True)
class Sharpness:
    """``sigma_px``: of the least blurred direction. ``motion_deg``: the direction of the most blurred one."""

    sigma_px: float
    motion_ratio: float
    motion_deg: float


def sharpness(page: NDArray[np.uint8], ink: NDArray[np.uint8]) -> Sharpness:
    """Measured where the writing is: on the tiles of the full-size RGB page that hold most of the small ``ink`` mask.

    A step of height c seen through a Gaussian of spread s has the steepest slope c / (s·√(2π)).
    """
    tiles = _inked_tiles(page, ink)
    if not tiles:
        return Sharpness(0.0, 1.0, 0.0)
    spreads: list[NDArray[np.float32]] = []
    ways: list[NDArray[np.int64]] = []
    for tile in tiles:
        red, green, blue = cv2.split(tile)
        grey = cv2.min(cv2.min(red, green), blue).astype(np.float32)
        dx, dy = (cv2.Scharr(grey, cv2.CV_32F, x, 1 - x) / 32 for x in (1, 0))
        slope = cv2.magnitude(dx, dy)
        reach = np.ones((_REACH_PX, _REACH_PX), np.uint8)
        height = cv2.dilate(grey, reach) - cv2.erode(grey, reach)
        steep = (slope >= cv2.dilate(slope, np.ones((3, 3), np.uint8)) * 0.999) & (slope > 1.0)
        steep &= height > 0.5 * float(height.max())
        spreads.append(height[steep] / (slope[steep] * math.sqrt(2 * math.pi)))
        angle = np.arctan2(dy[steep], dx[steep])
        ways.append(np.rint(angle / math.pi * _WAYS).astype(np.int64) % _WAYS)
    spread, way = np.concatenate(spreads), np.concatenate(ways)
    if len(spread) < 60:
        return Sharpness(0.0, 1.0, 0.0)
    by_way = [spread[way == k] for k in range(_WAYS)]
    typical = [float(np.percentile(values, _SHARPEST)) if len(values) >= 40 else math.nan for values in by_way]
    if np.isnan(typical).all():
        return Sharpness(float(np.percentile(spread, _SHARPEST)), 1.0, 0.0)
    most = int(np.nanargmax(typical))
    ratio = _ratio(typical[most:] + typical[:most])
    return Sharpness(float(np.nanmin(typical)), ratio, 180.0 * most / _WAYS)


def _ratio(spreads: list[float]) -> float:
    """Of the most blurred direction, which is the first, to the one across it.

    Variances add, so a movement shows by half 45° beside its direction. What shows in one direction alone is the
    chance of few edges: print has next to none that lean.
    """
    along, beside, across, other = (spread**2 for spread in spreads)
    if math.isnan(across) or across <= 0:
        return 1.0
    between = [spread for spread in (beside, other) if not math.isnan(spread)]
    if between and sum(between) / len(between) - across < _BESIDE * (along - across):
        return 1.0
    return math.sqrt(along / across)


def _inked_tiles(page: NDArray[np.uint8], ink: NDArray[np.uint8]) -> list[NDArray[np.uint8]]:
    rows, columns = max(1, page.shape[0] // _TILE_PX), max(1, page.shape[1] // _TILE_PX)
    share = cv2.resize(ink, (columns, rows), interpolation=cv2.INTER_AREA)
    best = [divmod(int(at), columns) for at in np.argsort(-share.ravel().astype(np.int64))[:_MOST_TILES]]
    return [
        page[row * _TILE_PX : (row + 1) * _TILE_PX, column * _TILE_PX : (column + 1) * _TILE_PX]
        for row, column in best
        if share[row, column] > 0
    ]
