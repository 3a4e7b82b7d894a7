"""How the print lies on a sheet that is not flat: what is left of it beside one homography, over the page.

A fold, a curl or a lens moves print by some millimetres where one plane cannot follow. Pieces of printed edges are
looked for across themselves once more, and a coarse grid of small moves explains what was found, as stiffly as it can:
second differences cost (a thin plate's energy, Bookstein 1989), so that where nothing is printed its neighbours tell.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .blank import POINT_PX, BlankPage, Floats, Homography, Image
from .settling import found_across

Doubles = NDArray[np.float64]

_COLUMNS, _ROWS = 6, 12  # of the grid's cells; folds lie mostly across
_REACH_PX = 11.0  # 2.5 mm
_ROBUST_ROUNDS, _LEAST_FOUND = 4, 60
_AT_FIRST = 3  # one piece of so many
_SPREAD_PX = (5.0, 3.0, 2.0)  # of what is found, round by round: further away it is something else
_STIFF, _STILL = 3.0, 0.02  # of second differences, and of being moved at all; against one finding
_FAR_PX = 16.0  # print that lies further from its place is no bend
_FLAT_PX = 1.6  # 0.4 mm: moved nowhere further than this, the sheet lies flat
_ALONG_FOOT = 24  # places along the foot
_INNER = 0.05  # of a side, left out where one homography is laid through a bend


@dataclass(frozen=True, eq=False)
class Bend:
    """``moves``: at (rows + 1) × (columns + 1) nodes over the page, how far (x, y, in points) what the homography takes
    there truly lies."""

    moves: Doubles
    width_pt: float
    height_pt: float

    def at(self, points: Doubles) -> Doubles:
        """``points``: n × 2, where the homography takes what is seen. Returns where it lies."""
        columns, rows = (points / (self.width_pt, self.height_pt)).T
        return np.asarray(points + np.einsum("nk,kc->nc", _weights(columns, rows), self.moves.reshape(-1, 2)))

    def flattened(self) -> tuple[Homography, Bend]:
        """The one homography, points of the page → points of the page, that comes nearest, and what is left beside it
        (of where that takes what is seen)."""
        inside = _nodes(np.linspace(_INNER, 1 - _INNER, 10), np.linspace(_INNER, 1 - _INNER, 14))
        inside *= (self.width_pt, self.height_pt)
        nearest, _ = cv2.findHomography(inside, self.at(inside), 0)
        nodes = _nodes(np.linspace(0, 1, _COLUMNS + 1), np.linspace(0, 1, _ROWS + 1)) * (self.width_pt, self.height_pt)
        before = cv2.perspectiveTransform(nodes[None], np.linalg.inv(nearest))[0]
        left = (self.at(before) - nodes).reshape(self.moves.shape)
        return np.asarray(nearest, np.float64), Bend(left, self.width_pt, self.height_pt)

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping, to a thousandth of a point; `from_document` reads it."""
        return {"moves": self.moves.round(3).tolist(), "size": [self.width_pt, self.height_pt]}

    @classmethod
    def from_document(cls, kept: dict[str, Any]) -> Bend:
        return cls(np.array(kept["moves"], float), *kept["size"])


