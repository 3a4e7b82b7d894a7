"""Finding the sheet on its desk: candidate outlines from several kinds of evidence, scored, then refined.

The picture is looked at small (`FINDER_LONG_SIDE_PX`); only the sides of the best candidate are fitted larger.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .limits import FINDER_LONG_SIDE_PX, FOUND_CONFIDENCE, REFINE_LONG_SIDE_PX
from .recipe import Corners
from .straighten import whole_picture

Image = NDArray[np.uint8]
Quad = NDArray[np.float64]  # 4 × 2, x and y, top-left first, clockwise

_LEAST_SIDE_PX = 64  # a smaller picture has no desk around a sheet
_LEAST_AREA = 0.10  # of the picture; a sheet smaller than this cannot be read anyway
_SIDE_SAMPLES = 48
_CLEAR_STEP = 14.0  # CIE Lab distance; paper against a pale desk measures 10–20, against wood 40 and more
_PARALLEL = 0.35  # cosine of the smallest angle two neighbouring sides may enclose
_AT_BORDER_PX = 3.0


@dataclass(frozen=True, slots=True)
class Sheet:
    """``corners`` in source pixels (pixel-edge coordinates). Not ``found``: the whole picture."""

    found: bool
    confidence: float
    corners: Corners


def find_sheet(pixels: Image) -> Sheet:
    """The sheet in a picture (height × width × 3, RGB). When unsure, the whole picture."""
    height, width = pixels.shape[:2]
    if min(height, width) < _LEAST_SIDE_PX:
        return Sheet(False, 0.0, whole_picture(width, height))
    middle, middle_scale = _halved(pixels, REFINE_LONG_SIDE_PX)
    small, small_scale = _shrunk(middle, FINDER_LONG_SIDE_PX)
    lab = cv2.cvtColor(cv2.GaussianBlur(small, (0, 0), 1.2), cv2.COLOR_RGB2Lab).astype(np.float32)
    scored = [(_score(quad, lab), quad) for mask in _evidence(lab) for quad in _quads(mask)]
    if not scored:
        return Sheet(False, 0.0, whole_picture(width, height))
    best_score, best = max(scored, key=lambda pair: pair[0])
    confidence = round(float(np.clip(best_score, 0, 1)), 3)
    if confidence < FOUND_CONFIDENCE:
        return Sheet(False, confidence, whole_picture(width, height))
    refined = _refined(best / small_scale, middle, 3.0 / small_scale)
    corners: Corners = tuple((float(x), float(y)) for x, y in refined / middle_scale)  # type: ignore[assignment]
    return Sheet(True, confidence, corners)


def _halved(pixels: Image, least_long_side: int) -> tuple[Image, float]:
    """Shrunk by a whole number, which is fast, to no less than ``least_long_side``."""
    factor = max(1, max(pixels.shape[:2]) // least_long_side)
    rows, columns = (side // factor * factor for side in pixels.shape[:2])
    small = cv2.resize(pixels[:rows, :columns], (columns // factor, rows // factor), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8), 1 / factor


def _shrunk(pixels: Image, long_side: int) -> tuple[Image, float]:
    scale = min(1.0, long_side / max(pixels.shape[:2]))
    if scale == 1.0:
        return pixels, scale
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8), size[0] / pixels.shape[1]


def _evidence(lab: NDArray[np.float32]) -> list[Image]:
    """Binary masks (255 where the sheet may be), each from another property of paper."""
    lightness = lab[:, :, 0]
    chroma = np.hypot(lab[:, :, 1] - 128, lab[:, :, 2] - 128)
    paperness = np.clip(lightness - 1.5 * chroma, 0, 255)
    neighbourhood = cv2.blur(lightness, (max(lab.shape) // 2, max(lab.shape) // 2))
    even = lightness / np.maximum(neighbourhood, 1)
    masks = [
        _otsu(lightness),
        _otsu(paperness),
        _otsu(np.clip(even * 128, 0, 255).astype(np.float32)),
        _otsu(_unlike_border(lab)),
    ]
    return [*masks, *_edge_regions(lab)]


def _otsu(values: NDArray[np.floating[Any]]) -> Image:
    _, mask = cv2.threshold(values.astype(np.uint8), 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    return np.asarray(mask, np.uint8)


def _unlike_border(lab: NDArray[np.float32]) -> NDArray[np.float32]:
    """Distance of each pixel to the nearest of the desk's colours, learnt from the picture's border."""
    band = max(4, min(lab.shape[:2]) // 40)
    ring = np.concatenate([lab[:band].reshape(-1, 3), lab[-band:].reshape(-1, 3)])
    ring = np.concatenate([ring, lab[:, :band].reshape(-1, 3), lab[:, -band:].reshape(-1, 3)])[::16]
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 12, 0.5)
    cv2.setRNGSeed(1)  # the same picture always gives the same corners
    _, _, centres = cv2.kmeans(ring, 4, np.empty(0, np.int32), criteria, 1, cv2.KMEANS_PP_CENTERS)
    distance = np.full(lab.shape[:2], np.inf, np.float32)
    for centre in centres:
        distance = np.minimum(distance, np.sqrt(((lab - centre) ** 2).sum(axis=2)))
    return np.clip(distance * 2, 0, 255)


def _edge_regions(lab: NDArray[np.float32]) -> list[Image]:
    """What closed outlines enclose, at two sensitivities, over lightness and both colour axes."""
    regions = []
    for low, high in ((12, 36), (30, 90)):
        edges = np.zeros(lab.shape[:2], np.uint8)
        for channel in range(3):
            edges |= cv2.Canny(lab[:, :, channel].astype(np.uint8), low, high)
        closed = cv2.morphologyEx(edges, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
        outlines, _ = cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        filled = np.zeros_like(closed)
        cv2.drawContours(filled, outlines, -1, 255, cv2.FILLED)
        regions.append(filled)
    return regions


def _quads(mask: Image) -> list[Quad]:
    """Quadrilaterals around the large regions of a mask, opened by two amounts to let go of neighbours."""
    quads: list[Quad] = []
    for size in (5, 15):
        kernel = np.ones((size, size), np.uint8)
        tidy = cv2.morphologyEx(cv2.morphologyEx(mask, cv2.MORPH_CLOSE, kernel), cv2.MORPH_OPEN, kernel)
        contours, _ = cv2.findContours(tidy, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        for contour in sorted(contours, key=cv2.contourArea, reverse=True)[:2]:
            if cv2.contourArea(contour) < _LEAST_AREA * mask.size:
                continue
            quad = _simplified(cv2.convexHull(contour))
            if quad is not None:
                quads.append(quad)
    return quads


def _simplified(hull: NDArray[np.int32]) -> Quad | None:
    length = cv2.arcLength(hull, True)
    for tolerance in np.linspace(0.01, 0.10, 19):
        shape = cv2.approxPolyDP(hull, tolerance * length, True)
        if len(shape) == 4:
            return _ordered(shape.reshape(4, 2).astype(np.float64) + 0.5)
        if len(shape) < 4:
            break
    return _ordered(cv2.boxPoints(cv2.minAreaRect(hull)).astype(np.float64) + 0.5)


def _ordered(points: Quad) -> Quad:
    """Clockwise from the corner nearest the picture's top left."""
    centre = points.mean(axis=0)
    around = points[np.argsort(np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0]))]
    return np.roll(around, -int(np.argmin(around.sum(axis=1))), axis=0)


