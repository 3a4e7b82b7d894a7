"""Which page of a printed form a photograph shows, and where every point of that page lies in it.

By the printed content alone: features of the blank page are found again in the photograph and explained by one
homography, which is then settled on the print itself (`settling`). What was written over the print, what is hidden
and what is cut off has no features of the blank page and does not disturb.
"""

from __future__ import annotations

from dataclasses import astuple, dataclass
from functools import cached_property
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from folio_core.page import find_sheet
from folio_core.page.light import evened, paper_light
from folio_core.page.limits import FOUND_CONFIDENCE
from folio_core.page.sheet import paper_edges
from folio_core.page.sheet.paper_edges import PaperEdge

from .bending import Bend, bend_of
from .blank import (
    POINT_PX,
    BlankPage,
    Features,
    Floats,
    Form,
    Homography,
    Image,
    corners_of,
    features_of,
    looked_at,
    shortlist,
)
from .fit import Evidence, Fit, chosen, laid_over
from .settling import certainty_of, certainty_of_sides, settled
from .sheet_sides import foot_away, held_by_sides

KNOWN = 0.5  # less sure, it is a page of no form
_MOST_FEATURES, _CANDIDATES = 2400, 6
_RATIO = 0.86  # of the distances to the nearest and the next sign (Lowe 2004, 7.1, there 0.8)
_LEAST_MATCHES, _CLOSE_PX = 8, 4.0
_FIRST_REACH_PX, _GUIDED_PX = 40.0, 16.0  # 9 and 4 mm: a feature is looked for around where it must be
_SAME_PX = 2.0  # two beginnings that lie no further apart are one
_LIKELY = 0.4  # of the most matches: a page with fewer is not looked at further
_ALIKE = 0.7  # of signs, from which they may be the same feature
_PLAINLY_SEEN, _PLAINLY_AHEAD = 0.9, 0.1  # see `_is_plain`
_SMALLER = 0.94  # "fit to page"; common practice, no source
_MOST_BY_SIDES, _NEARLY_AS_LIKE = 8, 0.6  # of the likeness of the print that fits best
_COARSE = 6  # times smaller, to tell which way up the sheet lies
_MATCH_PX = 4.0  # how far matches may be from where they should


@dataclass(frozen=True, slots=True)
class Registered:
    """``homography``: 3 × 3, pixels of the photograph → points of the page, from its upper left corner. ``bend``: what
    is left beside it on a sheet that does not lie flat."""

    page: int
    homography: Homography
    evidence: Evidence
    bend: Bend | None = None

    def on_page(self, pixels: NDArray[np.float64]) -> NDArray[np.float64]:
        """n × 2 pixels of the photograph → points of the page, as nearly as is known."""
        flat = cv2.perspectiveTransform(pixels[None], self.homography)[0]
        return np.asarray(self.bend.at(flat) if self.bend else flat, np.float64)

    def on_source(self, scale: float) -> Homography:
        """For a source of which one pixel here was ``scale`` pixels."""
        return np.asarray(self.homography @ np.diag([1 / scale, 1 / scale, 1.0]))

    @property
    def is_known(self) -> bool:
        return self.confidence >= KNOWN

    @property
    def confidence(self) -> float:
        return self.evidence.confidence

    def as_document(self) -> dict[str, Any]:
        """Plain data, for keeping; `from_document` reads it."""
        return {
            "page": self.page, "homography": self.homography.tolist(), "evidence": astuple(self.evidence),
            "bend": self.bend and self.bend.as_document(),
        }  # fmt: skip

    @classmethod
    def from_document(cls, kept: dict[str, Any]) -> Registered:
        bend = kept["bend"] and Bend.from_document(kept["bend"])
        return cls(kept["page"], np.array(kept["homography"], float), Evidence(*kept["evidence"]), bend)


@dataclass(frozen=True, slots=True)
class _Matched:
    """``points``: of the blank page's features, those that were found again."""

    page: BlankPage
    to_page: Homography
    points: Floats
    certainty: NDArray[np.float64]


