"""Outlines put together from four lines each, and what speaks for each of them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .features import FEATURES, areas, described
from .lines import ANY, CLEAR, PALE, THIN, Lines
from .quad import Floats

_MOST_PAIRS = (45, 10, 40)  # opposite sides of each direction: paper on one side only, any edge at all, a thin one
_OPPOSITE_DEG = 32.0  # how far opposite sides may lean from each other
_LEAST_CORNER_DEG = 55.0
_LEAST_AREA = 0.06  # of the picture
_LEAST_SIDE = 0.2  # of the picture's shorter side
_OUTSIDE = 0.25  # of the picture: how far beyond its edge a corner may lie


@dataclass(frozen=True, slots=True)
class Candidates:
    """Q outlines: ``corners`` Q × 4 × 2 (cyclic), ``features`` Q × F, ``border`` Q × 4: that side is the picture's."""

    corners: Floats
    features: Floats
    border: NDArray[np.bool_]


def candidates_of(lines: Lines, width: int, height: int) -> Candidates:
    pairs = _opposite_pairs(lines, width, height)
    sides, corners = _crossed(lines, pairs, width, height)
    if not len(sides):
        return Candidates(np.empty((0, 4, 2)), np.empty((0, len(FEATURES))), np.empty((0, 4), bool))
    sides, corners, features = described(lines, sides, corners, (width, height))
    return Candidates(corners, features, lines.border[sides])


def _opposite_pairs(lines: Lines, width: int, height: int) -> NDArray[np.int64]:
    """Pairs of lines that could be opposite sides, those with the longest clear edges of each direction."""
    count = len(lines.distance)
    i, j = np.triu_indices(count, 1)
    middle = np.array([width, height]) / 2
    towards = lines.normal @ middle - lines.distance  # signed distance of the middle from each line
    foot = middle - lines.normal * towards[:, None]
    apart = np.linalg.norm(foot[i] - foot[j], axis=1)
    lean = np.abs((lines.normal[i] * lines.normal[j]).sum(axis=1))
    totals = lines.sums[:, -1] / lines.sums.shape[1] * lines.length[:, None]
    kinds = totals[:, PALE] + 0.3 * totals[:, CLEAR], totals[:, ANY], np.abs(totals[:, THIN])
    scores = [np.where(lines.border, 0.3 * lines.length, kind) for kind in kinds]
    likely = (lean > math.cos(math.radians(_OPPOSITE_DEG))) & (apart > _LEAST_SIDE * min(width, height))
    i, j = i[likely], j[likely]
    flat = np.abs(lines.normal[i, 1]) > np.abs(lines.normal[i, 0])
    chosen: set[int] = set()
    for direction in (True, False):
        among = np.flatnonzero(flat == direction)
        for score, most in zip(scores, _MOST_PAIRS, strict=True):
            chosen.update(among[np.argsort(-(score[i] + score[j])[among])[:most]].tolist())
    kept = np.array(sorted(chosen), np.int64)
    return np.stack([i[kept], j[kept], flat[kept]], axis=1)


def _crossed(lines: Lines, pairs: NDArray[np.int64], width: int, height: int) -> tuple[NDArray[np.int64], Floats]:
    flat, steep = pairs[pairs[:, 2] == 1], pairs[pairs[:, 2] == 0]
    a, b = (np.repeat(flat[:, k], len(steep)) for k in (0, 1))
    c, d = (np.tile(steep[:, k], len(flat)) for k in (0, 1))
    sides = np.stack([a, d, b, c], axis=1)  # around the outline
    corners = np.stack([_meet(lines, sides[:, k - 1], sides[:, k]) for k in range(4)], axis=1)
    meeting = np.isfinite(corners).all(axis=(1, 2))
    sides, corners = sides[meeting], corners[meeting]
    edges = np.roll(corners, -1, axis=1) - corners
    lengths = np.linalg.norm(edges, axis=2)
    unit = edges / np.maximum(lengths, 1e-9)[..., None]
    before = np.roll(unit, 1, axis=1)
    cross = before[..., 0] * unit[..., 1] - before[..., 1] * unit[..., 0]
    corner_sine = math.sin(math.radians(_LEAST_CORNER_DEG))
    convex = (cross > corner_sine).all(axis=1) | (cross < -corner_sine).all(axis=1)
    size = np.array([width, height])
    inside = (np.abs(corners / size - 0.5) < 0.5 + _OUTSIDE).all(axis=(1, 2))
    large = (areas(corners) > _LEAST_AREA * width * height) & (lengths.min(axis=1) > _LEAST_SIDE * min(width, height))
    good = convex & inside & large
    return sides[good], corners[good]


def _meet(lines: Lines, one: NDArray[np.int64], other: NDArray[np.int64]) -> Floats:
    n, m = lines.normal[one], lines.normal[other]
    p, q = lines.distance[one], lines.distance[other]
    with np.errstate(divide="ignore", invalid="ignore"):
        determinant = n[:, 0] * m[:, 1] - n[:, 1] * m[:, 0]
        x = (p * m[:, 1] - q * n[:, 1]) / determinant
        y = (q * n[:, 0] - p * m[:, 0]) / determinant
    return np.stack([x, y], axis=1)
