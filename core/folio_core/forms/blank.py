"""A printed form as it is before anybody writes on it: what of it a photograph can be told by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.uint8]
Floats = NDArray[np.float32]
Homography = NDArray[np.float64]

LONG_SIDE_PX = 1600  # a photograph as it is looked at
DPI = 110  # of the blank pages; a photograph that fills its picture is looked at about as large
POINT_PX = DPI / 72  # ISO 32000-2, 8.3.2.3: default user space unit
_MOST_FEATURES = 1500
_PIECES, _CELL_PX = 1500, 24
_SHRINK = 0.6
_LINE_PX, _LEAST_WORDS_PX = 40, 300
_INKED = 96  # grey levels below white from which a pixel is print
_PLACE_PX, _LEAST_IN_PLACE_PX, _LEAST_SPREAD = 32, 10, 12.0  # places with words: their size, print, and contrast
_LETTER_PX = 25  # wider than a letter


@dataclass(frozen=True, slots=True)
class Features:
    """``points``: n × 2 pixels; ``signs``: n × 128, of length 1."""

    points: Floats
    signs: Floats


@dataclass(frozen=True, eq=False)
class BlankPage:
    """One page. ``grey``: at `DPI`, 255 is paper. ``width_pt``, ``height_pt``: its size in points."""

    index: int
    width_pt: float
    height_pt: float
    grey: Image

    @property
    def corners(self) -> Floats:
        return corners_of(self.grey)

    @cached_property
    def features(self) -> Features:
        return features_of(self.grey, _MOST_FEATURES)

    @cached_property
    def print_(self) -> Image:
        """255 where something is printed."""
        return np.asarray(np.where(self.grey < 255 - _INKED, 255, 0), np.uint8)

    @cached_property
    def words(self) -> Image:
        """255 where something is printed that is no long straight line; all print where there is nothing else."""
        lines = cv2.max(
            cv2.morphologyEx(self.print_, cv2.MORPH_OPEN, np.ones((1, _LINE_PX), np.uint8)),
            cv2.morphologyEx(self.print_, cv2.MORPH_OPEN, np.ones((_LINE_PX, 1), np.uint8)),
        )
        words = cv2.subtract(self.print_, cv2.dilate(lines, np.ones((3, 3), np.uint8)))
        return np.asarray(words if cv2.countNonZero(words) > _LEAST_WORDS_PX else self.print_, np.uint8)

    @cached_property
    def letters(self) -> Floats:
        return letters_of(self.grey)

    @cached_property
    def word_places(self) -> list[tuple[int, int, int]]:
        """Top, left and size of squares in which words are printed."""
        height, width = self.grey.shape
        squares = [
            (y, x, _PLACE_PX)
            for y in range(0, height - _PLACE_PX + 1, _PLACE_PX)
            for x in range(0, width - _PLACE_PX + 1, _PLACE_PX)
        ]
        return [
            (y, x, size)
            for y, x, size in squares
            if cv2.countNonZero(self.words[y : y + size, x : x + size]) >= _LEAST_IN_PLACE_PX
            and float(self.letters[y : y + size, x : x + size].std()) > _LEAST_SPREAD
        ]

    @cached_property
    def pieces(self) -> tuple[Floats, Floats]:
        """Places on the page's print, spread over it, and across which way each is thin. n × 2 each, pixels."""
        return _pieces_of(self)

    @property
    def is_empty(self) -> bool:
        """There is nothing on it that a photograph could be told by."""
        return len(self.features.points) < 12


@dataclass(frozen=True, slots=True)
class Form:
    pages: tuple[BlankPage, ...]


def blank_page(index: int, pixels: NDArray[np.uint8], size_pt: tuple[float, float]) -> BlankPage:
    """``pixels``: the page drawn at any size, grey or RGB."""
    grey = pixels if pixels.ndim == 2 else cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    size = (max(16, round(size_pt[0] * POINT_PX)), max(16, round(size_pt[1] * POINT_PX)))
    return BlankPage(index, *size_pt, np.asarray(cv2.resize(grey, size, interpolation=cv2.INTER_AREA), np.uint8))


def looked_at(pixels: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], Homography]:
    """A photograph (RGB) as large as it is looked at, and from its own pixels to those."""
    height, width = pixels.shape[:2]
    shrink = min(1.0, LONG_SIDE_PX / max(height, width))
    size = (max(1, round(width * shrink)), max(1, round(height * shrink)))
    small = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
    return small, np.diag([size[0] / width, size[1] / height, 1.0])