@dataclass(frozen=True)
class _Photo:
    """A photograph, small, and the same evenly lit. ``sides``: as `_sides` finds them."""

    small: NDArray[np.uint8]
    even: Image
    sides: Floats | None

    @cached_property
    def features(self) -> Features:
        return features_of(self.even, _MOST_FEATURES)

    @cached_property
    def edges(self) -> list[PaperEdge]:
        return paper_edges(self.small)


def register(
    pixels: NDArray[np.uint8], form: Form, marked: int | None = None, *, is_sheet: bool = False
) -> Registered | None:
    """``pixels``: the photograph upright or turned, RGB. ``marked``: the page that a printed mark names. ``is_sheet``:
    the picture was cut to the sheet already. None where no page of the form is found in it."""
    if marked is not None:
        form = Form(tuple(page for page in form.pages if page.index == marked) or form.pages)
    small, to_small = looked_at(pixels)
    grey = np.asarray(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY), np.uint8)
    even = evened(grey, paper_light(grey))
    photo = _Photo(small, even, corners_of(small) if is_sheet else _sides(small))
    fits = _by_sides_alone(form, photo)
    plain = bool(fits) and _is_plain(*chosen(_one_a_page(fits)))
    if not plain:
        matches = [
            matched for page in shortlist(form, photo.features, _CANDIDATES) for matched in _matches(page, photo)
        ]
        most = max((len(one.points) for one in matches), default=0)
        fits += [fit for one in matches if len(one.points) >= _LIKELY * most if (fit := _settled(one, photo))]
    if not fits:
        return None
    best, evidence = chosen(_one_a_page(fits))
    to_points = np.diag([1 / POINT_PX, 1 / POINT_PX, 1.0]) @ best.to_page @ to_small
    bend = None
    if evidence.confidence >= KNOWN:
        foot = None if plain else foot_away(best.page, best.to_page, photo.edges, photo.small)
        bend = bend_of(best.page, photo.even, best.to_page, foot)
    if bend is not None:
        nearest, bend = bend.flattened()
        to_points = nearest @ to_points
    return Registered(best.page.index, to_points / to_points[2, 2], evidence, bend)


def _by_sides_alone(form: Form, photo: _Photo) -> list[Fit]:
    """Where the sheet's sides are known, its print lies about where it must, or a little smaller in the middle; no
    feature need be found. Only the pages whose print fits about as well as any are looked at."""
    pages = [page for page in form.pages if not page.is_empty]
    begun = sorted((one for page in pages for one in _turns(page, photo)), key=lambda one: -one[0])
    fits = []
    for likeness, page, to_page in begun[:_MOST_BY_SIDES]:
        if likeness < _NEARLY_AS_LIKE * begun[0][0]:
            break
        certainty = certainty_of_sides(page)
        fit = _settled(_Matched(page, to_page, page.corners[:0], certainty), photo)
        if fit is not None:
            fits.append(fit)
    return fits


def _is_plain(best: Fit, evidence: Evidence) -> bool:
    """So much of the print is where it must be, and of no other page's, that nothing else need be asked."""
    return best.words[0] >= _PLAINLY_SEEN and evidence.ahead >= _PLAINLY_AHEAD


def _one_a_page(fits: list[Fit]) -> list[Fit]:
    """Of each page the better fit."""
    best: dict[int, Fit] = {}
    for fit in fits:
        if fit.page.index not in best or fit.worth > best[fit.page.index].worth:
            best[fit.page.index] = fit
    return list(best.values())


def _sides(small: NDArray[np.uint8]) -> Floats | None:
    """The sheet's corners, clockwise from its upper left as it lies; None where it is not surely found."""
    sheet = find_sheet(small)
    if not sheet.found or sheet.confidence < FOUND_CONFIDENCE or sheet.several:
        return None
    return np.array(sheet.corners, np.float32)