def _score(quad: Quad, lab: NDArray[np.float32]) -> float:
    """0–1: how clearly all four sides part paper from something else, and how like a sheet the shape is."""
    height, width = lab.shape[:2]
    if _sharpest_cosine(quad) > _PARALLEL or cv2.contourArea(quad.astype(np.float32)) < _LEAST_AREA * width * height:
        return 0.0
    sides = [_side_support(quad[i], quad[(i + 1) % 4], lab) for i in range(4)]
    sizes = [math.dist(quad[i], quad[(i + 1) % 4]) for i in range(4)]
    opposite = min(sizes[0], sizes[2]) / max(sizes[0], sizes[2]) * min(sizes[1], sizes[3]) / max(sizes[1], sizes[3])
    area = cv2.contourArea(quad.astype(np.float32)) / (width * height)
    return float(
        (0.6 * np.mean(sides) + 0.4 * min(sides)) * (0.75 + 0.25 * opposite) * (0.85 + 0.15 * min(1, area * 2))
    )


def _sharpest_cosine(quad: Quad) -> float:
    sides = np.roll(quad, -1, axis=0) - quad
    sides /= np.maximum(np.linalg.norm(sides, axis=1, keepdims=True), 1e-9)
    return float(np.abs((sides * np.roll(sides, -1, axis=0)).sum(axis=1)).max())


def _normals(start: Quad, end: Quad, count: int) -> tuple[Quad, Quad]:
    """Points along a side (clockwise quad) and the unit vector that points into the sheet."""
    direction = (end - start) / max(float(np.linalg.norm(end - start)), 1e-9)
    points = start + np.linspace(0.06, 0.94, count)[:, None] * (end - start)
    return points, np.array([-direction[1], direction[0]])


