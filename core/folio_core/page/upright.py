"""Which way up the writing stands, and how far its lines lean: from the writing itself.

The lines' direction comes from how sharply ink gathers in rows; up or down from a small text-direction network that
looks at single lines (the classifier shipped in the rapidocr wheel) together with where the writing begins and how
long its lines are.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from . import limits

Grey = NDArray[np.uint8]
_Box = tuple[int, int, int, int]  # x, y, width, height

_LEAN_DEG, _LEAN_STEP_DEG = 4.0, 0.25
_MOST_POINTS = 6_000
_MOST_LINES = 12
_MOST_PIECES, _PIECES_AT_ONCE = 9, 3
_CLEAR_ODDS = 2.0  # mean log odds of the pieces looked at, from which no more are
_MOST_HIGH = 0.2  # of the page: that much above or below its middle tells all that the place of the writing can
_LINE_HEIGHT, _LINE_WIDTH = 48, 192  # what the network reads


@dataclass(frozen=True, slots=True)
class Upright:
    """``turn``: clockwise degrees that set the page upright. ``lean_deg``: counter-clockwise degrees its lines then
    rise by. ``sure``: 0–1. Where ``sure`` is below `limits.TURN_SURE`, ``turn`` is 0."""

    turn: int
    lean_deg: float
    sure: float


AS_IT_IS = Upright(0, 0.0, 0.0)


def upright(page: Grey, ink: Grey) -> Upright:
    """``page``: a straightened page, about `limits.UPRIGHT_LONG_SIDE_PX` long, its light evened (255 is paper);
    ``ink``: its strokes as a mask (255), ruled lines left out."""
    points = _points(ink)
    if len(points) < limits.TURN_LEAST_INK_PX:
        return AS_IT_IS
    across, lean_across = _gathered(points)
    along, lean_along = _gathered(points[:, ::-1] * np.array([-1.0, 1.0]))
    direction = math.log(along / across)
    open_yet = limits.TURN_OPEN_DIRECTION
    ways = [way for way in (False, True) if (direction if way else -direction) > -open_yet]
    readings = [_read(page, ink, sideways, direction) for sideways in ways]
    best = max(readings, key=lambda reading: reading.weight)
    if best.odds == 0:
        return AS_IT_IS
    others = [reading.weight for reading in readings if reading is not best]
    margin = best.weight - max(others) if others else abs(direction) * limits.TURN_DIRECTION_WEIGHT
    sure = round(_chance(abs(best.odds)) * _chance(margin), 3)
    if sure < limits.TURN_SURE:
        return Upright(0, 0.0, sure)
    turn = (90 if best.sideways else 0) + (180 if best.odds < 0 else 0)
    return Upright(turn, lean_along if best.sideways else lean_across, sure)


@dataclass(frozen=True, slots=True)
class _Reading:
    """``odds``: log odds that the lines stand the right way up (else upside down); ``weight``: what speaks for lines
    that run this way at all."""

    sideways: bool
    odds: float
    weight: float


def _read(page: Grey, ink: Grey, sideways: bool, direction: float) -> _Reading:
    if sideways:  # as if it lay turned by 270 degrees; the odds decide whether it was 90
        page, ink = (np.ascontiguousarray(np.rot90(layer, -1)) for layer in (page, ink))
    pieces = _pieces(ink)
    boxes = pieces[:_MOST_LINES]
    if not boxes:
        return _Reading(sideways, 0.0, 0.0)
    seen = _right_way_up(page, boxes)
    gathered = direction if sideways else -direction
    length = sum(width for _, _, width, _ in boxes) / ink.shape[1]  # words stand beside each other, not below
    weight = (
        limits.TURN_READ_WEIGHT * abs(seen)
        + limits.TURN_GATHERED_WEIGHT * gathered
        + limits.TURN_LENGTH_WEIGHT * length
    )
    return _Reading(sideways, limits.TURN_NETWORK_WEIGHT * seen + _layout(ink, pieces), weight)


def _chance(odds: float) -> float:
    return 1 / (1 + math.exp(-odds))


def _points(ink: Grey) -> NDArray[np.float64]:
    found = cv2.findNonZero(ink)  # x, y of each; NumPy's nonzero takes four times as long
    if found is None:
        return np.empty((0, 2), np.float64)
    return found[:: max(1, len(found) // _MOST_POINTS), 0].astype(np.float64)


def _gathered(points: NDArray[np.float64]) -> tuple[float, float]:
    """How sharply ink gathers in rows (the mean squared change of the profile from row to row, over its mean), at the
    lean where it does so most; the projection profile of Postl (ICPR 1986)."""
    coarse = np.arange(-_LEAN_DEG, _LEAN_DEG + 1e-9, 4 * _LEAN_STEP_DEG)
    near = coarse[int(np.argmax([_change(points, lean) for lean in coarse]))]
    fine = near + np.arange(-3, 4) * _LEAN_STEP_DEG
    changes = [_change(points, lean) for lean in fine]
    best = int(np.argmax(changes))
    return changes[best], float(fine[best])


def _change(points: NDArray[np.float64], lean_deg: float) -> float:
    rise = math.radians(lean_deg)
    rows = points[:, 1] * math.cos(rise) + points[:, 0] * math.sin(rise)
    profile = np.bincount((rows - rows.min()).astype(np.int64)).astype(np.float64)
    smooth = np.convolve(profile, np.ones(3) / 3, mode="same")
    return float((np.diff(smooth) ** 2).sum())


def _pieces(ink: Grey) -> list[_Box]:
    """Boxes of pieces of text lines, the longest first."""
    reach = max(9, ink.shape[1] // 40)
    words = cv2.dilate(ink, np.ones((3, reach), np.uint8))
    _, _, boxes, _ = cv2.connectedComponentsWithStats(words, connectivity=8)
    height = ink.shape[0]
    likely = [tuple(map(int, box[:4])) for box in boxes[1:] if box[2] > 1.6 * box[3] and 0.006 * height < box[3]]
    likely = [box for box in likely if box[3] < 0.08 * height]
    return sorted(likely, key=lambda box: -box[2])  # type: ignore[arg-type]


def _right_way_up(page: Grey, boxes: list[_Box]) -> float:
    """Log odds that the lines stand the right way up: each is shown to the network as it is and turned by 180°."""
    crops: list[Grey] = []
    for x, y, width, height in boxes:
        piece = round(height * _LINE_WIDTH / _LINE_HEIGHT)
        for left in range(x, x + max(1, width - piece // 2), piece):
            crop = page[y : y + height, left : min(left + piece, x + width)]
            size = (min(_LINE_WIDTH, max(1, round(_LINE_HEIGHT * crop.shape[1] / height))), _LINE_HEIGHT)
            crops.append(np.asarray(cv2.resize(crop, size, interpolation=cv2.INTER_AREA), np.uint8))
    crops = sorted(crops, key=lambda crop: -crop.shape[1])
    odds: list[float] = []
    for first in range(0, _MOST_PIECES, _PIECES_AT_ONCE):
        odds += _odds(crops[first : first + _PIECES_AT_ONCE])
        if len(odds) < first + _PIECES_AT_ONCE or abs(sum(odds)) > _CLEAR_ODDS * len(odds):
            break  # none left, or all of one mind
    return sum(odds) / max(len(odds), 1)


def _odds(crops: list[Grey]) -> list[float]:
    """Log odds that each piece of a line stands the right way up."""
    if not crops:
        return []
    both = crops + [crop[::-1, ::-1] for crop in crops]
    batch = np.zeros((len(both), 3, _LINE_HEIGHT, _LINE_WIDTH), np.float32)
    for row, crop in enumerate(both):
        batch[row, :, :, : crop.shape[1]] = crop.astype(np.float32)[None] / 127.5 - 1
    network = _network()
    chances = network.run(None, {network.get_inputs()[0].name: batch})[0]
    odds = np.log(np.clip(chances[:, 0], 1e-3, 1)) - np.log(np.clip(chances[:, 1], 1e-3, 1))
    half = len(crops)
    return [float(odd) for odd in odds[:half] - odds[half:]]


def _layout(ink: Grey, pieces: list[_Box]) -> float:
    """Log odds from the layout: writing begins at the top and at an even left edge (common practice, no source), and in
    a line more stands up than hangs down: ascenders, capitals, exponents (Caprari, Pattern Recognition Letters 21,
    2000)."""
    height, width = ink.shape
    x, y, long, tall = np.array(pieces, np.float64).T
    high = 0.5 - np.average(y + tall / 2, weights=long) / height
    longest = slice(_MOST_LINES)
    left, right = x[longest] / width, (x + long)[longest] / width
    even = float(np.clip(right.std() - left.std(), -0.2, 0.2)) if len(left) > 2 else 0.0
    low = float(np.mean([_centre(ink[top : top + h, at : at + w]) - 0.5 for at, top, w, h in pieces[longest]]))
    return float(
        limits.TURN_HIGH_WEIGHT * np.clip(high, -_MOST_HIGH, _MOST_HIGH)
        + limits.TURN_EVEN_WEIGHT * even
        + limits.TURN_LOW_WEIGHT * low
    )


def _centre(ink: Grey) -> float:
    """How far down its box the middle of the ink lies, 0–1."""
    rows = (ink > 0).sum(axis=1, dtype=np.float64)
    return float(np.average(np.arange(len(rows)) + 0.5, weights=rows) / len(rows)) if rows.any() else 0.5


def warm_up() -> None:
    """Load the network. It runs in one thread, so that a process forked afterwards can use it."""
    _network()


@cache
def _network() -> onnxruntime.InferenceSession:
    onnxruntime.set_default_logger_severity(3)  # errors; that it can keep nothing on disk here is as it should be
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    path = files("rapidocr") / "models" / "ch_ppocr_mobile_v2.0_cls_mobile.onnx"
    return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