def _matches(page: BlankPage, photo: _Photo) -> list[_Matched]:
    """By what the signs alone say, and by the sheet's own sides; one, where both say the same."""
    if min(len(page.features.signs), len(photo.features.signs)) < _LEAST_MATCHES:
        return []
    likeness = page.features.signs @ photo.features.signs.T
    made: list[_Matched] = []
    for begun, by_sides in (
        (_by_sides(page, photo), True),
        (_by_signs(page, photo, likeness), False),
    ):
        if begun is None or not _is_possible(begun, page, photo.even.shape):
            continue
        matched = _matched(page, photo, likeness, begun, by_sides=by_sides)
        if matched is not None and _is_possible(matched.to_page, page, photo.even.shape):
            made.append(matched)
    if len(made) == 2 and _apart(made[0], made[1], page) < _SAME_PX:
        made.pop()
    return made


def _apart(one: _Matched, other: _Matched, page: BlankPage) -> float:
    """How far, in pixels of the page, its corners lie apart."""
    seen = cv2.perspectiveTransform(page.corners[None].astype(np.float64), np.linalg.inv(one.to_page))
    return float(np.abs(cv2.perspectiveTransform(seen, other.to_page)[0] - page.corners).max())


def _settled(matched: _Matched, photo: _Photo) -> Fit | None:
    page = matched.page
    try:
        to_page = settled(page, photo.even, matched.to_page, matched.certainty)
    except np.linalg.LinAlgError:
        return None  # it was drawn to where no sheet can lie
    if not _is_possible(to_page, page, photo.even.shape):
        return None
    return laid_over(page, photo.small, photo.even, to_page)


def _by_signs(page: BlankPage, photo: _Photo, likeness: Floats) -> Homography | None:
    """By the signs alone, robustly (Barath et al., MAGSAC++, CVPR 2020)."""
    nearest = likeness.argmax(axis=1)
    rows = np.arange(len(nearest))
    best = likeness[rows, nearest]
    others = likeness.copy()
    others[rows, nearest] = -1
    second = others.max(axis=1)
    clear = np.sqrt(np.maximum(0, 2 - 2 * best)) < _RATIO * np.sqrt(np.maximum(1e-9, 2 - 2 * second))
    if clear.sum() < _LEAST_MATCHES:
        return None
    return _pose(photo.features.points[nearest[clear]], page.features.points[clear], page, photo)[0]


def _by_sides(page: BlankPage, photo: _Photo) -> Homography | None:
    return max(_turns(page, photo), key=lambda one: one[0], default=(0, page, None))[2]


def _turns(page: BlankPage, photo: _Photo) -> list[tuple[float, BlankPage, Homography]]:
    """The sheet's corners are the page's, in one of four turns: that in which most of the print is dark; and the same
    for print that is smaller. Each with how well the print fits."""
    if photo.sides is None:
        return []
    height, width = page.grey.shape
    print_ = cv2.resize(page.print_, None, fx=1 / _COARSE, fy=1 / _COARSE, interpolation=cv2.INTER_AREA)
    print_ = cv2.GaussianBlur(print_.astype(np.float32), (0, 0), 1.5)
    print_ -= print_.mean()
    length = max(1.0, float(np.linalg.norm(print_)))
    size, shrink = (print_.shape[1], print_.shape[0]), np.diag([1 / _COARSE, 1 / _COARSE, 1.0])
    made = []
    for scale in (1.0, _SMALLER):
        about = np.array(
            [[1 / scale, 0, (1 - 1 / scale) * width / 2], [0, 1 / scale, (1 - 1 / scale) * height / 2], [0, 0, 1]]
        )
        turns = []
        for turn in range(4):
            to_page = about @ cv2.getPerspectiveTransform(np.roll(photo.sides, -turn, axis=0), page.corners)
            straight = 255 - cv2.warpPerspective(photo.even, shrink @ to_page, size, borderValue=255).astype(np.float32)
            straight = cv2.GaussianBlur(np.minimum(straight, 90), (0, 0), 1.5)
            straight -= straight.mean()
            likeness = float((straight * print_).sum() / (length * max(1.0, float(np.linalg.norm(straight)))))
            turns.append((likeness, page, to_page))
        made.append(max(turns, key=lambda one: one[0]))
    return made