def _sampled(image: NDArray[np.float32] | Image, points: Quad) -> NDArray[np.float32]:
    grid = (points - 0.5).astype(np.float32)
    values = cv2.remap(
        image, grid[..., 0].copy(), grid[..., 1].copy(), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(values, np.float32)


def _side_support(start: Quad, end: Quad, lab: NDArray[np.float32]) -> float:
    """Share of a side along which inside and outside clearly differ, inside being the paler."""
    points, inward = _normals(start, end, _SIDE_SAMPLES)
    height, width = lab.shape[:2]
    at_border = (points.min() < _AT_BORDER_PX) | (points[:, 0].max() > width - _AT_BORDER_PX)
    if at_border or points[:, 1].max() > height - _AT_BORDER_PX:
        return 0.45  # cut by the picture's edge: cannot be seen either way
    inside = np.mean([_sampled(lab, (points + inward * d)[None])[0] for d in (3, 5)], axis=0)
    outside = np.mean([_sampled(lab, (points - inward * d)[None])[0] for d in (3, 5)], axis=0)
    step = np.linalg.norm(inside - outside, axis=1)
    paler = inside[:, 0] - outside[:, 0] > -6
    return float(np.mean(np.clip(step / _CLEAR_STEP, 0, 1) * paler))


def _refined(quad: Quad, pixels: Image, reach_px: float) -> Quad:
    """Fit each side to the steepest colour step across it, to a fraction of a pixel, and intersect the lines."""
    lines = [_fitted_side(quad[i], quad[(i + 1) % 4], pixels, reach_px) for i in range(4)]
    corners = [_intersection(lines[i - 1], lines[i]) for i in range(4)]
    limit = 3 * reach_px
    return np.array(
        [
            new if new is not None and math.dist(new, old) < limit else old
            for new, old in zip(corners, quad, strict=True)
        ]
    )


def _fitted_side(start: Quad, end: Quad, pixels: Image, reach_px: float) -> tuple[Quad, Quad]:
    points, inward = _normals(start, end, 2 * _SIDE_SAMPLES)
    offsets = np.arange(-reach_px, reach_px + 0.5, 0.5)
    across = _sampled(pixels, points[:, None, :] + offsets[None, :, None] * inward)
    profile = cv2.cvtColor(across / 255, cv2.COLOR_RGB2Lab)
    width = 4  # samples, 2 px: wide enough for noise, narrow enough for a rounded edge
    kernel = np.r_[np.full(width, -1.0), np.full(width, 1.0)] / width
    steps = np.zeros(profile.shape[:2])
    for channel in range(3):
        smooth = cv2.filter2D(
            profile[:, :, channel], -1, kernel[None].astype(np.float32), borderType=cv2.BORDER_REPLICATE
        )
        steps += smooth.astype(np.float64) ** 2
    prior = np.exp(-0.5 * (offsets / reach_px) ** 2)
    best = np.argmax(np.sqrt(steps) * prior, axis=1).clip(1, len(offsets) - 2)
    rows = np.arange(len(points))
    before, peak, after = steps[rows, best - 1], steps[rows, best], steps[rows, best + 1]
    curve = np.minimum(before - 2 * peak + after, -1e-9)
    fraction = np.clip(0.5 * (before - after) / curve, -0.5, 0.5)
    # The even kernel's step lies half a sample before the index it peaks at.
    found = points + ((best + fraction - 0.5) * 0.5 - reach_px)[:, None] * inward
    weight = np.sqrt(peak)
    found = found[weight >= 0.4 * np.median(weight)].astype(np.float32)
    for _ in range(3):
        line = np.asarray(cv2.fitLine(found, cv2.DIST_HUBER, 0, 0.01, 0.01)).ravel()
        away = np.abs((found[:, 0] - line[2]) * line[1] - (found[:, 1] - line[3]) * line[0])
        keep = away < max(1.0, 2.5 * float(np.median(away)))
        if keep.all() or keep.sum() < 10:
            break
        found = found[keep]
    return line[2:].astype(np.float64), line[:2].astype(np.float64)


def _intersection(one: tuple[Quad, Quad], other: tuple[Quad, Quad]) -> Quad | None:
    (point, direction), (point_b, direction_b) = one, other
    matrix = np.column_stack([direction, -direction_b])
    if abs(np.linalg.det(matrix)) < 1e-6:
        return None
    return np.asarray(point + direction * np.linalg.solve(matrix, point_b - point)[0])
