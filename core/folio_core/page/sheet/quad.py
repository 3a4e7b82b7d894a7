"""Quadrilaterals: a sheet's outline as four points, clockwise from the top left."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Quad = Floats  # 4 × 2, x and y in pixel-edge coordinates


def ordered(points: Quad) -> Quad:
    """Clockwise from the corner nearest the picture's top left."""
    centre = points.mean(axis=0)
    around = points[np.argsort(np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0]))]
    return np.roll(around, -int(np.argmin(around.sum(axis=1))), axis=0)


def intersection(one: Quad, other: Quad) -> Quad | None:
    """Where two lines meet, each given as (point, direction); None if they hardly do."""
    matrix = np.column_stack([one[1], -other[1]])
    if abs(np.linalg.det(matrix)) < 1e-6:
        return None
    return np.asarray(one[0] + one[1] * np.linalg.solve(matrix, other[0] - one[0])[0])


def least(values: NDArray[Any]) -> NDArray[Any]:
    """The least of four along the last axis: many times faster than a reduction over so few."""
    a, b, c, d = np.moveaxis(values, -1, 0)
    return np.asarray(np.minimum(np.minimum(a, b), np.minimum(c, d)))


def most(values: NDArray[Any]) -> NDArray[Any]:
    """The most of four along the last axis."""
    a, b, c, d = np.moveaxis(values, -1, 0)
    return np.asarray(np.maximum(np.maximum(a, b), np.maximum(c, d)))
