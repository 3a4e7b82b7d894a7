"""Finding the sheet on its desk: straight edges and regions give candidate outlines, a calibrated judge picks one,
and its sides are fitted to a fraction of a pixel.

The picture is looked at small (`FINDER_LONG_SIDE_PX`); only the sides of the best candidate are fitted larger.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from ..limits import FINDER_LONG_SIDE_PX, FOUND_CONFIDENCE, MIDDLE_LONG_SIDE_PX
from ..recipe import Corners
from ..straighten import completed, kept_whole, scaled_corners, whole_picture
from .candidates import Candidates, candidates_of
from .features import areas
from .judge import best_of, closest, confidence, scored
from .lines import Ground, ground_of, lines_of
from .paper_edges import PaperEdge, edges_among
from .quad import Quad, ordered
from .refine import refined

Image = NDArray[np.uint8]

LEAST_SIDE_PX = 64  # a smaller picture has no desk around a sheet
_WRITING_PX = 7  # in the small picture: strokes and ruled lines are narrower and are closed away
_RULING_PX = 3  # so are ruled lines; a sheet's shadow on another is 3 px and more
_RIM_PX = 2
_RIM_UNEVEN = 24.0  # CIE Lab; scans measure 2–4 on their rim, tablets 0, photographed paper 10 and more
_PAPER_LIGHTNESS = 150.0  # of 255
_SURE_ALONE = 0.9  # a sheet on a desk by itself is called surer than that
_AROUND_PX = 9  # left out around its outline
_MOST_PALE_AROUND = 0.02  # of what is around it
_TOUCHING_PX = 6.0
_FAR_REACH_PX, _NEAR_REACH_PX = 6.0, 2.5  # in the small picture: a candidate's corner lies up to 8 px off
_SECOND_SCORE = 1.0  # log odds
# What lies outside the picture, or hardly inside, is worked out and not seen: it is never called sure. Nor is an edge
# that only the last step found, where the judge took the picture's own for it.
_MOST_GUESSED = 0.75
_AT_EDGE, _ON_EDGE = 0.002, 0.0005  # of the long side
_CLIPPED_LEVEL = 253
_CLEAR_STEP = 14.0  # CIE Lab distance; paper against a pale desk measures 10–20, against wood 40 and more


@dataclass(frozen=True, slots=True)
class Sheet:
    """``corners`` in source pixels (pixel-edge coordinates), partly beyond the picture where the sheet is.

    Not ``found``: the whole picture. ``fills``: nothing but the sheet is in the picture (a scan, a screenshot).
    ``cut``: sides (0 is the top one) that lie beyond the picture's edge. ``several``: each whole sheet where there is
    more than one, the likeliest first; ``corners`` are then around all of them, so that no ink is left out.
    ``guess``: what may be the sheet, where none was found.
    """

    found: bool
    confidence: float
    corners: Corners
    fills: bool = False
    cut: tuple[int, ...] = ()
    several: tuple[Corners, ...] = ()
    guess: Corners | None = None

    def scaled(self, scale: float) -> Sheet:
        if scale == 1:
            return self
        corners, *several = (scaled_corners(each, scale) for each in (self.corners, *self.several))
        guess = scaled_corners(self.guess, scale) if self.guess else None
        return replace(self, corners=corners, several=tuple(several), guess=guess)


def find_sheet(pixels: Image) -> Sheet:
    """The sheet in a picture (height × width × 3, RGB). When unsure, the whole picture."""
    middle, scale = shrunk(pixels, MIDDLE_LONG_SIDE_PX)
    return sheet_in(middle, scale, pixels.shape[:2])


def sheet_in(middle: Image, middle_scale: float, shape: tuple[int, ...]) -> Sheet:
    """The same, from the picture already shrunk by ``middle_scale``; ``shape``: its full height and width."""
    height, width = shape
    whole = whole_picture(width, height)
    if min(height, width) < LEAST_SIDE_PX:
        return Sheet(False, 0.0, whole)
    small, small_scale = shrunk(middle, FINDER_LONG_SIDE_PX)
    ground = _ground(small)
    candidates = _between(ground, shadows=False)
    scores, best, sure = _judged(candidates)
    if not _lies_alone(candidates, best, sure, ground.pale):
        candidates = _between(ground, shadows=True)
        scores, best, sure = _judged(candidates)
    filled = fills_picture(small)
    if not len(candidates.corners):
        guessed = min(filled, _MOST_GUESSED) if _washed_out(small) else filled
        return Sheet(filled > FOUND_CONFIDENCE, guessed, whole, fills=filled > FOUND_CONFIDENCE)
    if filled > max(sure, FOUND_CONFIDENCE):
        return Sheet(True, min(filled, _MOST_GUESSED) if _washed_out(small) else filled, whole, fills=True)
    quad, border = _clockwise(candidates.corners[best], candidates.border[best])
    exact, border = refined(quad / small_scale, middle, _FAR_REACH_PX / small_scale, border, step_px=1.0)
    exact, border = refined(exact, middle, _NEAR_REACH_PX / small_scale, border)
    corners: Corners = tuple((float(x), float(y)) for x, y in exact / middle_scale)  # type: ignore[assignment]
    if sure < FOUND_CONFIDENCE:
        return Sheet(False, sure, whole, guess=None if border.any() else corners)
    cut = tuple(int(side) for side in np.flatnonzero(border))
    if len(cut) == 1:
        corners = completed(corners, cut[0], (width, height))
    for side in cut:
        corners = kept_whole(corners, side)
    edge = _from_edge(corners, (width, height))
    if candidates.border[best].any() or edge < _AT_EDGE:
        sure = min(sure, _MOST_GUESSED)
    if not cut and edge < _ON_EDGE:
        cut = (_nearest_side(corners, (width, height)),)
    others = _others(candidates, scores, best, small_scale * middle_scale)
    if others:
        several = (corners, *others)
        return Sheet(True, min(sure, _MOST_GUESSED), _around(several), cut=cut, several=several)
    return Sheet(True, sure, corners, cut=cut)


def _around(outlines: tuple[Corners, ...]) -> Corners:
    """The smallest rectangle that holds them all."""
    points = np.concatenate([np.asarray(corners, np.float32) for corners in outlines])
    box = ordered(cv2.boxPoints(cv2.minAreaRect(points)).astype(np.float64))
    return tuple((float(x), float(y)) for x, y in box)  # type: ignore[return-value]


def _from_edge(corners: Corners, size: tuple[int, int]) -> float:
    """How far the outermost corner lies inside the picture, as a share of its long side; negative beyond it."""
    return min(min(x, y, size[0] - x, size[1] - y) for x, y in corners) / max(size)


def _nearest_side(corners: Corners, size: tuple[int, int]) -> int:
    def distance(side: int) -> float:
        return sum(min(x, y, size[0] - x, size[1] - y) for x, y in (corners[side], corners[(side + 1) % 4]))

    return min(range(4), key=distance)


def _washed_out(small: Image) -> bool:
    """The rim is as bright as can be: a clean export and an over-exposed photograph look the same there."""
    rim = np.concatenate([small[_RIM_PX], small[-1 - _RIM_PX], small[:, _RIM_PX], small[:, -1 - _RIM_PX]])
    return bool(np.percentile(rim, 10) >= _CLIPPED_LEVEL)


def _others(candidates: Candidates, scores: NDArray[np.float64], best: int, scale: float) -> tuple[Corners, ...]:
    """A second whole sheet: the likeliest outline that shares nothing with the best one."""
    mine = candidates.corners[best]
    low, high = candidates.corners.min(axis=1), candidates.corners.max(axis=1)
    apart = ((low > mine.max(axis=0) - _TOUCHING_PX) | (high < mine.min(axis=0) + _TOUCHING_PX)).any(axis=1)
    sizes, own = areas(candidates.corners), areas(mine[None])[0]
    alike = apart & ~candidates.border.any(axis=1) & (sizes > 0.4 * own)
    alike &= scores > np.minimum(_SECOND_SCORE, scores[best])
    if not alike.any():
        return ()
    second = ordered(candidates.corners[int(np.argmax(np.where(alike, scores, -np.inf)))]) / scale
    return (tuple((float(x), float(y)) for x, y in second),)  # type: ignore[return-value]


def outlines(small: Image) -> Candidates:
    """All candidate outlines of a small picture, those beside narrow shadows too."""
    return _between(_ground(small), shadows=True)


def _between(ground: Ground, *, shadows: bool) -> Candidates:
    height, width = ground.layers.shape[:2]
    return candidates_of(lines_of(ground, _CLEAR_STEP, shadows=shadows), width, height)


def paper_edges(pixels: Image) -> list[PaperEdge]:
    """The straight edges in a picture (RGB) beside which there is paper on one side only, in its pixels."""
    small, scale = shrunk(pixels, FINDER_LONG_SIDE_PX)
    return [edge.scaled(1 / scale) for edge in edges_among(lines_of(_ground(small), _CLEAR_STEP, shadows=False))]


def _judged(candidates: Candidates) -> tuple[NDArray[np.float64], int, float]:
    """The outlines' scores, which is the sheet's, and how sure it is, 0–1; −1 and 0 where there are none."""
    scores = scored(candidates.features)
    if not len(scores):
        return scores, -1, 0.0
    best, lead, near = best_of(scores, candidates.corners)
    sure = round(confidence(float(scores[best]), lead), 3)
    return scores, int(near[closest(candidates.features[near])]), sure


def _lies_alone(candidates: Candidates, best: int, sure: float, pale: NDArray[np.float32]) -> bool:
    """Whether the likeliest outline is sure, and nothing else around it is pale as paper: no other sheet then lies
    beneath it, whose edge only a narrow shadow would tell."""
    if sure <= _SURE_ALONE:
        return False
    around = np.ones(pale.shape, np.uint8)
    cv2.fillConvexPoly(around, np.rint(candidates.corners[best]).astype(np.int32), 0)
    around = cv2.erode(around, np.ones((_AROUND_PX, _AROUND_PX), np.uint8))
    beyond = cv2.mean(pale, around)[0] if around.any() else 0.0
    return beyond < _MOST_PALE_AROUND


def _ground(small: Image) -> Ground:
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((_WRITING_PX, _WRITING_PX), np.uint8))
    strokes = cv2.subtract(cv2.cvtColor(closed, cv2.COLOR_RGB2GRAY), cv2.cvtColor(small, cv2.COLOR_RGB2GRAY))
    strokes = cv2.blur(strokes, (3, 3)).astype(np.float32)
    lab = cv2.cvtColor(cv2.GaussianBlur(closed, (0, 0), 1.2), cv2.COLOR_RGB2Lab).astype(np.float32)
    fine = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((_RULING_PX, _RULING_PX), np.uint8))
    thin = cv2.cvtColor(cv2.GaussianBlur(fine, (0, 0), 1.0), cv2.COLOR_RGB2Lab)[..., 0].astype(np.float32)
    return ground_of(lab, strokes, thin)


def fills_picture(small: Image) -> float:
    """How sure it is that nothing but the sheet is in the picture: its rim is as even as a scanner's light or a
    screen's ground, and is the ground of the whole picture. A camera's light always falls off by more."""
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((_WRITING_PX, _WRITING_PX), np.uint8))
    lab = cv2.cvtColor(closed, cv2.COLOR_RGB2Lab).reshape(small.shape[0], small.shape[1], 3).astype(np.float32)
    rim = np.concatenate([lab[_RIM_PX], lab[-1 - _RIM_PX], lab[:, _RIM_PX], lab[:, -1 - _RIM_PX]])
    ground = np.median(rim, axis=0)
    if ground[0] < _PAPER_LIGHTNESS:
        return 0.0
    on_rim = np.linalg.norm(rim - ground, axis=1)
    inside = np.linalg.norm(lab[::4, ::4] - ground, axis=2)
    uneven = float(np.percentile(on_rim, 97)), float(np.percentile(inside, 80))
    return round(float(np.clip(1 - max(uneven[0] / _RIM_UNEVEN, uneven[1] / _RIM_UNEVEN), 0, 1)), 3)


def _clockwise(corners: Quad, border: NDArray[np.bool_]) -> tuple[Quad, NDArray[np.bool_]]:
    """Ordered, with the marks of the sides (``border[k]`` is of the side from corner k) following."""
    quad = ordered(corners)
    place = [int(np.argmin(np.linalg.norm(corners - point, axis=1))) for point in quad]
    sides = [border[a] if (a + 1) % 4 == b else border[b] for a, b in zip(place, np.roll(place, -1), strict=True)]
    return quad, np.array(sides)


def shrunk(pixels: Image, long_side: int) -> tuple[Image, float]:
    """Shrunk by a whole number, which is fast, to about ``long_side``."""
    factor = max(1, round(max(pixels.shape[:2]) / long_side))
    rows, columns = (max(1, side // factor) for side in pixels.shape[:2])  # of a strip at least one is left
    small = cv2.resize(pixels[: rows * factor, : columns * factor], (columns, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8), 1 / factor
