"""Straight edges that may be a sheet's sides, and what lies on both sides of each."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .hough import edges
from .quad import Floats, Quad
from .regions import region_quads

ANY, THIN, CLEAR, NEAR, STROKES, PALE = 6, 7, 8, 9, 12, 14  # channels of `Lines.sums`, after the two sides' Lab
CHANNELS = 15
_SAMPLES = 128
_SAME_PX = 3.0
_FAINT_STEP = 3.0  # CIE Lab: white paper on white paper shows by its thin shadow alone, 2–6
_THIN_STEP = 8.0  # of 255: a sheet's shadow on the one beneath measures 10–40 right at the edge
_THIN_LINES = (8, 0)  # lines of thin edges: beside paper, then any
_NEAR_PX, _BESIDE_PX = 1.5, (3.0, 5.5)  # how far from a line its two sides are looked at
_EDGE_PX = 6.0  # a line nearer to the picture's edge than this, along all of it, is that edge


@dataclass(frozen=True, slots=True)
class Lines:
    """L lines ``normal · p = distance`` in pixels, normals of unit length. ``start``, ``length``: the part inside the
    picture along ``direction`` = the normal turned by a quarter. ``sums``: L × (samples + 1) × `CHANNELS` running sums
    along it of Lab on the normal's side (3) and on the other (3), of how surely there is any edge (`ANY`, 0–1), how far
    the normal's side is paler right at it (`THIN`, −1–1), how clearly the two sides differ (`CLEAR`, 0–1), the Lab step
    between the two close by (`NEAR`, 3), the strokes on each side (`STROKES`, 2) and how far only one side is pale as
    paper is (`PALE`, 0–1)."""

    normal: Floats
    distance: Floats
    border: NDArray[np.bool_]
    start: Floats
    length: Floats
    sums: NDArray[np.float32]

    @property
    def direction(self) -> Floats:
        return np.stack([-self.normal[:, 1], self.normal[:, 0]], axis=1)


@dataclass(frozen=True, slots=True)
class Ground:
    """A picture as it is searched for lines. ``layers``: height × width × 6: Lab with the strokes closed away (3), how
    dark those were, how pale each pixel is (0–1), and lightness with only the finest closed away. ``straight``: L × 3
    lines (normal x, normal y, distance)."""

    layers: NDArray[np.float32]
    straight: Floats

    @property
    def pale(self) -> NDArray[np.float32]:
        return self.layers[..., 4]


def ground_of(lab: NDArray[np.float32], strokes: NDArray[np.float32], thin: NDArray[np.float32]) -> Ground:
    """Its strongest edges and the sides of what may be paper.

    ``lab`` is the picture with its strokes closed away, ``strokes`` (height × width) how dark those were; ``thin``
    (the same) its lightness with only the finest closed away.
    """
    with ThreadPoolExecutor(1) as beside:  # OpenCV lets go of the interpreter, so a second core can help
        regions = beside.submit(region_quads, lab)
        pale = _pale(lab)
        straight = edges(lab, pale)
    layers = cv2.merge([*cv2.split(lab), strokes, pale, thin])
    return Ground(np.asarray(layers, np.float32), np.concatenate([straight, *map(_sides, regions.result())]))


def lines_of(ground: Ground, clear_step: float, *, shadows: bool) -> Lines:
    """Its lines and the picture's own four edges. ``shadows``: thin ones too; a sheet on another as white shows by its
    narrow shadow alone."""
    height, width = ground.layers.shape[:2]
    thin = edges(ground.layers[..., 5].copy(), ground.pale, _THIN_LINES) if shadows else np.empty((0, 3))
    found = _distinct(np.concatenate([ground.straight, thin]), width, height)
    border = np.array([(1, 0, 0), (0, 1, 0), (1, 0, width), (0, 1, height)], np.float64)
    every = np.concatenate([found, border])
    marked = np.arange(len(every)) >= len(found)
    return _looked_at(ground.layers, every[:, :2], every[:, 2], marked, clear_step)


def _pale(lab: NDArray[np.float32]) -> NDArray[np.float32]:
    """1 where a pixel is light and has little colour, beside this picture's others (Otsu), with a soft step."""
    lightness, a, b = cv2.split(lab)
    paper = np.maximum(lightness - 1.5 * cv2.magnitude(a - 128, b - 128), 0)
    threshold, _ = cv2.threshold(paper.astype(np.uint8), 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    return np.clip((paper - threshold) / 16 + 0.5, 0, 1).astype(np.float32)


def _sides(quad: Quad) -> Floats:
    """Its sides as rows (normal x, normal y, distance)."""
    along = np.roll(quad, -1, axis=0) - quad
    normal = np.stack([along[:, 1], -along[:, 0]], axis=1) / np.maximum(np.linalg.norm(along, axis=1), 1e-9)[:, None]
    return np.column_stack([normal, (normal * quad).sum(axis=1)])


def _ends(normal: Floats, distance: Floats, width: int, height: int) -> tuple[Floats, Floats]:
    """Where each line enters and leaves the picture; the wrong way round if it misses it."""
    direction = np.stack([-normal[:, 1], normal[:, 0]], axis=1)
    foot = normal * distance[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        low = (0 - foot) / direction
        high = (np.array([width, height]) - foot) / direction
    parallel = np.abs(direction) < 1e-9
    enter = np.where(parallel, -np.inf, np.minimum(low, high)).max(axis=1)
    leave = np.where(parallel, np.inf, np.maximum(low, high)).min(axis=1)
    return foot + direction * enter[:, None], foot + direction * leave[:, None]


def _distinct(lines: Floats, width: int, height: int) -> Floats:
    """Without those that miss the picture, run along its edge, or stay within 3 px of an earlier one."""
    start, end = _ends(lines[:, :2], lines[:, 2], width, height)
    inside = ((end - start) * np.stack([-lines[:, 1], lines[:, 0]], axis=1)).sum(axis=1) > 8
    lines, start, end = lines[inside], start[inside], end[inside]
    far = np.array([width, height])
    gaps = [np.maximum(start, end), np.maximum(far - start, far - end)]
    inner = (np.concatenate(gaps, axis=1) >= _EDGE_PX).all(axis=1)
    lines, start, end = lines[inner], start[inner], end[inner]
    place, turned = np.hstack([start, end]), np.hstack([end, start])
    apart = np.minimum(*(np.abs(place[:, None] - other[None]).max(axis=2) for other in (place, turned)))
    kept: list[int] = []
    for line in range(len(lines)):
        if not (apart[line, kept] < _SAME_PX).any():
            kept.append(line)
    return lines[kept]


def _looked_at(
    layers: NDArray[np.float32], normal: Floats, distance: Floats, border: NDArray[np.bool_], clear_step: float
) -> Lines:
    height, width = layers.shape[:2]
    start, end = _ends(normal, distance, width, height)
    length = np.linalg.norm(end - start, axis=1)
    along = (np.arange(_SAMPLES) + 0.5) / _SAMPLES
    points = start[:, None] + (end - start)[:, None] * along[None, :, None]
    offsets = np.array([_NEAR_PX, *_BESIDE_PX])
    shifted = (
        points[:, :, None, None]
        + (np.array([1, -1])[:, None, None] * offsets[None, :, None]) * normal[:, None, None, None]
    )
    seen = _sampled(layers, shifted.reshape(len(points), -1, 2)).reshape(*shifted.shape[:-1], layers.shape[2])
    sides = seen[..., 1:, :].mean(axis=3)
    near = seen[:, :, 0, 0, :3] - seen[:, :, 1, 0, :3]
    thin = np.clip((seen[:, :, 0, 0, 5:] - seen[:, :, 1, 0, 5:]) / _THIN_STEP, -1, 1)
    sides, inked, pale = sides[..., :3], sides[..., 3], sides[..., 4]
    parts = np.abs(pale[:, :, 0] - pale[:, :, 1])[..., None]
    clear = np.clip(np.linalg.norm(sides[:, :, 0] - sides[:, :, 1], axis=2, keepdims=True) / clear_step, 0, 1)
    there = 1 - np.exp(-np.linalg.norm(near, axis=2, keepdims=True) / _FAINT_STEP)
    values = np.concatenate([sides[:, :, 0], sides[:, :, 1], there, thin, clear, near, inked, parts], axis=2)
    sums = np.concatenate([np.zeros((len(values), 1, values.shape[2]), np.float32), np.cumsum(values, axis=1)], axis=1)
    return Lines(normal, distance, border, start, length, sums)


def _sampled(image: NDArray[np.float32], points: Floats) -> NDArray[np.float32]:
    grid = (points - 0.5).astype(np.float32)
    values = cv2.remap(
        image, grid[..., 0].copy(), grid[..., 1].copy(), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(values, np.float32)
