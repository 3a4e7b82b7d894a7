"""The sides of the sheet that a photograph shows, where others are hidden or cut off.

Print at the head of a page says little of where its foot lies; a side of the sheet that is seen down to there does. How
the print lies on its sheet is known only about: by how much it is moved and scaled is found along
with it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page.sheet.paper_edges import PaperEdge, fitted_edge

from .blank import BlankPage, Homography
from .settling import jacobian, small_homography

Doubles = NDArray[np.float64]

_EDGE_PX, _FITTED_PX = 6.0, 2.5  # standard deviations of an edge as it is found first, and of one that is fitted
_UNLIKELY = 3.5  # standard deviations from which an edge is another
_LEAST_SEEN = 0.25  # of a side must show as the edge of paper
_ENDS = (0.1, 0.9)  # of a side: where it is asked how far an edge lies from it
_LEAN = 0.25  # tangent: an edge that leans further from a side as it is thought to lie is another
_REACH_PX = 6.0
_FOOT, _NEAR_PX, _LEANS_PX = 2, 26.0, 5.0  # the side; 6 mm; from 1.2 mm on a foot that lies elsewhere tells of a fold
_WORTH, _ANYWHERE_PX = 6.0, 100.0  # of a side that is seen whole, as a logarithm; how far an edge that is none may lie
_MOVED_PX = 4.3  # 1 mm, standard deviation of where printers begin; common practice, no source
_PRINTED = ((0.0, 0.004, 0.8), (-0.045, 0.02, 0.2))  # how much larger, give or take, how often: as it is, fit to page


@dataclass(slots=True)
class _State:
    """``covariance``, 11 × 11: of a small homography on the page (8) and of how the print lies on its sheet: moved
    right, moved down, scaled (3, ``laid``)."""

    to_page: Homography
    laid: Doubles
    covariance: Doubles
    evidence: float


def held_by_sides(
    page: BlankPage, to_page: Homography, certainty: Doubles, edges: list[PaperEdge], picture: NDArray[np.uint8]
) -> tuple[Homography, Doubles]:
    """``to_page`` with what the sheet's own sides say, and its information (8 × 8); both as they are given where that
    leads to nothing that can be."""
    try:
        states = [
            _held(page, _begun(to_page, certainty, usual, spread, share), edges, picture)
            for usual, spread, share in _PRINTED
        ]
        best = max(states, key=lambda state: state.evidence)
        covariance = best.covariance[:8, :8]
        information = np.asarray(np.linalg.inv(covariance + 1e-12 * np.eye(8)), np.float64)
        held = best.to_page / best.to_page[2, 2]
    except np.linalg.LinAlgError:
        return to_page, certainty
    return (held, information) if np.isfinite(held).all() and np.isfinite(information).all() else (to_page, certainty)


def foot_away(
    page: BlankPage, to_page: Homography, edges: list[PaperEdge], picture: NDArray[np.uint8]
) -> Doubles | None:
    """How far its foot must be moved down, at its left and at its right, in pixels of the page: where the lower part of
    a folded sheet leans away and has no print, its foot tells. ``to_page``: at rest on the print. None where it lies
    about as the other three sides say, or not all four are seen."""
    covariance = np.diag([*[1e-6] * 8, _MOVED_PX**2, _MOVED_PX**2, _PRINTED[0][1] ** 2])
    state = _State(to_page, np.zeros(3), covariance, 0.0)
    seen: dict[int, Doubles] = {}
    for side in range(4):
        told = [(_share_near(page, side, edge, state), edge) for edge in edges]
        share, edge = max(told, key=lambda one: one[0], default=(0.0, None))
        away = _away(page, side, fitted_edge(edge, picture, _REACH_PX), state) if edge and share else None
        if away is None:
            return None
        seen[side] = away
    others = [side for side in range(4) if side != _FOOT]
    rows = np.concatenate([_rows(page, side, state)[:, 8:] for side in others])
    prior = np.linalg.inv(covariance[8:, 8:])
    pulls = np.concatenate([seen[side] for side in others])
    laid = np.linalg.solve(rows.T @ rows / _FITTED_PX**2 + prior, rows.T @ pulls / _FITTED_PX**2)
    left = seen[_FOOT] - _rows(page, _FOOT, state)[:, 8:] @ laid
    return left[::-1] if np.abs(left).max() > _LEANS_PX else None  # the foot runs from right to left


def _share_near(page: BlankPage, side: int, edge: PaperEdge, state: _State) -> float:
    """How much of a side shows as this edge; 0 where it lies far off. Of equal ones the stronger edge comes first."""
    away = _away(page, side, edge.ends, state)
    return 0.0 if away is None or np.abs(away).max() > _NEAR_PX else _share(page, side, edge, state)


def _begun(to_page: Homography, certainty: Doubles, scaled: float, spread: float, share: float) -> _State:
    covariance = np.zeros((11, 11))
    covariance[:8, :8] = np.linalg.inv(certainty + 1e-9 * np.eye(8))
    covariance[8:, 8:] = np.diag([_MOVED_PX**2, _MOVED_PX**2, spread**2])
    return _State(to_page, np.array([0, 0, scaled]), covariance, float(np.log(share)))


def _held(page: BlankPage, state: _State, edges: list[PaperEdge], picture: NDArray[np.uint8]) -> _State:
    """Side after side, that first of which most is known."""
    left = list(range(4))
    while left:
        rows = {side: _rows(page, side, state) for side in left}
        side = min(left, key=lambda one: (rows[one] @ state.covariance @ rows[one].T).diagonal().max())
        left.remove(side)
        told = [(_evidence(page, side, edge, state, rows[side]), edge) for edge in edges]
        evidence, edge = max(told, key=lambda one: one[0], default=(0.0, None))
        if edge is not None and evidence > 0:
            _draw(state, page, side, fitted_edge(edge, picture, _REACH_PX))
            state.evidence += evidence
    return state


def _outline(page: BlankPage, side: int, laid: Doubles) -> tuple[Doubles, Doubles]:
    """Two points of a side (0 is the top one, then clockwise) in pixels of the page, and its outward normal."""
    corners = page.corners.astype(np.float64)
    middle = corners.mean(axis=0)
    start, end = corners[side], corners[(side + 1) % 4]
    nominal = np.array([start + share * (end - start) for share in _ENDS])
    normal = np.array([(0, -1), (1, 0), (0, 1), (-1, 0)], np.float64)[side]
    return nominal - laid[:2] - laid[2] * (nominal - middle), normal


def _rows(page: BlankPage, side: int, state: _State) -> Doubles:
    """2 × 11: how far outwards the photograph's edge comes to lie, beside the outline, with the state's numbers."""
    points, normal = _outline(page, side, state.laid)
    middle = page.corners.astype(np.float64).mean(axis=0)
    by_view = np.einsum("nij,i->nj", jacobian(points.astype(np.float32), page), normal)
    by_laid = np.array([(*normal, normal @ (point - middle)) for point in points])
    return np.concatenate([by_view, by_laid], axis=1)


def _away(page: BlankPage, side: int, ends: Doubles, state: _State) -> Doubles | None:
    """How far, outwards, an edge (two points of the photograph) lies inside the side's two points; None where it leans
    too far from it."""
    points, normal = _outline(page, side, state.laid)
    seen = _through(state.to_page, ends)
    along = seen[1] - seen[0]
    way = np.array([-normal[1], normal[0]])
    if abs(along @ normal) > _LEAN * abs(along @ way) or abs(along @ way) < 1:
        return None
    shares = (points - seen[0]) @ way / (along @ way)
    return np.asarray((points - (seen[0] + shares[:, None] * along)) @ normal)


def _evidence(page: BlankPage, side: int, edge: PaperEdge, state: _State, rows: Doubles) -> float:
    """By how much it is likelier, as a logarithm, that an edge is that side than that it is anything; 0 where it
    surely is not."""
    away = _away(page, side, edge.ends, state)
    if away is None:
        return 0.0
    spread = rows @ state.covariance @ rows.T + _EDGE_PX**2 * np.eye(2)
    far = float(away @ np.linalg.solve(spread, away))
    if far > _UNLIKELY**2:
        return 0.0
    share = _share(page, side, edge, state)
    if share == 0:
        return 0.0
    return _WORTH * share - 0.5 * far - 0.5 * float(np.linalg.slogdet(spread / _ANYWHERE_PX**2)[1])


def _share(page: BlankPage, side: int, edge: PaperEdge, state: _State) -> float:
    """How much of a side shows as this edge of paper; 0 where that is little."""
    back = np.linalg.inv(state.to_page)
    points, _ = _outline(page, side, state.laid)
    *span, inside = _through(back, np.array([*points, page.corners.mean(axis=0)]))
    share = edge.share_seen(np.array(span), inside)
    return share if share >= _LEAST_SEEN else 0.0


def _draw(state: _State, page: BlankPage, side: int, ends: Doubles) -> None:
    """A step of the iterated Kalman filter (Bell and Cathey 1993), for the page's pixels move with it."""
    before, drawn = state.covariance, np.zeros(11)
    for _ in range(3):
        away, rows = _away(page, side, ends, state), _rows(page, side, state)
        if away is None:
            return
        gain = before @ rows.T @ np.linalg.inv(rows @ before @ rows.T + _FITTED_PX**2 * np.eye(2))
        step = gain @ (away + rows @ drawn) - drawn
        drawn = drawn + step
        state.to_page = small_homography(step[:8], page) @ state.to_page
        state.laid = state.laid + step[8:]
    state.covariance = before - gain @ rows @ before


def _through(homography: NDArray[Any], points: Doubles) -> Doubles:
    return np.asarray(cv2.perspectiveTransform(points[None].astype(np.float64), homography)[0])
