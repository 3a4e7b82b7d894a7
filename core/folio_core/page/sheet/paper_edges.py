"""Straight edges of paper, each by itself: a sheet that is partly hidden or beyond the picture has no whole outline."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .lines import CLEAR, Lines
from .quad import Floats
from .refine import line_fitted

_CLEARLY, _LEAST_SEEN_SAMPLES = 0.5, 10
_LIGHTNESS = 0  # channel of CIE Lab


@dataclass(frozen=True, eq=False)
class PaperEdge:
    """``start``, ``direction`` (of unit length), ``length``: a line through the picture, in pixels. ``seen``: at evenly
    spaced places along it 1 where the edge is clear and it is lighter to the right of the direction, −1 where it is
    lighter to the left, else 0."""

    start: Floats
    direction: Floats
    length: float
    seen: NDArray[np.int8]

    @property
    def ends(self) -> Floats:
        return np.stack([self.start, self.start + self.direction * self.length])

    def scaled(self, scale: float) -> PaperEdge:
        return replace(self, start=self.start * scale, length=self.length * scale)

    def share_seen(self, span: Floats, inside: Floats) -> float:
        """Of the part of it that is nearest to ``span`` (two points), the share along which paper ends, and lies on the
        side of the point ``inside``."""
        along = np.sort((span - self.start) @ self.direction / self.length)
        if not np.isfinite(along).all():
            return 0.0
        first, last = (round(float(share) * len(self.seen)) for share in along)
        if last <= first:
            return 0.0
        right = np.array([-self.direction[1], self.direction[0]])
        way = 1 if (inside - self.start) @ right > 0 else -1
        return float((self.seen[max(0, first) : max(0, last)] == way).sum()) / (last - first)


def edges_among(lines: Lines) -> list[PaperEdge]:
    values = np.diff(lines.sums, axis=1)
    lighter = np.sign(values[..., _LIGHTNESS] - values[..., 3 + _LIGHTNESS])  # on the normal's side
    seen = np.where(values[..., CLEAR] > _CLEARLY, -lighter, 0).astype(np.int8)  # the normal points to the left
    return [
        PaperEdge(lines.start[at], lines.direction[at], float(lines.length[at]), seen[at])
        for at in range(len(seen))
        if not lines.border[at] and np.abs(seen[at]).sum() >= _LEAST_SEEN_SAMPLES
    ]


def fitted_edge(edge: PaperEdge, pixels: NDArray[np.uint8], reach_px: float) -> Floats:
    """Two points of the edge, 2 × 2, fitted to a fraction of a pixel where it is seen in ``pixels`` (RGB)."""
    at = np.flatnonzero(edge.seen)
    first, last = at[0] / len(edge.seen), (at[-1] + 1) / len(edge.seen)
    start, end = (edge.start + edge.direction * edge.length * share for share in (first, last))
    line, _ = line_fitted(start, end, pixels, reach_px, 0.5)
    return np.stack([line[0], line[0] + line[1] * edge.length])