def letters_of(grey: Image) -> Floats:
    """What changes along a line: letters, and neither that a line of words is there nor a rule across."""
    soft = soft_of(grey)
    return np.asarray(soft - cv2.blur(soft, (_LETTER_PX, 1)), np.float32)


def soft_of(grey: Image) -> Floats:
    """Print and photograph as they are compared: so soft that a pixel more or less to the side says little."""
    return np.asarray(cv2.GaussianBlur(grey, (0, 0), 1.2), np.float32)


def corners_of(picture: NDArray[np.uint8]) -> Floats:
    """Clockwise from the upper left, 4 × 2 pixels."""
    height, width = picture.shape[:2]
    return np.array([(0, 0), (width, 0), (width, height), (0, height)], np.float32)


def features_of(grey: Image, most: int) -> Features:
    """SIFT (Lowe, IJCV 60, 2004) with the square roots of its signs (Arandjelović and Zisserman, CVPR 2012).

    It is looked for in a smaller picture, which it doubles itself at first.
    """
    grey = np.asarray(cv2.resize(grey, None, fx=_SHRINK, fy=_SHRINK, interpolation=cv2.INTER_AREA), np.uint8)
    finder = cv2.SIFT.create(nfeatures=most, contrastThreshold=0.03)
    found, signs = finder.detectAndCompute(grey, None)
    if signs is None or len(found) == 0:
        return Features(np.zeros((0, 2), np.float32), np.zeros((0, 128), np.float32))
    rooted = np.sqrt(signs / np.maximum(signs.sum(axis=1, keepdims=True), 1e-6))
    points = (np.array([one.pt for one in found], np.float32) + 0.5) / _SHRINK - 0.5
    return Features(points, rooted.astype(np.float32))


def _pieces_of(page: BlankPage) -> tuple[Floats, Floats]:
    dark = cv2.GaussianBlur(255 - page.grey, (0, 0), 1.0).astype(np.float32)
    across, down = cv2.Sobel(dark, cv2.CV_32F, 1, 0), cv2.Sobel(dark, cv2.CV_32F, 0, 1)
    # The structure tensor (Förstner and Gülch 1987): its larger eigenvector lies across a line.
    xx, yy, xy = (cv2.GaussianBlur(one, (0, 0), 1.5) for one in (across * across, down * down, across * down))
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    plain = np.sqrt((xx - yy) ** 2 + 4 * xy**2) / np.maximum(xx + yy, 1e-6)
    ridge = (page.print_ > 0) & (plain > 0.5)
    y, x = np.nonzero(ridge)
    if len(x) == 0:
        return np.zeros((0, 2), np.float32), np.zeros((0, 2), np.float32)
    chance = np.random.default_rng(0)
    cells = (y // _CELL_PX) * 10_000 + x // _CELL_PX
    order = chance.permutation(len(x))
    _, many = np.unique(cells, return_inverse=True)
    share = 1 / np.bincount(many)[many]  # as much weight for an empty region's frame as for a line of words
    picked = order[np.argsort(-share[order] * chance.random(len(x)))[:_PIECES]]
    points = np.stack([x[picked], y[picked]], axis=1).astype(np.float32)
    turned = angle[y[picked], x[picked]]
    return points, np.stack([np.cos(turned), np.sin(turned)], axis=1).astype(np.float32)


def shortlist(form: Form, features: Features, most: int) -> Sequence[BlankPage]:
    """The pages that most of the photograph's features are nearest to; all where there are few."""
    pages = [page for page in form.pages if not page.is_empty]
    if len(pages) <= most or len(features.signs) == 0:
        return pages
    all_signs = np.concatenate([page.features.signs for page in pages])
    owner = np.repeat(np.arange(len(pages)), [len(page.features.signs) for page in pages])
    votes = np.zeros(len(pages))
    for start in range(0, len(features.signs), 500):
        likeness = features.signs[start : start + 500] @ all_signs.T
        nearest = likeness.argmax(axis=1)
        np.add.at(votes, owner[nearest], np.maximum(0, likeness.max(axis=1) - 0.6))
    return [pages[at] for at in votes.argsort()[::-1][:most]]
