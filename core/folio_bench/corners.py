"""Comparing outlines of sheets with the truth."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def decoded(data: bytes) -> NDArray[np.uint8]:
    """RGB pixels of a picture of the simulated camera."""
    return np.asarray(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR_RGB), np.uint8)


def distances(outlines: Floats, truth: Floats) -> Floats:
    """Q × 4 × 2 outlines, either way round and from any corner → the farthest corner of each from ``truth``."""
    orders = [np.roll(outlines[:, ::way], start, axis=1) for start in range(4) for way in (1, -1)]
    farthest = [np.linalg.norm(order - truth, axis=2).max(axis=1) for order in orders]
    return np.asarray(np.min(farthest, axis=0))


def seen_distances(outlines: Floats, truth: Floats, size: tuple[int, int]) -> Floats:
    """The same of what lies in the picture of ``size``: the Hausdorff distance of the parts that are seen."""
    real = _seen(truth, size)
    return np.array([_apart(_seen(outline, size), real) for outline in outlines])


def _seen(corners: Floats, size: tuple[int, int]) -> NDArray[np.float32]:
    """The corners of the part that lies in the picture: cut along each of its edges in turn (Sutherland and Hodgman,
    Communications of the ACM 17, 1974)."""
    part = list(np.asarray(corners, np.float64))
    for axis, limit, sign in ((0, 0.0, 1), (1, 0.0, 1), (0, float(size[0]), -1), (1, float(size[1]), -1)):
        kept = []
        for one, other in zip(part, part[1:] + part[:1], strict=True):
            depth, depth_of_other = (sign * (point[axis] - limit) for point in (one, other))
            if depth >= 0:
                kept.append(one)
            if depth * depth_of_other < 0:
                kept.append(one + (other - one) * depth / (depth - depth_of_other))
        part = kept
    return np.array(part or [np.zeros(2)], np.float32)


def _apart(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    """Of two convex outlines: how far the farthest corner of either lies outside the other."""
    return max(
        -cv2.pointPolygonTest(around, (float(x), float(y)), True)
        for around, points in ((one, other), (other, one))
        for x, y in points
    )
