"""What speaks for an outline and against it: numbers from the steps across its sides, 0–1 where it can be said so."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .crossings import CROSSINGS, crossings
from .lines import ANY, CHANNELS, CLEAR, NEAR, PALE, STROKES, THIN, Lines
from .quad import Floats, least, most

_INSET = 0.05  # of a side at each end: corners are rounded, folded, or held
_BEYOND = 0.15  # of a side: how far past its ends the same edge is looked for
_END = (0.08, 0.22)  # of a side: where it must still be seen near its ends, past a folded or rounded corner
_MOST_OUTSIDE = 0.88  # of a side: less of it in the picture says too little
_LEAST_EDGE = 0.12  # an outline with a side where hardly any edge is seen is dropped at once

FEATURES = (
    "weakest step", "mean step", "weakest coverage", "mean coverage",
    "any edge, weakest", "any edge, mean", "pale on one side, weakest", "pale on one side, mean",
    "goes on, most", "goes on, mean", "any edge goes on",
    "ends, weakest", "ends, mean", "any edge at ends, weakest", "any edge at ends, mean",
    "colour inside differs", "lightness inside differs", "inside paler", "dark rim",
    "strokes at the rim, most", "strokes at the rim, mean", "area", "opposite sides differ", "picture edges",
    "outside", "outside, most", "thin edge, weakest", "thin edge, mean", "thin edge at ends, weakest",
    "thin edge goes on", *CROSSINGS,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Sides:
    """Q × 4 sides: which line, between which places along it (pixels, as far as they lie in the picture), on which side
    of it the inside lies, and how much of it lies beyond the picture (0–1)."""

    line: NDArray[np.int64]
    low: Floats
    high: Floats
    sign: NDArray[np.float32]  # 1 where the inside lies on the normal's side, else -1
    outside: Floats


def described(
    lines: Lines, sides: NDArray[np.int64], corners: Floats, size: tuple[int, int]
) -> tuple[NDArray[np.int64], Floats, Floats]:
    """``sides``, ``corners`` of the outlines worth a look, and their Q × F features."""
    placed = _placed(lines, sides, corners)
    border = lines.border[sides]
    seen = _means(lines, placed, _INSET, 1 - _INSET)
    edge = np.maximum(seen[..., ANY], np.abs(seen[..., THIN]))
    worth = (border | (edge > _LEAST_EDGE)).all(axis=1) & (placed.outside < _MOST_OUTSIDE).all(axis=1)
    sides, corners, border, seen = sides[worth], corners[worth], border[worth], seen[worth]
    placed = _Sides(sides, placed.low[worth], placed.high[worth], placed.sign[worth], placed.outside[worth])
    return sides, corners, _features(lines, placed, corners, border, seen, size)


def _placed(lines: Lines, sides: NDArray[np.int64], corners: Floats) -> _Sides:
    direction, start = lines.direction[sides], lines.start[sides]
    ends = [((end - start) * direction).sum(axis=2) for end in (corners, np.roll(corners, -1, axis=1))]
    inward = (lines.normal[sides] * corners.mean(axis=1)[:, None]).sum(axis=2) > lines.distance[sides]
    low, high = np.minimum(*ends), np.maximum(*ends)
    first, last = (np.clip(end, 0, lines.length[sides]) for end in (low, high))
    outside = 1 - (last - first) / np.maximum(high - low, 1e-9)
    return _Sides(sides, first, last, np.where(inward, 1, -1).astype(np.float32), outside)


def _features(
    lines: Lines, placed: _Sides, corners: Floats, border: NDArray[np.bool_], seen: NDArray[np.float32],
    size: tuple[int, int],
) -> Floats:  # fmt: skip
    inward = (placed.sign > 0)[..., None]
    inside = np.where(inward, seen[..., 0:3], seen[..., 3:6])
    step = inside - np.where(inward, seen[..., 3:6], seen[..., 0:3])
    strength = np.linalg.norm(step, axis=2)
    step_score = 1 - np.exp(-strength / 6)
    free = np.maximum((~border).sum(axis=1), 1)

    def weakest(values: NDArray[np.floating[Any]]) -> Floats:
        return least(np.where(border, 1, values))

    def mean(values: NDArray[np.floating[Any]]) -> Floats:
        return np.asarray(np.where(border, 0, values).sum(axis=1) / free)

    def strongest(values: NDArray[np.floating[Any]]) -> Floats:
        return most(np.where(border, 0, values))

    def between(low: float, high: float) -> tuple[NDArray[np.float32], ...]:
        """How much of its own step is found on that stretch of each side, of any edge, and of a thin one."""
        there = _means(lines, placed, low, high, channels=THIN + 1)
        its_step = placed.sign[..., None] * (there[..., 0:3] - there[..., 3:6])
        own = np.clip((its_step * step).sum(axis=2) / np.maximum(strength**2, 4.0), 0, 1)
        return own, there[..., ANY], placed.sign * there[..., THIN]

    before, after = between(-_BEYOND, 0), between(1, 1 + _BEYOND)
    goes_on = np.maximum(before[0], after[0])
    first, last = between(*_END), between(1 - _END[1], 1 - _END[0])
    ends, any_at_ends, thin_at_ends = (np.minimum(a, b) for a, b in zip(first, last, strict=True))
    thin = placed.sign * seen[..., THIN]
    rim = (placed.sign * seen[..., NEAR] - step[..., 0]) / 6  # darker right beside the sheet than farther out
    strokes = np.clip(np.where(placed.sign > 0, seen[..., STROKES], seen[..., STROKES + 1]) / 8, 0, 1)
    chroma, lightness = inside[..., 1:3], inside[..., 0]
    pairs = ((0, 1), (0, 2), (0, 3), (1, 2), (1, 3), (2, 3))
    apart = np.max([np.hypot(*(chroma[:, i] - chroma[:, j]).T) for i, j in pairs], axis=0)
    columns = [
        weakest(step_score), mean(step_score), weakest(seen[..., CLEAR]), mean(seen[..., CLEAR]),
        weakest(seen[..., ANY]), mean(seen[..., ANY]), weakest(seen[..., PALE]), mean(seen[..., PALE]),
        strongest(goes_on), mean(goes_on), mean(np.maximum(before[1], after[1])),
        weakest(ends), mean((first[0] + last[0]) / 2), weakest(any_at_ends), mean((first[1] + last[1]) / 2),
        1 - np.exp(-apart / 8), 1 - least(lightness) / np.maximum(most(lightness), 1),
        mean(np.clip(step[..., 0] / 12, -1, 1)), mean(np.clip(rim, -1, 1)),
        strongest(strokes), mean(strokes), np.sqrt(areas(corners) / (size[0] * size[1])), _unequal(corners),
        border.sum(axis=1) / 4, placed.outside.sum(axis=1) / 4, most(placed.outside),
        weakest(thin), mean(thin), weakest(thin_at_ends), mean(np.maximum(before[2], after[2])),
    ]  # fmt: skip
    others = crossings(lines, placed.line, placed.sign, np.sqrt(areas(corners)))
    return np.column_stack([*columns, others]).astype(np.float64)


def areas(corners: Floats) -> Floats:
    after = np.roll(corners, -1, axis=1)
    return np.asarray(np.abs((corners[..., 0] * after[..., 1] - corners[..., 1] * after[..., 0]).sum(axis=1)) / 2)


def _unequal(corners: Floats) -> Floats:
    """0 where opposite sides are equally long."""
    lengths = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2)
    shares = np.minimum(lengths[:, :2], lengths[:, 2:]) / np.maximum(lengths[:, :2], lengths[:, 2:])
    return np.asarray(1 - shares.prod(axis=1))


def _means(lines: Lines, placed: _Sides, low: float, high: float, channels: int = CHANNELS) -> NDArray[np.float32]:
    """Mean of what lies beside each side between two shares of its length: Q × 4 × ``channels``, in the order of
    `Lines.sums`. Zero where none is seen."""
    samples = lines.sums.shape[1] - 1
    scale = samples / lines.length[placed.line]
    span = placed.high - placed.low
    a, b = (np.clip(np.rint((placed.low + share * span) * scale), 0, samples).astype(np.int64) for share in (low, high))
    sums = lines.sums[placed.line, b, :channels] - lines.sums[placed.line, a, :channels]
    return sums / np.maximum(b - a, 1).astype(np.float32)[..., None]
