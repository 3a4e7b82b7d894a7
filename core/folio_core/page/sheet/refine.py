"""Each side of an outline fitted to a fraction of a pixel."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from .quad import Quad, intersection

_SAMPLES = 120
_LEAST_SAMPLES = 12  # of a side that lies partly beyond the picture
_ALONG = 7  # samples along a side that are averaged: weak steps rise out of the noise, bends stay
_HALF_WIDTH_PX = 2.0  # of the step filter: wide enough for noise, narrow enough for a rounded edge
_STEP_PX = 0.5  # between the places looked at across a side
_CLEAR_STEP = 5.0  # CIE Lab: of an edge close to the picture's own
_SAME_PAPER = 5.0  # CIE Lab: a pale desk differs from paper by 10 and more
_LEAST_RIM_PX = 3.0  # of desk between the two; a ruled line or a stroke lies there as well


def refined(
    quad: Quad, pixels: NDArray[np.uint8], reach_px: float, border: NDArray[np.bool_], step_px: float = _STEP_PX
) -> tuple[Quad, NDArray[np.bool_]]:
    """``quad`` in pixels of ``pixels`` (RGB), and which sides are cut off by the picture's edge.

    A side marked ``border`` was taken to be that edge; where the sheet's own edge shows close by, it is that instead.
    """
    sides = list(zip(quad, np.roll(quad, -1, axis=0), strict=True))
    lines, cut = [], border.copy()
    for side, (start, end) in enumerate(sides):
        line, step = line_fitted(start, end, pixels, reach_px, step_px)
        if border[side]:
            inward = np.array([start[1] - end[1], end[0] - start[0]]) / math.dist(start, end)
            depth = float((line[0] - start) @ inward)
            ruled = step >= _CLEAR_STEP and _same_paper(line, end - start, inward * max(depth / 2, 1), pixels)
            cut[side] = step < _CLEAR_STEP or depth < _LEAST_RIM_PX or ruled
            if cut[side]:
                line = np.stack([start, (end - start) / math.dist(start, end)])
        lines.append(line)
    corners = [intersection(lines[i - 1], lines[i]) for i in range(4)]
    limit = 3 * reach_px
    exact = np.array(
        [
            new if new is not None and math.dist(new, old) < limit else old
            for new, old in zip(corners, quad, strict=True)
        ]
    )
    return exact, cut


def _same_paper(line: Quad, side: Quad, inward: Quad, pixels: NDArray[np.uint8]) -> bool:
    """Whether it looks the same on both sides of a line, which is then one drawn on the paper."""
    along = line[0] + np.linspace(-0.4, 0.4, _SAMPLES)[:, None] * side
    looks = []
    for way in (-1, 1):
        x, y = (along + way * inward).astype(np.int64).T
        seen = pixels[np.clip(y, 0, pixels.shape[0] - 1), np.clip(x, 0, pixels.shape[1] - 1)]
        looks.append(np.median(cv2.cvtColor(seen[None].astype(np.float32) / 255, cv2.COLOR_RGB2Lab)[0], axis=0))
    return bool(np.linalg.norm(looks[0] - looks[1]) < _SAME_PAPER)


def line_fitted(
    start: Quad, end: Quad, pixels: NDArray[np.uint8], reach_px: float, step_px: float
) -> tuple[Quad, float]:
    """The line through the steepest colour step across a side, as (point, direction), and that step in CIE Lab."""
    direction = (end - start) / max(math.dist(start, end), 1e-9)
    inward = np.array([-direction[1], direction[0]])
    points = start + np.linspace(0.05, 0.95, _SAMPLES)[:, None] * (end - start)
    inside = ((points > 0) & (points < (pixels.shape[1], pixels.shape[0]))).all(axis=1)
    points = points[inside] if inside.sum() >= _LEAST_SAMPLES else points
    offsets = np.arange(-reach_px, reach_px + step_px, step_px)
    at = (points[:, None] + offsets[None, :, None] * inward - 0.5).astype(np.float32)
    across = cv2.remap(pixels, at[..., 0].copy(), at[..., 1].copy(), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    profile = cv2.cvtColor(across.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    profile = np.asarray(cv2.blur(profile, (1, _ALONG)))
    half = round(_HALF_WIDTH_PX / step_px)
    kernel = np.r_[np.full(half, -1.0), np.full(half, 1.0)].astype(np.float32)[None] / half
    change = cv2.filter2D(profile, -1, kernel, borderType=cv2.BORDER_REPLICATE).astype(np.float64)
    steps = (change**2).sum(axis=2)
    prior = np.exp(-0.5 * (offsets / (0.7 * reach_px)) ** 2)
    best = np.argmax(np.sqrt(steps) * prior, axis=1).clip(1, len(offsets) - 2)
    rows = np.arange(len(points))
    before, peak, after = steps[rows, best - 1], steps[rows, best], steps[rows, best + 1]
    curve = np.minimum(before - 2 * peak + after, -1e-9)
    fraction = np.clip(0.5 * (before - after) / curve, -0.5, 0.5)
    # The even kernel's step lies half a sample before the index it peaks at.
    found = points + ((best + fraction - 0.5) * step_px - reach_px)[:, None] * inward
    weight = np.sqrt(peak)
    line = _line_through(found[weight >= 0.4 * np.median(weight)].astype(np.float32))
    return line, float(np.median(weight))


def _line_through(points: NDArray[np.float32]) -> Quad:
    """Huber's fit, repeated without what lies far off it."""
    for _ in range(4):
        line = np.asarray(cv2.fitLine(points, cv2.DIST_HUBER, 0, 0.01, 0.01)).ravel()
        away = np.abs((points[:, 0] - line[2]) * line[1] - (points[:, 1] - line[3]) * line[0])
        keep = away < max(1.0, 2.5 * float(np.median(away)))
        if keep.all() or keep.sum() < 10:
            break
        points = points[keep]
    return np.stack([line[2:], line[:2]]).astype(np.float64)
