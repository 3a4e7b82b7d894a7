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


def cut_to_picture(corners: Floats, size: tuple[int, int]) -> Floats | None:
    """A sheet that lies beyond one edge of the picture, cut off along it; None where it lies beyond in another way."""
    width, height = size
    beyond = [corners[:, 0] < 0, corners[:, 1] < 0, corners[:, 0] > width, corners[:, 1] > height]
    edges = [edge for edge in range(4) if beyond[edge].any()]
    if not edges:
        return corners
    if len(edges) > 1 or beyond[edges[0]].sum() != 2:
        return None
    axis, limit = edges[0] % 2, (0, 0, width, height)[edges[0]]
    cut = corners.copy()
    for corner in np.flatnonzero(beyond[edges[0]]):
        inner = next(k for k in ((corner + 1) % 4, (corner - 1) % 4) if not beyond[edges[0]][k])
        share = (limit - corners[inner, axis]) / (corners[corner, axis] - corners[inner, axis])
        cut[corner] = corners[inner] + share * (corners[corner] - corners[inner])
    return cut