def bend_of(page: BlankPage, even: Image, to_page: Homography, foot: Doubles | None = None) -> Bend | None:
    """``to_page``: pixels of ``even`` → pixels of the blank page, at rest. ``foot``: how far the sheet's foot must
    be moved down, at its left and its right, in those pixels. None where the sheet lies flat, and where too little
    print is found."""
    points, normals = page.pieces
    if len(points) < _LEAST_FOUND:
        return None
    blurred = cv2.GaussianBlur(even, (0, 0), 1.0)
    height, width = page.grey.shape
    weights = _weights(points[:, 0] / width, points[:, 1] / height)
    across = np.concatenate([weights * normals[:, :1], weights * normals[:, 1:]], axis=1).astype(np.float64)
    foot_rows, foot_pulls = _foot(foot)
    stiff, nodes = _stiffness(), np.zeros(2 * (_COLUMNS + 1) * (_ROWS + 1))
    for at, spread in enumerate(_SPREAD_PX):
        some = slice(None, None, 1 if at else _AT_FIRST)  # whether it is bent at all, few pieces tell
        ways, shares = normals[some], weights[some]
        moved = shares @ nodes.reshape(2, -1).T
        reach = np.full(len(moved), min(_REACH_PX, 2.5 * spread + 2))
        away, found = found_across(blurred, to_page, (points[some] - moved).astype(np.float32), ways, reach)
        if found.sum() < _LEAST_FOUND:
            return None
        pulls = np.concatenate([away[found] + np.einsum("nc,nc->n", moved, ways)[found], foot_pulls])
        rows = np.concatenate([across[some][found], foot_rows])
        for _ in range(_ROBUST_ROUNDS):
            trust = 1 / (1 + ((pulls - rows @ nodes) / spread) ** 2)
            trust[found.sum() :] = 1.0
            square = (rows * trust[:, None]).T @ rows + (stiff if at else stiff / _AT_FIRST)
            nodes = np.linalg.solve(square, (rows * trust[:, None]).T @ pulls)
        if at == 0 and np.abs(nodes).max() < _FLAT_PX:
            return None
    if np.abs(nodes).max() > _FAR_PX:
        return None
    moves = nodes.reshape(2, _ROWS + 1, _COLUMNS + 1).transpose(1, 2, 0) / POINT_PX
    return Bend(np.ascontiguousarray(moves), page.width_pt, page.height_pt)


def _foot(away: Doubles | None) -> tuple[Doubles, Doubles]:
    """Rows and pulls of places along the foot, as of print that is found there."""
    if away is None:
        return np.zeros((0, 2 * (_COLUMNS + 1) * (_ROWS + 1))), np.zeros(0)
    columns = np.linspace(0, 1, _ALONG_FOOT)
    down = _weights(columns, np.ones(_ALONG_FOOT))
    return np.concatenate([np.zeros_like(down), down], axis=1), np.interp(columns, (0.1, 0.9), away)


def _nodes(columns: Doubles, rows: Doubles) -> Doubles:
    """n × 2, row by row."""
    return np.stack(np.meshgrid(columns, rows), axis=-1).reshape(-1, 2)


def _weights(columns: Floats | Doubles, rows: Floats | Doubles) -> Doubles:
    """n × nodes: how much of each node's move a point has, by shares of width and height (bilinear)."""
    x = np.clip(np.asarray(columns, np.float64) * _COLUMNS, 0, _COLUMNS - 1e-6)
    y = np.clip(np.asarray(rows, np.float64) * _ROWS, 0, _ROWS - 1e-6)
    left, top = x.astype(int), y.astype(int)
    weights = np.zeros((len(x), (_ROWS + 1) * (_COLUMNS + 1)))
    every = np.arange(len(x))
    for down, part_down in ((0, 1 - (y - top)), (1, y - top)):
        for right, part_right in ((0, 1 - (x - left)), (1, x - left)):
            weights[every, (top + down) * (_COLUMNS + 1) + left + right] = part_down * part_right
    return weights


def _stiffness() -> Doubles:
    """What bending costs, for both directions of moving."""
    many = (_ROWS + 1) * (_COLUMNS + 1)
    number = np.arange(many).reshape(_ROWS + 1, _COLUMNS + 1)
    costs = [np.eye(many) * np.sqrt(_STILL)]
    for before, here, after in (
        (number[:-2], number[1:-1], number[2:]), (number[:, :-2], number[:, 1:-1], number[:, 2:]),
    ):  # fmt: skip
        row = np.zeros((here.size, many))
        every = np.arange(here.size)
        row[every, before.ravel()], row[every, here.ravel()], row[every, after.ravel()] = 1, -2, 1
        costs.append(np.sqrt(_STIFF) * row)
    cross = np.zeros((_ROWS * _COLUMNS, many))
    every = np.arange(_ROWS * _COLUMNS)
    for part, sign in ((number[:-1, :-1], 1), (number[1:, 1:], 1), (number[:-1, 1:], -1), (number[1:, :-1], -1)):
        cross[every, part.ravel()] = sign
    costs.append(np.sqrt(_STIFF) * cross)
    stacked = np.concatenate(costs)
    one = stacked.T @ stacked
    return np.asarray(np.kron(np.eye(2), one))
