"""What the picture's other edges do within an outline: where a sheet is one, no edge runs through it.

An outline put together from two sheets that lie on each other has an edge of one of them inside.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .lines import ANY, CLEAR, PALE, THIN, Lines
from .quad import Floats, least, most

_INSET = 0.04  # of the outline's size: how far from its sides an edge counts as inside
_LEAST_RUN = 0.25  # of the outline's size: shorter edges are strokes
_MOST_LINES = 18  # the strongest of the picture

CROSSINGS = ("edge inside", "clear edge inside", "pale edge inside", "thin edge inside")


def crossings(lines: Lines, sides: NDArray[np.int64], inward: NDArray[np.float32], sizes: Floats) -> Floats:
    """Q × 4 for Q outlines, each 0–1: how surely and how far another edge runs inside, of four kinds of edge.

    ``sides`` Q × 4 lines; ``inward`` Q × 4: 1 where the inside lies on the normal's side, else -1; ``sizes``: Q,
    square roots of the areas in pixels.
    """
    strength = np.where(lines.border, -1, lines.sums[:, -1, ANY] * lines.length)
    chosen = np.argsort(-strength)[:_MOST_LINES]
    speeds = (lines.direction[chosen] @ lines.normal.T).astype(np.float32)  # how fast each leaves each line
    starts = (lines.start[chosen] @ lines.normal.T - lines.distance).astype(np.float32)
    whole = lines.length[chosen, None].astype(np.float32)
    speed, start = speeds[:, sides] * inward, starts[:, sides] * inward  # chosen × Q × 4
    speed = np.where(np.abs(speed) < 1e-6, np.float32(1e-6), speed)
    meet = -start / speed
    entering = speed > 0
    low = most(np.where(entering, meet, -np.inf))
    high = least(np.where(entering, np.inf, meet))
    depth = (_INSET * sizes[None]).astype(np.float32)
    first, last = np.clip(low + depth, 0, whole), np.clip(high - depth, 0, whole)
    middle = (first + last) / 2
    deep = least(start + middle[..., None] * speed) > depth
    own = most(chosen[:, None, None] == sides[None])
    share = np.clip((last - first) / sizes[None], 0, 1)
    share = np.where(deep & ~own & (share > _LEAST_RUN), share, 0).astype(np.float32)
    samples = lines.sums.shape[1] - 1
    a, b = (np.rint(place * (samples / whole)).astype(np.int64) for place in (first, last))
    run = np.maximum(b - a, 1)
    row = chosen[:, None]
    found = [
        (np.abs(lines.sums[row, b, kind] - lines.sums[row, a, kind]) / run * share).max(axis=0)
        for kind in (ANY, CLEAR, PALE, THIN)
    ]
    return np.stack(found, axis=1).astype(np.float64)