def _matched(
    page: BlankPage, photo: _Photo, likeness: Floats, to_page: Homography, *, by_sides: bool
) -> _Matched | None:
    """Once more, each feature only looked for where it must be: so also what is printed many times alike counts.

    ``by_sides``: how the sheet lies is known; only where on it the print is, and how large, is not.
    """
    blank, points = page.features, page.features.points
    for reach in (_FIRST_REACH_PX, _GUIDED_PX):
        moved = cv2.perspectiveTransform(photo.features.points[None].astype(np.float64), to_page)[0].astype(np.float32)
        squared = (blank.points**2).sum(axis=1)[:, None] + (moved**2).sum(axis=1)[None] - 2 * (blank.points @ moved.T)
        near = np.where(squared <= reach**2, likeness, -1)
        nearest = near.argmax(axis=1)
        good = near[np.arange(len(nearest)), nearest] > _ALIKE
        if good.sum() < _LEAST_MATCHES:
            return None
        there, here = moved[nearest[good]], blank.points[good]
        if by_sides:
            flat, inside = cv2.estimateAffinePartial2D(there, here, ransacReprojThreshold=_CLOSE_PX)
            step = None if flat is None else np.vstack([flat, [0, 0, 1]])
        else:
            step, inside = _pose(there, here, page, photo, to_page)
        if step is None or inside is None or inside.sum() < _LEAST_MATCHES:
            return None
        to_page, points = step @ to_page, here[inside.ravel().astype(bool)]
    certainty = certainty_of(points, _MATCH_PX, page)
    if by_sides:
        certainty = certainty + certainty_of_sides(page)
    else:
        to_page, certainty = held_by_sides(page, to_page, certainty, photo.edges, photo.small)
    return _Matched(page, to_page, points, certainty)


def _pose(
    source: Floats, target: Floats, page: BlankPage, photo: _Photo, before: Homography | None = None
) -> tuple[Homography | None, NDArray[np.bool_] | None]:
    """A homography; where that is none that a sheet can lie by, as points in a narrow strip make it, an affine map.
    ``before``: what the points were mapped by already."""
    before = np.eye(3) if before is None else before
    found, inside = _homography(source, target, _CLOSE_PX)
    if found is not None and _is_possible(found @ before, page, photo.even.shape):
        return found, inside
    flat, inside = cv2.estimateAffine2D(source, target, ransacReprojThreshold=_CLOSE_PX)
    return (None, None) if flat is None else (np.vstack([flat, [0, 0, 1]]), inside.ravel().astype(bool))


def _homography(source: Floats, target: Floats, close_px: float) -> tuple[Homography | None, NDArray[np.bool_] | None]:
    if len(source) < 4:
        return None, None
    found, inside = cv2.findHomography(source, target, cv2.USAC_MAGSAC, close_px, maxIters=4000, confidence=0.9995)
    if found is None or not np.isfinite(found).all():
        return None, None
    kept = inside.ravel().astype(bool)
    return (found, kept) if kept.sum() >= _LEAST_MATCHES else (None, kept)


def _is_possible(to_page: Homography, page: BlankPage, shape: tuple[int, ...]) -> bool:
    """A sheet is seen from its front, as a convex quadrilateral of some size, nowhere behind the camera."""
    try:
        back = np.linalg.inv(to_page)
    except np.linalg.LinAlgError:
        return False
    height, width = page.grey.shape
    corners = np.array([(0, 0, 1), (width, 0, 1), (width, height, 1), (0, height, 1)], np.float64) @ back.T
    if (corners[:, 2] * corners[0, 2] <= 0).any():
        return False
    quad = corners[:, :2] / corners[:, 2:]
    sides = np.roll(quad, -1, axis=0) - quad
    turns = sides[:, 0] * np.roll(sides, -1, axis=0)[:, 1] - sides[:, 1] * np.roll(sides, -1, axis=0)[:, 0]
    if not (turns > 0).all():
        return False
    area, lengths = cv2.contourArea(quad.astype(np.float32)), np.linalg.norm(sides, axis=1)
    return bool(
        area > 0.02 * shape[0] * shape[1] and lengths.max() < 12 * lengths.min() and area < 9 * shape[0] * shape[1]
    )
