"""Bringing a homography to rest on the print: each piece of a printed edge is looked for across itself, only as far as
it can be away, and what is found pulls. What is known well draws in what lies further out, so that a frame at the foot
of a page is found though all the words are at its head."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from .blank import BlankPage, Floats, Homography, Image

Doubles = NDArray[np.float64]

_ROUNDS, _LAST_ROUNDS = 12, 2
_STILL_PX = 0.05  # moved less than this, it rests
_FAR_PX = 9.0  # what may be further away than this (one standard deviation) is not looked for yet
_MOST_REACH_PX, _LEAST_REACH_PX = 18, 3
_DARK = 30  # grey levels below the paper from which something may be print
_FINDING_PX = 2.5  # standard deviation of one finding, along the normal; neighbours err alike
_CORNER_PX, _PRINT_MOVED_PX, _PRINT_SCALED = 2.0, 9.0, 0.02  # of the sheet's corners; of the print on its sheet
_BENT_PX = 8.0  # at the end: a sheet that is creased lies so far from one plane


def certainty_of(points: Floats, spread_px: float, page: BlankPage) -> Doubles:
    """The information (8 × 8) that points give which lie right but for ``spread_px``."""
    rows = jacobian(points, page)
    return np.asarray((rows[:, 0].T @ rows[:, 0] + rows[:, 1].T @ rows[:, 1]) / spread_px**2)


def certainty_of_sides(page: BlankPage) -> Doubles:
    """What the sheet's own corners say: nearly all of how it is seen, and only about where on it the print is."""
    height, corners = page.grey.shape[0], page.corners
    x, y = (corners - corners.mean(axis=0)).T / height
    alike = np.array(
        [[1, 0, a, -b] for a, b in zip(x, y, strict=True)] + [[0, 1, b, a] for a, b in zip(x, y, strict=True)]
    )
    spread = np.diag(
        [_PRINT_MOVED_PX**2, _PRINT_MOVED_PX**2, (_PRINT_SCALED * height) ** 2, (0.3 * _PRINT_SCALED * height) ** 2]
    )
    covariance = _CORNER_PX**2 * np.eye(8) + alike @ spread @ alike.T
    rows = jacobian(corners, page)
    moves = np.concatenate([rows[:, 0], rows[:, 1]])
    return np.asarray(moves.T @ np.linalg.inv(covariance) @ moves)


def settled(page: BlankPage, even: Image, to_page: Homography, certainty: Doubles) -> Homography:
    """``to_page``: pixels of ``even`` → pixels of the blank page, about right; how sure, ``certainty`` says where."""
    points, normals = page.pieces
    if len(points) < 40:
        return to_page
    rows = np.einsum("nij,ni->nj", jacobian(points, page), normals)
    blurred = cv2.GaussianBlur(even, (0, 0), 1.0)
    known, moved = certainty, np.zeros(8)
    rounds, all_looked = 0, False
    while rounds < _ROUNDS:
        last = rounds >= _ROUNDS - _LAST_ROUNDS
        rounds += 1
        covariance = np.linalg.inv(certainty + 1e-9 * np.eye(8))
        unsure = np.sqrt(np.maximum(0, np.einsum("ni,ij,nj->n", rows, covariance, rows)))
        looked = np.flatnonzero(unsure < _FAR_PX)
        if len(looked) < 30:
            break
        reach = np.clip(2.5 * unsure[looked] + 1.5, _LEAST_REACH_PX + (_BENT_PX if last else 0), _MOST_REACH_PX)
        away, found = found_across(blurred, to_page, points[looked], normals[looked], reach)
        if found.sum() < 30:
            break
        used, pulls = rows[looked][found], away[found]
        step = _robust(used, pulls, _BENT_PX if last else 2.0, known * _FINDING_PX**2, moved)
        moved = moved + step
        to_page = small_homography(step, page) @ to_page
        certainty = used.T @ used / _FINDING_PX**2 + known
        if not last and all_looked and np.abs(used @ step).max() < _STILL_PX:
            rounds = max(rounds, _ROUNDS - _LAST_ROUNDS)
        all_looked = len(looked) == len(points)
    return to_page / to_page[2, 2]


def jacobian(points: Floats, page: BlankPage) -> Doubles:
    """n × 2 × 8: how a point moves with the eight numbers of a small homography (Baker and Matthews, IJCV 56, 2004)."""
    scale = max(page.grey.shape)
    x, y = (points / scale - 0.5).T.astype(np.float64)
    one, none = np.ones_like(x), np.zeros_like(x)
    to_right = np.stack([x, y, one, none, none, none, -x * x, -x * y], axis=1)
    down = np.stack([none, none, none, x, y, one, -x * y, -y * y], axis=1)
    return np.stack([to_right, down], axis=1) * scale


def small_homography(step: Doubles, page: BlankPage) -> Homography:
    scale = max(page.grey.shape)
    small = np.array([[1 + step[0], step[1], step[2]], [step[3], 1 + step[4], step[5]], [step[6], step[7], 1]])
    to_small = np.array([[1 / scale, 0, -0.5], [0, 1 / scale, -0.5], [0, 0, 1]])
    return np.asarray(np.linalg.inv(to_small) @ small @ to_small)


def found_across(
    even: Image, to_page: Homography, points: Floats, normals: Floats, reach: Doubles
) -> tuple[Doubles, NDArray[np.bool_]]:
    """How far along its normal each piece lies from where it should, and whether it was found at all."""
    steps = np.arange(-_MOST_REACH_PX, _MOST_REACH_PX + 1, dtype=np.float64)
    places = points[:, None] + normals[:, None] * steps[None, :, None]
    seen = cv2.perspectiveTransform(places.reshape(1, -1, 2), np.linalg.inv(to_page)).reshape(*places.shape)
    seen = seen.astype(np.float32)
    depth = 255.0 - cv2.remap(even, seen[..., 0], seen[..., 1], cv2.INTER_LINEAR, borderValue=255).astype(np.float64)
    depth[np.abs(steps)[None] > reach[:, None]] = 0
    # Of several dark lines the nearest: it is dark by how near it is.
    worth = np.minimum(depth, 90) * np.exp(-np.abs(steps)[None] / np.maximum(4.0, reach[:, None]))
    best = worth.argmax(axis=1)
    rows = np.arange(len(points))
    middle = np.clip(best, 1, len(steps) - 2)
    before, here, after = (depth[rows, middle + at] for at in (-1, 0, 1))
    bend = before - 2 * here + after
    fine = np.where(np.abs(bend) > 1e-6, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0.0)
    return -(steps[middle] + np.clip(fine, -1, 1)), depth[rows, best] > _DARK


def _robust(rows: Doubles, pulls: Doubles, scale_px: float, known: Doubles, moved: Doubles) -> Doubles:
    """Least squares, over and over, with less weight for what does not fit (Cauchy's). ``known`` draws back to where it
    was begun, from which ``moved`` has led away."""
    step: Doubles = np.zeros(8)
    for _ in range(4):
        left = pulls - rows @ step
        weights = 1 / (1 + (left / scale_px) ** 2)
        square = (rows * weights[:, None]).T @ rows + known + 1e-6 * np.eye(8)
        step[:] = np.linalg.solve(square, (rows * weights[:, None]).T @ pulls - known @ moved)
    return step
