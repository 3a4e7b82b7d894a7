"""Straight edges that may be a sheet's sides, and what lies on both sides of each."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .quad import Quad

Floats = NDArray[np.float64]

_ANGLES = 180  # one-degree bins
_PER_DIRECTION = 15  # peaks kept among the flatter and among the steeper lines
_SAMPLES = 128
_LEAST_VOTES = 12.0
_SAME_PX = 3.0
_LOCAL_PX = 41  # an edge must stand out of this much around it, so that a weak one counts beside a strong one
_FAINT_STEP = 3.0  # CIE Lab: white paper on white paper shows by its thin shadow alone, 2–6
_NEAR_PX, _BESIDE_PX = 1.5, (3.0, 5.5)  # how far from a line its two sides are looked at
_EDGE_PX = 6.0  # a line nearer to the picture's edge than this, along all of it, is that edge


@dataclass(frozen=True, slots=True)
class Lines:
    """L lines ``normal · p = distance`` in pixels, normals of unit length. ``start``, ``length``: the part inside the
    picture along ``direction`` = the normal turned by a quarter. ``sums``: L × (samples + 1) × 14 running sums along
    it of Lab on the normal's side (3) and on the other (3), how surely there is any edge (0–1), how clearly the two
    differ (0–1), the Lab step between the two close by (3), the strokes on each side (2) and how far only one side
    is pale as paper is (0–1)."""

    normal: Floats
    distance: Floats
    border: NDArray[np.bool_]
    start: Floats
    length: Floats
    sums: NDArray[np.float32]

    @property
    def direction(self) -> Floats:
        return np.stack([-self.normal[:, 1], self.normal[:, 0]], axis=1)


def lines_of(lab: NDArray[np.float32], strokes: NDArray[np.float32], quads: Sequence[Quad], clear_step: float) -> Lines:
    """The strongest edges of the picture, the sides of ``quads`` and the picture's own four edges.

    ``lab`` is the picture with its strokes closed away, ``strokes`` (height × width) how dark those were.
    """
    height, width = lab.shape[:2]
    found = _distinct(np.concatenate([_edges(lab), *(_sides(quad) for quad in quads)]), width, height)
    border = np.array([(1, 0, 0), (0, 1, 0), (1, 0, width), (0, 1, height)], np.float64)
    every = np.concatenate([found, border])
    marked = np.arange(len(every)) >= len(found)
    return _looked_at(cv2.merge([*cv2.split(lab), strokes, _pale(lab)]), every[:, :2], every[:, 2], marked, clear_step)


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


def _edges(lab: NDArray[np.float32]) -> Floats:
    """Peaks of a Hough transform in which each pixel votes only for the line along its own edge
    (Ballard, Pattern Recognition 13, 1981), by how far its edge stands out of its neighbourhood."""
    height, width = lab.shape[:2]
    dx = cv2.Scharr(lab, cv2.CV_32F, 1, 0, scale=1 / 32)
    dy = cv2.Scharr(lab, cv2.CV_32F, 0, 1, scale=1 / 32)
    one = np.ones((1, 3), np.float32)
    xx, yy, xy = (cv2.transform(cv2.multiply(a, b), one) for a, b in ((dx, dx), (dy, dy), (dx, dy)))
    size = np.sqrt(xx + yy)
    local = cv2.blur(size, (_LOCAL_PX, _LOCAL_PX))
    weight = size / (1.5 * local + 0.5)
    ridge = (weight > 0.8) & (size > 0.6) & (size > 0.85 * cv2.dilate(size, np.ones((3, 3), np.uint8)))
    ridge[:2], ridge[-2:], ridge[:, :2], ridge[:, -2:] = False, False, False, False
    rows, columns = np.nonzero(ridge)
    weight = np.minimum(weight[rows, columns], 3)
    angle = 0.5 * np.arctan2(2 * xy[rows, columns], xx[rows, columns] - yy[rows, columns])  # of the normal
    bins = np.rint(angle * _ANGLES / math.pi).astype(np.int64)
    reach = math.ceil(math.hypot(width, height))
    theta = np.arange(_ANGLES) * math.pi / _ANGLES
    cosine, sine = np.cos(theta), np.sin(theta)
    at, votes = [], []
    for spread, share in ((-2, 0.5), (-1, 1.0), (0, 1.0), (1, 1.0), (2, 0.5)):
        turned = np.mod(bins + spread, _ANGLES)
        rho = np.rint((columns + 0.5) * cosine[turned] + (rows + 0.5) * sine[turned]).astype(np.int64) + reach
        at.append(turned * (2 * reach + 1) + rho)
        votes.append(weight * share)
    sums = np.bincount(np.concatenate(at), np.concatenate(votes), _ANGLES * (2 * reach + 1))
    table = cv2.blur(sums.reshape(_ANGLES, -1).astype(np.float32), (3, 1))
    return np.array([*_peaks(table, reach, flat=True), *_peaks(table, reach, flat=False)]).reshape(-1, 3)


def _peaks(votes: NDArray[np.float32], reach: int, *, flat: bool) -> list[tuple[float, float, float]]:
    """The strongest lines whose normal points mostly down (``flat``) or mostly across."""
    rows = np.arange(_ANGLES)
    mine = (rows > _ANGLES // 4) & (rows <= 3 * _ANGLES // 4)
    left = np.where((mine if flat else ~mine)[:, None], votes, 0)
    peaks = []
    for _ in range(_PER_DIRECTION):
        row, column = divmod(int(left.argmax()), left.shape[1])
        if left[row, column] < _LEAST_VOTES:
            break
        theta = row * math.pi / _ANGLES
        peaks.append((math.cos(theta), math.sin(theta), float(column - reach)))
        for near in range(-6, 7):
            beyond, there = divmod(row + near, _ANGLES)
            centre = column if beyond == 0 else 2 * reach - column  # past half a turn the normal points back
            left[there, max(0, centre - 7) : centre + 8] = 0
    return peaks


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
    sides, inked, pale = sides[..., :3], sides[..., 3], sides[..., 4]
    parts = np.abs(pale[:, :, 0] - pale[:, :, 1])[..., None]
    clear = np.clip(np.linalg.norm(sides[:, :, 0] - sides[:, :, 1], axis=2, keepdims=True) / clear_step, 0, 1)
    there = 1 - np.exp(-np.linalg.norm(near, axis=2, keepdims=True) / _FAINT_STEP)
    values = np.concatenate([sides[:, :, 0], sides[:, :, 1], there, clear, near, inked, parts], axis=2)
    sums = np.concatenate([np.zeros((len(values), 1, values.shape[2]), np.float32), np.cumsum(values, axis=1)], axis=1)
    return Lines(normal, distance, border, start, length, sums)


def _sampled(image: NDArray[np.float32], points: Floats) -> NDArray[np.float32]:
    grid = (points - 0.5).astype(np.float32)
    values = cv2.remap(
        image, grid[..., 0].copy(), grid[..., 1].copy(), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(values, np.float32)
